"""Plans of several settings: all combinations, a fraction of them, a central composite, a Latin hypercube.

Sources: the standard constructions of the design of experiments; alias tables follow from the defining relation.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations, product

import numpy as np

from assayer.core.errors import EntryError

MOST_RUNS = 60
_LETTERS = "ABCDEFGH"

# generators of two-level fractions of the highest resolution, by number of factors and of halvings
_GENERATORS: dict[tuple[int, int], tuple[str, ...]] = {
    (3, 1): ("AB",),
    (4, 1): ("ABC",),
    (5, 1): ("ABCD",),
    (5, 2): ("AB", "AC"),
    (6, 1): ("ABCDE",),
    (6, 2): ("ABC", "BCD"),
    (6, 3): ("AB", "AC", "BC"),
    (7, 2): ("ABCD", "ABDE"),
    (7, 3): ("ABC", "BCD", "ACD"),
    (7, 4): ("AB", "AC", "BC", "ABC"),
    (8, 3): ("ABC", "ABD", "BCDE"),
    (8, 4): ("BCD", "ACD", "ABC", "ABD"),
}


@dataclass(frozen=True, slots=True)
class Factor:
    """A setting and the values it takes, from low to high."""

    name: str
    levels: tuple[float, ...]

    def __post_init__(self) -> None:
        if len(self.levels) < 2 or len(set(self.levels)) != len(self.levels):
            raise EntryError(f"{self.name} needs two values or more, each once", self.name)


@dataclass(frozen=True, slots=True)
class Design:
    """Runs as values of each factor, in standard order, and which effects cannot be told apart."""

    factors: tuple[Factor, ...]
    runs: tuple[tuple[float, ...], ...]
    aliases: tuple[tuple[str, ...], ...] = ()

    def __post_init__(self) -> None:
        if len(self.runs) > MOST_RUNS:
            raise EntryError(f"that would be {len(self.runs)} arms, at most {MOST_RUNS}: take fewer values, or a fraction", "factors")


def full_factorial(factors: Sequence[Factor]) -> Design:
    """Every combination; the first factor changes fastest."""
    _some(factors)
    runs = tuple(tuple(reversed(values)) for values in product(*(f.levels for f in reversed(factors))))
    return Design(tuple(factors), runs)


def fractional_factorial(factors: Sequence[Factor], halvings: int) -> Design:
    """A 2^(k−p) fraction: `halvings` p factors follow from products of the others.

    Raises
    ------
    EntryError
        If a factor has other than two values, or there is no such fraction.
    """
    _some(factors)
    k = len(factors)
    for factor in factors:
        if len(factor.levels) != 2:
            raise EntryError(f"a fraction takes two values of each: {factor.name} has {len(factor.levels)}", factor.name)
    generators = _GENERATORS.get((k, halvings))
    if generators is None:
        possible = sorted(p for n, p in _GENERATORS if n == k)
        told = f"{k} settings can be halved {' or '.join(map(str, possible))} times" if possible else f"{k} settings cannot be halved"
        raise EntryError(f"{told}, not {halvings}", "halvings")
    basic = np.array([list(reversed(row)) for row in product((-1, 1), repeat=k - halvings)])
    made = [np.prod(basic[:, [_LETTERS.index(c) for c in g]], axis=1) for g in generators]
    signs = np.column_stack([basic, *made])
    runs = tuple(tuple(f.levels[int(s > 0)] for f, s in zip(factors, row, strict=True)) for row in signs)
    return Design(tuple(factors), runs, _aliases(k, halvings, generators))


def _aliases(k: int, halvings: int, generators: Sequence[str]) -> tuple[tuple[str, ...], ...]:
    """Main effects and two-factor interactions that share one contrast, by their letters; those that stand alone are left out."""
    words = [frozenset(g) | {_LETTERS[k - halvings + i]} for i, g in enumerate(generators)]
    group = {frozenset[str]()}
    for word in words:
        group |= {w ^ word for w in group}
    effects = [frozenset(c) for n in (1, 2) for c in combinations(_LETTERS[:k], n)]
    seen: set[frozenset[str]] = set()
    found = []
    for effect in effects:
        if effect in seen:
            continue
        together = [e for e in effects if e ^ effect in group]
        seen |= set(together)
        if len(together) > 1:
            found.append(tuple("".join(sorted(e)) for e in together))
    return tuple(found)


def central_composite(factors: Sequence[Factor], centres: int = 3) -> Design:
    """Corners, faces and centre of two to four settings, the axial points on the faces, so that none leaves its range.

    `levels` are the lowest and the highest value of each.
    """
    _some(factors)
    if not 2 <= len(factors) <= 4:
        raise EntryError("a central composite takes two to four settings", "factors")
    ends = [(f.levels[0], f.levels[-1]) for f in factors]
    middle = [(a + b) / 2 for a, b in ends]
    corners = [tuple(reversed(values)) for values in product(*reversed(ends))]
    faces = [tuple(value if j == i else middle[j] for j in range(len(factors))) for i in range(len(factors)) for value in ends[i]]
    return Design(tuple(factors), (*corners, *faces, *[tuple(middle)] * centres))


def latin_hypercube(factors: Sequence[Factor], runs: int, seed: int) -> Design:
    """So many runs that every factor takes each of as many evenly spaced values once; the seed decides which go together."""
    _some(factors)
    if runs < 2:
        raise EntryError("a Latin hypercube needs two runs or more", "runs")
    rng = np.random.default_rng(seed)
    best, farthest = None, -1.0
    # of a few, the one whose nearest runs lie furthest apart
    for _ in range(50):
        grid = np.column_stack([rng.permutation(runs) for _ in factors]) / (runs - 1)
        gaps = [float(np.linalg.norm(a - b)) for a, b in combinations(grid, 2)]
        if min(gaps) > farthest:
            best, farthest = grid, min(gaps)
    assert best is not None
    values = [tuple(f.levels[0] + share * (f.levels[-1] - f.levels[0]) for f, share in zip(factors, row, strict=True)) for row in best.tolist()]
    return Design(tuple(factors), tuple(tuple(float(f"{v:.6g}") for v in row) for row in values))


def _some(factors: Sequence[Factor]) -> None:
    if not 1 <= len(factors) <= len(_LETTERS):
        raise EntryError(f"one to {len(_LETTERS)} settings are meant", "factors")
    if len({f.name for f in factors}) != len(factors):
        raise EntryError("a setting is there twice", "factors")
