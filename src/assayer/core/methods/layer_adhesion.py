"""Layer adhesion (METHODS 2): tension of the upright print, and its ratio to the flat one."""

from __future__ import annotations

from collections.abc import Sequence

from assayer.core.errors import EntryError
from assayer.core.stats.groups import summarise
from assayer.core.stats.ratios import RatioOfMeans, ratio_of_means

LABEL = "Layer adhesion"
RATIO_MARGIN = 0.10
"""Ratios are compared as logs with the margin ln 1.10."""


def layer_ratio(upright_MPa: Sequence[float], flat_MPa: Sequence[float]) -> RatioOfMeans:
    """Mean upright / mean flat strength of the same material, settings and section.

    Parameters
    ----------
    upright_MPa, flat_MPa : sequence of float
        Strengths; either may hold a single value, which leaves the ratio without interval.

    Raises
    ------
    EntryError
        If a side is empty or a mean is not above 0.
    """
    if not len(upright_MPa) or not len(flat_MPa):
        raise EntryError("the layer ratio needs upright and flat strengths of the same material")
    return ratio_of_means(summarise(upright_MPa), summarise(flat_MPa))
