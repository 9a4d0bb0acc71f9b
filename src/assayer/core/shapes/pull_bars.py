"""Bars that are pulled: a parallel part, fillets, ends for the grips or pins (METHODS 14)."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from assayer.core.shapes.base import Shape


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
