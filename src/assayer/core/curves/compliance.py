"""The compliance of a machine, read off a pull on a bar too stiff to matter."""

from __future__ import annotations

import math
from dataclasses import dataclass, field

import numpy as np

from assayer.core.curves.recording import Floats, Recording
from assayer.core.errors import EntryError
from assayer.core.stats.groups import Interval, t_quantile

_LOW = 0.2
_HIGH = 0.95
"""Share of the peak between which the line is laid: above the slack, below the top."""
_STRAIGHT_R2 = 0.99
STEEL = 210_000.0
"""MPa: the modulus of most steels, 205 to 215 GPa."""
_PARTS = 4
"""Into how many parts the rising line is divided, to see how its slope changes with the load."""


@dataclass(frozen=True, slots=True)
class RigidBar:
    """The bar that a machine was pulled on; a steel bar gives too: L/(E·A).

    Attributes
    ----------
    length : float, mm
        Between the grips.
    area : float, mm²
    modulus : float, MPa
    """

    length: float
    area: float
    modulus: float

    def __post_init__(self) -> None:
        for name in ("length", "area", "modulus"):
            value = getattr(self, name)
            if not (math.isfinite(value) and value > 0):
                raise EntryError(f"the {name} of the bar must be greater than 0, but got {value:g}", f"bar_{name}")

    @property
    def compliance(self) -> float:
        """mm/N."""
        return self.length / (self.modulus * self.area)


@dataclass(frozen=True, slots=True)
class Compliance:
    """Travel over force in mm/N with the bar's own share subtracted, its standard uncertainty, and how straight the line is; `force_range` in N."""

    value: float
    uncertainty: float
    of_bar: float
    """What was subtracted, mm/N; 0 where the bar is not known."""
    ci95: Interval | None
    r2: float
    rows: int
    force_range: tuple[float, float]
    warnings: list[str] = field(default_factory=list)


def machine_compliance(recording: Recording, bar: RigidBar | None = None) -> Compliance:
    """Least-squares slope of travel on force while the load rises from 20 to 95 % of its peak, less the compliance of the bar (METHODS 1).

    Parameters
    ----------
    recording : Recording
        With force (N) and travel (mm) of a rigid bar or of the closed grips.
    bar : RigidBar, optional

    Raises
    ------
    EntryError
        If force or travel is missing, too few rows carry load, travel does not grow with it, or the bar alone would give more.

    Notes
    -----
    The standard uncertainty is the greater of the standard error of the slope and that of the slopes of four parts of
    the line: rows that follow each other scatter together, and a line that bends has no one slope.
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
    of_bar = 0.0 if bar is None else bar.compliance
    if bar is None:
        warnings.append("the bar's own give is not subtracted: enter its length, section and modulus")
    elif of_bar >= slope:
        raise EntryError(f"the bar alone would give {of_bar:.3g} mm/N, more than was read ({slope:.3g} mm/N): is a length in another unit?", "bar_length")
    uncertainty = max(half / t_quantile(0.975, rising.size - 2), _scatter_of_parts(x, y))
    interval = Interval(slope - of_bar - half, slope - of_bar + half)
    return Compliance(slope - of_bar, uncertainty, of_bar, interval, r2, int(rising.size), (float(x.min()), float(x.max())), warnings)


def _scatter_of_parts(x: Floats, y: Floats) -> float:
    """Standard error of the mean slope of parts of the line; 0 where they have too few rows."""
    parts = [(a, b) for a, b in zip(np.array_split(x, _PARTS), np.array_split(y, _PARTS), strict=True) if a.size > 2 and np.ptp(a) > 0]
    if len(parts) < _PARTS:
        return 0.0
    slopes = [float(np.polyfit(a, b, 1)[0]) for a, b in parts]
    return float(np.std(slopes, ddof=1)) / math.sqrt(_PARTS)
