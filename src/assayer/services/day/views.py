"""What the day sheet answers."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from assayer.services.views import SwatchView, View


class DayItem(View):
    kind: Literal["dryer", "intake", "to dry", "contradiction", "to print", "specimens", "round", "calibration", "backup", "trial", "wet"]
    state: Literal["late", "due", "running", "doubt"]
    title: str
    text: str
    since: datetime | None
    until: datetime | None
    swatches: list[SwatchView]
    spool_id: str | None
    material_id: str | None
    study_id: str | None
    drying_id: str | None
    rig_id: str | None
    trail_id: str | None


class Found(View):
    """Something found: what it is, what it is called, and what tells it from its like."""

    kind: Literal["material", "spool", "study", "purpose", "rig", "specimen"]
    id: str
    label: str
    detail: str
    code: str


class FoundList(View):
    items: list[Found]


class DaySheet(View):
    now: datetime
    items: list[DayItem]
