"""The ranking: ties stay ties, untested criteria make bands, draws are reproducible."""

import numpy as np
import pytest
from scipy import stats

from assayer.core.errors import EntryError
from assayer.core.methods.vocabulary import Bound
from assayer.core.ranking.estimates import Criterion, Estimate, Requirement, estimate, pooled_sd
from assayer.core.ranking.ranking import RankingDraws
from assayer.core.stats.groups import summarise

STRENGTH = Criterion("strength", 20, 60)
WARP = Criterion("warp", 2.0, 0.0, required=1.0)


def draws(estimates, criteria=(STRENGTH, WARP), seed=3):
    return RankingDraws(sorted({n for n, _ in estimates}), criteria, estimates, draws=4000, seed=seed)


def test_materials_that_cannot_be_told_apart_share_a_rank():
    known = {(n, "strength"): Estimate(m, 1.5, 4) for n, m in (("a", 50), ("b", 50.4), ("c", 30))}
    ranked = draws(known, [STRENGTH]).rank({"strength": 1})
    assert {r.name: r.rank for r in ranked} == {"a": 1, "b": 1, "c": 3}
    for r in ranked:
        assert sum(r.rank_probabilities) == pytest.approx(1)
    assert ranked[-1].rank_probabilities[2] > 0.99


def test_probabilities_agree_with_plain_sampling():
    """A second, plainer computation: ordinary t samples, ranks by sorting."""
    means, ses, dfs = np.array([50.0, 47.5, 45.0]), np.array([1.5, 2.0, 1.0]), np.array([4.0, 3.0, 6.0])
    known = {(n, "strength"): Estimate(m, s, d) for n, m, s, d in zip("abc", means, ses, dfs, strict=True)}
    found = {r.name: r.rank_probabilities for r in draws(known, [Criterion("strength", 0, 1000)]).rank({"strength": 1})}
    rng = np.random.default_rng(11)
    sample = means[:, None] + ses[:, None] * np.stack([rng.standard_t(d, 40_000) for d in dfs])
    place = (sample[None, :, :] > sample[:, None, :]).sum(axis=1)
    for i, name in enumerate("abc"):
        plain = [(place[i] == k).mean() for k in range(3)]
        assert found[name] == pytest.approx(plain, abs=0.025)


def test_an_untested_criterion_makes_a_band_and_is_never_filled_in():
    known = {("a", "strength"): Estimate(50, 0.5, 4), ("a", "warp"): Estimate(0.5, 0.05, 4), ("b", "strength"): Estimate(44, 0.5, 4)}
    ranked = {r.name: r for r in draws(known).rank({"strength": 1, "warp": 1})}
    b = ranked["b"]
    assert b.coverage == pytest.approx(0.5)
    assert (b.score_low, b.score_high) == pytest.approx((0.3, 0.8))
    assert b.requirements["warp"] is Requirement.UNDECIDED
    assert {r.rank for r in ranked.values()} == {1}, "the band of b reaches beyond a"


def test_hard_requirements_are_judged_on_the_interval():
    known = {(n, "warp"): Estimate(m, 0.1, 4) for n, m in (("good", 0.4), ("edge", 0.95), ("bad", 1.8))}
    ranked = {r.name: r for r in draws(known, [WARP]).rank({"warp": 1})}
    assert [ranked[n].requirements["warp"] for n in ("good", "edge", "bad")] == [Requirement.PASS, Requirement.UNDECIDED, Requirement.FAIL]
    assert ranked["bad"].rank is None
    assert ranked["good"].rank == 1


def test_equal_seeds_give_equal_rankings_and_weights_any_scale():
    known = {(n, c): Estimate(m, 2, 4) for n, m in (("a", 50), ("b", 48)) for c in ("strength", "warp")}
    first = draws(known).rank({"strength": 3, "warp": 1})
    assert first == draws(known).rank({"strength": 30, "warp": 10})
    alone = draws(known, [STRENGTH]).rank({"strength": 1})
    assert alone != draws(known, [STRENGTH], seed=4).rank({"strength": 1})


def test_ratios_are_drawn_on_the_log_and_single_values_borrow_scatter():
    ratio = Estimate(np.log(0.5), 0.1, 5, log=True)
    assert ratio.shown() == pytest.approx(0.5)
    assert ratio.shown(1) / ratio.shown() == pytest.approx(ratio.shown() / ratio.shown(-1))
    groups = [summarise([40, 42, 44]), summarise([50, 51]), summarise([45])]
    pooled = pooled_sd(groups)
    assert pooled == pytest.approx((np.sqrt((2 * 4 + 1 * 0.5) / 3), 3))
    borrowed = estimate(groups[2], pooled)
    assert (borrowed.borrowed, borrowed.se) == (True, pooled[0])
    assert estimate(groups[2], None) is None


@pytest.mark.parametrize("weights, words", [({"strength": 0}, "at least one weight"), ({"strength": -1}, "0 or more")])
def test_useless_weights_are_refused(weights, words):
    with pytest.raises(EntryError, match=words):
        draws({("a", "strength"): Estimate(50, 1, 4)}).rank(weights)


def test_ratios_of_two_values_each_reach_far_without_overflow():
    """One degree of freedom: the draws of the logarithm have no bound."""
    known = {("a", "ratio"): Estimate(np.log(0.4), 0.6, 1.0, log=True), ("b", "ratio"): Estimate(np.log(0.5), 0.1, 6, log=True)}
    ranked = draws(known, [Criterion("ratio", 0.2, 0.7)]).rank({"ratio": 1})
    assert all(0 < p < 1 for r in ranked for p in r.rank_probabilities)


# ---- the rules of the ranking at their edges -----------------------------------------------------


def apart_by(probability, se=1.0, df=8.0):
    """Two materials of which the first beats the second with this probability, by a plain count of many draws."""
    rng = np.random.default_rng(5)
    gap = rng.standard_t(df, 200_000) * se - rng.standard_t(df, 200_000) * se
    return {("a", "strength"): Estimate(500.0 + np.quantile(gap, probability), se, df), ("b", "strength"): Estimate(500.0, se, df)}


@pytest.mark.parametrize("probability, ranks", [(0.84, {"a": 1, "b": 1}), (0.88, {"a": 1, "b": 1}), (0.92, {"a": 1, "b": 2}), (0.97, {"a": 1, "b": 2})])
def test_a_rank_is_shared_until_one_beats_the_other_nine_times_in_ten(probability, ranks):
    wide = Criterion("strength", 0, 1000)
    found = RankingDraws(["a", "b"], [wide], apart_by(probability), draws=20_000, seed=2).rank({"strength": 1})
    assert {r.name: r.rank for r in found} == ranks
    assert {r.name: r for r in found}["b"].rank_probabilities[1] == pytest.approx(probability, abs=0.01)


def test_the_interval_of_a_score_is_that_of_its_mean():
    """One criterion on a wide scale: 5 and 95 % of Student's t about the mean, seen as usefulness."""
    from scipy import stats

    found = RankingDraws(["a"], [Criterion("strength", 0, 1000)], {("a", "strength"): Estimate(400, 20, 5)}, draws=20_000).rank({"strength": 1})[0]
    half = stats.t.ppf(0.95, 5) * 20
    assert found.score_ci90 == pytest.approx(((400 - half) / 1000, (400 + half) / 1000), abs=2e-4)
    assert (found.score_low, found.score_high) == (pytest.approx(0.4), pytest.approx(0.4))


def test_the_score_of_several_criteria_is_their_weighted_mean_clipped_to_what_is_of_use():
    known = {
        ("a", "strength"): Estimate(70, 0.1, 9),
        ("a", "warp"): Estimate(1.5, 0.01, 9),
        ("b", "strength"): Estimate(10, 0.1, 9),
        ("b", "warp"): Estimate(0.2, 0.01, 9),
    }
    found = {r.name: r for r in draws(known, [STRENGTH, Criterion("warp", 2.0, 0.0)]).rank({"strength": 3, "warp": 1})}
    assert found["a"].usefulness == {"strength": 1.0, "warp": pytest.approx(0.25)}
    assert found["a"].score_low == pytest.approx((3 * 1.0 + 1 * 0.25) / 4)
    assert found["b"].usefulness == {"strength": 0.0, "warp": pytest.approx(0.9)}
    assert found["b"].score_low == pytest.approx(0.9 / 4)


@pytest.mark.parametrize(
    "criterion, bound, low, high",
    [
        (STRENGTH, Bound.EXACT, 0.5, 0.5),
        (STRENGTH, Bound.AT_LEAST, 0.5, 1.0),
        (STRENGTH, Bound.AT_MOST, 0.0, 0.5),
        (Criterion("strength", 60, 20), Bound.AT_LEAST, 0.0, 0.5),
        (Criterion("strength", 60, 20), Bound.AT_MOST, 0.5, 1.0),
    ],
)
def test_a_bound_makes_a_band_towards_the_side_it_leaves_open(criterion, bound, low, high):
    known = {("a", "strength"): Estimate(40, 0.01, 9, bound=bound)}
    found = draws(known, [criterion]).rank({"strength": 1})[0]
    assert (found.score_low, found.score_high) == (pytest.approx(low), pytest.approx(high))
    assert found.bounds == ({} if bound is Bound.EXACT else {"strength": str(bound)})
    assert found.coverage == 1
    assert found.score_ci90 == (pytest.approx(low, abs=0.01), pytest.approx(high, abs=0.01))


@pytest.mark.parametrize(
    "value, bound, expected",
    [
        (50, Bound.EXACT, Requirement.PASS),
        (50, Bound.AT_LEAST, Requirement.PASS),
        (50, Bound.AT_MOST, Requirement.UNDECIDED),
        (30, Bound.EXACT, Requirement.FAIL),
        (30, Bound.AT_LEAST, Requirement.UNDECIDED),
        (30, Bound.AT_MOST, Requirement.FAIL),
    ],
)
def test_a_requirement_is_judged_by_what_the_true_value_may_still_be(value, bound, expected):
    """Higher is better, 40 is required; and the same mirrored, where lower is better."""
    required = Criterion("strength", 20, 60, required=40)
    known = {("a", "strength"): Estimate(value, 0.5, 9, bound=bound)}
    assert draws(known, [required]).rank({"strength": 1})[0].requirements == {"strength": expected}
    mirrored = {Bound.AT_LEAST: Bound.AT_MOST, Bound.AT_MOST: Bound.AT_LEAST, Bound.EXACT: Bound.EXACT}[bound]
    lower = Criterion("strength", 60, 20, required=40)
    known = {("a", "strength"): Estimate(80 - value, 0.5, 9, bound=mirrored)}
    assert draws(known, [lower]).rank({"strength": 1})[0].requirements == {"strength": expected}


def test_the_limit_of_a_requirement_is_judged_at_the_ends_of_the_95_per_cent_interval():
    from scipy import stats

    half = stats.t.ppf(0.975, 4) * 1.5
    for value, expected in ((40 + half + 0.01, "pass"), (40 + half - 0.01, "undecided"), (40 - half + 0.01, "undecided"), (40 - half - 0.01, "fail")):
        found = draws({("a", "strength"): Estimate(value, 1.5, 4)}, [Criterion("strength", 20, 60, required=40)]).rank({"strength": 1})[0]
        assert found.requirements["strength"] == expected, value
        assert (found.rank is None) == (expected == "fail")


def test_what_is_ruled_out_beats_nobody_and_stands_last():
    known = {
        ("good", "strength"): Estimate(30, 0.5, 9),
        ("great", "strength"): Estimate(59, 0.5, 9),
        ("good", "warp"): Estimate(0.2, 0.01, 9),
        ("great", "warp"): Estimate(1.9, 0.01, 9),
    }
    found = draws(known).rank({"strength": 1, "warp": 1})
    assert [(r.name, r.rank) for r in found] == [("good", 1), ("great", None)]
    assert found[0].rank_probabilities[0] == 1.0


def test_a_criterion_without_weight_neither_scores_nor_covers():
    known = {("a", "strength"): Estimate(40, 0.1, 9)}
    found = draws(known, [STRENGTH, Criterion("warp", 2.0, 0.0)]).rank({"strength": 1, "warp": 0})[0]
    assert (found.coverage, found.score_low, found.score_high) == (1.0, pytest.approx(0.5), pytest.approx(0.5))


@pytest.mark.parametrize("no_use, all_needed", [(1.0, 1.0), (float("nan"), 1.0), (0.0, float("inf"))])
def test_a_criterion_needs_two_different_numbers(no_use, all_needed):
    with pytest.raises(EntryError, match="two different numbers"):
        Criterion("x", no_use, all_needed)


def test_the_error_of_a_mean_and_what_is_borrowed_are_said():
    found = estimate(summarise([40, 42, 44]), None, Bound.AT_LEAST)
    assert (found.value, found.se, found.df, found.bound) == (42, pytest.approx(2 / np.sqrt(3)), 2.0, Bound.AT_LEAST)
    known = {("a", "strength"): estimate(summarise([45]), (2.0, 3.0))}
    assert draws(known, [STRENGTH]).rank({"strength": 1})[0].notes == ["strength: one value only, scatter borrowed from the other materials"]
    assert pooled_sd([summarise([45])]) is None


def test_draws_are_the_middles_of_equal_shares_of_probability():
    """20 draws stand for the shares 0.025, 0.075 … 0.975: the 5 % quantile is the second, the 95 % one the last."""
    few = RankingDraws(["a"], [STRENGTH], {("a", "strength"): Estimate(40.0, 2.0, 5)}, draws=20)
    low, high = few.rank({"strength": 1})[0].score_ci90
    assert low == pytest.approx((40 + 2 * stats.t.ppf(0.075, 5) - 20) / 40, rel=1e-5)
    assert high == pytest.approx((40 + 2 * stats.t.ppf(0.975, 5) - 20) / 40, rel=1e-5)


SHADE = Criterion("shade", 4.0, 1.5, required=2.0, near=True)
"""Wanted 1.5; of no use 2.5 off it; half a step off may be."""


@pytest.mark.parametrize(("value", "useful"), [(1.5, 1), (4.0, 0), (-1.0, 0), (9.0, 0), (2.5, 0.6), (0.5, 0.6), (3.25, 0.3)])
def test_what_is_wanted_is_best_and_is_left_to_either_side(value, useful):
    assert SHADE.useful(value) == pytest.approx(useful)
    # the same whichever side "no use" was named on
    assert Criterion("shade", -1.0, 1.5, near=True).useful(value) == pytest.approx(useful)
    exact = draws({("a", "shade"): Estimate(value, 1e-9, 4), ("b", "shade"): Estimate(1.5, 1e-9, 4)}, [SHADE]).rank({"shade": 1})
    shown = next(r for r in exact if r.name == "a")
    assert (shown.usefulness["shade"], shown.score_low) == (pytest.approx(useful), pytest.approx(useful))
    assert shown.score_ci90 == (pytest.approx(useful, abs=1e-5), pytest.approx(useful, abs=1e-5)), "the draws know it too"


def test_a_mean_at_what_is_wanted_is_worth_less_than_all_as_long_as_it_is_uncertain():
    """A second computation: the mean of 1 − |t·se|/span over ordinary samples."""
    known = {("a", "shade"): Estimate(1.5, 0.5, 6), ("b", "shade"): Estimate(2.5, 0.01, 6)}
    ranking = draws(known, [SHADE])
    drawn = ranking._useful[0, ranking.names.index("a")]
    sample = 1 - np.abs(0.5 * np.random.default_rng(5).standard_t(6, 200_000)) / 2.5
    assert float(drawn.mean()) == pytest.approx(float(np.clip(sample, 0, 1).mean()), abs=0.004)
    assert [r.name for r in ranking.rank({"shade": 1})] == ["a", "b"]


@pytest.mark.parametrize(
    ("value", "se", "found"),
    [
        (1.6, 0.05, "pass"),
        (1.4, 0.05, "pass"),
        (2.2, 0.05, "fail"),
        (0.8, 0.05, "fail"),
        (2.0, 0.05, "undecided"),
        (1.0, 0.05, "undecided"),
        (1.5, 1.0, "undecided"),
    ],
)
def test_as_near_as_is_required_on_the_whole_of_the_interval(value, se, found):
    ranked = draws({("a", "shade"): Estimate(value, se, 8)}, [SHADE]).rank({"shade": 1})[0]
    assert ranked.requirements["shade"] == found


def test_a_bound_below_what_is_wanted_may_be_anything_and_beyond_it_only_worse():
    def band(value, bound):
        r = draws({("a", "shade"): Estimate(value, 1e-9, 8, bound=bound)}, [SHADE]).rank({"shade": 1})[0]
        return pytest.approx(r.score_low), pytest.approx(r.score_high), r.requirements["shade"]

    assert band(0.5, Bound.AT_LEAST) == (0, 1, "undecided")
    assert band(2.5, Bound.AT_MOST) == (0, 1, "undecided")
    assert band(2.5, Bound.AT_LEAST) == (0, 0.6, "fail")
    assert band(0.5, Bound.AT_MOST) == (0, 0.6, "fail")
