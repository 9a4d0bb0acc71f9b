"""Runs: accepting what was tested, adding to what is open, taking back, correcting and judging."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING

from sqlalchemy import and_, bindparam, or_, select
from sqlalchemy.orm import Session

from assayer.core.errors import ConflictError, EntryError
from assayer.core.methods import method as find_method
from assayer.core.methods.base import Method
from assayer.core.methods.vocabulary import LEFT_OUT_REASONS, OTHER, Bound, SubjectKind, Validity
from assayer.core.quantities.slips import Question, ask
from assayer.services.bench.checks import polymer_of, question_at_end, questions_about
from assayer.services.bench.readings import add_readings, holds, make_reading, move_to_rig
from assayer.services.bench.recorded import questions_about_recording
from assayer.services.bench.reductions import UNCHECKED, Typed, inputs_of_run, reduce_run, standing, typed_of_run
from assayer.services.bench.specimens import code_of, fresh_view, run_view
from assayer.services.bench.views import RunView
from assayer.services.changes import before_change, entry_of
from assayer.services.parts.shapes import shape_of
from assayer.services.printing.judging import came_off
from assayer.services.rigs.calibrations import RigReader, reader_of
from assayer.services.sessions.racks import end_if_empty, note_room, take_place, take_place_again
from assayer.services.unit import Actor, Unit, Workspace, expect_revision, find
from assayer.store.models import Arm, Batch, Curve, Lease, Material, Reading, Run, Slot, Specimen, Test, Variant

if TYPE_CHECKING:
    from assayer.services.bench.requests import Correction, NewRun, RunEdit


def accept(workspace: Workspace, actor: Actor, new: NewRun) -> tuple[RunView, bool]:
    """Keep a tested subject, or the steps of it done so far; all of it or nothing.

    Sending the same entry again changes nothing (second value False): ids come from the client. A run that
    is open (a dimensions round, a frame under load) takes what is sent under its id until it is complete.

    Raises
    ------
    EntryError
        A reading that is no number, missing, or of the wrong sign; names its field.
    QuestionError
        A reading or result that is hardly meant so, and not confirmed.
    ConflictError
        The subject has been tested already, or a place is read already, by another entry.
    """
    with workspace.write(actor) as unit:
        session = unit.session
        test = find(session, Test, new.test_id)
        rig = reader_of(session, new.rig_version_id)
        run, standing_run = _runs_asked_about(session, new)
        if run is not None and holds(unit, run, new):
            return run_view(session, run), False
        subject = _check_subject(unit, new, test)
        goes_on = run is not None
        if run is None:
            run = _begin_run(unit, new, test, rig, standing_run)
        elif run.complete or run.retracted_at is not None or (run.subject_kind, run.subject_id) != (new.subject_kind, new.subject_id):
            raise ConflictError(_already(unit, run), run_view(session, run))
        method = find_method(test.method)
        added = add_readings(unit, run, method, rig, new.readings, new.happened_at)
        # hung on its place, it waits for its first reading there
        hung = new.place is not None and not new.complete
        if new.validity != Validity.LEFT_OUT and not run.readings and new.curve_id is None and not hung:
            field = next(method.fields())
            raise EntryError(f"{field.label}: at least one reading is needed", field.name)
        # the load was read here: its unit, its calibration and its compliance are those of this rig
        move_to_rig(run, rig, added)
        if new.place is not None:
            take_place(unit, run, rig.version, new.place, new.happened_at)
            if new.place.room is not None:
                note_room(unit, new.place.session_id, new.place.room.id, new.place.room.raw, new.place.room.at)
        if new.complete:
            _complete(unit, run, new, method)
            if goes_on or new.place is not None:
                end_if_empty(unit, run)
        if subject.lease is not None:
            session.delete(subject.lease)
        session.flush()
        typed = typed_of_run(session, run)
        inputs = inputs_of_run(session, run, typed)
        made = reduce_run(session, run, typed, inputs, fresh=not goes_on)
        if run.validity != Validity.LEFT_OUT:
            questions = questions_about(method, inputs, _those_of(added, typed), made.reduction, subject.polymer)
            if new.complete:
                questions += questions_about_recording(session, new.curve_id, run.specimen_id) + question_at_end(method, inputs, made.reduction)
            _settle(run, questions, new.confirmed, new.unchecked)
        action, after = "accepted" if new.complete else "measured", _state(run) | {"code": code_of(session, run)}
        unit.log("run", run.id, action, after=after)
        unit.touch(test.study_id, [test.id])
        if goes_on:
            return run_view(session, run), True
        return fresh_view(session, run, typed, made.rows, entry_of(unit.now, unit.actor.who, "run", action, {}, after)), True


@dataclass(frozen=True, slots=True)
class _Subject:
    """What is known of the subject: of a specimen itself, its polymer, and the lease by which a station holds it."""

    specimen: Specimen | None = None
    polymer: str | None = None
    lease: Lease | None = None


_SPECIMEN = (
    select(Specimen, Slot.test_id, Material.polymer, Lease)
    .join(Batch, Batch.id == Specimen.batch_id)
    .join(Variant, Variant.id == Batch.variant_id)
    .join(Material, Material.id == Variant.material_id)
    .outerjoin(Slot, Slot.id == Specimen.slot_id)
    .outerjoin(Lease, Lease.specimen_id == Specimen.id)
    .where(Specimen.id == bindparam("specimen"))
)
_RUNS = select(Run).where(
    or_(
        Run.id == bindparam("id"),
        and_(Run.subject_kind == bindparam("kind"), Run.subject_id == bindparam("subject"), Run.test_id == bindparam("test"), Run.retracted_at.is_(None)),
    )
)
"""Made once, as is the one above: they are asked at every entry, and putting them together takes longer than asking them."""


def _runs_asked_about(session: Session, new: NewRun) -> tuple[Run | None, Run | None]:
    """The run with the id of the entry, and another one that stands of its subject and test."""
    told = {"id": new.id, "kind": new.subject_kind, "subject": new.subject_id, "test": new.test_id}
    found = session.scalars(_RUNS, told).all()
    return next((r for r in found if r.id == new.id), None), next((r for r in found if r.id != new.id), None)


def _check_subject(unit: Unit, new: NewRun, test: Test) -> _Subject:
    """Whatever the subject is, it must belong to the test."""
    session = unit.session
    wanted = find_method(test.method).subject
    if new.subject_kind is not wanted:
        raise EntryError(f"{find_method(test.method).label} is of a {wanted}, not of a {new.subject_kind}", "subject_kind")
    if new.subject_kind is SubjectKind.SPECIMEN:
        row = session.execute(_SPECIMEN, {"specimen": new.subject_id}).one_or_none()
        if row is None:
            find(session, Specimen, new.subject_id)
            raise EntryError("this specimen was printed of nothing that is known", "subject_id")
        specimen, planned_for, polymer, lease = row
        if specimen.outcome != "good":
            told = came_off(specimen)
            raise EntryError(f"specimen {specimen.code} was told to have come off the plate so: {told}. Take that back under Print to test it", "subject_id")
        if planned_for != test.id:
            raise EntryError(f"specimen {specimen.code} is not planned for this test", "subject_id")
        return _Subject(specimen, polymer, lease)
    if new.subject_kind is SubjectKind.BATCH:
        find(session, Batch, new.subject_id)
    if new.subject_kind is SubjectKind.ARM and find(session, Arm, new.subject_id).study_id != test.study_id:
        raise EntryError("this arm belongs to another study", "subject_id")
    return _Subject()


def _begin_run(unit: Unit, new: NewRun, test: Test, rig: RigReader, there: Run | None) -> Run:
    if there is not None:
        raise ConflictError(_already(unit, there), run_view(unit.session, there))
    run = Run(
        id=new.id,
        subject_kind=str(new.subject_kind),
        subject_id=new.subject_id,
        specimen_id=new.subject_id if new.subject_kind is SubjectKind.SPECIMEN else None,
        test_id=test.id,
        procedure_version=test.procedure_version,
        rig_version_id=new.rig_version_id,
        rig_version=rig.version,
        operator=unit.actor.who,
        happened_at=new.happened_at,
        zone=unit.actor.zone,
        validity=str(Validity.COUNTS),
        options={},
        complete=False,
        remarks=[],
        revision=1,
        readings=[],
    )
    unit.session.add(run)
    return run


def _already(unit: Unit, run: Run) -> str:
    code = code_of(unit.session, run)
    if run.retracted_at is not None:
        return f"the entry for {code} was taken back: enter it anew"
    what = "was tested" if run.complete else "is being measured"
    return f"{code} {what} already by {run.operator}: open it to correct a reading, or take the other specimen's code"


def _those_of(added: Iterable[Reading], typed: Iterable[Typed]) -> list[Typed]:
    """What was added, of all that stands."""
    ids = {r.id for r in added}
    return [t for t in typed if t.reading_id in ids]


def _settle(run: Run, questions: list[Question], confirmed: list[str], unchecked: bool) -> None:
    """Ask what is open; what came without the server keeps the question as a remark."""
    if unchecked:
        run.remarks = [*run.remarks, *(UNCHECKED + q.text for q in questions if q.key not in confirmed)]
        return
    ask(questions, confirmed)


def _complete(unit: Unit, run: Run, new: NewRun, method: Method) -> None:
    run.complete = True
    run.happened_at = new.happened_at
    run.operator = unit.actor.who
    if new.curve_id is not None:
        find(unit.session, Curve, new.curve_id)
        other = unit.session.scalar(select(Run).where(Run.curve_id == new.curve_id, Run.id != run.id))
        if other is not None:
            raise ConflictError(f"this recording already belongs to {code_of(unit.session, other)}: a recording counts for one specimen")
        run.curve_id = new.curve_id
    run.outcome_place = new.outcome_place
    _set_outcome(unit, run, method, new.outcome, new.validity, new.validity_reason)
    run.revision += 1


def _set_outcome(unit: Unit, run: Run, method: Method, outcome: str | None, validity: str | None, reason: str | None) -> None:
    """How it ended (by its place on the shape, where that is known) decides whether its main value is a bound, unless somebody says otherwise."""
    ended = method.outcome(outcome) if outcome is not None else None
    if ended is not None and run.specimen_id is not None:
        orientation = find(unit.session, Specimen, run.specimen_id).orientation
        if not ended.occurs(orientation):
            raise EntryError(f"'{ended.label}' cannot be the end of a specimen printed {orientation}", "outcome")
    run.outcome = outcome
    placed = method.outcome_at(outcome, run.outcome_place, shape_of(find(unit.session, Test, run.test_id)))
    ended = method.outcome(placed) if placed is not None else None
    bound = ended.bounds.get(method.main, Bound.EXACT) if ended is not None else Bound.EXACT
    follows = str(Validity.COUNTS) if bound is Bound.EXACT else str(bound)
    own = validity or follows
    _set_validity(unit, run, own, reason or (ended.label if ended is not None and own == follows else None))


def _set_validity(unit: Unit, run: Run, validity: str, reason: str | None) -> None:
    if validity == Validity.LEFT_OUT:
        if not reason:
            raise EntryError("say why it is left out", "validity_reason")
        if not any(reason.startswith(known) for known in LEFT_OUT_REASONS):
            reason = f"{OTHER}: {reason}"
    kept = None if validity == Validity.COUNTS else reason
    if (validity, kept) != (run.validity, run.validity_reason):
        run.validity, run.validity_reason = validity, kept
        run.validity_by, run.validity_at = unit.actor.who, unit.now


def _include_again(unit: Unit, run: Run, method: Method) -> None:
    """Undo an exclusion: bound and reason are those from before it, or, where it was excluded at once, what its end implies."""
    before = before_change(unit.session, run.id, "validity", str(Validity.LEFT_OUT))
    if before:
        _set_validity(unit, run, before["validity"], before.get("reason"))
    else:
        _set_outcome(unit, run, method, run.outcome, None, None)


def _state(run: Run) -> dict[str, object]:
    return {
        "validity": run.validity,
        "reason": run.validity_reason,
        "outcome": run.outcome,
        "outcome_place": run.outcome_place,
        "options": dict(run.options),
        "complete": run.complete,
        "retracted": run.retracted_at is not None,
    }


def edit_run(workspace: Workspace, actor: Actor, run_id: str, edit: RunEdit, revision: int | None) -> RunView:
    """Change validity, outcome or options; only what `edit` carries.

    Another outcome does not bring back a run that was left out: that is a decision of its own.
    """
    with workspace.write(actor) as unit:
        run = find(unit.session, Run, run_id)
        expect_revision(revision, run.revision, code_of(unit.session, run), run_view(unit.session, run))
        if not run.complete or run.retracted_at is not None:
            raise ConflictError("only a run that was accepted can be edited", run_view(unit.session, run))
        before = _state(run)
        given = edit.model_fields_set
        method = find_method(find(unit.session, Test, run.test_id).method)
        if "outcome_place" in given:
            run.outcome_place = edit.outcome_place
        elif "outcome" in given and edit.outcome != run.outcome:
            # the place was that of the end as it was said before
            run.outcome_place = None
        if "outcome" in given:
            stays = run.validity == Validity.LEFT_OUT and "validity" not in given
            _set_outcome(unit, run, method, edit.outcome, run.validity if stays else None, run.validity_reason if stays else None)
        if "validity" in given and edit.validity is not None:
            if run.validity == Validity.LEFT_OUT and edit.validity == Validity.COUNTS:
                _include_again(unit, run, method)
            else:
                _set_validity(unit, run, edit.validity, edit.validity_reason)
        if edit.options is not None:
            merged = {k: v for k, v in (run.options | edit.options).items() if v is not None}
            run.options = method.options.read(merged, method.label).as_dict()
        return _changed(unit, run, "edited", before, _state(run))


def correct(workspace: Workspace, actor: Actor, run_id: str, correction: Correction, revision: int | None) -> tuple[RunView, bool]:
    """Add a reading that supersedes an earlier one, with the reason; it is checked like an entry, the earlier one stays on record."""
    with workspace.write(actor) as unit:
        run = find(unit.session, Run, run_id)
        if any(r.id == correction.id for r in run.readings):
            return run_view(unit.session, run), False
        expect_revision(revision, run.revision, code_of(unit.session, run), run_view(unit.session, run))
        old = next((r for r in standing(run.readings) if r.id == correction.supersedes), None)
        if old is None:
            raise ConflictError("the reading to be corrected is not the standing one any more: look at the newer state", run_view(unit.session, run))
        if (old.field, old.position) != (correction.field, correction.position):
            raise EntryError("a correction must name the field and place of the reading it supersedes", "field")
        test = find(unit.session, Test, run.test_id)
        method = find_method(test.method)
        rig = reader_of(unit.session, old.rig_version_id or run.rig_version_id)
        kept = {name: getattr(old, name) for name in ("load", "ambient_c", "about") if getattr(correction, name) is None}
        same_place = correction.model_copy(update=kept)
        if correction.after is None and correction.happened_at is None:
            same_place = same_place.model_copy(update={"after": old.after})
        row = make_reading(unit, run, method, rig, same_place, old.happened_at)
        run.readings.append(row)
        unit.session.flush()
        typed = typed_of_run(unit.session, run)
        inputs = inputs_of_run(unit.session, run, typed)
        made = reduce_run(unit.session, run, typed, inputs)
        questions = questions_about(method, inputs, _those_of([row], typed), made.reduction, polymer_of(unit.session, run.specimen_id))
        _settle(run, questions, correction.confirmed, unchecked=False)
        before = {"field": old.field, "raw": old.raw, "at": old.happened_at.isoformat()}
        after = {"field": correction.field, "raw": correction.raw, "reason": correction.reason, "at": row.happened_at.isoformat()}
        return _changed(unit, run, "corrected", before, after), True


def retract(workspace: Workspace, actor: Actor, run_id: str) -> RunView:
    """Take an accepted entry back (undo); it stays on record, and the specimen waits again."""
    with workspace.write(actor) as unit:
        run = find(unit.session, Run, run_id)
        if run.retracted_at is not None:
            return run_view(unit.session, run)
        before = _state(run)
        run.retracted_at = unit.now
        end_if_empty(unit, run)
        return _changed(unit, run, "taken back", before, _state(run))


def restore(workspace: Workspace, actor: Actor, run_id: str) -> RunView:
    """Undo the undo, unless the subject has been entered anew meanwhile."""
    with workspace.write(actor) as unit:
        run = find(unit.session, Run, run_id)
        if run.retracted_at is None:
            return run_view(unit.session, run)
        other = unit.session.scalar(
            select(Run).where(Run.subject_kind == run.subject_kind, Run.subject_id == run.subject_id, Run.test_id == run.test_id, Run.retracted_at.is_(None))
        )
        if other is not None:
            raise ConflictError(_already(unit, other), run_view(unit.session, other))
        take_place_again(unit, run)
        before = _state(run)
        run.retracted_at = None
        end_if_empty(unit, run)
        return _changed(unit, run, "restored", before, _state(run))


def retract_reading(workspace: Workspace, actor: Actor, run_id: str, reading_id: str) -> RunView:
    """Take the latest reading of an open run back (one step of undo in a round): it stays on record, superseded by nothing."""
    with workspace.write(actor) as unit:
        run = find(unit.session, Run, run_id)
        reading = next((r for r in standing(run.readings) if r.id == reading_id), None)
        if run.complete or run.retracted_at is not None or reading is None:
            raise ConflictError("only a standing reading of an open run is taken back", run_view(unit.session, run))
        before = {"field": reading.field, "position": reading.position, "raw": reading.raw}
        reading.retracted_at = unit.now
        return _changed(unit, run, "reading taken back", before, {"field": reading.field, "position": reading.position, "raw": None})


def _changed(unit: Unit, run: Run, action: str, before: Mapping[str, object], after: Mapping[str, object]) -> RunView:
    run.revision += 1
    unit.session.flush()
    reduce_run(unit.session, run)
    unit.log("run", run.id, action, dict(before), dict(after))
    unit.touch(find(unit.session, Test, run.test_id).study_id, [run.test_id])
    return run_view(unit.session, run)
