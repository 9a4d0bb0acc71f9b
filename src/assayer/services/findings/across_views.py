"""What is answered of all tests of a study side by side."""

from __future__ import annotations

from assayer.core.stats.profile import Change
from assayer.services.findings.views import ProvisionalView, RelativeView
from assayer.services.stock.views import MaterialView
from assayer.services.studies.plan_views import ProblemView
from assayer.services.studies.views import ArmView, GroupView, StudyRef, VerdictView
from assayer.services.views import Pair2, QuantityView, View


class AcrossCell(View):
    """One arm in one test, or its price or print time."""

    arm_id: str
    at: float | None
    """Multiples of the difference that matters against the reference, the good side positive; None without a margin."""
    interval: Pair2 | None
    change: Change | None
    """None of the reference itself."""
    group: GroupView | None
    """None of a price or a time, which have no specimens."""
    value: float
    verdict: VerdictView | None
    relative: RelativeView | None
    provisional: ProvisionalView | None
    notes: list[str]


class AcrossRow(View):
    test_id: str | None
    """None of price and print time."""
    label: str
    orientation: str
    quantity: QuantityView
    margin: float | None
    margin_share: float | None
    """The margin as a share of the reference, where it is one."""
    cells: list[AcrossCell]


class TestsAgree(View):
    """How far tests of one property rank the arms alike: Kendall's W, 0 to 1."""

    name: str
    tests: list[str]
    test_ids: list[str]
    best_arm_ids: list[str]
    """By test, the arm with the best mean."""
    w: float
    arms: int
    """How many arms all of the tests measured."""
    contradict: list[tuple[str, str]]
    """Pairs of arms of which one test proves the first better, and another the second."""


class Printability(View):
    """The share of good prints of a material on one printer, with Wilson's 95 % interval (METHODS 12)."""

    material: MaterialView
    printer: str
    good: int
    printed: int
    share: float
    low: float
    high: float
    first_good: int | None
    """Which print was the first good one."""


class VariedSetting(View):
    """The one setting that tells the arms apart, with its level of each arm."""

    label: str
    unit: str
    levels: dict[str, float]


class AcrossView(View):
    study: StudyRef
    reference_arm_id: str | None
    arms: list[ArmView]
    names: dict[str, str]
    """By arm id, what it is called in sentences."""
    rows: list[AcrossRow]
    varied: VariedSetting | None
    """Where a single setting was varied in numbers."""
    agreements: list[TestsAgree]
    printability: list[Printability]
    problems: list[ProblemView]
