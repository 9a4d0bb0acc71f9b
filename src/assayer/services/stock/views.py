"""What the stock answers. Units: °C, mm, mm/s, mm³/s, g, g/cm³, h, unless a field says another."""

from __future__ import annotations

from datetime import datetime
from typing import Any, Literal

from pydantic import BaseModel

from assayer.services.views import Page


class MaterialOut(BaseModel):
    id: str
    maker: str
    product: str
    polymer: str
    filler: str | None
    filler_share: float | None
    colour: str
    hex: str
    mark: str
    obtained: str


class MaterialPage(Page):
    items: list[MaterialOut]


class SpoolRef(BaseModel):
    id: str
    code: str


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


class ContradictionOut(BaseModel):
    about: str
    first: str
    second: str
    text: str


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
