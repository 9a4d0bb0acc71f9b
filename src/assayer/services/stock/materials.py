"""Materials: added, edited, listed; the maker's window and claims."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict, fields
from typing import TYPE_CHECKING

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from assayer.core.errors import ConflictError, EntryError
from assayer.core.filament.claims import Contradiction, Statement, contradictions, read_statement
from assayer.core.filament.window import PLAUSIBLE, Window, check_window
from assayer.core.quantities.slips import Question, ask, question_number
from assayer.formats.tables.stock_tables import PLAUSIBLE_MATERIAL
from assayer.services.stock.views import ClaimView, MaterialPage, MaterialRecord, MaterialView, WindowView
from assayer.services.unit import Actor, Unit, Workspace, expect_revision, find
from assayer.store.models import Claim, MakerWindow, Material, ReportedResult

if TYPE_CHECKING:
    from assayer.services.stock.requests import ClaimLink, MaterialEdit, NewClaim, NewMaterial, WindowIn

WINDOW_NAMES = tuple(f.name for f in fields(Window))


def material_view(m: Material) -> MaterialView:
    """What a swatch and a name need."""
    return MaterialView.model_validate(m)


def material_record(m: Material) -> MaterialRecord:
    """Everything registered about a material itself."""
    return MaterialRecord.model_validate(m)


def window_view(m: Material) -> WindowView:
    """The maker's window as it is shown."""
    return WindowView.model_validate(window_of(m))


def window_of(m: Material) -> Window:
    """The maker's window; an empty one where nothing was entered."""
    if m.window is None:
        return Window()
    return Window(**{name: getattr(m.window, name) for name in WINDOW_NAMES})


def list_materials(workspace: Workspace, limit: int, offset: int) -> MaterialPage:
    """Materials in order of maker, product, colour; a page of them."""
    with workspace.read() as session:
        total = session.scalar(select(func.count()).select_from(Material)) or 0
        page = session.scalars(select(Material).order_by(Material.maker, Material.product, Material.colour).limit(limit).offset(offset))
        return MaterialPage(items=[material_view(m) for m in page], total=total, limit=limit, offset=offset)


def add_material(workspace: Workspace, actor: Actor, new: NewMaterial) -> tuple[MaterialRecord, bool]:
    """Add a material; the same id and content again changes nothing (second value False)."""
    with workspace.write(actor, (new.id, new)) as unit:
        there = unit.session.get(Material, new.id)
        if there is not None:
            wanted = new.model_dump(exclude={"window", "confirmed"})
            unit.refuse_other("material", material_view(there), alike=all(getattr(there, k) == v for k, v in wanted.items()))
            return material_record(there), False
        material = insert_material(unit, new)
        count_doubts(unit, material.maker, material.product)
        return material_record(material), True


def insert_material(unit: Unit, new: NewMaterial) -> Material:
    """Add a material within a transaction; what is refused leaves nothing behind in it.

    Raises
    ------
    ConflictError
        If the colour of this product is there already.
    QuestionError
        If a value is hardly meant as it stands, and not confirmed.
    """
    if new.filler_share is not None and not new.filler:
        raise EntryError("a share needs the kind of filler", "filler")
    ask([*_questions(new), *(_window_questions(new.window) if new.window else ())], new.confirmed)
    if new.window is not None:
        check_window(Window(**new.window.model_dump()))
    twin = find_material(unit.session, new.maker, new.product, new.colour)
    if twin is not None:
        raise ConflictError(f"{new.maker} {new.product} in {new.colour} is already there", material_view(twin))
    values = new.model_dump(exclude={"window", "confirmed"}) | {"filler": new.filler or None}
    material = Material(**values, mark=propose_mark(new.maker, new.colour), created_at=unit.now)
    material.window = MakerWindow(**new.window.model_dump()) if new.window is not None else None
    _join_line(unit.session, material)
    unit.session.add(material)
    unit.session.flush()
    unit.log("material", material.id, "added", after=material_record(material).model_dump(mode="json"))
    return material


def _join_line(session: Session, material: Material) -> None:
    """What became of the product holds for a colour that joins it."""
    with session.no_autoflush:
        sibling = session.scalar(
            select(Material).where(Material.maker == material.maker, Material.product == material.product, Material.id != material.id).limit(1)
        )
    material.withdrawn_on, material.succeeds_id, material.base_id = (
        (sibling.withdrawn_on, sibling.succeeds_id, sibling.base_id) if sibling else (None, None, None)
    )


def find_material(session: Session, maker: str, product: str, colour: str) -> Material | None:
    """The colour of a product, whatever the case of its letters."""
    same = [column.collate("NOCASE") == value for column, value in ((Material.maker, maker), (Material.product, product), (Material.colour, colour))]
    return session.scalar(select(Material).where(*same))


def edit_material(workspace: Workspace, actor: Actor, material_id: str, edit: MaterialEdit, revision: int) -> int:
    """Change what is given of a material and its window; returns the new revision."""
    with workspace.write(actor) as unit:
        material = find(unit.session, Material, material_id)
        expect_revision(revision, material.revision, "the material", material_record(material))
        given = edit.model_dump(exclude_unset=True, exclude={"confirmed", "window"})
        if "filler" in given:
            given["filler"] = given["filler"] or None
            if given["filler"] is None:
                given["filler_share"] = None
        before = {k: getattr(material, k) for k in given}
        for needed in ("maker", "product", "colour", "polymer", "hex", "mark", "diameter"):
            if needed in given and given[needed] is None:
                raise EntryError("it cannot be left empty", needed)
        for name, value in given.items():
            setattr(material, name, ("" if name in ("currency", "obtained", "note") else None) if value is None else value)
        if material.filler_share is not None and material.filler is None:
            raise EntryError("a share needs the kind of filler", "filler")
        ask([*_questions(edit), *(_window_questions(edit.window) if edit.window else ())], edit.confirmed)
        if {"maker", "product", "colour"} & given.keys():
            _refuse_twin(unit, material)
        if {"maker", "product"} & given.keys() and (before.get("maker", material.maker), before.get("product", material.product)) != (
            material.maker,
            material.product,
        ):
            _join_line(unit.session, material)
        if edit.window is not None:
            write_window(unit, material, edit.window)
        material.revision += 1
        count_doubts(unit, material.maker, material.product)
        unit.log("material", material.id, "edited", before, given)
        return material.revision


def _refuse_twin(unit: Unit, material: Material) -> None:
    with unit.session.no_autoflush:
        twin = find_material(unit.session, material.maker, material.product, material.colour)
    if twin is not None and twin.id != material.id:
        raise ConflictError(f"{material.maker} {material.product} in {material.colour} is already there", material_view(twin))


def write_window(unit: Unit, material: Material, new: WindowIn) -> None:
    """The maker's window anew.

    Raises
    ------
    EntryError
        If no maker can mean it.
    """
    values = new.model_dump()
    check_window(Window(**values))
    if material.window is None:
        material.window = MakerWindow(**values)
        return
    before = {name: getattr(material.window, name) for name in values}
    for name, value in values.items():
        setattr(material.window, name, value)
    if before != values:
        unit.log("maker's window", material.id, "edited", before, values)


def _questions(new: NewMaterial | MaterialEdit) -> list[Question | None]:
    return [question_number(name, getattr(new, name), *limits) for name, limits in PLAUSIBLE_MATERIAL.items() if getattr(new, name) is not None]


def _window_questions(window: WindowIn) -> list[Question | None]:
    return [question_number(name, getattr(window, name), *limits) for name, limits in PLAUSIBLE.items() if getattr(window, name) is not None]


def statement(c: Claim) -> Statement:
    return Statement(c.text, c.quantity, c.relation, c.value, c.unit, c.reference, c.method)


def doubts_of(m: Material, said: Sequence[Statement]) -> list[Contradiction]:
    """Where the maker contradicts itself: in the material's window and among what is said of the whole line."""
    return contradictions(window_of(m), m.density, said)


def count_doubts(unit: Unit, maker: str, product: str) -> None:
    """Count the contradictions of every colour of a line anew; in the transaction that may have changed them."""
    unit.session.flush()
    line = unit.session.scalars(select(Material).where(Material.maker == maker, Material.product == product)).all()
    claims = unit.session.scalars(select(Claim).where(Claim.material_id.in_([m.id for m in line]), Claim.retracted_at.is_(None))).all()
    said = [statement(c) for c in claims]
    for m in line:
        m.doubts = len(doubts_of(m, said)) if said else 0


def claim_view(c: Claim) -> ClaimView:
    return ClaimView.model_validate(c)


def add_claim(workspace: Workspace, actor: Actor, material_id: str, new: NewClaim) -> tuple[ClaimView, bool]:
    """Keep a statement of the maker, tied to a quantity where its words allow."""
    with workspace.write(actor, (new.id, new)) as unit:
        material = find(unit.session, Material, material_id)
        there = unit.session.get(Claim, new.id)
        if there is not None:
            unit.refuse_other("claim", claim_view(there), same=there.material_id == material_id and there.text == new.text)
            return claim_view(there), False
        claim = insert_claim(unit, material_id, new.id, new.text, new.source, new.method)
        count_doubts(unit, material.maker, material.product)
        return claim_view(claim), True


def insert_claim(unit: Unit, material_id: str, claim_id: str, text: str, source: str, method: str) -> Claim:
    """Keep a statement within a transaction."""
    said = asdict(read_statement(text))
    values = said | {"method": method or said["method"], "reference": said["reference"][:120], "unit": said["unit"][:12]}
    claim = Claim(id=claim_id, material_id=material_id, source=source, entered_at=unit.now, entered_by=unit.actor.who, **values)
    unit.session.add(claim)
    unit.log("claim", claim.id, "added", after={"material_id": material_id, "text": text})
    return claim


def link_claim(workspace: Workspace, actor: Actor, claim_id: str, link: ClaimLink) -> str:
    """Tie a claim to the quantity that a person says it is about, and read its value as one of that; returns its material.

    Raises
    ------
    EntryError
        If claims are not about such a quantity.
    """
    with workspace.write(actor) as unit:
        claim = find(unit.session, Claim, claim_id)
        said = read_statement(claim.text, link.quantity or "")
        before = {"quantity": claim.quantity, "value": claim.value}
        claim.quantity, claim.relation, claim.value = said.quantity, said.relation, said.value
        claim.unit, claim.reference = said.unit[:12], said.reference[:120]
        material = find(unit.session, Material, claim.material_id)
        unit.session.flush()
        count_doubts(unit, material.maker, material.product)
        unit.log("claim", claim_id, "linked", before, {"quantity": claim.quantity, "value": claim.value})
        return claim.material_id


def retract(workspace: Workspace, actor: Actor, kind: type[Claim] | type[ReportedResult], key: str, back: bool) -> str:
    """Take a claim or a reported result out, or (with `back`) in again; returns its material."""
    with workspace.write(actor) as unit:
        found = find(unit.session, kind, key)
        found.retracted_at = None if back else unit.now
        material = find(unit.session, Material, found.material_id)
        count_doubts(unit, material.maker, material.product)
        unit.log(kind.__name__.lower(), key, "brought back" if back else "retracted")
        return found.material_id


def propose_mark(maker: str, colour: str) -> str:
    """Two letters: of the maker and of the colour."""
    first = next((c for c in maker if c.isalnum()), "X").upper()
    second = next((c for c in colour if c.isalnum()), "x").lower()
    return first + second


def free_mark(wanted: str, taken: set[str], maker: str, product: str) -> str:
    """`wanted`, or a mark near it that is not taken within the study."""
    letters = [c.lower() for c in product + maker if c.isalnum()]
    near = (wanted, *(wanted[0] + c for c in letters), *(wanted[0] + d for d in "23456789"))
    for mark in (*near, *(a + b for a in "XYZABCDEFGHJKLMNPQRSTUVW" for b in "0123456789")):
        if mark not in taken:
            return mark
    raise EntryError("no free two-letter mark is left in this study", "arms")
