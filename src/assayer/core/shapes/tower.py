"""A tower of bands, each to be judged by itself: a bridge, overhangs, spikes, a thin edge to pinch, its value in relief."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

from assayer.core.errors import EntryError
from assayer.core.shapes.relief import figures
from assayer.core.shapes.solids import Solid, box, hull, joined

LEAST_BAND = 5.0
"""mm; a lower band has no room for its figures."""

STEEP = (35, 45, 55)
"""Angles of the overhangs, degrees from upright."""

_LEFT, _RIGHT, _DEEP = (0.0, 14.0), (34.0, 42.0), 14.0
_ROOF = 1.2
_EDGE = 0.9
_SINK = 0.4
"""mm by which parts reach into one another, so that they join."""


def tower(labels: Sequence[str], band_height: float, base_height: float = 0.0) -> Solid:
    """A tower as it is printed.

    Parameters
    ----------
    labels : sequence of str
        The value of each band from the bed upwards: figures, a point, a minus.
    band_height, base_height : float, mm

    Raises
    ------
    EntryError
        If a band is too low for what it shows.
    """
    if band_height < LEAST_BAND:
        raise EntryError(f"bands of {band_height:g} mm have no room for a bridge and figures: at least {LEAST_BAND:g} mm", "band_height")
    parts: list[Any] = []
    if base_height > 0:
        parts.append(box((-3, -3, 0), (_RIGHT[1] + 12, _DEEP + 9, base_height)))
    top = base_height + len(labels) * band_height
    for low, high in (_LEFT, _RIGHT):
        parts.append(box((low, 0, 0), (high, _DEEP, top)))
    # one fin from bottom to top: pinched between finger and thumb at each band
    parts.append(box((6, _DEEP - _SINK, 0), (6 + _EDGE, _DEEP + 6, top)))
    for number, label in enumerate(labels):
        parts += _band(label, base_height + number * band_height, band_height, number > 0 or base_height > 0)
    return joined(parts)


def _band(label: str, floor: float, height: float, has_floor: bool) -> list[Any]:
    parts = [box((_LEFT[1] - _SINK, 2, floor + height - _ROOF), (_RIGHT[0] + _SINK, _DEEP - 2, floor + height))]
    if has_floor:
        parts += [_spike(x, _DEEP / 2, floor, min(0.6 * height, height - _ROOF - 1)) for x in (20.0, 28.0)]
    parts += [_overhang(i, angle, floor, height) for i, angle in enumerate(STEEP)]
    return parts + _relief(label, floor, height)


def _spike(x: float, y: float, floor: float, height: float) -> Any:
    """A slender pyramid, 3 mm wide at its foot and 0.8 mm at its tip."""
    corners = [(sx * half, sy * half, z) for half, z in ((1.5, -min(_SINK, floor)), (0.4, height)) for sx in (-1, 1) for sy in (-1, 1)]
    return hull([(x + dx, y + dy, floor + dz) for dx, dy, dz in corners])


def _overhang(place: int, angle: int, floor: float, height: float) -> Any:
    """A wedge that leans out of the right column by `angle` from upright, as far as the band is high."""
    width = (_DEEP - 1) / len(STEEP) - 0.6
    y = 0.5 + place * (width + 0.6)
    rise = height - 1.0
    reach = min(rise * math.tan(math.radians(angle)), 10.0)
    low = floor + height - 0.5 - reach / math.tan(math.radians(angle))
    x, top = _RIGHT[1], floor + height - 0.5
    inner, outer = x - _SINK, x + reach
    return hull([(inner, y + d, z) for d in (0, width) for z in (low, top)] + [(x, y + d, low) for d in (0, width)] + [(outer, y + d, top) for d in (0, width)])


def _relief(label: str, floor: float, height: float) -> list[Any]:
    """The value on the front of the left column, drawn in bars."""
    room, tall = _LEFT[1] - _LEFT[0] - 2, min(height - 2.0, 6.0)
    low = floor + (height - tall) / 2
    return [box((_LEFT[0] + 1 + b.x, -0.6, low + b.y), (_LEFT[0] + 1 + b.x + b.wide, _SINK, low + b.y + b.tall)) for b in figures(label, room, tall)]
