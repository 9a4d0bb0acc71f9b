"""What choosing answers."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel

from assayer.services.studies.views import ArmOut
from assayer.services.views import Pair2


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
