"""Trials: the next one planned, what came of it recorded, graded, taken back; a sheet accepted, a calibration written."""

from __future__ import annotations

from dataclasses import asdict
from datetime import datetime
from typing import TYPE_CHECKING

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from assayer.core.advice.rules import symptom
from assayer.core.errors import ConflictError, EntryError
from assayer.core.methods.traits import trait
from assayer.core.quantities.slips import Question, ask, question_past
from assayer.core.settings.series import Series, check_series, make_series
from assayer.core.settings.sheet import Sheet, check_sheet
from assayer.services.dial_in.calibrations import calibrated
from assayer.services.dial_in.sheets import extras_told, keep_sheet, set_told, sheet_of
from assayer.services.dial_in.trails import planned_trial, trail_view
from assayer.services.dial_in.views import TrailView
from assayer.services.dial_in.wetness import POPPING
from assayer.services.printing.printers import hardware_of
from assayer.services.stock.materials import window_of
from assayer.services.stock.spools import debit
from assayer.services.unit import Actor, Unit, Workspace, expect_revision, find
from assayer.store.models import CurrentSheet, DialCalibration, FilamentUse, Material, Spool, Trail, Trial, TrialFilament, TrialGrade

if TYPE_CHECKING:
    from assayer.services.dial_in.requests import GradeIn, NewDialCalibration, NewGrades, NewTrial, SeriesIn, TrialRecord

_MOST_WASTE = 1.0
"""Of the total: more waste than was printed is a slip."""


def add_trial(workspace: Workspace, actor: Actor, new: NewTrial) -> tuple[TrailView, bool]:
    """Plan the next print from one that is there; the same id again changes nothing (second value False)."""
    with workspace.write(actor, (new.id, new)) as unit:
        parent = find(unit.session, Trial, new.parent_id)
        trail = find(unit.session, Trail, parent.trail_id)
        there = unit.session.get(Trial, new.id)
        if there is not None:
            unit.refuse_other("trial", kept := trail_view(unit.session, trail), same=there.parent_id == new.parent_id)
            return kept, False
        sheet = _changed(sheet_of(parent.sheet), new)
        if new.control_material_id is not None:
            find(unit.session, Material, new.control_material_id)
        trial = _next(unit, trail, new.id, parent, sheet, new.part or parent.part)
        if new.series is not None:
            series = series_told(new.series)
            check_series(series, window_of(trail.material), hardware_of(trail.printer))
            trial.series = asdict(series)
        trial.control_material_id = new.control_material_id
        unit.session.flush()
        unit.log("trial", trial.id, "planned", after={"number": trial.number, "from": parent.number, "changed": sorted(new.changes)})
        return trail_view(unit.session, trail), True


def _next(unit: Unit, trail: Trail, key: str, parent: Trial, sheet: Sheet, part: str) -> Trial:
    """A planned trial with the next number; an unchanged sheet is that of its parent."""
    number = (unit.session.scalar(select(func.max(Trial.number)).where(Trial.trail_id == trail.id)) or 0) + 1
    same = sheet == sheet_of(parent.sheet)
    sheet_id = parent.sheet_id if same else keep_sheet(unit, sheet, f"{trail.purpose} {number}", parent.sheet_id).id
    trial = planned_trial(unit, trail, key, number, parent.id, sheet_id, part)
    trial.spool_id = parent.spool_id
    unit.session.add(trial)
    unit.session.flush()
    trail.revision += 1
    return trial


def series_told(told: SeriesIn) -> Series:
    return make_series(told.setting, told.start, told.step, told.count, told.end, told.band_height, told.base_height)


def _changed(sheet: Sheet, told: NewTrial | TrialRecord) -> Sheet:
    """A sheet with some of it set otherwise, or no longer said; what is not told stays.

    Raises
    ------
    EntryError
        If it would say what cannot be set.
    """
    values = {name: held for name, held in sheet.values.items() if told.changes.get(name, True) is not None}
    values |= {name: set_told(held) for name, held in told.changes.items() if held is not None}
    extras = sheet.extras if told.extras is None else extras_told(told.extras)
    made = Sheet(values, extras, sheet.prepared_with if told.prepared_with is None else told.prepared_with)
    check_sheet(made)
    return made


def record_trial(workspace: Workspace, actor: Actor, trial_id: str, told: TrialRecord, revision: int) -> TrailView:
    """Note what came of a trial, its grades among it, or change what was noted."""
    with workspace.write(actor) as unit:
        trial = find(unit.session, Trial, trial_id)
        trail = find(unit.session, Trail, trial.trail_id)
        expect_revision(revision, trial.revision, "the trial")
        if trial.retracted_at is not None:
            raise ConflictError("this trial was taken back: bring it back first")
        given = told.model_dump(exclude_unset=True, exclude={"grades", "changes", "extras", "prepared_with", "confirmed", "filaments"})
        _check_record(unit.session, trial, told)
        questions = [question_past("printed_at", told.printed_at, unit.now, "printed at")] if told.printed_at is not None else []
        questions += _questions(trial, told)
        ask(questions, told.confirmed)
        if told.changes or told.extras is not None or told.prepared_with is not None:
            if trial.outcome != "planned":
                raise ConflictError("what was printed keeps its sheet: change it in the next trial")
            _set_anew(unit, trail, trial, told)
        before = {name: getattr(trial, name) for name in given}
        for name, value in given.items():
            setattr(trial, name, _EMPTY.get(name) if value is None else value)
        if trial.outcome != "planned" and trial.printed_at is None:
            trial.printed_at = unit.now
        if trial.outcome not in ("failed", "stopped"):
            trial.failed_at = None
        if told.filaments is not None:
            _set_filaments(unit, trial, told)
        _add_grades(unit, trial, told.grades)
        _debit(unit, trail, trial)
        trial.who = actor.who
        trial.revision += 1
        trail.revision += 1
        unit.session.flush()
        unit.log("trial", trial.id, "recorded", *({n: v.isoformat() if isinstance(v, datetime) else v for n, v in of.items()} for of in (before, given)))
        return trail_view(unit.session, trail)


_EMPTY: dict[str, str | list[str]] = {**dict.fromkeys(("note", "decision", "tested", "removal", "bond"), ""), "symptoms": [], "while_running": []}
"""What stands where nothing is said; anything else is then unknown."""


def _check_record(session: Session, trial: Trial, told: TrialRecord) -> None:
    for name in ("outcome", "part"):
        if name in told.model_fields_set and getattr(told, name) is None:
            raise EntryError("it cannot be left out", name)
    for name in told.symptoms or []:
        if symptom(name) is None:
            raise EntryError(f"'{name}' is none of the symptoms", "symptoms")
    outcome = told.outcome or trial.outcome
    failed_at = told.failed_at if "failed_at" in told.model_fields_set else trial.failed_at
    if outcome in ("failed", "stopped") and failed_at is None and trial.series is None:
        raise EntryError("at how many per cent of the print?", "failed_at")
    if told.spool_id is not None:
        spool = find(session, Spool, told.spool_id)
        material = trial.control_material_id or find(session, Trail, trial.trail_id).material_id
        if spool.material_id != material:
            raise EntryError(f"spool {spool.code} holds another material", "spool_id")
    if told.failed_band is not None and (trial.series is None or told.failed_band > trial.series["count"]):
        raise EntryError("there is no such band", "failed_band")


def _questions(trial: Trial, told: TrialRecord) -> list[Question | None]:
    """Masses that contradict one another."""

    def now(name: str) -> float | None:
        value: float | None = getattr(told if name in told.model_fields_set else trial, name)
        return value

    waste = sum(m for m in (now("brim_mass"), now("support_mass"), *(f.purge_mass for f in told.filaments or [])) if m is not None)
    total = now("total_mass")
    if total is None or waste <= _MOST_WASTE * total:
        return []
    text = f"{waste:g} g of brim, support and purge are more than the {total:g} g printed in all: is the decimal point right?"
    return [Question(f"waste={waste:g}/{total:g}", "total_mass", text)]


def _set_anew(unit: Unit, trail: Trail, trial: Trial, told: TrialRecord) -> None:
    """Another sheet for a trial that is not printed yet."""
    kept = trial.sheet
    sheet = _changed(sheet_of(kept), told)
    trial.sheet_id = keep_sheet(unit, sheet, f"{trail.purpose} {trial.number}", kept.parent_id or kept.id).id
    unit.session.flush()
    unit.session.expire(trial, ["sheet"])


def _set_filaments(unit: Unit, trial: Trial, told: TrialRecord) -> None:
    for old in unit.session.scalars(select(TrialFilament).where(TrialFilament.trial_id == trial.id)):
        unit.session.delete(old)
    unit.session.flush()
    for position, f in enumerate(told.filaments or [], 1):
        find(unit.session, Material, f.material_id)
        unit.session.add(TrialFilament(id=unit.new_id(), trial_id=trial.id, position=position, **f.model_dump()))


def _debit(unit: Unit, trail: Trail, trial: Trial) -> None:
    """The spool's book follows the trial: what it took of this filament, others beside it taken off."""
    others = unit.session.scalars(select(TrialFilament).where(TrialFilament.trial_id == trial.id)).all()
    taken = (trial.total_mass or 0.0) - sum((f.part_mass or 0.0) + (f.purge_mass or 0.0) for f in others if f.spool_id != trial.spool_id)
    there = unit.session.get(FilamentUse, trial.id)
    stands = trial.spool_id is not None and taken > 0 and trial.printed_at is not None and trial.retracted_at is None
    if there is not None:
        there.retracted_at = None if stands else unit.now
    if not stands or trial.spool_id is None or trial.printed_at is None:
        return
    if there is None:
        what = f"{trial.part}, trial {trial.number} of {trail.purpose}"[:200]
        debit(unit, find(unit.session, Spool, trial.spool_id), trial.id, taken, trial.printed_at, what)
    else:
        there.spool_id, there.mass, there.at = trial.spool_id, taken, trial.printed_at


def _add_grades(unit: Unit, trial: Trial, grades: list[GradeIn]) -> None:
    for row, g in enumerate(grades, 1):
        if trait(g.trait) is None:
            raise EntryError(f"'{g.trait}' is no trait", "grades", row)
        if g.band is not None and (trial.series is None or g.band > trial.series["count"]):
            raise EntryError("there is no such band", "grades", row)
        if g.band is not None and trial.failed_band is not None and g.band >= trial.failed_band:
            raise EntryError(f"band {trial.failed_band} failed: it ends the series", "grades", row)
        if unit.session.get(TrialGrade, g.id) is not None:
            continue
        unit.session.add(TrialGrade(trial_id=trial.id, grader=unit.actor.who, at=unit.now, entered_at=unit.now, **g.model_dump()))
        unit.session.flush()


def grade_trial(workspace: Workspace, actor: Actor, trial_id: str, new: NewGrades) -> TrailView:
    """Grades by one more grader, or of bands; a later grade of the same grader takes the place of the earlier one."""
    with workspace.write(actor) as unit:
        trial = find(unit.session, Trial, trial_id)
        if trial.outcome == "planned":
            raise ConflictError("this trial is not printed yet: say first how it came out")
        trail = find(unit.session, Trail, trial.trail_id)
        _add_grades(unit, trial, new.grades)
        trial.revision += 1
        trail.revision += 1
        unit.session.flush()
        unit.log("trial", trial.id, "graded", after={"grader": actor.who, "grades": len(new.grades)})
        return trail_view(unit.session, trail)


def retract_trial(workspace: Workspace, actor: Actor, trial_id: str, back: bool) -> TrailView:
    """Take a trial out of the trail, or (with `back`) in again; one that others started from stays."""
    with workspace.write(actor) as unit:
        trial = find(unit.session, Trial, trial_id)
        if not back:
            child = unit.session.scalar(select(Trial.number).where(Trial.parent_id == trial.id, Trial.retracted_at.is_(None)))
            if child is not None:
                raise ConflictError(f"trial {child} started from this one: take that back first")
            if trial.parent_id is None:
                raise ConflictError("the first trial is where the trail begins: put the trail away instead")
        trial.retracted_at = None if back else unit.now
        trail = find(unit.session, Trail, trial.trail_id)
        _debit(unit, trail, trial)
        trail.revision += 1
        unit.session.flush()
        unit.log("trial", trial.id, "brought back" if back else "retracted")
        return trail_view(unit.session, trail)


def accept_trial(workspace: Workspace, actor: Actor, trial_id: str, back: bool) -> TrailView:
    """The sheet of this trial is what the material is printed with on this printer for this purpose; `back` undoes that."""
    with workspace.write(actor) as unit:
        trial = find(unit.session, Trial, trial_id)
        trail = find(unit.session, Trail, trial.trail_id)
        if back:
            standing = select(CurrentSheet).where(CurrentSheet.trial_id == trial.id, CurrentSheet.retracted_at.is_(None))
            for row in unit.session.scalars(standing):
                row.retracted_at = unit.now
        else:
            if trial.outcome not in ("good", "poor"):
                raise ConflictError("only a trial that was printed to its end can be accepted")
            if trial.control_material_id is not None or trial.series is not None:
                raise ConflictError("a control print or a tower has no sheet of its own: accept the trial that follows from it")
            unit.session.add(
                CurrentSheet(
                    id=unit.new_id(), material_id=trail.material_id, printer_id=trail.printer_id, purpose=trail.purpose, sheet_id=trial.sheet_id,
                    trial_id=trial.id, accepted_at=unit.now, zone=actor.zone, who=actor.who,
                )
            )  # fmt: skip
        trail.revision += 1
        unit.session.flush()
        unit.log("trail", trail.id, "acceptance undone" if back else "sheet accepted", after={"trial": trial.number})
        return trail_view(unit.session, trail)


def plan_drying(workspace: Workspace, actor: Actor, trial_id: str, repeat_id: str) -> tuple[TrailView, bool]:
    """A trial popped: its spool is to be dried, and the same print is planned again as the after to this before."""
    with workspace.write(actor) as unit:
        trial = find(unit.session, Trial, trial_id)
        trail = find(unit.session, Trail, trial.trail_id)
        if unit.session.get(Trial, repeat_id) is not None:
            return trail_view(unit.session, trail), False
        if POPPING not in trial.symptoms or trial.spool_id is None:
            raise ConflictError("only a trial that popped, with its spool named, leads to drying")
        spool = find(unit.session, Spool, trial.spool_id)
        before = {"decision": spool.decision}
        spool.decision = "dry first"
        spool.revision += 1
        repeat = _next(unit, trail, repeat_id, trial, sheet_of(trial.sheet), trial.part)
        repeat.note = f"The same as trial {trial.number}, after drying."
        unit.session.flush()
        unit.log("spool", spool.id, "to be dried", before, {"decision": "dry first", "why": f"popped in trial {trial.number}"})
        unit.log("trial", repeat.id, "planned", after={"number": repeat.number, "from": trial.number, "changed": ["dried"]})
        return trail_view(unit.session, trail), True


def calibrate_trail(workspace: Workspace, actor: Actor, new: NewDialCalibration) -> tuple[TrailView, bool]:
    """Keep a calibration: its value goes into a child sheet, which is planned as the next trial."""
    with workspace.write(actor, (new.id, new)) as unit:
        parent = find(unit.session, Trial, new.parent_id)
        trail = find(unit.session, Trail, parent.trail_id)
        there = unit.session.get(DialCalibration, new.id)
        if there is not None:
            unit.refuse_other("calibration", kept := trail_view(unit.session, trail), same=there.kind == new.kind)
            return kept, False
        if unit.session.get(Trial, new.trial_id) is not None:
            raise ConflictError("another trial already has this id")
        ask([question_past("at", new.at, unit.now, "measured at")])
        sheet, before, after, words = calibrated(sheet_of(parent.sheet), new, trail.material)
        check_sheet(sheet)
        trial = _next(unit, trail, new.trial_id, parent, sheet, parent.part)
        entered = new.model_dump(mode="json", exclude={"id", "trial_id", "parent_id", "at"}, exclude_defaults=True)
        unit.session.add(
            DialCalibration(
                id=new.id, kind=new.kind, trail_id=trail.id, spool_id=new.spool_id or parent.spool_id, nozzle_id=trail.nozzle_id,
                before_sheet_id=parent.sheet_id, sheet_id=trial.sheet_id, entered=entered | {"words": words}, before=before, after=after, at=new.at,
                entered_at=unit.now, zone=actor.zone, who=actor.who,
            )
        )  # fmt: skip
        unit.session.flush()
        unit.log("trail", trail.id, "calibrated", {new.kind: before}, {new.kind: after, "trial": trial.number})
        return trail_view(unit.session, trail), True
