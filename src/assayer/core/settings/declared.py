"""What may be set for a print, grouped by what it acts on. Declared once: sheets, pages and rules follow from it."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from assayer.core.quantities.words import Value, value_words


class Group(StrEnum):
    """What a setting acts on."""

    HEAT = "heat"
    BEAD = "bead"
    SHELL = "shell"
    MOTION = "motion"
    AIR = "air"
    HOLD_DOWN = "hold-down"


class Kind(StrEnum):
    """What a setting's value is."""

    NUMBER = "number"
    CHOICE = "choice"
    FLAG = "flag"
    WORDS = "words"


@dataclass(frozen=True, slots=True)
class SettingSpec:
    """One thing that may be set.

    Attributes
    ----------
    name, label, short : str
        `short` stands on the chips of the trail.
    unit : str
        Of a number; empty for a count.
    low, high : float
        What a number may be at all; beyond it is a slip.
    choices : tuple of str
    """

    name: str
    label: str
    group: Group
    kind: Kind = Kind.NUMBER
    unit: str = ""
    low: float = 0.0
    high: float = 0.0
    short: str = ""
    choices: tuple[str, ...] = ()
    whole: bool = False

    @property
    def chip(self) -> str:
        return self.short or self.label


def _heat(name: str, label: str, short: str, low: float, high: float) -> SettingSpec:
    return SettingSpec(name, label, Group.HEAT, unit="°C", low=low, high=high, short=short)


def _speed(name: str, label: str, short: str) -> SettingSpec:
    return SettingSpec(name, label, Group.MOTION, unit="mm/s", low=1, high=1000, short=short)


def _fan(name: str, label: str, short: str) -> SettingSpec:
    return SettingSpec(name, label, Group.AIR, unit="%", low=0, high=100, short=short)


def _words(name: str, label: str, group: Group, short: str = "") -> SettingSpec:
    return SettingSpec(name, label, group, Kind.WORDS, short=short)


SETTINGS: tuple[SettingSpec, ...] = (
    _heat("nozzle_temperature", "nozzle", "nozzle", 120, 500),
    _heat("nozzle_temperature_first", "nozzle, first layer", "nozzle first", 120, 500),
    _heat("bed_temperature", "bed", "bed", 0, 220),
    _heat("bed_temperature_first", "bed, first layer", "bed first", 0, 220),
    _heat("chamber_temperature", "chamber", "chamber", 0, 260),
    SettingSpec("layer_height", "layer height", Group.BEAD, unit="mm", low=0.02, high=3, short="layer"),
    SettingSpec("layer_height_first", "layer height, first layer", Group.BEAD, unit="mm", low=0.02, high=3, short="layer first"),
    SettingSpec("line_width", "line width", Group.BEAD, unit="mm", low=0.05, high=5, short="line"),
    SettingSpec("flow", "flow", Group.BEAD, unit="%", low=40, high=200),
    SettingSpec("flow_limit", "volumetric flow limit", Group.BEAD, unit="mm³/s", low=0.5, high=150, short="flow limit"),
    SettingSpec("pressure_advance", "pressure advance", Group.BEAD, unit="s", low=0, high=5, short="advance"),
    SettingSpec("perimeters", "perimeters", Group.SHELL, low=0, high=50, whole=True),
    SettingSpec("wall_order", "order of walls", Group.SHELL, Kind.CHOICE, choices=("inner first", "outer first")),
    SettingSpec("seam", "seam", Group.SHELL, Kind.CHOICE, choices=("aligned", "at the back", "in corners", "scattered")),
    SettingSpec("top_layers", "top layers", Group.SHELL, low=0, high=100, whole=True),
    SettingSpec("bottom_layers", "bottom layers", Group.SHELL, low=0, high=100, whole=True),
    SettingSpec("infill", "infill", Group.SHELL, unit="%", low=0, high=100),
    SettingSpec("infill_pattern", "infill pattern", Group.SHELL, Kind.CHOICE, choices=("lines", "grid", "triangles", "hexagons", "waves", "rings")),
    SettingSpec("spiral_wall", "a single spiral wall", Group.SHELL, Kind.FLAG, short="spiral wall"),
    SettingSpec("supports", "supports", Group.SHELL, Kind.CHOICE, choices=("none", "where needed", "from the bed only")),
    _speed("speed_outer", "outer wall", "outer wall"),
    _speed("speed_inner", "inner wall", "inner wall"),
    _speed("speed_infill", "infill speed", "infill speed"),
    _speed("speed_travel", "travel", "travel"),
    _speed("speed_first", "first layer speed", "first layer"),
    _speed("speed_overhang_steep", "overhang up to 45°", "overhang 45°"),
    _speed("speed_overhang_steeper", "overhang 45° to 60°", "overhang 60°"),
    _speed("speed_overhang_steepest", "overhang beyond 60°", "overhang > 60°"),
    SettingSpec("acceleration", "acceleration", Group.MOTION, unit="mm/s²", low=10, high=100_000),
    SettingSpec("retraction", "retraction", Group.MOTION, unit="mm", low=0, high=20),
    SettingSpec("retraction_speed", "retraction speed", Group.MOTION, unit="mm/s", low=1, high=200),
    SettingSpec("travel_inside", "travel kept inside contours", Group.MOTION, Kind.FLAG, short="travel inside"),
    SettingSpec("least_layer_time", "least layer time", Group.MOTION, unit="s", low=0, high=600, short="layer time"),
    _fan("fan", "fan", "fan"),
    _fan("fan_first", "fan, first layer", "fan first"),
    _fan("fan_bridge", "fan, bridges", "fan bridge"),
    _fan("fan_overhang", "fan, overhangs", "fan overhang"),
    SettingSpec("door", "door", Group.AIR, Kind.CHOICE, choices=("closed", "open")),
    SettingSpec("room", "room", Group.AIR, unit="°C", low=-10, high=60),
    _words("bed_surface", "bed surface", Group.HOLD_DOWN, "bed"),
    _words("cleaned", "cleaned with", Group.HOLD_DOWN, "cleaned"),
    _words("adhesive", "adhesive", Group.HOLD_DOWN),
    SettingSpec("brim", "brim", Group.HOLD_DOWN, unit="mm", low=0, high=50),
)
"""All of them, in the order in which a sheet shows them."""

_BY_NAME = {s.name: s for s in SETTINGS}


def setting(name: str) -> SettingSpec | None:
    """The setting of this name; None for an extra field of a sheet's own."""
    return _BY_NAME.get(name)


def shown(name: str, value: Value) -> str:
    """A setting's value as a person writes it, with its unit."""
    spec = setting(name)
    return value_words(value, spec.unit if spec else "")


def chip(name: str, value: Value) -> str:
    """A setting and its value in few words."""
    spec = setting(name)
    return f"{spec.chip if spec else name} {shown(name, value)}"
