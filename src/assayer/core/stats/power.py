"""What a number of specimens can see: power of Welch's t with equal scatter and equal counts, two-sided (METHODS 13).

T = (δ√(n/2)/σ + Z) / S with S² = χ²(ν)/ν, ν = 2n − 2; the chance that |T| exceeds its critical value is
averaged over S at nodes of Gauss and Legendre, since closed forms of the non-central t fail far out.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from assayer.core.errors import EntryError
from assayer.core.stats import special

LEVEL, POWER = 0.05, 0.80
_NODES = 160
MOST = 50.0
"""Specimens of each; what needs more is not decided by printing."""


def power(difference: float, sd: float, n: float, level: float = LEVEL) -> float:
    """The chance to see a true difference between two groups.

    Parameters
    ----------
    difference, sd : float
        In one unit, or both as shares of the mean.
    n : float
        Specimens of each; above 1, and not a whole number while one is looked for.
    level : float
        Two-sided; of one comparison.
    """
    if not (n > 1 and sd > 0 and 0 < level < 1):
        raise EntryError("a power needs more than one specimen of each and a scatter above 0", "n")
    df = 2 * n - 2
    critical = float(special.stdtrit(df, 1 - level / 2))
    shift = abs(difference) / sd * np.sqrt(n / 2)
    probabilities, weights = _nodes()
    spread = np.sqrt(special.chdtri(df, 1 - probabilities) / df)
    seen = special.ndtr(shift - critical * spread) + special.ndtr(-shift - critical * spread)
    return float(np.sum(weights * seen))


@lru_cache(maxsize=1)
def _nodes() -> tuple[np.ndarray, np.ndarray]:
    x, w = np.polynomial.legendre.leggauss(_NODES)
    return (x + 1) / 2, w / 2


def detectable(sd: float, n: int, level: float = LEVEL, wanted: float = POWER) -> float | None:
    """The least true difference that n of each show with the wanted power, in the unit of `sd`; None where n is 1."""
    if n < 2:
        return None
    low, high = 0.0, 4.0
    while power(high, 1.0, n, level) < wanted:
        low, high = high, 2 * high
    return sd * _bisect(lambda d: power(d, 1.0, n, level) - wanted, low, high)


def needed(sd: float, difference: float, level: float = LEVEL, wanted: float = POWER) -> float | None:
    """Specimens of each that show a true difference with the wanted power, as a real number; None above 50.

    Never fewer than what two of each already show is looked for below two.
    """
    if difference <= 0 or sd <= 0:
        raise EntryError("the difference to be seen and the scatter must be above 0", "margin")
    if power(difference, sd, MOST, level) < wanted:
        return None
    low = 1.05
    if power(difference, sd, low, level) >= wanted:
        return low
    return _bisect(lambda n: power(difference, sd, n, level) - wanted, low, MOST)


def _bisect(f, low: float, high: float) -> float:  # type: ignore[no-untyped-def]
    from scipy.optimize import brentq

    return float(brentq(f, low, high, xtol=1e-7))
