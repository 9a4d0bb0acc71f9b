"""Weibull with lower bounds: METHODS 13, SciPy where there are none, and how often its interval holds the true mean."""

import math

import numpy as np
import pytest
from scipy import stats

from assayer.core.errors import EntryError
from assayer.core.stats.weibull import fit_weibull, plotting_positions

D = [25.8, 31.2, 22.4, 28.9, 27.1, 24.6]


def test_the_examples_of_the_methods():
    plain = fit_weibull(D)
    assert (plain.shape, plain.scale) == (pytest.approx(10.239, abs=5e-4), pytest.approx(27.966, abs=5e-4))
    bounded = fit_weibull([v for v in D if v != 24.6], [24.6])
    assert (bounded.shape, bounded.scale, bounded.mean) == (pytest.approx(11.240, abs=5e-4), pytest.approx(28.544, abs=5e-4), pytest.approx(27.285, abs=5e-4))
    assert (bounded.ci95.low, bounded.ci95.high) == (pytest.approx(24.212, abs=2e-3), pytest.approx(29.938, abs=2e-3))


@pytest.mark.parametrize("seed", range(5))
def test_without_bounds_it_is_the_fit_of_scipy(seed):
    values = stats.weibull_min.rvs(8, scale=40, size=12, random_state=seed)
    shape, _, scale = stats.weibull_min.fit(values, floc=0)
    found = fit_weibull(values.tolist())
    assert (found.shape, found.scale) == (pytest.approx(shape, rel=1e-3), pytest.approx(scale, rel=1e-4))
    assert found.mean == pytest.approx(found.scale * math.gamma(1 + 1 / found.shape))
    assert found.ci95.low < found.mean < found.ci95.high


@pytest.mark.parametrize("seed", range(3))
def test_with_bounds_it_is_the_censored_fit_of_scipy(seed):
    rng = np.random.default_rng(seed)
    true = stats.weibull_min.rvs(6, scale=30, size=14, random_state=rng)
    grip = rng.uniform(22, 40, 14)
    exact, bounds = true[true <= grip].tolist(), grip[true > grip].tolist()
    shape, _, scale = stats.weibull_min.fit(stats.CensoredData(uncensored=exact, right=bounds), floc=0)
    found = fit_weibull(exact, bounds)
    assert (found.shape, found.scale) == (pytest.approx(shape, rel=2e-3), pytest.approx(scale, rel=1e-3))


def test_the_interval_holds_the_true_mean_as_often_as_it_says():
    """95 % over 500 seeds of twelve specimens, a quarter of them broken in the grip: between 92 and 98 %."""
    mean = 30 * math.gamma(1 + 1 / 9)
    held = 0
    for seed in range(500):
        rng = np.random.default_rng(seed)
        true = 30 * rng.weibull(9, 12)
        grip = 30 * rng.weibull(9, 12) * 1.13
        found = fit_weibull(true[true <= grip].tolist(), grip[true > grip].tolist())
        held += found.ci95.low <= mean <= found.ci95.high
    assert 0.92 <= held / 500 <= 0.98, held / 500


def test_a_higher_bound_raises_the_mean_and_scale_follows_the_unit():
    base = fit_weibull(D[:5], [24.0])
    assert fit_weibull(D[:5], [30.0]).mean > base.mean > fit_weibull(D[:5]).mean
    scaled = fit_weibull([v * 1e3 for v in D[:5]], [24e3])
    assert (scaled.mean, scaled.shape, scaled.ci95.low) == (
        pytest.approx(1e3 * base.mean),
        pytest.approx(base.shape),
        pytest.approx(1e3 * base.ci95.low, rel=1e-6),
    )
    assert fit_weibull([20.0, 20.0, 20.0, 20.5]).shape > 50


@pytest.mark.parametrize(
    "exact, bounds, words",
    [([20.0, 21.0], [22.0], "at least 3 breaks, but there are 2"), ([20.0, -1.0, 22.0], [], "above 0"), ([20.0] * 4, [19.0], "nothing tells their spread"), ([20.0, 21.0, math.nan], [], "above 0")],
)  # fmt: skip
def test_what_cannot_be_fitted_says_why(exact, bounds, words):
    with pytest.raises(EntryError, match=words):
        fit_weibull(exact, bounds)


def test_plotting_positions():
    """Benard's ranks without bounds; with one between breaks, Johnson's by hand: n = 4, the ranks behind the bound grow by (5 − 1)/(1 + 2)."""

    def shares(*values):
        return [share for _, share in plotting_positions(*values)]

    assert [v for v, _ in plotting_positions([30.0, 10.0, 20.0])] == [10.0, 20.0, 30.0]
    assert shares([30.0, 10.0, 20.0]) == pytest.approx([0.7 / 3.4, 1.7 / 3.4, 2.7 / 3.4])
    assert shares([10.0, 20.0, 30.0], [15.0]) == pytest.approx([(r - 0.3) / 4.4 for r in (1, 1 + 4 / 3, 1 + 8 / 3)])
    # a bound at the value of a break lies beyond it
    assert shares([10.0, 20.0], [10.0])[0] == pytest.approx(0.7 / 3.4)
    assert plotting_positions([], [10.0]) == []
