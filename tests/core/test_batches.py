"""Batch as a random effect: the worked case of METHODS 15, and what must hold."""

import math

import numpy as np
import pytest

from assayer.core.errors import EntryError
from assayer.core.stats.batches import BatchRatio, batch_notes, batch_scatter, pool_of_tests, pooled_batch_ratio, summarise_batched
from assayer.core.stats.groups import combined_error, summarise
from assayer.core.stats.ratios import ratio_of_means
from assayer.core.stats.several_groups import games_howell, welch_anova
from assayer.core.stats.verdicts import decide

WORKED = {
    "P": [[41.2, 42.6, 40.1], [44.0, 45.1, 43.2]],
    "Q": [[38.0, 37.1, 38.9], [36.2, 35.5, 37.0, 36.6]],
    "R": [[43.1, 41.7, 42.2], [40.9, 42.0]],
}


def of(batches, **more):
    values = {name: [v for batch in own for v in batch] for name, own in batches.items()}
    labels = {name: [str(i) for i, batch in enumerate(own) for _ in batch] for name, own in batches.items()}
    return summarise_batched(values, labels, **more)


def test_the_worked_case():
    """METHODS 15, computed independently there."""
    found = of(WORKED)
    ratio = found.batch_ratio
    assert (ratio.n0, ratio.phi, ratio.ratio) == pytest.approx((2.94286, 3.46338, 0.91492), abs=5e-6)
    p = found.groups["P"]
    assert (p.mean, p.ci95.low, p.ci95.high) == pytest.approx((42.7, 37.5246, 47.8754), abs=5e-5)
    assert combined_error([p.error])[1] == pytest.approx(1.4897, abs=5e-5)
    verdict = decide(p, {"Q": found.groups["Q"]})[0]
    assert (verdict.difference, verdict.ci95.low, verdict.ci95.high) == pytest.approx((-5.65714, -10.7373, -0.5770), abs=5e-5)
    assert combined_error([p.error, found.groups["Q"].error])[1] == pytest.approx(1.7474, abs=5e-5)
    assert (p.batches, p.within_sd) == (2, pytest.approx(math.sqrt((np.var(WORKED["P"][0]) * 3 + np.var(WORKED["P"][1]) * 3) / 4)))


def test_one_batch_keeps_its_prints_and_gets_the_wider_interval_beside():
    found = of({**WORKED, "S": [[40.0, 41.0, 39.5]]})
    s, ratio = found.groups["S"], found.batch_ratio
    assert s.ci95 == summarise([40.0, 41.0, 39.5]).ci95
    # b = 1: a = 1/n0, v = s² (Φ/n0 + 1/N − 1/n0)
    variance = np.var([40.0, 41.0, 39.5], ddof=1)
    shared = variance * ratio.phi / ratio.n0
    v = shared + variance * (1 / 3 - 1 / ratio.n0)
    df = v**2 / (v**2 / 2 + shared**2 / ratio.df)
    from scipy import stats

    assert s.ci95_new_batch.high - s.mean == pytest.approx(stats.t.ppf(0.975, df) * math.sqrt(v))
    assert found.groups["P"] == of(WORKED).groups["P"], "one batch says nothing of batches"


def test_batches_that_differ_no_more_than_chance_leave_the_plain_interval():
    found = of({"A": [[40.0, 42.0, 44.0], [41.0, 42.0, 43.0]], "B": [[30.0, 33.0], [31.0, 32.0]]})
    assert found.batch_ratio.ratio == 0
    assert found.groups["A"].ci95 == summarise([40.0, 42.0, 44.0, 41.0, 42.0, 43.0]).ci95
    assert found.groups["A"].within_sd == pytest.approx(math.sqrt((8 + 2) / 4))


def test_batches_of_one_specimen_are_replicates_and_batches_without_scatter_too():
    single = of({"A": [[40.0], [44.0], [42.0]]})
    assert (single.batch_ratio, single.groups["A"].ci95) == (None, summarise([40.0, 44.0, 42.0]).ci95)
    level = of({"A": [[5.0] * 3, [7.0] * 3]}).groups["A"]
    assert (level.error.variance, level.error.df) == (pytest.approx(np.var([5.0, 7.0], ddof=1) / 2), 1)
    stepped = of({"A": [[5.0] * 3, [7.0] * 3]}, reading_steps={"A": 0.5})
    assert stepped.groups["A"].within_sd == pytest.approx(0.5 / math.sqrt(12))
    assert stepped.batch_ratio.phi == pytest.approx(6 / (0.25 / 12) * 0.5)


def test_pairs_anova_and_ratios_rest_on_the_same_variances():
    groups = of(WORKED).groups
    pair = next(p for p in games_howell(groups) if (p.a, p.b) == ("P", "Q"))
    plain = next(p for p in games_howell({n: summarise([v for b in own for v in b]) for n, own in WORKED.items()}) if (p.a, p.b) == ("P", "Q"))
    assert pair.difference == pytest.approx(plain.difference)
    assert pair.p > plain.p
    assert welch_anova(groups).df2 < welch_anova({n: summarise([v for b in own for v in b]) for n, own in WORKED.items()}).df2
    ratio = ratio_of_means(groups["Q"], groups["P"])
    v = [groups[n].error.variance / groups[n].mean ** 2 for n in "QP"]
    shared = sum(groups[n].error.shared / groups[n].mean ** 2 for n in "QP")
    df = sum(v) ** 2 / (v[0] ** 2 / 5 + v[1] ** 2 / 4 + shared**2 / groups["P"].error.shared_df)
    assert (ratio.log_se, ratio.df) == pytest.approx((math.sqrt(sum(v)), df))


def test_the_usual_ratio_is_pooled_over_tests_and_few_batches_are_said():
    worked = of(WORKED).batch_ratio
    other = BatchRatio(phi=1.0, n0=4.0, df_between=6, df_within=20)
    pooled = pool_of_tests([worked, other])
    assert (pooled.phi, pooled.n0, pooled.df_between) == pytest.approx(((3 * worked.phi + 6) / 9, (3 * worked.n0 + 24) / 9, 9))
    assert pool_of_tests([]) is None
    assert (worked.few, pooled.few) == (True, False)
    found = of({**WORKED, "S": [[40.0, 41.0]]})
    assert batch_notes(found.groups, found.batch_ratio) == [
        "one batch of S: valid for these prints",
        "few batches: the intervals cover 92–97 % instead of 95 %",
    ]
    assert pooled_batch_ratio([(batch_scatter([1.0, 2.0], ["a", "b"]), 0.0)]) is None
    with pytest.raises(EntryError, match="equally long"):
        batch_scatter([1.0], [])


def test_more_specimens_are_counted_in_batches_of_the_same_size():
    groups = of({"A": [[40.0, 41.0, 42.0], [43.0, 44.0, 45.0]], "B": [[42.0, 43.0, 44.0], [45.0, 46.5, 48.0]]}).groups
    verdict = decide(groups["A"], {"B": groups["B"]})[0]
    assert verdict.word == "undecided"
    more = verdict.more_specimens
    factor = (6 + more) / 6
    v = (groups["A"].error.variance + groups["B"].error.variance) / factor
    assert v < groups["A"].error.variance + groups["B"].error.variance
    assert decide(summarise([40.0, 41.0, 42.0, 43.0, 44.0, 45.0]), {"B": summarise([42.0, 43.0, 44.0, 45.0, 46.5, 48.0])})[0].more_specimens <= more
