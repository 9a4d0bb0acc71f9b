"""Findings as they are answered."""

from __future__ import annotations

from assayer.core.statements.answer import Says
from assayer.core.statements.check import Kind, StatementVerdict
from assayer.services.photos.views import PhotoView
from assayer.services.stock.views import MaterialView
from assayer.services.studies.plan_views import ProblemView
from assayer.services.studies.views import ArmView, BatchRatioView, DotView, GroupView, MeasuredView, RatioView, StudyRef, TestView, VerdictView
from assayer.services.views import Pair2, QuantityView, View


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


class RelativeView(View):
    """How many times the reference a mean is, with its interval at the level of the verdicts."""

    factor: float
    ci95: Pair2 | None


class ProvisionalView(View):
    """A difference of too few specimens, with the interval that the usual scatter of the test gives it; never a verdict."""

    difference: float
    ci95: Pair2
    relative: RelativeView | None


class ClaimVerdictView(View):
    """A maker's claim against one measured group."""

    measured: MeasuredView
    verdict: str
    value: float
    """The measured mean; of a claim about another material how many times that it is."""
    ci95: Pair2 | None
    against: str
    """The other material; empty where the claim is a value."""
    reason: str


class SentenceView(View):
    """A sentence of the answer, ready to copy."""

    says: Says
    text: str


class StatementView(View):
    """A sentence that somebody typed, with its verdict."""

    text: str
    start: int
    """Where it begins in the text."""
    kind: Kind
    verdict: StatementVerdict
    actual: str
    """What was measured, with the likely slip; may be empty."""


class StatementsView(View):
    statements: list[StatementView]


class EarlierArmView(View):
    """Where a reference comes from that is no arm of the study."""

    study_id: str
    study: str
    test_id: str
    on: str
    """The day of its last run."""
    differs: list[str]
    """Why nothing is compared with it; empty where it is."""


class FindingArm(View):
    arm: ArmView
    earlier: EarlierArmView | None
    """Where it is the reference and of another study."""
    name: str
    """What it is called in sentences: by its material, and by what tells it from others of that."""
    planned: int
    measured: int
    """Specimens under way: measured before the test, or on a rack or in a bath."""
    batches: int
    group: GroupView | None
    ratio: RatioView | None
    verdict: VerdictView | None
    relative: RelativeView | None
    """None for the reference, and where a factor has no meaning."""
    provisional: ProvisionalView | None
    """Where two specimens or fewer decide nothing."""
    dots: list[DotView]
    prints: list[int]
    """Which print each of the dots is from; 1 is the first."""
    outlier: OutlierView | None
    notes: list[str]
    per_spool: PerSpool | None
    """Where pieces are weighed."""
    design_value: float | None
    """What 90 % of parts reach with 95 % confidence; None where bounds are among the values."""
    ends: list[EndGroupView]
    """Where ways of ending are not averaged with each other: a group for each."""


class EarlierView(View):
    """A group of a material from another study, or a reported figure, to be shown below the arms."""

    material: MaterialView
    distinguished_by: str
    """Treatment, settings or rig, where other arms of the material in that study have another."""
    source: str
    """The study, or who reports it."""
    on: str
    """The day of its last run, or as reported."""
    study_id: str | None
    test_id: str | None
    arm_id: str | None
    """The arm there, which may be made the reference."""
    reported: bool
    differs: list[str]
    """Why it is not compared: "another rig"; empty where it is."""
    converted: bool
    """Whether values and interval are converted from another rig, the interval wider by what the conversion leaves open."""
    n: int | None
    values: list[float]
    mean: float
    ci95: Pair2 | None
    at_least: int
    at_most: int
    relative: RelativeView | None
    """Against the reference, at 95 %; None where it is not compared."""


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
    note: str | None
    """Why it says otherwise than the verdict on the same two arms."""


class EndGroupView(View):
    """The specimens of an arm that ended one way, where ends are not averaged with each other."""

    end: str
    n: int
    mean: float
    ci95: Pair2 | None


class Findings(View):
    test: TestView
    study: StudyRef
    quantity: QuantityView
    quantities: list[QuantityView]
    reference_arm_id: str | None
    """The arm that the others are compared with; it may be another than the study's."""
    answer: list[SentenceView]
    arms: list[FindingArm]
    anova: AnovaView | None
    agreement: AgreementView | None
    pairs: list[PairView]
    """Of the logarithms where the quantity is a ratio's; empty then."""
    batch_ratio: BatchRatioView | None
    end: str
    """The way of ending that is compared, where ways of ending are not averaged with each other."""
    ends: list[str]
    """All that there are."""
    earlier: list[EarlierView]
    """Of the same materials, and of those that were added to the view."""
    problems: list[ProblemView]


class SpecimenPhoto(View):
    """A photograph of a specimen, or of its run where it was taken after the test."""

    arm_id: str
    specimen_id: str
    code: str
    run_id: str | None
    photo: PhotoView


class SpecimenPhotos(View):
    items: list[SpecimenPhoto]
    """The oldest first."""


class SpreadOfArm(View):
    arm_id: str
    name: str
    shape: float | None
    """Of the fitted Weibull distribution; None where there is none."""
    scale: float | None
    points: list[tuple[float, float]]
    """Each break with the share of specimens that broke up to it."""
    bounds: int
    """Lower bounds, which are in the fit and have no point."""
    reason: str
    """Why there is no fit."""


class StrengthSpread(View):
    arms: list[SpreadOfArm]
