"""A solid body as an STL (binary) or 3MF file, in millimetres."""

from __future__ import annotations

from typing import Literal

from assayer.core.shapes.solids import Solid
from assayer.formats.solids.model_3mf import Placed, write_3mf

Kind = Literal["stl", "3mf"]

MEDIA: dict[str, str] = {"stl": "model/stl", "3mf": "model/3mf"}


def write_solid(solid: Solid, kind: Kind, name: str) -> bytes:
    """The file's bytes; a 3MF names its object."""
    if kind == "3mf":
        return write_3mf([Placed(name, solid)])
    # takes a second to load, and most starts never need it
    import trimesh

    written = trimesh.Trimesh(solid.corners, solid.triangles, process=False).export(file_type="stl")
    return written if isinstance(written, bytes) else str(written).encode()
