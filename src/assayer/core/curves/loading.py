"""Slack, toe and the zero of strain (METHODS 1, "Slack and toe"; ASTM D638 Annex A1)."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from assayer.core.curves.recording import Floats

_LOAD_ON = 0.005
_TOE_LOW = 0.05
_TOE_HIGH = 0.50
_TOE_SPAN = 0.15
_TOE_ROWS = 6
_RUBBERY_STRAIN = 0.001


@dataclass(frozen=True, slots=True)
class ToeLine:
    """The straight line through the toe: `slope` in MPa per strain, residual `scatter` in MPa."""

    slope: float
    scatter: float


@dataclass(frozen=True, slots=True)
class StrainZero:
    """Where strain counts from.

    Attributes
    ----------
    offset : float
        Nominal strain that becomes 0.
    load_on : int
        Row at which load comes on.
    toe : ToeLine or None
        None where the curve has no straight part.
    """

    offset: float
    load_on: int
    toe: ToeLine | None
    warnings: list[str] = field(default_factory=list)


def find_strain_zero(stress: Floats, strain: Floats, peak_row: int, noise: float) -> StrainZero:
    """Find where load comes on and extrapolate the steepest part of the toe to zero stress.

    Parameters
    ----------
    stress : ndarray, shape (n,), MPa
    strain : ndarray, shape (n,)
        Before zeroing, compliance taken off.
    peak_row : int
        Row of the highest stress.
    noise : float, MPa
        Standard deviation of the unloaded stress.
    """
    strength = float(stress[peak_row])
    below = np.flatnonzero(stress[: peak_row + 1] < max(_LOAD_ON * strength, 3 * noise))
    load_on = int(below[-1]) if below.size else 0
    line = _steepest_line(stress, strain, load_on, peak_row)
    if line is None:
        return StrainZero(float(strain[load_on]), load_on, None, ["too few rows while load comes on for a toe line: strain counts from where load comes on"])
    slope, zero, scatter = line
    if zero < strain[load_on] - _RUBBERY_STRAIN:
        return StrainZero(float(strain[load_on]), load_on, None, ["no straight part at the start: strain counts from where load comes on"])
    return StrainZero(zero, load_on, ToeLine(slope, scatter))


def _steepest_line(stress: Floats, strain: Floats, load_on: int, peak_row: int) -> tuple[float, float, float] | None:
    """(slope, strain at zero stress, residual scatter) of the steepest least-squares line that spans 15 % of the strength."""
    strength = float(stress[peak_row])
    top = load_on + int(np.argmax(stress[load_on : peak_row + 1] >= _TOE_HIGH * strength))
    rising = np.maximum.accumulate(stress[load_on : top + 1])
    start = int(np.searchsorted(rising, _TOE_LOW * strength))
    starts = np.arange(start, rising.size)
    ends = np.maximum(np.searchsorted(rising, rising[starts] + _TOE_SPAN * strength), starts + _TOE_ROWS - 1)
    fits = ends < rising.size
    starts, ends = starts[fits], ends[fits]
    if not starts.size:
        return None

    # sums over [start, end] from cumulative sums; centred first, so that nothing cancels
    x, y = strain[load_on : top + 1], stress[load_on : top + 1]
    x0, y0 = float(x.mean()), float(y.mean())
    sums = np.zeros((4, x.size + 1))
    xc, yc = x - x0, y - y0
    np.cumsum([xc, yc, xc * xc, xc * yc], axis=1, out=sums[:, 1:])
    sx, sy, sxx, sxy = sums[:, ends + 1] - sums[:, starts]
    n = ends + 1 - starts
    spread = sxx - sx * sx / n
    with np.errstate(divide="ignore", invalid="ignore"):
        slopes = np.where(spread > 0, (sxy - sx * sy / n) / spread, -np.inf)
    best = int(np.argmax(slopes))
    slope = float(slopes[best])
    if not np.isfinite(slope) or slope <= 0:
        return None
    mean_x, mean_y = sx[best] / n[best] + x0, sy[best] / n[best] + y0
    inside = slice(int(starts[best]), int(ends[best]) + 1)
    residual = y[inside] - mean_y - slope * (x[inside] - mean_x)
    return slope, float(mean_x - mean_y / slope), float(residual.std())
