"""What the use cases of studies are told."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import AfterValidator, Field, StringConstraints

from assayer.services.requests import Id, Orientation, Request, _printable


class NewArm(Request):
    id: Id
    material_id: Id
    spool_id: Annotated[Id | None, Field(description="which spool the specimens are printed from; their mass is debited")] = None
    treatment: Annotated[str, StringConstraints(strip_whitespace=True, max_length=120), AfterValidator(_printable)] = ""


class NewTest(Request):
    id: Id
    method: Literal["tension"] = "tension"
    orientation: Orientation
    shape: Annotated[str, StringConstraints(min_length=1, max_length=40, pattern=r"^[a-z0-9-]+$")] = "short-pull-bar"
    replicates: Annotated[int, Field(ge=1, le=50)] = 5
    margin: Annotated[float, Field(gt=0, le=1e6, description="smallest difference that matters")] = 0.10
    margin_relative: Annotated[bool, Field(description="whether the margin is a share of the reference mean")] = True


class NewStudy(Request):
    id: Id
    title: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=160), AfterValidator(_printable)]
    question: Annotated[str, StringConstraints(strip_whitespace=True, max_length=1000)] = ""
    studied_factor: Literal["material", "colour", "setting", "treatment"] = "material"
    arms: Annotated[list[NewArm], Field(min_length=1, max_length=60)]
    tests: Annotated[list[NewTest], Field(min_length=1, max_length=20)]
    settings: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=120), AfterValidator(_printable)] = "as printed"
