"""What the API answers. Requests are the commands of the services."""

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


class MaterialOut(BaseModel):
    id: str
    maker: str
    product: str
    polymer: str
    filler: str | None
    filler_share: float | None
    colour: str
    hex: str
    mark: str
    obtained: str


class MaterialPage(Page):
    items: list[MaterialOut]


class RigOut(BaseModel):
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
    items: list[RigOut]


class PeopleOut(BaseModel):
    items: list[str]


class SwatchOut(BaseModel):
    mark: str
    hex: str
    filled: bool


class StudyItem(BaseModel):
    id: str
    title: str
    question: str
    studied_factor: str
    created_at: datetime
    planned: int
    tested: int
    swatches: list[SwatchOut]


class StudyPage(Page):
    items: list[StudyItem]


class ArmOut(BaseModel):
    id: str
    mark: str
    treatment: str
    material: MaterialOut
    settings: str


class ShapeOut(BaseModel):
    name: str
    label: str
    width: float
    thickness: float
    gauge_length: float
    overall: float
    parallel: float
    end_width: float


class FractureOut(BaseModel):
    name: str
    label: str
    bound: BoundWord


class QuantityOut(BaseModel):
    name: str
    label: str
    unit: str


class QuantitySideOut(QuantityOut):
    good_side: GoodSide


class TestOut(BaseModel):
    id: str
    study_id: str
    method: str
    label: str
    after: str
    orientation: str
    shape: ShapeOut
    replicates: int
    margin: float
    margin_relative: bool
    fractures: list[FractureOut]
    quantities: list[QuantitySideOut]
    main: str


class StudyOut(BaseModel):
    id: str
    title: str
    question: str
    studied_factor: str
    reference_arm_id: str | None
    revision: int
    created_at: datetime
    arms: list[ArmOut]
    tests: list[TestOut]


class ReferenceEdit(BaseModel):
    reference_arm_id: str


class GroupOut(BaseModel):
    n: int
    mean: float
    sd: float | None
    cv: float | None
    ci95: Pair2 | None
    median: float
    minimum: float
    maximum: float


class DecisionOut(BaseModel):
    verdict: Literal["better", "worse", "higher", "lower", "equivalent", "undecided", "no verdict"]
    difference: float
    ci95: Pair2 | None
    ci90: Pair2 | None
    margin: float | None
    more_specimens: int | None
    notes: list[str]


class DotOut(BaseModel):
    run_id: str
    specimen_id: str
    code: str
    value: float | None
    bound: BoundWord
    state: Literal["counts", "left_out", "apart"]
    reason: str | None


class RatioOut(BaseModel):
    ratio: float
    ci95: Pair2 | None


class CellOut(BaseModel):
    arm_id: str
    planned: int
    measured: int
    tested: int
    batches: int
    dots: list[DotOut]
    group: GroupOut | None
    decision: DecisionOut | None
    layer_ratio: RatioOut | None
    notes: list[str]


class ColumnOut(BaseModel):
    test_id: str
    label: str
    orientation: str
    shape: str
    quantity: str
    quantity_label: str
    unit: str
    good_side: GoodSide
    replicates: int
    margin: float | None
    margin_relative: float | None
    revision: int
    cells: list[CellOut]


class BoardOut(BaseModel):
    study_id: str
    revision: int
    columns: list[ColumnOut]


class OutlierOut(BaseModel):
    run_id: str
    code: str
    g: float
    critical: float


class FindingArm(BaseModel):
    arm: ArmOut
    planned: int
    batches: int
    group: GroupOut | None
    decision: DecisionOut | None
    dots: list[DotOut]
    outlier: OutlierOut | None
    notes: list[str]


class AnovaOut(BaseModel):
    f: float
    df1: float
    df2: float
    p: float


class PairOut(BaseModel):
    a: str
    b: str
    difference: float
    ci95: Pair2
    p: float


class StudyRef(BaseModel):
    id: str
    title: str
    reference_arm_id: str | None
    revision: int


class FindingsOut(BaseModel):
    test: TestOut
    study: StudyRef
    quantity: QuantitySideOut
    quantities: list[QuantityOut]
    arms: list[FindingArm]
    anova: AnovaOut | None
    pairs: list[PairOut]


class QueueArm(BaseModel):
    id: str
    mark: str
    material: MaterialOut


class QueueItem(BaseModel):
    specimen_id: str
    code: str
    state: Literal["waiting", "measured", "counts", "at_least", "at_most", "left_out"]
    run_id: str | None
    fields: dict[str, list[str]]
    held_by: str | None
    arm: QueueArm | None


class QueueOut(BaseModel):
    test_id: str
    study_id: str
    items: list[QueueItem]


class CodeOut(BaseModel):
    kind: Literal["specimen", "spool", "rig"]
    code: str
    id: str
    test_id: str | None


class LeaseOut(BaseModel):
    specimen_id: str
    held_by: str | None


class ResultOut(BaseModel):
    quantity: str
    value: float
    unit: str
    bound: BoundWord
    warnings: list[str]


class ReductionOut(BaseModel):
    method: str
    procedure_version: str
    reduction_version: int
    results: list[ResultOut]
    warnings: list[str]


class CheckOut(BaseModel):
    level: Literal["plausible", "fine", "caution"]
    text: str


class TrialError(BaseModel):
    field: str | None
    row: int | None
    text: str


class TrialOut(BaseModel):
    reduction: ReductionOut | None
    checks: list[CheckOut]
    errors: list[TrialError]


class CurveOut(BaseModel):
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


class ReadingOut(BaseModel):
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


class RunResult(ResultOut):
    reduction_version: int


class ChangeOut(BaseModel):
    at: datetime
    who: str
    action: str
    before: dict[str, Any] | None
    after: dict[str, Any] | None


class RunOut(BaseModel):
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
    readings: list[ReadingOut]
    results: list[RunResult]
    history: list[ChangeOut]


class SpoolRef(BaseModel):
    id: str
    code: str


class SpecimenOut(BaseModel):
    id: str
    code: str
    shape: str
    orientation: str
    position: int
    printed_at: datetime
    settings: str
    treatment: str
    material: MaterialOut
    spool: SpoolRef | None
    mark: str | None
    test_id: str | None
    runs: list[RunOut]


class UseItem(BaseModel):
    id: str
    title: str
    study_id: str
    study_title: str


class UseList(BaseModel):
    items: list[UseItem]


class CriterionOut(BaseModel):
    id: str
    test_id: str
    test_label: str
    orientation: str
    quantity: str
    label: str
    unit: str
    no_use: float
    all_needed: float
    required: float | None
    weight: float


class UseOut(BaseModel):
    id: str
    title: str
    study_id: str
    study_title: str
    revision: int
    criteria: list[CriterionOut]
    arms: list[ArmOut]


class RankedOut(BaseModel):
    arm_id: str
    rank: int | None
    score_low: float
    score_high: float
    score_ci90: Pair2
    coverage: float
    rank_probabilities: list[float]
    usefulness: dict[str, float | None]
    requirements: dict[str, Literal["pass", "fail", "undecided"]]
    estimates: dict[str, float | None]
    notes: list[str]


class RankingOut(BaseModel):
    use_id: str
    data_revision: int
    seed: int
    weights: dict[str, float]
    ranked: list[RankedOut]
