"""Frames and brackets: hung under a load, or left to warp (METHODS 14)."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

from assayer.core.shapes.base import NumberPlace, Shape
from assayer.core.shapes.solids import prism

_LUG = 4.0
"""mm that a lug with a gauge face reaches along its limb."""


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
        """cm³ of the back, the two limbs and the lugs with the gauge faces, pin holes taken out."""
        back = (self.opening + 2 * self.width) * self.width
        limbs = 2 * self.reach * self.width
        lugs = _LUG * (self.opening - self.faces)
        holes = 2 * math.pi * (self.pin_hole / 2) ** 2
        return (back + limbs + lugs - holes) * self.thickness / 1e3

    def body(self) -> Any:
        """The mouth to the right; the pins stand in the limbs, one above the other, in the middle of their reach."""
        high, deep = self.opening / 2 + self.width, (self.reach + self.width) / 2
        inner, mouth = self.opening / 2, self.faces / 2
        lug = deep - _LUG
        upper = [(deep, high), (-deep, high), (-deep, -high), (deep, -high), (deep, -mouth), (lug, -mouth), (lug, -inner)]
        outline = [*upper, (-deep + self.width, -inner), (-deep + self.width, inner), (lug, inner), (lug, mouth), (deep, mouth)]
        at = -deep + self.width + self.reach / 2
        return prism(outline, self.thickness, [(at, s * (inner + self.width / 2), self.pin_hole) for s in (-1, 1)])

    @property
    def number_place(self) -> NumberPlace | None:
        """None: the back carries the moment, and the limbs the pins."""
        return None

    def refusals(self) -> list[tuple[str, str]]:
        if self.pin_hole >= self.width:
            return [("pin_hole", f"a hole of {self.pin_hole:g} mm leaves nothing of a limb {self.width:g} mm wide")]
        if self.faces >= self.opening:
            return [("faces", f"gauge faces {self.faces:g} mm apart do not stand out into an opening of {self.opening:g} mm")]
        if self.reach <= _LUG + self.pin_hole:
            return [("reach", f"limbs of {self.reach:g} mm have no room for the pin and the gauge face")]
        return []


@dataclass(frozen=True, slots=True)
class SquareFrame(Shape):
    """A flat square frame whose corners lift as it cools; lengths in mm, `web` is how wide its sides are."""

    overall: float
    thickness: float
    web: float

    @property
    def family(self) -> str:
        return "square frame"

    @property
    def flat_only(self) -> bool:
        return True

    @property
    def volume(self) -> float:
        return (self.overall**2 - (self.overall - 2 * self.web) ** 2) * self.thickness / 1e3

    def body(self) -> Any:
        a, b = self.overall / 2, self.overall / 2 - self.web
        inside = [(-b, -b), (b, -b), (b, b), (-b, b)]
        return prism([(-a, -a), (a, -a), (a, a), (-a, a)], self.thickness) - prism(inside, self.thickness)

    @property
    def number_place(self) -> NumberPlace | None:
        return NumberPlace(0, -self.overall / 2 + self.web / 2, 12, 5) if self.web >= 8 and self.thickness >= 2 else None

    def refusals(self) -> list[tuple[str, str]]:
        return [("web", f"sides of {self.web:g} mm fill a frame of {self.overall:g} mm")] if 2 * self.web >= self.overall else []


@dataclass(frozen=True, slots=True)
class Bracket(Shape):
    """An L that is held by one arm and loaded on the other; lengths in mm.

    `arm` is the outer length of both, `width` how far it reaches across, `lever` where it is loaded, from the corner.
    """

    arm: float
    width: float
    thickness: float
    lever: float

    @property
    def family(self) -> str:
        return "bracket"

    @property
    def volume(self) -> float:
        return (2 * self.arm - self.thickness) * self.thickness * self.width / 1e3

    def body(self) -> Any:
        a, t = self.arm, self.thickness
        outline = [(0, 0), (a, 0), (a, t), (t, t), (t, a), (0, a)]
        return prism([(x - a / 2, y - a / 2) for x, y in outline], self.width)

    def refusals(self) -> list[tuple[str, str]]:
        if self.thickness >= self.arm:
            return [("thickness", f"arms of {self.arm:g} mm are no longer than they are thick")]
        if self.lever >= self.arm:
            return [("lever", f"it cannot be loaded {self.lever:g} mm from the corner of an arm of {self.arm:g} mm")]
        return []


CREEP_FRAME = CreepFrame("creep-frame", "creep frame", 8, 6, 30, 30, 20, 6)
WARP_FRAME = SquareFrame("warp-frame", "warp frame", 120, 3, 12)
BRACKET = Bracket("bracket", "bracket", 45, 20, 5, 32)
