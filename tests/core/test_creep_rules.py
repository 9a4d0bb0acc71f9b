"""Creep and its due times: METHODS 6 at its edges, by second computations."""

import itertools
from datetime import UTC, datetime, timedelta

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import curve_fit

from assayer.core.errors import EntryError
from assayer.core.methods import REGISTRY
from assayer.core.methods.creep import CreepProtocol
from assayer.core.methods.inputs import Entry, Inputs
from assayer.core.methods.vocabulary import Bound
from assayer.core.plan.due import DueState, due_readings, set_time
from assayer.core.stats.findley import fit_findley

DAY, HOUR = 86400.0, 3600.0
START = datetime(2026, 6, 1, 8, 0, tzinfo=UTC)


def reduce(name, entries, **more):
    return REGISTRY[name].reduced(Inputs(entries, **more))


# ---- Findley and the horizon ---------------------------------------------------------------------


@given(st.floats(0.2, 5), st.floats(0.05, 2), st.floats(0.1, 0.8), st.integers(0, 10_000))
@settings(max_examples=20, deadline=None)
def test_the_fit_is_the_least_squares_one(d0, a, n, seed):
    """Against a general optimiser started at the truth: never a greater sum of squares, the same interval."""
    days = np.array([0.01, 0.1, 0.4, 1, 2, 4, 7])
    values = d0 + a * days**n + np.random.default_rng(seed).normal(0, 0.002, days.size)
    ours = fit_findley(days.tolist(), values.tolist())
    law = lambda t, p, q, r: p + q * t**r  # noqa: E731
    theirs, covariance = curve_fit(law, days, values, p0=(d0, a, n), bounds=([-np.inf, -np.inf, 0.01], [np.inf, np.inf, 0.999]))
    squares = lambda p: float(np.sum((values - law(days, *p)) ** 2))  # noqa: E731
    assert squares((ours.d0, ours.a, ours.n)) <= squares(theirs) * (1 + 1e-6)
    if ours.at_limit or abs(ours.n - theirs[2]) > 1e-4:
        return
    gradient = np.array([1, 5.0**ours.n, ours.a * 5.0**ours.n * np.log(5)])
    half = 2.7764451 * np.sqrt(ours.sd**2 + gradient @ covariance @ gradient)
    found = ours.prediction(5.0)
    assert (found.high - found.low) / 2 == pytest.approx(half, rel=0.02)
    assert ours.sd == pytest.approx(np.sqrt(squares((ours.d0, ours.a, ours.n)) / 4))


def test_the_law_is_refused_where_it_does_not_describe_the_readings():
    straight = fit_findley([1, 2, 3, 4, 5, 6], [1.0, 2.0, 3.0, 4.0, 5.0, 6.0])
    assert straight.at_limit, "creep that goes on evenly has n = 1"
    with pytest.raises(EntryError, match="at least 4 readings"):
        fit_findley([1, 2, 3], [1, 2, 3])
    with pytest.raises(EntryError, match="different times above 0"):
        fit_findley([0, 1, 2, 3], [1, 2, 3, 4])
    with pytest.raises(EntryError, match="different times above 0"):
        fit_findley([2, 2, 2, 2], [1, 2, 3, 4])


def creep(times, values=None, outcome=None, **more):
    law = 0.9 + 0.3 * (np.array(times) / DAY) ** 0.3
    entries = [Entry("gap", float(v), i, after=t) for i, (t, v) in enumerate(zip(times, law if values is None else values, strict=True))]
    return reduce("creep", entries, outcome=outcome, **more)


LONG = [60.0, HOUR, 4 * HOUR, 10 * HOUR, 24 * HOUR, 60 * HOUR]


@pytest.mark.parametrize(
    "times, fitted, there, words",
    [
        (LONG, True, True, None),
        ([*LONG[:4], 49.9 * HOUR], True, False, "by more than half"),
        ([*LONG[:4], 50.1 * HOUR], True, True, None),
        ([*LONG[2:], 101 * HOUR], False, True, "interpolated"),
        ([*LONG[-4:], 101 * HOUR], False, True, "interpolated"),
        (LONG[-4:], False, False, "lies before it"),
    ],
)
def test_where_the_horizon_may_be_told_from_the_fit_and_where_not(times, fitted, there, words):
    """≥ 5 readings, last ≥ 100 × first, not beyond twice the last; else interpolated, not beyond the last."""
    found = creep(times)
    assert (found.get("findley_n") is not None) == fitted
    at = found.get("creep_at_horizon")
    assert (at is not None) == there
    if there:
        law = lambda t: 0.9 + 0.3 * (t / DAY) ** 0.3  # noqa: E731
        exact = law(100 * HOUR) - law(times[0])
        assert at.value == pytest.approx(exact, rel=1e-6 if fitted else 0.03)
        assert (at.interval is None) == (not fitted)
    remarks = " ".join(found.warnings)
    assert words in remarks if words else "horizon" not in remarks


def test_a_fit_needs_a_hundredfold_of_time():
    first = [600.0, HOUR, 4 * HOUR, 10 * HOUR]
    assert creep([*first, 599 * 100.0]).get("findley_n") is None
    assert creep([*first, 600 * 100.0]).get("findley_n") is not None
    assert creep([60.0, HOUR, 4 * HOUR, 100 * HOUR]).get("findley_n") is None, "four readings are too few"


def test_the_labs_own_horizon_is_used():
    protocol = CreepProtocol(horizon=20 * HOUR)
    found = creep(LONG, protocol=protocol).get("creep_at_horizon").value
    assert found == pytest.approx(0.3 * (20 / 24) ** 0.3 - 0.3 * (60 / DAY) ** 0.3, rel=1e-6)
    for wrong, field in (({"horizon": 0.0}, "horizon"), ({"load": -1.0}, "load"), ({"due": (60.0, 60.0)}, "due"), ({"recovery_due": ()}, "recovery_due")):
        with pytest.raises(EntryError) as refused:
            CreepProtocol.read(wrong, "Creep")
        assert refused.value.field == field


def test_what_is_still_to_come_is_provisional_until_the_horizon_or_the_end():
    assert creep(LONG).get("creep_at_horizon").provisional
    assert not creep(LONG, outcome="carried").get("creep_at_horizon").provisional
    assert not creep([*LONG, 100 * HOUR]).get("creep_at_horizon").provisional


def test_what_broke_after_the_horizon_is_exact_and_what_came_off_is_no_bound():
    late = creep([*LONG, 101 * HOUR], outcome="broke").get("creep_at_horizon")
    assert (late.bound, late.warnings) == (Bound.EXACT, [])
    early = creep(LONG, outcome="broke").get("creep_at_horizon")
    law = 0.3 * (60 / 24) ** 0.3 - 0.3 * (60 / DAY) ** 0.3
    assert (early.bound, early.value) == (Bound.AT_LEAST, pytest.approx(law))
    off = creep(LONG, outcome="came off").get("creep_at_horizon")
    assert off.bound is Bound.EXACT


@pytest.mark.parametrize("order", [(0, 1, 2), (2, 1, 0), (1, 0, 2)])
def test_of_several_readings_in_one_window_the_nearest_counts(order):
    """Around 10 h: 9.7, 10.1 and 10.4 h; a quantity is there once."""
    loaded = [Entry("unloaded", 20.0), Entry("gap", 20.4, 0, after=60.0), Entry("gap", 20.9, 1, after=DAY)]
    recovery = [Entry("recovery", 20.3 - 0.1 * i, i, after=h * HOUR) for i, h in enumerate((9.7, 10.1, 10.4))]
    found = reduce("creep", [*loaded, *(recovery[i] for i in order)])
    shares = [(r.key, round(r.value, 9)) for r in found.results if r.quantity == "recovered_share"]
    assert shares == [("recovered_share@36000", round(0.7 / 0.9, 9))]


def test_deformation_on_loading_and_recovery_rest_on_the_unloaded_gap():
    entries = [Entry("unloaded", 20.0), Entry("gap", 20.4, 0, after=60.0), Entry("gap", 20.9, 1, after=DAY), Entry("recovery", 20.3, 0, after=360.0)]
    found = reduce("creep", entries, steps={"gap": 0.01})
    assert found.get("deformation_on_loading").value == pytest.approx(0.4)
    assert found.get("recovered_share@360").value == pytest.approx(0.6 / 0.9)
    assert found.get("remaining_share@360").value == pytest.approx(0.3 / 0.9)
    without = reduce("creep", entries[1:])
    assert without.get("deformation_on_loading") is None
    assert without.get("recovered_share@360") is None
    nothing = reduce("creep", [Entry("unloaded", 20.9), *entries[1:]])
    assert nothing.get("recovered_share@360") is None, "no deformation, no share of it"


def test_a_first_reading_without_time_or_at_no_time_is_refused():
    with pytest.raises(EntryError, match="at least one reading with its time"):
        reduce("creep", [Entry("gap", 20.4)])
    with pytest.raises(EntryError, match="above 0 s"):
        reduce("creep", [Entry("gap", 20.4, after=0.0), Entry("gap", 20.5, 1, after=60.0)])


def test_the_room_is_remarked_beyond_five_degrees_only():
    def remarks(warm):
        return " ".join(reduce("creep", [Entry("gap", 20.4, 0, after=60.0, ambient=20.0), Entry("gap", 20.5, 1, after=HOUR, ambient=warm)]).warnings)

    assert "°C" not in remarks(25.0)
    assert "20 to 25.1 °C" in remarks(25.1)


def test_the_view_counts_creep_from_the_first_reading_in_hours():
    entries = [Entry("gap", 0.9 + 0.3 * (t / DAY) ** 0.3, i, after=t, ambient=21.0 + i) for i, t in enumerate(LONG)]
    view = REGISTRY["creep"].view(Inputs(entries))
    assert view.x.tolist() == pytest.approx([t / HOUR for t in LONG])
    assert view.y[0] == 0
    d0, a, n = view.marks["findley"]
    assert d0 + a * (LONG[3] / DAY) ** n == pytest.approx(view.y[3])
    assert view.marks["horizon"] == (100.0,)
    assert view.marks["ambient"][:4] == pytest.approx((LONG[0] / HOUR, 21.0, 1.0, 22.0))
    assert (view.log_x, view.points) == (True, True)


# ---- due times -----------------------------------------------------------------------------------

TIMES = (60.0, HOUR, 4 * HOUR, 10 * HOUR)


@pytest.mark.parametrize(
    "seconds, states",
    [
        (0, "early ahead ahead ahead"),
        (40, "due ahead ahead ahead"),
        (80, "due ahead ahead ahead"),
        (81, "late ahead ahead ahead"),
        (0.79 * HOUR, "late early ahead ahead"),
        (0.9 * HOUR, "missed due ahead ahead"),
        (1.1 * HOUR, "missed due ahead ahead"),
        (1.11 * HOUR, "missed late ahead ahead"),
        (3.6 * HOUR, "missed missed due ahead"),
        (11.1 * HOUR, "missed missed missed late"),
        (900 * HOUR, "missed missed missed late"),
    ],
)
def test_a_reading_is_early_due_late_or_missed_by_its_window(seconds, states):
    """10 % of the time either way, at least 20 s; missed once the next one's window opens; the last never."""
    found = due_readings(TIMES, START, set(), START + timedelta(seconds=seconds))
    assert " ".join(d.state for d in found) == states


def test_what_was_read_is_read_and_makes_the_one_before_it_missed():
    found = due_readings(TIMES, START, {1}, START + timedelta(seconds=90))
    assert [d.state for d in found] == [DueState.MISSED, DueState.READ, DueState.AHEAD, DueState.AHEAD]


@given(st.lists(st.floats(10, 1e6), min_size=1, max_size=8, unique=True))
@settings(max_examples=40, deadline=None)
def test_windows_hold_their_time_and_never_overlap(times):
    found = due_readings(sorted(times), START, set(), START)
    for d in found:
        assert START <= d.opens <= d.at <= d.closes
        assert (d.closes - d.at).total_seconds() <= max(20, 0.1 * sorted(times)[d.position]) + 1e-3
    assert all(a.closes <= b.opens + timedelta(microseconds=2) for a, b in itertools.pairwise(found))


@pytest.mark.parametrize("after, expected", [(340, 360), (320, 320), (396, 360), (397, 397), (3241, 3600), (3239, 3239), (3960, 3600), (75, 60), (81, 81)])
def test_a_reading_takes_the_set_time_whose_window_it_falls_into(after, expected):
    assert set_time(after, (60.0, 360.0, HOUR)) == expected
    assert set_time(after, ()) == after
