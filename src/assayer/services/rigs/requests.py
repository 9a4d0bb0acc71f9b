"""What the use cases of rigs are told."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field, StringConstraints

from assayer.services.requests import Id, Name, Request


class ColumnAnswer(Request):
    role: Literal["time", "travel", "force", "strain", "skip"]
    unit: Annotated[str, StringConstraints(max_length=12)] | None = None


class TemplateAnswer(Request):
    signature: Annotated[str, StringConstraints(max_length=4000)]
    columns: Annotated[list[ColumnAnswer], Field(min_length=1, max_length=64)]


class NewRig(Request):
    id: Id
    version_id: Id
    name: Name
    compliance: Annotated[float, Field(ge=0, le=1, description="mm/N")] = 0.0
    force_unit: Annotated[str, StringConstraints(max_length=12)] = "N"
    force_step: Annotated[float, Field(gt=0, le=1e6)] = 1.0
    length_unit: Annotated[str, StringConstraints(max_length=12)] = "mm"
    length_step: Annotated[float, Field(gt=0, le=1e3)] = 0.01
    capacity: Annotated[float, Field(gt=0, le=1e9, description="N")] | None = None
    valid_from: datetime | None = None
