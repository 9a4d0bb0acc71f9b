"""Differences in margins, and whether tests rank alike (METHODS 12 and 15)."""

import pytest

from assayer.core.methods.properties import property_of
from assayer.core.stats.groups import Interval
from assayer.core.stats.profile import Change, agreement_of_tests, change_of, in_margins
from assayer.core.stats.verdicts import GoodSide, VerdictWord

HIGHER, LOWER, NEAR = GoodSide.HIGHER, GoodSide.LOWER, GoodSide.NEAR


def test_the_good_side_is_positive():
    assert in_margins(-0.244, Interval(-0.312, -0.176), 0.1, LOWER) == in_margins(0.244, Interval(0.176, 0.312), 0.1, HIGHER)
    place = in_margins(3.4, Interval(1.4, 5.4), 2.0, GoodSide.NONE)
    assert (place.at, place.interval.low, place.interval.high) == pytest.approx((1.7, 0.7, 2.7))
    assert in_margins(3.4, None, 2.0, LOWER).interval is None


def test_near_counts_what_is_nearer_to_the_target():
    # the reference is 2 above its target: 1.5 less is nearer, 5 less is further off on the other side
    assert in_margins(-1.5, None, 0.5, NEAR, offset=2.0).at == pytest.approx(3.0)
    assert in_margins(-5.0, None, 0.5, NEAR, offset=2.0).at == pytest.approx(-2.0)
    over = in_margins(-2.5, Interval(-3.5, -1.5), 0.5, NEAR, offset=2.0)
    assert (over.interval.low, over.interval.high) == pytest.approx((1.0, 4.0)), "the best in the interval is the target itself"
    short = in_margins(-1.0, Interval(-1.5, -0.5), 0.5, NEAR, offset=2.0)
    assert (short.interval.low, short.interval.high) == pytest.approx((1.0, 3.0))


def test_only_a_verdict_is_a_change():
    assert [change_of(w) for w in (VerdictWord.BETTER, VerdictWord.WORSE, VerdictWord.EQUIVALENT)] == [Change.GAIN, Change.LOSS, Change.ALIKE]
    assert {change_of(w) for w in (VerdictWord.UNDECIDED, VerdictWord.NONE, None)} == {Change.OPEN}
    assert change_of(VerdictWord.LOWER) is Change.DIFFERS


def test_rankings_of_tests_are_compared_over_what_all_measured():
    # METHODS 12: orders 1 2 3 4, 2 1 3 4, 1 3 2 4 give W 0.77778; here as means, one test with its good side low
    first, second = {"a": 9, "b": 8, "c": 7, "d": 6}, {"a": 3, "b": 4, "c": 2, "d": 1}
    third = {"a": 10, "b": 30, "c": 20, "d": 40, "only here": 5}
    found = agreement_of_tests([first, second, third], [HIGHER, HIGHER, LOWER])
    assert (found.w, found.graders, found.prints) == (pytest.approx(0.77778, abs=1e-5), 3, 4)
    assert agreement_of_tests([{"a": 1, "b": 2}, {"a": 1, "b": 2}], [HIGHER, HIGHER]) is None, "two arms agree by chance"
    assert agreement_of_tests([first], [HIGHER]) is None


def test_orientation_makes_another_property():
    assert property_of("tension", "upright") == property_of("torsion", "upright") == "layer adhesion"
    assert property_of("tension", "flat") != property_of("tension", "upright")
    assert property_of("heat-ramp", "upright") == property_of("deflection-temperature", "flat")
    assert property_of("warp", "flat") is None
