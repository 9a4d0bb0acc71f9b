"""What the use cases of the stock are told."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import AfterValidator, Field, StringConstraints

from assayer.services.requests import Confirmed, Day, Flag, Id, Moment, Name, Positive, Raw, Real, Request, Short, Text, Whole, Words, printable

Obtained = Literal["", "bought", "sent free", "own"]


Heat = Annotated[Real, Field(gt=0, le=1000)]


class WindowIn(Request):
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
    hardened: Flag | None = None
    enclosure: Flag | None = None
    bed_surface: Short = ""
    adhesive: Short = ""
    tolerance: Positive | None = None
    source: Words = ""
    fumes: Flag | None = None
    dust: Flag | None = None


class NewMaterial(Request):
    id: Id
    maker: Name
    product: Name
    polymer: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=40), AfterValidator(printable)]
    filler: Annotated[str, StringConstraints(strip_whitespace=True, max_length=40), AfterValidator(printable)] | None = None
    filler_share: Annotated[Real, Field(gt=0, lt=100, description="mass share in per cent")] | None = None
    colour: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=40), AfterValidator(printable)]
    hex: Annotated[str, StringConstraints(pattern=r"^#[0-9A-Fa-f]{6}$")]
    diameter: Annotated[Real, Field(gt=0, le=100, description="nominal, mm")] = 1.75
    density: Annotated[Real, Field(gt=0, le=100, description="g/cm³")] | None = None
    price: Annotated[Real, Field(ge=0, le=1e6, description="of one spool")] | None = None
    currency: Annotated[str, StringConstraints(strip_whitespace=True, max_length=3), AfterValidator(printable)] = ""
    net_mass: Annotated[Real, Field(gt=0, le=1e6, description="of one spool as sold, g")] | None = None
    obtained: Obtained = ""
    note: Text = ""
    window: WindowIn | None = None
    confirmed: Confirmed = []


Storage = Literal["sealed bag", "dry box", "open"]


Decision = Literal["fit", "dry first", "reject"]


Statement = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=400), AfterValidator(printable)]


Line = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=40), AfterValidator(printable)]


Percent = Annotated[Real, Field(ge=0, le=100)]


class MaterialEdit(Request):
    """What may be changed on a material; only what is given changes."""

    maker: Name | None = None
    product: Name | None = None
    colour: Line | None = None
    polymer: Line | None = None
    filler: Annotated[str, StringConstraints(strip_whitespace=True, max_length=40), AfterValidator(printable)] | None = None
    filler_share: Annotated[Real, Field(gt=0, lt=100)] | None = None
    hex: Annotated[str, StringConstraints(pattern=r"^#[0-9A-Fa-f]{6}$")] | None = None
    mark: Annotated[str, StringConstraints(pattern=r"^[A-Za-z0-9]{2}$")] | None = None
    diameter: Annotated[Real, Field(gt=0, le=100)] | None = None
    density: Annotated[Real, Field(gt=0, le=100)] | None = None
    price: Annotated[Real, Field(ge=0, le=1e6)] | None = None
    currency: Annotated[str, StringConstraints(strip_whitespace=True, max_length=3), AfterValidator(printable)] | None = None
    net_mass: Annotated[Real, Field(gt=0, le=1e6)] | None = None
    obtained: Obtained | None = None
    note: Text | None = None
    window: WindowIn | None = None
    confirmed: Confirmed = []


class ProductEdit(Request):
    """What became of a product, for all its colours; only what is given changes, null takes it back."""

    withdrawn_on: Day | None = None
    succeeds_id: Annotated[Id | None, Field(description="a material of the product that it takes the place of")] = None
    base_id: Annotated[Id | None, Field(description="a material of the product that it was derived from")] = None


class NewClaim(Request):
    """A statement of the maker; what it is tied to is read out of its words."""

    id: Id
    text: Statement
    source: Words = ""
    method: Short = ""


class ClaimLink(Request):
    """What a claim is about, where its words were read wrongly."""

    quantity: Annotated[str | None, StringConstraints(max_length=40), Field(description="name of a quantity; null: none that is measured")]


Body = Literal["", "plastic", "cardboard", "refill"]


LooseEnd = Literal["", "straight", "bent", "under a turn"]


class NewSpool(Request):
    id: Id
    material_id: Id
    lot: Short = ""
    received_on: Day
    label_net: Annotated[Real, Field(gt=0, le=1e6, description="net mass by the label, g")] | None = None
    heat_limit: Annotated[Real, Field(gt=0, le=500, description="what the spool's body bears, °C")] | None = None
    body: Body = ""
    bore: Annotated[Real, Field(gt=0, le=500, description="inner diameter of the body, mm")] | None = None
    loose_end: LooseEnd = ""
    note: Text = ""


class SpoolEdit(Request):
    lot: Short | None = None
    received_on: Day | None = None
    label_net: Annotated[Real, Field(gt=0, le=1e6)] | None = None
    empty: Annotated[Real, Field(ge=0, le=1e5)] | None = None
    heat_limit: Annotated[Real, Field(gt=0, le=500)] | None = None
    body: Body | None = None
    bore: Annotated[Real, Field(gt=0, le=500)] | None = None
    loose_end: LooseEnd | None = None
    note: Text | None = None
    gone_why: Annotated[Short | None, Field(description="used up, thrown away …; an empty text brings it back")] = None


class IntakeFields(Request):
    """The intake sheet as it stands; masses and diameters as typed."""

    gross: Raw = ""
    empty: Raw = ""
    seal: Literal["", "intact", "open", "none"] = ""
    desiccant: Literal["", "dry", "wet", "none"] = ""
    winding: Literal["", "even", "loose", "crossed"] = ""
    snap: Literal["", "bends", "snaps"] = ""
    snap_known_good: Literal["", "bends", "snaps"] = ""
    popping: Literal["", "none", "some", "much"] = ""
    diameters: Annotated[list[Raw], Field(max_length=200)] = []


class IntakePreviewRequest(IntakeFields):
    material_id: Id
    spool_id: Annotated[Id | None, Field(description="another check of a spool that is there")] = None
    label_net: Annotated[Real, Field(gt=0, le=1e6)] | None = None
    received_on: Day | None = None
    confirmed: Confirmed = []


class NewIntake(IntakeFields):
    """A checked spool: a new one (`spool`), or another check of one that is there (`spool_id`)."""

    id: Id
    spool_id: Id | None = None
    spool: NewSpool | None = None
    happened_at: Moment
    decision: Decision | None = None
    note: Text = ""
    storage: Storage = "open"
    place: Short = ""
    confirmed: Confirmed = []


class NewWeighing(Request):
    id: Id
    raw: Raw
    at: Moment
    confirmed: Confirmed = []


class NewFilamentUse(Request):
    id: Id
    raw: Raw
    at: Moment
    what: Words = ""
    confirmed: Confirmed = []


class NewMove(Request):
    id: Id
    spool_id: Id


class NewStorage(Request):
    """Several spools put somewhere, or the humidity read where they lie."""

    moves: Annotated[list[NewMove], Field(min_length=1, max_length=50)]
    storage: Storage
    place: Short = ""
    humidity: Percent | None = None
    at: Moment


class ImportAnswer(Request):
    """What is said about one cell: a new text for it, or its old text again if it stands."""

    row: Annotated[Whole, Field(ge=1, le=100_000)]
    field: Annotated[str, StringConstraints(max_length=40)]
    raw: Annotated[str, StringConstraints(max_length=1000)]


class ImportText(Request):
    kind: Literal["materials", "claims", "reported"]
    text: Annotated[str, StringConstraints(min_length=1, max_length=1_900_000)]
    answers: Annotated[list[ImportAnswer], Field(max_length=5000)] = []


class PreferencesEdit(Request):
    label_base_url: Annotated[str, StringConstraints(strip_whitespace=True, max_length=200, pattern=r"^https?://[^\s?#]+$")]
