"""The gauge turned by a quarter: the same lengths along the other axis, so that shrinkage is known for each."""

import numpy as np
import pytest
from manifold3d import CrossSection

from assayer.core.methods import REGISTRY
from assayer.core.methods.inputs import Entry, Inputs
from assayer.core.shapes.gauges import DIMENSION_GAUGE as ALONG
from assayer.core.shapes.gauges import DIMENSION_GAUGE_ACROSS as ACROSS


def test_it_has_the_same_features_each_turned_by_a_right_angle():
    assert [f.name for f in ACROSS.features] == [f.name for f in ALONG.features]
    for one, other in zip(ALONG.features, ACROSS.features, strict=True):
        for name in ("start", "end"):
            (x, y), turned = getattr(one, name), getattr(other, name)
            assert turned == (-y, x)
        along_x, along_y = np.abs(np.subtract(one.end, one.start)), np.abs(np.subtract(other.end, other.start))
        assert along_x == pytest.approx([one.nominal, 0])
        assert along_y == pytest.approx([0, one.nominal])


def test_its_body_lies_where_its_features_are():
    """The volume is that of the gauge; its box is turned; the greatest step spans it, and every hole is open."""
    body, turned = ALONG.body(), ACROSS.body()
    assert turned.volume() == pytest.approx(body.volume())
    assert ACROSS.volume == ALONG.volume
    x0, y0, _, x1, y1, top = body.bounding_box()
    assert turned.bounding_box() == pytest.approx((-y1, x0, 0, -y0, x1, top))
    for hole in (f for f in ACROSS.features if f.kind == "inner"):
        middle = np.add(hole.start, hole.end) / 2
        inside = turned.translate([-middle[0], -middle[1], 0]).bounding_box()
        assert inside[0] < 0 < inside[3]
        probe = ACROSS.body().slice(ACROSS.height / 2).to_polygons()
        assert any(np.allclose(np.mean(loop, axis=0), middle, atol=0.2) for loop in probe if len(loop) > 20)
    place, own = ACROSS.number_place, ALONG.number_place
    assert (place.x, place.y) == (-own.y, own.x)
    # the number has its room on the body, a millimetre from its edge
    assert own.x - own.room / 2 == pytest.approx(x0 + 1)
    there = CrossSection.square([own.room, own.tall], center=True).translate([own.x, own.y])
    assert (body.slice(ALONG.height / 2) ^ there).area() == pytest.approx(own.room * own.tall)


def test_what_is_measured_of_it_is_reduced_like_that_along_x():
    """A material that shrinks by 0.4 % along x and by 0.7 % along y."""
    for shape, shrinks in ((ALONG, 0.004), (ACROSS, 0.007)):
        side = {"outer": 1, "inner": -1, "centre": 0}
        entries = [Entry("measured", (1 - shrinks) * f.nominal + 2 * 0.05 * side[f.kind], i, about=f.name) for i, f in enumerate(shape.features)]
        found = REGISTRY["dimensions"].reduce(Inputs(entries, shape))
        assert found.get("shrinkage").value == pytest.approx(shrinks, abs=1e-9)
        assert found.get("contour_offset").value == pytest.approx(0.05, abs=1e-9)
