"""What the API answers about the stock. Units: °C, mm, mm/s, mm³/s, g, g/cm³, h, unless a field says another."""

from __future__ import annotations

from datetime import datetime
from typing import Any, Literal

from pydantic import BaseModel

from assayer.api.schemas import GoodSide, MaterialOut, Page, Pair2, SwatchOut

VerdictWord = Literal["fit", "dry first", "reject"]


class MaterialRecord(MaterialOut):
    diameter: float
    density: float | None
    price: float | None
    currency: str
    net_mass: float | None
    note: str
    revision: int


class MoistureOut(BaseModel):
    kind: Literal["drying", "dried", "as delivered", "open"]
    storage: str
    open_hours: float
    words: str
    stale: bool
    dried_at: datetime | None
    due_at: datetime | None


class SpoolItem(BaseModel):
    id: str
    code: str
    material_id: str
    lot: str
    received_on: str
    label_net: float | None
    empty: float | None
    heat_limit: float | None
    verdict: VerdictWord | None
    note: str
    gone_at: datetime | None
    gone_why: str | None
    revision: int
    left: float | None
    weighed_at: datetime | None
    place: str
    moisture: MoistureOut


class PricesOut(BaseModel):
    per_kg: float | None
    per_cm3: float | None
    per_specimen: float | None
    specimen_mass: float | None


class StockItem(MaterialRecord, PricesOut):
    spools: list[SpoolItem]
    measured: dict[str, int]
    claims: int
    contradictions: int


class NamedCount(BaseModel):
    name: str
    count: int


class StripPart(BaseModel):
    key: str
    label: str


class StockPage(Page):
    items: list[StockItem]
    polymers: list[NamedCount]
    strip: list[StripPart]


class WindowOut(BaseModel):
    nozzle_low: float | None
    nozzle_high: float | None
    bed_low: float | None
    bed_high: float | None
    chamber_low: float | None
    chamber_high: float | None
    speed_low: float | None
    speed_high: float | None
    flow_max: float | None
    dry_temperature: float | None
    dry_time: float | None
    dry_limit: float | None
    nozzle_min: float | None
    hardened: bool | None
    enclosure: bool | None
    plate: str
    adhesive: str
    tolerance: float | None
    source: str


class MeasuredOut(BaseModel):
    study_id: str
    study: str
    test_id: str
    test: str
    orientation: str
    rig_version_id: str
    quantity: str
    label: str
    unit: str
    good_side: GoodSide
    main: bool
    values: list[float]
    n: int
    mean: float
    ci95: Pair2 | None


class ClaimOut(BaseModel):
    id: str
    material_id: str
    text: str
    quantity: str | None
    relation: str
    value: float | None
    unit: str
    reference: str
    method: str
    source: str
    entered_at: datetime
    entered_by: str


class ClaimView(ClaimOut):
    label: str
    colour: str
    beside: list[MeasuredOut]


class ContradictionOut(BaseModel):
    about: str
    first: str
    second: str
    text: str


class ColourMean(BaseModel):
    colour: str
    mean: float
    n: int


class LineMember(MaterialOut):
    differs: list[str]
    measured: dict[str, int]


class ReportedOut(BaseModel):
    id: str
    quantity: str
    value: float
    unit: str
    n: int | None
    sd: float | None
    method: str
    source: str
    reported_on: str
    entered_by: str


class ShapeMass(BaseModel):
    name: str
    label: str
    volume: float
    mass: float
    price: float | None


class MoistureLost(BaseModel):
    code: str
    spool_id: str
    lost: float
    at: datetime
    temperature: float
    hours: float


class MaterialChange(BaseModel):
    at: datetime
    who: str
    entity: str
    action: str
    before: dict[str, Any] | None
    after: dict[str, Any] | None


class DossierMaterial(MaterialRecord, PricesOut):
    created_at: datetime


class LineSpread(BaseModel):
    """Means of the colours of a line within one test of one study, lowest first."""

    study: str
    test: str
    label: str
    unit: str
    means: list[ColourMean]
    ratio: float


class DossierOut(BaseModel):
    material: DossierMaterial
    length: float | None
    shapes: list[ShapeMass]
    window: WindowOut
    claims: list[ClaimView]
    contradictions: list[ContradictionOut]
    line: list[LineMember]
    line_spread: list[LineSpread]
    spools: list[SpoolItem]
    measured: list[MeasuredOut]
    reported: list[ReportedOut]
    moisture_lost: list[MoistureLost]
    history: list[MaterialChange]


class DiameterOut(BaseModel):
    n: int
    mean: float
    sd: float | None
    minimum: float
    maximum: float
    ovality: float | None
    flow_factor: float
    outside: int


class ReasonOut(BaseModel):
    field: str
    text: str
    leads_to: str


class QuestionOut(BaseModel):
    key: str
    field: str
    text: str
    likely: str | None
    may_confirm: bool
    row: int | None


class FieldError(BaseModel):
    field: str | None
    row: int | None
    text: str


class IntakeTrialOut(BaseModel):
    net: float | None
    summary: DiameterOut | None
    diameters: list[float]
    verdict: VerdictWord
    reasons: list[ReasonOut]
    questions: list[QuestionOut]
    errors: list[FieldError]


class IntakeOut(BaseModel):
    id: str
    happened_at: datetime
    who: str
    findings: dict[str, Any]
    reasons: list[ReasonOut]
    proposed: VerdictWord
    verdict: VerdictWord
    note: str
    diameters: list[float]
    summary: DiameterOut | None


class BalancePoint(BaseModel):
    at: datetime
    left: float
    event: Literal["weighed", "printed", "label"]
    correction: float | None


class WeighingOut(BaseModel):
    id: str
    at: datetime
    gross: float
    raw: str
    moment: str
    who: str


class UseOfFilament(BaseModel):
    id: str
    at: datetime
    mass: float
    what: str
    who: str
    batch_id: str | None


class MoveOut(BaseModel):
    id: str
    at: datetime
    storage: str
    place: str
    humidity: float | None
    who: str


class SpoolSession(BaseModel):
    id: str
    device: str
    temperature: float
    started_at: datetime
    due_at: datetime
    ended_at: datetime | None
    lost: float | None


class SpoolPage(SpoolItem):
    material: MaterialRecord
    window: WindowOut
    intakes: list[IntakeOut]
    history: list[BalancePoint]
    weighings: list[WeighingOut]
    uses: list[UseOfFilament]
    moves: list[MoveOut]
    sessions: list[SpoolSession]


class DryingMember(BaseModel):
    spool_id: str
    code: str
    material: MaterialOut
    before: float | None
    after: float | None
    lost: float | None


class DryingOut(BaseModel):
    id: str
    device: str
    temperature: float
    started_at: datetime
    due_at: datetime
    ended_at: datetime | None
    who: str
    note: str
    revision: int
    members: list[DryingMember]


class DryingList(BaseModel):
    items: list[DryingOut]


class PlaceSpool(BaseModel):
    id: str
    code: str
    material: MaterialOut
    words: str
    verdict: VerdictWord | None


class PlaceOut(BaseModel):
    storage: str
    place: str
    humidity: float | None
    read_at: datetime | None
    spools: list[PlaceSpool]


class PlaceList(BaseModel):
    items: list[PlaceOut]


class PrinterOut(BaseModel):
    id: str
    name: str
    revision: int
    nozzle: float | None
    hardened: bool | None
    enclosed: bool | None
    plate: str
    strand: float | None
    nozzle_hottest: float | None
    bed_hottest: float | None
    chamber_hottest: float | None


class PrinterList(BaseModel):
    items: list[PrinterOut]


class MissOut(BaseModel):
    rule: str
    level: Literal["must", "should"]
    text: str
    source: str


class FitOut(BaseModel):
    fit: bool
    misses: list[MissOut]
    unchecked: list[str]
    flow: float | None
    left: float | None


class ImportColumn(BaseModel):
    field: str
    header: str


class CellProblem(BaseModel):
    field: str
    text: str


class CellQuestion(QuestionOut):
    raw: str


class StatementOut(BaseModel):
    text: str
    quantity: str | None
    relation: str
    value: float | None
    unit: str
    reference: str
    method: str


class ImportRow(BaseModel):
    row: int
    line: int
    state: Literal["new", "there", "question", "error"]
    cells: dict[str, str]
    hex: str | None
    filled: bool
    errors: list[CellProblem]
    questions: list[CellQuestion]
    there: str | None
    claims: list[StatementOut]


class ImportPreview(BaseModel):
    kind: str
    columns: list[ImportColumn]
    unknown: list[str]
    rows: list[ImportRow]
    counts: dict[str, int]


class ImportDone(ImportPreview):
    kept: int


class PreferencesOut(BaseModel):
    label_base_url: str


class DayItem(BaseModel):
    kind: Literal["dryer", "intake", "to dry", "contradiction", "specimens"]
    state: Literal["late", "due", "running", "doubt"]
    title: str
    text: str
    since: datetime | None
    until: datetime | None
    swatches: list[SwatchOut]
    spool_id: str | None
    material_id: str | None
    study_id: str | None
    drying_id: str | None


class DayOut(BaseModel):
    now: datetime
    items: list[DayItem]
