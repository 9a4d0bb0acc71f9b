"""Solids as files: the tower, closed and with a band of everything at each height; shapes in a strict reader; drawings."""

import io
import re
from xml.etree import ElementTree

import lib3mf
import numpy as np
import pytest
import trimesh

from assayer.core.errors import EntryError
from assayer.core.shapes import SHAPES, shape
from assayer.core.shapes.printed import printed
from assayer.core.shapes.tower import tower
from assayer.formats.solids.drawing_svg import drawing_svg
from assayer.formats.solids.mesh_file import write_solid


def loaded(labels, band, base, kind="stl"):
    found = trimesh.load(io.BytesIO(write_solid(tower(labels, band, base), kind, "tower")), file_type=kind, force="mesh")
    found.merge_vertices()
    return found


def loops_at(mesh, z):
    """Outlines of the cut at a height; the tower has no hollows."""
    return [loop[:, :2] for loop in mesh.section(plane_origin=[0, 0, z], plane_normal=[0, 0, 1]).discrete]


def area(loop):
    x, y = loop[:, 0], loop[:, 1]
    return abs(np.sum(x[:-1] * y[1:] - x[1:] * y[:-1])) / 2


@pytest.mark.parametrize("kind", ["stl", "3mf"])
@pytest.mark.parametrize(
    ("labels", "band", "base"), [(["236", "232", "228"], 7, 1.4), (["0", "20", "40", "100"], 10, 0), (["0.5", "1.5"], 5, 2), (["-8", "88888"], 6, 0.3)]
)
def test_towers_are_watertight_and_stand_on_the_bed(kind, labels, band, base):
    mesh = loaded(labels, band, base, kind)
    assert mesh.is_watertight
    assert mesh.is_winding_consistent
    assert mesh.volume > 0
    assert mesh.body_count == 1
    low, high = mesh.bounds
    assert low[2] == pytest.approx(0, abs=1e-6)
    assert high[2] == pytest.approx(base + band * len(labels), abs=1e-5)
    # no larger than any bed, and broad enough to stand
    assert np.all(high[:2] - low[:2] < 80)
    assert sum(area(loop) for loop in loops_at(mesh, 0.1)) > 200


def test_every_band_has_its_bridge_overhangs_and_spikes():
    mesh = loaded(["240", "235", "230"], 8, 1.6)
    reach = {}
    for floor in (1.6, 9.6, 17.6):
        roof, low = loops_at(mesh, floor + 7.4), loops_at(mesh, floor + 0.5)
        assert len(roof) == 1, "the bridge joins the columns"
        assert len(low) == 4, "two columns and two spikes"
        spikes = [np.ptp(loop, axis=0) for loop in sorted(low, key=area)[:2]]
        assert all(2 < side < 3 for spike in spikes for side in spike)
        reach[floor] = np.max(np.vstack(roof), axis=0)[0]
    # 55° reaches 10 mm out of the right column, which ends at 42 mm
    assert list(reach.values()) == pytest.approx([52] * 3, abs=0.5)
    assert np.max(np.vstack(loops_at(mesh, 10)), axis=0)[0] == pytest.approx(42, abs=0.5)


def test_the_value_stands_out_of_the_front():
    eights, ones = (loaded([label], 8, 1.6) for label in ("888", "111"))
    for mesh in (eights, ones):
        assert mesh.bounds[0][1] == pytest.approx(-3, abs=1e-6), "the base reaches further than the relief"
    assert eights.volume > ones.volume + 1


def test_a_base_reaches_around_the_columns_fin_and_overhangs():
    foot = loaded(["1"], 8, 1.6).section(plane_origin=[0, 0, 0.8], plane_normal=[0, 0, 1]).bounds
    assert foot[:, :2] == pytest.approx(np.array([[-3, -3], [54, 23]]), abs=1e-6), "columns to 42, overhangs 10 more, the fin to 20"


def test_a_band_without_room_is_refused():
    with pytest.raises(EntryError, match="at least 5 mm"):
        tower(["1"], 4.9)


def strictly_read(data):
    """What an independent reader finds in a 3MF; it refuses what departs from the format."""
    wrapper = lib3mf.get_wrapper()
    model = wrapper.CreateModel()
    reader = model.QueryReader("3mf")
    reader.SetStrictModeActive(True)
    reader.ReadFromBuffer(data)
    assert [reader.GetWarning(i) for i in range(reader.GetWarningCount())] == []
    assert model.GetUnit() == lib3mf.ModelUnit.MilliMeter
    found, items = {}, model.GetBuildItems()
    while items.MoveNext():
        mesh = items.GetCurrent().GetObjectResource()
        corners = np.array([list(v.Coordinates) for v in mesh.GetVertices()])
        found[mesh.GetName()] = (mesh.IsManifoldAndOriented(), np.ptp(corners, axis=0))
    return found


@pytest.mark.parametrize("name", SHAPES)
def test_a_strict_reader_opens_every_shape_by_its_name_in_millimetres(name):
    made = shape(name)
    solid, standing = printed(made, "flat")
    ((named, (manifold, extents)),) = strictly_read(write_solid(solid, "3mf", f"{made.label}, flat")).items()
    assert (named, manifold) == (f"{made.label}, flat", True)
    assert extents[:2] == pytest.approx((standing.width, standing.depth), abs=1e-3)


def test_a_drawing_is_svg_to_scale_with_every_length():
    made = shape("notched-bar").resized({"width": 12.7})
    root = ElementTree.fromstring(drawing_svg(made))
    assert root.get("width").removesuffix("mm") == root.get("viewBox").split()[2]
    words = " ".join(e.text for e in root.iter() if e.text)
    for said in ("notched bar", "overall 80", "width 12.7", "depth 2", "angle 45°", "tip 0.25"):
        assert said in words
    views = [e.get("d") for e in root.iter("{http://www.w3.org/2000/svg}path") if e.get("fill") == "#F3EEE3"]
    points = [np.array([p.split() for p in re.split("[MLZ]", d) if p.strip()], float) for d in views]
    assert [list(np.ptp(p, axis=0).round(3)) for p in points] == [[80, 12.7], [80, 4]]
