"""What studies answer."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from pydantic import BaseModel

from assayer.services.stock.views import MaterialOut
from assayer.services.views import BoundWord, GoodSide, Page, Pair2, SwatchOut


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


class MeasuredOut(BaseModel):
    study_id: str
    study: str
    test_id: str
    test: str
    orientation: str
    rig_version_id: str
    quantity: str
    label: str
    unit: str
    good_side: GoodSide
    main: bool
    values: list[float]
    n: int
    mean: float
    ci95: Pair2 | None
