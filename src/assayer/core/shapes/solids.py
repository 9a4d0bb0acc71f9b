"""Solid bodies put together from boxes, prisms, cylinders and hulls; closed surfaces in mm, standing on the bed (z = 0)."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

Point = tuple[float, float, float]


@dataclass(frozen=True, slots=True)
class Solid:
    """A closed surface: corners (n × 3, mm) and triangles (m × 3), turning outwards."""

    corners: NDArray[np.float64]
    triangles: NDArray[np.int64]


def box(low: Point, high: Point) -> Any:
    """A box between two corners."""
    from manifold3d import Manifold

    return Manifold.cube([b - a for a, b in zip(low, high, strict=True)]).translate(list(low))


_SAG = 0.002
"""mm by which a chord may lie inside its arc."""

Outline = Sequence[tuple[float, float]]


def chords(radius: float, angle: float = 2 * math.pi) -> int:
    """Into how many chords an arc is cut, so that none lies further inside than 0.002 mm; at least 8."""
    step = 2 * math.acos(max(0.0, 1 - _SAG / radius)) if radius > _SAG else math.pi
    return max(8, math.ceil(angle / step))


def arc(x: float, y: float, radius: float, begin: float, end: float) -> list[tuple[float, float]]:
    """Points along an arc about (x, y), from angle to angle in degrees, both ends in."""
    n = chords(radius, abs(math.radians(end - begin)))
    angles = [math.radians(begin + (end - begin) * i / n) for i in range(n + 1)]
    return [(x + radius * math.cos(a), y + radius * math.sin(a)) for a in angles]


def prism(outline: Outline, height: float, holes: Sequence[tuple[float, float, float]] = ()) -> Any:
    """An outline (counter-clockwise, mm) drawn up to a height; `holes` as (x, y, diameter) go through it."""
    from manifold3d import CrossSection, Manifold

    section = CrossSection([np.array(outline, dtype=np.float64)])
    for x, y, diameter in holes:
        section -= CrossSection.circle(diameter / 2, chords(diameter / 2)).translate((x, y))
    return Manifold.extrude(section, height)


def cylinder(diameter: float, length: float, sides: int | None = None) -> Any:
    """A cylinder that stands on z = 0; with `sides` a prism whose corners lie on the circle."""
    from manifold3d import Manifold

    return Manifold.cylinder(length, diameter / 2, diameter / 2, sides if sides is not None else chords(diameter / 2))


def hull(points: Sequence[Point]) -> Any:
    """The body that wraps points."""
    from manifold3d import Manifold

    return Manifold.hull_points(np.array(points, dtype=np.float64))


def joined(parts: Sequence[Any]) -> Solid:
    """One body of parts that touch or overlap."""
    from manifold3d import Manifold, OpType

    return meshed(Manifold.batch_boolean(list(parts), OpType.Add))


def meshed(body: Any) -> Solid:
    """The closed surface of a body."""
    mesh = body.to_mesh64()
    return Solid(np.asarray(mesh.vert_properties[:, :3], dtype=np.float64), np.asarray(mesh.tri_verts, dtype=np.int64))


def turned(solid: Solid) -> Solid:
    """Turned by a right angle about z."""
    x, y, z = solid.corners.T
    return Solid(np.column_stack([-y, x, z]), solid.triangles)


def beside(solids: Sequence[tuple[Solid, float, float]]) -> Solid:
    """Several solids as one, each moved along x and y by so many mm."""
    first = np.cumsum([0, *(len(s.corners) for s, _, _ in solids)])
    corners = [s.corners + np.array([x, y, 0.0]) for s, x, y in solids]
    return Solid(np.vstack(corners), np.vstack([s.triangles + n for (s, _, _), n in zip(solids, first, strict=False)]))
