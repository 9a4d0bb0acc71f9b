"""A setting stepped by height through one print: a tower of bands."""

from __future__ import annotations

from dataclasses import dataclass

from assayer.core.errors import EntryError
from assayer.core.filament.fit import Hardware
from assayer.core.filament.window import Window
from assayer.core.settings.declared import SettingSpec, setting
from assayer.core.settings.limits import Warning, reach, windows

STEPPED = ("nozzle_temperature", "bed_temperature", "fan", "speed", "flow", "retraction")
"""Settings that can be stepped while a print runs."""

SPEED = SettingSpec("speed", "speed", setting("speed_outer").group, unit="%", low=10, high=300)  # type: ignore[union-attr]
"""All speeds of a print by a share of what its file asks: a tower steps it as a whole."""

FIRMWARE_RETRACTION = (
    "only a file in which the printer draws the filament back itself (G10 and G11) can be stepped so: switch firmware retraction on "
    "before the file is made; retraction by moves of the extruder (E) stays as the file has it"
)

MOST_BANDS = 40
LEAST_BAND = 2.0
"""mm; a lower band shows nothing."""


@dataclass(frozen=True, slots=True)
class Series:
    """Bands from the bed upwards.

    Attributes
    ----------
    setting : str
        One of `STEPPED`.
    start, step : float
        Value of the lowest band, and how far the next one is from it.
    count : int
    band_height, base_height : float, mm
        The base below the first band is printed with `start`.
    """

    setting: str
    start: float
    step: float
    count: int
    band_height: float
    base_height: float = 0.0

    @property
    def values(self) -> list[float]:
        return [round(self.start + i * self.step, 6) for i in range(self.count)]

    @property
    def height(self) -> float:
        return self.base_height + self.count * self.band_height

    @property
    def spec(self) -> SettingSpec:
        return spec_of(self.setting)


def spec_of(name: str) -> SettingSpec:
    """What is stepped.

    Raises
    ------
    EntryError
        If it cannot be stepped.
    """
    found = SPEED if name == SPEED.name else setting(name)
    if found is None or name not in STEPPED:
        raise EntryError(f"'{name}' cannot be stepped by height: one of {', '.join(STEPPED)} can", "setting")
    return found


def make_series(name: str, start: float, step: float, count: int | None, end: float | None, band_height: float, base_height: float = 0.0) -> Series:
    """A series by the number of its bands, or by the value of the last one.

    Raises
    ------
    EntryError
        If neither is given, both contradict, the last step would be shorter than the others, or steps lead away from the end.
    """
    if end is None:
        if count is None:
            raise EntryError("say how many bands, or the value of the last one", "count")
        return Series(name, start, step, count, band_height, base_height)
    if step == 0:
        raise EntryError("a step of 0: all bands would be the same", "step")
    steps = (end - start) / step
    if steps < 0:
        raise EntryError(f"steps of {step:g} from {start:g} lead away from {end:g}: {-step:g} was meant?", "step")
    if steps >= MOST_BANDS + 1:
        raise EntryError(f"from {start:g} to {end:g} by {step:g} are more bands than a tower can have: 2 to {MOST_BANDS} are meant", "step")
    if abs(steps - round(steps)) > 1e-6:
        below = start + int(steps) * step
        raise EntryError(f"steps of {step:g} from {start:g} end at {below:g} or {below + step:g}, not at {end:g}", "step")
    if count not in (None, round(steps) + 1):
        raise EntryError(f"from {start:g} to {end:g} by {step:g} are {round(steps) + 1} bands, not {count}", "count")
    return Series(name, start, step, round(steps) + 1, band_height, base_height)


def check_series(series: Series, window: Window | None = None, hardware: Hardware | None = None) -> list[Warning]:
    """Refuse a series that cannot be printed; tell what to be careful about.

    Raises
    ------
    EntryError
        Names the field: a value no print can have, beyond the printer, fewer than two bands, bands too low.
    """
    spec, values = series.spec, series.values
    if not 2 <= series.count <= MOST_BANDS:
        raise EntryError(f"{series.count} bands: 2 to {MOST_BANDS} are meant", "count")
    if series.step == 0:
        raise EntryError("a step of 0: all bands would be the same", "step")
    if series.band_height < LEAST_BAND:
        raise EntryError(f"bands of {series.band_height:g} mm are too low to be judged: at least {LEAST_BAND:g} mm", "band_height")
    if series.base_height < 0:
        raise EntryError(f"a base of {series.base_height:g} mm: it cannot be below 0", "base_height")
    wrong = next((v for v in values if not spec.low <= v <= spec.high), None)
    if wrong is not None:
        raise EntryError(f"{spec.label} would come to {wrong:g} {spec.unit}: it lies between {spec.low:g} and {spec.high:g} {spec.unit}", "step")
    cautions = [Warning("file", FIRMWARE_RETRACTION, "rule of this notebook")] if series.setting == "retraction" else []
    if hardware is not None:
        can = reach(series.setting, hardware)
        beyond = [v for v in values if not can.holds(v)]
        if beyond:
            raise EntryError(f"{spec.label} would come to {beyond[0]:g} {spec.unit}: {hardware.name} reaches {can.words(spec.unit)}", "start")
    span = windows(window).get(series.setting) if window is not None else None
    if span is not None and window is not None:
        outside = [v for v in values if not span.holds(v)]
        if outside:
            which = ", ".join(f"{v:g}" for v in outside)
            cautions.append(Warning("window", f"{which} {spec.unit} lie outside the maker's window of {span.words(spec.unit)}", "maker's window"))
    if series.setting == "nozzle_temperature" and series.step > 0:
        text = f"the coldest band comes first: should the nozzle clog at {values[0]:g} °C, nothing above it is seen; from {values[-1]:g} °C downwards is safer"
        cautions.append(Warning("direction", text, "rule of this notebook"))
    return cautions
