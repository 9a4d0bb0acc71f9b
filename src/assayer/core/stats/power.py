"""What a number of specimens can detect, by the rule of the verdicts: Welch's interval of the difference, or that of METHODS 15, excludes 0.

The standard deviations are taken as equal and are estimated, as they are in a test. Given what is estimated, the
difference is normal: its chance to leave the interval is averaged over the estimates.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from assayer.core.errors import EntryError
from assayer.core.stats import special

LEVEL, POWER = 0.05, 0.80
MOST = 50
"""Specimens of each; what needs more is not decided by printing."""
_TOLERANCE = 0.005
"""A power this little below the wanted one is enough: the scatter is never known as well."""
_NODES = 96
_DRAWS = 4000
_SEED = 20


@dataclass(frozen=True, slots=True)
class Design:
    """How the specimens of each arm are printed, and how many arms are compared.

    Attributes
    ----------
    n : int
        Specimens of each arm, at least 2.
    batches : int
        Print batches of each arm, at most n; as even in size as they can be.
    batch_ratio : float
        Scatter between batches over that within them. With one batch it is in no interval: the verdict is on these prints.
    comparisons : int
        k arms held against one reference; each at the level 0.05/k, and all k + 1 give the pooled batch-to-within ratio.
    """

    n: int
    batches: int = 1
    batch_ratio: float = 0.0
    comparisons: int = 1

    def __post_init__(self) -> None:
        if self.n < 2 or not 1 <= self.batches <= self.n:
            raise EntryError(f"a design needs two specimens of each and no more batches than specimens, but got {self.n} in {self.batches}", "n")
        if not self.batch_ratio >= 0 or self.comparisons < 1:
            raise EntryError("a batch-to-within ratio is 0 or more, and at least one arm is compared", "batch_ratio")


def power(difference: float, sd: float, design: Design) -> float:
    """The chance that the verdict on a true difference is not "undecided" for want of evidence: its interval excludes 0.

    Parameters
    ----------
    difference, sd : float
        True difference of two arms, and the standard deviation within a batch; in one unit, or both as shares of the mean.
    design : Design
    """
    if not sd > 0:
        raise EntryError("a power needs a scatter above 0", "sd")
    spread, thresholds, weights = _thresholds(design)
    shift = abs(difference) / sd / spread
    return float(weights @ (special.ndtr(shift - thresholds) + special.ndtr(-shift - thresholds)))


def detectable(sd: float, design: Design, target_power: float = POWER) -> float:
    """The least true difference that is detected with the wanted power, in the unit of `sd`."""
    from scipy.optimize import brentq

    high = 4.0
    while power(high, 1.0, design) < target_power:
        high *= 2
    return sd * float(brentq(lambda d: power(d, 1.0, design) - target_power, 0.0, high, xtol=1e-7))


def needed(sd: float, difference: float, batches: int = 1, batch_ratio: float = 0.0, comparisons: int = 1, target_power: float = POWER) -> int | None:
    """The fewest specimens of each arm that detect a true difference with the wanted power; None above 50.

    Parameters
    ----------
    sd, difference : float
        In one unit, or both as shares of the mean.
    batches, batch_ratio, comparisons
        As in `Design`.
    """
    if not (difference > 0 and sd > 0):
        raise EntryError("the difference to be detected and the scatter must be above 0", "margin")
    least = max(2, batches)

    def enough(n: int) -> bool:
        return power(difference, sd, Design(n, batches, batch_ratio, comparisons)) >= target_power - _TOLERANCE

    if not enough(MOST):
        return None
    low, high = least - 1, MOST
    while high - low > 1:
        middle = (low + high) // 2
        low, high = (low, middle) if enough(middle) else (middle, high)
    return high


@lru_cache(maxsize=512)
def _thresholds(design: Design) -> tuple[float, np.ndarray, np.ndarray]:
    """Standard deviation of the difference of two means; how many of them its interval reaches, shape (m,), and the weights of those."""
    level = 1 - LEVEL / 2 / design.comparisons
    if design.batches == 1:
        return math.sqrt(2 / design.n), *_welch(design.n, level)
    if design.batches == design.n:
        # batches of one specimen each are replicates, and their scatter holds that of the batches
        return math.sqrt(2 * (1 + design.batch_ratio**2) / design.n), *_welch(design.n, level)
    return _batched(design, level)


def _welch(n: int, level: float) -> tuple[np.ndarray, np.ndarray]:
    """Thresholds and weights of two plain samples.

    With u = s1²/(s1² + s2²) the degrees of freedom are (n − 1)/(u² + (1 − u)²); u is Beta((n − 1)/2, (n − 1)/2) and
    independent of the pooled variance, χ²(2n − 2)/(2n − 2). Both are integrated by Gauss and Legendre over their quantiles.
    """
    x, w = np.polynomial.legendre.leggauss(_NODES)
    p, w = (x + 1) / 2, w / 2
    # u and 1 − u are alike: the lower half of its distribution is enough
    u = special.betaincinv((n - 1) / 2, (n - 1) / 2, p / 2)
    critical = special.stdtrit((n - 1) / (u**2 + (1 - u) ** 2), level)
    pooled = np.sqrt(special.chdtri(2 * n - 2, 1 - p) / (2 * n - 2))
    return np.outer(critical, pooled).ravel(), np.outer(w, w).ravel()


def _batched(design: Design, level: float) -> tuple[float, np.ndarray, np.ndarray]:
    """As `_thresholds`, with batch as a random effect: seeded draws of what METHODS 15 estimates, for k + 1 arms."""
    n, b, ratio, arms = design.n, design.batches, design.batch_ratio, design.comparisons + 1
    sizes = np.full(b, n // b, float)
    sizes[: n % b] += 1
    squares = float((sizes**2).sum())
    n0 = (n - squares / n) / (b - 1)
    df = n - b
    rng = np.random.default_rng(_SEED)
    within = rng.chisquare(df, (arms, _DRAWS)) / df
    mean_squares = (1 + n0 * ratio**2) * rng.chisquare(b - 1, (arms, _DRAWS)) / (b - 1)
    phi = (mean_squares / within).mean(axis=0) * ((df - 2) / df if df > 2 else 1.0)
    a = squares / (n**2 * n0)
    shared = within[:2] * a * phi
    v = np.where(phi > 1, shared + within[:2] * (1 / n - a), ((b - 1) * mean_squares[:2] + df * within[:2]) / ((n - 1) * n))
    df_phi = 1 / (1 / (arms * (b - 1)) + 1 / (arms * df))
    spread_of_v = np.where(phi > 1, (v**2).sum(axis=0) / df + shared.sum(axis=0) ** 2 / df_phi, (v**2).sum(axis=0) / (n - 1))
    total = v.sum(axis=0)
    true = math.sqrt(2 * (1 / n + ratio**2 * squares / n**2))
    return true, special.stdtrit(total**2 / spread_of_v, level) * np.sqrt(total) / true, np.full(_DRAWS, 1 / _DRAWS)
