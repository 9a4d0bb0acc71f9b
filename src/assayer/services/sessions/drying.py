"""Drying sessions: several spools together, masses before and after."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import datetime, timedelta
from typing import TYPE_CHECKING

from sqlalchemy import select
from sqlalchemy.orm import Session, joinedload, selectinload

from assayer.core.errors import ConflictError, EntryError, StaleError
from assayer.core.filament.drying import ToDry, dry_together
from assayer.core.filament.fit import longest_drying, question_drying
from assayer.core.filament.mass import moisture_lost, question_gross
from assayer.core.quantities.slips import Question, ask, question_number, question_order, question_past
from assayer.services.sessions.views import DryingList, DryingMember, DryingView, TogetherView
from assayer.services.stock.materials import material_view, window_of
from assayer.services.stock.spool_state import SpoolState, states_of
from assayer.services.stock.spools import add_move, add_weighing, parse_mass
from assayer.services.unit import Actor, Unit, Workspace, expect_revision, find
from assayer.store.models import DeviceSession, SessionMember, Spool, StorageMove, Weighing

if TYPE_CHECKING:
    from assayer.services.sessions.requests import DryingPreviewRequest, EndDrying, MassCorrection, MemberMass, NewDrying

KIND = "drying"
_COLDEST = 30.0
"""°C below which nothing dries: a slip of the decimal mark is the likeliest."""
_MUCH = 0.05
"""Moisture lost above this share is hardly true."""


def list_dryings(workspace: Workspace, limit: int) -> DryingList:
    """Running sessions first, then the latest."""
    with workspace.read() as session:
        standing = select(DeviceSession).where(DeviceSession.kind == KIND, DeviceSession.retracted_at.is_(None)).options(selectinload(DeviceSession.members))
        running = session.scalars(standing.where(DeviceSession.ended_at.is_(None)).order_by(DeviceSession.due_at)).all()
        ended = session.scalars(standing.where(DeviceSession.ended_at.is_not(None)).order_by(DeviceSession.ended_at.desc()).limit(limit)).all()
        return DryingList(items=drying_views(session, [*running, *ended], workspace.clock()))


def drying_views(session: Session, runs: list[DeviceSession], at: datetime) -> list[DryingView]:
    """Dryings with their members; however many they are, in the queries of their spools."""
    if not runs:
        return []
    ids = [m.member_id for run in runs for m in run.members]
    spools = session.scalars(select(Spool).options(joinedload(Spool.material)).where(Spool.id.in_(ids))).all()
    states = states_of(session, spools, at)
    return [_drying_view(run, states) for run in runs]


def _drying_view(run: DeviceSession, states: dict[str, SpoolState]) -> DryingView:
    members = []
    for member in run.members:
        state = states[member.member_id]
        before, after = state.masses_of(run.id)
        members.append(
            DryingMember(
                spool_id=member.member_id,
                code=state.spool.code,
                material=material_view(state.spool.material),
                before=before.gross if before else None,
                after=after.gross if after else None,
                lost=state.lost_in(run.id),
            )
        )
    return DryingView(
        id=run.id,
        device=run.device,
        temperature=run.temperature or 0.0,
        started_at=run.started_at,
        due_at=run.due_at or run.started_at,
        ended_at=run.ended_at,
        who=run.who,
        note=run.note,
        revision=run.revision,
        members=members,
    )


def _spools_in(unit: Unit, run: DeviceSession) -> dict[str, Spool]:
    ids = [m.member_id for m in run.members]
    return {s.id: s for s in unit.session.scalars(select(Spool).where(Spool.id.in_(ids)))}


def preview_drying(workspace: Workspace, asked: DryingPreviewRequest) -> TogetherView:
    """What suits all of these spools in one session."""
    with workspace.read() as session:
        spools = [find(session, Spool, key) for key in asked.spool_ids]
        return TogetherView.model_validate(dry_together([ToDry(_name(s), window_of(s.material), s.heat_limit, s.material.polymer) for s in spools]))


def _name(spool: Spool) -> str:
    return f"{spool.code} ({spool.material.maker} {spool.material.product})"


def start_drying(workspace: Workspace, actor: Actor, new: NewDrying) -> tuple[DryingView, bool]:
    """Put spools into a dryer; hotter than the maker's or the spool's limit is asked about."""
    with workspace.write(actor, (new.id, new)) as unit:
        there = unit.session.get(DeviceSession, new.id)
        if there is not None:
            unit.refuse_other("session", kept := _one(unit, there), same=there.device == new.device and there.started_at == new.started_at)
            return kept, False
        ids = [m.spool_id for m in new.members]
        if len(set(ids)) < len(ids):
            raise EntryError("a spool is named twice", "members")
        spools = [find(unit.session, Spool, key) for key in ids]
        cold = question_number("temperature", new.temperature, _COLDEST, 250.0, "drying at", "°C")
        of_spools = [question for s in spools for question in (_too_hot(new, s), _too_long(new, s))]
        of_spools += _odd_masses(unit, spools, new.members, new.started_at)
        questions = [question_past("started_at", new.started_at, unit.now, "started at"), cold, *of_spools]
        ask(questions, new.confirmed)
        _refuse_busy(unit, spools, new.started_at)
        run = DeviceSession(
            id=new.id,
            kind=KIND,
            device=new.device,
            temperature=new.temperature,
            started_at=new.started_at,
            due_at=new.started_at + timedelta(hours=new.hours),
            zone=actor.zone,
            who=actor.who,
            note=new.note,
        )
        unit.session.add(run)
        unit.session.flush()
        for position, member in enumerate(new.members):
            unit.session.add(SessionMember(session_id=run.id, member_kind="spool", member_id=member.spool_id, position=position))
            if member.raw:
                add_weighing(unit, member.spool_id, unit.new_id(), new.started_at, member.raw, parse_mass(member.raw, "members"), "before", run.id)
        unit.session.flush()
        unit.log("drying", run.id, "started", after={"device": run.device, "temperature": run.temperature, "spools": [s.code for s in spools]})
        return _one(unit, run), True


def _too_hot(new: NewDrying, spool: Spool) -> Question | None:
    text = question_drying(new.temperature, window_of(spool.material), spool.heat_limit, _name(spool), spool.material.polymer)
    return Question(f"temperature={new.temperature:g}-{spool.code}", "temperature", f"{text}. Dry it so hot all the same?") if text else None


def _too_long(new: NewDrying, spool: Spool) -> Question | None:
    """Far from what the maker, or the polymer in general, asks for: a slip of the decimal mark is the likeliest."""
    longest = longest_drying(window_of(spool.material), spool.material.polymer)
    return None if longest is None else question_number("hours", new.hours, 0.0, longest, f"drying {_name(spool)} for", "h")


def _odd_masses(unit: Unit, spools: Sequence[Spool], members: Sequence[MemberMass], at: datetime) -> list[Question | None]:
    """What is asked of masses before drying, each at its member."""
    books = states_of(unit.session, spools, at)
    questions: list[Question | None] = []
    for row, (spool, member) in enumerate(zip(spools, members, strict=True), 1):
        if member.raw:
            book = books[spool.id].balance
            odd = question_gross(parse_mass(member.raw, "members"), spool.empty, spool.label_net, None if book is None else book.left)
            questions.append(odd and replace(odd, key=f"{odd.key}-{spool.code}", field="members", row=row, text=f"{spool.code}: {odd.text}"))
    return questions


def correct_mass(workspace: Workspace, actor: Actor, drying_id: str, new: MassCorrection, revision: int) -> DryingView:
    """Put another mass in place of one before or after a session, or enter one that was not weighed; the former one stays on record."""
    with workspace.write(actor) as unit:
        run = find(unit.session, DeviceSession, drying_id)
        expect_revision(revision, run.revision, "the session", _one(unit, run))
        spool = _spools_in(unit, run).get(new.spool_id)
        if spool is None:
            raise EntryError("this spool is not in the session", "spool_id")
        if new.moment == "after" and run.ended_at is None:
            raise ConflictError("the session runs still: there is no mass after it yet")
        gross = parse_mass(new.raw, "raw")
        at = run.started_at if new.moment == "before" else run.ended_at or unit.now
        odd = question_gross(gross, spool.empty, spool.label_net, None)
        ask([odd and replace(odd, field="raw")], new.confirmed)
        of_spool = select(Weighing).where(Weighing.session_id == run.id, Weighing.spool_id == spool.id, Weighing.moment == new.moment)
        former = unit.session.scalars(of_spool.where(Weighing.retracted_at.is_(None))).all()
        for weighing in former:
            weighing.retracted_at = unit.now
        add_weighing(unit, spool.id, unit.new_id(), at, new.raw, gross, new.moment, run.id)
        run.revision += 1
        unit.session.flush()
        unit.log("drying", run.id, "mass corrected", {spool.code: [w.gross for w in former]}, {spool.code: gross, "moment": new.moment})
        return _one(unit, run)


def _refuse_busy(unit: Unit, spools: list[Spool], at: datetime) -> None:
    busy = unit.session.execute(
        select(Spool.code, DeviceSession.device)
        .join(SessionMember, (SessionMember.member_kind == "spool") & (SessionMember.member_id == Spool.id))
        .join(DeviceSession, DeviceSession.id == SessionMember.session_id)
        .where(Spool.id.in_([s.id for s in spools]), DeviceSession.retracted_at.is_(None), DeviceSession.ended_at.is_(None), DeviceSession.started_at <= at)
    ).first()
    if busy is not None:
        raise ConflictError(f"{busy[0]} is in {busy[1]} already: end that session first")


def end_drying(workspace: Workspace, actor: Actor, drying_id: str, end: EndDrying, revision: int) -> DryingView:
    """Take the spools out, with their masses, and say where they go."""
    with workspace.write(actor) as unit:
        run = find(unit.session, DeviceSession, drying_id)
        if run.ended_at == end.ended_at and run.retracted_at is None:
            # the same end sent again, after an answer that got lost
            return _one(unit, run)
        expect_revision(revision, run.revision, "the session", _one(unit, run))
        if run.ended_at is not None or run.retracted_at is not None:
            raise StaleError("the session has ended already", _one(unit, run))
        members = _spools_in(unit, run)
        facts = states_of(unit.session, list(members.values()), end.ended_at)
        questions: list[Question | None] = [
            question_order("ended_at", run.started_at, end.ended_at, "the session"),
            question_past("ended_at", end.ended_at, unit.now, "ended at"),
        ]
        weighed = []
        for member in end.members:
            if member.spool_id not in members:
                raise EntryError("this spool is not in the session", "members")
            if member.raw:
                after = parse_mass(member.raw, "members")
                weighed.append((member, after))
                questions.append(_odd_loss(facts[member.spool_id], run.id, after))
        ask(questions, end.confirmed)
        for member, after in weighed:
            add_weighing(unit, member.spool_id, unit.new_id(), end.ended_at, member.raw, after, "after", run.id)
        for spool_id in members:
            add_move(unit, spool_id, end.ended_at, end.storage, end.place, end.humidity)
        run.ended_at = end.ended_at
        run.revision += 1
        unit.session.flush()
        unit.log("drying", run.id, "ended", after={"ended_at": end.ended_at.isoformat(), "storage": end.storage})
        return _one(unit, run)


def _odd_loss(facts: SpoolState, run_id: str, after: float) -> Question | None:
    before, _ = facts.masses_of(run_id)
    spool = facts.spool
    if before is None:
        return None
    key = f"after={after:g}-{spool.code}"
    if after > before.gross:
        return Question(key, "members", f"{spool.code} gained {after - before.gross:.1f} g by drying ({before.gross:g} → {after:g} g): were the two exchanged?")
    if spool.empty is None or after <= spool.empty:
        return None
    lost = moisture_lost(before.gross, after, spool.empty)
    return Question(key, "members", f"{spool.code} lost {lost:.1%} ({before.gross:g} → {after:g} g): is that right?") if lost > _MUCH else None


def undo_drying(workspace: Workspace, actor: Actor, drying_id: str, what: str) -> DryingView:
    """Undo the end of a session ('end'), take the whole of it back ('all'), or bring it back ('none')."""
    with workspace.write(actor) as unit:
        run = find(unit.session, DeviceSession, drying_id)
        own: list[Weighing | StorageMove] = [*unit.session.scalars(select(Weighing).where(Weighing.session_id == run.id)), *_moves_of(unit, run)]
        before = run.retracted_at
        if what == "end":
            if run.ended_at is None:
                raise ConflictError("the session has not ended")
            own = [o for o in own if isinstance(o, StorageMove) or o.moment == "after"]
            run.ended_at = None
        elif what == "all":
            run.retracted_at = before or unit.now
        else:
            # a mass after belongs to an end: without one it stays taken back
            own = [o for o in own if isinstance(o, StorageMove) or o.moment != "after" or run.ended_at is not None]
            run.retracted_at = None
        for one in own:
            # what a person had taken back before stays taken back
            if one.retracted_at == (before if what == "none" else None):
                one.retracted_at = None if what == "none" else run.retracted_at or unit.now
        run.revision += 1
        unit.session.flush()
        unit.log("drying", run.id, {"end": "end undone", "all": "retracted", "none": "brought back"}[what])
        return _one(unit, run)


def _moves_of(unit: Unit, run: DeviceSession) -> list[StorageMove]:
    """Where its spools went when they were taken out."""
    ids = [m.member_id for m in run.members]
    return list(unit.session.scalars(select(StorageMove).where(StorageMove.spool_id.in_(ids), StorageMove.at == run.ended_at)))


def _one(unit: Unit, run: DeviceSession) -> DryingView:
    unit.session.flush()
    unit.session.refresh(run, ["members"])
    return drying_views(unit.session, [run], unit.now)[0]
