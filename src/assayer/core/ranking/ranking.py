"""Rank materials for a use: weighted criteria, coverage bands, rank probabilities, shared ranks (METHODS 13).

Each criterion maps its quantity to a usefulness between 0 ("no use") and 1 ("all that is needed"). The
score of a material is the weighted mean; an untested criterion makes it a band from the worst to the best
case. The uncertainty of the means is carried by draws: Student's t about each mean, stratified (every
quantile of the distribution occurs once, in random order), so that few draws already give steady ranks.
The draws depend on the data only; a change of weights reuses them.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from assayer.core.errors import EntryError
from assayer.core.methods.vocabulary import Bound
from assayer.core.stats import special
from assayer.core.stats.groups import GroupSummary, t_quantile

SURE = 0.90
"""A material beats another if it does so with at least this probability."""
DRAWS = 10_000


class Requirement(StrEnum):
    PASS = "pass"
    FAIL = "fail"
    UNDECIDED = "undecided"


@dataclass(frozen=True, slots=True)
class Criterion:
    """What is asked of a material for one use.

    Attributes
    ----------
    key : str
        Which measured quantity it rests on.
    no_use, all_needed : float
        Values of the quantity at which it is of no use, and as good as is needed; either may be greater.
    required : float or None
        A hard limit on the side of `all_needed`; with `near`, as far off as may be, to either side.
    near : bool
        `all_needed` is the value that is wanted, and it is of no use as far from it, to either side, as `no_use`:
        for traits without a good side (METHODS 12), and for sizes.
    """

    key: str
    no_use: float
    all_needed: float
    required: float | None = None
    near: bool = False

    def __post_init__(self) -> None:
        if not (math.isfinite(self.no_use) and math.isfinite(self.all_needed)) or self.no_use == self.all_needed:
            raise EntryError(f"'no use' and 'all that is needed' must be two different numbers, but got {self.no_use:g} and {self.all_needed:g}", self.key)

    @property
    def higher_is_better(self) -> bool:
        return self.all_needed > self.no_use

    def useful(self, value: float) -> float:
        """The usefulness of a value, 0 to 1."""
        span = self.all_needed - self.no_use
        return min(1.0, max(0.0, 1 - abs((value - self.all_needed) / span) if self.near else (value - self.no_use) / span))

    def improves(self, known: Estimate) -> bool:
        """Whether a true mean beyond its bound would be better."""
        if self.near:
            return (known.shown() < self.all_needed) == (known.bound is Bound.AT_LEAST)
        return (known.bound is Bound.AT_LEAST) == self.higher_is_better


@dataclass(frozen=True, slots=True)
class Estimate:
    """What is known of one mean: its value, standard error and degrees of freedom.

    `log` means that value and error are of the logarithm (ratios). `borrowed`: one value only, its
    scatter is the pooled one of the method. `bound`: some of its values are bounds, taken at face value:
    the true mean may lie above ("at least") or below ("at most").
    """

    value: float
    se: float
    df: float
    log: bool = False
    borrowed: bool = False
    bound: Bound = Bound.EXACT

    def shown(self, z: float = 0.0) -> float:
        """The mean, or the mean `z` standard errors off, on the scale of the quantity."""
        x = self.value + z * self.se
        return math.exp(x) if self.log else x


def estimate(group: GroupSummary, pooled: tuple[float, float] | None, bound: Bound = Bound.EXACT) -> Estimate | None:
    """The estimate of one group; a single value borrows `pooled` = (sd, df), without it there is none."""
    if group.sd is not None:
        return Estimate(group.mean, group.sd / math.sqrt(group.n), group.n - 1.0, bound=bound)
    if pooled is None:
        return None
    return Estimate(group.mean, pooled[0], pooled[1], borrowed=True, bound=bound)


def pooled_sd(groups: Sequence[GroupSummary]) -> tuple[float, float] | None:
    """sqrt(Σ(n−1)s² / Σ(n−1)) and its degrees of freedom; None if no group has two values."""
    usable = [g for g in groups if g.sd is not None]
    df = sum(g.n - 1 for g in usable)
    if not df:
        return None
    return math.sqrt(sum((g.n - 1) * (g.sd or 0.0) ** 2 for g in usable) / df), float(df)


@dataclass(frozen=True, slots=True)
class Ranked:
    """One material in a ranking.

    Attributes
    ----------
    rank : int or None
        1 + how many beat it with probability ≥ 0.90; shared where nobody does. None: ruled out.
    score_low, score_high : float
        Worst and best case over untested criteria, at the means; equal with full coverage.
    score_ci90 : (float, float)
        5 % quantile of the worst case, 95 % quantile of the best.
    coverage : float
        Share of the weight that has been tested.
    rank_probabilities : list of float
        Entry r: probability that exactly r materials beat it.
    usefulness : mapping of criterion to float or None
        At the mean, taken at face value.
    bounds : mapping of criterion to "at_least" or "at_most"
        Where some of the values are bounds: the score is then a band.
    """

    name: str
    rank: int | None
    score_low: float
    score_high: float
    score_ci90: tuple[float, float]
    coverage: float
    rank_probabilities: list[float]
    usefulness: dict[str, float | None]
    requirements: dict[str, Requirement]
    notes: list[str] = field(default_factory=list)
    bounds: dict[str, str] = field(default_factory=dict)


class RankingDraws:
    """The draws for one set of data; `rank` applies weights to them.

    Parameters
    ----------
    names : sequence of str
        The m materials.
    criteria : sequence of Criterion
        The c criteria.
    estimates : mapping of (name, criterion key) to Estimate
        What has been measured; a missing entry is untested.
    draws, seed : int
        Equal seeds give equal rankings.
    """

    def __init__(
        self, names: Sequence[str], criteria: Sequence[Criterion], estimates: Mapping[tuple[str, str], Estimate], draws: int = DRAWS, seed: int = 1
    ) -> None:
        self.names = list(names)
        self.criteria = list(criteria)
        self.estimates = dict(estimates)
        rng = np.random.default_rng(seed)
        shape = (len(self.criteria), len(self.names), draws)
        self._useful = np.zeros(shape, np.float32)
        self._tested = np.zeros(shape[:2], bool)
        self._at_mean = np.zeros(shape[:2])
        self._shown = np.zeros(shape[:2])
        self._open: dict[tuple[int, int], tuple[NDArray[np.float32], float]] = {}
        """What bounds leave open above the worst case: by draw, and at the mean."""
        levels = (np.arange(draws) + 0.5) / draws
        quantiles: dict[float, NDArray[np.float32]] = {}
        for c, criterion in enumerate(self.criteria):
            for m, name in enumerate(self.names):
                known = self.estimates.get((name, criterion.key))
                if known is None:
                    continue
                self._tested[c, m] = True
                if known.df not in quantiles:
                    quantiles[known.df] = special.stdtrit(known.df, levels).astype(np.float32)
                drawn = rng.permutation(quantiles[known.df])
                drawn *= np.float32(known.se)
                drawn += np.float32(known.value)
                if known.log:
                    # with one degree of freedom the draws reach far: beyond e^80 every scale is used up
                    np.exp(np.minimum(drawn, np.float32(80), out=drawn), out=drawn)
                _to_usefulness(drawn, criterion)
                at_mean = criterion.useful(known.shown())
                self._shown[c, m] = at_mean
                if known.bound is Bound.EXACT:
                    self._useful[c, m], self._at_mean[c, m] = drawn, at_mean
                elif criterion.near and criterion.improves(known):
                    # the true mean may come up to what is wanted, and go beyond it: anything is possible
                    self._open[c, m] = (np.ones_like(drawn), 1.0)
                elif criterion.improves(known):
                    # the true mean may be better: from the face value up to all that is needed
                    self._useful[c, m], self._at_mean[c, m] = drawn, at_mean
                    self._open[c, m] = (1 - drawn, 1 - at_mean)
                else:
                    # the true mean may be worse: from no use up to the face value
                    self._open[c, m] = (drawn, at_mean)

    def rank(self, weights: Mapping[str, float]) -> list[Ranked]:
        """Rank the materials under `weights` (any scale; 0 leaves a criterion out).

        Raises
        ------
        EntryError
            If a weight is negative or all are 0.
        """
        w = np.array([weights.get(c.key, 0.0) for c in self.criteria], float)
        if not np.isfinite(w).all() or (w < 0).any():
            raise EntryError("weights must be 0 or more", "weights")
        if w.sum() == 0:
            raise EntryError("at least one weight must be above 0", "weights")
        w = w / w.sum()
        requirements = [self._requirements(name) for name in self.names]
        ruled_out = np.array([Requirement.FAIL in r.values() for r in requirements])
        c, m, draws = self._useful.shape
        low = (w.astype(np.float32) @ self._useful.reshape(c, m * draws)).reshape(m, draws)
        missing = w @ ~self._tested
        best = low + missing.astype(np.float32)[:, None]
        open_at_mean = np.zeros(m)
        for (criterion_row, material), (drawn, at_mean) in self._open.items():
            best[material] += np.float32(w[criterion_row]) * drawn
            open_at_mean[material] += w[criterion_row] * at_mean
        beats, probabilities = _beats(low, best, ~ruled_out)

        # a whole sort is quicker here than asking for two quantiles
        in_order = np.sort(low, axis=1)
        lower = in_order[:, int(0.05 * draws)]
        upper = np.sort(best, axis=1)[:, int(0.95 * draws)] if self._open else in_order[:, int(0.95 * draws)] + missing
        ranked = []
        for i, name in enumerate(self.names):
            low_score = float(w @ self._at_mean[:, i])
            borrowed = [k.key for k in self.criteria if (e := self.estimates.get((name, k.key))) is not None and e.borrowed]
            ranked.append(
                Ranked(
                    name=name,
                    rank=None if ruled_out[i] else 1 + int((beats[:, i] >= SURE).sum()),
                    score_low=low_score,
                    score_high=low_score + float(missing[i] + open_at_mean[i]),
                    score_ci90=(float(lower[i]), float(upper[i])),
                    coverage=float(1 - missing[i]),
                    rank_probabilities=probabilities[i],
                    usefulness={k.key: float(self._shown[j, i]) if self._tested[j, i] else None for j, k in enumerate(self.criteria)},
                    requirements=requirements[i],
                    notes=[f"{key}: one value only, scatter borrowed from the other materials" for key in borrowed],
                    bounds={k.key: str(e.bound) for k in self.criteria if (e := self.estimates.get((name, k.key))) is not None and e.bound is not Bound.EXACT},
                )
            )
        return sorted(ranked, key=lambda r: (r.rank is None, r.rank or 0, -(r.score_low + r.score_high)))

    def _requirements(self, name: str) -> dict[str, Requirement]:
        """Pass or fail on the 95 % interval; undecided where it holds the limit, or nothing is known."""
        found: dict[str, Requirement] = {}
        for criterion in self.criteria:
            if criterion.required is None:
                continue
            known = self.estimates.get((name, criterion.key))
            found[criterion.key] = Requirement.UNDECIDED
            if known is None:
                continue
            z = t_quantile(0.975, known.df)
            ends = (known.shown(-z), known.shown(z))
            if criterion.near:
                found[criterion.key] = _near_enough(criterion, known, ends)
                continue
            good, bad = (min(ends), max(ends)) if criterion.higher_is_better else (-max(ends), -min(ends))
            limit = criterion.required if criterion.higher_is_better else -criterion.required
            # true values beyond their bounds may turn a failure on the good side, or a pass on the bad one
            may_improve = known.bound is not Bound.EXACT and criterion.improves(known)
            may_worsen = known.bound is not Bound.EXACT and not may_improve
            if good >= limit and not may_worsen:
                found[criterion.key] = Requirement.PASS
            elif bad < limit and not may_improve:
                found[criterion.key] = Requirement.FAIL
        return found


def _to_usefulness(drawn: NDArray[np.float32], criterion: Criterion) -> None:
    """Draws of a mean, in place, to draws of its usefulness; in float32, since there are many."""
    span = criterion.all_needed - criterion.no_use
    if criterion.near:
        drawn -= np.float32(criterion.all_needed)
        np.abs(drawn, out=drawn)
        drawn *= np.float32(-1 / abs(span))
        drawn += np.float32(1)
    else:
        drawn -= np.float32(criterion.no_use)
        drawn *= np.float32(1 / span)
    np.clip(drawn, 0, 1, out=drawn)


def _near_enough(criterion: Criterion, known: Estimate, ends: tuple[float, float]) -> Requirement:
    """Whether a mean lies as near to what is wanted as is required: on the whole of its interval, on none of it, or it is not known."""
    assert criterion.required is not None
    room = abs(criterion.required - criterion.all_needed)
    low, high = min(ends) - criterion.all_needed, max(ends) - criterion.all_needed
    if known.bound is Bound.AT_LEAST:
        high = math.inf
    elif known.bound is Bound.AT_MOST:
        low = -math.inf
    if low >= -room and high <= room:
        return Requirement.PASS
    return Requirement.FAIL if high < -room or low > room else Requirement.UNDECIDED


def _beats(low: NDArray[np.float32], best: NDArray[np.float32], running: NDArray[np.bool_]) -> tuple[NDArray[np.float64], list[list[float]]]:
    """P(j beats i), shape (m, m) as [j, i], and for each i the probabilities of being beaten by 0, 1, 2 … others.

    j beats i in a draw if its worst case is above the best case of i.
    """
    m, draws = low.shape
    beats = np.zeros((m, m))
    places = np.flatnonzero(running)
    contenders = np.ascontiguousarray(low[places])
    counter = np.uint8 if places.size < 256 else np.uint16

    probabilities: list[list[float]] = [[] for _ in range(m)]
    # one material at a time: sharing them out among threads was measured slower, and so was new memory for each
    above = np.empty(contenders.shape, bool)
    beaten_by = np.empty(draws, counter)
    for i in places.tolist():
        np.greater(contenders, best[i], out=above)
        beats[places, i] = [np.count_nonzero(row) for row in above]
        np.add.reduce(above.view(np.uint8), axis=0, dtype=counter, out=beaten_by)
        probabilities[i] = (np.bincount(beaten_by, minlength=places.size)[: places.size] / draws).tolist()
    return beats / draws, probabilities
