"""What the use cases of printing are told."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from assayer.services.requests import Confirmed, Flag, Id, Moment, Name, Real, Request, Short, Whole

Edge = Annotated[Real, Field(ge=0, le=5000)]


class HardwareIn(Request):
    """A printer as it stands; null: not known. °C and mm."""

    nozzle: Annotated[Real, Field(gt=0, le=10)] | None = None
    hardened: Flag | None = None
    enclosed: Flag | None = None
    bed_surface: Short = ""
    strand: Annotated[Real, Field(gt=0, le=10)] | None = None
    nozzle_hottest: Annotated[Real, Field(gt=0, le=1000)] | None = None
    bed_hottest: Annotated[Real, Field(gt=0, le=1000)] | None = None
    chamber_hottest: Annotated[Real, Field(gt=0, le=1000)] | None = None
    extraction: Flag | None = None
    holder: Annotated[Real, Field(gt=0, le=500, description="thickness of what the spool turns on, mm")] | None = None
    drives_rims: Flag | None = None
    takes_refills: Flag | None = None
    loads_itself: Flag | None = None
    build_x: Annotated[Real, Field(gt=0, le=5000)] | None = None
    build_y: Annotated[Real, Field(gt=0, le=5000)] | None = None
    build_z: Annotated[Real, Field(gt=0, le=5000)] | None = None
    acceleration: Annotated[Real, Field(gt=0, le=1e5)] | None = None
    filtered: Flag | None = None
    feeder: Short = ""
    margin: Annotated[Real, Field(ge=0, le=100, description="kept free along the edges of the bed, mm")] | None = None
    keep_out: Annotated[
        list[tuple[Edge, Edge, Edge, Edge]],
        Field(max_length=12, description="rectangles of the bed where nothing is laid: x0, y0, x1, y1 in mm from its front left"),
    ] = []
    clearance: Annotated[Real, Field(ge=0, le=500, description="mm that the print head needs around a finished piece")] | None = None
    passes_over: Annotated[Real, Field(ge=0, le=500, description="mm that a finished piece may be high to be passed over")] | None = None


class NewPrinter(HardwareIn):
    id: Id
    name: Name
    confirmed: Confirmed = []


class PrinterEdit(HardwareIn):
    """What may be changed of a printer; only what is given changes."""

    confirmed: Confirmed = []


class PrintSettingsIn(Request):
    nozzle_temperature: Annotated[Real, Field(gt=0, le=1000)] | None = None
    bed_temperature: Annotated[Real, Field(ge=0, le=1000)] | None = None
    chamber_temperature: Annotated[Real, Field(ge=0, le=1000)] | None = None
    speed: Annotated[Real, Field(gt=0, le=1e4)] | None = None
    line_width: Annotated[Real, Field(gt=0, le=20)] | None = None
    layer_height: Annotated[Real, Field(gt=0, le=20)] | None = None
    flow: Annotated[Real, Field(gt=0, le=1e4)] | None = None
    adhesive: Short = ""
    mass: Annotated[Real, Field(gt=0, le=1e6, description="g of filament the job takes")] | None = None


class FitQuestion(Request):
    spool_id: Id
    printer_id: Id | None = None
    hardware: HardwareIn | None = None
    settings: PrintSettingsIn = PrintSettingsIn()
    """What is not said of them is taken from the sheet that the material is printed with on this printer, if there is one."""


class NewPlates(Request):
    """How what of a study waits to be printed is laid out on plates."""

    printer_id: Id
    one_by_one: Annotated[Flag, Field(description="each piece is finished before the next is begun, so that layers take equal time")] = False
    brim: Annotated[Real, Field(ge=0, le=30, description="mm around pieces that want one to stand")] = 5.0
    batches: Annotated[Whole, Field(ge=1, le=6, description="in how many batches each arm is printed")] = 2
    spares: Annotated[Flag, Field(description="whether the planned spares are laid beside them")] = True


class MoreFilament(Request):
    """Filament of another spool in the same job: for supports, for purging."""

    spool_id: Id
    part: Annotated[Real, Field(ge=0, le=1e5, description="g in the pieces")] = 0.0
    purge: Annotated[Real, Field(ge=0, le=1e5, description="g purged, wiped, primed")] = 0.0


class NewBatch(Request):
    """One print job of one arm, as printed: the specimens of its planned replicates."""

    id: Id
    arm_id: Id
    plate_id: Annotated[Id | None, Field(description="the plate that was printed; what lay on it, at its places")] = None
    mass: Annotated[Real | None, Field(gt=0, le=1e5, description="g that went into the pieces; left out: from the file, or the volume")] = None
    purge: Annotated[Real, Field(ge=0, le=1e5, description="g purged, wiped, primed")] = 0.0
    besides: Annotated[list[MoreFilament], Field(max_length=8, description="what other spools gave to it")] = []
    test_ids: Annotated[list[Id], Field(max_length=20, description="tests whose waiting replicates were printed; none named: all of the study")] = []
    slot_ids: Annotated[list[Id], Field(max_length=500, description="replicates that were printed again, after theirs were left out")] = []
    spool_id: Id | None = None
    printer_id: Id | None = None
    nozzle: Short = ""
    minutes: Annotated[Real, Field(gt=0, le=1e5, description="how long it took")] | None = None
    room: Annotated[Real, Field(ge=-30, le=80, description="°C while it printed")] | None = None
    printed_at: Moment
    confirmed: Confirmed = []


class SpecimenOutcome(Request):
    """How a specimen came off the plate."""

    specimen_id: Id
    outcome: Literal["good", "failed", "would not stick", "misprinted"]
    fault: Annotated[Short, Field(description="such as: wrong infill")] = ""


class BatchOutcome(Request):
    specimens: Annotated[list[SpecimenOutcome], Field(min_length=1, max_length=500)]


class Refiling(Request):
    """A misprinted batch filed under the arm that it is in truth."""

    arm_id: Id
    reason: Annotated[Short, Field(min_length=1, description="what was found, such as: printed with 40 % infill")]


class Treated(Request):
    """The specimens of a batch have had the treatment of their arm."""

    at: Moment | None


class SpareTaken(Request):
    specimen_id: Id
