"""Materials as simple records; Stock will grow from here."""

from __future__ import annotations

from typing import Any

from sqlalchemy import func, select

from assayer.core.errors import ConflictError, EntryError
from assayer.services.commands import NewMaterial
from assayer.services.workspace import Actor, Workspace
from assayer.store.models import Material


def material_dict(m: Material) -> dict[str, Any]:
    return {
        "id": m.id,
        "maker": m.maker,
        "product": m.product,
        "polymer": m.polymer,
        "filler": m.filler,
        "filler_share": m.filler_share,
        "colour": m.colour,
        "hex": m.hex,
        "mark": m.mark,
    }


def list_materials(workspace: Workspace, limit: int, offset: int) -> dict[str, Any]:
    """Materials in order of maker, product, colour; a page of them."""
    with workspace.read() as session:
        total = session.scalar(select(func.count()).select_from(Material)) or 0
        page = session.scalars(select(Material).order_by(Material.maker, Material.product, Material.colour).limit(limit).offset(offset))
        return {"items": [material_dict(m) for m in page], "total": total, "limit": limit, "offset": offset}


def add_material(workspace: Workspace, actor: Actor, new: NewMaterial) -> tuple[dict[str, Any], bool]:
    """Add a material; the same id and content again changes nothing (second value False)."""
    if new.filler_share is not None and not new.filler:
        raise EntryError("a share needs the kind of filler", "filler")
    with workspace.write(actor) as unit:
        there = unit.session.get(Material, new.id)
        wanted = new.model_dump()
        if there is not None:
            if any(getattr(there, k) != v for k, v in wanted.items()):
                raise ConflictError("another material already has this id", material_dict(there))
            return material_dict(there), False
        twin = unit.session.scalar(select(Material).where(Material.maker == new.maker, Material.product == new.product, Material.colour == new.colour))
        if twin is not None:
            raise ConflictError(f"{new.maker} {new.product} in {new.colour} is already there", material_dict(twin))
        material = Material(**wanted, mark=propose_mark(new.maker, new.colour), created_at=unit.now)
        unit.session.add(material)
        unit.log("material", material.id, "added", after=material_dict(material))
        return material_dict(material), True


def propose_mark(maker: str, colour: str) -> str:
    """Two letters: of the maker and of the colour."""
    first = next((c for c in maker if c.isalnum()), "X").upper()
    second = next((c for c in colour if c.isalnum()), "x").lower()
    return first + second


def free_mark(wanted: str, taken: set[str], maker: str, product: str) -> str:
    """`wanted`, or a mark near it that is not taken within the study."""
    letters = [c.lower() for c in product + maker if c.isalnum()]
    for mark in (wanted, *(wanted[0] + c for c in letters), *(wanted[0] + d for d in "23456789"), *(a + b for a in "XYZ" for b in "0123456789")):
        if mark not in taken:
            return mark
    raise EntryError("no free two-letter mark is left in this study", "arms")
