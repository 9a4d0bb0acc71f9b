"""What the bench answers."""

from __future__ import annotations

from datetime import datetime
from typing import Any, Literal

from pydantic import BaseModel

from assayer.services.stock.views import MaterialView, SpoolRef
from assayer.services.views import BoundWord, ChangeView, Pair2, ValidityWord


class QueueArm(BaseModel):
    id: str
    mark: str
    material: MaterialView


class QueueItem(BaseModel):
    specimen_id: str
    code: str
    state: Literal["waiting", "measured", "counts", "at_least", "at_most", "left_out"]
    run_id: str | None
    fields: dict[str, list[str]]
    held_by: str | None
    arm: QueueArm | None


class Queue(BaseModel):
    test_id: str
    study_id: str
    items: list[QueueItem]


class LeaseView(BaseModel):
    specimen_id: str
    held_by: str | None


class ResultView(BaseModel):
    quantity: str
    value: float
    unit: str
    bound: BoundWord
    warnings: list[str]


class ReductionView(BaseModel):
    method: str
    procedure_version: str
    reduction_version: int
    results: list[ResultView]
    warnings: list[str]


class CheckView(BaseModel):
    level: Literal["plausible", "fine", "caution"]
    text: str


class PreviewError(BaseModel):
    field: str | None
    row: int | None
    text: str


class Preview(BaseModel):
    reduction: ReductionView | None
    checks: list[CheckView]
    errors: list[PreviewError]


class CurveView(BaseModel):
    id: str
    file_name: str
    rows: int
    columns: list[str]
    warnings: list[str]
    preview: dict[str, Any] | None = None


class RunRig(BaseModel):
    id: str
    name: str
    version: int


class RunCurve(BaseModel):
    id: str
    file_name: str
    rows: int


class ReadingView(BaseModel):
    id: str
    field: str
    position: int
    raw: str
    value: float
    unit: str
    happened_at: datetime
    entered_at: datetime
    entered_by: str
    supersedes: str | None
    superseded: bool
    reason: str | None


class RunResult(ResultView):
    reduction_version: int


class RunView(BaseModel):
    id: str
    revision: int
    specimen_id: str
    code: str
    test_id: str
    procedure_version: str
    rig: RunRig
    operator: str
    happened_at: datetime
    zone: str
    complete: bool
    retracted_at: datetime | None
    validity: ValidityWord
    validity_reason: str | None
    validity_by: str | None
    fracture: str | None
    fracture_place: float | None
    modulus_window: Pair2 | None
    curve: RunCurve | None
    remarks: list[str]
    readings: list[ReadingView]
    results: list[RunResult]
    history: list[ChangeView]


class SpecimenView(BaseModel):
    id: str
    code: str
    shape: str
    orientation: str
    position: int
    printed_at: datetime
    settings: str
    treatment: str
    material: MaterialView
    spool: SpoolRef | None
    mark: str | None
    test_id: str | None
    runs: list[RunView]
