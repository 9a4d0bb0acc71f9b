"""Plans that cross two factors: whether every level of one meets every level of the other."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Hashable, Iterable, Sequence
from typing import TypeVar

First = TypeVar("First", bound=Hashable)


def lacking_levels(cells: Iterable[tuple[First, Hashable]]) -> list[First]:
    """Of the first factor the levels that do not meet every level of the second, in order of appearance.

    Parameters
    ----------
    cells : iterable of (level of the first factor, level of the second)
    """
    levels: dict[First, set[Hashable]] = defaultdict(set)
    for first, second in cells:
        levels[first].add(second)
    every = set[Hashable]().union(*levels.values())
    return [first for first, own in levels.items() if own != every]


def first_unlike(cells: Sequence[tuple[First, Hashable]]) -> First | None:
    """The first level of the first factor that meets two unlike values of the second."""
    levels: dict[First, set[Hashable]] = defaultdict(set)
    for first, second in cells:
        levels[first].add(second)
    return next((first for first, own in levels.items() if len(own) > 1), None)
