"""Whether specimens break at one place more often than chance puts them there (METHODS 15)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from assayer.core.errors import EntryError

WIDTH = 0.1
"""Of the gauge: breaks within a tenth of it are at one place."""

DRAWS = 10_000
_SEED = 20_260_301
_LEVEL = 0.05


@dataclass(frozen=True, slots=True)
class BreakPlace:
    """The tenth of the gauge with most breaks: its ends as shares of the gauge, how many of n lie in it, and how likely so many are by chance."""

    low: float
    high: float
    count: int
    n: int
    p: float

    @property
    def stands_out(self) -> bool:
        return self.p <= _LEVEL


def commonest_place(places: Sequence[float]) -> BreakPlace | None:
    """The tenth of the gauge that most specimens broke in, against a uniform draw.

    Parameters
    ----------
    places : sequence of float, shape (n,)
        Where each specimen broke, from 0 at one end of the gauge to 1 at the other.

    Returns
    -------
    BreakPlace or None
        None for fewer than two breaks.

    Raises
    ------
    EntryError
        If a place is not within the gauge.

    Notes
    -----
    METHODS 15: the largest count in any tenth of the gauge (wherever it begins), its p from 10,000 seeded uniform draws.
    """
    if any(not 0 <= place <= 1 for place in places):
        raise EntryError("places of breaks lie within the gauge, from 0 to 1", "places")
    n = len(places)
    if n < 2:
        return None
    ordered = np.sort(np.asarray(places, float))
    # places are rounded: two of them just a tenth apart are within it
    counts = np.searchsorted(ordered, ordered + WIDTH + 1e-9, side="right") - np.arange(n)
    first = int(counts.argmax())
    count = int(counts[first])
    draws = np.sort(np.random.default_rng(_SEED).random((DRAWS, n)), axis=1)
    spans = (draws[:, count - 1 :] - draws[:, : n - count + 1]).min(axis=1)
    return BreakPlace(float(ordered[first]), float(ordered[first + count - 1]), count, n, float((spans <= WIDTH).mean()))
