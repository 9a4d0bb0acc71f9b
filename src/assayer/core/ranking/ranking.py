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

import numpy as np
from numpy.typing import NDArray

from assayer.core.errors import EntryError
from assayer.core.methods.vocabulary import Bound
from assayer.core.ranking.estimates import Criterion, Estimate, Part, Requirement, to_usefulness
from assayer.core.ranking.unknowns import SharedUnknowns, criteria_of_shared_unknowns
from assayer.core.stats import special
from assayer.core.stats.groups import t_quantile

SURE = 0.90
"""A material beats another if it does so with at least this probability."""
DRAWS = 10_000


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
        At the mean, with bounds treated as exact.
    bounds : mapping of criterion to "at_least", "at_most" or "either"
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
        shape = (len(self.criteria), len(self.names), draws)
        self._useful = np.zeros(shape, np.float32)
        self._tested = np.zeros(shape[:2], bool)
        self._at_mean = np.zeros(shape[:2])
        self._shown = np.zeros(shape[:2])
        self._open: dict[tuple[int, int], tuple[NDArray[np.float32], float]] = {}
        """What bounds leave open above the worst case: by draw, and at the mean."""
        self._shared: dict[int, SharedUnknowns] = {}
        """By material, the criteria that rest on one mean whose true value is not known."""
        sampler = _Sampler(np.random.default_rng(seed), draws)
        for m, name in enumerate(self.names):
            shared = criteria_of_shared_unknowns([self.estimates.get((name, c.key)) for c in self.criteria])
            drawn_of: dict[int, NDArray[np.float32]] = {}
            for c, criterion in enumerate(self.criteria):
                known = self.estimates.get((name, criterion.key))
                if known is None:
                    continue
                self._tested[c, m] = True
                self._shown[c, m] = criterion.useful(known.shown())
                drawn = sampler.draw(known, f"{name} {criterion.key}")
                if c in shared:
                    drawn_of[c] = drawn
                else:
                    self._place(c, m, criterion, known, drawn)
            if drawn_of:
                self._shared[m] = SharedUnknowns([(c, self.criteria[c], self.estimates[name, self.criteria[c].key], drawn) for c, drawn in drawn_of.items()])

    def _place(self, c: int, m: int, criterion: Criterion, known: Estimate, drawn: NDArray[np.float32]) -> None:
        """Draws of one criterion of one material, as usefulness: of the worst case, and what bounds leave open above it."""
        to_usefulness(drawn, criterion)
        at_mean = float(self._shown[c, m])
        better, worse = criterion.may_improve(known), criterion.may_worsen(known)
        if not worse:
            self._useful[c, m], self._at_mean[c, m] = drawn, at_mean
            if better:
                # the true mean may be better: from its value up to all that is needed
                self._open[c, m] = (1 - drawn, 1 - at_mean)
        elif better:
            # it may pass what is wanted, or is bounded both ways: anything is possible
            self._open[c, m] = (np.ones_like(drawn), 1.0)
        else:
            # the true mean may be worse: from no use up to its value
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
        low_at_mean = w @ self._at_mean
        open_at_mean = np.zeros(m)
        for (criterion_row, material), (drawn, at_mean) in self._open.items():
            best[material] += np.float32(w[criterion_row]) * drawn
            open_at_mean[material] += w[criterion_row] * at_mean
        for material, shared in self._shared.items():
            (worst, most), (worst_at_mean, most_at_mean) = shared.range(w)
            low[material] += worst
            best[material] += most
            low_at_mean[material] += worst_at_mean
            open_at_mean[material] += most_at_mean - worst_at_mean
        beats, probabilities = _beats(low, best, ~ruled_out)

        # a whole sort is quicker here than asking for two quantiles
        lower = np.sort(low, axis=1)[:, int(0.05 * draws)]
        upper = np.sort(best, axis=1)[:, int(0.95 * draws)]
        ranked = []
        for i, name in enumerate(self.names):
            low_score = float(low_at_mean[i])
            known_of = {k.key: e for k in self.criteria if (e := self.estimates.get((name, k.key))) is not None}
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
                    notes=[f"{key}: one value only, scatter borrowed from the other materials" for key, e in known_of.items() if e.borrowed],
                    bounds={key: _bound_words(e) for key, e in known_of.items() if e.bounded},
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
            if good >= limit and not criterion.may_worsen(known):
                found[criterion.key] = Requirement.PASS
            elif bad < limit and not criterion.may_improve(known):
                found[criterion.key] = Requirement.FAIL
        return found


def _bound_words(known: Estimate) -> str:
    """How the value stands to the true one; "either" where bounds above and below the line of a ratio leave both open."""
    if known.may_rise and known.may_fall:
        return "either"
    return str(Bound.AT_LEAST if known.may_rise else Bound.AT_MOST)


class _Sampler:
    """Draws of estimates: t samples of their means, one for each mean however many estimates share it."""

    def __init__(self, rng: np.random.Generator, draws: int) -> None:
        self._rng = rng
        self._levels = (np.arange(draws) + 0.5) / draws
        self._quantiles: dict[float, NDArray[np.float32]] = {}
        self._samples: dict[str, NDArray[np.float32]] = {}

    def draw(self, known: Estimate, name: str) -> NDArray[np.float32]:
        """Draws of the value, on the scale of the quantity; `name` is unique to an estimate that stands alone."""
        parts = known.parts or (Part(name, 1, known.se, known.df),)
        drawn = np.full(self._levels.shape, known.value, np.float32)
        for part in parts:
            drawn += np.float32(part.sign * part.se) * self._sample(part)
        if known.log:
            # with one degree of freedom the draws reach far: beyond e^80 every scale is used up
            np.exp(np.minimum(drawn, np.float32(80), out=drawn), out=drawn)
        return drawn

    def _sample(self, part: Part) -> NDArray[np.float32]:
        if part.key not in self._samples:
            if part.df not in self._quantiles:
                self._quantiles[part.df] = special.stdtrit(part.df, self._levels).astype(np.float32)
            self._samples[part.key] = self._rng.permutation(self._quantiles[part.df])
        return self._samples[part.key]


def _near_enough(criterion: Criterion, known: Estimate, ends: tuple[float, float]) -> Requirement:
    """Whether a mean lies as near to what is wanted as is required: on the whole of its interval, on none of it, or it is not known."""
    assert criterion.required is not None
    room = abs(criterion.required - criterion.all_needed)
    low, high = min(ends) - criterion.all_needed, max(ends) - criterion.all_needed
    high = math.inf if known.may_rise else high
    low = -math.inf if known.may_fall else low
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
