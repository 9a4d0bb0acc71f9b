"""What the day sheet answers."""

from __future__ import annotations

from datetime import date, datetime
from typing import Literal

from assayer.services.day.requests import ObjectKind
from assayer.services.views import SwatchView, View


class FollowUpView(View):
    """Something that somebody wants to look at again; `done_at` once it was."""

    id: str
    object_kind: ObjectKind
    object_id: str
    text: str
    due_on: date
    done_at: datetime | None
    set_at: datetime
    who: str
    revision: int
    retracted_at: datetime | None


class FollowUpList(View):
    items: list[FollowUpView]


class DayItem(View):
    kind: Literal["dryer", "intake", "to dry", "contradiction", "to print", "specimens", "round", "calibration", "backup", "trial", "wet", "follow-up", "oven"]
    state: Literal["late", "due", "running", "doubt"]
    title: str
    text: str
    since: datetime | None
    until: datetime | None
    swatches: list[SwatchView]
    spool_id: str | None
    material_id: str | None
    study_id: str | None
    test_id: str | None
    drying_id: str | None
    rig_id: str | None
    trail_id: str | None
    code: str | None
    """Of a specimen."""
    follow_up: FollowUpView | None = None


class Found(View):
    """Something found: what it is, what it is called, and what tells it from its like."""

    kind: Literal["material", "spool", "study", "dial-in", "sheet", "purpose", "rig", "printer", "method", "specimen"]
    id: str
    label: str
    detail: str
    code: str


class FoundList(View):
    items: list[Found]


class DaySheet(View):
    now: datetime
    items: list[DayItem]
