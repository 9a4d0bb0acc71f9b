"""Parts of one's own: taken in from a file, drawn, marked with places, given out as they stand on the bed."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import PurePath
from typing import TYPE_CHECKING, Literal

import numpy as np
from numpy.typing import NDArray
from sqlalchemy import func, select
from sqlalchemy.orm import Session, selectinload

from assayer.core.errors import ConflictError
from assayer.core.shapes.own import OwnPart, own_part
from assayer.core.shapes.printed import ORIENTATIONS, printed, stand, views
from assayer.formats.solids.drawing_svg import Mark, part_svg
from assayer.formats.solids.mesh_file import write_solid
from assayer.formats.solids.read_solid import read_solid
from assayer.services.parts.shapes import packed, part_shape
from assayer.services.parts.views import PartList, PartView
from assayer.services.unit import Actor, Workspace, expect_revision, find
from assayer.store.models import Part, PartPlace, Test

if TYPE_CHECKING:
    from assayer.services.parts.requests import DrawnIn, PartEdit, PlaceIn

FileKind = Literal["stl", "3mf", "svg"]


def add_part(
    workspace: Workspace, actor: Actor, part_id: str, file_name: str, data: bytes, name: str = "", unit: DrawnIn | None = None
) -> tuple[PartView, bool]:
    """Take in a part; the same id again changes nothing (second value False).

    Raises
    ------
    FileError, EntryError
        If the file cannot be read, or its surface is not that of a part.
    ConflictError
        If another part has this id.
    """
    read = read_solid(data, file_name)
    called = name or PurePath(file_name).stem.replace("_", " ")[:80] or "part"
    drawn_in = unit or read.unit or "mm"
    shape = own_part(part_id, called, read.corners, read.triangles, drawn_in)
    seen, standings = _outlines(shape), _standings(shape)
    digest, solid = workspace.files.put(data), packed(shape.solid)
    with workspace.write(actor) as work:
        there = work.session.get(Part, part_id)
        if there is not None:
            if (there.sha256, there.unit) != (digest, drawn_in):
                raise ConflictError("another part already has this id", _view(work.session, there))
            return _view(work.session, there), False
        size = shape.dimensions
        part = Part(
            id=part_id, name=called, file_name=file_name[:200], sha256=digest, unit=drawn_in, objects=read.objects, length=size["length"],
            width=size["width"], height=size["height"], volume=shape.volume, triangles=len(shape.solid.triangles), views=seen, standings=standings,
            solid=solid, added_at=work.now, zone=actor.zone, who=actor.who,
        )  # fmt: skip
        work.session.add(part)
        work.session.flush()
        work.log("part", part_id, "taken in", after={"name": called, "file": file_name, "unit": drawn_in})
        return _view(work.session, part), True


def list_parts(workspace: Workspace) -> PartList:
    """All parts that stand, by name."""
    with workspace.read() as session:
        standing = select(Part).where(Part.retracted_at.is_(None)).options(selectinload(Part.places))
        parts = session.scalars(standing.order_by(func.lower(Part.name), Part.id)).all()
        used = _used(session, [p.id for p in parts])
        return PartList(items=[_view(session, p, used.get(p.id, 0)) for p in parts])


def get_part(workspace: Workspace, part_id: str) -> PartView:
    with workspace.read() as session:
        return _view(session, find(session, Part, part_id))


def edit_part(workspace: Workspace, actor: Actor, part_id: str, edit: PartEdit, revision: int) -> PartView:
    """Rename a part, note something, or say anew where it is graded, measured and loaded."""
    with workspace.write(actor) as work:
        part = find(work.session, Part, part_id)
        expect_revision(revision, part.revision, "the part", _view(work.session, part))
        before: dict[str, object] = {}
        after: dict[str, object] = {}
        for name in ("name", "note"):
            value = getattr(edit, name)
            if value is not None and value != getattr(part, name):
                before[name], after[name] = getattr(part, name), value
                setattr(part, name, value)
        if edit.places is not None:
            before["places"] = [_words(p) for p in part.places]
            _place(work.session, part, edit.places)
            after["places"] = [_words(p) for p in part.places]
        part.revision += 1
        work.log("part", part.id, "edited", before, after)
        work.session.flush()
        return _view(work.session, part)


def _place(session: Session, part: Part, told: Sequence[PlaceIn]) -> None:
    if len({p.id for p in told}) < len(told):
        raise ConflictError("two places have the same id")
    there = {p.id: p for p in part.places}
    for gone in set(there) - {p.id for p in told}:
        session.delete(there[gone])
    kept = []
    for position, one in enumerate(told):
        place = there.get(one.id)
        if place is None:
            if session.get(PartPlace, one.id) is not None:
                raise ConflictError("a place of another part has this id")
            place = PartPlace(id=one.id, part_id=part.id)
        place.position, place.kind, place.label, place.view = position, one.kind, one.label, one.view
        place.u, place.v, place.nominal = one.u, one.v, one.nominal if one.kind == "measure" else None
        kept.append(place)
    session.add_all(kept)
    session.flush()
    session.expire(part, ["places"])


def _words(place: PartPlace) -> str:
    size = f" {place.nominal:g} mm" if place.nominal is not None else ""
    return f"{place.kind} {place.label}{size} ({place.view} {place.u:.1f}, {place.v:.1f})"


def retract_part(workspace: Workspace, actor: Actor, part_id: str, back: bool) -> PartView:
    """Take a part out of the list, or (with `back`) in again; studies that have it keep it."""
    with workspace.write(actor) as work:
        part = find(work.session, Part, part_id)
        part.retracted_at = None if back else work.now
        part.revision += 1
        work.log("part", part.id, "brought back" if back else "retracted", after={"name": part.name})
        return _view(work.session, part)


def part_file(workspace: Workspace, part_id: str, kind: FileKind, orientation: str) -> tuple[bytes, str]:
    """The part as it stands on the bed, or its drawing with its places; and its name.

    Raises
    ------
    EntryError
        If it cannot stand so.
    """
    with workspace.read() as session:
        part = find(session, Part, part_id)
        shape = part_shape(session, part_id)
        seen = {view: [np.array(loop) for loop in loops] for view, loops in part.views.items()}
        marks = [Mark(p.view, p.u, p.v, p.label if p.nominal is None else f"{p.label} {p.nominal:g}") for p in part.places]
    if kind == "svg":
        return part_svg(shape.label, seen, marks).encode(), shape.label
    return write_solid(printed(shape, orientation)[0], kind, f"{shape.label}, {orientation}"), shape.label


def _outlines(shape: OwnPart) -> Mapping[str, list[list[tuple[float, float]]]]:
    return {view: [_rounded(loop) for loop in loops] for view, loops in views(shape).items()}


def _rounded(loop: NDArray[np.float64]) -> list[tuple[float, float]]:
    return [(round(float(u), 3), round(float(v), 3)) for u, v in loop]


def _standings(shape: OwnPart) -> list[dict[str, object]]:
    found = []
    for orientation in ORIENTATIONS:
        s = stand(shape, orientation)
        found.append(
            {"orientation": orientation, "width": s.width, "depth": s.depth, "height": s.height, "brim": s.brim, "supports": s.supports, "stands": s.stands}
        )
    return found


def _used(session: Session, ids: Sequence[str]) -> dict[str, int]:
    rows = session.execute(select(Test.shape, func.count()).where(Test.shape.in_(ids)).group_by(Test.shape))
    return {name: count for name, count in rows}


def _view(session: Session, part: Part, tests: int | None = None) -> PartView:
    own = {name: getattr(part, name) for name in PartView.model_fields if name not in ("tests", "retracted", "places")}
    used = _used(session, [part.id]).get(part.id, 0) if tests is None else tests
    return PartView.model_validate(own | {"places": list(part.places), "retracted": part.retracted_at is not None, "tests": used}, from_attributes=True)
