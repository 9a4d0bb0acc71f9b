"""What several areas together answer."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from pydantic import BaseModel

from assayer.services.stock.views import ClaimView, ContradictionView, MaterialRecord, MaterialView, PricesView, SpoolItem, WindowView
from assayer.services.studies.views import MeasuredView


class DossierClaim(ClaimView):
    label: str
    colour: str
    beside: list[MeasuredView]


class ColourMean(BaseModel):
    colour: str
    mean: float
    n: int


class LineMember(MaterialView):
    differs: list[str]
    measured: dict[str, int]


class ReportedView(BaseModel):
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


class DossierMaterial(MaterialRecord, PricesView):
    created_at: datetime


class LineSpread(BaseModel):
    """Means of the colours of a line within one test of one study, lowest first."""

    study: str
    test: str
    label: str
    unit: str
    means: list[ColourMean]
    ratio: float


class Dossier(BaseModel):
    material: DossierMaterial
    length: float | None
    shapes: list[ShapeMass]
    window: WindowView
    claims: list[DossierClaim]
    contradictions: list[ContradictionView]
    line: list[LineMember]
    line_spread: list[LineSpread]
    spools: list[SpoolItem]
    measured: list[MeasuredView]
    reported: list[ReportedView]
    moisture_lost: list[MoistureLost]
    history: list[MaterialChange]
