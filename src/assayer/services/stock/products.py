"""What became of a product: withdrawn, taking the place of another, derived from one; alike for all its colours."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date
from typing import TYPE_CHECKING

from sqlalchemy import or_, select
from sqlalchemy.orm import Session, joinedload

from assayer.core.errors import EntryError
from assayer.services.stock.materials import material_record
from assayer.services.stock.views import RelatedProduct
from assayer.services.unit import Actor, Workspace, expect_revision, find
from assayer.store.models import Material

if TYPE_CHECKING:
    from assayer.services.stock.requests import ProductEdit

_LINKS = {"succeeds_id": "it cannot take its own place", "base_id": "it cannot be derived from itself"}


def line_of(session: Session, material: Material) -> Sequence[Material]:
    """All colours of a product."""
    own = Material.maker == material.maker, Material.product == material.product
    return session.scalars(select(Material).where(*own).options(joinedload(Material.window)).order_by(Material.colour)).all()


def edit_product(workspace: Workspace, actor: Actor, material_id: str, edit: ProductEdit, revision: int) -> int:
    """Say what became of a product, by one of its colours; returns that colour's new revision.

    Raises
    ------
    EntryError
        If a product would take its own place or be derived from itself, over others too, or was withdrawn before 2000.
    """
    with workspace.write(actor) as unit:
        material = find(unit.session, Material, material_id)
        expect_revision(revision, material.revision, "the material", material_record(material))
        given = edit.model_dump(exclude_unset=True)
        if isinstance(given.get("withdrawn_on"), date):
            if given["withdrawn_on"].year < 2000:
                raise EntryError("withdrawn before the year 2000: check the year", "withdrawn_on")
            given["withdrawn_on"] = given["withdrawn_on"].isoformat()
        for link, refusal in _LINKS.items():
            if given.get(link) is not None and _leads_back(unit.session, material, given[link], link):
                raise EntryError(refusal, link)
        before = {name: getattr(material, name) for name in given}
        for colour in line_of(unit.session, material):
            for name, value in given.items():
                setattr(colour, name, value)
            colour.revision += 1
        unit.log("material", material.id, "product edited", before, given)
        return material.revision


def _leads_back(session: Session, material: Material, towards: str, link: str) -> bool:
    """Whether following a link from `towards` ever comes to the product itself."""
    seen: set[str] = set()
    at: str | None = towards
    while at is not None and at not in seen:
        seen.add(at)
        reached = find(session, Material, at)
        if (reached.maker, reached.product) == (material.maker, material.product):
            return True
        at = getattr(reached, link)
    return False


def related_of(session: Session, material: Material) -> list[RelatedProduct]:
    """The products that a product has to do with, each once, whichever colour names it."""
    line = [m.id for m in line_of(session, material)]
    found: list[tuple[str, Material]] = []
    for how, key in (("succeeds", material.succeeds_id), ("derived from", material.base_id)):
        if key is not None:
            found.append((how, find(session, Material, key)))
    others = select(Material).where(or_(Material.succeeds_id.in_(line), Material.base_id.in_(line))).order_by(Material.maker, Material.product, Material.colour)
    for other in session.scalars(others):
        if other.succeeds_id in line:
            found.append(("succeeded by", other))
        if other.base_id in line:
            found.append(("base of", other))
    once = {(how, m.maker, m.product): m.id for how, m in reversed(found)}
    return [RelatedProduct.model_validate({"id": key, "maker": maker, "product": product, "how": how}) for (how, maker, product), key in reversed(once.items())]
