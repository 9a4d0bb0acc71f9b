"""Zero of the force and the break (METHODS 1, "Tare" and "Break")."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from assayer.core.curves.recording import Floats, median, white_noise

_GONE = 0.40
"""Below this share of the peak, for good, the specimen has broken."""
_BACK = 0.01
_LOOK_BACK_STRAIN = 0.0005
_TAIL_ROWS = 10
_TAIL_DRIFT = 0.05


@dataclass(frozen=True, slots=True)
class BreakPoint:
    """Where the specimen broke.

    Attributes
    ----------
    force : ndarray, shape (n,), N
        With the zero taken off.
    zero : float, N
        What was taken off.
    row : int
        Last row before the break; the last row of the recording if it did not break.
    broken, torn, proposed : bool
        `torn`: the force sank without a drop. `proposed`: the zero is doubtful, so the break is too.
    noise : float, N
        Standard deviation of the unloaded signal.
    """

    force: Floats
    zero: float
    row: int
    broken: bool
    torn: bool
    proposed: bool
    noise: float
    warnings: list[str] = field(default_factory=list)


def find_break(raw_force: Floats, strain: Floats | None) -> BreakPoint:
    """Zero the force on the unloaded tail (or head) and find the break.

    Parameters
    ----------
    raw_force : ndarray, shape (n,), N
        Positive in tension.
    strain : ndarray, shape (n,), or None
        Nominal strain, used for how far to look back; without it one row.
    """
    first, highest = float(raw_force[0]), float(raw_force.max())
    force = raw_force - first
    crossing = _last_crossing(force, highest - first)
    tail = force[crossing + 1 :] if crossing is not None else force[:0]
    middle = median(tail) if tail.size >= _TAIL_ROWS else 0.0
    warnings: list[str] = []
    proposed = False

    if tail.size >= _TAIL_ROWS and abs(middle) <= _TAIL_DRIFT * (highest - first):
        zero = first + middle
        noise = _spread(tail, middle)
    else:
        if tail.size >= _TAIL_ROWS:
            proposed = True
            warnings.append("the force after the break does not return to that of the first row: zeroed on the head, the break is only proposed")
        head = _head(raw_force)
        zero = median(head)
        noise = white_noise(raw_force[: max(50, head.size)])

    force, peak = raw_force - zero, highest - zero
    crossing = _last_crossing(force, peak)
    if crossing is None:
        return BreakPoint(force, zero, raw_force.size - 1, False, False, proposed, noise, warnings)
    row = _walk_back(force, strain, crossing, peak)
    return BreakPoint(force, zero, row, True, row == crossing, proposed, noise, warnings)


def _last_crossing(force: Floats, peak: float) -> int | None:
    """First row from which the force stays below 40 % of the peak; None if it never does."""
    # counted from behind: the highest row itself is above
    beyond = int((force >= _GONE * peak)[::-1].argmax())
    return force.size - beyond if beyond else None


def _walk_back(force: Floats, strain: Floats | None, crossing: int, peak: float) -> int:
    reach = np.maximum.accumulate(strain[: crossing + 1]) if strain is not None else None
    row = crossing
    while row > 0:
        start = row - 1
        if reach is not None:
            start = min(start, int(reach.searchsorted(reach[row] - _LOOK_BACK_STRAIN)))
        if force[row] >= force[start:row].max() - _BACK * peak:
            return row
        row -= 1
    return 0


def _head(raw_force: Floats) -> Floats:
    """The rows before load comes on: those that stay within the noise of the first; at least the first."""
    reach = raw_force[:200]
    away = np.abs(raw_force - raw_force[0]) > 3 * np.sqrt(2) * white_noise(reach)
    stop = int(np.argmax(away)) if away.any() else raw_force.size
    return raw_force[: max(1, stop)]


def _spread(values: Floats, middle: float) -> float:
    """The robust scatter about the median."""
    return 1.4826 * median(np.abs(values - middle))
