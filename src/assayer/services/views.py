"""What the views of all areas are made of."""

from __future__ import annotations

from datetime import datetime
from typing import Any, Literal

from pydantic import BaseModel

GoodSide = Literal["higher", "lower", "none"]


BoundWord = Literal["exact", "at_least", "at_most"]


ValidityWord = Literal["counts", "at_least", "at_most", "left_out"]


Pair2 = tuple[float, float]


class Page(BaseModel):
    total: int
    limit: int
    offset: int


class SwatchView(BaseModel):
    mark: str
    hex: str
    filled: bool


class ChangeView(BaseModel):
    at: datetime
    who: str
    action: str
    before: dict[str, Any] | None
    after: dict[str, Any] | None
