"""Drops, heads and offsets of a recorded curve at their edges, and the compliance of a frame."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from assayer.core.curves.breaking import find_break
from assayer.core.curves.compliance import machine_compliance
from assayer.core.curves.recording import Recording
from assayer.core.curves.remarks import sudden_drops
from assayer.core.curves.stiffness import find_yield
from assayer.core.errors import EntryError

from .test_tension import pull


def test_at_most_three_drops_are_named_the_rest_counted():
    force = np.linspace(0, 100, 400)
    for row in (100, 150, 200, 250, 300):
        force[row : row + 3] -= 8
    found = sudden_drops(Recording.of(force=force, first_line=11), force, 0, 399, 0.0)
    assert len(found) == 4
    assert found[-1] == "2 more sudden drops of force"
    assert found[0].startswith(f"line {11 + 98}:")
    small = np.linspace(0, 100, 400)
    small[100:103] -= 1.9
    assert sudden_drops(Recording.of(force=small), small, 0, 399, 0.0) == []
    assert sudden_drops(Recording.of(force=force), force, 0, 399, 4.0) == [], "within six times the noise"


def frame(compliance=0.0004, rows=200, bow=0.0, noise=0.0, seed=3):
    force = np.concatenate([np.zeros(10), np.linspace(0, 500, rows)])
    travel = compliance * force + bow * (force / 500) ** 2 + noise * np.random.default_rng(seed).standard_normal(force.size)
    return Recording.of(force=force, travel=np.concatenate([np.linspace(-0.3, 0, 10), travel[10:]]))


@given(st.floats(1e-5, 5e-3))
@settings(max_examples=10, deadline=None)
def test_the_compliance_is_the_slope_between_a_fifth_and_nearly_all_of_the_load(compliance):
    found = machine_compliance(frame(compliance))
    assert found.value == pytest.approx(compliance, rel=1e-9)
    assert found.force_range[0] == pytest.approx(100, abs=3)
    assert found.force_range[1] == pytest.approx(475, abs=3)
    assert found.uncertainty == pytest.approx(0, abs=1e-9 * compliance), "a straight line"
    assert found.warnings == ["the bar's own give is not subtracted: enter its length, section and modulus"]


def test_the_interval_of_the_compliance_is_that_of_a_slope():
    from scipy import stats

    made = frame(noise=0.002)
    found = machine_compliance(made)
    force, travel = made.need("force"), made.need("travel")
    used = (force >= 100) & (force <= 475)
    theirs = stats.linregress(force[used], travel[used])
    assert found.rows == used.sum()
    assert found.value == pytest.approx(theirs.slope)
    assert found.r2 == pytest.approx(theirs.rvalue**2)
    half = stats.t.ppf(0.975, used.sum() - 2) * theirs.stderr
    assert found.ci95.high - found.value == pytest.approx(half)


def test_a_frame_that_settles_is_remarked_and_exchanged_columns_are_refused():
    assert "not straight" in machine_compliance(frame(bow=0.3)).warnings[0]
    turned = frame()
    assert machine_compliance(Recording.of(force=-turned.need("force"), travel=turned.need("travel"))).value == pytest.approx(0.0004)
    with pytest.raises(EntryError, match="too few rows"):
        machine_compliance(frame(rows=5))
    with pytest.raises(EntryError, match="too few rows"):
        machine_compliance(Recording.of(force=np.zeros(50), travel=np.zeros(50)))


def test_the_head_of_a_tared_frame_is_averaged_while_it_stays_within_the_noise():
    """Without a tail the zero is the middle of the unloaded head, wherever the display stood: better than its first row alone."""
    for offset in (0.0, 12.0, -7.0):
        off = []
        for seed in range(12):
            _, stress = pull(head=60, tail=0, noise=0.3, seed=seed)
            off.append(find_break(stress * 16.0 + offset, None).zero - offset)
        assert np.median(np.abs(off)) < 0.25 * 0.3 * 16.0, offset


@pytest.mark.parametrize("apart, events", [(3, 1), (4, 1), (5, 2), (30, 2)])
def test_drops_close_together_are_one_event(apart, events):
    """A drop is seen over two rows: two steps are told apart once a row lies between what they reach."""
    force = np.linspace(0, 100, 400)
    for row in (150, 150 + apart):
        force[row:] -= 8
    assert len(sudden_drops(Recording.of(force=force), force, 0, 399, 0.0)) == events


def test_the_offset_yield_of_few_rows_lies_where_the_lines_cross():
    """Bilinear, a row every 0.1 %: E to 30 MPa, then E/10; crossed where 30 + 200 (ε − 0.015) = 2000 (ε − 0.002)."""
    strain = np.arange(0, 0.03, 0.001)
    stress = np.where(strain <= 0.015, 2000 * strain, 30 + 200 * (strain - 0.015))
    found = find_yield(stress, strain, 0, strain.size - 1, 2000.0)
    assert found.strain == pytest.approx(31 / 1800, rel=1e-9)
    assert found.stress == pytest.approx(30 + 200 * (31 / 1800 - 0.015), rel=1e-9)
    assert found.offset
