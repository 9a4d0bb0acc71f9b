"""A solid body as an STL (binary) or 3MF file, in millimetres."""

from __future__ import annotations

from typing import Literal

from assayer.core.shapes.solids import Solid

Kind = Literal["stl", "3mf"]

MEDIA: dict[str, str] = {"stl": "model/stl", "3mf": "model/3mf"}


def write_solid(solid: Solid, kind: Kind) -> bytes:
    """The file's bytes."""
    # takes a second to load, and most starts never need it
    import trimesh

    mesh = trimesh.Trimesh(solid.corners, solid.triangles, process=False)
    mesh.units = "millimeter"
    written = mesh.export(file_type=kind)
    return written if isinstance(written, bytes) else str(written).encode()
