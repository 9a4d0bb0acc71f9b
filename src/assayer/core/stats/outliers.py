"""Outliers are pointed out, never removed: Grubbs' two-sided test at 5 %."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from assayer.core.stats.groups import t_quantile

LEAST_VALUES = 4


@dataclass(frozen=True, slots=True)
class OutlierHint:
    """The value furthest from the mean: its place, G = |x − mean|/s and the critical G."""

    index: int
    g: float
    critical: float

    @property
    def stands_out(self) -> bool:
        return self.g > self.critical


def grubbs(values: Sequence[float]) -> OutlierHint | None:
    """Grubbs' test for one outlier, two-sided, 5 %.

    Parameters
    ----------
    values : sequence of float, shape (n,)

    Returns
    -------
    OutlierHint or None
        None for n < 4, without scatter, or where all values but the extreme one are equal: of readings one step
        apart one would always be an outlier (METHODS 15).

    References
    ----------
    F. E. Grubbs, Technometrics 11 (1969) 1; critical value from t with n − 2 df at 0.05/(2n).
    """
    data = np.asarray(values, float)
    n = data.size
    if n < LEAST_VALUES:
        return None
    sd = float(data.std(ddof=1))
    if sd == 0:
        return None
    distance = np.abs(data - data.mean())
    index = int(distance.argmax())
    if np.ptp(np.delete(data, index)) == 0:
        return None
    t = t_quantile(1 - 0.05 / (2 * n), n - 2)
    critical = (n - 1) / math.sqrt(n) * math.sqrt(t**2 / (n - 2 + t**2))
    return OutlierHint(index, float(distance[index]) / sd, critical)
