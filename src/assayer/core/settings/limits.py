"""Whether a sheet can be printed: against the maker's window, the printer, and what a nozzle can lay."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from assayer.core.errors import EntryError
from assayer.core.filament.bead import volumetric_flow
from assayer.core.filament.fit import Hardware
from assayer.core.filament.window import Span, Window
from assayer.core.settings.declared import setting
from assayer.core.settings.sheet import Sheet

HIGHEST_LAYER = 0.8
"""Of the nozzle's diameter: a higher layer is not pressed onto the one below."""

WIDTHS = Span(0.8, 2.0)
"""Of the nozzle's diameter: a narrower line tears, a wider one is not pressed to its edge."""

SPEEDS = ("speed_outer", "speed_inner", "speed_infill", "speed_first")
"""Speeds at which beads are laid."""


@dataclass(frozen=True, slots=True)
class Warning:
    """What stands against a setting, with the figures."""

    name: str
    text: str
    source: str


def windows(window: Window) -> dict[str, Span]:
    """The maker's ranges by the settings they are about; those of the first layer are held to the same."""
    spans = {
        "nozzle_temperature": window.nozzle,
        "nozzle_temperature_first": window.nozzle,
        "bed_temperature": window.bed,
        "bed_temperature_first": window.bed,
        "chamber_temperature": window.chamber,
        "flow_limit": Span(high=window.flow_max),
        **dict.fromkeys(("speed_outer", "speed_inner", "speed_infill"), window.speed),
    }
    return {name: span for name, span in spans.items() if span.known}


@dataclass(frozen=True, slots=True)
class Outside:
    """A setting that lies outside the maker's window; a None end is open."""

    label: str
    value: float
    low: float | None
    high: float | None
    unit: str


def outside_window(values: Mapping[str, object], window: Window) -> list[Outside]:
    """The settings, by name, that the maker did not ask for."""
    outside = []
    for name, span in windows(window).items():
        value, declared = values.get(name), setting(name)
        if isinstance(value, int | float) and not isinstance(value, bool) and not span.holds(value) and declared is not None:
            outside.append(Outside(declared.label, float(value), span.low, span.high, declared.unit))
    return outside


def reach(name: str, hardware: Hardware) -> Span:
    """What the printer itself can do of a setting."""
    if name.startswith("nozzle_temperature"):
        return Span(high=hardware.nozzle_hottest)
    if name.startswith("bed_temperature"):
        return Span(high=hardware.bed_hottest)
    if name == "chamber_temperature":
        return Span(high=hardware.chamber_hottest)
    if hardware.nozzle is not None and name.startswith("layer_height"):
        return Span(high=round(HIGHEST_LAYER * hardware.nozzle, 4))
    if hardware.nozzle is not None and name == "line_width":
        return Span(*(round(share * hardware.nozzle, 4) for share in (WIDTHS.low or 0, WIDTHS.high or 0)))
    return Span()


def limited(name: str) -> bool:
    """Whether a printer has a limit of a setting that it must be known for: a temperature."""
    return name.startswith(("nozzle_temperature", "bed_temperature")) or name == "chamber_temperature"


def within(value: float, span: Span) -> float | None:
    """How far a value stands inside a closed window: 0 at its low end, 1 at its high end, beyond them outside."""
    if span.low is None or span.high is None or span.high <= span.low:
        return None
    return (value - span.low) / (span.high - span.low)


def warnings(sheet: Sheet, window: Window, hardware: Hardware) -> list[Warning]:
    """What stands against a sheet; nothing where a figure is not known."""
    maker = "maker's window" + (f" ({window.source})" if window.source else "")
    found = []
    for name, span in windows(window).items():
        found += _outside(sheet, name, span, maker)
    for name in sheet.values:
        found += _outside(sheet, name, reach(name, hardware), hardware.name)
    return found + _unknown(sheet, hardware) + flow_warnings(sheet, window)


def _unknown(sheet: Sheet, hardware: Hardware) -> list[Warning]:
    """Temperatures that the printer was never said to reach: told, not passed over."""
    open_names = [name for name in sheet.values if limited(name) and not reach(name, hardware).known and sheet.number(name)]
    labels = [spec.label for name in open_names if (spec := setting(name)) is not None]
    return [Warning("unknown", f"what {hardware.name} reaches is not known: {', '.join(labels)} not checked", hardware.name)] if labels else []


def _outside(sheet: Sheet, name: str, span: Span, source: str) -> list[Warning]:
    spec, held = setting(name), sheet.values.get(name)
    if spec is None or held is None or not span.known:
        return []
    values = [held.value, *(r.value for r in held.regions), *([held.schedule.end] if held.schedule else [])]
    beyond = [v for v in values if not isinstance(v, str | bool) and not span.holds(v)]
    return [Warning(name, f"{spec.label} {v:g} {spec.unit}: {source} has {span.words(spec.unit)}", source) for v in dict.fromkeys(beyond)]


def flow_warnings(sheet: Sheet, window: Window) -> list[Warning]:
    """Speeds that want more filament per second than the sheet's limit, or the maker's."""
    width, height, limit = sheet.number("line_width"), sheet.number("layer_height"), sheet.number("flow_limit")
    if width is None or height is None:
        return []
    tightest = min((v for v in (limit, window.flow_max) if v is not None), default=None)
    if tightest is None:
        return []
    whose = "the sheet's limit" if tightest == limit else "maker's window"
    share = (sheet.number("flow") or 100.0) / 100
    found = []
    for name in SPEEDS:
        spec, speed = setting(name), sheet.number(name)
        if spec is None or speed is None:
            continue
        try:
            flow = volumetric_flow(width, height, speed) * share
        except EntryError as error:
            return [Warning("line_width", error.message, "rule of this notebook")]
        if flow > tightest:
            fits = speed * tightest / flow
            text = f"{spec.label} {speed:g} mm/s wants {flow:.1f} mm³/s: {whose} is {tightest:g} mm³/s, which is reached at {fits:.0f} mm/s"
            found.append(Warning(name, text, whose))
    return found
