"""A plan of a study, as it is held against the rules of a fair comparison, and what it lacks."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum

from assayer.core.quantities.words import Value


class StudiedFactor(StrEnum):
    """What a study studies."""

    MATERIAL = "material"
    COLOUR = "colour"
    SETTING = "setting"
    TREATMENT = "treatment"
    LOT = "lot"
    PRINTER = "printer"
    RIG = "rig"


MATERIAL_BOUND = (
    "nozzle_temperature", "nozzle_temperature_first", "bed_temperature", "bed_temperature_first", "chamber_temperature",
    "fan", "fan_first", "fan_bridge", "fan_overhang", "flow", "flow_limit", "pressure_advance", "retraction", "retraction_speed",
)  # fmt: skip
"""Settings that belong to a material: where each is printed at its best, these may differ; what shapes the bead may not."""


@dataclass(frozen=True, slots=True)
class Printing:
    """One batch of an arm, as planned or as it was; empty or None: not known."""

    printer: str = ""
    nozzle: str = ""
    lot: str = ""
    moisture: str = ""
    program: str = ""
    day: str = ""
    ambient: float | None = None


@dataclass(frozen=True, slots=True)
class PlannedArm:
    """An arm: what it is printed of and how; `window` as low and high of settings, as its maker has it."""

    name: str
    product: str
    colour: str
    treatment: str = ""
    settings: Mapping[str, Value] = field(default_factory=dict)
    batches: Sequence[Printing] = ()
    window: Mapping[str, tuple[float | None, float | None]] = field(default_factory=dict)
    age_days: float | None = None
    lot: str = ""
    printer: str = ""
    rig: str = ""
    """What it stands for where lots, printers or rigs are studied."""


@dataclass(frozen=True, slots=True)
class StudyPlan:
    """A plan to be looked at.

    Attributes
    ----------
    factor : StudiedFactor
    arms : sequence of PlannedArm
    reference : str or None
        The name of the arm that the others are held against.
    replicates : mapping of test label to how many specimens of each arm
    each_at_best : bool
        Of materials: whether each is printed as suits it.
    crosses_materials : bool
        Of anything else: whether each material has every level of it, so that products and colours may differ.
    studied : tuple of str
        Settings that are studied; those moved together to hold a derived one are one factor, told as "line_width+perimeters".
    labels : mapping of setting name to (label, unit)
    """

    factor: StudiedFactor
    arms: Sequence[PlannedArm]
    reference: str | None
    replicates: Mapping[str, int]
    each_at_best: bool = False
    crosses_materials: bool = False
    studied: tuple[str, ...] = ()
    labels: Mapping[str, tuple[str, str]] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Shortcoming:
    """One thing that a plan lacks: what it is, what it would cost the conclusion, how to fix it.

    `blocking` where the question cannot be answered as it stands; `setting` where there is one of this name for each setting.
    """

    name: str
    blocking: bool
    text: str
    costs: str
    fix: str
    setting: str = ""
