"""A plate as a file: solids at their places, a drawing to scale; all plates of a study with a list."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Sequence
from functools import lru_cache
from typing import Literal

from sqlalchemy import select
from sqlalchemy.orm import Session

from assayer.core.errors import MissingError
from assayer.core.shapes.base import Shape
from assayer.core.shapes.printed import FLAT, printed, shadow, takes_code
from assayer.core.shapes.solids import Solid, beside, turned
from assayer.formats.solids.mesh_file import MEDIA, write_solid
from assayer.formats.solids.model_3mf import Placed, write_3mf
from assayer.formats.solids.plate_svg import Lying, plate_svg
from assayer.formats.tables.table import write_table
from assayer.services.parts.shapes import shape_of
from assayer.services.printing.plate_views import plate_list
from assayer.services.printing.views import PlateView
from assayer.services.studies.evidence import arms_of
from assayer.services.unit import Workspace, find
from assayer.store.models import Arm, Plate, PlatePlace, Study, Test

PlateKind = Literal["3mf", "stl", "svg"]
MEDIA_OF: dict[str, str] = {**MEDIA, "svg": "image/svg+xml"}

_HEAD = ("plate", "file", "arm", "maker", "product", "colour", "treatment", "batch of the arm", "sheet", "printer", "spool", "specimens", "mass g", "minutes")


def plate_file(workspace: Workspace, plate_id: str, kind: PlateKind) -> tuple[bytes, int]:
    """One plate as a file, and its number."""
    with workspace.read() as session:
        plate = find(session, Plate, plate_id)
        number, places = plate.number, _places(session, plate)
        if kind == "svg":
            lying = [_lying(place, test) for place, test in places]
            return plate_svg(plate.bed["width"], plate.bed["depth"], plate.bed["keep_out"], lying).encode(), number
        pieces = _pieces(places)
    if kind == "3mf":
        return write_3mf(pieces), number
    return write_solid(beside([(p.solid, p.x, p.y) for p in pieces]), "stl", ""), number


def plates_file(workspace: Workspace, study_id: str) -> bytes:
    """All plates of a study that are not printed: each different one as 3MF, and a list of which is for what.

    Raises
    ------
    MissingError
        If no plate waits.
    """
    with workspace.read() as session:
        study = find(session, Study, study_id)
        listed = plate_list(session, study, workspace.clock())
        waiting = [p for p in listed.plates if p.batch_id is None]
        if not waiting:
            raise MissingError("no plate of this study waits to be printed: lay them out first")
        arms = {a.id: a for a in arms_of(session, study_id)}
        counts = {own.key: len(own.pieces) for own in listed.layouts}
        different = {p.layout: p for p in reversed(waiting)}
        files = {key: f"plate-{n:02}.3mf" for n, key in enumerate(dict.fromkeys(p.layout for p in waiting), 1)}
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as package:
            for key, name in files.items():
                package.writestr(zipfile.ZipInfo(name), write_3mf(_pieces(_places(session, find(session, Plate, different[key].id)))))
            rows = [_row(p, arms[p.arm_id], files[p.layout], counts[p.layout]) for p in waiting]
            package.writestr(zipfile.ZipInfo("plates.csv"), write_table(_HEAD, rows), zipfile.ZIP_DEFLATED)
    return out.getvalue()


def _row(p: PlateView, arm: Arm, file: str, count: int) -> list[str]:
    m = arm.variant.material
    what = [str(p.number), file, arm.mark, m.maker, m.product, m.colour, arm.variant.treatment, str(p.part), p.sheet, p.printer]
    return [*what, p.spool.code if p.spool else "", str(count), "" if p.mass is None else f"{p.mass:.1f}", f"{p.minutes:.0f}"]


def _places(session: Session, plate: Plate) -> list[tuple[PlatePlace, Test]]:
    rows = select(PlatePlace, Test).join(Test, Test.id == PlatePlace.test_id).where(PlatePlace.plate_id == plate.id).order_by(PlatePlace.position)
    return [(place, test) for place, test in session.execute(rows)]


def _lying(place: PlatePlace, test: Test) -> Lying:
    shape = shape_of(test)
    return Lying(shadow(shape, test.orientation), str(place.position), place.x, place.y, place.turned)


def _pieces(places: Sequence[tuple[PlatePlace, Test]]) -> list[Placed]:
    """Each with its place on the plate sunk into it, where that does not weaken it: one file serves all materials."""
    found = []
    for place, test in places:
        shape = shape_of(test)
        numbered = shape.number_place is not None and test.orientation == FLAT
        code = place.code if place.code and takes_code(shape) and test.orientation == FLAT else ""
        solid = _solid(shape, test.orientation, place.position if numbered else None, code, place.turned)
        found.append(Placed(f"{place.position}: {shape.label}, {test.orientation}", solid, place.x, place.y))
    return found


@lru_cache(maxsize=512)
def _solid(shape: Shape, orientation: str, number: int | None, code: str, is_turned: bool) -> Solid:
    solid, _ = printed(shape, orientation, number, code)
    return turned(solid) if is_turned else solid
