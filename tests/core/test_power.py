"""Power of two groups: the worked figures of METHODS 13, an independent package, and what must hold."""

import math

import pytest
from scipy import integrate, stats
from statsmodels.stats.power import TTestIndPower

from assayer.core.errors import EntryError
from assayer.core.stats.power import detectable, needed, power


def test_worked_examples():
    assert needed(0.06, 0.10) == pytest.approx(6.76, abs=0.005)
    assert needed(0.06, 0.15) == pytest.approx(3.76, abs=0.005)
    assert detectable(0.06, 3) == pytest.approx(0.184, abs=0.0005)


@pytest.mark.parametrize("effect", [0.2, 0.8, 1.5, 3.0, 6.0])
@pytest.mark.parametrize("n", [2, 3, 5, 12.5, 40])
@pytest.mark.parametrize("level", [0.05, 0.05 / 7])
def test_as_an_independent_package_has_it(effect, n, level):
    theirs = TTestIndPower().power(effect, n, level)
    # far out theirs gives up: then the integral over the scatter stands in for it
    wanted = by_integral(effect, n, level) if math.isnan(theirs) else theirs
    assert power(effect, 1.0, n, level) == pytest.approx(wanted, abs=2e-5)
    assert power(-3 * effect, 3.0, n, level) == pytest.approx(power(effect, 1.0, n, level), rel=1e-9)


def by_integral(effect, n, level):
    df = 2 * n - 2
    critical, shift = stats.t.ppf(1 - level / 2, df), effect * math.sqrt(n / 2)
    seen = lambda s: (stats.norm.cdf(shift - critical * s) + stats.norm.cdf(-shift - critical * s)) * stats.chi.pdf(s, df, scale=1 / math.sqrt(df))  # noqa: E731
    return integrate.quad(seen, 0, 6, limit=200)[0]


def test_what_is_detectable_needs_that_many_and_more_see_less():
    found = [detectable(0.08, n) for n in range(2, 21)]
    assert found == sorted(found, reverse=True)
    for n in (3, 7, 20):
        assert needed(0.08, detectable(0.08, n)) == pytest.approx(n, rel=1e-5)
    assert detectable(0.08, 5, 0.01) > detectable(0.08, 5)
    assert detectable(0.08, 5, wanted=0.9) > detectable(0.08, 5)


def test_edges():
    assert detectable(0.06, 1) is None
    assert needed(0.5, 0.05) is None, "more than fifty"
    assert 1 < needed(0.001, 0.5) < 2
    for call in (lambda: power(1, 1, 1), lambda: power(1, 0, 5), lambda: power(1, 1, 5, 0), lambda: needed(0.1, 0), lambda: needed(0, 0.1)):
        with pytest.raises(EntryError):
            call()
