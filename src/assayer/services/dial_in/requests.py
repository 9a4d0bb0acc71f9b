"""What the use cases of the dial-in are told. °C, mm, mm/s, g, min, per cent."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from assayer.core.settings.sheet import Source
from assayer.services.dial_in.words import Decision, Distance, Outcome
from assayer.services.requests import Confirmed, Flag, Id, Moment, Name, Real, Request, Short, Text, Whole, Words

SettingName = Annotated[str, Field(min_length=1, max_length=40)]
ValueIn = Real | Flag | Annotated[str, Field(min_length=1, max_length=80)]
Mass = Annotated[Real, Field(ge=0, le=1e5)]
Percent = Annotated[Real, Field(ge=0, le=100)]
Band = Annotated[Whole, Field(ge=1, le=40)]


class ScheduleIn(Request):
    """A number that moves by a step every so many layers, to an end."""

    step: Annotated[Real, Field(ge=-1000, le=1000)]
    every: Annotated[Whole, Field(ge=1, le=10000)]
    end: Annotated[Real, Field(ge=-1000, le=1e5)]


class RegionIn(Request):
    where: Annotated[Short, Field(min_length=1)]
    value: ValueIn


class SetIn(Request):
    value: ValueIn
    source: Source = Source.ENTERED
    schedule: ScheduleIn | None = None
    regions: Annotated[list[RegionIn], Field(max_length=20)] = []


class ExtraIn(Request):
    label: Annotated[Short, Field(min_length=1)]
    value: Real | Annotated[str, Field(min_length=1, max_length=80)]
    unit: Annotated[str, Field(max_length=12)] = ""


Settings = Annotated[dict[SettingName, SetIn], Field(max_length=80)]
Changes = Annotated[dict[SettingName, SetIn | None], Field(max_length=80, description="what differs from where it starts; null: no longer said")]


class SheetIn(Request):
    values: Settings = {}
    extras: Annotated[list[ExtraIn], Field(max_length=30)] = []
    prepared_with: Short = ""


class SheetQuestion(Request):
    """A sheet that is looked at before it is kept."""

    material_id: Id
    printer_id: Id | None = None
    sheet: SheetIn


class SeriesIn(Request):
    """A setting stepped by height."""

    setting: SettingName
    start: Annotated[Real, Field(ge=-100, le=1000)]
    step: Annotated[Real, Field(ge=-500, le=500)]
    count: Annotated[Whole, Field(ge=1, le=100)] | None = None
    end: Annotated[Real, Field(ge=-100, le=1000, description="value of the last band, where the number of bands is not given")] | None = None
    band_height: Annotated[Real, Field(gt=0, le=200)]
    base_height: Annotated[Real, Field(ge=0, le=100)] = 0.0


class NewTrail(Request):
    """A search for settings; its first trial is planned with it."""

    id: Id
    material_id: Id
    printer_id: Id
    nozzle_id: Id | None = None
    purpose: Name
    part: Name
    trial_id: Id
    start: Literal["maker", "general", "sheet"] = "maker"
    sheet_id: Id | None = None


class TrailEdit(Request):
    purpose: Name | None = None
    part: Name | None = None
    nozzle_id: Id | None = None
    put_away: Flag | None = None


class NewTrial(Request):
    """The next print, from one that is there: only what differs."""

    id: Id
    parent_id: Id
    changes: Changes = {}
    extras: Annotated[list[ExtraIn], Field(max_length=30)] | None = None
    prepared_with: Short | None = None
    part: Name | None = None
    series: SeriesIn | None = None
    control_material_id: Id | None = None


class GradeIn(Request):
    """A grade of one trait; null: no difference seen."""

    id: Id
    trait: Annotated[str, Field(min_length=1, max_length=20)]
    grade: Annotated[Real, Field(ge=0, le=4)] | None
    distance: Distance = "near"
    band: Band | None = None
    angle: Annotated[Real, Field(ge=0, le=90, description="steepest clean overhang, degrees from upright")] | None = None


class FilamentIn(Request):
    """One of several filaments in a print."""

    material_id: Id
    spool_id: Id | None = None
    part_mass: Mass | None = None
    purge_mass: Mass | None = None


class RunningChange(Request):
    """What was changed at the printer while it ran."""

    layer: Annotated[Whole, Field(ge=1, le=100_000)]
    what: Annotated[Words, Field(min_length=1)]


class TrialRecord(Request):
    """What came of a trial, or what is changed of its record; what is not named stays."""

    printed_at: Moment | None = None
    spool_id: Id | None = None
    outcome: Outcome | None = None
    failed_at: Percent | None = None
    failed_band: Band | None = None
    minutes: Annotated[Real, Field(gt=0, le=20_000)] | None = None
    room: Annotated[Real, Field(ge=-30, le=60)] | None = None
    humidity: Percent | None = None
    total_mass: Mass | None = None
    brim_mass: Mass | None = None
    support_mass: Mass | None = None
    lift: Annotated[Real, Field(ge=0, le=50)] | None = None
    symptoms: Annotated[list[Short], Field(max_length=20)] | None = None
    tested: Literal["", "warm", "cold"] | None = None
    removal: Literal["", "by hand", "flexed", "reheated", "tool"] | None = None
    bond: Literal["", "bond and match", "bond", "do not bond"] | None = None
    filaments: Annotated[list[FilamentIn], Field(max_length=8)] | None = None
    while_running: Annotated[list[RunningChange], Field(max_length=50)] | None = None
    note: Text | None = None
    decision: Decision | None = None
    part: Name | None = None
    grades: Annotated[list[GradeIn], Field(max_length=400)] = []
    changes: Changes = {}
    """Of a planned trial alone: its sheet before it is printed; as are the two below."""
    extras: Annotated[list[ExtraIn], Field(max_length=30)] | None = None
    prepared_with: Short | None = None
    confirmed: Confirmed = []


class NewGrades(Request):
    """Grades by another grader, or of a band."""

    grades: Annotated[list[GradeIn], Field(min_length=1, max_length=400)]


class NewDialCalibration(Request):
    """Readings of a flow, pressure or shrinkage calibration; a child sheet is planned as the next trial."""

    id: Id
    trial_id: Id
    parent_id: Id
    kind: Literal["flow by mass", "flow by wall", "pressure advance", "shrinkage"]
    at: Moment
    spool_id: Id | None = None
    volume: Annotated[Real, Field(gt=0, le=1e4, description="cm³ of the solid block")] | None = None
    mass: Mass | None = None
    walls: Annotated[list[Annotated[Real, Field(gt=0, le=20)]], Field(max_length=50, description="single wall, mm")] = []
    advance: Annotated[Real, Field(ge=0, le=5, description="s, chosen from printed lines or given by the printer")] | None = None
    nominal: Annotated[list[Annotated[Real, Field(gt=0, le=1000)]], Field(max_length=60)] = []
    measured: Annotated[list[Annotated[Real, Field(gt=0, le=1000)]], Field(max_length=60)] = []
    feature: Annotated[list[Literal["outer", "inner", "centres"]], Field(max_length=60)] = []


class NewNozzle(Request):
    id: Id
    name: Name
    diameter: Annotated[Real, Field(gt=0, le=10)]
    material: Short = ""
    hardened: Flag = False
    confirmed: Confirmed = []


class NozzleEdit(Request):
    """What may be corrected of a nozzle; only what is given changes."""

    name: Name | None = None
    diameter: Annotated[Real, Field(gt=0, le=10)] | None = None
    material: Short | None = None
    hardened: Flag | None = None
    confirmed: Confirmed = []


class BedSurfaceEdit(Request):
    """What may be corrected of a bed surface; only what is given changes."""

    name: Name | None = None
    note: Words | None = None


class NewBedSurface(Request):
    id: Id
    name: Name
    note: Words = ""


ChangeKind = Literal["nozzle", "bed surface", "frame", "feeder", "filter", "repair", "other"]


class NewPrinterChange(Request):
    """Something about a printer changed on a day; a nozzle or a surface named here is on it from then."""

    id: Id
    at: Moment
    kind: ChangeKind
    text: Words = ""
    nozzle_id: Id | None = None
    bed_surface_id: Id | None = None
    retire: Flag = False
    """The nozzle or surface that was on it is worn or ruined."""
    confirmed: Confirmed = []


class PrinterChangeEdit(Request):
    """What may be corrected of a change; only what is given changes."""

    at: Moment | None = None
    kind: ChangeKind | None = None
    text: Words | None = None
    nozzle_id: Id | None = None
    bed_surface_id: Id | None = None
    retire: Flag | None = None
    confirmed: Confirmed = []
