"""What a second program (trimesh) measures on every solid; `python -m tests.core.measured_solids` writes the record anew.

The record is read with its pictures beside it when a shape is changed on purpose: any other change is a slip.
"""

import json
from pathlib import Path

import trimesh

from assayer.core.errors import EntryError
from assayer.core.shapes import SHAPES
from assayer.core.shapes.printed import ORIENTATIONS, printed
from assayer.core.shapes.tower import tower

RECORD = Path(__file__).with_name("measured_solids.json")


def solids():
    for name, shape in SHAPES.items():
        for orientation in ORIENTATIONS:
            for number in (None, 48):
                try:
                    yield f"{name}, {orientation}, {number or 'plain'}", printed(shape, orientation, number)[0]
                except EntryError:
                    continue
    yield "tower of temperatures", tower(["230", "225", "-5"], 8)
    yield "tower on a base", tower(["0.04", "17"], 10, 2)


def measured(solid):
    """Area in mm², volume in mm³, extents and centre of mass in mm, moments of inertia as shares of the greatest."""
    mesh = trimesh.Trimesh(solid.corners, solid.triangles, process=True)
    inertia = mesh.moment_inertia[[0, 1, 2, 0, 0, 1], [0, 1, 2, 1, 2, 2]] + 0.0
    whole = abs(inertia[:3]).max()
    return [round(float(v), 3) + 0.0 for v in (mesh.area, mesh.volume, *mesh.bounds.ravel(), *mesh.center_mass)] + [
        round(float(v / whole), 5) + 0.0 for v in inertia
    ]


if __name__ == "__main__":
    rows = ",\n".join(f"{json.dumps(name)}: {json.dumps(measured(solid))}" for name, solid in solids())
    RECORD.write_text("{\n" + rows + "\n}\n", "utf-8")
