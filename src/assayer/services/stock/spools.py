"""Spools: the page of one, its balance (weighings, prints), edits, and entries taken back."""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import TYPE_CHECKING

from sqlalchemy import select
from sqlalchemy.orm import Session

from assayer.core.errors import ConflictError, EntryError
from assayer.core.filament.diameter import TOLERANCE, summarise_diameters
from assayer.core.filament.mass import net_mass, question_net
from assayer.core.quantities.slips import Question, ask, question_past
from assayer.core.quantities.units import MASS, parse_quantity
from assayer.services.stock.materials import material_record, window_of, window_view
from assayer.services.stock.spool_state import spool_page_of, state_of
from assayer.services.stock.views import (
    BalancePoint,
    DiameterView,
    IntakeFindings,
    IntakeView,
    MoveView,
    ReasonView,
    SpoolPage,
    SpoolSession,
    UseOfFilament,
    WeighingView,
)
from assayer.services.unit import Actor, Unit, Workspace, expect_revision, find
from assayer.store.models import FilamentUse, Intake, Spool, SpoolReading, StorageMove, Weighing

if TYPE_CHECKING:
    from assayer.services.stock.requests import NewFilamentUse, NewWeighing, SpoolEdit

_ASIDE = 5.0
"""g by which a weighing may exceed the book before it is asked about: scales and purge lines."""


def get_spool(workspace: Workspace, spool_id: str) -> SpoolPage:
    """The page of one spool: its record, what follows from it, and what the maker asks for."""
    with workspace.read() as session:
        return spool_page(session, find(session, Spool, spool_id), workspace.clock())


def spool_page(session: Session, spool: Spool, at: datetime) -> SpoolPage:
    """Everything about a spool at an instant."""
    state = state_of(session, spool, at)
    intakes = session.scalars(select(Intake).where(Intake.spool_id == spool.id).order_by(Intake.happened_at.desc(), Intake.id.desc())).all()
    readings: dict[str, list[float]] = {}
    for row in session.scalars(select(SpoolReading).where(SpoolReading.intake_id.in_([i.id for i in intakes])).order_by(SpoolReading.position)):
        readings.setdefault(row.intake_id, []).append(row.value)
    return spool_page_of(
        state,
        material=material_record(spool.material),
        window=window_view(spool.material),
        intakes=[_intake_view(spool, i, readings.get(i.id, [])) for i in intakes],
        course=[BalancePoint.model_validate(p) for p in state.history],
        weighings=[WeighingView.model_validate(w) for w in state.weighings],
        uses=[UseOfFilament.model_validate(u) for u in state.uses],
        moves=[MoveView.model_validate(m) for m in state.moves],
        sessions=[
            SpoolSession(
                id=s.id,
                device=s.device,
                temperature=s.temperature or 0.0,
                started_at=s.started_at,
                due_at=s.due_at or s.started_at,
                ended_at=s.ended_at,
                lost=state.lost_in(s.id),
            )
            for s in state.sessions
        ],
    )


def _intake_view(spool: Spool, intake: Intake, diameters: list[float]) -> IntakeView:
    tolerance = window_of(spool.material).tolerance or TOLERANCE
    summary = summarise_diameters(diameters, spool.material.diameter, tolerance) if diameters else None
    return IntakeView(
        id=intake.id,
        happened_at=intake.happened_at,
        who=intake.who,
        findings=IntakeFindings.model_validate(intake.findings),
        reasons=[ReasonView.model_validate(r) for r in intake.reasons],
        proposed=intake.proposed,
        decision=intake.decision,
        note=intake.note,
        diameters=diameters,
        summary=None if summary is None else DiameterView.model_validate(summary),
    )


# entries


def add_weighing(unit: Unit, spool_id: str, key: str, at: datetime, raw: str, gross: float, moment: str, session_id: str | None = None) -> Weighing:
    """Note a weighing within a transaction."""
    weighing = Weighing(
        id=key, spool_id=spool_id, at=at, entered_at=unit.now, zone=unit.actor.zone, who=unit.actor.who, raw=raw, gross=gross, moment=moment,
        session_id=session_id,
    )  # fmt: skip
    unit.session.add(weighing)
    return weighing


def add_move(unit: Unit, spool_id: str, at: datetime, storage: str, place: str, humidity: float | None = None, key: str | None = None) -> StorageMove:
    """Note where a spool was put, within a transaction."""
    move = StorageMove(
        id=key or unit.new_id(), spool_id=spool_id, at=at, entered_at=unit.now, zone=unit.actor.zone, who=unit.actor.who, storage=storage, place=place,
        humidity=humidity,
    )  # fmt: skip
    unit.session.add(move)
    return move


# balance


def weigh(workspace: Workspace, actor: Actor, spool_id: str, new: NewWeighing) -> tuple[SpoolPage, bool]:
    """Weighing corrects the balance; more than the book holds, or than was ever sold, is asked about."""
    with workspace.write(actor, (new.id, new)) as unit:
        spool = find(unit.session, Spool, spool_id)
        there = unit.session.get(Weighing, new.id)
        if there is not None:
            unit.refuse_other("weighing", kept := spool_page(unit.session, spool, unit.now), same=there.spool_id == spool_id and there.raw == new.raw)
            return kept, False
        gross = parse_mass(new.raw, "raw")
        if spool.empty is None:
            raise EntryError("the empty spool's mass is not known: enter it on this page first, the balance is gross minus empty", "empty")
        net = net_mass(gross, spool.empty)
        questions = [question_past("at", new.at, unit.now, "weighed at")]
        if spool.label_net is not None:
            questions.append(question_net(gross, spool.empty, spool.label_net))
        # a print of the same instant comes after the weighing
        book = state_of(unit.session, spool, new.at - timedelta.resolution).balance
        if book is not None and net > book.left + _ASIDE and not any(questions):
            text = f"{net:.0f} g is {net - book.left:.0f} g more than the book holds: a spool gains nothing. Is it this one, {spool.code}?"
            questions.append(Question(f"raw={gross:g}", "raw", text))
        ask(questions, new.confirmed)
        add_weighing(unit, spool_id, new.id, new.at, new.raw, gross, "check")
        _touch(unit, spool)
        unit.log("weighing", new.id, "added", after={"spool": spool.code, "gross": gross})
        return spool_page(unit.session, spool, unit.now), True


def take_filament(workspace: Workspace, actor: Actor, spool_id: str, new: NewFilamentUse) -> tuple[SpoolPage, bool]:
    """A print takes filament from the spool."""
    with workspace.write(actor, (new.id, new)) as unit:
        spool = find(unit.session, Spool, spool_id)
        there = unit.session.get(FilamentUse, new.id)
        if there is not None:
            unit.refuse_other("print", kept := spool_page(unit.session, spool, unit.now), same=there.spool_id == spool_id and there.what == new.what)
            return kept, False
        mass = parse_mass(new.raw, "raw")
        questions = [question_past("at", new.at, unit.now, "printed at")]
        left = state_of(unit.session, spool, new.at).balance
        if left is not None and mass > left.left:
            questions.append(Question(f"raw={mass:g}", "raw", f"{mass:g} g is more than the {left.left:.0f} g that the book holds: is the mass right?"))
        ask(questions, new.confirmed)
        debit(unit, spool, new.id, mass, new.at, new.what)
        _touch(unit, spool)
        return spool_page(unit.session, spool, unit.now), True


def debit(unit: Unit, spool: Spool, key: str, mass: float, at: datetime, what: str, batch_id: str | None = None, purge: float = 0.0) -> None:
    """Take filament from a spool within a transaction; `purge` is what of the mass went into no part."""
    unit.session.add(
        FilamentUse(
            id=key, spool_id=spool.id, batch_id=batch_id, at=at, entered_at=unit.now, zone=unit.actor.zone, who=unit.actor.who, mass=mass, purge=purge,
            what=what,
        )
    )  # fmt: skip
    unit.log("filament use", key, "added", after={"spool": spool.code, "mass": mass, "what": what})


def retract_entry(workspace: Workspace, actor: Actor, kind: type[Weighing] | type[FilamentUse] | type[StorageMove], key: str, back: bool) -> SpoolPage:
    """Take a weighing, a print or a move out of the record, or (with `back`) in again."""
    with workspace.write(actor) as unit:
        entry = find(unit.session, kind, key)
        if isinstance(entry, Weighing) and entry.session_id is not None:
            raise ConflictError("this weighing belongs to a drying session: edit the session instead")
        entry.retracted_at = None if back else unit.now
        spool = find(unit.session, Spool, entry.spool_id)
        _touch(unit, spool)
        unit.log(kind.__name__.lower(), key, "brought back" if back else "retracted")
        return spool_page(unit.session, spool, unit.now)


def edit_spool(workspace: Workspace, actor: Actor, spool_id: str, edit: SpoolEdit, revision: int) -> SpoolPage:
    """Change what is given of a spool; with `gone_why` it is gone, or (empty) back."""
    with workspace.write(actor) as unit:
        spool = find(unit.session, Spool, spool_id)
        expect_revision(revision, spool.revision, "the spool")
        given = edit.model_dump(exclude_unset=True)
        if given.get("received_on") is not None:
            ask([question_past("received_on", given["received_on"], unit.now, "received on")])
            given["received_on"] = given["received_on"].isoformat()
        elif "received_on" in given:
            raise EntryError("say when it came", "received_on")
        if "gone_why" in given:
            given["gone_why"] = given["gone_why"] or None
            spool.gone_at = unit.now if given["gone_why"] else None
        for text in ("lot", "note", "body", "loose_end"):
            if text in given:
                given[text] = given[text] or ""
        before = {k: getattr(spool, k) for k in given}
        for name, value in given.items():
            setattr(spool, name, value)
        _touch(unit, spool)
        unit.log("spool", spool.id, "edited", before, given)
        return spool_page(unit.session, spool, unit.now)


def parse_mass(raw: str, field: str) -> float:
    """A mass in g as typed, above 0."""
    value = parse_quantity(raw, MASS, field=field).value
    if value <= 0:
        raise EntryError(f"{raw} g: a mass is above 0", field)
    return value


def _touch(unit: Unit, spool: Spool) -> None:
    spool.revision += 1
    unit.session.flush()
