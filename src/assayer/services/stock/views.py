"""What the stock answers. Units: °C, mm, mm/s, mm³/s, g, g/cm³, h, unless a field says another."""

from __future__ import annotations

from datetime import datetime
from typing import Any, Literal

from pydantic import BaseModel

from assayer.services.views import Page


class MaterialView(BaseModel):
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
    items: list[MaterialView]


class SpoolRef(BaseModel):
    id: str
    code: str


VerdictWord = Literal["fit", "dry first", "reject"]


class MaterialRecord(MaterialView):
    diameter: float
    density: float | None
    price: float | None
    currency: str
    net_mass: float | None
    note: str
    revision: int


class MoistureView(BaseModel):
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
    moisture: MoistureView


class PricesView(BaseModel):
    per_kg: float | None
    per_cm3: float | None
    per_specimen: float | None
    specimen_mass: float | None


class StockItem(MaterialRecord, PricesView):
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


class WindowView(BaseModel):
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


class ClaimView(BaseModel):
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


class ContradictionView(BaseModel):
    about: str
    first: str
    second: str
    text: str


class DiameterView(BaseModel):
    n: int
    mean: float
    sd: float | None
    minimum: float
    maximum: float
    ovality: float | None
    flow_factor: float
    outside: int


class ReasonView(BaseModel):
    field: str
    text: str
    leads_to: str


class QuestionView(BaseModel):
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


class IntakePreview(BaseModel):
    net: float | None
    summary: DiameterView | None
    diameters: list[float]
    verdict: VerdictWord
    reasons: list[ReasonView]
    questions: list[QuestionView]
    errors: list[FieldError]


class IntakeView(BaseModel):
    id: str
    happened_at: datetime
    who: str
    findings: dict[str, Any]
    reasons: list[ReasonView]
    proposed: VerdictWord
    verdict: VerdictWord
    note: str
    diameters: list[float]
    summary: DiameterView | None


class BalancePoint(BaseModel):
    at: datetime
    left: float
    event: Literal["weighed", "printed", "label"]
    correction: float | None


class WeighingView(BaseModel):
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


class MoveView(BaseModel):
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
    window: WindowView
    intakes: list[IntakeView]
    history: list[BalancePoint]
    weighings: list[WeighingView]
    uses: list[UseOfFilament]
    moves: list[MoveView]
    sessions: list[SpoolSession]


class PlaceSpool(BaseModel):
    id: str
    code: str
    material: MaterialView
    words: str
    verdict: VerdictWord | None


class PlaceView(BaseModel):
    storage: str
    place: str
    humidity: float | None
    read_at: datetime | None
    spools: list[PlaceSpool]


class PlaceList(BaseModel):
    items: list[PlaceView]


class ImportColumn(BaseModel):
    field: str
    header: str


class CellProblem(BaseModel):
    field: str
    text: str


class CellQuestion(QuestionView):
    raw: str


class StatementView(BaseModel):
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
    claims: list[StatementView]


class ImportPreview(BaseModel):
    kind: str
    columns: list[ImportColumn]
    unknown: list[str]
    rows: list[ImportRow]
    counts: dict[str, int]


class ImportDone(ImportPreview):
    kept: int


class Preferences(BaseModel):
    label_base_url: str
