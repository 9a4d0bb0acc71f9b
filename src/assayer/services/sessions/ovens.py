"""Ovens with several specimens in them: what is noted at one is kept at once, and whoever looks sees it, at whichever device."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from datetime import datetime
from typing import TYPE_CHECKING

from sqlalchemy import select
from sqlalchemy.orm import Session, selectinload

from assayer.core.errors import ConflictError, EntryError, MissingError
from assayer.core.methods import method as find_method
from assayer.core.methods.steps import RampStep
from assayer.core.quantities.units import TEMPERATURE, parse_quantity
from assayer.services.sessions.views import OvenList, OvenMember, OvenNoteView, OvenView
from assayer.services.unit import Actor, Unit, Workspace, find
from assayer.store.models import DeviceSession, OvenNote, RigVersion, SessionMember, Slot, Specimen, Test

if TYPE_CHECKING:
    from assayer.services.sessions.requests import InOven, NewOven, NewOvenNote, OvenNotes

KIND = "oven"


def begin_oven(workspace: Workspace, actor: Actor, new: NewOven) -> tuple[OvenView, bool]:
    """Put specimens of one test into an oven; the same id again changes nothing (second value False).

    Raises
    ------
    ConflictError
        If one of them is in an oven already.
    EntryError
        If one is not of the test, or the test or the rig has nothing to do with ovens.
    """
    with workspace.write(actor) as unit:
        there = unit.session.get(DeviceSession, new.id)
        if there is not None:
            if there.kind != KIND or [(m.member_id, m.run_id) for m in there.members] != [(m.specimen_id, m.run_id) for m in new.members]:
                raise ConflictError("another session already has this id", _view(unit.session, there) if there.kind == KIND else None)
            return _view(unit.session, there), False
        test, rig = find(unit.session, Test, new.test_id), find(unit.session, RigVersion, new.rig_version_id)
        _step(test)
        if test.method not in rig.rig.methods:
            raise EntryError(f"{rig.rig.name} does not do this test: choose a rig that does", "rig_version_id")
        codes = _codes_of(unit.session, test, new.members)
        _refuse_busy(unit, codes)
        oven = DeviceSession(
            id=new.id, kind=KIND, device=rig.rig.name, rig_version_id=rig.id, test_id=test.id, started_at=new.started_at, zone=actor.zone, who=actor.who
        )
        unit.session.add(oven)
        unit.session.flush()
        for position, m in enumerate(new.members):
            unit.session.add(SessionMember(session_id=oven.id, member_kind="specimen", member_id=m.specimen_id, position=position, run_id=m.run_id))
        unit.session.flush()
        unit.log(KIND, oven.id, "begun", after={"oven": oven.device, "specimens": list(codes.values())})
        return _view(unit.session, oven), True


def note_at_oven(workspace: Workspace, actor: Actor, key: str, new: OvenNotes) -> OvenView:
    """Keep what was noted; a note that is there already is not kept twice.

    Raises
    ------
    ConflictError
        If the specimens were taken out meanwhile, or a note of this id says something else.
    """
    with workspace.write(actor) as unit:
        oven = _oven(unit.session, key)
        kept = {n.id: n for n in _notes(unit.session, oven)}
        fresh = [n for n in new.notes if not _there(unit.session, kept, oven, n)]
        if not fresh:
            return _view(unit.session, oven)
        if oven.ended_at is not None or oven.retracted_at is not None:
            raise ConflictError(f"this sitting at {oven.device} is over: what was noted since does not belong to it", _view(unit.session, oven))
        for note in fresh:
            _check(unit.session, oven, note)
            row = OvenNote(**note.model_dump(), session_id=oven.id, entered_at=unit.now, zone=actor.zone, entered_by=actor.who)
            unit.session.add(row)
            unit.log(KIND, oven.id, note.what, after={"raw": note.raw} | ({"specimen": note.specimen_id} if note.specimen_id else {}))
        return _view(unit.session, oven)


def end_oven(workspace: Workspace, actor: Actor, key: str, at: datetime) -> OvenView:
    """The specimens are out; once more changes nothing."""
    with workspace.write(actor) as unit:
        oven = _oven(unit.session, key)
        if oven.ended_at is None:
            oven.ended_at = max(at, oven.started_at)
            oven.revision += 1
            unit.log(KIND, oven.id, "taken out", after={"oven": oven.device})
        return _view(unit.session, oven)


def forget_oven(workspace: Workspace, actor: Actor, key: str, back: bool) -> OvenView:
    """The sitting came to nothing; or it is brought back, where nothing of it is in another oven by then."""
    with workspace.write(actor) as unit:
        oven = _oven(unit.session, key)
        if back == (oven.retracted_at is not None):
            if back:
                _refuse_busy(unit, _inside(unit.session, oven))
            oven.retracted_at = None if back else unit.now
            oven.revision += 1
            unit.log(KIND, oven.id, "brought back" if back else "forgotten", after={"oven": oven.device})
        return _view(unit.session, oven)


def get_oven(workspace: Workspace, key: str) -> OvenView:
    """A sitting, whether under way or over."""
    with workspace.read() as session:
        return _view(session, _oven(session, key))


def ovens_of(workspace: Workspace, test_id: str) -> OvenList:
    """The ovens that specimens of a test are in now, the oldest first."""
    with workspace.read() as session:
        find(session, Test, test_id)
        return OvenList(items=[_view(session, oven) for oven in running_ovens(session) if oven.test_id == test_id])


def running_ovens(session: Session) -> Sequence[DeviceSession]:
    """All with specimens in them, the oldest first."""
    return session.scalars(
        select(DeviceSession)
        .where(DeviceSession.kind == KIND, DeviceSession.ended_at.is_(None), DeviceSession.retracted_at.is_(None))
        .options(selectinload(DeviceSession.members))
        .order_by(DeviceSession.started_at, DeviceSession.id)
    ).all()


def codes_in(session: Session, ovens: Iterable[DeviceSession]) -> dict[str, list[str]]:
    """Codes of the specimens in each, by the id of the oven."""
    return {o.id: list(_inside(session, o).values()) for o in ovens}


def _inside(session: Session, oven: DeviceSession) -> dict[str, str]:
    """Codes by the ids of the specimens, without those that were left out since."""
    notes = _notes(session, oven)
    gone = {n.note_id for n in notes}
    left = {n.specimen_id for n in notes if n.what == "left" and n.id not in gone}
    return {m.specimen_id: m.code for m in _members(session, oven) if m.specimen_id not in left}


def _oven(session: Session, key: str) -> DeviceSession:
    found = session.get(DeviceSession, key)
    if found is None or found.kind != KIND:
        raise MissingError(f"there is no sitting at an oven with the id {key}")
    return found


def _step(test: Test) -> RampStep:
    step = next((s for s in find_method(test.method).steps if isinstance(s, RampStep)), None)
    if step is None:
        raise EntryError("nothing of this test is seen in an oven: choose another test", "test_id")
    return step


def _codes_of(session: Session, test: Test, members: Sequence[InOven]) -> dict[str, str]:
    ids = [m.specimen_id for m in members]
    if len(set(ids)) < len(ids):
        raise EntryError("a specimen is named twice", "members")
    rows = session.execute(select(Specimen.id, Specimen.code).join(Slot, Slot.id == Specimen.slot_id).where(Specimen.id.in_(ids), Slot.test_id == test.id))
    codes = {key: code for key, code in rows}
    for row, key in enumerate(ids, 1):
        if key not in codes:
            raise EntryError(f"the specimen in row {row} is none of this test", "members")
    return {key: codes[key] for key in ids}


def _refuse_busy(unit: Unit, codes: dict[str, str]) -> None:
    for oven in running_ovens(unit.session):
        held = next((code for key, code in _inside(unit.session, oven).items() if key in codes), None)
        if held is not None:
            text = f"{held} is in {oven.device} already, put in by {oven.who}: go on there, or take them out first"
            raise ConflictError(text, _view(unit.session, oven))


def _there(session: Session, kept: dict[str, OvenNote], oven: DeviceSession, new: NewOvenNote) -> bool:
    row = kept.get(new.id) or session.scalar(select(OvenNote).where(OvenNote.id == new.id))
    if row is None:
        return False
    if row.session_id != oven.id or any(getattr(row, name) != value for name, value in new.model_dump().items()):
        raise ConflictError("another note already has this id", _view(session, oven))
    return True


def _check(session: Session, oven: DeviceSession, new: NewOvenNote) -> None:
    """Refuse what does not belong to this oven, or is no reading of it."""
    needs_specimen, needs_note = new.what in ("seen", "ended", "left"), new.what == "taken back"
    if (new.specimen_id is not None) != needs_specimen or (new.specimen_id and all(m.member_id != new.specimen_id for m in oven.members)):
        raise EntryError("name a specimen that is in this oven" if needs_specimen else f"what is {new.what} is of no specimen", "specimen_id")
    test = find(session, Test, oven.test_id or "")
    step = _step(test)
    if (new.field is not None) != (new.what == "seen") or (new.field and all(f.name != new.field for f in step.fields)):
        raise EntryError(
            f"say what was seen: {', '.join(f.name for f in step.fields if f.usual)}" if new.what == "seen" else "only what is seen has a field", "field"
        )
    other = session.scalar(select(OvenNote).where(OvenNote.id == new.note_id)) if new.note_id else None
    if (new.note_id is not None) != needs_note or (needs_note and (other is None or other.session_id != oven.id or other.what == "taken back")):
        raise EntryError("name the note that is taken back" if needs_note else "only what is taken back names another note", "note_id")
    if new.what == "shown" or (new.what == "seen" and new.raw):
        parse_quantity(new.raw, TEMPERATURE, field="raw")
    outcomes = [o.name for o in find_method(test.method).outcomes]
    if new.what == "ended" and new.raw and new.raw not in outcomes:
        raise EntryError(f"no specimen of this test ends so: choose one of {', '.join(outcomes)}", "raw")


def _notes(session: Session, oven: DeviceSession) -> Sequence[OvenNote]:
    return session.scalars(select(OvenNote).where(OvenNote.session_id == oven.id).order_by(OvenNote.seq)).all()


def _members(session: Session, oven: DeviceSession) -> list[OvenMember]:
    rows = session.execute(select(Specimen.id, Specimen.code).where(Specimen.id.in_([m.member_id for m in oven.members])))
    codes = {key: code for key, code in rows}
    return [OvenMember(specimen_id=m.member_id, code=codes[m.member_id], run_id=m.run_id or "") for m in oven.members]


def _view(session: Session, oven: DeviceSession) -> OvenView:
    return OvenView(
        id=oven.id,
        test_id=oven.test_id or "",
        rig_version_id=oven.rig_version_id or "",
        device=oven.device,
        started_at=oven.started_at,
        ended_at=oven.ended_at,
        forgotten=oven.retracted_at is not None,
        who=oven.who,
        members=_members(session, oven),
        notes=[OvenNoteView.model_validate(n) for n in _notes(session, oven)],
    )
