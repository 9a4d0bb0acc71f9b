"""Spools: intake, weighing, prints that take from them, edits, and the page of one."""

from __future__ import annotations

from dataclasses import asdict
from datetime import UTC, datetime, time
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from assayer.core.errors import ConflictError, EntryError
from assayer.core.filament.diameter import TOLERANCE, DiameterSummary, question_diameter, summarise_diameters
from assayer.core.filament.intake import Findings, judge
from assayer.core.filament.mass import net_mass, question_net
from assayer.core.quantities import LENGTH, MASS, parse_quantity
from assayer.core.slips import Question, ask, question_past
from assayer.services.materials import material_record, window_of
from assayer.services.rigs import free_code
from assayer.services.spool_facts import facts_of_one, spool_dict
from assayer.services.stock_commands import IntakeFields, IntakeTrial, NewFilamentUse, NewIntake, NewSpool, NewWeighing, SpoolEdit
from assayer.services.workspace import Actor, Unit, Workspace, expect_revision, find
from assayer.store.models import FilamentUse, Intake, Material, Spool, SpoolReading, StorageMove, Weighing

_ASIDE = 5.0
"""g by which a weighing may exceed the book before it is asked about: scales and purge lines."""

_LOOKED_AT = ("seal", "desiccant", "winding", "snap", "snap_known_good", "popping")


def get_spool(workspace: Workspace, spool_id: str) -> dict[str, Any]:
    """The page of one spool: its record, what follows from it, and what the maker asks for."""
    with workspace.read() as session:
        return _page(session, find(session, Spool, spool_id), workspace.clock())


def _page(session: Session, spool: Spool, at: datetime) -> dict[str, Any]:
    facts = facts_of_one(session, spool, at)
    intakes = session.scalars(select(Intake).where(Intake.spool_id == spool.id).order_by(Intake.happened_at.desc(), Intake.id.desc())).all()
    return spool_dict(facts) | {
        "material": material_record(spool.material),
        "window": window_of(spool.material).as_dict(),
        "intakes": [_intake_dict(session, spool, i) for i in intakes],
        "history": [asdict(p) for p in facts.history],
        "weighings": [{"id": w.id, "at": w.at, "gross": w.gross, "raw": w.raw, "moment": w.moment, "who": w.who} for w in facts.weighings],
        "uses": [{"id": u.id, "at": u.at, "mass": u.mass, "what": u.what, "who": u.who, "batch_id": u.batch_id} for u in facts.uses],
        "moves": [{"id": m.id, "at": m.at, "storage": m.storage, "place": m.place, "humidity": m.humidity, "who": m.who} for m in facts.moves],
        "sessions": [
            {
                "id": s.id,
                "device": s.device,
                "temperature": s.temperature,
                "started_at": s.started_at,
                "due_at": s.due_at,
                "ended_at": s.ended_at,
                "lost": facts.lost_in(s.id),
            }
            for s in facts.sessions
        ],
    }


def _intake_dict(session: Session, spool: Spool, intake: Intake) -> dict[str, Any]:
    readings = session.scalars(select(SpoolReading).where(SpoolReading.intake_id == intake.id).order_by(SpoolReading.position)).all()
    values = [r.value for r in readings]
    summary = summarise_diameters(values, spool.material.diameter, window_of(spool.material).tolerance or TOLERANCE) if values else None
    return {
        "id": intake.id,
        "happened_at": intake.happened_at,
        "who": intake.who,
        "findings": intake.findings,
        "reasons": intake.reasons,
        "proposed": intake.proposed,
        "verdict": intake.verdict,
        "note": intake.note,
        "diameters": values,
        "summary": None if summary is None else asdict(summary),
    }


# intake


class _Sheet:
    """An intake sheet as read: masses, diameters, what is wrong, what is asked, and the proposed verdict."""

    def __init__(self, fields: IntakeFields, material: Material, label: float | None, empty: float | None, confirmed: list[str]) -> None:
        self.errors: list[EntryError] = []
        self.questions: list[Question] = []
        window = window_of(material)
        self.gross = self._mass("gross", fields.gross)
        self.empty = self._mass("empty", fields.empty) if fields.empty else empty
        self.net = self._net(label)
        self.diameters = self._diameters(fields.diameters, material.diameter)
        self.summary: DiameterSummary | None = None
        # a reading in question counts once it is answered
        asked = {q.row for q in self.questions if q.field == "diameters" and q.key not in confirmed}
        believed = [v for row, v in enumerate(self.diameters, 1) if row not in asked]
        if believed and not any(e.field == "diameters" for e in self.errors):
            self.summary = summarise_diameters(believed, material.diameter, window.tolerance or TOLERANCE)
        looked = {name: getattr(fields, name) for name in _LOOKED_AT}
        self.verdict = judge(
            Findings(material.polymer, label, self.net, diameters=self.summary, nominal=material.diameter, tolerance=window.tolerance, **looked)
        )

    def _mass(self, name: str, raw: str) -> float | None:
        if not raw:
            return None
        try:
            value = parse_quantity(raw, MASS, field=name).value
            if value < 0 or (name == "gross" and value == 0):
                raise EntryError(f"{raw}: a mass is above 0", name)
        except EntryError as error:
            self.errors.append(error)
            return None
        return value

    def _net(self, label: float | None) -> float | None:
        if self.gross is None:
            return None
        if label is not None:
            question = question_net(self.gross, self.empty, label)
            if question is not None:
                self.questions.append(question)
        if self.empty is None:
            return None
        try:
            return net_mass(self.gross, self.empty)
        except EntryError as error:
            self.errors.append(error)
            return None

    def _diameters(self, raws: list[str], nominal: float) -> list[float]:
        values = []
        for row, raw in enumerate(raws, 1):
            try:
                value = parse_quantity(raw, LENGTH, field="diameters").value
                if value <= 0:
                    raise EntryError(f"{raw}: a diameter is above 0", "diameters")
            except EntryError as error:
                self.errors.append(EntryError(error.message, "diameters", row))
                continue
            values.append(value)
            question = question_diameter(value, nominal, row)
            if question is not None:
                self.questions.append(question)
        return values


def try_intake(workspace: Workspace, trial: IntakeTrial) -> dict[str, Any]:
    """What the sheet says as it stands, without keeping it: the live figures, the proposed verdict, what is asked."""
    with workspace.read() as session:
        material = find(session, Material, trial.material_id)
        sheet = _Sheet(trial, material, trial.label_net, None, trial.confirmed)
        questions = list(sheet.questions)
        if trial.received_on is not None:
            late = question_past("received_on", trial.received_on, workspace.clock(), "received on")
            questions += [late] if late else []
        return {
            "net": sheet.net,
            "summary": None if sheet.summary is None else asdict(sheet.summary),
            "diameters": sheet.diameters,
            "verdict": sheet.verdict.word,
            "reasons": [r.as_dict() for r in sheet.verdict.reasons],
            "questions": [q.as_dict() for q in questions if q.key not in trial.confirmed],
            "errors": [{"field": e.field, "row": e.row, "text": e.message} for e in sheet.errors],
        }


def take_in(workspace: Workspace, actor: Actor, new: NewIntake) -> tuple[dict[str, Any], bool]:
    """Keep a checked spool with its verdict; the same id again changes nothing (second value False).

    Raises
    ------
    EntryError
        Names the field and, for diameters, the reading.
    """
    if (new.spool is None) == (new.spool_id is None):
        raise EntryError("say either which spool was checked or describe a new one", "spool")
    with workspace.write(actor) as unit:
        there = unit.session.get(Intake, new.id)
        if there is not None:
            if there.spool_id != (new.spool_id or (new.spool.id if new.spool else "")):
                raise ConflictError("another intake already has this id")
            return _page(unit.session, find(unit.session, Spool, there.spool_id), unit.now), False
        spool = _add_spool(unit, new.spool, new.confirmed) if new.spool is not None else find(unit.session, Spool, new.spool_id or "")
        sheet = _Sheet(new, spool.material, spool.label_net, spool.empty, new.confirmed)
        if sheet.errors:
            raise sheet.errors[0]
        ask([*sheet.questions, question_past("happened_at", new.happened_at, unit.now, "the check at")], new.confirmed)
        verdict = new.verdict or sheet.verdict.word
        if verdict != sheet.verdict.word and not new.note:
            raise EntryError(f"say why it is '{verdict}' although the checks say '{sheet.verdict.word}'", "note")
        _keep_intake(unit, spool, new, sheet, verdict)
        return _page(unit.session, spool, unit.now), True


def add_spool(workspace: Workspace, actor: Actor, new: NewSpool) -> tuple[dict[str, Any], bool]:
    """Register a spool that came, to be checked later; the same id again changes nothing (second value False)."""
    with workspace.write(actor) as unit:
        there = unit.session.get(Spool, new.id)
        if there is not None:
            _refuse_other(there.material_id == new.material_id, "spool")
            return _page(unit.session, there, unit.now), False
        return _page(unit.session, _add_spool(unit, new, []), unit.now), True


def _add_spool(unit: Unit, new: NewSpool, confirmed: list[str]) -> Spool:
    material = find(unit.session, Material, new.material_id)
    if unit.session.get(Spool, new.id) is not None:
        raise ConflictError("a spool with this id is there already")
    ask([question_past("received_on", new.received_on, unit.now, "received on")], confirmed)
    if new.received_on.year < 2000:
        raise EntryError("received before the year 2000: check the year", "received_on")
    spool = Spool(
        id=new.id,
        code=free_code(unit),
        material_id=material.id,
        lot=new.lot,
        received_on=new.received_on.isoformat(),
        label_net=new.label_net if new.label_net is not None else material.net_mass,
        heat_limit=new.heat_limit,
        note=new.note,
        created_at=unit.now,
        zone=unit.actor.zone,
    )
    unit.session.add(spool)
    unit.session.flush()
    unit.log("spool", spool.id, "added", after={"code": spool.code, "material_id": material.id, "lot": spool.lot})
    return spool


def _keep_intake(unit: Unit, spool: Spool, new: NewIntake, sheet: _Sheet, verdict: str) -> None:
    intake = Intake(
        id=new.id,
        spool_id=spool.id,
        happened_at=new.happened_at,
        zone=unit.actor.zone,
        who=unit.actor.who,
        findings={name: getattr(new, name) for name in _LOOKED_AT} | {"gross": new.gross, "empty": new.empty, "net": sheet.net, "label": spool.label_net},
        reasons=[r.as_dict() for r in sheet.verdict.reasons],
        proposed=sheet.verdict.word,
        verdict=verdict,
        note=new.note,
    )
    unit.session.add(intake)
    unit.session.flush()
    for position, (raw, value) in enumerate(zip(new.diameters, sheet.diameters, strict=True)):
        unit.session.add(SpoolReading(intake_id=intake.id, position=position, raw=raw, value=value, entered_at=unit.now))
    if sheet.empty is not None:
        spool.empty = sheet.empty
    if sheet.gross is not None:
        add_weighing(unit, spool.id, unit.new_id(), new.happened_at, new.gross, sheet.gross, "intake")
    if new.spool is not None:
        if new.seal in ("open", "none"):
            # it lay open since it came, at the latest
            arrived = datetime.combine(new.spool.received_on, time(12), UTC)
            add_move(unit, spool.id, min(arrived, new.happened_at), "open", "")
        add_move(unit, spool.id, new.happened_at, new.storage, new.place)
    spool.verdict = verdict
    spool.revision += 1
    unit.log("intake", intake.id, "added", after={"spool": spool.code, "verdict": verdict, "proposed": intake.proposed})


def add_weighing(unit: Unit, spool_id: str, key: str, at: datetime, raw: str, gross: float, moment: str, session_id: str | None = None) -> Weighing:
    weighing = Weighing(
        id=key, spool_id=spool_id, at=at, entered_at=unit.now, zone=unit.actor.zone, who=unit.actor.who, raw=raw, gross=gross, moment=moment,
        session_id=session_id,
    )  # fmt: skip
    unit.session.add(weighing)
    return weighing


def add_move(unit: Unit, spool_id: str, at: datetime, storage: str, place: str, humidity: float | None = None, key: str | None = None) -> StorageMove:
    move = StorageMove(
        id=key or unit.new_id(), spool_id=spool_id, at=at, entered_at=unit.now, zone=unit.actor.zone, who=unit.actor.who, storage=storage, place=place,
        humidity=humidity,
    )  # fmt: skip
    unit.session.add(move)
    return move


# balance


def weigh(workspace: Workspace, actor: Actor, spool_id: str, new: NewWeighing) -> tuple[dict[str, Any], bool]:
    """Weighing corrects the balance; more than the book holds, or than was ever sold, is asked about."""
    with workspace.write(actor) as unit:
        spool = find(unit.session, Spool, spool_id)
        there = unit.session.get(Weighing, new.id)
        if there is not None:
            _refuse_other(there.spool_id == spool_id and there.raw == new.raw, "weighing")
            return _page(unit.session, spool, unit.now), False
        gross = parse_mass(new.raw, "raw")
        if spool.empty is None:
            raise EntryError("the empty spool's mass is not known: enter it on this page first, the balance is gross minus empty", "empty")
        net = net_mass(gross, spool.empty)
        questions = [question_past("at", new.at, unit.now, "weighed at")]
        if spool.label_net is not None:
            questions.append(question_net(gross, spool.empty, spool.label_net))
        book = facts_of_one(unit.session, spool, new.at).balance
        if book is not None and net > book.left + _ASIDE and not any(questions):
            text = f"{net:.0f} g is {net - book.left:.0f} g more than the book holds: a spool gains nothing. Is it this one, {spool.code}?"
            questions.append(Question(f"raw={gross:g}", "raw", text))
        ask(questions, new.confirmed)
        add_weighing(unit, spool_id, new.id, new.at, new.raw, gross, "check")
        _touch(unit, spool)
        unit.log("weighing", new.id, "added", after={"spool": spool.code, "gross": gross})
        return _page(unit.session, spool, unit.now), True


def take_filament(workspace: Workspace, actor: Actor, spool_id: str, new: NewFilamentUse) -> tuple[dict[str, Any], bool]:
    """A print takes filament from the spool."""
    with workspace.write(actor) as unit:
        spool = find(unit.session, Spool, spool_id)
        there = unit.session.get(FilamentUse, new.id)
        if there is not None:
            _refuse_other(there.spool_id == spool_id and there.what == new.what, "print")
            return _page(unit.session, spool, unit.now), False
        mass = parse_mass(new.raw, "raw")
        questions = [question_past("at", new.at, unit.now, "printed at")]
        left = facts_of_one(unit.session, spool, new.at).balance
        if left is not None and mass > left.left:
            questions.append(Question(f"raw={mass:g}", "raw", f"{mass:g} g is more than the {left.left:.0f} g that the book holds: is the mass right?"))
        ask(questions, new.confirmed)
        debit(unit, spool, new.id, mass, new.at, new.what)
        _touch(unit, spool)
        return _page(unit.session, spool, unit.now), True


def debit(unit: Unit, spool: Spool, key: str, mass: float, at: datetime, what: str, batch_id: str | None = None) -> None:
    """Take filament from a spool within a transaction."""
    unit.session.add(
        FilamentUse(
            id=key, spool_id=spool.id, batch_id=batch_id, at=at, entered_at=unit.now, zone=unit.actor.zone, who=unit.actor.who, mass=mass, what=what
        )
    )  # fmt: skip
    unit.log("filament use", key, "added", after={"spool": spool.code, "mass": mass, "what": what})


def retract_entry(workspace: Workspace, actor: Actor, kind: type[Weighing] | type[FilamentUse] | type[StorageMove], key: str, back: bool) -> dict[str, Any]:
    """Take a weighing, a print or a move out of the record, or (with `back`) in again."""
    with workspace.write(actor) as unit:
        entry = find(unit.session, kind, key)
        if isinstance(entry, Weighing) and entry.session_id is not None:
            raise ConflictError("this weighing belongs to a drying session: edit the session instead")
        entry.retracted_at = None if back else unit.now
        spool = find(unit.session, Spool, entry.spool_id)
        _touch(unit, spool)
        unit.log(kind.__name__.lower(), key, "brought back" if back else "retracted")
        return _page(unit.session, spool, unit.now)


def edit_spool(workspace: Workspace, actor: Actor, spool_id: str, edit: SpoolEdit, revision: int) -> dict[str, Any]:
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
        for text in ("lot", "note"):
            if text in given:
                given[text] = given[text] or ""
        before = {k: getattr(spool, k) for k in given}
        for name, value in given.items():
            setattr(spool, name, value)
        _touch(unit, spool)
        unit.log("spool", spool.id, "edited", before, given)
        return _page(unit.session, spool, unit.now)


def parse_mass(raw: str, field: str) -> float:
    """A mass in g as typed, above 0."""
    value = parse_quantity(raw, MASS, field=field).value
    if value <= 0:
        raise EntryError(f"{raw} g: a mass is above 0", field)
    return value


def _touch(unit: Unit, spool: Spool) -> None:
    spool.revision += 1
    unit.session.flush()


def _refuse_other(same: bool, what: str) -> None:
    if not same:
        raise ConflictError(f"another {what} already has this id")
