"""Intake: a spool that came is registered and checked, and gets its decision."""

from __future__ import annotations

from datetime import UTC, datetime, time
from typing import TYPE_CHECKING

from sqlalchemy import exists, select

from assayer.core.errors import ConflictError, EntryError
from assayer.core.filament.diameter import TOLERANCE, DiameterSummary, question_diameter, summarise_diameters
from assayer.core.filament.intake import Findings, judge
from assayer.core.filament.mass import net_mass, question_net
from assayer.core.quantities.slips import Question, ask, question_past
from assayer.core.quantities.units import LENGTH, MASS, parse_quantity
from assayer.services.codes import free_code
from assayer.services.stock.materials import window_of
from assayer.services.stock.spools import add_move, add_weighing, spool_page
from assayer.services.stock.views import DiameterView, IntakePreview, ReasonView, SpoolPage
from assayer.services.unit import Actor, Unit, Workspace, find
from assayer.services.views import FieldError, QuestionView
from assayer.store.models import Intake, Material, Spool, SpoolReading

if TYPE_CHECKING:
    from assayer.services.stock.requests import IntakeFields, IntakePreviewRequest, NewIntake, NewSpool

LOOKED_AT = ("seal", "desiccant", "winding", "snap", "snap_known_good", "popping")
"""What is looked at by eye and hand."""


class _Sheet:
    """An intake sheet as read: masses, diameters, what is wrong, what is asked, and the proposed decision."""

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
        looked = {name: getattr(fields, name) for name in LOOKED_AT}
        self.decision = judge(
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


def preview_intake(workspace: Workspace, asked: IntakePreviewRequest) -> IntakePreview:
    """What the sheet says as it stands, without keeping it: the live figures, the proposed decision, what is asked."""
    with workspace.read() as session:
        # a spool that is there brings its label and its empty mass along
        spool = find(session, Spool, asked.spool_id) if asked.spool_id is not None else None
        material = find(session, Material, asked.material_id) if spool is None else spool.material
        label, empty = (asked.label_net, None) if spool is None else (spool.label_net, spool.empty)
        sheet = _Sheet(asked, material, label, empty, asked.confirmed)
        questions = list(sheet.questions)
        if asked.received_on is not None:
            late = question_past("received_on", asked.received_on, workspace.clock(), "received on")
            questions += [late] if late else []
        return IntakePreview(
            net=sheet.net,
            summary=None if sheet.summary is None else DiameterView.model_validate(sheet.summary),
            diameters=sheet.diameters,
            decision=sheet.decision.word,
            reasons=_reasons(sheet),
            questions=[QuestionView.model_validate(q) for q in questions if q.key not in asked.confirmed],
            errors=[FieldError(field=e.field, row=e.row, text=e.message) for e in sheet.errors],
        )


def _reasons(sheet: _Sheet) -> list[ReasonView]:
    return [ReasonView(field=r.field, text=r.text, leads_to=r.words) for r in sheet.decision.reasons]


def take_in(workspace: Workspace, actor: Actor, new: NewIntake) -> tuple[SpoolPage, bool]:
    """Keep a checked spool with its decision; the same id again changes nothing (second value False).

    Raises
    ------
    EntryError
        Names the field and, for diameters, the reading.
    """
    if (new.spool is None) == (new.spool_id is None):
        raise EntryError("say either which spool was checked or describe a new one", "spool")
    with workspace.write(actor, (new.id, new)) as unit:
        there = unit.session.get(Intake, new.id)
        if there is not None:
            of = new.spool_id or (new.spool.id if new.spool else "")
            kept = spool_page(unit.session, find(unit.session, Spool, there.spool_id), unit.now)
            unit.refuse_other("intake", kept, same=there.spool_id == of and _says(there, new))
            return kept, False
        spool = _add_spool(unit, new.spool, new.confirmed) if new.spool is not None else find(unit.session, Spool, new.spool_id or "")
        sheet = _Sheet(new, spool.material, spool.label_net, spool.empty, new.confirmed)
        if sheet.errors:
            raise sheet.errors[0]
        ask([*sheet.questions, question_past("happened_at", new.happened_at, unit.now, "the check at")], new.confirmed)
        decision = new.decision or sheet.decision.word
        if decision != sheet.decision.word and not new.note:
            raise EntryError(f"say why it is '{decision}' although the checks say '{sheet.decision.word}'", "note")
        _keep_intake(unit, spool, new, sheet, decision)
        return spool_page(unit.session, spool, unit.now), True


def _says(there: Intake, new: NewIntake) -> bool:
    """Whether an intake that is kept says what is sent under its id."""
    looked = {name: getattr(new, name) for name in LOOKED_AT} | {"gross": new.gross, "empty": new.empty}
    return there.happened_at == new.happened_at and there.note == new.note and all(there.findings.get(k) == v for k, v in looked.items())


def add_spool(workspace: Workspace, actor: Actor, new: NewSpool) -> tuple[SpoolPage, bool]:
    """Register a spool that came, to be checked later; the same id again changes nothing (second value False)."""
    with workspace.write(actor, (new.id, new)) as unit:
        there = unit.session.get(Spool, new.id)
        if there is not None:
            unit.refuse_other("spool", kept := spool_page(unit.session, there, unit.now), same=there.material_id == new.material_id)
            return kept, False
        return spool_page(unit.session, _add_spool(unit, new, []), unit.now), True


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
        body=new.body,
        bore=new.bore,
        loose_end=new.loose_end,
        note=new.note,
        created_at=unit.now,
        zone=unit.actor.zone,
    )
    unit.session.add(spool)
    unit.session.flush()
    unit.log("spool", spool.id, "added", after={"code": spool.code, "material_id": material.id, "lot": spool.lot})
    return spool


def _keep_intake(unit: Unit, spool: Spool, new: NewIntake, sheet: _Sheet, decision: str) -> None:
    intake = Intake(
        id=new.id,
        spool_id=spool.id,
        happened_at=new.happened_at,
        zone=unit.actor.zone,
        who=unit.actor.who,
        findings={name: getattr(new, name) for name in LOOKED_AT} | {"gross": new.gross, "empty": new.empty, "net": sheet.net, "label": spool.label_net},
        reasons=[r.model_dump() for r in _reasons(sheet)],
        proposed=sheet.decision.word,
        decision=decision,
        note=new.note,
    )
    unit.session.add(intake)
    unit.session.flush()
    for position, (raw, value) in enumerate(zip(new.diameters, sheet.diameters, strict=True)):
        unit.session.add(SpoolReading(intake_id=intake.id, position=position, raw=raw, value=value, entered_at=unit.now))
    # an older check that is entered late tells its day, and decides nothing about today
    latest = not unit.session.scalar(select(exists().where(Intake.spool_id == spool.id, Intake.happened_at > new.happened_at)))
    if sheet.empty is not None and (latest or spool.empty is None):
        spool.empty = sheet.empty
    if sheet.gross is not None:
        add_weighing(unit, spool.id, unit.new_id(), new.happened_at, new.gross, sheet.gross, "intake")
    if new.spool is not None:
        if new.seal in ("open", "none"):
            # it lay open since it came, at the latest
            arrived = datetime.combine(new.spool.received_on, time(12), UTC)
            add_move(unit, spool.id, min(arrived, new.happened_at), "open", "")
        add_move(unit, spool.id, new.happened_at, new.storage, new.place)
    if latest:
        spool.decision = decision
    spool.revision += 1
    unit.log("intake", intake.id, "added", after={"spool": spool.code, "decision": decision, "proposed": intake.proposed})
