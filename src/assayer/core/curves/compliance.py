"""The compliance of a machine, read off a pull on a bar too stiff to matter."""

from __future__ import annotations

import math
from dataclasses import dataclass, field

import numpy as np

from assayer.core.curves.recording import Recording
from assayer.core.errors import EntryError
from assayer.core.stats.groups import Interval, t_quantile

_LOW = 0.2
_HIGH = 0.95
"""Share of the peak between which the line is laid: above the slack, below the top."""
_STRAIGHT_R2 = 0.99


@dataclass(frozen=True, slots=True)
class Compliance:
    """Travel over force in mm/N, with its interval and how straight the line is; `force_range` in N."""

    value: float
    ci95: Interval | None
    r2: float
    rows: int
    force_range: tuple[float, float]
    warnings: list[str] = field(default_factory=list)


def machine_compliance(recording: Recording) -> Compliance:
    """Least-squares slope of travel on force while the load rises from 20 to 95 % of its peak.

    Parameters
    ----------
    recording : Recording
        With force (N) and travel (mm) of a rigid bar or of the closed grips.

    Raises
    ------
    EntryError
        If force or travel is missing, too few rows carry load, or travel does not grow with it.
    """
    force, travel = recording.need("force"), recording.need("travel")
    force = force - float(force[0])
    if -float(force.min()) > float(force.max()):
        force = -force
    peak = int(np.argmax(force))
    top = float(force[peak])
    rising = np.flatnonzero((force[: peak + 1] >= _LOW * top) & (force[: peak + 1] <= _HIGH * top))
    if top <= 0 or rising.size < 5:
        raise EntryError("too few rows while the load rises: pull slower, or record more rows a second", "curve")
    x, y = force[rising], travel[rising]
    if float(y[-1]) < float(y[0]):
        y = -y
    xc, yc = x - x.mean(), y - y.mean()
    spread = float(xc @ xc)
    slope = float(xc @ yc) / spread
    if not slope > 0:
        raise EntryError("the travel does not grow with the force: are the two columns exchanged?", "curve")
    residual = yc - slope * xc
    r2 = 1 - float(residual @ residual) / float(yc @ yc)
    half = t_quantile(0.975, rising.size - 2) * math.sqrt(float(residual @ residual) / (rising.size - 2) / spread)
    warnings = [] if r2 >= _STRAIGHT_R2 else [f"travel over force is not straight (r² {r2:.3f}): something settles or slips"]
    return Compliance(slope, Interval(slope - half, slope + half), r2, int(rising.size), (float(x.min()), float(x.max())), warnings)
