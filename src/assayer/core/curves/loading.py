"""Slack, toe and the zero of strain (METHODS 1, "Slack and toe"; ASTM D638 Annex A1)."""

from __future__ import annotations

import math
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
    # the last row below, found from behind; the peak itself is not
    below = stress[: peak_row + 1] < max(_LOAD_ON * strength, 3 * noise)
    load_on = peak_row - int(below[::-1].argmax())
    if not below[load_on]:
        load_on = 0
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
    top = load_on + int((stress[load_on : peak_row + 1] >= _TOE_HIGH * strength).argmax())
    rising = np.maximum.accumulate(stress[load_on : top + 1])
    start = int(rising.searchsorted(_TOE_LOW * strength))
    ends = rising.searchsorted(rising[start:] + _TOE_SPAN * strength)
    np.maximum(ends, np.arange(start + _TOE_ROWS - 1, rising.size + _TOE_ROWS - 1), out=ends)
    # both rise, so that the windows which fit are the first ones
    count = int(ends.searchsorted(rising.size))
    if not count:
        return None
    starts, ends = slice(start, start + count), ends[:count]

    # sums over [start, end] from cumulative sums; centred first, so that nothing cancels
    x, y = strain[load_on : top + 1], stress[load_on : top + 1]
    x0, y0 = float(x.sum()) / x.size, float(y.sum()) / y.size
    terms = np.zeros((4, x.size + 1))
    xc, yc = np.subtract(x, x0, out=terms[0, 1:]), np.subtract(y, y0, out=terms[1, 1:])
    np.multiply(xc, xc, out=terms[2, 1:])
    np.multiply(xc, yc, out=terms[3, 1:])
    terms.cumsum(axis=1, out=terms)
    ends += 1
    sx, sy, sxx, sxy = terms.take(ends, axis=1) - terms[:, starts]
    n = ends - np.arange(start, start + count)
    spread = sxx - sx * sx / n
    slopes = np.zeros(count)
    np.divide(sxy - sx * sy / n, spread, out=slopes, where=spread > 0)
    best = int(slopes.argmax())
    slope = float(slopes[best])
    if not 0 < slope < math.inf:
        return None
    mean_x, mean_y = sx[best] / n[best] + x0, sy[best] / n[best] + y0
    inside = slice(start + best, int(ends[best]))
    # about the line through the means they add to nothing
    residual = y[inside] - mean_y - slope * (x[inside] - mean_x)
    return slope, float(mean_x - mean_y / slope), math.sqrt(float(residual @ residual) / residual.size)
