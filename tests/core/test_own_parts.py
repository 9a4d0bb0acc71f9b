"""Parts of one's own: read from files of a second program, checked, laid on the bed; and what a part in use bears."""

import io
import zipfile

import numpy as np
import pytest
import trimesh

from assayer.core.errors import EntryError, FileError
from assayer.core.methods import REGISTRY
from assayer.core.methods.inputs import Entry, Inputs
from assayer.core.methods.vocabulary import Bound
from assayer.core.shapes import SHAPES
from assayer.core.shapes.own import MOST_TRIANGLES, own_part
from assayer.core.shapes.printed import ORIENTATIONS, printed, stand, views
from assayer.formats.solids.drawing_svg import Mark, part_svg
from assayer.formats.solids.read_solid import read_solid


def hook():
    """A plate with a hole and a ring beside it: two bodies, one of them with a hole."""
    plate = trimesh.creation.box((40, 20, 6)).difference(trimesh.creation.cylinder(4, 20))
    ring = trimesh.creation.annulus(3, 6, 5)
    ring.apply_translation((40, 5, 10))
    return trimesh.util.concatenate([plate, ring])


def file_of(mesh, kind, unit="millimeter"):
    written = (trimesh.Scene(mesh) if kind == "3mf" else mesh).export(file_type=kind)
    if kind != "3mf" or unit == "millimeter":
        return written
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(written)) as package, zipfile.ZipFile(out, "w") as other:
        for name in package.namelist():
            other.writestr(name, package.read(name).replace(b'unit="millimeter"', f'unit="{unit}"'.encode()))
    return out.getvalue()


@pytest.mark.parametrize("kind", ["stl", "stl_ascii", "3mf"])
def test_a_part_has_the_size_and_volume_that_a_second_program_finds(kind):
    mesh = hook()
    written = file_of(mesh, kind)
    read = read_solid(written if isinstance(written, bytes) else written.encode(), f"Hook.{kind.split('_')[0].upper()}")
    part = own_part("n", "hook", read.corners, read.triangles, read.unit or "mm")
    assert list(part.dimensions.values()) == pytest.approx(mesh.extents, abs=2e-3)
    assert part.volume == pytest.approx(mesh.volume / 1e3, rel=1e-5)
    low, high = part.solid.corners.min(axis=0), part.solid.corners.max(axis=0)
    assert (low + high)[:2] == pytest.approx([0, 0], abs=1e-9)
    assert low[2] == 0
    for orientation, axis in zip(ORIENTATIONS, (2, 1, 0), strict=True):
        assert stand(part, orientation).height == pytest.approx(mesh.extents[axis], abs=2e-3)
    solid, _ = printed(part, "flat")
    assert trimesh.Trimesh(solid.corners, solid.triangles).is_watertight


def test_a_part_that_was_drawn_in_inches_comes_in_millimetres():
    cube = trimesh.creation.box((1, 2, 3))
    read = read_solid(file_of(cube, "3mf", "inch"), "cube.3mf")
    assert read.unit == "in"
    assert own_part("n", "cube", read.corners, read.triangles, "in").dimensions == {"length": 25.4, "width": 50.8, "height": 76.2}
    # every unit that a 3MF may state comes out as long as it is
    for stated, mm in {"micron": 0.001, "millimeter": 1, "centimeter": 10, "inch": 25.4, "foot": 304.8, "meter": 1000}.items():
        size = 30 / mm
        read = read_solid(file_of(trimesh.creation.box((size / 3, size / 2, size)), "3mf", stated), "bar.3mf")
        assert own_part("n", "bar", read.corners, read.triangles, read.unit).dimensions == pytest.approx({"length": 10, "width": 15, "height": 30}, rel=1e-4)
    small = trimesh.creation.box((0.5, 1, 1.5))
    with pytest.raises(EntryError, match=r"read in mm, the part is 1\.5 mm long: if it was drawn in cm or in, say so") as found:
        own_part("n", "cube", small.vertices, small.faces)
    assert found.value.field == "unit"
    large = trimesh.creation.box((1000.1, 1, 1))
    with pytest.raises(EntryError, match="1e\\+03 mm long"):
        own_part("n", "bar", large.vertices, large.faces)
    with pytest.raises(EntryError, match="no unit that a part is drawn in"):
        own_part("n", "bar", cube.vertices, cube.faces, "ft")


def test_what_is_no_closed_body_is_refused_with_what_is_wrong():
    cube = trimesh.creation.box((10, 10, 10))
    refused = {
        "not closed: 3 edges": (cube.vertices, cube.faces[1:]),
        "holds nothing|not that of a body|not closed": (cube.vertices, np.vstack([cube.faces[:6], cube.faces[6:, ::-1]])),
        "no surface": (cube.vertices, cube.faces[:0]),
        "names a corner that is not there": (cube.vertices, np.where(np.arange(12)[:, None] == 3, 8, cube.faces)),
        "names a corner": (cube.vertices, np.where(np.arange(12)[:, None] == 3, -1, cube.faces)),
        "not at a number": (np.where(np.arange(8)[:, None] == 0, np.nan, cube.vertices), cube.faces),
        f"{MOST_TRIANGLES} at most": (cube.vertices, np.repeat(cube.faces, MOST_TRIANGLES // 12 + 1, axis=0)),
    }
    for why, (corners, triangles) in refused.items():
        with pytest.raises(EntryError, match=why):
            own_part("n", "cube", corners, triangles)
    # inside out is put right
    assert own_part("n", "cube", cube.vertices, cube.faces[:, ::-1]).volume == pytest.approx(1.0)


def test_files_that_are_none_are_refused_by_name():
    bomb = io.BytesIO()
    with zipfile.ZipFile(bomb, "w", zipfile.ZIP_DEFLATED) as package:
        package.writestr("3D/3dmodel.model", b"0" * 400_000_001)
    for data, name, why in (
        (b"solid", "part.obj", "neither an STL nor a 3MF"),
        (b"", "part.stl", "is empty"),
        (b"\0" * 200, "part.stl", "no surface|cannot be read"),
        (b"PK nothing", "part.3mf", "is no 3MF file"),
        (bomb.getvalue(), "part.3mf", "unpacks to more than 400 MB"),
    ):
        with pytest.raises(FileError, match=why) as found:
            read_solid(data, name)
        assert name in str(found.value)


def test_views_are_seen_from_above_the_front_and_the_side():
    mesh = hook()
    part = own_part("n", "hook", mesh.vertices, mesh.faces)
    found = views(part)
    size = dict(zip("xyz", mesh.extents, strict=True))
    for view, (u, v) in {"top": "xy", "front": "xz", "side": "yz"}.items():
        assert np.ptp(np.vstack(found[view]), axis=0) == pytest.approx([size[u], size[v]], abs=0.03)
    # the hole of the plate and that of the ring are seen from above only
    assert [len(found[v]) for v in ("top", "front", "side")] == [4, 2, 2]
    # the ring hangs above the plate: right in front, and in the side view at its own y
    front = np.vstack(found["front"])
    assert front[front[:, 1] > 7][:, 0].min() > 0
    side = np.vstack(found["side"])
    assert side[side[:, 1] > 15][:, 0].mean() > 0
    drawn = part_svg("hook & ring", found, [Mark("top", -10.0, 0.0, "bore 8"), Mark("side", 0.0, 3.0, "underside")])
    assert drawn.count("<circle") == 2
    assert "hook &amp; ring, mm" in drawn
    assert ">1 bore 8<" in drawn
    assert ">2 underside<" in drawn


def test_a_part_has_the_sizes_of_its_file():
    cube = trimesh.creation.box((10, 10, 10))
    part = own_part("n", "cube", cube.vertices, cube.faces)
    assert part.resized({}) is part
    with pytest.raises(EntryError, match="comes from a file"):
        part.resized({"length": 12})
    assert (part.family, part.number_place, part.gauge) == ("part", None, None)


def test_a_part_that_rests_on_an_edge_does_not_stand():
    corners = np.array([[-10, 0, 0], [10, 0, 0], [-10, -5, 8], [10, -5, 8], [-10, 5, 8], [10, 5, 8]], dtype=float)
    roof = trimesh.convex.convex_hull(corners)
    part = own_part("n", "roof", roof.vertices, roof.faces)
    assert stand(part, "flat").stands is False
    with pytest.raises(EntryError, match="it falls over"):
        printed(part, "flat")


# ---- in use --------------------------------------------------------------------------------------


def used(outcome="broke", steps=None, **readings):
    method = REGISTRY["functional-part"]
    return method.reduced(Inputs([Entry(n, float(v), 0) for n, v in readings.items()], SHAPES["bracket"], outcome, steps=steps or {}))


def test_a_part_in_use_is_told_per_gram_and_per_hour():
    # METHODS 11 and the open format's example
    found = used(peak_force=331.3, mass=10.2, print_time=7112, load=100, deflection=2.5, residual=0.3, steps={"peak_force": 0.5, "residual": 0.01, "mass": 0.1})
    values = {r.quantity: r.value for r in found.results}
    assert values == pytest.approx(
        {
            "peak_force": 331.3,
            "mass": 10.2,
            "load_per_mass": 32.480392,
            "load_per_hour": 167.699663,
            "stiffness": 40,
            "stiffness_per_mass": 3.921569,
            "residual_deflection": 0.3,
        }
    )
    steps = {r.quantity: r.reading_step for r in found.results}
    assert steps["mass"] == pytest.approx(0.1)
    assert (steps["load_per_mass"], steps["load_per_hour"], steps["residual_deflection"]) == (
        pytest.approx(((0.5 / 10.2) ** 2 + (331.3 * (1 / 10.3 - 1 / 10.2)) ** 2) ** 0.5),
        pytest.approx(0.5 * 3600 / 7112),
        pytest.approx(0.01),
    )
    method = REGISTRY["functional-part"]
    bounds = {r.quantity: method.bound_of(r, "held", "counts") for r in found.results}
    assert {q for q, b in bounds.items() if b is Bound.AT_LEAST} == {"peak_force", "load_per_mass", "load_per_hour"}
    assert method.bound_of(found.results[0], "broke", "counts") is Bound.EXACT
    assert [r.quantity for r in used(peak_force=10).results] == ["peak_force"]


@pytest.mark.parametrize(
    ("readings", "field"),
    [
        ({"mass": 10}, "peak_force"),
        ({"peak_force": 10, "load": 5}, "deflection"),
        ({"peak_force": 10, "deflection": 1}, "load"),
        ({"peak_force": 10, "load": 11, "deflection": 1}, "load"),
        ({"peak_force": 10, "load": 5, "deflection": 1, "residual": 1.1}, "residual"),
        ({"peak_force": 10, "mass": 0}, "mass"),
    ],
)
def test_what_cannot_be_is_refused_by_its_field(readings, field):
    with pytest.raises(EntryError) as found:
        used(**readings)
    assert found.value.field == field
