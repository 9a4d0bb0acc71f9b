"""What the rigs answer."""

from __future__ import annotations

from datetime import datetime

from pydantic import BaseModel


class RigView(BaseModel):
    id: str
    rig_id: str
    code: str
    name: str
    version: int
    method: str
    compliance: float
    force_unit: str
    force_step: float
    length_unit: str
    length_step: float
    capacity: float | None
    valid_from: datetime
    calibrated_at: datetime | None


class RigList(BaseModel):
    items: list[RigView]
