"""Specimen shapes, one file a family; they know nothing of the methods that use them."""

from __future__ import annotations

from assayer.core.errors import EntryError
from assayer.core.shapes.bars import BAR, HARDNESS_BLOCK, SHEAR_BAR
from assayer.core.shapes.base import Shape
from assayer.core.shapes.frames import CREEP_FRAME
from assayer.core.shapes.pull_bars import PULL_BARS

SHAPES: dict[str, Shape] = {s.name: s for s in (*PULL_BARS, BAR, SHEAR_BAR, CREEP_FRAME, HARDNESS_BLOCK)}


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
