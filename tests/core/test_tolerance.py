"""Design values: the factor of METHODS 13, its definition by simulation of nothing but the normal law, and when there is none."""

import math

import numpy as np
import pytest
from scipy import stats

from assayer.core.stats.groups import summarise
from assayer.core.stats.tolerance import design_value, tolerance_factor
from assayer.core.stats.verdicts import GoodSide

VALUES = [25.8, 31.2, 22.4, 28.9, 27.1]


def test_the_factor_of_five_specimens():
    """METHODS 13."""
    assert tolerance_factor(5) == pytest.approx(3.4066, abs=5e-5)


@pytest.mark.parametrize("n", [3, 10, 40])
def test_the_limit_covers_its_share_as_often_as_it_says(n):
    k = tolerance_factor(n)
    drawn = np.random.default_rng(n).standard_normal((40_000, n))
    limits = drawn.mean(axis=1) - k * drawn.std(axis=1, ddof=1)
    assert np.mean(stats.norm.sf(limits) >= 0.90) == pytest.approx(0.95, abs=4 * math.sqrt(0.95 * 0.05 / 40_000))


def test_the_limit_lies_on_the_side_that_is_bad_and_is_missing_where_it_says_nothing():
    group = summarise(VALUES)
    reach = 3.4066 * np.std(VALUES, ddof=1)
    assert design_value(group, GoodSide.HIGHER) == pytest.approx(np.mean(VALUES) - reach, abs=1e-3)
    assert design_value(group, GoodSide.LOWER) == pytest.approx(np.mean(VALUES) + reach, abs=1e-3)
    assert design_value(summarise(VALUES[:3]), GoodSide.HIGHER) is not None
    assert [design_value(group, GoodSide.NONE), design_value(group, GoodSide.NEAR)] == [None, None]
    assert [design_value(summarise(v), GoodSide.HIGHER) for v in (VALUES[:2], [5.0] * 5)] == [None, None]
