"""Volume of a solid specimen, for its mass and price (METHODS 11, 14)."""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np

from assayer.core.methods.base import Shape


@lru_cache(maxsize=256)
def solid_volume(shape: Shape) -> float:
    """Volume in cm³ of a bar with fillets of one radius between the parallel part and the ends, holes taken out.

    The section is integrated along the length. A compound fillet (D638 IV) is taken with its inner radius.
    """
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
