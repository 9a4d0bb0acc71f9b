"""What studies answer."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from assayer.core.stats.verdicts import VerdictWord
from assayer.services.stock.views import MaterialView
from assayer.services.studies.plan_views import ProblemView
from assayer.services.views import BoundWord, GoodSide, OutcomeView, Page, Pair2, QuantityView, ShapeView, SwatchView, View


class StudyItem(View):
    id: str
    title: str
    question: str
    studied_factor: str
    created_at: datetime
    planned: int
    printed: int
    tested: int
    swatches: list[SwatchView]
    put_away_at: datetime | None


class StudyPage(Page):
    items: list[StudyItem]
    put_away: int
    """How many are out of the way."""


class ArmView(View):
    id: str
    mark: str
    treatment: str
    material: MaterialView
    settings: str
    differs: dict[str, str]
    """Settings in which the arms of the study differ, with value and unit."""
    spool_id: str | None = None
    """Which spool it is planned to be printed from."""


MarginKind = Literal["relative", "absolute"]


class TestView(View):
    id: str
    study_id: str
    method: str
    label: str
    after: str
    orientation: str
    shape: ShapeView
    protocol: dict[str, float | str | list[float] | list[str]]
    """What the lab sets for it, in base units."""
    rounds: bool
    """Read over days, on a rack or in a bath."""
    replicates: int
    spares: int
    margin: float
    margin_relative: bool
    margin_kinds: list[MarginKind]
    """In what it can be said: a share of the reference, a difference in the unit; grades have none."""
    target: float | None
    """The difference to be detected, as a share of the reference mean; null: the margin."""
    outcomes: list[OutcomeView]
    quantities: list[QuantityView]
    main: str


class AmendmentView(View):
    """A change of the plan after the study was started."""

    at: datetime
    who: str
    what: str
    reason: str


class StudyView(View):
    id: str
    title: str
    question: str
    studied_factor: str
    reference_arm_id: str | None
    revision: int
    created_at: datetime
    wanted_by: datetime | None
    bounds_in: bool
    """Whether means include lower bounds."""
    batches: int
    """Print batches that each arm is planned in."""
    put_away_at: datetime | None
    started_at: datetime | None
    crosses_materials: bool
    each_at_best: bool
    studied_settings: list[str]
    amendments: list[AmendmentView]
    arms: list[ArmView]
    tests: list[TestView]


class GroupView(View):
    """Summary of the specimens that count; `at_least` and `at_most` of the n are bounds treated as exact."""

    n: int
    mean: float
    sd: float | None
    cv: float | None
    ci95: Pair2 | None
    median: float
    minimum: float
    maximum: float
    at_least: int
    at_most: int
    batches: int
    """Print batches that the interval takes into account; 0 where it does not (bounds included by a fit)."""
    within_sd: float | None
    ci95_new_batch: Pair2 | None
    """Of one batch: the interval of the mean over batches, by the batch scatter of the other arms."""


class BatchRatioView(View):
    """How far batches scatter against specimens of one batch, pooled over the arms of a test."""

    ratio: float
    df: float
    """Degrees of freedom between batches."""
    few: bool
    """So few that the intervals cover 92–97 % instead of 95 %."""


class VerdictView(View):
    """The verdict against the reference; differences of ratios are of their logarithms."""

    word: VerdictWord
    difference: float
    ci95: Pair2 | None
    ci90: Pair2 | None
    margin: float | None
    more_specimens: int | None
    notes: list[str]


class DotView(View):
    run_id: str
    specimen_id: str | None
    code: str
    value: float | None
    bound: BoundWord
    state: Literal["counts", "left_out", "apart", "open"]
    reason: str | None


class RatioView(View):
    """A derived quantity of an arm."""

    name: str
    label: str
    ratio: float
    ci95: Pair2 | None
    bound: BoundWord
    verdict: VerdictView | None


class CellView(View):
    arm_id: str
    planned: int
    printed: int
    treated: int
    """Of those printed, how many have had the treatment of their arm."""
    measured: int
    tested: int
    batches: int
    dots: list[DotView]
    group: GroupView | None
    verdict: VerdictView | None
    derived: list[RatioView]
    notes: list[str]


class EvidenceView(View):
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
    batch_ratio: BatchRatioView | None


class BoardView(View):
    study_id: str
    revision: int
    columns: list[EvidenceView]
    problems: list[ProblemView]


class StudyRef(View):
    id: str
    title: str
    reference_arm_id: str | None
    revision: int


class MeasuredView(View):
    """One group of a material's history: unlike is never put together."""

    study_id: str
    study: str
    test_id: str
    test: str
    orientation: str
    rig_version_id: str
    rig: str
    """Its name, where the arm was measured on several in that test; else empty."""
    end: str
    """How its runs ended, where that is told apart; else empty."""
    arm_id: str
    treatment: str
    settings: str
    """Those in which its arm differs from the others of the material in its study; else empty."""
    quantity: str
    label: str
    unit: str
    good_side: GoodSide
    main: bool
    values: list[float]
    n: int
    at_least: int
    at_most: int
    mean: float
    ci95: Pair2 | None
