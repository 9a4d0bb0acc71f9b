"""What choosing answers."""

from __future__ import annotations

from typing import Literal

from assayer.core.ranking.estimates import Requirement
from assayer.services.studies.views import ArmView
from assayer.services.views import BoundWord, GoodSide, Pair2, View


class PurposeItem(View):
    id: str
    title: str
    study_id: str
    study_title: str


class PurposeList(View):
    items: list[PurposeItem]


class CriterionView(View):
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
    near: bool
    weight: float
    derived: bool


class PurposeView(View):
    id: str
    title: str
    study_id: str
    study_title: str
    revision: int
    criteria: list[CriterionView]
    arms: list[ArmView]


class CriterionOption(View):
    """A quantity of a study that a purpose may ask for."""

    test_id: str
    test_label: str
    orientation: str
    quantity: str
    label: str
    unit: str
    good_side: GoodSide
    main: bool
    derived: bool


class CriterionOptions(View):
    items: list[CriterionOption]


class RankedView(View):
    """One arm in a ranking; `bounds` names the criteria some of whose values are bounds.

    "either": bounds above and below the line of a ratio leave it open both ways.
    """

    arm_id: str
    rank: int | None
    score_low: float
    score_high: float
    score_ci90: Pair2
    coverage: float
    rank_probabilities: list[float]
    usefulness: dict[str, float | None]
    requirements: dict[str, Requirement]
    estimates: dict[str, float | None]
    bounds: dict[str, BoundWord | Literal["either"]]
    notes: list[str]


class Ranking(View):
    purpose_id: str
    data_revision: int
    seed: int
    weights: dict[str, float]
    bounds_exact: bool
    """Whether values that are bounds were treated as exact."""
    problems: list[str]
    """What prevents an answer of the study, in words."""
    ranked: list[RankedView]
