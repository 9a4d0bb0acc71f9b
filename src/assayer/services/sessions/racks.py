"""Racks in use: a session holds what hangs on a rack, by places, and the room's own readings."""

from __future__ import annotations

from datetime import datetime
from typing import TYPE_CHECKING

from sqlalchemy import select

from assayer.core.errors import ConflictError, EntryError
from assayer.core.quantities.units import TEMPERATURE, parse_quantity
from assayer.services.unit import Unit
from assayer.store.models import DeviceSession, RigVersion, Run, SessionMember, SessionReading

if TYPE_CHECKING:
    from assayer.services.sessions.requests import Place

KIND = "rack"
AMBIENT = "ambient"


def take_place(unit: Unit, run: Run, rack: RigVersion, place: Place, at: datetime) -> None:
    """Put a run on its place of a rack within a transaction; the session begins with its first member.

    Raises
    ------
    ConflictError
        If another open run hangs there.
    EntryError
        If the rack has no such place.
    """
    if place.position >= rack.places:
        raise EntryError(f"{rack.rig.name} has {rack.places} places, not {place.position + 1}", "place")
    session = unit.session.get(DeviceSession, place.session_id)
    if session is None:
        session = DeviceSession(
            id=place.session_id, kind=KIND, device=rack.rig.name, rig_version_id=rack.id, started_at=at, zone=unit.actor.zone, who=unit.actor.who, revision=1
        )
        unit.session.add(session)
        unit.session.flush()
        unit.log("rack", session.id, "begun", after={"rack": rack.rig.name})
    elif session.kind != KIND or session.rig_version_id != rack.id:
        raise ConflictError("this session belongs to another device")
    _refuse_taken(unit, run, rack, place.position)
    if unit.session.get(SessionMember, (session.id, "run", run.id)) is None:
        unit.session.add(SessionMember(session_id=session.id, member_kind="run", member_id=run.id, position=place.position))
    unit.session.flush()


def _refuse_taken(unit: Unit, run: Run, rack: RigVersion, position: int) -> None:
    held = unit.session.scalar(
        select(SessionMember.member_id)
        .join(DeviceSession, DeviceSession.id == SessionMember.session_id)
        .join(Run, Run.id == SessionMember.member_id)
        .where(
            DeviceSession.rig_version_id == rack.id,
            SessionMember.member_kind == "run",
            SessionMember.position == position,
            SessionMember.member_id != run.id,
            Run.complete.is_(False),
            Run.retracted_at.is_(None),
        )
    )
    if held is not None:
        raise ConflictError(f"place {position + 1} of {rack.rig.name} is taken: choose a free one, or take that one off first")


def take_place_again(unit: Unit, run: Run) -> None:
    """A run that comes back hangs where it hung, if it is still open; raises ConflictError where another one hangs there now."""
    if run.complete:
        return
    rows = unit.session.execute(
        select(SessionMember.position, RigVersion)
        .join(DeviceSession, DeviceSession.id == SessionMember.session_id)
        .join(RigVersion, RigVersion.id == DeviceSession.rig_version_id)
        .where(SessionMember.member_kind == "run", SessionMember.member_id == run.id, DeviceSession.kind == KIND)
    ).all()
    for position, rack in rows:
        _refuse_taken(unit, run, rack, position)


def note_room(unit: Unit, session_id: str, key: str, raw: str, at: datetime) -> float:
    """Keep a reading of the room, °C; the same id again changes nothing."""
    value = parse_quantity(raw, TEMPERATURE, field=AMBIENT).value
    if not -50 <= value <= 300:
        raise EntryError(f"the room at {value:g} °C: check the reading", AMBIENT)
    if unit.session.scalar(select(SessionReading.id).where(SessionReading.id == key)) is None:
        unit.session.add(
            SessionReading(
                id=key, session_id=session_id, field=AMBIENT, happened_at=at, entered_at=unit.now, zone=unit.actor.zone, raw=raw, value=value, unit="°C",
                entered_by=unit.actor.who,
            )
        )  # fmt: skip
        unit.session.flush()
    return value


def end_if_empty(unit: Unit, run: Run) -> None:
    """A rack's session ends with the last of its members."""
    unit.session.flush()
    own = select(SessionMember.session_id).where(SessionMember.member_kind == "run", SessionMember.member_id == run.id)
    for session in unit.session.scalars(select(DeviceSession).where(DeviceSession.id.in_(own), DeviceSession.kind == KIND)):
        still_there = unit.session.scalar(
            select(Run.id)
            .join(SessionMember, (SessionMember.member_kind == "run") & (SessionMember.member_id == Run.id))
            .where(SessionMember.session_id == session.id, Run.complete.is_(False), Run.retracted_at.is_(None))
            .limit(1)
        )
        ended = None if still_there is not None else max(session.started_at, unit.now)
        if (ended is None) != (session.ended_at is None):
            session.ended_at = ended
            session.revision += 1
