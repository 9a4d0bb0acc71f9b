"""What sessions answer."""

from __future__ import annotations

from datetime import datetime

from pydantic import BaseModel

from assayer.services.stock.views import MaterialView


class DryingMember(BaseModel):
    spool_id: str
    code: str
    material: MaterialView
    before: float | None
    after: float | None
    lost: float | None


class DryingView(BaseModel):
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


class DryingList(BaseModel):
    items: list[DryingView]
