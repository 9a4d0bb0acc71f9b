"""What studies answer."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from assayer.core.stats.verdicts import VerdictWord
from assayer.services.stock.views import MaterialView
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


class TestView(View):
    id: str
    study_id: str
    method: str
    label: str
    after: str
    orientation: str
    shape: ShapeView
    protocol: dict[str, float | list[float] | list[str]]
    """What the lab sets for it, in base units."""
    rounds: bool
    """Read over days, on a rack or in a bath."""
    replicates: int
    spares: int
    margin: float
    margin_relative: bool
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
    """Whether means take lower bounds in."""
    put_away_at: datetime | None
    started_at: datetime | None
    each_at_best: bool
    studied_settings: list[str]
    amendments: list[AmendmentView]
    arms: list[ArmView]
    tests: list[TestView]


class GroupView(View):
    """Summary of the specimens that count; `at_least` and `at_most` of the n are bounds, taken at face value."""

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


class BoardView(View):
    study_id: str
    revision: int
    columns: list[EvidenceView]


class OutlierView(View):
    run_id: str
    code: str
    g: float
    critical: float


class PerSpool(View):
    """What a spool of the maker's net mass gives of a part, by its mean mass; money where a price is known."""

    pieces: int
    net: float
    cost: float | None
    currency: str


class FindingArm(View):
    arm: ArmView
    planned: int
    measured: int
    """Specimens under way: measured before the test, or on a rack or in a bath."""
    batches: int
    group: GroupView | None
    ratio: RatioView | None
    verdict: VerdictView | None
    dots: list[DotView]
    outlier: OutlierView | None
    notes: list[str]
    per_spool: PerSpool | None = None
    """Where pieces are weighed."""


class AnovaView(View):
    f: float
    df1: float
    df2: float
    p: float


class AgreementView(View):
    """Kendall's W of several people's orders, from 0 (nothing in common) to 1 (one order)."""

    w: float
    graders: int
    prints: int


class PairView(View):
    a: str
    b: str
    difference: float
    ci95: Pair2
    p: float


class StudyRef(View):
    id: str
    title: str
    reference_arm_id: str | None
    revision: int


class Findings(View):
    test: TestView
    study: StudyRef
    quantity: QuantityView
    quantities: list[QuantityView]
    arms: list[FindingArm]
    anova: AnovaView | None
    agreement: AgreementView | None
    pairs: list[PairView]
    """Of the logarithms where the quantity is a ratio's; empty then."""


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


class UnfairView(View):
    """One thing that a plan lacks: what it costs the conclusion, and how to mend it."""

    name: str
    grave: bool
    text: str
    costs: str
    mend: str


class FairnessView(View):
    study_id: str
    revision: int
    printed: bool
    """Whether it was looked at as printed, or as planned."""
    items: list[UnfairView]


class PowerRow(View):
    """What specimens of one test can see. Shares of the mean; `seen[i]` is what i + 2 of each show."""

    test_id: str
    label: str
    orientation: str
    replicates: int
    cv: float
    seen_here: int
    """Specimens that the scatter was seen on; 0: it is assumed."""
    margin: float | None
    needed: int | None
    """Of each, for the margin; null: more than 50."""
    seen: list[float]
    minutes: float
    volume_each: float
    """cm³ of one specimen."""
    mass_each: list[float | None]
    """Of one specimen, g, arm by arm; null where the density is not known."""
    places: int | None
    """On all racks that do it; null where specimens are not left on one."""
    days_each: float
    """How long one stays there."""


class SpoolNeed(View):
    """What an arm still takes of filament, beside what is left."""

    arm_id: str
    mark: str
    volume: float
    """cm³"""
    mass: float | None
    left: float | None
    price: float | None


class PowerView(View):
    study_id: str
    revision: int
    comparisons: int
    """With the reference; the intervals of all hold together."""
    rows: list[PowerRow]
    needs: list[SpoolNeed]
    rate: float
    """mm³/s that print hours are reckoned with."""
    rate_files: int
    """How many files of its plates say so; 0: a usual one."""


class DesignView(View):
    """Runs as values of each setting, in the order asked; each once, since replicates are planned with the tests."""

    runs: list[list[float]]
    aliases: list[str]
    """Effects that share one contrast: 'fan = nozzle × flow'."""
