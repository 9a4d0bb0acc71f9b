"""What several areas together answer."""

from __future__ import annotations

from datetime import datetime

from assayer.services.dial_in.views import CurrentView
from assayer.services.findings.views import ClaimVerdictView
from assayer.services.stock.views import ClaimView, ContradictionView, MaterialRecord, MaterialView, PricesView, RelatedProduct, SpoolItem, WindowView
from assayer.services.studies.views import MeasuredView
from assayer.services.views import RecordEntry, View


class DossierClaim(ClaimView):
    label: str
    colour: str
    verdicts: list[ClaimVerdictView]
    """The verdicts on it, one for each group that was measured of it."""


class OutsideView(View):
    """A setting that the maker did not ask for; null ends of the window are open."""

    label: str
    value: float
    low: float | None
    high: float | None
    unit: str


class PrintedAs(View):
    """The settings that an arm was printed with, and which of them lie outside the maker's window."""

    arm_id: str
    settings: str
    outside: list[OutsideView]


class ClaimQuantityView(View):
    name: str
    label: str


class ColourMean(View):
    colour: str
    mean: float
    n: int
    at_least: int
    at_most: int


class LineMember(MaterialView):
    differs: list[str]
    measured: dict[str, int]


class ReportedView(View):
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


class ShapeMass(View):
    name: str
    label: str
    volume: float
    mass: float
    price: float | None


class MoistureLost(View):
    code: str
    spool_id: str
    lost: float
    at: datetime
    temperature: float
    hours: float


class DossierMaterial(MaterialRecord, PricesView):
    created_at: datetime


class LineSpread(View):
    """Means of the colours of a line within one test of one study, lowest first."""

    study: str
    test: str
    label: str
    unit: str
    means: list[ColourMean]
    ratio: float


class Dossier(View):
    material: DossierMaterial
    length: float | None
    shapes: list[ShapeMass]
    window: WindowView
    claims: list[DossierClaim]
    claim_quantities: list[ClaimQuantityView]
    """What a claim may be about."""
    printed: list[PrintedAs]
    """How the arms were printed that claims are held against."""
    contradictions: list[ContradictionView]
    related: list[RelatedProduct]
    line: list[LineMember]
    line_spread: list[LineSpread]
    spools: list[SpoolItem]
    history: list[MeasuredView]
    reported: list[ReportedView]
    moisture_lost: list[MoistureLost]
    current: list[CurrentView]
    """The settings sheets that it is printed with, each with the trail that is its evidence."""
    record: list[RecordEntry]
