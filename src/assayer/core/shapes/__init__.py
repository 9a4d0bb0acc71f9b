"""Specimen shapes, one file a family; they know nothing of the methods that use them."""

from __future__ import annotations

from assayer.core.errors import EntryError
from assayer.core.shapes.bars import BAR, HARDNESS_BLOCK, HEAT_BAR, IMMERSION_COUPON, NOTCHED_BAR, SHEAR_BAR, WARP_RAIL
from assayer.core.shapes.base import Shape
from assayer.core.shapes.frames import BRACKET, CREEP_FRAME, WARP_FRAME
from assayer.core.shapes.gauges import CHECK_PIECE, DIMENSION_GAUGE, DIMENSION_GAUGE_ACROSS
from assayer.core.shapes.pull_bars import PULL_BARS
from assayer.core.shapes.rods import TORSION_ROD

_PLAIN: tuple[Shape, ...] = (BAR, NOTCHED_BAR, SHEAR_BAR, TORSION_ROD, CREEP_FRAME, HEAT_BAR, WARP_RAIL, WARP_FRAME)
_OTHERS: tuple[Shape, ...] = (DIMENSION_GAUGE, DIMENSION_GAUGE_ACROSS, IMMERSION_COUPON, HARDNESS_BLOCK, BRACKET, CHECK_PIECE)
SHAPES: dict[str, Shape] = {s.name: s for s in (*PULL_BARS, *_PLAIN, *_OTHERS)}


def shape(name: str) -> Shape:
    """The shape called `name`.

    Raises
    ------
    EntryError
        If there is none; the message lists those there are.
    """
    found = SHAPES.get(name)
    if found is None:
        raise EntryError(f"there is no shape '{name}': choose one of {', '.join(SHAPES)}", "shape")
    return found
