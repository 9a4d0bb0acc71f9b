"""What printing answers."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import WithJsonSchema

from assayer.services.photos.views import PhotoView
from assayer.services.views import Pair2, QuestionView, StandingView, View

Rectangle = Annotated[tuple[float, float, float, float], WithJsonSchema({"type": "array", "items": {"type": "number"}, "minItems": 4, "maxItems": 4})]
"""x0, y0, x1, y1; described as four numbers, since readers of descriptions stumble over a list of lists of four kinds of item."""

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
    margin: float | None
    keep_out: list[Rectangle]
    clearance: float | None
    passes_over: float | None


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
    number: int | None
    """Which replicate; None of a spare."""
    shape: str
    orientation: str
    outcome: SpecimenState
    fault: str
    tested: bool
    position: int
    spare: bool
    """Printed beside what was planned, and filling no replicate yet."""
    treated: bool


class BesideView(View):
    """What another spool gave to a batch, g."""

    spool_code: str
    mass: float
    purge: float


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
    plate_id: str | None
    purge: float
    besides: list[BesideView]
    treatment: str
    """What its specimens are to have before they are tested."""
    photos: list[PhotoView]
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


class BedView(View):
    """What a plate was laid out on, mm."""

    width: float
    depth: float
    margin: float
    keep_out: list[Rectangle]


class FootprintView(View):
    """What a kind of piece takes of the bed, mm: its outline from above about its middle."""

    kind: str
    width: float
    depth: float
    height: float
    brim: float
    outline: list[list[Pair2]]
    takes_code: bool
    """Whether a code can be sunk into it that could be read."""


class PlacedView(View):
    position: int
    test_id: str
    kind: str
    spare: bool
    x: float
    y: float
    turned: bool
    code: str | None
    """Sunk into it, where codes were asked for."""


class PlateLayout(View):
    """How a plate lies, which several may share. `evenness`: the least share of its longest layer time that a layer gets."""

    key: str
    bed: BedView
    one_by_one: bool
    kinds: list[FootprintView]
    pieces: list[PlacedView]
    evenness: float
    plates: list[int]
    """The numbers of those on which this lies, so that one solid file serves all."""


class PlateFile(View):
    """The G-code that a plate is printed from."""

    id: str
    name: str
    time_s: float
    filament_mm: float


class PlateSpool(View):
    """The spool a plate would be printed from: g left, and until when it may lie open."""

    id: str
    code: str
    left: float | None
    moisture: str
    stale: bool
    dry_until: datetime | None


class PlateView(View):
    """One plate in the order of printing; printed once it has a batch. Mass in g, time in min, by its file where there is one."""

    id: str
    number: int
    arm_id: str
    part: int
    parts: int
    layout: str
    printer_id: str
    printer: str
    sheet: str
    sheet_id: str
    mass: float | None
    minutes: float
    file: PlateFile | None
    batch_id: str | None
    spool: PlateSpool | None
    why: str


class SpareView(View):
    """A spare that could fill a replicate which was left out."""

    test_id: str
    arm_id: str
    slot_id: str
    number: int
    specimen_id: str
    code: str


class PlateList(View):
    """The plates of a study, and how many replicates wait on none."""

    study_id: str
    revision: int
    unplaced: int
    layouts: list[PlateLayout]
    plates: list[PlateView]
    spares: list[SpareView]
