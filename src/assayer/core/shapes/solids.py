"""Solid bodies put together from boxes and hulls; closed surfaces in mm, standing on the bed (z = 0)."""

from __future__ import annotations

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


def hull(points: Sequence[Point]) -> Any:
    """The body that wraps points."""
    from manifold3d import Manifold

    return Manifold.hull_points(np.array(points, dtype=np.float64))


def joined(parts: Sequence[Any]) -> Solid:
    """One body of parts that touch or overlap."""
    from manifold3d import Manifold, OpType

    mesh = Manifold.batch_boolean(list(parts), OpType.Add).to_mesh64()
    return Solid(np.asarray(mesh.vert_properties[:, :3], dtype=np.float64), np.asarray(mesh.tri_verts, dtype=np.int64))
