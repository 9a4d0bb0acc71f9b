"""What the use cases of own methods are told."""

from __future__ import annotations

from typing import Annotated

from pydantic import AfterValidator, Field, StringConstraints

from assayer.core.methods.vocabulary import Bound, Orientation, Sign
from assayer.core.stats.verdicts import GoodSide
from assayer.services.requests import Flag, Id, Raw, Real, Request, Short, Whole, Words, printable


class OwnInputIn(Request):
    """What is read in a test of one's own."""

    name: Annotated[str, StringConstraints(strip_whitespace=True, max_length=40)]
    label: Short
    dimension: Annotated[str, StringConstraints(max_length=40)]
    needed: Annotated[Whole, Field(ge=0, le=12)] = 1
    usual: Annotated[Whole, Field(ge=1, le=12)] = 1
    sign: Sign = Sign.ABOVE_ZERO
    scatter: Annotated[Real, Field(gt=0, le=10, description="how far its readings may lie apart before it is asked whether one is right, as a share")] = 0.08


class OwnResultIn(Request):
    """What follows from it: a formula; `unit` empty: the one that it naturally has."""

    name: Annotated[str, StringConstraints(strip_whitespace=True, max_length=40)]
    label: Short
    formula: Annotated[str, StringConstraints(max_length=1000)]
    unit: Annotated[str, StringConstraints(strip_whitespace=True, max_length=12)] = ""
    good_side: GoodSide = GoodSide.HIGHER
    target: Annotated[Real, Field(ge=-1e9, le=1e9)] = 0.0
    margin: Annotated[Real, Field(gt=0, le=1e9)] = 0.10
    margin_relative: Flag = True


class OwnOutcomeIn(Request):
    """How it can end, and what that makes of an input; the results named (all where none is) are bounded as they follow from it."""

    label: Annotated[str, StringConstraints(strip_whitespace=True, max_length=60), AfterValidator(printable)]
    bound: Bound = Bound.EXACT
    results: Annotated[list[Annotated[str, StringConstraints(max_length=40)]], Field(max_length=12)] = []
    input: Annotated[
        str, StringConstraints(max_length=40), Field(description="the input that is a bound; default: the first that is a load, else the first")
    ] = ""


class OwnDefinitionIn(Request):
    """A whole test of one's own; what is wrong with it is told by place, and only a faultless one is kept."""

    label: Short
    measures: Words = ""
    inputs: Annotated[list[OwnInputIn], Field(max_length=20)]
    results: Annotated[list[OwnResultIn], Field(max_length=12)]
    outcomes: Annotated[list[OwnOutcomeIn], Field(max_length=12)] = []
    shapes: Annotated[list[Annotated[str, StringConstraints(max_length=40)]], Field(max_length=20)] = []
    orientations: Annotated[list[Orientation], Field(max_length=3)] = list(Orientation)
    own_parts: Flag = True
    minutes: Annotated[Real, Field(gt=0, le=600)] = 4.0
    typical_cv: Annotated[Real, Field(gt=0, le=1)] = 0.08


class OwnTrial(Request):
    """A definition with sample readings as typed, by input: to be reduced without being kept."""

    definition: OwnDefinitionIn
    samples: Annotated[dict[Annotated[str, StringConstraints(max_length=40)], Annotated[list[Raw], Field(max_length=12)]], Field(max_length=20)] = {}


class NewOwnMethod(Request):
    """A new test of one's own, or (with the id of its family) its next version."""

    id: Id
    family: Id | None = None
    definition: OwnDefinitionIn
