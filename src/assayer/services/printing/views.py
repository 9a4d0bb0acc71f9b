"""What printing answers."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel


class PrinterView(BaseModel):
    id: str
    name: str
    revision: int
    nozzle: float | None
    hardened: bool | None
    enclosed: bool | None
    plate: str
    strand: float | None
    nozzle_hottest: float | None
    bed_hottest: float | None
    chamber_hottest: float | None


class PrinterList(BaseModel):
    items: list[PrinterView]


class MissView(BaseModel):
    rule: str
    level: Literal["must", "should"]
    text: str
    source: str


class FitView(BaseModel):
    fit: bool
    misses: list[MissView]
    unchecked: list[str]
    flow: float | None
    left: float | None
