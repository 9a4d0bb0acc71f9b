"""What the use cases of printing are told."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from assayer.services.requests import Confirmed, Flag, Id, Moment, Name, Real, Request, Short


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


class NewPrinter(HardwareIn):
    id: Id
    name: Name


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


class NewBatch(Request):
    """One print job of one arm, as printed: the specimens of its planned replicates."""

    id: Id
    arm_id: Id
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
