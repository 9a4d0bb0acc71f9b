"""One specimen in full: where it comes from, its runs, readings, results and record."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Any, cast

from sqlalchemy import Table, bindparam, select
from sqlalchemy.orm import Session, selectinload

from assayer.core.methods import method as find_method
from assayer.core.methods.base import Method
from assayer.core.methods.steps import CLOCK_EVENTS, RoundsStep, TimedLoadsStep
from assayer.services.bench.reductions import Row, Typed, seconds_after, typed_of_run
from assayer.services.bench.views import ReadingView, RunCurve, RunResult, RunRig, RunView, SpecimenView
from assayer.services.changes import record_of
from assayer.services.dial_in.wetness import printed_wet
from assayer.services.printing.judging import came_off
from assayer.services.stock.materials import material_view
from assayer.services.stock.views import SpoolRef
from assayer.services.unit import Workspace, find
from assayer.services.views import RecordEntry
from assayer.store.models import Arm, Batch, Curve, Reading, Result, Run, Slot, Specimen, Spool, Test, Variant


def code_of(session: Session, run: Run) -> str:
    """How the subject of a run is called: a specimen by its code, anything else by what it is."""
    if run.specimen_id is None:
        return f"{run.subject_kind} {run.subject_id[:8]}"
    return f"specimen {find(session, Specimen, run.specimen_id).code}"


def run_view(session: Session, run: Run) -> RunView:
    """A run with its readings (superseded ones too), results and record."""
    return run_views(session, [run])[0]


def fresh_view(session: Session, run: Run, typed: Sequence[Typed], rows: Sequence[Row], told: RecordEntry) -> RunView:
    """A run that was begun in this unit of work, of what it was just kept with: the same as reading it back."""
    return _view(session, run, typed, rows, [told])


_KEPT = cast(Table, Result.__table__)
_RESULTS = select(_KEPT).where(_KEPT.c.run_id.in_(bindparam("runs", expanding=True))).order_by(_KEPT.c.seq)


def run_views(session: Session, runs: list[Run]) -> list[RunView]:
    """Several runs, in the same few queries."""
    session.flush()
    ids = [r.id for r in runs]
    results: dict[str, list[Mapping[Any, Any]]] = {}
    for result in session.execute(_RESULTS, {"runs": ids}).mappings():
        results.setdefault(result["run_id"], []).append(result)
    record = record_of(session, ids)
    return [_view(session, run, typed_of_run(session, run), results.get(run.id, []), record.get(run.id, [])) for run in runs]


def _view(session: Session, run: Run, typed: Sequence[Typed], results: Iterable[Mapping[Any, Any]], record: list[RecordEntry]) -> RunView:
    test = find(session, Test, run.test_id)
    method = find_method(test.method)
    curve = session.get(Curve, run.curve_id) if run.curve_id else None
    put_together = any(isinstance(s, RoundsStep | TimedLoadsStep) for s in method.steps)
    specimen = session.get(Specimen, run.specimen_id) if run.specimen_id else None
    rig = run.rig_version
    shown = [_result_view(method, r) for r in results]
    return RunView(
        id=run.id,
        revision=run.revision,
        subject_kind=run.subject_kind,
        subject_id=run.subject_id,
        specimen_id=run.specimen_id,
        code=specimen.code if specimen is not None else run.subject_kind,
        test_id=run.test_id,
        method=test.method,
        procedure_version=run.procedure_version,
        rig=RunRig(id=rig.id, name=rig.rig.name, version=rig.number),
        operator=run.operator,
        happened_at=run.happened_at,
        zone=run.zone,
        complete=run.complete,
        retracted_at=run.retracted_at,
        validity=run.validity,
        validity_reason=run.validity_reason,
        validity_by=run.validity_by,
        outcome=run.outcome,
        outcome_place=run.outcome_place,
        options=method.options.read(run.options, method.label).as_dict(),
        curve=None if curve is None else RunCurve.model_validate(curve),
        has_view=curve is not None or (put_together and bool(shown)),
        remarks=run.remarks,
        readings=_readings(run, method, typed),
        results=shown,
        record=record,
    )


def _readings(run: Run, method: Method, typed: Sequence[Typed]) -> list[ReadingView]:
    events = {(t.field, t.load): t.happened_at for t in typed if t.field in CLOCK_EVENTS}
    places = _in_order(method)
    times = {t.reading_id: None if t.field in CLOCK_EVENTS else seconds_after(method.field(t.field), t, events) for t in typed}
    ordered = sorted(run.readings, key=lambda r: (r.load or 0.0, places[r.field], r.position, r.seq or 0))
    return [_reading_view(method, r, r.id in times, times.get(r.id, r.after)) for r in ordered]


def _in_order(method: Method) -> dict[str, float]:
    """Where each field stands among those of its method; an event just before what is counted from it."""
    places: dict[str, float] = {}
    for place, spec in enumerate(method.fields()):
        if spec.counts_from is not None:
            places.setdefault(spec.counts_from, place - 0.5)
        places[spec.name] = place
    return places


def _reading_view(method: Method, r: Reading, stands: bool, after: float | None) -> ReadingView:
    return ReadingView(
        id=r.id,
        step=r.step,
        field=r.field,
        label=r.field if r.field in CLOCK_EVENTS else method.field(r.field).label,
        position=r.position,
        raw=r.raw,
        value=r.value,
        unit=r.unit,
        happened_at=r.happened_at,
        entered_at=r.entered_at,
        entered_by=r.entered_by,
        ambient_c=r.ambient_c,
        load=r.load,
        after=after,
        about=r.about,
        supersedes=r.supersedes_id,
        superseded=not stands,
        reason=r.reason,
    )


def label_of(method: Method, quantity: str) -> str:
    """How a kept result is called; one that its method no longer declares goes by its name."""
    known = any(q.name == quantity.partition("@")[0] for q in method.quantities)
    return method.quantity(quantity).label if known else quantity


def _result_view(method: Method, row: Mapping[Any, Any]) -> RunResult:
    low, high = row["interval_low"], row["interval_high"]
    return RunResult(
        quantity=row["quantity"],
        label=label_of(method, row["quantity"]),
        value=row["value"],
        unit=row["unit"],
        bound=row["bound"],
        interval=None if low is None or high is None else (low, high),
        provisional=row["provisional"],
        warnings=row["warnings"],
        reduction_version=row["reduction_version"],
    )


def get_run(workspace: Workspace, run_id: str) -> RunView:
    with workspace.read() as session:
        return run_view(session, find(session, Run, run_id))


def get_specimen(workspace: Workspace, specimen_id: str) -> SpecimenView:
    """A specimen with where it comes from and every run of it, those taken back included."""
    with workspace.read() as session:
        specimen = find(session, Specimen, specimen_id)
        batch = find(session, Batch, specimen.batch_id)
        variant = find(session, Variant, batch.variant_id)
        spool = session.get(Spool, batch.spool_id) if batch.spool_id else None
        slot = session.get(Slot, specimen.slot_id) if specimen.slot_id else None
        arm = session.get(Arm, slot.arm_id) if slot else None
        runs = session.scalars(
            select(Run).where(Run.specimen_id == specimen_id).options(selectinload(Run.readings)).order_by(Run.retracted_at.is_not(None), Run.happened_at)
        ).all()
        return SpecimenView(
            id=specimen.id,
            code=specimen.code,
            shape=specimen.shape,
            orientation=specimen.orientation,
            position=specimen.position,
            printed_at=batch.printed_at,
            settings=variant.sheet.name,
            treatment=variant.treatment,
            material=material_view(variant.material),
            spool=None if spool is None else SpoolRef(id=spool.id, code=spool.code),
            doubt=came_off(specimen) or (None if spool is None else printed_wet(session, spool, batch.printed_at)),
            mark=arm.mark if arm else None,
            test_id=slot.test_id if slot else None,
            study_id=arm.study_id if arm else None,
            runs=run_views(session, list(runs)),
        )
