"""What the use cases of findings are sent."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, StringConstraints

from assayer.services.requests import Flag, Id, Real, Request, Text, Whole


class NewDecision(Request):
    """Settle a doubt by a note, or have further specimens of an arm tested."""

    id: Id
    doubt: Annotated[str, StringConstraints(min_length=1, max_length=200), Field(description="its key, as listed")]
    evidence: Annotated[str, StringConstraints(min_length=1, max_length=2000), Field(description="its text, as listed: decided is what was seen")]
    kind: Literal["note", "retest"]
    note: Text = ""
    arm_ids: Annotated[list[Id], Field(max_length=40, description="of a retest: whose further specimens")] = []
    specimens: Annotated[Whole, Field(ge=1, le=20, description="of a retest: how many more of each")] = 1


class NewConversion(Request):
    """Accept the line between two rigs for one quantity and one way of breaking."""

    id: Id
    key: Annotated[str, StringConstraints(min_length=1, max_length=4000), Field(description="of the comparison, as listed")]
    slope: Annotated[Real, Field(description="as listed: accepted is what was seen")]
    note: Text = ""


class ConversionEdit(Request):
    """Take a conversion back, or bring it back."""

    retracted: Flag


class TypedText(Request):
    """What somebody is typing."""

    text: Annotated[str, StringConstraints(max_length=4000)]
    study_id: Annotated[Id | None, Field(description="whose results come first")] = None


class DecisionEdit(Request):
    """Take a decision back, so that its doubt is open again, or bring it back."""

    retracted: Flag
