"""Parts of one's own as shapes: a closed surface from a file, checked before it is kept."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any, Self

import numpy as np
from numpy.typing import NDArray

from assayer.core.errors import EntryError
from assayer.core.shapes.base import LONGEST, Shape
from assayer.core.shapes.solids import Solid, meshed

MOST_TRIANGLES = 400_000
SHORTEST = 2.0
"""mm; a part whose longest side is shorter was most likely drawn in another unit."""

UNITS = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4}
"""mm in a unit that a file may be drawn in."""


@dataclass(frozen=True, slots=True)
class OwnPart(Shape):
    """A part from a file; `solid` as it lies flat, about x = y = 0, on z = 0. Equal if it has the same name."""

    solid: Solid = field(compare=False)
    volume_cm3: float = field(compare=False)

    @property
    def family(self) -> str:
        return "part"

    @property
    def volume(self) -> float:
        return self.volume_cm3

    @property
    def dimensions(self) -> dict[str, float]:
        """What it takes along x, y and z as it lies in its file, mm."""
        length, width, height = np.ptp(self.solid.corners, axis=0).tolist()
        return {"length": round(length, 3), "width": round(width, 3), "height": round(height, 3)}

    def body(self) -> Any:
        return _body(self.solid.corners, self.solid.triangles)

    def resized(self, sizes: Mapping[str, float]) -> Self:
        if sizes:
            raise EntryError(f"{self.label} comes from a file: it has the sizes that it has there", next(iter(sizes)))
        return self


def own_part(name: str, label: str, corners: NDArray[np.float64], triangles: NDArray[np.int64], unit: str = "mm") -> OwnPart:
    """A part of a triangulated surface, moved onto the bed.

    Parameters
    ----------
    name, label : str
    corners : (n, 3) array
        In `unit`.
    triangles : (m, 3) array of int
        Corners of each triangle; equal corners may stand several times.
    unit : 'mm', 'cm', 'm' or 'in'

    Raises
    ------
    EntryError
        If the surface is empty, not closed, or of a size that no part has.
    """
    if unit not in UNITS:
        raise EntryError(f"'{unit}' is no unit that a part is drawn in: {', '.join(UNITS)}", "unit")
    if not len(triangles):
        raise EntryError("there is no surface in the file", "file")
    if len(triangles) > MOST_TRIANGLES:
        raise EntryError(f"the surface has {len(triangles)} triangles: save it with {MOST_TRIANGLES} at most", "file")
    if triangles.min() < 0 or triangles.max() >= len(corners):
        raise EntryError("a triangle of the surface names a corner that is not there: the file is damaged", "file")
    points = np.asarray(corners, dtype=np.float64) * UNITS[unit]
    if not np.isfinite(points).all():
        raise EntryError("a corner of the surface is not at a number", "file")
    _check_size(points[np.unique(triangles)], unit)
    points, faces = _merged(points, np.asarray(triangles, dtype=np.int64))
    open_edges = _open_edges(faces)
    if open_edges:
        raise EntryError(f"the surface is not closed: {open_edges} edges belong to other than two triangles. Mend it where it was drawn", "file")
    body = _body(points, faces)
    if body.volume() < 0:
        faces = faces[:, ::-1].copy()
        body = _body(points, faces)
    if not body.volume() > 0:
        raise EntryError("the surface is closed and holds nothing: some of its triangles turn inwards", "file")
    x0, y0, z0, x1, y1, _ = body.bounding_box()
    laid = body.translate([-(x0 + x1) / 2, -(y0 + y1) / 2, -z0])
    return OwnPart(name, label, meshed(laid), float(laid.volume()) / 1e3)


def _check_size(points: NDArray[np.float64], unit: str) -> None:
    longest = float(np.ptp(points, axis=0).max())
    if SHORTEST <= longest <= LONGEST:
        return
    fitting = [u for u, mm in UNITS.items() if SHORTEST <= longest / UNITS[unit] * mm <= LONGEST]
    advice = f": if it was drawn in {' or '.join(fitting)}, say so" if fitting else ""
    raise EntryError(f"read in {unit}, the part is {longest:.3g} mm long{advice}", "unit")


def _merged(points: NDArray[np.float64], triangles: NDArray[np.int64]) -> tuple[NDArray[np.float64], NDArray[np.int64]]:
    """Equal corners as one, and triangles without area left out: a file lists each corner anew for every triangle."""
    kept, which = np.unique(np.round(points, 6), axis=0, return_inverse=True)
    faces = which.reshape(-1)[triangles]
    a, b, c = faces.T
    return kept, faces[(a != b) & (b != c) & (c != a)]


def _open_edges(faces: NDArray[np.int64]) -> int:
    edges = np.sort(np.vstack([faces[:, [0, 1]], faces[:, [1, 2]], faces[:, [2, 0]]]), axis=1)
    _, counts = np.unique(edges, axis=0, return_counts=True)
    return int(np.sum(counts % 2 == 1))


def _body(points: NDArray[np.float64], faces: NDArray[np.int64]) -> Any:
    from manifold3d import Error, Manifold, Mesh64

    # copies: what a body hands out cannot be written to, and it takes no such arrays back
    body = Manifold(Mesh64(vert_properties=np.array(points, order="C"), tri_verts=np.array(faces, dtype=np.uint64, order="C")))
    if body.status() != Error.NoError:
        raise EntryError("the surface is not that of a body: some triangles lie in one another or turn the other way. Mend it where it was drawn", "file")
    return body
