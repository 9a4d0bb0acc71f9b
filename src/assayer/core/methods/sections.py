"""Sections of specimens: readings of their dimensions, and the area."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from assayer.core.errors import EntryError


@dataclass(frozen=True, slots=True)
class Section:
    """A rectangular section: readings of width and thickness in mm; area = mean width × mean thickness."""

    widths: Sequence[float]
    thicknesses: Sequence[float]

    def __post_init__(self) -> None:
        for name, readings in (("width", self.widths), ("thickness", self.thicknesses)):
            if not len(readings):
                raise EntryError(f"{name}: at least one reading is needed", name)
            for value in readings:
                if not (math.isfinite(value) and value > 0):
                    raise EntryError(f"{name} must be greater than 0 mm, but got {value:g}", name)

    @property
    def width(self) -> float:
        """Mean, mm."""
        return sum(self.widths) / len(self.widths)

    @property
    def thickness(self) -> float:
        """Mean, mm."""
        return sum(self.thicknesses) / len(self.thicknesses)

    @property
    def area(self) -> float:
        """mm²."""
        return self.width * self.thickness
