"""Modulus and yield of a zeroed stress–strain curve (METHODS 1, "Modulus" and "Yield")."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from assayer.core.curves.loading import ToeLine
from assayer.core.curves.maximum import strain_at_maximum
from assayer.core.curves.recording import Floats

_RANGE = (0.0005, 0.0025)
"""ISO 527-1."""
_SHORT = 0.9
_ROWS = 5
_STRAIGHT_R2 = 0.995
_AHEAD = 0.005
_OFFSET = 0.002
_SMOOTH = 0.0005
"""Half width, in strain, of the mean that decides whether a point is exceeded."""


@dataclass(frozen=True, slots=True)
class Modulus:
    """Slope of stress on strain in `range`; `value` is None (with a warning) if it cannot be told."""

    value: float | None
    range: tuple[float, float]
    warnings: list[str] = field(default_factory=list)


@dataclass(frozen=True, slots=True)
class Yield:
    """Yield stress and strain: at the first maximum of the curve, or (`offset`) where the line of the modulus, moved by 0.2 %, meets it."""

    stress: float
    strain: float
    offset: bool


def find_modulus(stress: Floats, strain: Floats, load_on: int, break_row: int, toe: ToeLine | None, chosen: tuple[float, float] | None = None) -> Modulus:
    """Least-squares slope between 0.0005 and 0.0025 of strain, or in the range the user chose, when it is first passed.

    Parameters
    ----------
    stress, strain : ndarray, shape (n,)
        Zeroed; MPa and mm/mm.
    load_on, break_row : int
    toe : ToeLine or None
        Where the curve joins it only later, the range starts there.
    chosen : (low, high), optional
        The user's own range, taken as it is.
    """
    warnings: list[str] = []
    x, y = strain[load_on : break_row + 1], stress[load_on : break_row + 1]
    if chosen is not None:
        low, high = chosen
    else:
        low, high = _RANGE
        if toe is not None:
            low, high = _after_toe(x, y, toe)
    end = _passed(x, high)
    if chosen is None and end is None and x[-1] < high:
        high = _SHORT * float(x[-1])
        end = _passed(x, high)
        warnings.append("short range: it broke inside the strain range of the modulus")
    # the first passage only: an extensometer taken off, or a slip, lets the strain run back
    inside = ((x[:end] >= low - 1e-12) & (x[:end] <= high + 1e-12)).nonzero()[0]
    if inside.size < _ROWS:
        return Modulus(None, (low, high), [*warnings, f"no modulus: fewer than {_ROWS} rows between strain {low:.4g} and {high:.4g}"])
    slope, r2 = _slope(x[inside], y[inside])
    if r2 < _STRAIGHT_R2:
        warnings.append(f"the curve is not straight in the strain range of the modulus (r² {r2:.3f})")
    return Modulus(slope, (low, high), warnings)


def _passed(x: Floats, high: float) -> int | None:
    """The first of two rows beyond `high`, one after the other; None if there are none: a single one is a slip of the signal."""
    beyond = x > high + 1e-12
    held = beyond[1:] & beyond[:-1]
    first = int(held.argmax()) if held.size else 0
    return first if held.size and held[first] else None


def _after_toe(x: Floats, y: Floats, toe: ToeLine) -> tuple[float, float]:
    low, high = _RANGE
    nominal = int((x >= low).argmax())
    x, y = x[nominal:], y[nominal:]
    on_line = toe.slope * x
    joined = (np.abs(y - on_line) <= np.maximum(0.01 * np.abs(on_line), 3 * toe.scatter)) & (x >= low)
    first = int(joined.argmax())
    if first and joined[first]:
        low = float(x[first])
    return low, low + high - _RANGE[0]


def _slope(x: Floats, y: Floats) -> tuple[float, float]:
    xc, yc = x - x.sum() / x.size, y - y.sum() / y.size
    sxx, sxy, syy = float(xc @ xc), float(xc @ yc), float(yc @ yc)
    if sxx == 0 or syy == 0:
        return 0.0, 0.0
    return sxy / sxx, sxy**2 / (sxx * syy)


def find_yield(stress: Floats, strain: Floats, load_on: int, break_row: int, modulus: float | None, noise: float = 0.0) -> Yield | None:
    """First maximum that holds for 0.005 of strain, else the 0.2 % offset, else None; `noise` is the scatter of the unloaded stress.

    Noise rule: whether a point is exceeded is judged on the mean over ± 0.0005 of strain, so that a
    single high reading on a rising curve is no yield; the stress given is the highest raw one there.
    """
    x, y = strain[load_on : break_row + 1], stress[load_on : break_row + 1]
    if x.size < 3:
        return None
    smooth = _moving_mean(x, y)
    highest = np.maximum.accumulate(smooth)
    # the first row is one, and every row that rises above all before it
    is_record = np.empty(x.size, np.bool_)
    is_record[0] = True
    np.greater(highest[1:], highest[:-1], out=is_record[1:])
    records = is_record.nonzero()[0]
    at = x[records]
    following = np.empty_like(at)
    following[:-1], following[-1] = at[1:], x[-1]
    held = (following - at > _AHEAD) & (y[records] > 0)
    if held.any():
        first = int(held.argmax())
        top = float(at[first])
        near = np.flatnonzero((x >= top - _SMOOTH) & (x <= top + _SMOOTH))
        # up to where the curve rises above this maximum again
        end = int(records[first + 1]) if first + 1 < records.size else x.size
        return Yield(float(y[near].max()), strain_at_maximum(y[:end], x[:end], noise), False)
    return _offset_yield(x, y, smooth, modulus) if modulus else None


def _offset_yield(x: Floats, y: Floats, smooth: Floats, modulus: float) -> Yield | None:
    above = smooth - modulus * (x - _OFFSET)
    crossed = (x > _OFFSET) & (above <= 0)
    row = int(crossed.argmax())
    if not crossed[row]:
        return None
    near = np.flatnonzero(np.abs(x - x[row]) <= _SMOOTH)
    at = float(x[row])
    if near.size >= 6:
        # a local parabola of the raw distance to the line: averages noise, follows the bend
        gap = y[near] - modulus * (x[near] - _OFFSET)
        roots = np.roots(np.polyfit(x[near] - x[row], gap, 2))
        real = roots[np.abs(roots.imag) < 1e-12].real
        if real.size and np.abs(real).min() <= 2 * _SMOOTH:
            at += float(real[np.argmin(np.abs(real))])
    elif row > 0:
        before = float(above[row - 1])
        share = before / (before - float(above[row]))
        at = float(x[row - 1] + share * (x[row] - x[row - 1]))
    return Yield(modulus * (at - _OFFSET), at, True)


def _moving_mean(x: Floats, y: Floats) -> Floats:
    """Mean of y over ± `_SMOOTH` of strain around each row."""
    reach = np.maximum.accumulate(x)
    low = reach.searchsorted(reach - _SMOOTH)
    # a row reaches as far ahead as there are rows that reach back to it
    high = np.bincount(low, minlength=x.size).cumsum()
    # symmetric in rows, so that the ends of the curve do not shift the mean
    rows = np.arange(x.size)
    half = np.minimum(rows - low, high - 1 - rows)
    np.maximum(half, 0, out=half)
    total = np.zeros(x.size + 1)
    y.cumsum(out=total[1:])
    first, last = rows - half, rows + half
    last += 1
    result: Floats = total.take(last)
    result -= total.take(first)
    result /= last - first
    return result
