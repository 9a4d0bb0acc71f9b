"""What the bench answers."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from assayer.core.methods.vocabulary import SubjectKind
from assayer.services.stock.views import MaterialView, SpoolRef
from assayer.services.views import BoundWord, FieldError, Pair2, QuestionView, RecordEntry, ValidityWord, View


class QueueArm(View):
    id: str
    mark: str
    material: MaterialView


QueueState = Literal["waiting", "measured", "counts", "at_least", "at_most", "left_out"]


class QueueItem(View):
    specimen_id: str
    code: str
    state: QueueState
    run_id: str | None
    fields: dict[str, list[str]]
    """What an open run holds, as typed."""
    held_by: str | None
    arm: QueueArm | None


class Queue(View):
    test_id: str
    study_id: str
    unprinted: int
    items: list[QueueItem]


class WaitingTest(View):
    """A test with how many of its printed specimens wait on the bench."""

    test_id: str
    study_id: str
    study: str
    label: str
    orientation: str
    shape: str
    method: str
    waiting: int
    open: int
    printed: int
    unprinted: int
    rounds: bool
    """Whether it is read in rounds over a rack."""


class WaitingTests(View):
    items: list[WaitingTest]


class LeaseView(View):
    specimen_id: str
    held_by: str | None


class ResultView(View):
    """One value; `quantity` carries its load or time ("drift@80"), `label` in words."""

    quantity: str
    label: str
    value: float
    unit: str
    bound: BoundWord
    interval: Pair2 | None
    provisional: bool
    warnings: list[str]


class ReductionView(View):
    method: str
    procedure_version: str
    reduction_version: int
    results: list[ResultView]
    warnings: list[str]


class CheckView(View):
    """`field` and `position` where one reading is meant."""

    level: Literal["plausible", "fine", "caution"]
    text: str
    field: str | None = None
    position: int | None = None


class ReadAs(View):
    """How a typed number was read: its value in the unit shown, where it is not what was typed."""

    field: str
    position: int
    text: str


class Preview(View):
    reduction: ReductionView | None
    checks: list[CheckView]
    questions: list[QuestionView]
    errors: list[FieldError]
    read_as: list[ReadAs]


class FileColumnView(View):
    index: int
    role: str
    unit: str | None


class FilePreviewView(View):
    encoding: str
    delimiter: str
    decimal: str
    first_line: int
    signature: str
    header: list[str]
    columns: list[FileColumnView]
    rows: list[list[str]]


class RecordingView(View):
    """A recording that was taken in."""

    id: str
    file_name: str
    rows: int
    columns: list[str]
    warnings: list[str]
    preview: FilePreviewView | None = None


class RunRig(View):
    id: str
    name: str
    version: int


class RunCurve(View):
    id: str
    file_name: str
    rows: int


class ReadingView(View):
    id: str
    step: str
    field: str
    label: str
    position: int
    raw: str
    value: float
    unit: str
    happened_at: datetime
    entered_at: datetime
    entered_by: str
    ambient_c: float | None
    load: float | None
    after: float | None
    """s from the event it counts from."""
    about: str | None
    """What of the specimen it is of."""
    supersedes: str | None
    superseded: bool
    reason: str | None


class RunResult(ResultView):
    reduction_version: int


class RunView(View):
    id: str
    revision: int
    subject_kind: SubjectKind
    subject_id: str
    specimen_id: str | None
    code: str
    test_id: str
    method: str
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
    outcome: str | None
    outcome_place: float | None
    options: dict[str, float | bool | list[float] | None]
    curve: RunCurve | None
    has_view: bool
    """Whether there is a curve to draw, recorded or put together from readings."""
    remarks: list[str]
    readings: list[ReadingView]
    results: list[RunResult]
    record: list[RecordEntry]


class SpecimenView(View):
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
    doubt: str | None
    """Why its print is in doubt: how it came off the plate, or a spool found wet."""
    mark: str | None
    test_id: str | None
    study_id: str | None
    runs: list[RunView]


class MovedView(View):
    """A value that is no longer what it was; None where it came or went."""

    code: str
    quantity: str
    label: str
    old: float | None
    new: float | None
    old_bound: BoundWord | None
    new_bound: BoundWord | None
    unit: str


class MovedList(View):
    """What a correction moved, of how many runs."""

    runs: int
    moved: list[MovedView]


class Outdated(View):
    """How many runs have results that an earlier reduction computed, and how far computing them anew is."""

    runs: int
    done: int
    of: int


class Recomputing(View):
    """How many runs a correction was worked out for, of how many; 0 of 0 where none is under way."""

    done: int
    of: int


class ManyRow(View):
    """One of many files: its curve in few points, and the specimen that it seems to be of ("code": by its name; "order": in test order)."""

    id: str
    name: str
    rows: int
    warnings: list[str]
    error: str | None
    doubt: str | None
    """Why it was given to no specimen, although it can be read."""
    points: list[tuple[float, float]]
    specimen_id: str | None
    code: str | None
    matched: Literal["code", "order"] | None


class ManyCurves(View):
    items: list[ManyRow]
