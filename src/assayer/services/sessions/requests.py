"""What the use cases of sessions are told."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from assayer.services.requests import Confirmed, Id, Moment, Name, Raw, Real, Request, Short, Text, Whole
from assayer.services.stock.requests import Percent, Storage


class MemberMass(Request):
    spool_id: Id
    raw: Raw = ""


class MassCorrection(Request):
    """Another mass of a spool before or after a session, as typed."""

    spool_id: Id
    moment: Literal["before", "after"]
    raw: Raw
    confirmed: Confirmed = []


class NewDrying(Request):
    """Spools put into a dryer: now, or entered later."""

    id: Id
    device: Name
    temperature: Annotated[Real, Field(gt=0, le=500, description="°C")]
    hours: Annotated[Real, Field(ge=0.01, le=500)]
    started_at: Moment
    members: Annotated[list[MemberMass], Field(min_length=1, max_length=50)]
    note: Text = ""
    confirmed: Confirmed = []


class DryingPreviewRequest(Request):
    """Spools that are to go into a dryer together."""

    spool_ids: Annotated[list[Id], Field(min_length=1, max_length=50)]


class EndDrying(Request):
    ended_at: Moment
    members: Annotated[list[MemberMass], Field(max_length=50)] = []
    storage: Storage = "dry box"
    place: Short = ""
    humidity: Percent | None = None
    confirmed: Confirmed = []


class RoomReading(Request):
    """The room, read once a round; as typed."""

    id: Id
    raw: Raw
    at: Moment


class Place(Request):
    """Where on a rack a run hangs, from 0; the session is the rack's filling. `room` is kept with it."""

    session_id: Id
    position: Annotated[Whole, Field(ge=0, le=98)]
    room: RoomReading | None = None


class InOven(Request):
    """A specimen that goes in, and the run that it becomes."""

    specimen_id: Id
    run_id: Id


class NewOven(Request):
    """Specimens of one test put into an oven together, by their letters."""

    id: Id
    test_id: Id
    rig_version_id: Id
    started_at: Moment
    members: Annotated[list[InOven], Field(min_length=1, max_length=20)]


class NewOvenNote(Request):
    """Something noted at an oven.

    `shown` by its thermometer, `seen` of a specimen, how one `ended` where that is not as usual (nothing: as usual),
    one `left` out of the sitting, whether a `logger` writes along ("yes", or nothing), every how many K it is looked at
    (`step`), or an earlier note `taken back`.
    """

    id: Id
    what: Literal["shown", "seen", "ended", "left", "logger", "step", "taken back"]
    specimen_id: Id | None = None
    field: Short | None = None
    raw: Raw = ""
    note_id: Id | None = None
    at: Moment


class OvenNotes(Request):
    notes: Annotated[list[NewOvenNote], Field(min_length=1, max_length=500)]
