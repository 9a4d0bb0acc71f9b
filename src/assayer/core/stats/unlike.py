"""Whether a batch is unlike its siblings, and whether a group is unlike others that should be like it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from assayer.core.stats import special
from assayer.core.stats.batches import batch_scatter
from assayer.core.stats.groups import GroupSummary, t_quantile

USUAL_RATIO = 0.5
"""Batch-to-within scatter that prints usually have; a larger one that was measured takes its place."""

_LEVEL = 0.05


@dataclass(frozen=True, slots=True)
class UnlikeBatch:
    """The batch furthest from the other batches of its group: its mean less theirs, in the unit, and as a share of theirs."""

    batch: str
    difference: float
    relative: float | None


def unlike_batch(values: Sequence[float], batches: Sequence[str], ratio: float | None = None, groups: int = 1, reading_step: float = 0.0) -> UnlikeBatch | None:
    """The batch that lies further from its siblings than batches usually scatter.

    Parameters
    ----------
    values, batches : sequences, shape (n,)
        The values of one group, and the batch of each.
    ratio : float, optional
        Batch-to-within scatter of the other groups of the test; at least the usual one is allowed for.
    groups : int
        How many groups are looked at: the 5 % are shared out among them.
    reading_step : float
        r; the variance within batches is at least r²/12.

    Returns
    -------
    UnlikeBatch or None
        None where the batches differ no more than that, or where fewer than two of them or no scatter are there.

    Notes
    -----
    One-way random effects: MS_between/MS_within ÷ (1 + n₀ ratio²) follows F(b − 1, N − b) (Searle, Casella, McCulloch,
    Variance Components, 1992, 3.6; exact for batches of one size).
    """
    scatter = batch_scatter(values, batches)
    variance = scatter.within_variance(reading_step)
    if scatter.batches < 2 or not variance or scatter.df_within < 2:
        return None
    n0 = (scatter.n - scatter.sizes_squared / scatter.n) / scatter.df_between
    usual = 1 + n0 * max(USUAL_RATIO, ratio or 0.0) ** 2
    f = scatter.between / scatter.df_between / variance / usual
    if float(special.fdtrc(scatter.df_between, scatter.df_within, f)) > _LEVEL / groups:
        return None
    data, of = np.asarray(values, float), np.asarray(batches)
    apart = {name: float(data[of == name].mean() - data[of != name].mean()) for name in dict.fromkeys(batches)}
    name = max(apart, key=lambda b: abs(apart[b]))
    others = float(data[of != name].mean())
    return UnlikeBatch(name, apart[name], apart[name] / others if others > 0 else None)


def differs_beyond_batches(one: GroupSummary, other: GroupSummary, margin: float, ratio: float | None = None, comparisons: int = 1) -> bool:
    """Whether two groups of what should be the same differ by more than matters, and by more than scatter and other batches explain.

    Parameters
    ----------
    margin : float
        The smallest difference that matters, in the unit of the values.
    ratio : float, optional
        Batch-to-within scatter; at least the usual one is allowed for.
    comparisons : int
        Among how many the 5 % are shared out.

    Notes
    -----
    Welch's interval with the variance s²(1/n + ratio²/b) of each mean: they were printed at other times, so that
    batches differ even where each group has one.
    """
    if one.sd is None or other.sd is None:
        return False
    share = max(USUAL_RATIO, ratio or 0.0) ** 2
    errors = [(s**2 * (1 / g.n + share / max(1, g.batches)), g.n - 1) for g in (one, other) if (s := g.within_sd or g.sd) is not None]
    variance = sum(v for v, _ in errors)
    difference = abs(one.mean - other.mean)
    if difference <= margin:
        return False
    if variance == 0:
        return True
    df = variance**2 / sum(v**2 / d for v, d in errors)
    return difference > t_quantile(1 - _LEVEL / 2 / comparisons, df) * math.sqrt(variance)
