"""Effects of several factors: contrasts of cell means, and of designs without replicates (METHODS 15).

References
----------
1. R. V. Lenth, Technometrics 31 (1989) 469.
"""

from __future__ import annotations

import itertools
import math
import statistics
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from assayer.core.errors import EntryError
from assayer.core.stats import special
from assayer.core.stats.groups import GroupSummary, Interval, combined_error, t_quantile

Cell = tuple[str, ...]
"""One level of each factor, in their order."""

MOST_FACTORS = 8


@dataclass(frozen=True, slots=True)
class Effect:
    """One contrast: a main effect or an interaction.

    Attributes
    ----------
    factors : tuple of str
        One factor for a main effect, several for an interaction.
    levels, against : tuple of str
        The level of each factor, and the first level that it is held against.
    difference : float
        Of a main effect: unweighted marginal mean of the level minus that of the first. Of an interaction with
        replicates: the difference of these differences; without replicates: half of that for each further
        factor, the usual effect of a two-level design.
    ci95 : Interval or None
    df, p : float or None
        None where there is no scatter to judge by.
    aliases : tuple of str
        In a fraction of a design: further effects that share this contrast.
    """

    factors: tuple[str, ...]
    levels: tuple[str, ...]
    against: tuple[str, ...]
    difference: float
    ci95: Interval | None = None
    df: float | None = None
    p: float | None = None
    aliases: tuple[str, ...] = ()

    @property
    def name(self) -> str:
        return ":".join(self.factors)


@dataclass(frozen=True, slots=True)
class Effects:
    """All effects; `pse` and `stands_out_from` of a design without replicates: an effect beyond the latter stands out."""

    effects: tuple[Effect, ...]
    pse: float | None = None
    stands_out_from: float | None = None


def levels_of(column: Sequence[str]) -> list[str]:
    """The levels of a factor: ascending where all are numbers, otherwise in order of appearance."""
    levels = list(dict.fromkeys(column))
    try:
        return sorted(levels, key=float)
    except ValueError:
        return levels


def replicated_effects(factors: Mapping[str, Sequence[str]], cells: Mapping[Cell, GroupSummary]) -> Effects:
    """Main effects and interactions of all orders with intervals.

    Each factor's levels are held against its first: L = Σ c·m, V = Σ c²·v with v the variances of the cell means,
    Welch–Satterthwaite degrees of freedom.

    Parameters
    ----------
    factors : mapping of name to levels
        In the order of the parts of `cells`' keys.
    cells : mapping of levels to GroupSummary
        Every combination of levels, each with at least two values.

    Raises
    ------
    EntryError
        If a combination is missing or has a single value.
    """
    combinations = list(itertools.product(*factors.values()))
    for cell in combinations:
        group = cells.get(cell)
        if group is None or group.error is None:
            raise EntryError(
                f"{'no value' if group is None else 'only one value'} with {_words(factors, cell)}: each combination needs at least two", "factors"
            )
    effects = []
    for chosen in _terms(list(factors)):
        for levels in itertools.product(*(factors[name][1:] for name in chosen)):
            weights = {cell: _weight(factors, chosen, levels, cell) for cell in combinations}
            difference = math.fsum(w * cells[cell].mean for cell, w in weights.items())
            variance, df = combined_error([error.scaled(w * w) for cell, w in weights.items() if w and (error := cells[cell].error) is not None])
            effect = Effect(chosen, levels, tuple(factors[name][0] for name in chosen), difference)
            effects.append(_with_interval(effect, variance, df))
    return Effects(tuple(effects))


def unreplicated_effects(factors: Mapping[str, Sequence[str]], values: Mapping[Cell, float]) -> Effects:
    """Effects of a two-level design with one value in each of its combinations, or in a regular fraction of them, with Lenth's error.

    Parameters
    ----------
    factors : mapping of name to two levels
    values : mapping of levels to float

    Raises
    ------
    EntryError
        If a factor has not two levels, or the combinations that were tried are not balanced.
    """
    wrong = next((name for name, levels in factors.items() if len(levels) != 2), None)
    if wrong is not None:
        raise EntryError(f"'{wrong}' has {len(factors[wrong])} levels: without replicates each factor needs two", "factors")
    runs = list(values)
    signs = {name: [1 if cell[i] == levels[1] else -1 for cell in runs] for i, (name, levels) in enumerate(factors.items())}
    by_column: dict[tuple[int, ...], list[tuple[str, ...]]] = {}
    for chosen in _terms(list(factors)):
        column = tuple(math.prod(part) for part in zip(*(signs[name] for name in chosen), strict=True))
        if abs(sum(column)) == len(column):
            # of a fraction: the mean of its runs
            continue
        if sum(column) != 0:
            raise EntryError(f"the combinations that were tried are not balanced: {':'.join(chosen)} has one level more often than the other", "factors")
        known = next((c for c in by_column if c == column or all(a == -b for a, b in zip(c, column, strict=True))), column)
        by_column.setdefault(known, []).append(chosen)
    effects = []
    for column, terms in by_column.items():
        first, *others = terms
        difference = 2 * math.fsum(s * v for s, v in zip(column, values.values(), strict=True)) / len(runs)
        named = [factors[name] for name in first]
        effect = Effect(first, tuple(x[1] for x in named), tuple(x[0] for x in named), difference, aliases=tuple(":".join(t) for t in others))
        effects.append(effect)
    if not effects:
        raise EntryError("there is no effect to find: the design needs at least two combinations", "factors")
    pse, limit = lenth([e.difference for e in effects])
    return Effects(tuple(effects), pse, limit)


def lenth(effects: Sequence[float]) -> tuple[float, float]:
    """Lenth's pseudo standard error of effects, and the size beyond which one stands out [1].

    s₀ = 1.5·median|e|, PSE = 1.5·median of those |e| < 2.5 s₀, limit t(0.975, m/3)·PSE.
    """
    sizes = [abs(e) for e in effects]
    start = 1.5 * statistics.median(sizes)
    small = [e for e in sizes if e < 2.5 * start]
    pse = 1.5 * statistics.median(small) if small else 0.0
    return pse, t_quantile(0.975, len(sizes) / 3) * pse


def effects_of_values(factors: Mapping[str, Sequence[str]], values: Sequence[float], cells: Mapping[Cell, GroupSummary]) -> Effects:
    """The effects of single values by their factors: with intervals where cells have replicates, otherwise by Lenth's error.

    Parameters
    ----------
    factors : mapping of name to one level for each value
    values : sequence of float
    cells : mapping of levels to GroupSummary
        The values of each combination that was tried.
    """
    if not 1 <= len(factors) <= MOST_FACTORS:
        raise EntryError(f"give one to {MOST_FACTORS} factors", "factors")
    levels = {name: levels_of(column) for name, column in factors.items()}
    constant = next((name for name, of_factor in levels.items() if len(of_factor) < 2), None)
    if constant is not None:
        raise EntryError(f"'{constant}' is the same everywhere: a factor needs two levels", "factors")
    if all(group.n == 1 for group in cells.values()):
        return unreplicated_effects(levels, dict(zip(zip(*factors.values(), strict=True), values, strict=True)))
    return replicated_effects(levels, cells)


def _terms(names: Sequence[str]) -> list[tuple[str, ...]]:
    """Main effects, then interactions of two factors, of three and so on."""
    return [chosen for size in range(1, len(names) + 1) for chosen in itertools.combinations(names, size)]


def _weight(factors: Mapping[str, Sequence[str]], chosen: Sequence[str], levels: Sequence[str], cell: Cell) -> float:
    """The coefficient of a cell in the contrast of `levels` of the `chosen` factors, averaged over the other factors."""
    weight = 1.0
    for (name, own), level in zip(factors.items(), cell, strict=True):
        if name in chosen:
            weight *= 1.0 if level == levels[list(chosen).index(name)] else -1.0 if level == own[0] else 0.0
        else:
            weight /= len(own)
    return weight


def _with_interval(effect: Effect, variance: float, df: float) -> Effect:
    if variance <= 0:
        return effect
    se = math.sqrt(variance)
    half = t_quantile(0.975, df) * se
    p = 2 * float(special.stdtr(df, -abs(effect.difference) / se))
    interval = Interval(effect.difference - half, effect.difference + half)
    return Effect(effect.factors, effect.levels, effect.against, effect.difference, interval, df, p)


def _words(factors: Mapping[str, Sequence[str]], cell: Cell) -> str:
    return ", ".join(f"{name} {level}" for name, level in zip(factors, cell, strict=True))
