"""How many groups are compared, what bounds may overturn, what no verdict can be given of: METHODS 13, rule by rule."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats

from assayer.core.errors import EntryError
from assayer.core.stats.groups import MeanError, summarise
from assayer.core.stats.outliers import grubbs
from assayer.core.stats.ratios import RatioOfMeans, ratio_of_means
from assayer.core.stats.verdicts import DIRECTION_ONLY, LARGE, MAYBE_SMALL, MOST_ADDED, GoodSide, GroupBounds, Margin, decide, decide_ratios

REFERENCE = [18.2, 17.1, 19.0, 16.8, 18.5]
OTHERS = {"b": [21.4, 22.0, 19.9, 20.7, 22.6], "c": [17.5, 18.9, 18.1, 16.4], "one": [19.0], "d": [25.8, 31.2, 22.4, 28.9]}
SUMMARIES = {name: summarise(v) for name, v in OTHERS.items()}

samples = st.lists(st.floats(5, 95).map(lambda v: round(v, 3)), min_size=3, max_size=8).filter(lambda v: np.std(v) > 0.05)


def welch(a, b, level):
    return stats.ttest_ind(b, a, equal_var=False).confidence_interval(level)


def ends(interval):
    return interval.low, interval.high


@pytest.mark.parametrize("compared, k", [(("b",), 1), (("b", "c"), 2), (("b", "one"), 1), (("b", "c", "d"), 3), (("b", "c", "d", "one"), 3)])
def test_the_intervals_are_widened_for_the_groups_that_have_one(compared, k):
    """Bonferroni over the groups that are compared; one value alone has no interval and counts for none."""
    found = {v.group: v for v in decide(summarise(REFERENCE), {n: SUMMARIES[n] for n in compared})}
    assert ends(found["b"].ci95) == pytest.approx(welch(REFERENCE, OTHERS["b"], 1 - 0.05 / k))
    assert ends(found["b"].ci90) == pytest.approx(welch(REFERENCE, OTHERS["b"], 1 - 0.10 / k))


def test_of_ratios_likewise_and_on_their_logarithm():
    top = {n: summarise(v) for n, v in (("b", OTHERS["b"]), ("c", OTHERS["c"]), ("one", OTHERS["one"]))}
    flat = summarise([41.2, 42.6, 40.1, 43.0, 41.7])
    reference = ratio_of_means(summarise(REFERENCE), flat)
    found = {v.group: v for v in decide_ratios(reference, {n: ratio_of_means(g, flat) for n, g in top.items()})}
    b = ratio_of_means(top["b"], flat)
    # Welch–Satterthwaite over the four means
    means = [(np.var(v, ddof=1) / len(v) / np.mean(v) ** 2, len(v) - 1) for v in (OTHERS["b"], REFERENCE, *([[41.2, 42.6, 40.1, 43.0, 41.7]] * 2))]
    df = sum(v for v, _ in means) ** 2 / sum(v**2 / d for v, d in means)
    half = stats.t.ppf(1 - 0.025 / 2, df) * math.hypot(b.log_se, reference.log_se)
    assert found["b"].difference == pytest.approx(math.log(b.ratio / reference.ratio))
    assert ends(found["b"].ci95) == pytest.approx((found["b"].difference - half, found["b"].difference + half))
    half90 = stats.t.ppf(1 - 0.05 / 2, df) * math.hypot(b.log_se, reference.log_se)
    assert ends(found["b"].ci90) == pytest.approx((found["b"].difference - half90, found["b"].difference + half90))
    assert found["b"].margin == pytest.approx(math.log(1.10))
    assert (found["one"].word, found["one"].ci95) == ("no verdict", None)


def ratio(value, se=0.01, df=6.0):
    return RatioOfMeans(value, None, se, df, MeanError(se**2, df), MeanError(0.0, 1.0))


def test_a_control_that_two_ratios_share_cancels():
    """METHODS 11: exposed A against B over one control; computed independently there."""
    exposed_a, exposed_b = summarise([33.4, 31.9, 34.8, 32.2, 33.9]), summarise([36.9, 36.2, 37.8, 37.1, 36.0])
    control = summarise([41.2, 42.6, 40.1, 43.0, 41.7])
    reference, other = (ratio_of_means(g, control, "control") for g in (exposed_a, exposed_b))
    found = decide_ratios(reference, {"B": other})[0]
    assert [math.exp(v) for v in (found.difference, *ends(found.ci95))] == pytest.approx([1.10710, 1.05869, 1.15773], abs=5e-6)
    apart = decide_ratios(reference, {"B": ratio_of_means(exposed_b, control, "another control")})[0]
    assert apart.ci95.high - apart.ci95.low > found.ci95.high - found.ci95.low


@pytest.mark.parametrize(
    "value, good_side, bounds, expected",
    [
        (0.50, GoodSide.HIGHER, GroupBounds(), "better"),
        (0.50, GoodSide.LOWER, GroupBounds(), "worse"),
        (0.50, GoodSide.NONE, GroupBounds(), "higher"),
        (0.32, GoodSide.HIGHER, GroupBounds(), "worse"),
        (0.41, GoodSide.HIGHER, GroupBounds(), "equivalent"),
        (0.41, GoodSide.HIGHER, GroupBounds(at_least=1), "undecided"),
        (0.41, GoodSide.HIGHER, GroupBounds(at_most=1), "undecided"),
        (0.50, GoodSide.HIGHER, GroupBounds(at_least=1), "better"),
        (0.50, GoodSide.HIGHER, GroupBounds(at_most=1), "undecided"),
        (0.32, GoodSide.HIGHER, GroupBounds(at_least=1), "undecided"),
        (0.32, GoodSide.HIGHER, GroupBounds(at_most=1), "worse"),
        (0.44, GoodSide.HIGHER, GroupBounds(), "undecided"),
    ],
)
def test_verdicts_of_ratios_and_what_bounds_leave_of_them(value, good_side, bounds, expected):
    se = 0.04 if expected == "undecided" and bounds == GroupBounds() else 0.01
    found = decide_ratios(ratio(0.40), {"x": ratio(value, se)}, good_side=good_side, bounds={"x": bounds})[0]
    assert found.word == expected


def test_equivalent_though_different_is_said():
    found = decide_ratios(ratio(0.400, 0.004, 30), {"x": ratio(0.412, 0.004, 30)})[0]
    assert (found.word, found.notes) == ("equivalent", ["real, but smaller than matters"])
    same = decide_ratios(ratio(0.400, 0.004, 30), {"x": ratio(0.401, 0.004, 30)})[0]
    assert (same.word, same.notes) == ("equivalent", [])
    tight = decide(summarise([40.0, 40.1, 39.9, 40.0]), {"x": summarise([41.0, 41.1, 40.9, 41.0])})[0]
    assert (tight.word, tight.notes) == ("equivalent", ["real, but smaller than matters"])


def test_margins_are_absolute_or_a_share_and_refuse_what_is_none():
    reference = summarise(REFERENCE)
    assert Margin.parse("10 %") == Margin(0.10)
    assert Margin.parse("1,8") == Margin(1.8, relative=False)
    assert Margin.parse(0.05) == Margin(0.05)
    assert Margin(0.10).absolute(reference) == pytest.approx(1.792)
    assert Margin(1.8, relative=False).absolute(summarise([-0.2, 0.1, 0.3])) == 1.8
    assert Margin(0.10).absolute(summarise([-5.0, -5.2, -5.1])) == pytest.approx(0.51), "of what lies below 0 as well"
    assert Margin(0.10).absolute(summarise([0.0])) is None
    for wrong in (0.0, -0.1, float("nan")):
        with pytest.raises(EntryError, match="greater than 0"):
            Margin(wrong)


def test_a_percentage_of_what_may_be_zero_has_no_meaning():
    temperature = summarise([60, 61, 62], ratio_scale=False)
    assert temperature.cv is None
    found = decide(temperature, {"x": summarise([70, 71, 72], ratio_scale=False)})[0]
    assert (found.word, found.margin) == ("no verdict", None)
    absolute = decide(temperature, {"x": summarise([70, 71, 72], ratio_scale=False)}, Margin(5.0, relative=False))[0]
    assert absolute.word == "better"


def test_no_scatter_on_either_side_asks_for_the_reading_step():
    level = summarise([20.0, 20.0, 20.0])
    assert "reading step" in decide(level, {"x": level})[0].notes[0]
    stepped = decide(summarise([20.0, 20.0, 20.0], reading_step=0.5), {"x": level})[0]
    assert stepped.word == "equivalent"
    assert "the reference needs at least two" in decide(summarise([20.0]), {"x": level})[0].notes[0]
    assert "this arm needs at least two" in decide(level, {"x": summarise([20.0])})[0].notes[0]


@given(samples, samples, st.floats(0.5, 10))
@settings(max_examples=40, deadline=None)
def test_equivalence_is_two_one_sided_tests(a, b, margin):
    """k = 1: equivalent exactly where the larger of the two one-sided p is below 0.05."""
    found = decide(summarise(a), {"b": summarise(b)}, Margin(margin, relative=False))[0]
    test = stats.ttest_ind(b, a, equal_var=False)
    se = (np.mean(b) - np.mean(a)) / test.statistic if test.statistic else None
    if se is None:
        return
    upper = stats.t.cdf((np.mean(b) - np.mean(a) - margin) / se, test.df)
    lower = stats.t.sf((np.mean(b) - np.mean(a) + margin) / se, test.df)
    assert found.p_equivalence == pytest.approx(max(upper, lower), rel=1e-6, abs=1e-12)
    assert (found.word == "equivalent") == (found.p_equivalence < 0.05)


def test_more_than_fifty_more_are_not_proposed():
    hopeless = decide(summarise([40.0, 50.0]), {"x": summarise([43.0, 52.0])}, Margin(0.1, relative=False))[0]
    assert (hopeless.word, hopeless.more_specimens) == ("undecided", None)
    assert decide(summarise([40, 44, 41, 43]), {"x": summarise([43, 46, 42, 47])})[0].more_specimens <= MOST_ADDED


@given(samples, samples)
@settings(max_examples=30, deadline=None)
def test_what_bounds_withdraw_is_what_a_truer_value_could_overturn(a, b):
    """Raising the "at least" side without limit: a verdict that stays under every such raise is never withdrawn."""
    plain = decide(summarise(a), {"b": summarise(b)})[0]
    bounded = decide(summarise(a), {"b": summarise(b)}, bounds={"b": GroupBounds(at_least=1)})[0]
    if plain.word in ("better", "no verdict"):
        assert bounded.word == plain.word
        assert plain.word == "no verdict" or bounded.notes == [DIRECTION_ONLY], "how large the difference is rests on the bound"
    else:
        assert bounded.word == "undecided"
        assert bounded.notes == [] or "true values could overturn it" in bounded.notes[0]


@pytest.mark.parametrize("group, notes", [([24.0, 24.3, 23.8, 24.1], [LARGE]), ([20.9, 21.6, 20.4, 21.3], [MAYBE_SMALL])])
def test_better_says_how_large_the_difference_certainly_is(group, notes):
    found = decide(summarise(REFERENCE), {"x": summarise(group)}, Margin(1.96, relative=False))[0]
    assert (found.word, found.notes) == ("better", notes)
    assert (found.ci95.low >= 1.96) == (notes == [LARGE])
    # the other way round, and where lower is better
    below = decide(summarise(group), {"x": summarise(REFERENCE)}, Margin(1.96, relative=False), GoodSide.LOWER)[0]
    assert (below.word, below.notes) == ("better", notes)


@given(samples.filter(lambda v: min(v) > 20), samples.filter(lambda v: min(v) > 20))
@settings(max_examples=30, deadline=None)
def test_the_interval_of_a_ratio_follows_the_delta_rule(a, b):
    found = ratio_of_means(summarise(a), summarise(b))
    terms = [np.var(v, ddof=1) / len(v) / np.mean(v) ** 2 for v in (a, b)]
    df = sum(terms) ** 2 / sum(t**2 / (len(v) - 1) for t, v in zip(terms, (a, b), strict=True))
    half = stats.t.ppf(0.975, df) * math.sqrt(sum(terms))
    assert found.ratio == pytest.approx(np.mean(a) / np.mean(b))
    assert ends(found.ci95) == pytest.approx((found.ratio * math.exp(-half), found.ratio * math.exp(half)))
    assert (found.log_se, found.df) == (pytest.approx(math.sqrt(sum(terms))), pytest.approx(df))


@pytest.mark.parametrize("n", [4, 7, 12])
def test_grubbs_critical_value_is_rarely_passed_by_chance(n):
    """5 % of normal samples, give or take the scatter of 4,000 of them."""
    rng = np.random.default_rng(n)
    passed = sum(grubbs(rng.standard_normal(n).tolist()).stands_out for _ in range(4000)) / 4000
    assert passed == pytest.approx(0.05, abs=0.012)
    assert grubbs([1.0, 2.0, 900.0]) is None, "three values say nothing of an outlier"
    assert grubbs([1.0, 2.0, 9.0, 2.0]).index == 2
    assert grubbs([60.0, 60.0, 65.0, 60.0, 60.0]) is None, "readings one step apart"
    assert grubbs([60.0, 60.0, 65.0, 61.0, 60.0]).index == 2


def test_a_summary_says_what_it_is_of():
    found = summarise([3.0, 1.0, 2.0, 10.0])
    assert (found.n, found.mean, found.median, found.minimum, found.maximum) == (4, 4.0, 2.5, 1.0, 10.0)
    assert (found.error.variance, found.error.df) == (pytest.approx(np.var([3, 1, 2, 10], ddof=1) / 4), 3)
    assert summarise([5.0]).ci95 is None
    assert summarise([4.0, 4.2], reading_step=1.0).sd == pytest.approx(math.sqrt(1 / 12))
    assert summarise([4.0, 5.2], reading_step=1.0).sd == pytest.approx(np.std([4, 5.2], ddof=1))
    with pytest.raises(EntryError, match="at least one value"):
        summarise([])


# ---- near a target -------------------------------------------------------------------------------


def near(reference, group, target=0.0, **more):
    groups = {"g": summarise(group)}
    return decide(summarise(reference), groups, Margin(0.02, relative=False), GoodSide.NEAR, target=target, **more)[0]


def test_nearer_to_a_target_is_better_on_either_side_of_it():
    high = [0.30, 0.31, 0.29, 0.30]
    low = [-0.30, -0.31, -0.29, -0.30]
    middle = [0.10, 0.11, 0.09, 0.10]
    below = [-0.10, -0.11, -0.09, -0.10]
    assert near(high, middle).word == "better"
    assert near(high, below).word == "better"
    assert near(low, middle).word == "better"
    assert near(middle, high).word == "worse"
    assert near(middle, low).word == "worse"
    other = near(high, low)
    assert (other.word, other.notes) == ("undecided", ["off to the other side of the target, about as far"])
    assert near(high, [v + 0.001 for v in high]).word == "equivalent"
    assert near([v + 5 for v in high], [v + 5 for v in middle], target=5.0).word == "better"
    assert near([v + 5 for v in high], [v + 5 for v in middle], target=5.3).word == "worse"
    bounded = near(high, middle, bounds={"g": GroupBounds(at_least=1)})
    assert bounded.word == "undecided"
    assert "treated as exact" in bounded.notes[0]
