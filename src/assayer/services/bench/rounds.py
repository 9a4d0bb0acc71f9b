"""Rounds over a rack: what hangs where, what is due on each place, and the room."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session, selectinload

from assayer.core.errors import EntryError
from assayer.core.methods import REGISTRY
from assayer.core.methods import method as find_method
from assayer.core.methods.ambient import AMBIENT_APART
from assayer.core.methods.base import Method
from assayer.core.methods.steps import Along, Field, RoundsStep
from assayer.core.methods.vocabulary import Validity
from assayer.core.plan.due import Due, DueState, due_readings
from assayer.services.bench.queue import queue
from assayer.services.bench.reductions import Typed, seconds_after, typed_of_run
from assayer.services.bench.rounds_views import (
    AlongRead,
    AlongView,
    CoursePoint,
    DueView,
    RackEvent,
    RackItem,
    RackList,
    RackMember,
    RackView,
    RackWaiting,
    RoomView,
)
from assayer.services.bench.views import QueueArm, QueueItem
from assayer.services.declarations import outcome_views
from assayer.services.rigs.calibrations import RigReader, reader_of
from assayer.services.rigs.rigs import newest_versions
from assayer.services.sessions.racks import AMBIENT, KIND
from assayer.services.stock.materials import material_view
from assayer.services.unit import Workspace, find
from assayer.store.models import Arm, DeviceSession, Reading, Rig, Run, SessionMember, SessionReading, Slot, Specimen, Study, Test

ROUND_METHODS = tuple(name for name, m in REGISTRY.items() if m.in_rounds)
_ORDER = ("late", "due", "early", "ahead")


@dataclass(frozen=True, slots=True)
class _Hanging:
    """One open run on its place, with its schedule as it stands."""

    run: Run
    test: Test
    method: Method
    position: int
    session: DeviceSession
    typed: list[Typed]
    stage: str
    field: Field
    due: list[Due]

    def event(self, name: str) -> datetime | None:
        return next((t.happened_at for t in self.typed if t.field == name), None)

    @property
    def open(self) -> list[Due]:
        return [d for d in self.due if d.state not in (DueState.READ, DueState.MISSED)]


def _hanging(session: Session, rig_version_ids: Sequence[str], now: datetime) -> list[_Hanging]:
    rows = session.execute(
        select(SessionMember, DeviceSession, Run, Test)
        .join(DeviceSession, DeviceSession.id == SessionMember.session_id)
        .join(Run, Run.id == SessionMember.member_id)
        .join(Test, Test.id == Run.test_id)
        .where(
            SessionMember.member_kind == "run",
            DeviceSession.kind == KIND,
            DeviceSession.rig_version_id.in_(rig_version_ids),
            Run.complete.is_(False),
            Run.retracted_at.is_(None),
        )
        .options(selectinload(Run.readings))
        .order_by(SessionMember.position)
    ).all()
    return [_one(session, member, device, run, test, now) for member, device, run, test in rows]


def _one(session: Session, member: SessionMember, device: DeviceSession, run: Run, test: Test, now: datetime) -> _Hanging:
    method = find_method(test.method)
    typed = typed_of_run(session, run)
    protocol = method.protocol.read(test.protocol, method.label).as_dict()
    rounds = [s for s in method.steps if isinstance(s, RoundsStep)]
    events = {t.field: t.happened_at for t in typed}
    stage, step = "hung", rounds[0]
    for candidate in rounds:
        if (candidate.fields[0].counts_from or "") in events:
            stage, step = ("loaded" if candidate is rounds[0] else "recovering"), candidate
    field = step.fields[0]
    start = events.get(field.counts_from or "")
    read = {t.position for t in typed if t.field == field.name}
    due = due_readings(protocol[step.due], start, read, now) if start is not None else []
    return _Hanging(run, test, method, member.position, device, typed, stage, field, due)


def _soonest(hanging: Sequence[_Hanging]) -> tuple[str, Due | None, int]:
    """The state of a rack, the reading that decides it, and how many are to be read now."""
    open_readings = [d for h in hanging for d in h.open]
    now_due = [d for d in open_readings if d.state in (DueState.DUE, DueState.LATE)]
    if not hanging:
        return "empty", None, 0
    for state in _ORDER:
        own = [d for d in open_readings if d.state == state]
        if own:
            return state, min(own, key=lambda d: d.at), len(now_due)
    return "ahead", None, 0


def _method_of(rig: Rig) -> Method:
    """The method of rounds that a rack serves."""
    return find_method(next(m for m in rig.methods if m in ROUND_METHODS))


def _has_weights(method: Method) -> bool:
    """Whether what hangs on it is under load; else it lies in a bath."""
    return "load" in method.protocol().as_dict()


def list_racks(workspace: Workspace) -> RackList:
    """Every rack with how many hang on it and when its next reading is due."""
    with workspace.read() as session:
        return RackList(items=racks(session, workspace.clock()))


def racks(session: Session, now: datetime) -> list[RackItem]:
    versions = [v for v in newest_versions(session) if set(v.rig.methods) & set(ROUND_METHODS)]
    hanging = _hanging(session, [v.id for v in versions], now)
    items = []
    for version in versions:
        own = [h for h in hanging if h.session.rig_version_id == version.id]
        state, due, count = _soonest(own)
        items.append(
            RackItem(
                weights=_has_weights(_method_of(version.rig)),
                rig_id=version.rig_id,
                rig_version_id=version.id,
                name=version.rig.name,
                places=version.places,
                hanging=len(own),
                state=state,
                next_due=None if due is None else due.at,
                closes=None if due is None else due.closes,
                due=count,
                since=min((h.session.started_at for h in own), default=None),
            )
        )
    return items


def get_rack(workspace: Workspace, rig_id: str, station: str, blind: bool) -> RackView:
    """One rack: its places in order, what each is to be read next, and what waits to be hung."""
    now = workspace.clock()
    with workspace.read() as session:
        rig = find(session, Rig, rig_id)
        version = next((v for v in newest_versions(session) if v.rig_id == rig_id), None)
        if version is None or not set(rig.methods) & set(ROUND_METHODS):
            raise EntryError(f"{rig.name} is no rack: it serves {', '.join(rig.methods)}", "rig_id")
        reader = reader_of(session, version.id)
        hanging = _hanging(session, [version.id], now)
        method = _method_of(rig)
        field = next(s for s in method.steps if isinstance(s, RoundsStep)).fields[0]
        channel = reader.channel_of(field)
        state, due, _ = _soonest(hanging)
        arms = _arms(session, [h.run.specimen_id for h in hanging]) if not blind else {}
        codes = {s.id: s.code for s in session.scalars(select(Specimen).where(Specimen.id.in_([h.run.specimen_id for h in hanging])))}
        view = RackView(
            method=method.label,
            weights=_has_weights(method),
            rig_id=rig_id,
            rig_version_id=version.id,
            name=rig.name,
            places=version.places,
            unit=field.of_dimension.base if channel is None else channel.unit,
            decimals=0 if channel is None else channel.decimals,
            step=0.01 if channel is None else channel.step,
            session_id=hanging[0].session.id if hanging else None,
            now=now,
            room=_room(session, hanging),
            usual_room=_usual_room(session, [h.test.id for h in hanging]),
            room_apart=AMBIENT_APART,
            next_due=None if due is None else due.at,
            state=state,
            members=[_member(h, reader, codes.get(h.run.specimen_id or "", "?"), arms.get(h.run.specimen_id or "")) for h in hanging],
            waiting=[],
        )
    return view.model_copy(update={"waiting": _waiting(workspace, station, blind, set(rig.methods))})


def _arms(session: Session, specimen_ids: Sequence[str | None]) -> dict[str, QueueArm]:
    rows = session.execute(
        select(Specimen.id, Arm).join(Slot, Slot.id == Specimen.slot_id).join(Arm, Arm.id == Slot.arm_id).where(Specimen.id.in_(specimen_ids))
    )
    return {key: QueueArm(id=arm.id, mark=arm.mark, material=material_view(arm.variant.material)) for key, arm in rows}


def _room(session: Session, hanging: Sequence[_Hanging]) -> RoomView | None:
    if not hanging:
        return None
    last = session.scalars(
        select(SessionReading)
        .where(SessionReading.session_id == hanging[0].session.id, SessionReading.field == AMBIENT)
        .order_by(SessionReading.happened_at.desc())
        .limit(1)
    ).first()
    return None if last is None else RoomView(value=last.value, at=last.happened_at)


def _usual_room(session: Session, test_ids: Sequence[str]) -> float | None:
    """What the group had before: the mean ambient of the standing readings of these tests; of all rounds where nothing hangs yet."""
    stands = Reading.retracted_at.is_(None), Run.retracted_at.is_(None), Run.validity != Validity.LEFT_OUT
    wanted = select(func.avg(Reading.ambient_c)).join(Run, Run.id == Reading.run_id).where(*stands)
    # from the tests to their runs: a join would begin with all runs
    own = test_ids or select(Test.id).where(Test.method.in_(ROUND_METHODS))
    return session.scalar(wanted.where(Run.test_id.in_(own)))


def _member(h: _Hanging, reader: RigReader, code: str, arm: QueueArm | None) -> RackMember:
    events = {(t.field, t.load): t.happened_at for t in h.typed}
    shown = reader.channel_of(h.field)
    unit = h.field.of_dimension.unit(shown.unit if shown is not None else h.field.of_dimension.base)

    def points(name: str) -> list[CoursePoint]:
        field = h.method.field(name)
        own = [t for t in h.typed if t.field == name]
        made = [
            CoursePoint(id=t.reading_id or "", position=t.position, after=seconds_after(field, t, events), value=(t.value - unit.offset) / unit.factor)
            for t in own
        ]
        return sorted(made, key=lambda p: p.after or 0.0)

    rounds = [s for s in h.method.steps if isinstance(s, RoundsStep)]
    names = [s.fields[0].name for s in rounds]
    plain = next((s for s in h.method.steps if not isinstance(s, RoundsStep) and s.fields), None)
    before = points(plain.fields[0].name) if plain else []
    at = names.index(h.field.name)
    ahead = rounds[0] if h.stage == "hung" else rounds[at + 1] if at + 1 < len(rounds) else None
    told = h.method.protocol.read(h.test.protocol, h.method.label)
    protocol, along = told.as_dict(), h.method.along(told)
    return RackMember(
        run_id=h.run.id,
        specimen_id=h.run.specimen_id,
        code=code,
        position=h.position,
        test_id=h.test.id,
        load=float(protocol.get("load", 0.0)),
        stage=h.stage,
        field=h.field.name,
        words=rounds[at].label,
        before=None if plain is None else plain.fields[0].name,
        before_words="" if plain is None else plain.label,
        along=[_along(h.method, reader, b) for b in along],
        # in a round only what is read beside the mass tells what it is of
        along_read=[AlongRead(field=t.field, about=t.about, position=t.position) for t in h.typed if t.about is not None],
        next_event=None if ahead is None else RackEvent(name=ahead.fields[0].counts_from or "", begin=ahead.begin, begun=ahead.begun),
        loaded_at=h.event(rounds[0].fields[0].counts_from or ""),
        unloaded_at=h.event(rounds[1].fields[0].counts_from or "") if len(rounds) > 1 else None,
        due=[DueView.model_validate(d) for d in h.due],
        unloaded=before[-1].value if before else None,
        course=points(names[0]),
        recovery=points(names[1]) if len(names) > 1 else [],
        outcomes=outcome_views(h.method, h.test.orientation),
        arm=arm,
    )


def _along(method: Method, reader: RigReader, told: Along) -> AlongView:
    field = method.field(told.field)
    channel = reader.channel_of(field)
    unit, decimals = (field.of_dimension.base, 0) if channel is None else (channel.unit, channel.decimals)
    return AlongView(field=told.field, label=told.label, about=told.about, unit=unit, decimals=decimals, grades=list(told.grades), before=told.before)


def _waiting(workspace: Workspace, station: str, blind: bool, methods: set[str]) -> list[RackWaiting]:
    """Printed specimens of the round tests that a rack serves, that hang nowhere yet; none of a study that was put away."""
    begun = select(Run.id).where(Run.specimen_id == Specimen.id, Run.test_id == Test.id, Run.retracted_at.is_(None)).exists()
    waits = select(Slot.id).join(Specimen, Specimen.slot_id == Slot.id).where(Slot.test_id == Test.id, ~begun).exists()
    with workspace.read() as session:
        rows = session.execute(
            select(Test, Study.title)
            .join(Study, Study.id == Test.study_id)
            .where(Test.method.in_(methods & set(ROUND_METHODS)), Study.put_away_at.is_(None), waits)
            .order_by(Study.created_at.desc())
        ).all()
    waiting = []
    for test, title in rows:
        items: list[QueueItem] = [i for i in queue(workspace, test.id, station, blind).items if i.state == "waiting"]
        if items:
            method = find_method(test.method)
            protocol = method.protocol.read(test.protocol, method.label).as_dict()
            waiting.append(RackWaiting(test_id=test.id, study=title, label=method.label, load=float(protocol.get("load", 0.0)), items=items))
    return waiting
