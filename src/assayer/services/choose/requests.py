"""What the use cases of choosing are told."""

from __future__ import annotations

from typing import Annotated

from pydantic import AfterValidator, Field, StringConstraints

from assayer.services.requests import Flag, Id, Real, Request, printable


class CriterionSpec(Request):
    id: Id
    test_id: Id
    quantity: Annotated[str, StringConstraints(min_length=1, max_length=60, pattern=r"^[a-z0-9_]+(@[A-Za-z0-9_. -]+)?$")]
    no_use: Annotated[Real, Field(ge=-1e9, le=1e9)]
    all_needed: Annotated[Real, Field(ge=-1e9, le=1e9)]
    required: Annotated[Real, Field(ge=-1e9, le=1e9)] | None = None
    weight: Annotated[Real, Field(ge=0, le=1000)] = 1.0
    near: Annotated[Flag, Field(description="`all_needed` is what is wanted, and `no_use` as far from it, to either side, as is of no use")] = False


class NewPurpose(Request):
    id: Id
    study_id: Id
    title: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=160), AfterValidator(printable)]
    criteria: Annotated[list[CriterionSpec], Field(min_length=1, max_length=20)]


class PurposeEdit(Request):
    """What may be changed on a purpose; only what is given changes. Criteria are given whole: one without its id is new, one left out goes."""

    title: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=160), AfterValidator(printable)] | None = None
    criteria: Annotated[list[CriterionSpec], Field(min_length=1, max_length=20)] | None = None
    weights: Annotated[dict[Id, Annotated[Real, Field(ge=0, le=1000)]], Field(max_length=20)] = {}


class WeightsEdit(Request):
    weights: Annotated[dict[Id, Annotated[Real, Field(ge=0, le=1000)]], Field(max_length=20)]
    bounds_exact: Annotated[Flag, Field(description="treat values that are bounds as exact")] = False
