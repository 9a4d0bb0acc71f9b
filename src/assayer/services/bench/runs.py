"""Runs: accepting a pulled specimen, taking it back, correcting and judging it."""

from __future__ import annotations

from typing import Any

from sqlalchemy import select

from assayer.core.errors import ConflictError, EntryError
from assayer.core.methods import method as find_method
from assayer.core.methods.base import Method, StepKind
from assayer.services.bench.reductions import explain_missing, parse_field, reduce_run, refuse_not_positive, standing, values_by_field
from assayer.services.bench.requests import Correction, NewReading, NewRun, RunEdit
from assayer.services.bench.specimens import run_dict
from assayer.services.requests import LEFT_OUT_REASONS
from assayer.services.studies.evidence import refresh_evidence
from assayer.services.unit import Actor, Unit, Workspace, expect_revision, find
from assayer.store.models import Curve, Lease, Reading, RigVersion, Run, Slot, Specimen, Test


def accept(workspace: Workspace, actor: Actor, new: NewRun) -> tuple[dict[str, Any], bool]:
    """Keep a pulled specimen, or its dimensions only; all of it or nothing.

    Sending the same entry again changes nothing (second value False): ids come from the client. A run
    that holds dimensions only is completed by sending it again with the load.

    Raises
    ------
    EntryError
        A reading that is no number, missing, or not above 0; names its field.
    ConflictError
        The specimen has been pulled already, by another entry.
    """
    with workspace.write(actor) as unit:
        session = unit.session
        test = find(session, Test, new.test_id)
        rig = find(session, RigVersion, new.rig_version_id)
        specimen = find(session, Specimen, new.specimen_id)
        run = session.get(Run, new.id)
        if run is not None and {r.id for r in new.readings} <= {r.id for r in run.readings} and run.complete >= new.complete:
            return run_dict(session, run), False
        if specimen.slot_id is None or find(session, Slot, specimen.slot_id).test_id != test.id:
            raise EntryError(f"specimen {specimen.code} is not planned for this test", "specimen_id")
        if run is None:
            run = _begin_run(unit, new, specimen, test, rig)
        elif run.complete or run.retracted_at is not None or run.specimen_id != new.specimen_id:
            raise ConflictError(_already(run, specimen), run_dict(session, run))
        _add_readings(unit, run, test, rig, new)
        method = find_method(test.method)
        fields = values_by_field(run.readings)
        if new.validity != "left_out":
            explain_missing(fields, [name for step in method.steps if step.kind is StepKind.SECTION for name in step.fields])
        if new.complete:
            _complete(unit, run, new, method)
        lease = session.get(Lease, specimen.id)
        if lease is not None:
            session.delete(lease)
        session.flush()
        reduce_run(session, run)
        unit.log("run", run.id, "accepted" if new.complete else "measured", after=_state(run) | {"specimen": specimen.code})
        refresh_evidence(unit, test.id)
        return run_dict(session, run), True


def _begin_run(unit: Unit, new: NewRun, specimen: Specimen, test: Test, rig: RigVersion) -> Run:
    there = unit.session.scalar(select(Run).where(Run.specimen_id == specimen.id, Run.procedure_version == test.procedure_version, Run.retracted_at.is_(None)))
    if there is not None:
        raise ConflictError(_already(there, specimen), run_dict(unit.session, there))
    run = Run(
        id=new.id,
        specimen_id=specimen.id,
        test_id=test.id,
        procedure_version=test.procedure_version,
        rig_version_id=rig.id,
        operator=unit.actor.who,
        happened_at=new.happened_at,
        zone=unit.actor.zone,
        validity="counts",
        options={},
        complete=False,
        remarks=[],
        revision=1,
    )
    run.specimen, run.rig_version = specimen, rig
    unit.session.add(run)
    unit.session.flush()
    return run


def _already(run: Run, specimen: Specimen) -> str:
    if run.retracted_at is not None:
        return f"the entry for specimen {specimen.code} was taken back: enter it anew"
    what = "was pulled" if run.complete else "is being measured"
    return f"specimen {specimen.code} {what} already by {run.operator}: open it to correct a reading, or take the other specimen's code"


def _add_readings(unit: Unit, run: Run, test: Test, rig: RigVersion, new: NewRun) -> None:
    known = {r.id for r in run.readings}
    for reading in new.readings:
        if reading.id not in known:
            run.readings.append(_reading(unit, run, test, rig, reading, new.happened_at))
    unit.session.flush()


def _reading(unit: Unit, run: Run, test: Test, rig: RigVersion, new: NewReading, happened_at: Any) -> Reading:
    quantity = parse_field(test, rig, new.field, new.raw)
    refuse_not_positive(new.field, quantity.value)
    step = next(str(s.kind) for s in find_method(test.method).steps if new.field in s.fields)
    return Reading(
        id=new.id,
        run_id=run.id,
        step=step,
        field=new.field,
        position=new.position,
        happened_at=new.happened_at or happened_at,
        entered_at=unit.now,
        zone=unit.actor.zone,
        raw=quantity.raw,
        value=quantity.value,
        unit=quantity.unit,
        ambient_c=new.ambient_c,
        entered_by=unit.actor.who,
        supersedes_id=new.supersedes if isinstance(new, Correction) else None,
        reason=new.reason if isinstance(new, Correction) else None,
    )


def _complete(unit: Unit, run: Run, new: NewRun, method: Method) -> None:
    run.complete = True
    run.happened_at = new.happened_at
    run.operator = unit.actor.who
    if new.curve_id is not None:
        find(unit.session, Curve, new.curve_id)
        other = unit.session.scalar(select(Run).where(Run.curve_id == new.curve_id, Run.id != run.id))
        if other is not None:
            raise ConflictError(f"this recording already belongs to specimen {other.specimen.code}: a recording counts for one specimen")
        run.curve_id = new.curve_id
    run.fracture, run.fracture_place = new.fracture, new.fracture_place
    # where it broke decides what the value is, unless the user said otherwise
    from_fracture = str(method.fractures[new.fracture][1]) if new.fracture else "exact"
    validity = new.validity or ("counts" if from_fracture == "exact" else from_fracture)
    reason = new.validity_reason or (method.fractures[new.fracture][0] if new.fracture and validity != "counts" else None)
    _set_validity(unit, run, validity, reason)
    run.revision += 1


def _set_validity(unit: Unit, run: Run, validity: str, reason: str | None) -> None:
    if validity == "left_out":
        if not reason:
            raise EntryError("say why it is left out", "validity_reason")
        if not any(reason.startswith(known) for known in LEFT_OUT_REASONS):
            reason = f"other: {reason}"
    if (validity, reason) != (run.validity, run.validity_reason):
        run.validity, run.validity_reason = validity, reason if validity != "counts" else None
        run.validity_by, run.validity_at = unit.actor.who, unit.now


def _state(run: Run) -> dict[str, Any]:
    return {
        "validity": run.validity,
        "reason": run.validity_reason,
        "fracture": run.fracture,
        "fracture_place": run.fracture_place,
        "options": dict(run.options),
        "retracted": run.retracted_at is not None,
    }


def edit_run(workspace: Workspace, actor: Actor, run_id: str, edit: RunEdit, revision: int | None) -> dict[str, Any]:
    """Change validity, fracture or the window of the modulus; only what `edit` carries."""
    with workspace.write(actor) as unit:
        run = find(unit.session, Run, run_id)
        expect_revision(revision, run.revision, f"specimen {run.specimen.code}", run_dict(unit.session, run))
        if not run.complete or run.retracted_at is not None:
            raise ConflictError("only a run that was accepted can be edited", run_dict(unit.session, run))
        before = _state(run)
        given = edit.model_fields_set
        method = find_method(find(unit.session, Test, run.test_id).method)
        if "fracture" in given:
            run.fracture = edit.fracture
        if "fracture_place" in given:
            run.fracture_place = edit.fracture_place
        if "validity" in given and edit.validity is not None:
            _set_validity(unit, run, edit.validity, edit.validity_reason)
        elif "fracture" in given and edit.fracture is not None:
            bound = str(method.fractures[edit.fracture][1])
            _set_validity(unit, run, "counts" if bound == "exact" else bound, method.fractures[edit.fracture][0])
        if "modulus_window" in given:
            run.options = {k: v for k, v in run.options.items() if k != "modulus_window"} | (
                {"modulus_window": list(edit.modulus_window)} if edit.modulus_window else {}
            )
        return _changed(unit, run, "edited", before)


def correct(workspace: Workspace, actor: Actor, run_id: str, correction: Correction, revision: int | None) -> tuple[dict[str, Any], bool]:
    """Add a reading that supersedes an earlier one, with the reason; the earlier one stays on record."""
    with workspace.write(actor) as unit:
        run = find(unit.session, Run, run_id)
        if any(r.id == correction.id for r in run.readings):
            return run_dict(unit.session, run), False
        expect_revision(revision, run.revision, f"specimen {run.specimen.code}", run_dict(unit.session, run))
        old = next((r for r in standing(run.readings) if r.id == correction.supersedes), None)
        if old is None:
            raise ConflictError("the reading to be corrected is not the standing one any more: look at the newer state", run_dict(unit.session, run))
        if (old.field, old.position) != (correction.field, correction.position):
            raise EntryError("a correction must name the field and place of the reading it supersedes", "field")
        before = {"field": old.field, "raw": old.raw, "value": old.value}
        test = find(unit.session, Test, run.test_id)
        run.readings.append(_reading(unit, run, test, run.rig_version, correction, old.happened_at))
        unit.session.flush()
        return _changed(unit, run, "corrected", before, {"field": correction.field, "raw": correction.raw, "reason": correction.reason}), True


def retract(workspace: Workspace, actor: Actor, run_id: str) -> dict[str, Any]:
    """Take an accepted entry back (undo); it stays on record, and the specimen waits again."""
    with workspace.write(actor) as unit:
        run = find(unit.session, Run, run_id)
        if run.retracted_at is not None:
            return run_dict(unit.session, run)
        before = _state(run)
        run.retracted_at = unit.now
        return _changed(unit, run, "taken back", before)


def restore(workspace: Workspace, actor: Actor, run_id: str) -> dict[str, Any]:
    """Undo the undo, unless the specimen has been entered anew meanwhile."""
    with workspace.write(actor) as unit:
        run = find(unit.session, Run, run_id)
        if run.retracted_at is None:
            return run_dict(unit.session, run)
        other = unit.session.scalar(
            select(Run).where(Run.specimen_id == run.specimen_id, Run.procedure_version == run.procedure_version, Run.retracted_at.is_(None))
        )
        if other is not None:
            raise ConflictError(_already(other, run.specimen), run_dict(unit.session, other))
        before = _state(run)
        run.retracted_at = None
        return _changed(unit, run, "restored", before)


def _changed(unit: Unit, run: Run, action: str, before: dict[str, Any], after: dict[str, Any] | None = None) -> dict[str, Any]:
    run.revision += 1
    unit.session.flush()
    reduce_run(unit.session, run)
    unit.log("run", run.id, action, before, after or _state(run))
    refresh_evidence(unit, run.test_id)
    return run_dict(unit.session, run)
