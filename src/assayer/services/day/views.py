"""What the day sheet answers."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from assayer.services.views import SwatchView, View


class DayItem(View):
    kind: Literal["dryer", "intake", "to dry", "contradiction", "to print", "specimens", "round", "calibration", "backup"]
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


class DaySheet(View):
    now: datetime
    items: list[DayItem]
