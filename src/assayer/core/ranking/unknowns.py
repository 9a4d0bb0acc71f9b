"""One unknown in several criteria: a mean that is a bound, and the ratios over it, move together (METHODS 13, 16)."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from itertools import product

import numpy as np
from numpy.typing import NDArray

from assayer.core.methods.vocabulary import Bound
from assayer.core.ranking.estimates import Criterion, Estimate, to_usefulness

_STEPS = {1: 25, 2: 12}
"""How finely the true value of each unknown is tried, by how many unknowns there are; coarser beyond."""
_FAR = 1e6
"""A true mean so many times its bound stands for one without limit."""

Sampled = tuple[int, Criterion, Estimate, NDArray[np.float32]]
"""Row of a criterion, the criterion, what is known of it, and draws of its value."""


def criteria_of_shared_unknowns(estimates: Sequence[Estimate | None]) -> set[int]:
    """The criteria of one material that rest on a mean whose true value is unknown, and that another criterion rests on too."""
    keys = [{p.key for p in e.parts if p.bound is not Bound.EXACT} if e is not None else set() for e in estimates]
    uses = Counter(key for of in keys for key in of)
    return {c for c, of in enumerate(keys) if any(uses[key] > 1 for key in of)}


class SharedUnknowns:
    """The criteria of one material that rest on unknown means, and how its score varies with the true values.

    Parameters
    ----------
    sampled : sequence of Sampled
        Of all the criteria involved.
    """

    def __init__(self, sampled: Sequence[Sampled]) -> None:
        self._sampled = list(sampled)
        bounds = {p.key: p.bound for _, _, e, _ in sampled for p in e.parts if p.bound is not Bound.EXACT}
        steps = _STEPS.get(len(bounds), 6)
        # from the bound outwards: a mean that is at least its value is that many times it
        beyond = np.append(np.geomspace(1, 100, steps - 1), _FAR)
        self._keys = list(bounds)
        self._trials = list(product(*(beyond if bound is Bound.AT_LEAST else 1 / beyond for bound in bounds.values())))

    def range(self, weights: NDArray[np.float64]) -> tuple[tuple[NDArray[np.float32], NDArray[np.float32]], tuple[float, float]]:
        """Least and greatest contribution to the score, by draw, shape (draws,), and at the means; `weights` by criterion."""
        worst = best = None
        at_mean: list[float] = []
        for multipliers in self._trials:
            times = dict(zip(self._keys, multipliers, strict=True))
            score = np.zeros_like(self._sampled[0][3])
            mean_score = 0.0
            for row, criterion, known, drawn in self._sampled:
                factor = float(np.prod([times[p.key] ** p.sign for p in known.parts if p.key in times]))
                value = drawn * np.float32(factor)
                to_usefulness(value, criterion)
                score += np.float32(weights[row]) * value
                mean_score += weights[row] * criterion.useful(known.shown() * factor)
            worst = score if worst is None else np.minimum(worst, score)
            best = score if best is None else np.maximum(best, score)
            at_mean.append(mean_score)
        assert worst is not None
        assert best is not None
        return (worst, best), (min(at_mean), max(at_mean))
