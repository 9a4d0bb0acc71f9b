"""What exposure to a medium leaves (METHODS 11, after ISO 175, ISO 62, ASTM D543)."""

from __future__ import annotations

from collections.abc import Sequence

from assayer.core.errors import EntryError
from assayer.core.stats.groups import summarise
from assayer.core.stats.ratios import RatioOfMeans, ratio_of_means


def retention(exposed: Sequence[float], control: Sequence[float]) -> RatioOfMeans:
    """Exposed / control mean with the interval of METHODS 2.

    Parameters
    ----------
    exposed, control : sequence of float
        Of the same prints; stress on the dimensions before exposure.
    """
    return ratio_of_means(summarise(list(exposed)), summarise(list(control)))


def relative_change(before: float, after: float) -> float:
    """Change of mass or size as a share of the value before."""
    if before <= 0:
        raise EntryError(f"before exposure {before:g}: it must be above 0", "before")
    return (after - before) / before
