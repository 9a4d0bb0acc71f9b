"""Drift of a rig: individuals chart of a reference material, one point a study (METHODS 13).

References
----------
1. W. A. Shewhart, Economic Control of Quality of Manufactured Product (1931).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from assayer.core.stats.groups import Interval

FEWEST = 5
"""Studies that a chart needs before it has limits."""
_RANGE_TO_SD = 1.128
"""Mean range of two normal values in their standard deviations."""
_BEYOND = 3.0
_IN_A_ROW = 8


class DriftSignal(StrEnum):
    BEYOND = "beyond 3 s"
    ONE_SIDE = "eight in a row on one side"


@dataclass(frozen=True, slots=True)
class IndividualsChart:
    """Centre line and limits of successive values.

    Attributes
    ----------
    centre, s : float
        Mean of the values; mean moving range / 1.128.
    limits : Interval
        Centre ± 3 s.
    signals : sequence of DriftSignal or None, shape (n,)
        What each value shows.
    """

    centre: float
    s: float
    limits: Interval
    signals: Sequence[DriftSignal | None]


def individuals_chart(values: Sequence[float]) -> IndividualsChart | None:
    """The chart of a reference material's means, oldest first; None with fewer than five.

    Parameters
    ----------
    values : sequence of float, shape (n,)
        One mean for each study, in any one unit.
    """
    if len(values) < FEWEST:
        return None
    x = np.asarray(values, np.float64)
    centre = float(x.mean())
    s = float(np.abs(np.diff(x)).mean()) / _RANGE_TO_SD
    sides = np.sign(x - centre).astype(int).tolist()
    signals: list[DriftSignal | None] = []
    run = 0
    for i, value in enumerate(x.tolist()):
        run = run + 1 if i and sides[i] == sides[i - 1] and sides[i] else int(sides[i] != 0)
        if abs(value - centre) > _BEYOND * s:
            signals.append(DriftSignal.BEYOND)
        else:
            signals.append(DriftSignal.ONE_SIDE if run >= _IN_A_ROW else None)
    return IndividualsChart(centre, s, Interval(centre - _BEYOND * s, centre + _BEYOND * s), signals)
