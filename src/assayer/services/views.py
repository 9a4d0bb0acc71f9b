"""What the views of all areas are made of."""

from __future__ import annotations

from datetime import datetime

from pydantic import BaseModel, ConfigDict

from assayer.core.methods.vocabulary import Bound, Validity
from assayer.core.stats.verdicts import GoodSide as GoodSide


class View(BaseModel):
    """One typed answer: frozen, and taken from any object that has its names."""

    model_config = ConfigDict(frozen=True, from_attributes=True)


BoundWord = Bound
ValidityWord = Validity
Pair2 = tuple[float, float]


class StandingView(View):
    """How a shape stands on the bed, mm; `stands` is false where it would fall over."""

    orientation: str
    width: float
    depth: float
    height: float
    brim: bool
    supports: bool
    stands: bool


class Page(View):
    total: int
    limit: int
    offset: int


class SwatchView(View):
    mark: str
    hex: str
    filled: bool


class ChangedValue(View):
    """One value that a change altered; as text, None where there was or is none."""

    name: str
    before: str | None
    after: str | None


class RecordEntry(View):
    """One line of an object's change log."""

    at: datetime
    who: str
    entity: str
    action: str
    changes: list[ChangedValue]


class QuestionView(View):
    """An entry that is hardly meant as typed: what is asked, what was likely meant, and whether it may stand."""

    key: str
    field: str
    text: str
    likely: str | None
    may_confirm: bool
    row: int | None = None
    confirm: str | None = None
    """What letting it stand is called, where "it is right as entered" does not fit."""


class FieldError(View):
    field: str | None
    row: int | None
    text: str


class FeatureView(View):
    """A feature of known size: how readings name it, and the ends of its length as the shape lies flat, mm."""

    name: str
    kind: str
    nominal: float
    start: Pair2
    end: Pair2


class ShapeView(View):
    """A specimen shape; `dimensions` by name, mm, and those that travel is divided by; `features` in the order they are measured."""

    name: str
    label: str
    family: str
    dimensions: dict[str, float]
    strain_lengths: dict[str, float]
    features: list[FeatureView]


class OutcomeView(View):
    """How a run may end here, and whether the main quantity becomes a bound by it; `place` along the drawing."""

    name: str
    label: str
    bound: BoundWord
    place: Pair2 | None
    symbol: str | None = None


class QuantityView(View):
    name: str
    label: str
    unit: str
    good_side: GoodSide = GoodSide.NONE
    derived: bool = False
