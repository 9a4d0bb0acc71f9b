"""Modulus and yield of a zeroed stress–strain curve (METHODS 1, "Modulus" and "Yield")."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from assayer.core.curves.loading import ToeLine
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
    """Yield stress and strain; `kind` is "maximum" or "offset 0.2 %"."""

    stress: float
    strain: float
    kind: str


def find_modulus(stress: Floats, strain: Floats, load_on: int, break_row: int, toe: ToeLine | None, chosen: tuple[float, float] | None = None) -> Modulus:
    """Least-squares slope between 0.0005 and 0.0025 of strain, or in the range the user chose.

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
        break_strain = float(x[-1])
        if break_strain < high:
            high = _SHORT * break_strain
            warnings.append("short range: it broke inside the strain range of the modulus")
    inside = (x >= low - 1e-12) & (x <= high + 1e-12)
    # the first passage only: after a yield drop the strain of a soft frame may run back
    if int(inside.sum()) < _ROWS:
        return Modulus(None, (low, high), [*warnings, f"no modulus: fewer than {_ROWS} rows between strain {low:.4g} and {high:.4g}"])
    slope, r2 = _slope(x[inside], y[inside])
    if r2 < _STRAIGHT_R2:
        warnings.append(f"the curve is not straight in the strain range of the modulus (r² {r2:.3f})")
    return Modulus(slope, (low, high), warnings)


def _after_toe(x: Floats, y: Floats, toe: ToeLine) -> tuple[float, float]:
    low, high = _RANGE
    on_line = toe.slope * x
    joined = (np.abs(y - on_line) <= np.maximum(0.01 * np.abs(on_line), 3 * toe.scatter)) & (x >= low)
    if joined.any():
        first = int(np.argmax(joined))
        nominal = int(np.argmax(x >= low))
        if first > nominal:
            low = float(x[first])
    return low, low + high - _RANGE[0]


def _slope(x: Floats, y: Floats) -> tuple[float, float]:
    xc, yc = x - x.mean(), y - y.mean()
    sxx, sxy, syy = float(xc @ xc), float(xc @ yc), float(yc @ yc)
    if sxx == 0 or syy == 0:
        return 0.0, 0.0
    return sxy / sxx, sxy**2 / (sxx * syy)


def find_yield(stress: Floats, strain: Floats, load_on: int, break_row: int, modulus: float | None) -> Yield | None:
    """First maximum that holds for 0.005 of strain, else the 0.2 % offset, else None.

    Noise rule: whether a point is exceeded is judged on the mean over ± 0.0005 of strain, so that a
    single high reading on a rising curve is no yield; the stress given is the highest raw one there.
    """
    x, y = strain[load_on : break_row + 1], stress[load_on : break_row + 1]
    if x.size < 3:
        return None
    smooth = _moving_mean(x, y)
    records = np.flatnonzero(np.diff(np.maximum.accumulate(smooth), prepend=-np.inf) > 0)
    following = np.append(x[records[1:]], x[-1])
    held = (following - x[records] > _AHEAD) & (y[records] > 0)
    if held.any():
        top = float(x[records[int(np.argmax(held))]])
        near = np.flatnonzero((x >= top - _SMOOTH) & (x <= top + _SMOOTH))
        row = int(near[np.argmax(y[near])])
        return Yield(float(y[row]), float(x[row]), "maximum")
    return _offset_yield(x, y, smooth, modulus) if modulus else None


def _offset_yield(x: Floats, y: Floats, smooth: Floats, modulus: float) -> Yield | None:
    above = smooth - modulus * (x - _OFFSET)
    beyond = x > _OFFSET
    crossed = np.flatnonzero(beyond & (above <= 0))
    if not crossed.size:
        return None
    row = int(crossed[0])
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
    return Yield(modulus * (at - _OFFSET), at, "offset 0.2 %")


def _moving_mean(x: Floats, y: Floats) -> Floats:
    """Mean of y over ± `_SMOOTH` of strain around each row."""
    reach = np.maximum.accumulate(x)
    low = np.searchsorted(reach, reach - _SMOOTH)
    high = np.searchsorted(reach, reach + _SMOOTH, side="right")
    # symmetric in rows, so that the ends of the curve do not shift the mean
    rows = np.arange(x.size)
    half = np.maximum(np.minimum(rows - low, high - 1 - rows), 0)
    total = np.concatenate(([0.0], np.cumsum(y)))
    result: Floats = (total[rows + half + 1] - total[rows - half]) / (2 * half + 1)
    return result
