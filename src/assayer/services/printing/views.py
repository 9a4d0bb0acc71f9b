"""What printing answers."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from assayer.services.views import Pair2, QuestionView, View

SpecimenState = Literal["good", "failed", "would not stick", "misprinted"]


class PrinterView(View):
    id: str
    name: str
    revision: int
    nozzle: float | None
    hardened: bool | None
    enclosed: bool | None
    bed_surface: str
    strand: float | None
    nozzle_hottest: float | None
    bed_hottest: float | None
    chamber_hottest: float | None
    extraction: bool | None
    holder: float | None
    drives_rims: bool | None
    takes_refills: bool | None
    loads_itself: bool | None
    build_x: float | None
    build_y: float | None
    build_z: float | None
    acceleration: float | None
    filtered: bool | None
    feeder: str


class PrinterList(View):
    items: list[PrinterView]


class MissView(View):
    rule: str
    level: Literal["must", "should"]
    text: str
    source: str


class FitSheet(View):
    id: str
    name: str
    purpose: str


class FitView(View):
    fit: bool
    misses: list[MissView]
    unchecked: list[str]
    questions: list[QuestionView]
    """About settings that are hardly meant as typed."""
    flow: float | None
    left: float | None
    sheet: FitSheet | None
    """The current sheet that filled in what was not said."""


class StandingView(View):
    """How a shape stands on the bed, mm; `stands` is false where it would fall over."""

    orientation: str
    width: float
    depth: float
    height: float
    brim: bool
    supports: bool
    stands: bool


class ShapeSheet(View):
    """A shape with its lengths (mm), volume (cm³), and what is seen of it from above and from the side."""

    name: str
    label: str
    family: str
    dimensions: dict[str, float]
    volume: float
    numbered: bool
    """Whether a number can be sunk into it without weakening."""
    standings: list[StandingView]
    top: list[list[Pair2]]
    side: list[list[Pair2]]


class ShapeList(View):
    items: list[ShapeSheet]


class PrintedSpecimen(View):
    id: str
    code: str
    test_id: str
    number: int
    shape: str
    orientation: str
    outcome: SpecimenState
    fault: str
    tested: bool


class BatchView(View):
    """A print job: its specimens with their codes, and what it took from the spool, g."""

    id: str
    arm_id: str
    printed_at: datetime
    spool_id: str | None
    spool_code: str | None
    mass: float | None
    printer_id: str | None
    printer: str
    nozzle: str
    minutes: float | None
    room: float | None
    mark: str
    specimens: list[PrintedSpecimen]


class BatchList(View):
    """The batches of a study, the newest first."""

    items: list[BatchView]


class ToPrint(View):
    """Replicates of one test that wait to be printed, and those to be printed again."""

    test_id: str
    label: str
    waiting: int
    again: list[str]
    """Slots whose specimens were all left out."""
    mass_each: float | None


class ArmToPrint(View):
    arm_id: str
    mark: str
    spool_id: str | None
    tests: list[ToPrint]


class PrintPlan(View):
    """What of a study is to be printed."""

    study_id: str
    revision: int
    arms: list[ArmToPrint]
