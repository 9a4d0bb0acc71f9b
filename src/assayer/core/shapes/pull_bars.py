"""Bars that are pulled: a parallel part, fillets, ends for the grips or pins (METHODS 14)."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from assayer.core.shapes.base import NumberPlace, Shape
from assayer.core.shapes.solids import chords, prism

Floats = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class PullBar(Shape):
    """A dumb-bell; lengths in mm.

    `end_thickness` where the ends are thicker than the section; `pin_hole` is the diameter of a hole
    through each end; `grips_apart` is the distance between the grips of a bar without pins; `outer_radius`
    is that of the second, convex arc of a compound fillet (D638 IV).
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
    grips_apart: float | None = None
    outer_radius: float = 0.0

    @property
    def family(self) -> str:
        return "pull bar"

    @property
    def volume(self) -> float:
        """Volume in cm³, holes taken out."""
        return _volume(self)

    @property
    def grip_distance(self) -> float:
        """Between the grips, or between the middles of the pins, mm; nominal strain refers to it (ISO 527-1, 10.2.2)."""
        return self.pin_distance if self.grips_apart is None else self.grips_apart

    @property
    def effective_length(self) -> float:
        """L_eff = ∫ A0/A dx between the grips, mm: the length of parallel part that would stretch as far (METHODS 1 and 14)."""
        return _effective_length(self)

    @property
    def strain_lengths(self) -> dict[str, float]:
        return {"effective length": self.effective_length, "between the grips": self.grip_distance}

    @property
    def zones(self) -> dict[str, tuple[float, float]]:
        """From where to where its ends, shoulders and parallel part reach along its half length, as shares of the overall length."""
        rise = (self.end_width - self.width) / 2
        shoulder = min(self.parallel / 2 + _fillet_length(rise, self.radius, self.outer_radius), max(self.grip_distance, self.parallel) / 2)
        inner, outer = (0.5 - x / self.overall for x in (self.parallel / 2, shoulder))
        # the parallel part first: a break at its very end still counts
        return {"parallel": (inner, 0.5), "shoulder": (outer, inner), "grip": (0.0, outer)}

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
        """Counter-clockwise, with its fillets."""
        rise = (wide - narrow) / 2
        both = self.radius + self.outer_radius
        turn = math.acos(max(0.0, 1 - rise / both))
        n = chords(both, turn)
        inner = [self.radius * math.sin(turn * i / n) for i in range(n + 1)]
        length = _fillet_length(rise, self.radius, self.outer_radius)
        outer = [length - self.outer_radius * math.sin(turn * i / n) for i in range(n - 1, -1, -1)] if self.outer_radius else []
        beyond = np.array([*inner, *outer])
        grown = _grown(beyond, rise, self.radius, self.outer_radius)
        fillet = [(self.parallel / 2 + float(x), narrow / 2 + float(y)) for x, y in zip(beyond, grown, strict=True)]
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
        fillet = _fillet_length(rise, self.radius, self.outer_radius) if rise <= self.radius + self.outer_radius else math.inf
        ends = (self.overall - self.parallel) / 2 - fillet
        if ends < (self.pin_hole + 2 if self.pin_hole else 3):
            return [("overall", f"an overall length of {self.overall:g} mm leaves no ends beside {self.parallel:g} mm of parallel part and its fillets")]
        if self.pin_hole and self.pin_hole > self.end_width - 3:
            return [("pin_hole", f"a hole of {self.pin_hole:g} mm leaves too little of ends {self.end_width:g} mm wide")]
        if not self.parallel <= self.grip_distance <= self.overall:
            return [("grips_apart", f"grips {self.grip_distance:g} mm apart do not stand between the parallel part of {self.parallel:g} mm and the ends")]
        return []


@lru_cache(maxsize=256)
def _volume(shape: PullBar) -> float:
    """The section is integrated along the length."""
    x, area = _sections(shape, shape.overall / 2)
    holes = 2 * math.pi * (shape.pin_hole / 2) ** 2 * (shape.end_thickness or shape.thickness)
    return (2 * float(np.trapezoid(area, x)) - holes) / 1e3


@lru_cache(maxsize=256)
def _effective_length(shape: PullBar) -> float:
    """The pins load the ends from within: their holes are not taken out of the section."""
    x, area = _sections(shape, shape.grip_distance / 2)
    return 2 * float(np.trapezoid(area[0] / area, x))


def _sections(shape: PullBar, half: float) -> tuple[Floats, Floats]:
    """Positions from the middle to `half` in mm, and the area of the section at each in mm², holes left in."""
    x = np.linspace(0.0, half, 20_001)
    beyond = np.maximum(x - shape.parallel / 2, 0.0)
    end_thickness = shape.end_thickness if shape.end_thickness is not None else shape.thickness
    width, thickness = (
        narrow + 2 * _grown(beyond, (wide - narrow) / 2, shape.radius, shape.outer_radius)
        for narrow, wide in ((shape.width, shape.end_width), (shape.thickness, end_thickness))
    )
    return x, width * thickness


def _fillet_length(rise: float, radius: float, outer_radius: float) -> float:
    """How far a fillet reaches along the bar while it grows by `rise`: both arcs meet at a common tangent."""
    return math.sqrt(max(0.0, rise * (2 * (radius + outer_radius) - rise)))


def _grown(beyond: Floats, rise: float, radius: float, outer_radius: float) -> Floats:
    """How far one side has grown at a distance beyond the parallel part: R − √(R² − d²), then the convex arc up to the end."""
    length = _fillet_length(rise, radius, outer_radius)
    meet = length * radius / (radius + outer_radius)
    inner = radius - np.sqrt(np.maximum(radius**2 - np.minimum(beyond, meet) ** 2, 0.0))
    left = np.clip(length - beyond, 0.0, length - meet)
    outer = rise - outer_radius + np.sqrt(np.maximum(outer_radius**2 - left**2, 0.0))
    return np.asarray(np.where(beyond < meet, inner, outer), np.float64)


SHORT_PULL_BAR = PullBar("short-pull-bar", "short pull bar", 5, 4, 20, 70, 24, 12, 12, end_thickness=8, pin_hole=6)

PULL_BARS = (
    SHORT_PULL_BAR,
    PullBar("dumb-bell-1ba", "dumb-bell small (1BA)", 5, 4, 25, 75, 30, 10, 30, grips_apart=58),
    PullBar("dumb-bell-1a", "dumb-bell large (1A)", 10, 4, 75, 170, 80, 20, 24, grips_apart=115),
    PullBar("d638-i", "ASTM D638 type I", 13, 3.2, 50, 165, 57, 19, 76, grips_apart=115),
    PullBar("d638-iv", "ASTM D638 type IV", 6, 3.2, 25, 115, 33, 19, 14, grips_apart=65, outer_radius=25),
    PullBar("d638-v", "ASTM D638 type V", 3.18, 3.2, 7.62, 63.5, 9.53, 9.53, 12.7, grips_apart=25.4),
    # printed before the section was widened; kept so that its results stay apart from those of the bar above
    PullBar("short-pull-bar-4", "short pull bar, former 4 × 4", 4, 4, 20, 70, 24, 12, 12, end_thickness=8, pin_hole=6),
)
