"""What the use cases of the bench are told."""

from __future__ import annotations

from typing import Annotated

from pydantic import AfterValidator, Field, StringConstraints

from assayer.core.methods.vocabulary import SubjectKind, Validity
from assayer.services.requests import Confirmed, Flag, Id, Instant, Real, Request, Whole, Words, printable
from assayer.services.sessions.requests import Place

FieldName = Annotated[str, StringConstraints(min_length=1, max_length=40, pattern=r"^[a-z_]+$")]
Outcome = Annotated[str, StringConstraints(min_length=1, max_length=20, pattern=r"^[a-z ]+$")]
Load = Annotated[Real, Field(gt=0, le=1e9, description="the load that the reading belongs to, N")]
OptionValue = bool | Annotated[Real, Field(ge=-1e9, le=1e9)] | Annotated[list[Annotated[Real, Field(ge=-1e9, le=1e9)]], Field(max_length=20)] | None


class RawField(Request):
    """What stands in one entry field."""

    field: FieldName
    position: Annotated[Whole, Field(ge=0, le=999)] = 0
    raw: Annotated[str, StringConstraints(max_length=80)]
    happened_at: Instant | None = None
    ambient_c: Annotated[Real, Field(ge=-50, le=300)] | None = None
    load: Load | None = None
    after: Annotated[
        float | None, Field(ge=0, le=1e9, description="s from the event it counts from, where that was typed; else it follows from the instants")
    ] = None
    about: Annotated[
        Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=80), AfterValidator(printable)] | None,
        Field(description="what of the specimen it is of: a feature, a named size, a grader"),
    ] = None


class NewReading(RawField):
    """One reading as typed, or an event ("load_on", "load_off") with its instant."""

    id: Id


class Correction(NewReading):
    """A reading that supersedes an earlier one."""

    supersedes: Id
    reason: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=200), AfterValidator(printable)]
    confirmed: Confirmed = []


class PreviewRequest(Request):
    """What stands in the entry fields, to be reduced without being kept; `run_id` adds it to what an open run holds."""

    test_id: Id
    rig_version_id: Id
    specimen_id: Id
    run_id: Id | None = None
    readings: Annotated[list[RawField], Field(max_length=200)]
    curve_id: Id | None = None
    outcome: Outcome | None = None
    blind: Flag = False
    complete: Annotated[Flag, Field(description="it is about to be accepted: ask too what it lacks")] = False
    confirmed: Confirmed = []


class NewRun(Request):
    """A tested subject, or (with `complete` false) the steps done so far; sent again, it adds what is new."""

    id: Id
    subject_kind: SubjectKind = SubjectKind.SPECIMEN
    subject_id: Id
    test_id: Id
    rig_version_id: Id
    happened_at: Instant
    readings: Annotated[list[NewReading], Field(max_length=200)]
    complete: Flag = True
    curve_id: Id | None = None
    outcome: Outcome | None = None
    outcome_place: (
        Annotated[Real, Field(ge=0, le=1, description="along the drawing, 0 left to 1 right; the left end of upright prints stood on the bed")] | None
    ) = None
    validity: Validity | None = None
    validity_reason: Words | None = None
    place: Annotated[Place | None, Field(description="where on a rack it hangs")] = None
    confirmed: Confirmed = []
    unchecked: Annotated[Flag, Field(description="entered without the server: what it would have asked is kept as a remark")] = False


class RunEdit(Request):
    """What may be changed on a run; only what is given changes."""

    validity: Validity | None = None
    validity_reason: Words | None = None
    outcome: Outcome | None = None
    outcome_place: Annotated[Real, Field(ge=0, le=1)] | None = None
    options: Annotated[dict[FieldName, OptionValue] | None, Field(max_length=10, description="as the method declares; null goes back to the standard")] = None
