"""Frames that hang under a load (METHODS 14)."""

from __future__ import annotations

import math
from dataclasses import dataclass

from assayer.core.shapes.base import Shape


@dataclass(frozen=True, slots=True)
class CreepFrame(Shape):
    """An open C that hangs by two pins, with two faces to read the gap between; lengths in mm.

    `width` and `thickness` are those of its limbs, `opening` the clear height between them, `reach` how
    far the limbs stand out from the back, `faces` the distance of the gauge faces as printed.
    """

    width: float
    thickness: float
    opening: float
    reach: float
    faces: float
    pin_hole: float

    @property
    def family(self) -> str:
        return "creep frame"

    @property
    def volume(self) -> float:
        """cm³ of the back and the two limbs, pin holes taken out."""
        back = (self.opening + 2 * self.width) * self.width
        limbs = 2 * self.reach * self.width
        holes = 2 * math.pi * (self.pin_hole / 2) ** 2
        return (back + limbs - holes) * self.thickness / 1e3


CREEP_FRAME = CreepFrame("creep-frame", "creep frame", 8, 6, 30, 30, 20, 6)
