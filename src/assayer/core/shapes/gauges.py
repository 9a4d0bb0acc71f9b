"""Pieces that are measured or looked at: the dimension gauge and the check piece, both of our own design (METHODS 14)."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

from assayer.core.shapes.base import Feature, NumberPlace, Shape
from assayer.core.shapes.relief import figures
from assayer.core.shapes.solids import box, cylinder, hull, prism

STEPS = (10.0, 20.0, 30.0, 40.0, 80.0, 120.0)
HOLES = (6.0, 12.0, 24.0)
CENTRES = (0.0, 40.0, 80.0)
"""Middles of the holes from the first, mm: two distances of 40 and one of 80."""

_TREAD = 9.0
"""mm: how far each shorter length stands out beside the next."""

_BAND = 34.0
"""mm: the longest length is as wide as its greatest hole needs."""


@dataclass(frozen=True, slots=True)
class DimensionGauge(Shape):
    """Lengths in steps, holes and their distances, on one plate; `height` in mm, the rest as METHODS 14 has it.

    All its lengths lie along one axis; `across` stands for the gauge turned by a quarter, which measures along y.
    """

    height: float
    across: bool = False

    @property
    def family(self) -> str:
        return "dimension gauge"

    @property
    def flat_only(self) -> bool:
        return True

    @property
    def volume(self) -> float:
        area = STEPS[-1] * _BAND + sum(_TREAD * step for step in STEPS[:-1]) - sum(math.pi * (d / 2) ** 2 for d in HOLES)
        return area * self.height / 1e3

    def body(self) -> Any:
        deep = _BAND + _TREAD * (len(STEPS) - 1)
        outline = [(0.0, 0.0), (STEPS[-1], 0.0), (STEPS[-1], _BAND)]
        y = _BAND
        for step in reversed(STEPS[:-1]):
            outline += [(step, y), (step, y + _TREAD)]
            y += _TREAD
        outline.append((0.0, deep))
        moved = [(x - STEPS[-1] / 2, y - deep / 2) for x, y in outline]
        holes = [(20 + at - STEPS[-1] / 2, _BAND / 2 - deep / 2, d) for at, d in zip(CENTRES, HOLES, strict=True)]
        lying = prism(moved, self.height, holes)
        return lying.rotate([0, 0, 90]) if self.across else lying

    def _at(self, x: float, y: float) -> tuple[float, float]:
        """Where a point of the gauge along x comes to lie."""
        return (-y, x) if self.across else (x, y)

    @property
    def features(self) -> tuple[Feature, ...]:
        """Its lengths from the shortest to the longest, its holes, and how far these stand apart."""
        deep = _BAND + _TREAD * (len(STEPS) - 1)
        left, front = -STEPS[-1] / 2, -deep / 2
        found = []
        for i, step in enumerate(STEPS):
            y = front + _BAND + _TREAD * (len(STEPS) - 2 - i) + _TREAD / 2 if i < len(STEPS) - 1 else front + 3.0
            found.append(Feature("outer", step, (left, y), (left + step, y)))
        row = front + _BAND / 2
        middles = [left + 20 + at for at in CENTRES]
        found += [Feature("inner", d, (x - d / 2, row), (x + d / 2, row)) for x, d in zip(middles, HOLES, strict=True)]
        found += [Feature("centre", at, (middles[0], row), (left + 20 + at, row)) for at in CENTRES[1:]]
        return tuple(Feature(f.kind, f.nominal, self._at(*f.start), self._at(*f.end)) for f in found)

    @property
    def number_place(self) -> NumberPlace | None:
        x, y = self._at(-STEPS[-1] / 2 + 5, (_BAND + _TREAD * 4.5) - (_BAND + _TREAD * 5) / 2)
        return NumberPlace(x, y, 8, 5)


@lru_cache(64)
def _volume_of(piece: CheckPiece) -> float:
    """cm³, of the solid; kept, since every page of a material asks for it."""
    return float(piece.body().volume()) / 1e3


@dataclass(frozen=True, slots=True)
class CheckPiece(Shape):
    """A short piece that shows at a glance whether a print is fit to be tested: does it hold, join, overhang, draw fine lines.

    A thin plate with sharp corners (they lift first), a tongue that breaks off over its layers, a lip that leans out
    by 50° and two figures a line wide. `length`, `width` and `plate` (its thickness) in mm.
    """

    length: float
    width: float
    plate: float

    @property
    def family(self) -> str:
        return "check piece"

    @property
    def flat_only(self) -> bool:
        return True

    @property
    def volume(self) -> float:
        return _volume_of(self)

    def body(self) -> Any:
        x, y, z = self.length / 2, self.width / 2, self.plate
        tongue = box((-x + 4, -1.0, z - 0.4), (-x + 14, 1.0, z + 12))
        reach = 7 * math.tan(math.radians(50))
        foot = [(x - 12, s * 6, h) for s in (-1, 1) for h in (z - 0.4, z + 8)] + [(x - 9, s * 6, z - 0.4) for s in (-1, 1)]
        lip = hull([*foot, *((x - 9, s * 6, z + 1) for s in (-1, 1)), *((x - 9 + reach, s * 6, z + 8) for s in (-1, 1))])
        post = cylinder(4, 8.4).translate([0, y - 5, z - 0.4])
        relief = [box((-5 + b.x, -y + 2 + b.y, z - 0.4), (-5 + b.x + b.wide, -y + 2 + b.y + b.tall, z + 0.4)) for b in figures("48", 10, 6)]
        body = box((-x, -y, 0), (x, y, z)) + tongue + lip + post
        for part in relief:
            body += part
        return body

    def refusals(self) -> list[tuple[str, str]]:
        if self.length < 36 or self.width < 24:
            return [("length" if self.length < 36 else "width", "a check piece is at least 36 × 24 mm, or its parts do not fit")]
        return []


DIMENSION_GAUGE = DimensionGauge("dimension-gauge", "dimension gauge", 8)
DIMENSION_GAUGE_ACROSS = DimensionGauge("dimension-gauge-across", "dimension gauge along y", 8, across=True)
CHECK_PIECE = CheckPiece("check-piece", "check piece", 44, 30, 1.2)
