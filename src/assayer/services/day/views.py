"""What the day sheet answers."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from pydantic import BaseModel

from assayer.services.views import SwatchView


class DayItem(BaseModel):
    kind: Literal["dryer", "intake", "to dry", "contradiction", "specimens"]
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


class DaySheet(BaseModel):
    now: datetime
    items: list[DayItem]
