"""What is asked of a material for one use, and what is known of it: criteria and estimates."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from assayer.core.errors import EntryError
from assayer.core.methods.vocabulary import Bound
from assayer.core.stats.groups import GroupSummary, combined_error
from assayer.core.stats.ratios import RatioOfMeans


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

    def may_improve(self, known: Estimate) -> bool:
        """Whether true values beyond their bounds could make it better."""
        if self.near:
            return known.may_rise if known.shown() < self.all_needed else known.may_fall
        return known.may_rise if self.higher_is_better else known.may_fall

    def may_worsen(self, known: Estimate) -> bool:
        """Whether true values beyond their bounds could make it worse; those near a target may pass it."""
        if self.near:
            return known.may_rise or known.may_fall
        return known.may_fall if self.higher_is_better else known.may_rise


@dataclass(frozen=True, slots=True)
class Part:
    """One mean that an estimate is made of; parts with one key are the same mean, drawn once, and unknown in the same way.

    Attributes
    ----------
    key : str
    sign : int
        1; −1 where the mean stands below the line of a ratio.
    se, df : float
        Of the mean; of its logarithm where the estimate is one of logarithms.
    bound : Bound
        How the mean, with bounds treated as exact, stands to the true one.
    """

    key: str
    sign: int
    se: float
    df: float
    bound: Bound = Bound.EXACT


@dataclass(frozen=True, slots=True)
class Estimate:
    """What is known of one mean, or of a ratio of means: its value, standard error and degrees of freedom.

    `log` means that value and error are of the logarithm (ratios). `borrowed`: one value only, its
    scatter is the pooled one of the method. `bound`: some of its values are bounds treated as exact:
    the true mean may lie above ("at least") or below ("at most"). `parts`: the means that it is made of, where other
    estimates share them; without any it stands alone.
    """

    value: float
    se: float
    df: float
    log: bool = False
    borrowed: bool = False
    bound: Bound = Bound.EXACT
    parts: tuple[Part, ...] = ()

    @property
    def may_rise(self) -> bool:
        return self.bound is Bound.AT_LEAST or any(p.bound is (Bound.AT_LEAST if p.sign > 0 else Bound.AT_MOST) for p in self.parts)

    @property
    def may_fall(self) -> bool:
        return self.bound is Bound.AT_MOST or any(p.bound is (Bound.AT_MOST if p.sign > 0 else Bound.AT_LEAST) for p in self.parts)

    @property
    def bounded(self) -> bool:
        return self.may_rise or self.may_fall

    def as_exact(self) -> Estimate:
        """The same with its bounds treated as exact."""
        return replace(self, bound=Bound.EXACT, parts=tuple(replace(p, bound=Bound.EXACT) for p in self.parts))

    def shown(self, z: float = 0.0) -> float:
        """The mean, or the mean `z` standard errors off, on the scale of the quantity."""
        x = self.value + z * self.se
        return math.exp(x) if self.log else x


def estimate(group: GroupSummary, pooled: tuple[float, float] | None, bound: Bound = Bound.EXACT, key: str = "") -> Estimate | None:
    """The estimate of one group; a single value borrows `pooled` = (sd, df), without it there is none.

    `key` names its mean, where ratios share it.
    """
    if group.error is not None:
        variance, df = combined_error([group.error])
        se, borrowed = math.sqrt(variance), False
    elif pooled is not None:
        (se, df), borrowed = pooled, True
    else:
        return None
    parts = (Part(key, 1, se, df, bound),) if key else ()
    return Estimate(group.mean, se, df, borrowed=borrowed, bound=bound, parts=parts)


def estimate_of_ratio(ratio: RatioOfMeans, above: tuple[str, Bound], below: tuple[str, Bound]) -> Estimate | None:
    """The estimate of a ratio, on the log scale; `above` and `below` are key and bound of its two means."""
    if ratio.above is None or ratio.below is None or ratio.log_se is None or ratio.df is None:
        return None
    parts = []
    for error, sign, (key, bound) in ((ratio.above, 1, above), (ratio.below, -1, below)):
        variance, df = combined_error([error])
        parts.append(Part(key, sign, math.sqrt(variance), df, bound))
    return Estimate(math.log(ratio.ratio), ratio.log_se, ratio.df, log=True, parts=tuple(parts))


def pooled_sd(groups: Sequence[GroupSummary]) -> tuple[float, float] | None:
    """sqrt(Σ(n−1)s² / Σ(n−1)) and its degrees of freedom; None if no group has two values."""
    usable = [g for g in groups if g.sd is not None]
    df = sum(g.n - 1 for g in usable)
    if not df:
        return None
    return math.sqrt(sum((g.n - 1) * (g.sd or 0.0) ** 2 for g in usable) / df), float(df)


def to_usefulness(drawn: NDArray[np.float32], criterion: Criterion) -> None:
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
