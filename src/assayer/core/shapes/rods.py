"""Rods that are twisted (METHODS 14)."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

from assayer.core.shapes.base import Shape
from assayer.core.shapes.solids import cylinder


@dataclass(frozen=True, slots=True)
class TorsionRod(Shape):
    """A round rod between two hexagons; lengths in mm.

    `diameter` and `parallel` of the rod, `across_flats` and `end_length` of each hexagon.
    """

    diameter: float
    parallel: float
    across_flats: float
    end_length: float

    @property
    def family(self) -> str:
        return "torsion rod"

    @property
    def overall(self) -> float:
        return self.parallel + 2 * self.end_length

    @property
    def zones(self) -> dict[str, tuple[float, float]]:
        key = self.end_length / self.overall
        return {"parallel": (key, 0.5), "grip": (0.0, key)}

    @property
    def volume(self) -> float:
        rod = math.pi * (self.diameter / 2) ** 2 * self.parallel
        return (rod + 2 * self.end_length * self.across_flats**2 * math.sqrt(3) / 2) / 1e3

    def body(self) -> Any:
        """It lies on a flat of its hexagons."""
        hexagon = cylinder(self.across_flats * 2 / math.sqrt(3), self.end_length, 6)
        upright = (
            hexagon + hexagon.translate([0, 0, self.end_length + self.parallel]) + cylinder(self.diameter, self.parallel).translate([0, 0, self.end_length])
        )
        # a corner of the hexagon stands along x: upwards it would be its corner it lies on, so a flat is turned down
        return upright.rotate([0, 0, 30]).translate([0, 0, -self.overall / 2]).rotate([0, 90, 0]).translate([0, 0, self.across_flats / 2])

    def refusals(self) -> list[tuple[str, str]]:
        if self.diameter >= self.across_flats:
            return [("diameter", f"a rod of {self.diameter:g} mm is no thinner than its hexagons of {self.across_flats:g} mm: it would slip in the key")]
        return []


TORSION_ROD = TorsionRod("torsion-rod", "torsion rod", 8, 32, 13, 14)
