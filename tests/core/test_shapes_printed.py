"""Shapes as solids: their meshes measured with a library of its own, in every orientation, against METHODS 14."""

import math

import numpy as np
import pytest
import trimesh

from assayer.core.errors import EntryError
from assayer.core.shapes import SHAPES, shape
from assayer.core.shapes.printed import FLAT, ON_EDGE, ORIENTATIONS, UPRIGHT, outlines, printed, stand
from assayer.core.shapes.relief import figures

NEAR = 0.005

# METHODS 14: what each is, overall and section in the middle, mm
EXTENTS = {
    "short-pull-bar": (70, 12, 8),
    "dumb-bell-1ba": (75, 10, 4),
    "dumb-bell-1a": (170, 20, 4),
    "d638-i": (165, 19, 3.2),
    "d638-iv": (115, 19, 3.2),
    "d638-v": (63.5, 9.53, 3.2),
    "bar": (80, 10, 4),
    "notched-bar": (80, 10, 4),
    "shear-bar": (42, 5, 5),
    "torsion-rod": (60, 13 * 2 / math.sqrt(3), 13),
    "heat-bar": (80, 10, 4),
    "warp-rail": (180, 12, 3),
    "warp-frame": (120, 120, 3),
    "immersion-coupon": (60, 60, 1),
    "hardness-block": (40, 40, 6),
    "bracket": (45, 45, 20),
}
SECTIONS = {
    "short-pull-bar": (5, 4),
    "dumb-bell-1ba": (5, 4),
    "dumb-bell-1a": (10, 4),
    "d638-i": (13, 3.2),
    "d638-iv": (6, 3.2),
    "d638-v": (3.18, 3.2),
    "notched-bar": (8, 4),
    "torsion-rod": (8, 8),
}


def mesh_of(solid):
    return trimesh.Trimesh(solid.corners, solid.triangles, process=True)


@pytest.mark.parametrize("name", SHAPES)
@pytest.mark.parametrize("orientation", ORIENTATIONS)
def test_a_solid_is_closed_one_body_on_the_bed_and_as_heavy_as_is_said(name, orientation):
    made = shape(name)
    if not stand(made, orientation).stands:
        with pytest.raises(EntryError, match=r"falls over|flat only") as error:
            printed(made, orientation)
        assert error.value.field == "orientation"
        return
    solid, standing = printed(made, orientation)
    mesh = mesh_of(solid)
    assert mesh.is_watertight
    assert mesh.is_winding_consistent
    assert mesh.body_count == 1
    assert mesh.bounds[0][2] == pytest.approx(0, abs=1e-6)
    # raised marks are no thicker than 0.2 mm, and a foot only makes it heavier
    extra = 0.25 if orientation == UPRIGHT and made.name.startswith("short-pull") else 0.02
    assert made.volume * 0.999 < mesh.volume / 1e3 < made.volume * 1.003 + extra
    assert (standing.width, standing.depth) == pytest.approx(mesh.extents[:2], abs=0.25)
    assert np.abs(mesh.bounds[0][:2] + mesh.bounds[1][:2]).max() < 0.25, "over the middle of the bed"


@pytest.mark.parametrize(("name", "wanted"), EXTENTS.items())
def test_extents_are_nominal(name, wanted):
    x0, y0, z0, x1, y1, z1 = shape(name).body().bounding_box()
    assert (x1 - x0, y1 - y0, z1 - z0) == pytest.approx(wanted, abs=NEAR)


@pytest.mark.parametrize(("name", "wanted"), SECTIONS.items())
def test_the_section_in_the_middle_is_nominal_in_every_orientation(name, wanted):
    made = shape(name)
    for orientation in ORIENTATIONS:
        if not stand(made, orientation).stands:
            continue
        mesh = mesh_of(printed(made, orientation)[0])
        axis = np.array([0, 0, 1]) if orientation == UPRIGHT else np.array([1, 0, 0])
        middle = made.dimensions.get("overall", made.body().bounding_box()[3] * 2) / 2 if orientation == UPRIGHT else 0.0
        # beside the middle of the notch there is nothing to slip past: its tip is round
        section = mesh.section(plane_origin=axis * (middle + 1e-4), plane_normal=axis)
        size = sorted(np.ptp(section.vertices, axis=0)[np.abs(axis) < 0.5])
        assert size == pytest.approx(sorted(wanted), abs=NEAR), orientation


def test_pins_faces_holes_and_distances_are_where_they_are_used():
    bar = mesh_of(printed(shape("short-pull-bar"), FLAT)[0])
    cut = bar.section(plane_origin=[0, 0, 4], plane_normal=[0, 0, 1]).vertices
    for x in (-28, 28):
        hole = cut[np.hypot(cut[:, 0] - x, cut[:, 1]) < 4]
        assert np.hypot(hole[:, 0] - x, hole[:, 1]) == pytest.approx(3, abs=NEAR), "Ø 6, 56 apart"
    frame = mesh_of(printed(shape("creep-frame"), FLAT)[0])
    faces = frame.section(plane_origin=[17.5, 0, 3], plane_normal=[1, 0, 0]).vertices[:, 1]
    assert min(abs(faces)) == pytest.approx(10, abs=NEAR), "gauge faces 20 apart"
    top, _ = outlines(shape("dimension-gauge"))
    holes = sorted((loop for loop in top if np.ptp(loop[:, 0]) < 30), key=lambda loop: np.ptp(loop[:, 0]))
    assert [np.ptp(h[:, 0]) for h in holes] == pytest.approx([6, 12, 24], abs=NEAR)
    middles = sorted((h.min(axis=0) + h.max(axis=0))[0] / 2 for h in holes)
    assert np.diff(middles) == pytest.approx([40, 40], abs=NEAR)
    (outer,) = (loop for loop in top if np.ptp(loop[:, 0]) > 100)
    steps = {round(x + 60, 3) for x in outer[:, 0]} - {0.0}
    assert steps == {10, 20, 30, 40, 80, 120}


def test_the_notch_has_its_angle_its_depth_and_its_radius():
    (loop,), _ = outlines(shape("notched-bar"))
    inside = loop[(np.abs(loop[:, 0]) < 2) & (np.abs(loop[:, 1]) < 5 - 1e-9)]
    assert inside[:, 1].min() == pytest.approx(3, abs=NEAR), "8.0 left of 10"
    tip = inside[np.hypot(inside[:, 0], inside[:, 1] - 3.25) < 0.26]
    assert np.hypot(tip[:, 0], tip[:, 1] - 3.25) == pytest.approx(0.25, abs=1e-6)
    edge = loop[(np.abs(loop[:, 1] - 5) < 1e-9) & (np.abs(loop[:, 0]) < 3)][:, 0]
    side = max(tip[:, 0]), tip[np.argmax(tip[:, 0]), 1]
    assert 2 * math.degrees(math.atan((max(edge) - side[0]) / (5 - side[1]))) == pytest.approx(45, abs=0.01)


def test_gauge_marks_stand_a_gauge_length_apart_and_take_nothing_off():
    made = shape("dumb-bell-1ba")
    plain, marked = made.body().volume(), mesh_of(printed(made, FLAT)[0])
    raised = marked.vertices[marked.vertices[:, 2] > 4 + 0.19]
    assert sorted({round(x, 3) for x in raised[:, 0]}) == pytest.approx([-12.7, -12.3, 12.3, 12.7])
    assert marked.volume > plain


def test_a_number_is_sunk_where_it_does_not_weaken():
    made = shape("dumb-bell-1a")
    bare, numbered = (mesh_of(printed(made, FLAT, n)[0]) for n in (None, 12))
    assert numbered.is_watertight
    gone = bare.volume - numbered.volume
    assert gone == pytest.approx(0.4 * sum(s.wide * s.tall for s in figures("12", 7, 5)), rel=0.2)
    cut = numbered.vertices[np.abs(numbered.vertices[:, 2] - 3.6) < 1e-6]
    assert cut[:, 0].max() < -57.5, "outside the grips, 115 apart"
    assert printed(made, FLAT, 12)[1] == printed(made, FLAT)[1]
    for name, number in (("short-pull-bar", 3), ("bar", 0), ("bar", 1000)):
        with pytest.raises(EntryError) as error:
            printed(shape(name), FLAT, number)
        assert error.value.field == "number"


def test_who_wants_a_brim_or_supports_is_told():
    wants = {(s.name, o): (st.brim, st.supports) for s in SHAPES.values() for o in ORIENTATIONS if (st := stand(s, o)).stands}
    assert wants["short-pull-bar", UPRIGHT] == (False, False), "it stands on its foot"
    assert wants["short-pull-bar", FLAT] == (False, True), "its middle hangs above the bed"
    assert wants["bar", UPRIGHT] == (True, False)
    assert wants["bar", FLAT] == (False, False)
    assert wants["torsion-rod", FLAT][1] is True
    assert wants["d638-v", ON_EDGE][1] is True
    assert ("d638-i", UPRIGHT) not in wants
    foot = mesh_of(printed(shape("short-pull-bar"), UPRIGHT)[0]).section(plane_origin=[0, 0, 1], plane_normal=[0, 0, 1])
    assert np.ptp(foot.vertices, axis=0)[:2] == pytest.approx([12, 12], abs=NEAR)


@pytest.mark.parametrize(
    ("name", "sizes", "field", "says"),
    [
        ("bar", {"length": 3}, "length", "it has overall, width, thickness"),
        ("bar", {"width": 0}, "width", "between 0 and 1000"),
        ("bar", {"width": math.nan}, "width", "between"),
        ("dumb-bell-1ba", {"width": 12}, "end_width", "break in the grips"),
        ("dumb-bell-1ba", {"gauge_length": 31}, "gauge_length", "within 30 mm"),
        ("dumb-bell-1ba", {"overall": 40}, "overall", "no ends"),
        ("dumb-bell-1ba", {"grips_apart": 29}, "grips_apart", "parallel part of 30 mm"),
        ("short-pull-bar", {"end_thickness": 3}, "end_thickness", "thinner"),
        ("short-pull-bar", {"pin_hole": 10}, "pin_hole", "too little"),
        ("notched-bar", {"depth": 10}, "depth", "leaves nothing"),
        ("notched-bar", {"angle": 5}, "angle", "between 10"),
        ("notched-bar", {"tip": 1.5}, "tip", "does not fit"),
        ("creep-frame", {"pin_hole": 8}, "pin_hole", "leaves nothing"),
        ("creep-frame", {"faces": 30}, "faces", "do not stand out"),
        ("creep-frame", {"reach": 10}, "reach", "no room"),
        ("warp-frame", {"web": 60}, "web", "fill a frame"),
        ("bracket", {"lever": 45}, "lever", "cannot be loaded"),
        ("bracket", {"thickness": 45}, "thickness", "no longer"),
        ("torsion-rod", {"diameter": 13}, "diameter", "slip in the key"),
        ("heat-bar", {"free": 80}, "free", "more than"),
        ("check-piece", {"width": 20}, "width", "36 × 24"),
    ],
)
def test_sizes_that_cannot_be_are_refused_by_name(name, sizes, field, says):
    with pytest.raises(EntryError, match=says) as error:
        shape(name).resized(sizes)
    assert error.value.field == field


def test_own_sizes_are_made_and_said():
    assert shape("check-piece").resized({"width": 24, "length": 36}).refusals() == [], "the least that its parts need"
    made = shape("dumb-bell-1ba").resized({"width": 6.5})
    assert made.label.endswith("width 6.5")
    section = mesh_of(printed(made, FLAT)[0]).section(plane_origin=[1e-4, 0, 0], plane_normal=[1, 0, 0])
    assert np.ptp(section.vertices, axis=0)[1] == pytest.approx(6.5, abs=NEAR)
    assert shape("bar").resized({}) is shape("bar")
    with pytest.raises(EntryError, match="flat, on edge, upright"):
        printed(made, "sideways")
