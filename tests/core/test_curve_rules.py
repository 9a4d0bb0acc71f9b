"""Each rule of METHODS 1 at its edge: what is just inside, what is just outside, and a second computation of the figure."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from assayer.core.curves.breaking import find_break
from assayer.core.curves.loading import ToeLine, find_strain_zero
from assayer.core.curves.recording import Recording, white_noise
from assayer.core.curves.remarks import clipped
from assayer.core.curves.stiffness import find_modulus, find_yield
from assayer.core.curves.travel import TravelScale
from assayer.core.errors import EntryError
from assayer.core.methods.tension import Section, reduce_curve, reduce_peak
from assayer.core.methods.vocabulary import Bound

from .test_tension import pull, reduced

# ---- the recording itself ------------------------------------------------------------------------


def test_a_recording_needs_five_rows_and_channels_of_one_length():
    with pytest.raises(EntryError, match="at least 5 rows, but has 4"):
        Recording.of(force=np.zeros(4))
    with pytest.raises(EntryError, match="at least 5 rows, but has 0"):
        Recording.of()
    assert Recording.of(force=np.zeros(5)).rows == 5
    with pytest.raises(EntryError, match=r"travel must have as many rows as force \(5\), but has 6") as found:
        Recording.of(force=np.zeros(5), travel=np.zeros(6))
    assert found.value.field == "travel"


def test_calibrations_scale_the_named_channel_alone():
    recording = Recording.of(force=np.arange(5.0), travel=np.arange(5.0), lines=np.arange(3, 8), warnings=["w"])
    scaled = recording.scaled({"force": 1.02, "time": 3.0})
    assert scaled.need("force").tolist() == (np.arange(5.0) * 1.02).tolist()
    assert scaled.need("travel").tolist() == np.arange(5.0).tolist()
    assert (scaled.line(4), scaled.warnings) == (7, ["w"])
    assert recording.scaled({"force": 1.0, "time": 3.0}) is recording


def test_rows_know_their_lines_with_and_without_a_list():
    assert Recording.of(force=np.zeros(5), first_line=4).line(3) == 7
    assert Recording.of(force=np.zeros(5), lines=np.array([2, 3, 9, 10, 11])).line(2) == 9
    with pytest.raises(EntryError, match="no strain: it holds force, travel"):
        Recording.of(force=np.zeros(5), travel=np.zeros(5)).need("strain")


@given(st.integers(0, 10_000), st.floats(-50, 50))
@settings(max_examples=15, deadline=None)
def test_noise_is_read_off_a_slope_as_off_a_level(seed, slope):
    made = np.random.default_rng(seed).normal(0, 0.3, 2000)
    assert white_noise(made + slope * np.arange(2000)) == pytest.approx(white_noise(made), rel=1e-6)
    many = [white_noise(np.random.default_rng(i).normal(0, 0.3, 2000)) for i in range(40)]
    assert np.mean(many) == pytest.approx(0.3, rel=0.02)
    assert white_noise(made[:4]) == 0.0
    assert white_noise(made[:5]) > 0


# ---- zero of the force and the break -------------------------------------------------------------


def test_the_tail_must_be_ten_rows_and_near_the_first_row_to_give_the_zero():
    _, stress = pull(head=1, tail=0)
    ten = np.concatenate([stress, np.full(1, 0.2), np.full(10, 0.5)])
    # the crossing is the first row below 40 %, the tail what follows it
    assert find_break(ten, None).zero == pytest.approx(0.5)
    nine = np.concatenate([stress, np.full(1, 0.2), np.full(9, 0.5)])
    assert find_break(nine, None).zero == pytest.approx(0.0)
    assert not find_break(nine, None).proposed
    drifted = np.concatenate([stress, np.full(1, 0.2), np.full(40, 0.06 * stress.max())])
    found = find_break(drifted, None)
    assert (found.proposed, found.zero) == (True, 0.0)
    assert "the break is only proposed" in found.warnings[0]
    near = np.concatenate([stress, np.full(1, 0.2), np.full(40, 0.04 * stress.max())])
    assert not find_break(near, None).proposed


def test_a_proposed_break_is_said_at_each_quantity_that_rests_on_it():
    strain, stress = pull(tail=0, head=5)
    step = strain[1] - strain[0]
    longer = np.append(strain, strain[-1] + step * np.arange(1, 42))
    reduction = reduced(longer, np.concatenate([stress, np.full(41, 0.08 * stress.max())])).reduction
    doubted = {r.quantity for r in reduction.results if any("only proposed" in w for w in r.warnings)}
    assert doubted == {"stress_at_break", "strain_at_break", "energy_to_break"}


def test_torn_is_said_where_the_force_sinks_without_a_drop():
    strain, stress = pull(draw=0.0, tail=0)
    sinking = np.linspace(stress[-1], 0.0, 400)
    more = strain[-1] + (strain[1] - strain[0]) * 20 * np.arange(1, 401)
    reduction = reduced(np.append(strain, more), np.append(stress, sinking)).reduction
    assert "torn: the force sank without a sudden drop" in reduction.warnings
    assert reduction.get("strain_at_break").bound is Bound.EXACT
    assert reduction.get("stress_at_break").value == pytest.approx(0.4 * 40, rel=0.02)


def test_what_does_not_break_has_no_stress_at_break_and_says_so():
    reduction = reduced(*pull(draw=0.05, tail=0)).reduction
    assert reduction.get("stress_at_break") is None
    assert any(w.startswith("not broken") for w in reduction.warnings)


# ---- slack, toe, compliance ----------------------------------------------------------------------


def test_a_rubbery_start_counts_strain_from_where_load_comes_on():
    """Stress grows like the square root: the steepest line meets zero stress long before load comes on."""
    strain = np.concatenate([np.zeros(10), np.linspace(0, 0.4, 800)])
    stress = np.concatenate([np.zeros(10), 8 * np.sqrt(np.linspace(0, 0.4, 800))])
    found = find_strain_zero(stress, strain, stress.size - 1, 0.0)
    assert found.toe is None
    assert "no straight part" in found.warnings[0]
    assert found.offset == strain[found.load_on]


def test_too_few_rows_for_a_toe_line_are_told():
    stress = np.array([0.0, 0.0, 20.0, 40.0, 41.0, 40.0])
    found = find_strain_zero(stress, np.linspace(0, 0.05, 6), 4, 0.0)
    assert (found.toe, found.offset) == (None, 0.01)
    assert "too few rows" in found.warnings[0]


@pytest.mark.parametrize("rows, there", [((2, 5, 8, 11, 14, 20), True), ((2, 5, 8, 14, 20), False), ((1.9, 5, 8, 11, 14, 20), False)])
def test_a_toe_line_needs_six_rows_between_5_and_50_per_cent(rows, there):
    stress = np.array([0.0, 0.0, *rows, 30, 40, 39], float)
    strain = np.concatenate([[-0.001, 0.0], np.array([*rows, 30, 40]) / 2000, [0.021]])
    found = find_strain_zero(stress, strain, stress.size - 2, 0.0)
    assert (found.toe is not None) == there
    if there:
        assert found.toe.slope == pytest.approx(2000)
        assert found.offset == pytest.approx(0.0, abs=1e-9)


@given(st.floats(1e-5, 4e-4), st.floats(5, 30))
@settings(max_examples=15, deadline=None)
def test_the_give_of_the_frame_is_taken_off_the_travel(compliance, area):
    """A stiff and a soft frame tell the same modulus once their give is known; unknown, it is lower by 1/(1 + C·A·E/L)."""
    side = area**0.5
    strain, stress = pull(strength=40.0, modulus=2000.0)
    force = stress * area
    travel = strain * 25.0 + compliance * force
    known = reduce_curve(Recording.of(force=force, travel=travel), Section([side], [side]), TravelScale(25.0, compliance=compliance)).reduction
    stiff = reduce_curve(Recording.of(force=force, travel=strain * 25.0), Section([side], [side]), TravelScale(25.0)).reduction
    for name in ("apparent_modulus", "strain_at_break", "energy_to_break"):
        assert known.get(name).value == pytest.approx(stiff.get(name).value, rel=1e-6), name
    soft = reduce_curve(Recording.of(force=force, travel=travel), Section([side], [side]), TravelScale(25.0)).reduction
    assert soft.get("apparent_modulus").value == pytest.approx(2000 / (1 + compliance * area * 2000 / 25), rel=0.03)


@pytest.mark.parametrize("wrong", [-1e-9, float("nan")])
def test_a_negative_compliance_is_refused(wrong):
    strain, stress = pull()
    with pytest.raises(EntryError, match="compliance must not be negative"):
        reduced(strain, stress, compliance=wrong)


def test_travel_that_runs_backwards_is_turned_and_said():
    strain, stress = pull(draw=0.02)
    turned = reduced(-strain, stress)
    assert "the travel runs backwards: its sign was turned" in turned.reduction.warnings
    straight = reduced(strain, stress)
    assert turned.reduction.get("strain_at_break").value == pytest.approx(straight.reduction.get("strain_at_break").value)
    assert not any("turned" in w for w in straight.reduction.warnings)


# ---- modulus -------------------------------------------------------------------------------------


def line(slope, rows, to):
    x = np.linspace(0, to, rows)
    return x, slope * x


def test_the_modulus_needs_five_rows_in_its_range():
    # a row every 0.0005: 0.0005, 0.0010 … 0.0025 are five
    x, y = line(2000, 61, 0.03)
    assert find_modulus(y, x, 0, 60, None).value == pytest.approx(2000)
    x, y = line(2000, 56, 0.03)
    found = find_modulus(y, x, 0, 55, None)
    assert found.value is None
    assert "fewer than 5 rows" in found.warnings[0]


def test_a_break_inside_the_range_shortens_it_to_nine_tenths():
    x, y = line(2000, 101, 0.002)
    found = find_modulus(y, x, 0, 100, None)
    assert found.range == (0.0005, pytest.approx(0.0018))
    assert any(w.startswith("short range") for w in found.warnings)
    x, y = line(2000, 101, 0.0026)
    assert find_modulus(y, x, 0, 100, None).range == (0.0005, 0.0025)


def test_the_modulus_is_that_of_the_first_passage():
    x, y = line(2000, 401, 0.02)
    # an extensometer taken off at half: what it says then lies in the range again
    off = np.where(np.arange(401) < 200, x, 0.0015 + 1e-5 * np.sin(np.arange(401)))
    found = find_modulus(y, off, 0, 400, None)
    assert found.value == pytest.approx(2000)
    assert found.warnings == []
    # one row that jumps ends no passage, and is not counted in
    jumped = x.copy()
    jumped[15] = 0.01
    found = find_modulus(y, jumped, 0, 400, None)
    assert found.value == pytest.approx(2000)
    assert found.warnings == []


def test_a_bend_in_the_range_is_remarked():
    x = np.linspace(0, 0.01, 1001)
    bent = np.where(x < 0.0015, 2000 * x, 3.0)
    assert any("not straight" in w for w in find_modulus(bent, x, 0, 1000, None).warnings)
    straight = find_modulus(2000 * x, x, 0, 1000, None)
    assert straight.warnings == []


def test_where_the_curve_joins_its_toe_line_late_the_range_starts_there_as_wide():
    x = np.linspace(0, 0.02, 2001)
    # 2 % off the line until 0.0012, on it from there
    y = np.where(x < 0.0012, 0.98, 1.0) * 2000 * x
    found = find_modulus(y, x, 0, 2000, ToeLine(2000.0, 0.0))
    assert found.range == (pytest.approx(0.0012), pytest.approx(0.0032))
    assert found.value == pytest.approx(2000)
    # within 1 % it has joined from the start
    near = np.where(x < 0.0012, 0.995, 1.0) * 2000 * x
    assert find_modulus(near, x, 0, 2000, ToeLine(2000.0, 0.0)).range == (0.0005, 0.0025)
    # a scatter of the toe line as great as the gap joins it as well
    noisy = find_modulus(y, x, 0, 2000, ToeLine(2000.0, 0.02 * 2000 * 0.0012 / 2.9))
    assert noisy.range == (0.0005, 0.0025)


@pytest.mark.parametrize("wrong", [(0.004, 0.002), (-0.001, 0.002), (0.002, 0.002)])
def test_a_range_that_is_none_is_refused(wrong):
    with pytest.raises(EntryError, match="must run from a lower to a higher strain"):
        reduced(*pull(), modulus_range=wrong)


# ---- yield ---------------------------------------------------------------------------------------


def humped(rise_to, hold, end, top=40.0):
    """A straight rise, a level a little lower, and a second rise above the first top."""
    up = np.linspace(0, rise_to, 200)
    level = np.linspace(rise_to, rise_to + hold, 120)[1:]
    on = np.linspace(rise_to + hold, end, 200)[1:]
    x = np.concatenate([up, level, on])
    y = np.concatenate([up / rise_to * top, np.full(level.size, 0.97 * top), np.linspace(0.97 * top, 1.3 * top, on.size)])
    return x, y


def test_a_maximum_must_hold_for_half_a_per_cent_of_strain():
    x, y = humped(0.02, 0.009, 0.08)
    found = find_yield(y, x, 0, x.size - 1, 2000.0)
    assert (found.offset, found.stress) == (False, pytest.approx(40.0))
    x, y = humped(0.02, 0.0015, 0.08)
    assert find_yield(y, x, 0, x.size - 1, 2000.0).offset


def test_a_break_sooner_than_half_a_per_cent_after_the_top_is_no_yield():
    x = np.linspace(0, 0.0201, 202)
    y = np.where(x < 0.017, 2000 * x, 34.0 - 5 * (x - 0.017))
    assert find_yield(y, x, 0, x.size - 1, None) is None
    longer = np.linspace(0, 0.03, 301)
    y = np.where(longer < 0.017, 2000 * longer, 34.0 - 5 * (longer - 0.017))
    assert not find_yield(y, longer, 0, longer.size - 1, None).offset


def test_without_a_modulus_or_a_crossing_there_is_no_yield():
    x, y = line(2000, 301, 0.015)
    assert find_yield(y, x, 0, 300, 2000.0) is None, "a straight line never meets its own offset"
    assert find_yield(y, x, 0, 300, None) is None


@given(st.floats(1000, 4000), st.floats(0.01, 0.03))
@settings(max_examples=20, deadline=None)
def test_the_offset_yield_lies_on_the_offset_line_and_on_the_curve(modulus, bend):
    x = np.arange(0, 0.06, 5e-5)
    y = modulus * x * (1 + (x / bend) ** 4) ** -0.25
    found = find_yield(y, x, 0, x.size - 1, modulus)
    assert found.offset
    assert found.stress == pytest.approx(modulus * (found.strain - 0.002), rel=1e-9)
    assert found.stress == pytest.approx(np.interp(found.strain, x, y), rel=1e-3)


# ---- bounds and energy ---------------------------------------------------------------------------


def test_a_clipped_top_bounds_strength_force_and_the_yield_that_is_that_top():
    strain, stress = pull(draw=0.05, noise=0.02)
    reduction = reduced(strain, np.minimum(stress, 36.0)).reduction
    bounded = {r.quantity for r in reduction.results if r.bound is Bound.AT_LEAST}
    assert bounded == {"strength", "peak_force", "strain_at_strength", "yield_strength", "strain_at_yield"}
    assert reduction.get("yield_strength").value == pytest.approx(36.0, abs=0.02)
    # an offset yield below the clipped top was read all right
    hardening = reduced(*(lambda p: (p[0], np.minimum(p[1], 45.6)))(pull(draw=0.05, hardening=120.0))).reduction
    assert (hardening.get("strength").bound, hardening.get("offset_yield_strength").bound) == (Bound.AT_LEAST, Bound.EXACT)


def test_clipping_needs_eight_rows_and_ten_times_the_level_below():
    rise = np.arange(0.0, 40.0)
    assert clipped(np.concatenate([rise, np.full(10, 40.0), rise[::-1]]))
    assert not clipped(np.concatenate([rise, np.full(7, 40.0), rise[::-1]]))
    # a recording that begins at its top: eight rows are enough, seven are not
    assert [clipped(np.concatenate([np.full(n, 40.0), rise[::-1]])) for n in (8, 7)] == [True, False]
    coarse = np.repeat(rise, 4)
    assert not clipped(np.concatenate([coarse, np.full(39, 40.0), coarse[::-1]]))
    assert clipped(np.concatenate([coarse, np.full(40, 40.0), coarse[::-1]]))
    assert clipped(np.concatenate([np.full(9, 40.0), rise[::-1]])), "at its top from the first row"


def test_the_energy_holds_the_first_triangle():
    """A coarse straight pull whose first loaded row lies at 0.0011: its triangle is 0.3 % of ½·E·ε²."""
    line = 0.0011 + 0.0014 * np.arange(14)
    strain = np.concatenate([line[0] - 0.0014 * np.arange(8, 0, -1), line, line[-1] + 0.0014 * np.arange(1, 12)])
    stress = np.concatenate([np.zeros(8), 2000 * line, np.zeros(11)])
    reduction = reduced(strain, stress).reduction
    assert reduction.get("strain_at_break").value == pytest.approx(line[-1], rel=1e-9)
    assert reduction.get("energy_to_break").value == pytest.approx(0.5 * 2000 * line[-1] ** 2, rel=1e-9)


def test_the_reading_step_of_the_force_reaches_strength_and_force():
    reduction = reduce_peak(Section([4.0], [5.0]), 600.0, 500.0)
    assert reduction.get("stress_at_break").value == 25.0
    curve = reduced(*pull(), step=1.6).reduction
    assert curve.get("strength").reading_step == pytest.approx(0.1)
    assert curve.get("apparent_modulus").reading_step == 0


@pytest.mark.parametrize(
    "peak, at_break, words",
    [
        (0.0, None, "peak force must be greater than 0"),
        (float("inf"), None, "greater than 0"),
        (10.0, 10.5, "between 0 and the peak"),
        (10.0, -1.0, "between 0 and the peak"),
    ],
)
def test_impossible_forces_are_refused(peak, at_break, words):
    with pytest.raises(EntryError, match=words):
        reduce_peak(Section([4], [4]), peak, at_break)
    assert reduce_peak(Section([4], [4]), 10.0, 10.0).get("stress_at_break").value == reduce_peak(Section([4], [4]), 10.0).get("strength").value
