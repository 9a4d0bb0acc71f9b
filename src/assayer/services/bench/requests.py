"""What the use cases of the bench are told."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import AfterValidator, AwareDatetime, Field, StringConstraints

from assayer.services.requests import Id, Request, Validity, Words, _printable


class NewReading(Request):
    """One reading as typed; `supersedes` and `reason` make it a correction."""

    id: Id
    field: Annotated[str, StringConstraints(min_length=1, max_length=40, pattern=r"^[a-z_]+$")]
    position: Annotated[int, Field(ge=0, le=20)] = 0
    raw: Annotated[str, StringConstraints(max_length=80)]
    happened_at: AwareDatetime | None = None
    ambient_c: Annotated[float, Field(ge=-50, le=300)] | None = None


class Correction(NewReading):
    supersedes: Id
    reason: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=200), AfterValidator(_printable)]


class RawField(Request):
    field: Annotated[str, StringConstraints(min_length=1, max_length=40, pattern=r"^[a-z_]+$")]
    raw: Annotated[str, StringConstraints(max_length=80)]


class PreviewRequest(Request):
    """What stands in the entry fields, to be reduced without being kept."""

    test_id: Id
    rig_version_id: Id
    specimen_id: Id
    readings: Annotated[list[RawField], Field(max_length=40)]
    curve_id: Id | None = None
    blind: bool = False


class NewRun(Request):
    """A pulled specimen, or (with `complete` false) its dimensions only."""

    id: Id
    specimen_id: Id
    test_id: Id
    rig_version_id: Id
    happened_at: AwareDatetime
    readings: Annotated[list[NewReading], Field(max_length=40)]
    complete: bool = True
    curve_id: Id | None = None
    fracture: Literal["gauge", "one layer", "several layers", "outside gauge", "grip"] | None = None
    fracture_place: Annotated[float, Field(ge=0, le=1, description="along the drawing, 0 left to 1 right")] | None = None
    validity: Validity | None = None
    validity_reason: Words | None = None


class RunEdit(Request):
    """What may be changed on a run; only what is given changes."""

    validity: Validity | None = None
    validity_reason: Words | None = None
    fracture: Literal["gauge", "one layer", "several layers", "outside gauge", "grip"] | None = None
    fracture_place: Annotated[float, Field(ge=0, le=1)] | None = None
    modulus_window: Annotated[tuple[float, float] | None, Field(description="strains; null goes back to the standard window")] = None
