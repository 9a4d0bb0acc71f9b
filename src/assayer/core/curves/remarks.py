"""What looks wrong in a recording and should be pointed out with its line."""

from __future__ import annotations

import numpy as np

from assayer.core.curves.recording import Floats, Recording

_DROP = 0.02
_DROP_ROWS = 2
_CLIP_ROWS = 8
_CLIP_RATIO = 10


def clipped(force: Floats) -> bool:
    """Whether the force stands exactly still at its top for far longer than one step below it.

    A coarse but honest signal dwells near a rounded maximum too: there the top level lasts at most
    about five times as long as the level below it.
    """
    run_start = int(force.argmax())
    length = _run_length(force, run_start)
    if length < _CLIP_ROWS:
        return False
    if run_start == 0:
        return True
    level = force[run_start - 1]
    below = 1
    while run_start - 1 - below >= 0 and force[run_start - 1 - below] == level:
        below += 1
    return length >= _CLIP_RATIO * below


def _run_length(values: Floats, start: int) -> int:
    different = values[start:] != values[start]
    length = int(different.argmax())
    return length if different[length] else values.size - start


def sudden_drops(recording: Recording, force: Floats, load_on: int, break_row: int, noise: float) -> list[str]:
    """Slips and partial breaks between load-on and break, each with its line; at most three are named."""
    part = force[load_on : break_row + 1]
    if part.size <= _DROP_ROWS:
        return []
    least = max(_DROP * float(force.max()), 6 * noise)
    fall = part[:-_DROP_ROWS] - part[_DROP_ROWS:]
    if fall.max() <= least:
        return []
    rows = np.flatnonzero(fall > least)
    separate = rows[np.diff(rows, prepend=-10) > _DROP_ROWS + 1]
    # the start of the fall that leads into the break itself is no separate event
    separate = separate[separate < part.size - _DROP_ROWS - 1]
    remarks = []
    for row in separate[:3].tolist():
        recovered = float(part[row + _DROP_ROWS :].max()) > float(part[row])
        what = "slipped in the grips" if recovered else "broke in part"
        remarks.append(f"line {recording.line(load_on + row)}: the force drops by {fall[row] / force.max():.0%} of the peak, it seems to have {what}")
    if separate.size > 3:
        remarks.append(f"{separate.size - 3} more sudden drops of force")
    return remarks
