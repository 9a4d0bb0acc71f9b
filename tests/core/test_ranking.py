"""The ranking: ties stay ties, untested criteria make bands, draws are reproducible."""

import numpy as np
import pytest

from assayer.core.errors import EntryError
from assayer.core.ranking.ranking import Criterion, Estimate, RankingDraws, Requirement, estimate, pooled_sd
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
