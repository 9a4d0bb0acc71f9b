"""Contrasts of several factors, shapes of sweeps, agreement of rigs and judged claims: worked cases of METHODS 15, and what must hold."""

import numpy as np
import pytest
from scipy import stats

from assayer.core.errors import EntryError
from assayer.core.stats.agreement import agreement
from assayer.core.stats.claimed import ClaimVerdict, judge_factor, judge_value
from assayer.core.stats.effects import lenth, levels_of, replicated_effects, unreplicated_effects
from assayer.core.stats.groups import summarise
from assayer.core.stats.sweep import Shape, sweep
from assayer.core.stats.verdicts import GoodSide, Margin

CELLS = {
    ("1", "1"): [41.2, 42.6, 40.1, 43.0], ("1", "2"): [33.4, 31.9, 34.8, 32.2],
    ("2", "1"): [38.0, 37.1, 38.9, 37.6], ("2", "2"): [35.1, 36.0, 34.2, 35.5],
}  # fmt: skip
TWO = {"first": ["1", "2"], "second": ["1", "2"]}
LAYERS = dict(
    zip((0.12, 0.16, 0.20, 0.24, 0.28), ([30.1, 31.0, 29.6], [33.2, 32.5, 33.9], [34.1, 33.4, 34.6], [33.0, 33.8, 32.9], [29.9, 30.6, 31.1]), strict=True)
)
SKEWED = dict(
    zip(
        (20, 30, 40, 60, 90, 120),
        ([21.0, 20.2, 21.5], [26.1, 25.4, 26.6], [28.0, 28.5, 27.6], [27.1, 26.5, 27.4], [23.9, 24.6, 24.1], [21.4, 22.0, 21.1]),
        strict=True,
    )
)


def swept(levels, margin=2.0, **more):
    pairs = [(x, y) for x, own in levels.items() for y in own]
    return sweep([x for x, _ in pairs], [y for _, y in pairs], Margin(margin, relative=False), **more)


def test_the_worked_case_of_two_factors():
    """METHODS 15, computed independently there."""
    main, second, both = replicated_effects(TWO, {cell: summarise(own) for cell, own in CELLS.items()}).effects
    assert (main.difference, main.ci95.low, main.ci95.high, main.df) == pytest.approx((-0.85, -2.0613, 0.3613, 9.5735), abs=5e-5)
    assert (second.difference, second.ci95.low, second.ci95.high) == pytest.approx((-5.675, -6.8863, -4.4637), abs=5e-5)
    assert (both.difference, both.ci95.low, both.ci95.high) == pytest.approx((5.95, 3.5274, 8.3726), abs=5e-5)
    assert both.p == pytest.approx(3.033e-4, rel=1e-3)
    assert (both.name, both.levels, both.against) == ("first:second", ("2", "2"), ("1", "1"))


def test_one_factor_of_two_levels_is_the_comparison_of_two_means():
    a, b = [1.0, 2.0, 4.0], [3.0, 5.0, 5.5, 4.0]
    (only,) = replicated_effects({"f": ["a", "b"]}, {("a",): summarise(a), ("b",): summarise(b)}).effects
    welch = stats.ttest_ind(b, a, equal_var=False)
    assert (only.p, only.df) == pytest.approx((welch.pvalue, welch.df))
    assert tuple(welch.confidence_interval(0.95)) == pytest.approx((only.ci95.low, only.ci95.high))


def test_more_levels_are_each_held_against_the_first_and_the_others_averaged():
    cells = {("a", str(k)): summarise([10.0 * k, 10.0 * k + 1]) for k in (1, 2, 3)} | {("b", str(k)): summarise([20.0 * k, 20.0 * k + 3]) for k in (1, 2, 3)}
    found = {(e.name, e.levels): e.difference for e in replicated_effects({"m": ["a", "b"], "k": ["1", "2", "3"]}, cells).effects}
    assert found == pytest.approx({("m", ("b",)): 21, ("k", ("2",)): 15, ("k", ("3",)): 30, ("m:k", ("b", "2")): 10, ("m:k", ("b", "3")): 20})


def test_cells_without_scatter_give_differences_without_intervals():
    flat = {cell: summarise([own[0]] * 2) for cell, own in CELLS.items()}
    assert [(e.ci95, e.df, e.p) for e in replicated_effects(TWO, flat).effects] == [(None, None, None)] * 3


def test_lenth_of_the_worked_case():
    assert lenth([8.2, -1.1, 0.9, 5.6, -0.4, 1.3, -0.7]) == pytest.approx((1.35, 5.0816), abs=5e-5)


def test_a_half_fraction_names_what_shares_each_contrast():
    runs = {("-", "-", "+"): 10.0, ("+", "-", "-"): 14.0, ("-", "+", "-"): 11.0, ("+", "+", "+"): 17.0}
    found = unreplicated_effects({name: ["-", "+"] for name in "abc"}, runs)
    assert [(e.name, e.difference, e.aliases) for e in found.effects] == [("a", 5, ("b:c",)), ("b", 2, ("a:c",)), ("c", 1, ("a:b",))]
    with pytest.raises(EntryError, match="not balanced: a has one level"):
        unreplicated_effects({name: ["-", "+"] for name in "abc"}, dict(list(runs.items())[:3]))
    with pytest.raises(EntryError, match="'a' has 3 levels"):
        unreplicated_effects({"a": ["1", "2", "3"]}, {("1",): 1.0, ("2",): 2.0, ("3",): 3.0})


def test_levels_that_are_numbers_ascend():
    assert levels_of(["90", "5", "10.5", "5"]) == ["5", "10.5", "90"]
    assert levels_of(["wet", "dry", "wet"]) == ["wet", "dry"]


def test_the_worked_sweep():
    found = swept(LAYERS)
    assert {s: c.aicc for s, c in found.curves.items()} == pytest.approx(
        {Shape.QUADRATIC: -7.9461, Shape.PEAK: -4.0895, Shape.PLATEAU: 19.612, Shape.STRAIGHT: 22.893}, abs=5e-3
    )
    assert found.curves[Shape.QUADRATIC].lack_of_fit_p == pytest.approx(0.9488, abs=5e-5)
    assert found.curves[Shape.PLATEAU].lack_of_fit_p == pytest.approx(9.7e-5, rel=1e-2)
    assert (found.chosen, found.optimum.inside, found.best_level) == (Shape.QUADRATIC, True, 0.20)
    assert found.optimum.x == pytest.approx(0.20137, abs=5e-6)
    assert found.optimum.interval.low < 0.20137 < found.optimum.interval.high
    assert [v.x for v in found.levels if v.in_window] == [0.16, 0.20, 0.24]
    middle = np.polyfit([x for x, own in LAYERS.items() for _ in own], [y for own in LAYERS.values() for y in own], 2)
    assert found.curves[Shape.QUADRATIC].at(np.array([0.12, 0.21])) == pytest.approx(np.polyval(middle, [0.12, 0.21]))


def test_a_skewed_response_draws_no_curve_and_rests_on_its_levels():
    found = swept(SKEWED)
    assert found.curves[Shape.PEAK].lack_of_fit_p == pytest.approx(0.0323, abs=5e-5)
    assert (found.chosen, found.optimum, found.best_level) == (None, None, 40)


def test_what_is_better_lower_turns_the_sweep_over():
    down = swept({x: [50 - y for y in own] for x, own in LAYERS.items()}, lower_is_better=True)
    up = swept(LAYERS)
    assert (down.best_level, down.optimum.inside) == (0.20, True)
    assert [(v.loss_limit, v.in_window) for v in down.levels] == [(pytest.approx(v.loss_limit), v.in_window) for v in up.levels]
    # the same curve the other way up turns at its worst point
    assert not swept(LAYERS, lower_is_better=True).optimum.inside


def test_a_plateau_is_constant_beyond_its_edge_on_either_side():
    rising = {x: [min(x, 6) * 4 - min(x, 6) ** 2 / 3 + d for d in (-0.1, 0.1, 0.0)] for x in range(1, 11)}
    curve = swept(rising).curves[Shape.PLATEAU]
    assert (curve.coefficients[2], curve.rising) == (pytest.approx(6, abs=0.02), True)
    assert curve.at(np.array([7.0, 9.0])) == pytest.approx([12, 12], abs=0.02)
    falling = swept({-x: own for x, own in rising.items()}).curves[Shape.PLATEAU]
    assert (falling.coefficients[2], falling.rising, falling.aicc) == (pytest.approx(-6, abs=0.02), False, pytest.approx(curve.aicc, abs=1e-6))


def test_few_levels_have_few_shapes_and_none_below_zero_a_peak():
    four = dict(list(LAYERS.items())[:4])
    assert set(swept(four).curves) == {Shape.STRAIGHT}
    assert swept(dict(list(LAYERS.items())[:3])).curves == {}
    assert Shape.PEAK not in swept({x - 0.2: own for x, own in LAYERS.items()}).curves


def test_a_share_is_of_the_best_level():
    assert sweep([1, 1, 2, 2, 3, 3], [10, 11, 20, 21, 19, 20], Margin(0.2)).margin == pytest.approx(4.1)


def test_deming_of_the_worked_case_and_its_prediction():
    """METHODS 13 and 15, computed independently there."""
    line = agreement([6.2, 7.9, 11.4, 15.2, 22.8, 31.0], [6.9, 8.8, 12.1, 17.0, 24.1, 34.2])
    assert (line.slope, line.intercept, line.se_slope, line.se_intercept) == pytest.approx((1.08963, 0.02173, 0.041549, 0.468269), abs=5e-6)
    value, ends = line.predicted(20)
    assert (value, ends.low, ends.high) == pytest.approx((21.8142, 19.9503, 23.6782), abs=5e-5)
    assert line.predicted(6.2)[0] == pytest.approx(line.intercept + 6.2 * line.slope)
    for beyond in (6.1, 31.1):
        with pytest.raises(EntryError, match="outside"):
            line.predicted(beyond)
    with pytest.raises(EntryError, match="do not differ enough"):
        agreement([5.0] * 5, [1.0, 2.0, 3.0, 4.0, 5.0])


def test_both_rigs_may_be_the_first():
    x, y = [6.2, 7.9, 11.4, 15.2, 22.8, 31.0], [6.9, 8.8, 12.1, 17.0, 24.1, 34.2]
    one, other = agreement(x, y), agreement(y, x)
    assert other.slope == pytest.approx(1 / one.slope)
    weighed = agreement(x, y, error_ratio=4.0)
    assert agreement(y, x, error_ratio=0.25).slope == pytest.approx(1 / weighed.slope)
    assert weighed.slope != pytest.approx(one.slope, rel=1e-6)


BARS = [46.9, 47.8, 45.7, 48.2, 46.1]


def test_the_worked_claims():
    found = judge_value(52, summarise(BARS), Margin(0.05), GoodSide.HIGHER)
    assert (found.ci95.low, found.ci95.high) == pytest.approx((45.6125, 48.2675), abs=5e-5)
    assert found.verdict is ClaimVerdict.CONTRADICTED
    above, below = summarise([5.1, 5.6, 4.8, 5.3, 5.0]), summarise([2.9, 3.2, 2.7, 3.1, 3.0])
    three = judge_factor(3, above, below, GoodSide.HIGHER)
    assert (three.measured, three.ci95.low, three.ci95.high) == pytest.approx((1.73154, 1.58192, 1.89532), abs=5e-6)
    assert three.verdict is ClaimVerdict.CONTRADICTED
    assert judge_factor(1.7, above, below, GoodSide.HIGHER).verdict is ClaimVerdict.AS_CLAIMED


@pytest.mark.parametrize(
    "claimed, margin, side, verdict",
    [
        (40, 0.1, GoodSide.HIGHER, ClaimVerdict.BETTER), (40, 0.1, GoodSide.LOWER, ClaimVerdict.CONTRADICTED), (60, 0.1, GoodSide.LOWER, ClaimVerdict.BETTER),
        (40, 0.1, GoodSide.NONE, ClaimVerdict.OTHER), (47, 0.01, GoodSide.HIGHER, ClaimVerdict.UNDECIDED), (49, 0.1, GoodSide.HIGHER, ClaimVerdict.AS_CLAIMED),
    ],
)  # fmt: skip
def test_a_claimed_value_is_judged_on_the_side_that_is_good(claimed, margin, side, verdict):
    assert judge_value(claimed, summarise(BARS), Margin(margin), side).verdict is verdict


def test_an_absolute_margin_is_in_the_unit_and_what_has_no_interval_is_not_testable():
    assert judge_value(50, summarise(BARS), Margin(4.5, relative=False), GoodSide.HIGHER).verdict is ClaimVerdict.AS_CLAIMED
    assert judge_value(50, summarise(BARS), Margin(3.5, relative=False), GoodSide.HIGHER).verdict is ClaimVerdict.CONTRADICTED
    alone = judge_value(50, summarise([46.0]), Margin(0.1), GoodSide.HIGHER)
    assert (alone.verdict, alone.ci95) == (ClaimVerdict.NOT_TESTABLE, None)
    assert judge_value(50, summarise([46.0, 46.0]), Margin(0.1), GoodSide.HIGHER).verdict is ClaimVerdict.NOT_TESTABLE
    assert judge_factor(2, summarise([2.0]), summarise(BARS), GoodSide.HIGHER).verdict is ClaimVerdict.NOT_TESTABLE
    with pytest.raises(EntryError, match="share of a claimed 0"):
        judge_value(0, summarise(BARS), Margin(0.1), GoodSide.HIGHER)
