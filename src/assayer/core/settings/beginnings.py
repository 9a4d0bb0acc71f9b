"""Where a first sheet may start: the middle of the maker's window, or what is usual for a nozzle."""

from __future__ import annotations

from assayer.core.filament.window import Span, Window
from assayer.core.settings.limits import windows
from assayer.core.settings.sheet import Set, Sheet, Source

_PREFERRED_NOZZLE = 0.4


def middle(span: Span) -> float | None:
    """The middle of a range, whole; the end that is given where one is open."""
    if span.low is not None and span.high is not None:
        return float(round((span.low + span.high) / 2))
    return span.low if span.low is not None else span.high


def general_sheet(nozzle: float | None) -> Sheet:
    """What is usual whatever the material: a bead that the nozzle lays easily, moderate speeds, no fan at first."""
    d = nozzle or _PREFERRED_NOZZLE
    values: dict[str, float | str] = {
        "layer_height": round(d / 2, 2),
        "layer_height_first": round(d / 2, 2),
        "line_width": round(1.1 * d, 2),
        "flow": 100,
        "perimeters": 3,
        "top_layers": 5,
        "bottom_layers": 4,
        "infill": 20,
        "supports": "none",
        "speed_outer": 30,
        "speed_inner": 45,
        "speed_infill": 50,
        "speed_travel": 120,
        "speed_first": 20,
        "acceleration": 1000,
        "retraction": 1,
        "retraction_speed": 30,
        "least_layer_time": 10,
        "fan": 30,
        "fan_first": 0,
        "brim": 0,
    }
    return Sheet({name: Set(value, Source.GENERAL) for name, value in values.items()})


def maker_sheet(window: Window, nozzle: float | None, enclosed: bool | None = None) -> Sheet:
    """The middle of the maker's window over what is usual; a wall is never faster than the slow end that is asked for.

    An open printer (`enclosed` False) gets no door and no chamber value, whatever the maker asks (PROCESS 2): the
    fit to print says that it lacks them.
    """
    values = dict(general_sheet(nozzle).values)
    for name, span in windows(window).items():
        at = middle(span)
        if at is not None and not (enclosed is False and name == "chamber_temperature"):
            values[name] = Set(at, Source.MAKER)
    if window.bed_surface:
        values["bed_surface"] = Set(window.bed_surface, Source.MAKER)
    if window.adhesive:
        values["adhesive"] = Set(window.adhesive, Source.MAKER)
    if window.enclosure is not None and enclosed is not False:
        values["door"] = Set("closed" if window.enclosure else "open", Source.MAKER)
    return Sheet(values)
