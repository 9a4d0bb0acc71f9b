"""What choosing answers."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel

from assayer.services.studies.views import ArmView
from assayer.services.views import Pair2


class PurposeItem(BaseModel):
    id: str
    title: str
    study_id: str
    study_title: str


class PurposeList(BaseModel):
    items: list[PurposeItem]


class CriterionView(BaseModel):
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


class PurposeView(BaseModel):
    id: str
    title: str
    study_id: str
    study_title: str
    revision: int
    criteria: list[CriterionView]
    arms: list[ArmView]


class RankedView(BaseModel):
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


class Ranking(BaseModel):
    purpose_id: str
    data_revision: int
    seed: int
    weights: dict[str, float]
    ranked: list[RankedView]
