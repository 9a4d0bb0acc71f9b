"""Bars that are pulled: a parallel part, fillets, ends for the grips or pins (METHODS 14)."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np

from assayer.core.shapes.base import NumberPlace, Shape
from assayer.core.shapes.solids import chords, prism


@dataclass(frozen=True, slots=True)
class PullBar(Shape):
    """A dumb-bell; lengths in mm.

    `end_thickness` where the ends are thicker than the section; `pin_hole` is the diameter of a hole
    through each end; `gauge_length` may be the effective length of a bar without extensometer.
    """

    width: float
    thickness: float
    gauge_length: float
    overall: float
    parallel: float
    end_width: float
    radius: float
    end_thickness: float | None = None
    pin_hole: float = 0.0

    @property
    def family(self) -> str:
        return "pull bar"

    @property
    def volume(self) -> float:
        """Volume in cm³, fillets of one radius between the parallel part and the ends, holes taken out.

        A compound fillet (D638 IV) is taken with its inner radius.
        """
        return _volume(self)

    def body(self) -> Any:
        """Where the ends are thicker, they grow to both sides, so that the pull stays in the middle of the section."""
        deep = self.end_thickness if self.end_thickness is not None else self.thickness
        holes = [(s * self.pin_distance / 2, 0.0, self.pin_hole) for s in (-1, 1)] if self.pin_hole else []
        body = prism(self._outline(self.width, self.end_width), deep, holes)
        if deep == self.thickness:
            return body
        side = prism(self._outline(self.thickness, deep), self.end_width)
        # the second outline stands on its edge: its y becomes z
        return body ^ side.rotate([90, 0, 0]).translate([0, self.end_width / 2, deep / 2])

    def _outline(self, narrow: float, wide: float) -> list[tuple[float, float]]:
        """Counter-clockwise, with fillets of one radius."""
        rise = (wide - narrow) / 2
        turn = math.acos(max(0.0, 1 - rise / self.radius))
        n = chords(self.radius, turn)
        angles = [turn * i / n for i in range(n + 1)]
        fillet = [(self.parallel / 2 + self.radius * math.sin(a), narrow / 2 + self.radius * (1 - math.cos(a))) for a in angles]
        quarter = [*fillet, (self.overall / 2, wide / 2)]
        lower = [(x, -y) for x, y in quarter]
        upper = [(x, y) for x, y in reversed(quarter)]
        return [*lower, *upper, *((-x, y) for x, y in reversed(upper)), *((-x, y) for x, y in reversed(lower))]

    @property
    def pin_distance(self) -> float:
        """Between the middles of the pin holes, mm: a hole's width and 1 mm from the ends."""
        return self.overall - 2 * (self.pin_hole + 1)

    @property
    def gauge(self) -> float | None:
        return self.gauge_length

    @property
    def number_place(self) -> NumberPlace | None:
        """At the tip of an end, beyond the grips; none where a pin goes through it."""
        if self.pin_hole or self.end_width < 8:
            return None
        return NumberPlace(-self.overall / 2 + 5, 0, 7, min(5.0, self.end_width - 3))

    def refusals(self) -> list[tuple[str, str]]:
        if self.end_width <= self.width:
            return [("end_width", f"ends of {self.end_width:g} mm are not wider than the section of {self.width:g} mm: it would break in the grips")]
        if self.end_thickness is not None and self.end_thickness < self.thickness:
            return [("end_thickness", f"ends of {self.end_thickness:g} mm are thinner than the section of {self.thickness:g} mm")]
        if self.gauge_length > self.parallel:
            return [("gauge_length", f"a gauge length of {self.gauge_length:g} mm does not lie within {self.parallel:g} mm of parallel part")]
        rise = max(self.end_width - self.width, (self.end_thickness or self.thickness) - self.thickness) / 2
        fillet = math.sqrt(max(0.0, 2 * self.radius * rise - rise**2)) if rise <= self.radius else math.inf
        ends = (self.overall - self.parallel) / 2 - fillet
        if ends < (self.pin_hole + 2 if self.pin_hole else 3):
            return [("overall", f"an overall length of {self.overall:g} mm leaves no ends beside {self.parallel:g} mm of parallel part and its fillets")]
        if self.pin_hole and self.pin_hole > self.end_width - 3:
            return [("pin_hole", f"a hole of {self.pin_hole:g} mm leaves too little of ends {self.end_width:g} mm wide")]
        return []


@lru_cache(maxsize=256)
def _volume(shape: PullBar) -> float:
    """The section is integrated along the length."""
    end_thickness = shape.end_thickness if shape.end_thickness is not None else shape.thickness
    x = np.linspace(0.0, shape.overall / 2, 20_001)
    beyond = np.maximum(x - shape.parallel / 2, 0.0)
    width = _filleted(beyond, shape.width, shape.end_width, shape.radius)
    thickness = _filleted(beyond, shape.thickness, end_thickness, shape.radius)
    holes = 2 * math.pi * (shape.pin_hole / 2) ** 2 * end_thickness
    return (2 * float(np.trapezoid(width * thickness, x)) - holes) / 1e3


def _filleted(beyond: np.ndarray, narrow: float, wide: float, radius: float) -> np.ndarray:
    """Width along the fillet: both sides grow by R − √(R² − d²) until the end's width is reached."""
    inside = np.minimum(beyond, radius)
    grown: np.ndarray = np.minimum(narrow + 2 * (radius - np.sqrt(radius**2 - inside**2)), wide)
    return grown


SHORT_PULL_BAR = PullBar("short-pull-bar", "short pull bar", 5, 4, 20, 70, 24, 12, 12, end_thickness=8, pin_hole=6)

PULL_BARS = (
    SHORT_PULL_BAR,
    PullBar("dumb-bell-1ba", "dumb-bell small (1BA)", 5, 4, 25, 75, 30, 10, 30),
    PullBar("dumb-bell-1a", "dumb-bell large (1A)", 10, 4, 75, 170, 80, 20, 24),
    PullBar("d638-i", "ASTM D638 type I", 13, 3.2, 50, 165, 57, 19, 76),
    PullBar("d638-iv", "ASTM D638 type IV", 6, 3.2, 25, 115, 33, 19, 14),
    PullBar("d638-v", "ASTM D638 type V", 3.18, 3.2, 7.62, 63.5, 9.53, 9.53, 12.7),
    # printed before the section was widened; kept so that its results stay apart from those of the bar above
    PullBar("short-pull-bar-4", "short pull bar, former 4 × 4", 4, 4, 20, 70, 24, 12, 12, end_thickness=8, pin_hole=6),
)
