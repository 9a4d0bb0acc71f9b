"""The tower that is proposed for a setting: steps inside what maker and printer allow, around the value in use."""

from __future__ import annotations

import math
from dataclasses import dataclass

from assayer.core.filament.fit import Hardware
from assayer.core.filament.window import Window
from assayer.core.settings.limits import reach, windows
from assayer.core.settings.series import Series, spec_of

BAND_HEIGHT, BASE_HEIGHT = 7.0, 1.4
"""mm."""


@dataclass(frozen=True, slots=True)
class _Usual:
    """The step between bands, how many there are at most, and where they lie while nothing is known."""

    step: float
    most: int
    middle: float


_USUAL = {
    "nozzle_temperature": _Usual(5, 6, 230),
    "bed_temperature": _Usual(5, 5, 60),
    "fan": _Usual(20, 6, 50),
    "speed": _Usual(20, 5, 100),
    "flow": _Usual(4, 5, 100),
    "retraction": _Usual(0.2, 6, 1),
}
"""General knowledge of the trade (PROCESS 2 and 4)."""


def propose_series(name: str, current: float | None, window: Window, hardware: Hardware) -> Series:
    """Bands on both sides of the value in use, as many as lie inside maker's window and printer's reach.

    Parameters
    ----------
    name : str
        One of `STEPPED`.
    current : float or None
        The value in use, in the setting's unit; None: the middle of the window, or a usual value.
    window : Window
    hardware : Hardware

    Returns
    -------
    Series
        Temperatures from hot to cold, all else rising. A window too narrow for two steps is halved.

    Raises
    ------
    EntryError
        If the setting cannot be stepped.
    """
    spec, usual = spec_of(name), _USUAL[name]
    maker, printer = windows(window).get(name), reach(name, hardware)
    lows = [v for v in (spec.low, maker.low if maker else None, printer.low) if v is not None]
    highs = [v for v in (spec.high, maker.high if maker else None, printer.high) if v is not None]
    low, high = max(lows), min(highs)
    known = maker is not None and maker.low is not None and maker.high is not None
    middle = min(max(current if current is not None else (low + high) / 2 if known else usual.middle, low), high)
    step = usual.step if high - low >= usual.step else (high - low) / 2 or usual.step
    below, above = (math.floor(room / step + 1e-9) for room in (middle - low, high - middle))
    steps = sorted(range(-below, above + 1), key=lambda k: (abs(k), k))[: usual.most]
    first, last = (round(middle + k * step, 6) for k in (min(steps), max(steps)))
    falling = name.endswith("temperature")
    return Series(name, last if falling else first, -step if falling else step, max(2, len(steps)), BAND_HEIGHT, BASE_HEIGHT)
