"""Plain bars, blocks and rails: bent, sheared, notched, heated, warped, soaked, indented (METHODS 14)."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

from assayer.core.shapes.base import NumberPlace, Shape
from assayer.core.shapes.solids import arc, box, prism


@dataclass(frozen=True, slots=True)
class Bar(Shape):
    """A bar of rectangular section; lengths in mm. `free` is how much of it stands out where it is held at one end."""

    overall: float
    width: float
    thickness: float
    free: float | None = None

    @property
    def family(self) -> str:
        return "bar"

    @property
    def volume(self) -> float:
        return self.overall * self.width * self.thickness / 1e3

    def body(self) -> Any:
        return box((-self.overall / 2, -self.width / 2, 0), (self.overall / 2, self.width / 2, self.thickness))

    @property
    def number_place(self) -> NumberPlace | None:
        """At its end, where it is neither bent nor held against a stop."""
        if self.width < 7 or self.thickness < 2:
            return None
        return NumberPlace(-self.overall / 2 + 6, 0, 8, min(5.0, self.width - 3))

    def refusals(self) -> list[tuple[str, str]]:
        if self.free is not None and self.free >= self.overall:
            return [("free", f"{self.free:g} mm free is more than the {self.overall:g} mm there are")]
        return []


@dataclass(frozen=True, slots=True)
class NotchedBar(Shape):
    """A bar with a V notch in its narrow side; lengths in mm, `angle` in degrees.

    `depth` of the notch, so that `width` − `depth` is left; `tip` is the radius at its root.
    """

    overall: float
    width: float
    thickness: float
    depth: float
    angle: float
    tip: float

    @property
    def family(self) -> str:
        return "notched bar"

    @property
    def volume(self) -> float:
        return (self.overall * self.width - _area(self._notch())) * self.thickness / 1e3

    @property
    def nominals(self) -> dict[str, float]:
        """With `left`, the width that the notch leaves."""
        return {**self.dimensions, "left": self.width - self.depth}

    def body(self) -> Any:
        x, y = self.overall / 2, self.width / 2
        return prism([(-x, -y), (x, -y), (x, y), *self._notch(), (-x, y)], self.thickness)

    def _notch(self) -> list[tuple[float, float]]:
        """Its edge from the right to the left: down one side, round the tip, up the other."""
        half = math.radians(self.angle / 2)
        top, middle = self.width / 2, self.width / 2 - self.depth + self.tip
        # the sides touch the circle of the tip at right angles to it
        begin = -math.degrees(half)
        rounding = arc(0.0, middle, self.tip, begin, -180 - begin)
        reach = rounding[0][0] + (top - rounding[0][1]) * math.tan(half)
        return [(reach, top), *rounding, (-reach, top)]

    @property
    def number_place(self) -> NumberPlace | None:
        return NumberPlace(-self.overall / 2 + 6, 0, 8, min(5.0, self.width - 3)) if self.width >= 7 and self.thickness >= 2 else None

    def refusals(self) -> list[tuple[str, str]]:
        if self.depth >= self.width:
            return [("depth", f"a notch of {self.depth:g} mm leaves nothing of {self.width:g} mm")]
        if not 10 <= self.angle <= 120:
            return [("angle", f"a notch of {self.angle:g}°: between 10° and 120°")]
        if self.tip >= self.depth / (1 + 1 / math.sin(math.radians(self.angle / 2))) * 2:
            return [("tip", f"a tip of {self.tip:g} mm radius does not fit into a notch {self.depth:g} mm deep")]
        return []


@dataclass(frozen=True, slots=True)
class Block(Shape):
    """A flat block; lengths in mm."""

    overall: float
    width: float
    thickness: float

    @property
    def family(self) -> str:
        return "block"

    @property
    def volume(self) -> float:
        return self.overall * self.width * self.thickness / 1e3

    def body(self) -> Any:
        return box((-self.overall / 2, -self.width / 2, 0), (self.overall / 2, self.width / 2, self.thickness))


def _area(outline: list[tuple[float, float]]) -> float:
    """Of a polygon, by the sum of its trapezoids."""
    return abs(sum(x0 * y1 - x1 * y0 for (x0, y0), (x1, y1) in zip(outline, [*outline[1:], outline[0]], strict=True))) / 2


BAR = Bar("bar", "bar 80 × 10 × 4", 80, 10, 4)
NOTCHED_BAR = NotchedBar("notched-bar", "notched bar", 80, 10, 4, 2, 45, 0.25)
SHEAR_BAR = Bar("shear-bar", "shear bar", 42, 5, 5)
HEAT_BAR = Bar("heat-bar", "heat bar", 80, 10, 4, 60)
HARDNESS_BLOCK = Block("hardness-block", "hardness block", 40, 40, 6)
WARP_RAIL = Block("warp-rail", "warp rail", 180, 12, 3)
IMMERSION_COUPON = Block("immersion-coupon", "immersion coupon", 60, 60, 1)
