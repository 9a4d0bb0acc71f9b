"""Shapes as they are printed: what there is, how each can stand, and its solid as a file."""

from __future__ import annotations

from collections.abc import Mapping
from functools import lru_cache
from typing import Literal

from assayer.core.errors import EntryError, MissingError
from assayer.core.shapes import SHAPES
from assayer.core.shapes.base import Shape
from assayer.core.shapes.printed import ORIENTATIONS, outlines, printed, stand
from assayer.formats.solids.drawing_svg import drawing_svg
from assayer.formats.solids.mesh_file import MEDIA, write_solid
from assayer.services.printing.views import ShapeList, ShapeSheet
from assayer.services.views import StandingView

FileKind = Literal["stl", "3mf", "svg"]
MEDIA_OF: dict[str, str] = {**MEDIA, "svg": "image/svg+xml"}


@lru_cache(maxsize=1)
def list_shapes() -> ShapeList:
    """All shapes, as they are delivered; made once, since they do not change."""
    return ShapeList(items=[_sheet(s) for s in SHAPES.values()])


def shape_sheet(name: str, sizes: Mapping[str, float]) -> ShapeSheet:
    """One shape, in other sizes where they are given."""
    return _sheet(_known(name).resized(sizes))


def shape_file(name: str, orientation: str, kind: FileKind, sizes: Mapping[str, float], number: int | None = None) -> bytes:
    """The solid as it stands on the bed, or its dimensioned drawing.

    Raises
    ------
    MissingError
        If there is no such shape.
    EntryError
        If it has no such length, or cannot stand so.
    """
    made = _known(name).resized(sizes)
    if kind == "svg":
        return drawing_svg(made).encode()
    solid, _ = printed(made, orientation, number)
    return write_solid(solid, kind, f"{made.label}, {orientation}" + (f", {number}" if number is not None else ""))


def _known(name: str) -> Shape:
    if name not in SHAPES:
        raise MissingError(f"there is no shape '{name}': choose one of {', '.join(SHAPES)}")
    return SHAPES[name]


def sizes_told(words: list[str]) -> dict[str, float]:
    """Lengths told as name=value.

    Raises
    ------
    EntryError
        If a word is not of that form.
    """
    told: dict[str, float] = {}
    for word in words:
        name, _, value = word.partition("=")
        try:
            told[name.strip().replace(" ", "_")] = float(value.replace(",", "."))
        except ValueError:
            raise EntryError(f"'{word}' is not a length: say it as width=6, in mm", "size") from None
    return told


def _sheet(made: Shape) -> ShapeSheet:
    top, side = outlines(made)
    return ShapeSheet(
        name=made.name,
        label=made.label,
        family=made.family,
        dimensions=made.dimensions,
        volume=made.volume,
        numbered=made.number_place is not None,
        standings=[_standing(made, o) for o in ORIENTATIONS],
        top=[[(round(float(x), 3), round(float(y), 3)) for x, y in loop] for loop in top],
        side=[[(round(float(x), 3), round(float(y), 3)) for x, y in loop] for loop in side],
    )


def _standing(made: Shape, orientation: str) -> StandingView:
    s = stand(made, orientation)
    return StandingView(orientation=orientation, width=s.width, depth=s.depth, height=s.height, brim=s.brim, supports=s.supports, stands=s.stands)
