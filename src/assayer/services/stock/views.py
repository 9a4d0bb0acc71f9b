"""What the stock answers. Units: °C, mm, mm/s, mm³/s, g, g/cm³, h, unless a field says another."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from assayer.services.views import FieldError, Page, QuestionView, View


class MaterialView(View):
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


class SpoolRef(View):
    id: str
    code: str


DecisionWord = Literal["fit", "dry first", "reject"]


class MaterialRecord(MaterialView):
    diameter: float
    density: float | None
    price: float | None
    currency: str
    net_mass: float | None
    note: str
    revision: int
    withdrawn_on: str | None


class MoistureView(View):
    kind: Literal["drying", "dried", "as delivered", "open"]
    storage: str
    open_hours: float
    words: str
    stale: bool
    dried_at: datetime | None
    due_at: datetime | None


class SpoolItem(View):
    id: str
    code: str
    material_id: str
    lot: str
    received_on: str
    label_net: float | None
    empty: float | None
    heat_limit: float | None
    body: Literal["", "plastic", "cardboard", "refill"]
    bore: float | None
    loose_end: Literal["", "straight", "bent", "under a turn"]
    decision: DecisionWord | None
    note: str
    gone_at: datetime | None
    gone_why: str | None
    revision: int
    left: float | None
    weighed_at: datetime | None
    place: str
    moisture: MoistureView


class PricesView(View):
    per_kg: float | None
    per_cm3: float | None
    per_specimen: float | None
    specimen_mass: float | None


class StockItem(MaterialRecord, PricesView):
    spools: list[SpoolItem]
    measured: dict[str, int]
    claims: int
    contradictions: int


class NamedCount(View):
    name: str
    count: int


class StripPart(View):
    """One test that a material may have been measured by."""

    key: str
    label: str


class StockPage(Page):
    items: list[StockItem]
    polymers: list[NamedCount]
    strip: list[StripPart]


class WindowView(View):
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
    bed_surface: str
    adhesive: str
    tolerance: float | None
    source: str
    fumes: bool | None
    dust: bool | None


class RelatedProduct(View):
    """A product that another one has to do with: one of its colours leads there."""

    id: str
    maker: str
    product: str
    how: Literal["succeeds", "succeeded by", "derived from", "base of"]


class ClaimView(View):
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


class ContradictionView(View):
    about: str
    first: str
    second: str
    text: str


class DiameterView(View):
    n: int
    mean: float
    sd: float | None
    minimum: float
    maximum: float
    ovality: float | None
    flow_factor: float
    outside: int


class ReasonView(View):
    field: str
    text: str
    leads_to: str


class IntakePreview(View):
    net: float | None
    summary: DiameterView | None
    diameters: list[float]
    decision: DecisionWord
    reasons: list[ReasonView]
    questions: list[QuestionView]
    errors: list[FieldError]


class IntakeFindings(View):
    """What was found at an intake; masses as typed, net mass and label in g."""

    seal: str = ""
    desiccant: str = ""
    winding: str = ""
    snap: str = ""
    snap_known_good: str = ""
    popping: str = ""
    gross: str = ""
    empty: str = ""
    net: float | None = None
    label: float | None = None


class IntakeView(View):
    id: str
    happened_at: datetime
    who: str
    findings: IntakeFindings
    reasons: list[ReasonView]
    proposed: DecisionWord
    decision: DecisionWord
    note: str
    diameters: list[float]
    summary: DiameterView | None


class BalancePoint(View):
    at: datetime
    left: float
    event: Literal["weighed", "printed", "label"]
    correction: float | None


class WeighingView(View):
    id: str
    at: datetime
    gross: float
    raw: str
    moment: str
    who: str


class UseOfFilament(View):
    id: str
    at: datetime
    mass: float
    purge: float
    """Of the mass, g that went into no part."""
    what: str
    who: str
    batch_id: str | None


class MoveView(View):
    id: str
    at: datetime
    storage: str
    place: str
    humidity: float | None
    who: str


class SpoolSession(View):
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
    course: list[BalancePoint]
    weighings: list[WeighingView]
    uses: list[UseOfFilament]
    moves: list[MoveView]
    sessions: list[SpoolSession]


class PlaceSpool(View):
    id: str
    code: str
    material: MaterialView
    words: str
    dried: bool
    """It was dried and has not lain open for too long since."""
    decision: DecisionWord | None


class PlaceView(View):
    storage: str
    place: str
    humidity: float | None
    read_at: datetime | None
    spools: list[PlaceSpool]


class PlaceList(View):
    items: list[PlaceView]


class ImportColumn(View):
    field: str
    header: str


class ImportProblem(View):
    field: str
    text: str


class ImportQuestion(QuestionView):
    raw: str


class StatementView(View):
    text: str
    quantity: str | None
    relation: str
    value: float | None
    unit: str
    reference: str
    method: str


RowState = Literal["new", "gaps", "there", "question", "error"]


class ImportRow(View):
    row: int
    line: int
    state: RowState
    cells: dict[str, str]
    hex: str | None
    filled: bool
    errors: list[ImportProblem]
    questions: list[ImportQuestion]
    there: str | None
    claims: list[StatementView]


class ImportPreview(View):
    kind: str
    columns: list[ImportColumn]
    unknown: list[str]
    rows: list[ImportRow]
    counts: dict[str, int]


class ImportDone(ImportPreview):
    kept: int


class Preferences(View):
    label_base_url: str
