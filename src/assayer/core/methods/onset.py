"""Where a bar begins to sag in a rising temperature (METHODS 8), and where a course passes a value."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from assayer.core.curves.recording import Floats
from assayer.core.errors import EntryError

BASELINE = 10.0
"""K above the start, over which the baseline is laid."""
_BASELINE_READINGS = 5
_SCATTERS = 5.0
LEAST_SAG = 0.1
"""mm above the baseline that sag must at least pass."""


@dataclass(frozen=True, slots=True)
class Onset:
    """The onset in °C (None where it was not passed for good), the baseline (mm at 0 °C, mm/K) and the rise in mm it is told by."""

    at: float | None
    intercept: float
    slope: float
    rise: float


def find_onset(temperature: Sequence[float], sag: Sequence[float]) -> Onset:
    """Onset of sag.

    Parameters
    ----------
    temperature : sequence, °C
        Rising; readings that are equal or fall are taken with the greatest temperature before them.
    sag : sequence, mm

    Raises
    ------
    EntryError
        If fewer than five readings lie within the first 10 K.

    Notes
    -----
    METHODS 8: straight baseline through the first 10 °C above the start, scatter on n − 2; the onset is
    where max(5 × scatter, 0.1 mm) above it is passed for good, interpolated.
    """
    t, s = np.asarray(temperature, float), np.asarray(sag, float)
    t = np.maximum.accumulate(t)
    base = t <= t[0] + BASELINE + 1e-9
    n = int(base.sum())
    if n < _BASELINE_READINGS:
        raise EntryError(f"only {n} readings in the first {BASELINE:g} °C: the baseline needs at least {_BASELINE_READINGS}", "series")
    slope, intercept = np.polyfit(t[base], s[base], 1) if np.ptp(t[base]) > 0 else (0.0, float(np.mean(s[base])))
    residual = s[base] - (intercept + slope * t[base])
    scatter = float(np.sqrt(residual @ residual / (n - 2)))
    rise = max(_SCATTERS * scatter, LEAST_SAG)
    above = s - (intercept + slope * t) - rise
    return Onset(passed_for_good(t, above), float(intercept), float(slope), rise)


def passed_for_good(x: Floats, above: Floats) -> float | None:
    """Where `above` rises through 0 and stays, interpolated on x; None where it does not, the first x where it always was."""
    below = np.flatnonzero(above <= 0)
    if not below.size:
        return float(x[0])
    last = int(below[-1])
    if last == above.size - 1:
        return None
    share = -above[last] / (above[last + 1] - above[last])
    return float(x[last] + share * (x[last + 1] - x[last]))
