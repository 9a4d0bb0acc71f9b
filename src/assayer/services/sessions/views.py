"""What sessions answer."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from assayer.services.stock.views import MaterialView
from assayer.services.views import View


class DryingMember(View):
    spool_id: str
    code: str
    material: MaterialView
    before: float | None
    after: float | None
    lost: float | None


class DryingView(View):
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


class TogetherView(View):
    """How several spools are dried in one session: what is asked for, the coolest limit and whose it is, whose is unknown."""

    temperature: float | None
    hours: float | None
    limit: float | None
    rules: str
    unknown: list[str]
    general: list[str]
    """Those whose maker says nothing: the polymer's general figures stand."""
    why_none: str
    """Why no temperature is proposed; empty where one is."""


class DryingList(View):
    items: list[DryingView]


class OvenMember(View):
    """In the order of the letters by which specimens are told."""

    specimen_id: str
    code: str
    run_id: str


class OvenNoteView(View):
    id: str
    what: Literal["shown", "seen", "ended", "left", "logger", "step", "taken back"]
    specimen_id: str | None
    field: str | None
    raw: str
    note_id: str | None
    at: datetime
    entered_by: str


class OvenView(View):
    """An oven with specimens in it, and all that was noted at it; `forgotten` where it came to nothing."""

    id: str
    test_id: str
    rig_version_id: str
    device: str
    started_at: datetime
    ended_at: datetime | None
    forgotten: bool
    who: str
    members: list[OvenMember]
    notes: list[OvenNoteView]


class OvenList(View):
    items: list[OvenView]
