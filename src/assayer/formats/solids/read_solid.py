"""Reading a solid from an STL or 3MF file: one surface of all that it holds."""

from __future__ import annotations

import io
import zipfile
from dataclasses import dataclass
from pathlib import PurePath
from typing import Any

import numpy as np
from numpy.typing import NDArray

from assayer.core.errors import FileError

MOST_BYTES = 50_000_000
_MOST_UNPACKED = 400_000_000

_STATED = {"millimeter": ("mm", 1.0), "centimeter": ("cm", 1.0), "meter": ("m", 1.0), "inch": ("in", 1.0), "micron": ("mm", 0.001), "foot": ("in", 12.0)}
"""Units that a 3MF may state: the one of ours that it is read in, and how many of that it is."""


@dataclass(frozen=True, slots=True)
class ReadSolid:
    """Corners (n × 3), triangles (m × 3), how many objects they were, and the unit; None where the file states none."""

    corners: NDArray[np.float64]
    triangles: NDArray[np.int64]
    objects: int
    unit: str | None


def read_solid(data: bytes, file_name: str) -> ReadSolid:
    """Read a solid file.

    Raises
    ------
    FileError
        If it is neither STL nor 3MF, is empty or cannot be read.
    """
    kind = PurePath(file_name).suffix.lower().lstrip(".")
    if kind not in ("stl", "3mf"):
        raise FileError(f"'{file_name}' is neither an STL nor a 3MF file: save the part as one of them")
    if not data:
        raise FileError(f"'{file_name}' is empty")
    if kind == "3mf":
        _check_package(data, file_name)
    scene = _loaded(data, kind, file_name)
    parts = [m for m in scene.dump() if len(m.faces)] if hasattr(scene, "dump") else [scene]
    if not parts:
        raise FileError(f"there is no surface in '{file_name}'")
    first = np.cumsum([0, *(len(m.vertices) for m in parts)])
    corners = np.vstack([np.asarray(m.vertices, dtype=np.float64) for m in parts])
    triangles = np.vstack([np.asarray(m.faces, dtype=np.int64) + n for m, n in zip(parts, first, strict=False)])
    unit, each = _STATED.get(str(scene.units), (None, 1.0)) if kind == "3mf" else (None, 1.0)
    return ReadSolid(corners * each, triangles, len(parts), unit)


def _check_package(data: bytes, file_name: str) -> None:
    """A package that unpacks to far more than it is: nothing of it is unpacked."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as package:
            if sum(i.file_size for i in package.infolist()) > _MOST_UNPACKED:
                raise FileError(f"'{file_name}' unpacks to more than {_MOST_UNPACKED / 1e6:.0f} MB")
    except zipfile.BadZipFile:
        raise FileError(f"'{file_name}' is no 3MF file: it is damaged, or of another kind") from None


def _loaded(data: bytes, kind: str, file_name: str) -> Any:
    # takes a second to load, and most starts never need it
    import trimesh

    try:
        return trimesh.load(io.BytesIO(data), file_type=kind, process=False)
    except Exception as error:  # noqa: BLE001 - a damaged file breaks its reader in any way
        raise FileError(f"'{file_name}' cannot be read as {kind.upper()}: {' '.join(str(error).split())[:120] or 'it is damaged'}") from None
