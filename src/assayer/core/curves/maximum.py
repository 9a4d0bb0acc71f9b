"""Where a curve has its maximum, although the signal scatters about a flat top (METHODS 1, "strain at strength")."""

from __future__ import annotations

import numpy as np

from assayer.core.curves.recording import Floats

_TOP = (0.01, 6.0)
"""Rows belong to the top down to this share of the maximum, or this many times the scatter, below it."""
_ROWS = 5
_SCATTER = 2.0
"""Times the scatter of the signal: nearer to the maximum than this, a row may be as high."""


def strain_at_maximum(stress: Floats, strain: Floats, noise: float) -> float:
    """The strain at the vertex of a parabola through the top; where the top is no parabola, that at which the maximum is first reached.

    The highest row alone depends on the scatter: on a flat top it may lie some per cent of strain from where the maximum is.

    Parameters
    ----------
    stress, strain : ndarray, shape (n,)
        From load-on to the break, MPa and mm/mm.
    noise : float, MPa
        Standard deviation of the unloaded signal.
    """
    top = int(stress.argmax())
    highest = float(stress[top])
    vertex = _vertex(stress, strain, top, noise)
    if vertex is not None:
        return vertex
    least = highest - _SCATTER * noise
    first = int((stress >= least).argmax())
    if first == 0:
        return float(strain[0])
    low, high = float(stress[first - 1]), float(stress[first])
    # between two rows only as far as the level, not to the row itself
    share = (least - low) / (high - low)
    return float(strain[first - 1] + share * (strain[first] - strain[first - 1]))


def _vertex(stress: Floats, strain: Floats, top: int, noise: float) -> float | None:
    """Of the least-squares parabola through the top; None where it does not describe it, or its vertex lies outside."""
    highest = float(stress[top])
    below = stress < highest - max(_TOP[0] * highest, _TOP[1] * noise)
    before, after = np.flatnonzero(below[:top]), np.flatnonzero(below[top:])
    low = int(before[-1]) + 1 if before.size else 0
    high = top + int(after[0]) if after.size else stress.size
    x, y = strain[low:high] - strain[top], stress[low:high]
    if x.size < _ROWS or not x[0] < x[-1]:
        return None
    # in units of the width, so that the sums of powers do not lose digits
    width = float(x[-1] - x[0])
    bend, slope, level = np.polyfit(x / width, y, 2)
    scatter = float(np.std(y - np.polyval((bend, slope, level), x / width)))
    if bend >= 0 or scatter > _SCATTER * noise:
        return None
    at = -slope / (2 * bend) * width
    return float(strain[top] + at) if x[0] < at < x[-1] else None
