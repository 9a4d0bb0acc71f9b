"""Plain bars and blocks: bent, sheared, indented (METHODS 14)."""

from __future__ import annotations

from dataclasses import dataclass

from assayer.core.shapes.base import Shape


@dataclass(frozen=True, slots=True)
class Bar(Shape):
    """A bar of rectangular section; lengths in mm."""

    overall: float
    width: float
    thickness: float

    @property
    def family(self) -> str:
        return "bar"

    @property
    def volume(self) -> float:
        return self.overall * self.width * self.thickness / 1e3


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


BAR = Bar("bar", "bar 80 × 10 × 4", 80, 10, 4)
SHEAR_BAR = Bar("shear-bar", "shear bar", 42, 5, 5)
HARDNESS_BLOCK = Block("hardness-block", "hardness block", 40, 40, 6)
