"""Grades of several people (METHODS 12): agreement of orders, and whether two sets of prints are graded clearly apart."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import combinations
from math import comb

import numpy as np

CLEAR = 0.05
"""Two-sided p at most this: the grades differ clearly."""
_EXACT = 200_000
"""Ways of one grader's grades that are counted one by one; beyond, they are drawn."""
_DRAWS = 20_000


def kendall_w(orders: Sequence[Sequence[float]]) -> float:
    """Kendall's coefficient of concordance, corrected for ties: W = 12S / (m²(n³ − n) − m ΣT), T = Σ(t³ − t) over each grader's ties.

    Parameters
    ----------
    orders : sequence of m sequences of n ranks
        One for each grader, of the same prints, 1 for the first; equal prints share the mean of their ranks.

    Returns
    -------
    float
        0 where the orders have nothing in common, 1 where they are one.
    """
    ranks = np.asarray(orders, float)
    m, n = ranks.shape
    if n < 2:
        return 1.0
    sums = ranks.sum(axis=0)
    ties = sum(int(t) ** 3 - int(t) for order in ranks for t in np.unique(order, return_counts=True)[1])
    most = m**2 * (n**3 - n) - m * ties
    # graders who all call all prints equal agree
    return float(12 * ((sums - sums.mean()) ** 2).sum() / most) if most else 1.0


@dataclass(frozen=True, slots=True)
class Agreement:
    """How far several people's orders are one: Kendall's `w`, of how many people and prints."""

    w: float
    graders: int
    prints: int


def agreement(prints: Sequence[Mapping[str, float]]) -> Agreement | None:
    """Kendall's W of the people's places, over the prints that all of them have placed.

    Parameters
    ----------
    prints : sequence of mapping of grader to place
        One for each print.

    Returns
    -------
    Agreement or None
        None with fewer than two people or fewer than three prints placed by all of them: two prints agree by chance.
    """
    graders = sorted({g for places in prints for g in places})
    common = [places for places in prints if all(g in places for g in graders)]
    if len(graders) < 2 or len(common) < 3:
        return None
    orders = [mid_ranks([places[g] for places in common]) for g in graders]
    return Agreement(kendall_w(orders), len(graders), len(common))


def mid_ranks(grades: Sequence[float]) -> list[float]:
    """Ranks from 1 for the lowest; equal grades share the mean of theirs."""
    values = np.asarray(grades, float)
    return [float((values < v).sum() + (1 + (values == v).sum()) / 2) for v in values]


@dataclass(frozen=True, slots=True)
class GradeComparison:
    """Two sets of prints compared by the graders who saw both.

    Attributes
    ----------
    p : float
        Two-sided, of the exact permutation test on rank sums.
    excess : float
        Rank sum of the first set less what chance gives it: above 0 where it was graded higher.
    """

    p: float
    excess: float


def compare_grades(first: Mapping[str, Sequence[float]], second: Mapping[str, Sequence[float]], seed: int = 0) -> GradeComparison | None:
    """The permutation test on mean ranks, each grader's grades permuted among the prints.

    Parameters
    ----------
    first, second : mapping of grader to grades
        Of the prints of either side that the grader graded.
    seed : int
        Of the draws where there are too many ways to count.

    Returns
    -------
    GradeComparison or None
        None where nobody graded both sides, or all ways are alike. A grader who saw one side only has no say, in
        p or in the direction.

    Notes
    -----
    METHODS 12. Under the null every grader's grades could stand at any of the prints: the sum of the ranks of
    the first side is that of a random subset. Graders are independent, so the distribution of the total is
    the convolution of theirs; ranks are doubled to whole numbers, and the count is exact.
    """
    total: dict[int, float] = {0: 1.0}
    rank_sum = 0
    centre = 0.0
    for grader in sorted(first.keys() & second.keys()):
        own, other = list(first[grader]), list(second[grader])
        if not own or not other:
            continue
        ranks = [round(2 * r) for r in mid_ranks([*own, *other])]
        rank_sum += sum(ranks[: len(own)])
        centre += len(own) * sum(ranks) / len(ranks)
        ways = _sums(ranks, len(own), seed)
        total = _convolved(total, ways)
    if len(total) < 2:
        return None
    off = abs(rank_sum - centre) - 1e-9
    p = min(1.0, sum(share for value, share in total.items() if abs(value - centre) >= off))
    return GradeComparison(p, (rank_sum - centre) / 2)


def holm(p_values: Mapping[str, float]) -> dict[str, float]:
    """p of several comparisons, adjusted by Holm's step-down method: compare each with the level of one.

    References
    ----------
    S. Holm, Scand. J. Stat. 6 (1979) 65.
    """
    adjusted: dict[str, float] = {}
    highest = 0.0
    for rank, name in enumerate(sorted(p_values, key=lambda n: p_values[n])):
        highest = max(highest, min(1.0, (len(p_values) - rank) * p_values[name]))
        adjusted[name] = highest
    return adjusted


def _sums(ranks: Sequence[int], size: int, seed: int) -> dict[int, float]:
    """Distribution of the sum of `size` of the ranks."""
    found: dict[int, float] = {}
    if comb(len(ranks), size) <= _EXACT:
        count = comb(len(ranks), size)
        for chosen in combinations(ranks, size):
            key = sum(chosen)
            found[key] = found.get(key, 0.0) + 1 / count
        return found
    rng = np.random.default_rng(seed)
    for _ in range(_DRAWS):
        key = int(rng.permutation(ranks)[:size].sum())
        found[key] = found.get(key, 0.0) + 1 / _DRAWS
    return found


def _convolved(a: Mapping[int, float], b: Mapping[int, float]) -> dict[int, float]:
    found: dict[int, float] = {}
    for x, p in a.items():
        for y, q in b.items():
            found[x + y] = found.get(x + y, 0.0) + p * q
    return found
