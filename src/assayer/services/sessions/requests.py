"""What the use cases of sessions are told."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from assayer.services.requests import Confirmed, Id, Moment, Name, Raw, Real, Request, Short, Text, Whole
from assayer.services.stock.requests import Percent, Storage


class MemberMass(Request):
    spool_id: Id
    raw: Raw = ""


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
