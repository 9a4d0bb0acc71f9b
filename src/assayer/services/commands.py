"""What a use case is told, checked on the way in; the API takes these as request bodies, the demo as calls."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import AfterValidator, AwareDatetime, BaseModel, ConfigDict, Field, StringConstraints

Id = Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{8}-[0-9a-f]{4}-7[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$")]
"""UUIDv7, lower case."""


def _printable(text: str) -> str:
    if any(ord(c) < 32 or 0xD800 <= ord(c) < 0xE000 for c in text):
        raise ValueError("control characters are not allowed")
    return text


Name = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=80), AfterValidator(_printable)]
Words = Annotated[str, StringConstraints(strip_whitespace=True, max_length=200), AfterValidator(_printable)]
Zone = Annotated[str, StringConstraints(min_length=1, max_length=64, pattern=r"^[A-Za-z0-9_+/-]+$")]
Orientation = Literal["flat", "on edge", "upright"]
Obtained = Literal["", "bought", "sent free", "own"]
Validity = Literal["counts", "at_least", "at_most", "left_out"]
LEFT_OUT_REASONS = ("void or defect", "slipped", "misprinted", "damaged in handling", "instrument fault", "other")


class Command(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


Short = Annotated[str, StringConstraints(strip_whitespace=True, max_length=80), AfterValidator(_printable)]
Text = Annotated[str, StringConstraints(strip_whitespace=True, max_length=2000)]
Raw = Annotated[str, StringConstraints(strip_whitespace=True, max_length=80), AfterValidator(_printable)]
"""A number as typed, with its unit if one was typed."""


def _of_our_time(at: datetime) -> datetime:
    if not 2000 <= at.year <= 2200:
        raise ValueError("the year lies outside 2000 … 2200")
    return at


Moment = Annotated[AwareDatetime, AfterValidator(_of_our_time)]
Confirmed = Annotated[
    list[Annotated[str, StringConstraints(max_length=120)]], Field(max_length=100, description="keys of questions that were answered: it stands as entered")
]


Heat = Annotated[float, Field(gt=0, le=1000)]
Positive = Annotated[float, Field(gt=0, le=1e4)]


class WindowIn(Command):
    """The maker's window: °C, mm/s, mm³/s, mm, h; null where the maker says nothing."""

    nozzle_low: Heat | None = None
    nozzle_high: Heat | None = None
    bed_low: Heat | None = None
    bed_high: Heat | None = None
    chamber_low: Heat | None = None
    chamber_high: Heat | None = None
    speed_low: Positive | None = None
    speed_high: Positive | None = None
    flow_max: Positive | None = None
    dry_temperature: Heat | None = None
    dry_time: Positive | None = None
    dry_limit: Heat | None = None
    nozzle_min: Positive | None = None
    hardened: bool | None = None
    enclosure: bool | None = None
    plate: Short = ""
    adhesive: Short = ""
    tolerance: Positive | None = None
    source: Words = ""


class NewMaterial(Command):
    id: Id
    maker: Name
    product: Name
    polymer: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=40), AfterValidator(_printable)]
    filler: Annotated[str, StringConstraints(strip_whitespace=True, max_length=40), AfterValidator(_printable)] | None = None
    filler_share: Annotated[float, Field(gt=0, lt=100, description="mass share in per cent")] | None = None
    colour: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=40), AfterValidator(_printable)]
    hex: Annotated[str, StringConstraints(pattern=r"^#[0-9A-Fa-f]{6}$")]
    diameter: Annotated[float, Field(gt=0, le=100, description="nominal, mm")] = 1.75
    density: Annotated[float, Field(gt=0, le=100, description="g/cm³")] | None = None
    price: Annotated[float, Field(ge=0, le=1e6, description="of one spool")] | None = None
    currency: Annotated[str, StringConstraints(strip_whitespace=True, max_length=3), AfterValidator(_printable)] = ""
    net_mass: Annotated[float, Field(gt=0, le=1e6, description="of one spool as sold, g")] | None = None
    obtained: Obtained = ""
    note: Text = ""
    window: WindowIn | None = None
    confirmed: Confirmed = []


class NewArm(Command):
    id: Id
    material_id: Id
    spool_id: Annotated[Id | None, Field(description="which spool the specimens are printed from; their mass is debited")] = None
    treatment: Annotated[str, StringConstraints(strip_whitespace=True, max_length=120), AfterValidator(_printable)] = ""


class NewTest(Command):
    id: Id
    method: Literal["tension"] = "tension"
    orientation: Orientation
    shape: Annotated[str, StringConstraints(min_length=1, max_length=40, pattern=r"^[a-z0-9-]+$")] = "short-pull-bar"
    replicates: Annotated[int, Field(ge=1, le=50)] = 5
    margin: Annotated[float, Field(gt=0, le=1e6, description="smallest difference that matters")] = 0.10
    margin_relative: Annotated[bool, Field(description="whether the margin is a share of the reference mean")] = True


class NewStudy(Command):
    id: Id
    title: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=160), AfterValidator(_printable)]
    question: Annotated[str, StringConstraints(strip_whitespace=True, max_length=1000)] = ""
    studied_factor: Literal["material", "colour", "setting", "treatment"] = "material"
    arms: Annotated[list[NewArm], Field(min_length=1, max_length=60)]
    tests: Annotated[list[NewTest], Field(min_length=1, max_length=20)]
    settings: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=120), AfterValidator(_printable)] = "as printed"


class NewReading(Command):
    """One reading as typed; `supersedes` and `reason` make it a correction."""

    id: Id
    field: Annotated[str, StringConstraints(min_length=1, max_length=40, pattern=r"^[a-z_]+$")]
    position: Annotated[int, Field(ge=0, le=20)] = 0
    raw: Annotated[str, StringConstraints(max_length=80)]
    happened_at: AwareDatetime | None = None
    ambient_c: Annotated[float, Field(ge=-50, le=300)] | None = None


class Correction(NewReading):
    supersedes: Id
    reason: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=200), AfterValidator(_printable)]


class RawField(Command):
    field: Annotated[str, StringConstraints(min_length=1, max_length=40, pattern=r"^[a-z_]+$")]
    raw: Annotated[str, StringConstraints(max_length=80)]


class Trial(Command):
    """What stands in the entry fields, to be reduced without being kept."""

    test_id: Id
    rig_version_id: Id
    specimen_id: Id
    readings: Annotated[list[RawField], Field(max_length=40)]
    curve_id: Id | None = None
    blind: bool = False


class NewRun(Command):
    """A pulled specimen, or (with `complete` false) its dimensions only."""

    id: Id
    specimen_id: Id
    test_id: Id
    rig_version_id: Id
    happened_at: AwareDatetime
    readings: Annotated[list[NewReading], Field(max_length=40)]
    complete: bool = True
    curve_id: Id | None = None
    fracture: Literal["gauge", "one layer", "several layers", "outside gauge", "grip"] | None = None
    fracture_place: Annotated[float, Field(ge=0, le=1, description="along the drawing, 0 left to 1 right")] | None = None
    validity: Validity | None = None
    validity_reason: Words | None = None


class RunEdit(Command):
    """What may be changed on a run; only what is given changes."""

    validity: Validity | None = None
    validity_reason: Words | None = None
    fracture: Literal["gauge", "one layer", "several layers", "outside gauge", "grip"] | None = None
    fracture_place: Annotated[float, Field(ge=0, le=1)] | None = None
    modulus_window: Annotated[tuple[float, float] | None, Field(description="strains; null goes back to the standard window")] = None


class CriterionSpec(Command):
    id: Id
    test_id: Id
    quantity: Annotated[str, StringConstraints(min_length=1, max_length=40, pattern=r"^[a-z_]+$")]
    no_use: Annotated[float, Field(ge=-1e9, le=1e9)]
    all_needed: Annotated[float, Field(ge=-1e9, le=1e9)]
    required: Annotated[float, Field(ge=-1e9, le=1e9)] | None = None
    weight: Annotated[float, Field(ge=0, le=1000)] = 1.0


class NewUse(Command):
    id: Id
    study_id: Id
    title: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=160), AfterValidator(_printable)]
    criteria: Annotated[list[CriterionSpec], Field(min_length=1, max_length=20)]


class UseEdit(Command):
    weights: Annotated[dict[Id, Annotated[float, Field(ge=0, le=1000)]], Field(max_length=20)]


class ColumnAnswer(Command):
    role: Literal["time", "travel", "force", "strain", "skip"]
    unit: Annotated[str, StringConstraints(max_length=12)] | None = None


class TemplateAnswer(Command):
    signature: Annotated[str, StringConstraints(max_length=4000)]
    columns: Annotated[list[ColumnAnswer], Field(min_length=1, max_length=64)]


class NewRig(Command):
    id: Id
    version_id: Id
    name: Name
    compliance: Annotated[float, Field(ge=0, le=1, description="mm/N")] = 0.0
    force_unit: Annotated[str, StringConstraints(max_length=12)] = "N"
    force_step: Annotated[float, Field(gt=0, le=1e6)] = 1.0
    length_unit: Annotated[str, StringConstraints(max_length=12)] = "mm"
    length_step: Annotated[float, Field(gt=0, le=1e3)] = 0.01
    capacity: Annotated[float, Field(gt=0, le=1e9, description="N")] | None = None
    valid_from: datetime | None = None
