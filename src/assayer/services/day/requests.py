"""What the use cases of the day sheet are told."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, StringConstraints

from assayer.services.requests import Day, Flag, Id, Request, Words

ObjectKind = Literal["material", "spool", "study", "specimen", "rig", "trail"]
"""What a follow-up can be set on."""


class NewFollowUp(Request):
    """Look at something again, on a day."""

    id: Id
    object_kind: ObjectKind
    object_id: Id
    text: Annotated[Words, StringConstraints(min_length=1)]
    due_on: Annotated[Day, Field(description="the day, in the calendar of who sets it")]


class FollowUpEdit(Request):
    """What is given changes: put off to another day, worded anew, looked at (`done`) or open again, taken back or not."""

    text: Annotated[Words, StringConstraints(min_length=1)] | None = None
    due_on: Day | None = None
    done: Flag | None = None
    retracted: Flag | None = None
