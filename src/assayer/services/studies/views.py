"""What studies answer."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from pydantic import BaseModel

from assayer.services.stock.views import MaterialView
from assayer.services.views import BoundWord, GoodSide, Page, Pair2, SwatchView


class StudyItem(BaseModel):
    id: str
    title: str
    question: str
    studied_factor: str
    created_at: datetime
    planned: int
    tested: int
    swatches: list[SwatchView]


class StudyPage(Page):
    items: list[StudyItem]


class ArmView(BaseModel):
    id: str
    mark: str
    treatment: str
    material: MaterialView
    settings: str


class ShapeView(BaseModel):
    name: str
    label: str
    width: float
    thickness: float
    gauge_length: float
    overall: float
    parallel: float
    end_width: float


class FractureView(BaseModel):
    name: str
    label: str
    bound: BoundWord


class QuantityView(BaseModel):
    name: str
    label: str
    unit: str


class QuantitySideView(QuantityView):
    good_side: GoodSide


class TestView(BaseModel):
    id: str
    study_id: str
    method: str
    label: str
    after: str
    orientation: str
    shape: ShapeView
    replicates: int
    margin: float
    margin_relative: bool
    fractures: list[FractureView]
    quantities: list[QuantitySideView]
    main: str


class StudyView(BaseModel):
    id: str
    title: str
    question: str
    studied_factor: str
    reference_arm_id: str | None
    revision: int
    created_at: datetime
    arms: list[ArmView]
    tests: list[TestView]


class ReferenceEdit(BaseModel):
    reference_arm_id: str


class GroupView(BaseModel):
    n: int
    mean: float
    sd: float | None
    cv: float | None
    ci95: Pair2 | None
    median: float
    minimum: float
    maximum: float


class VerdictView(BaseModel):
    verdict: Literal["better", "worse", "higher", "lower", "equivalent", "undecided", "no verdict"]
    difference: float
    ci95: Pair2 | None
    ci90: Pair2 | None
    margin: float | None
    more_specimens: int | None
    notes: list[str]


class DotView(BaseModel):
    run_id: str
    specimen_id: str
    code: str
    value: float | None
    bound: BoundWord
    state: Literal["counts", "left_out", "apart"]
    reason: str | None


class RatioView(BaseModel):
    ratio: float
    ci95: Pair2 | None


class CellView(BaseModel):
    arm_id: str
    planned: int
    measured: int
    tested: int
    batches: int
    dots: list[DotView]
    group: GroupView | None
    decision: VerdictView | None
    layer_ratio: RatioView | None
    notes: list[str]


class EvidenceView(BaseModel):
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
    cells: list[CellView]


class BoardView(BaseModel):
    study_id: str
    revision: int
    columns: list[EvidenceView]


class OutlierView(BaseModel):
    run_id: str
    code: str
    g: float
    critical: float


class FindingArm(BaseModel):
    arm: ArmView
    planned: int
    batches: int
    group: GroupView | None
    decision: VerdictView | None
    dots: list[DotView]
    outlier: OutlierView | None
    notes: list[str]


class AnovaView(BaseModel):
    f: float
    df1: float
    df2: float
    p: float


class PairView(BaseModel):
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


class Findings(BaseModel):
    test: TestView
    study: StudyRef
    quantity: QuantitySideView
    quantities: list[QuantityView]
    arms: list[FindingArm]
    anova: AnovaView | None
    pairs: list[PairView]


class MeasuredView(BaseModel):
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
