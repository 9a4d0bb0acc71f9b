"""What sessions answer."""

from __future__ import annotations

from datetime import datetime

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


class DryingList(View):
    items: list[DryingView]
