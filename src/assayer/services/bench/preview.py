"""Previewing an entry: reduced and checked for plausibility, but not kept."""

from __future__ import annotations

from typing import TYPE_CHECKING

from sqlalchemy.orm import Session

from assayer.core.errors import EntryError
from assayer.core.methods import method as find_method
from assayer.core.methods.base import Method
from assayer.core.methods.results import Reduction
from assayer.core.methods.steps import CLOCK_EVENTS
from assayer.core.quantities.units import Quantity
from assayer.core.quantities.words import in_text
from assayer.services.bench.checks import checks_of, on_another_rig, polymer_of, question_at_end, questions_about
from assayer.services.bench.printed import printed_of
from assayer.services.bench.recorded import questions_about_recording
from assayer.services.bench.reductions import Typed, load_recording, make_inputs, marked, typed_of_run
from assayer.services.bench.views import CheckView, Preview, ReadAs, ReductionView, ResultView
from assayer.services.rigs.calibrations import RigReader, reader_of
from assayer.services.unit import Workspace, find
from assayer.services.views import FieldError, QuestionView
from assayer.store.models import Curve, Run, Test

if TYPE_CHECKING:
    from assayer.services.bench.requests import PreviewRequest, RawField


def preview_entry(workspace: Workspace, asked: PreviewRequest) -> Preview:
    """Reduce what stands in the entry fields without keeping it: results, questions, and what looks implausible."""
    with workspace.read() as session:
        test = find(session, Test, asked.test_id)
        method = find_method(test.method)
        rig = reader_of(session, asked.rig_version_id)
        typed, errors, read_as = _read(method, rig, asked, workspace)
        if errors:
            return Preview(reduction=None, checks=[], questions=[], errors=errors, read_as=read_as)
        recording = load_recording(find(session, Curve, asked.curve_id)) if asked.curve_id else None
        printed = printed_of(session, method, asked.specimen_id)
        inputs = make_inputs(test, rig, [*_earlier(session, asked, typed), *typed], workspace.clock(), recording, asked.outcome, printed=printed)
        reduction: Reduction | None = None
        try:
            reduction = method.reduced(inputs)
        except EntryError as error:
            missing = error.field is not None and not inputs.values(error.field)
            if not missing:
                errors.append(FieldError(field=error.field, row=None, text=error.message))
        polymer = None if asked.blind else polymer_of(session, asked.specimen_id)
        open_questions = questions_about(method, inputs, typed, reduction, polymer) + questions_about_recording(session, asked.curve_id, asked.specimen_id)
        if asked.complete:
            open_questions += question_at_end(method, inputs, reduction)
        questions = [q for q in open_questions if q.key not in asked.confirmed]
        checks = checks_of(session, method, test, inputs, reduction, None if asked.blind else asked.specimen_id)
        checks += [CheckView(level="caution", text=mark, field=t.field, position=t.position) for t, mark in marked(method, typed)]
        elsewhere = on_another_rig(session, asked.specimen_id, asked.rig_version_id)
        checks += [] if elsewhere is None else [elsewhere]
        if reduction is not None and not questions and not any(c.level == "caution" for c in checks):
            checks.insert(0, CheckView(level="plausible", text=f"for {in_text(method.label_for(test.orientation, test.protocol))} of this shape"))
        return Preview(
            reduction=None if reduction is None else reduction_view(method, reduction, asked.outcome),
            checks=checks,
            questions=[QuestionView.model_validate(q) for q in questions],
            errors=errors,
            read_as=read_as,
        )


def _read(method: Method, rig: RigReader, asked: PreviewRequest, workspace: Workspace) -> tuple[list[Typed], list[FieldError], list[ReadAs]]:
    typed, errors, read_as = [], [], []
    now = workspace.clock()
    for reading in asked.readings:
        event = reading.field in CLOCK_EVENTS
        if not event and not reading.raw.strip():
            continue
        value = 0.0
        if not event:
            try:
                field = method.field(reading.field)
                quantity = rig.read(field, reading.raw)
                field.check(quantity.value, reading.raw.strip())
            except EntryError as error:
                errors.append(FieldError(field=reading.field, row=reading.position, text=error.message))
                continue
            value = quantity.value
            said = _read_as(reading, quantity, rig, method)
            if said is not None:
                read_as.append(said)
        at = reading.happened_at or now
        typed.append(Typed(reading.field, reading.position, value, at, min(at, now), reading.ambient_c, reading.load, reading.after, rig, reading.about))
    return typed, errors, read_as


def _read_as(reading: RawField, quantity: Quantity, rig: RigReader, method: Method) -> ReadAs | None:
    """Words for a number that the display's implied decimals changed."""
    channel = rig.channel_of(method.field(reading.field))
    if channel is None or not channel.decimals or not reading.raw.strip().lstrip("+-").isdigit():
        return None
    unit = method.field(reading.field).of_dimension.unit(channel.unit)
    shown = (quantity.value - unit.offset) / unit.factor
    return ReadAs(field=reading.field, position=reading.position, text=f"typed {reading.raw.strip()}: read as {shown:.{channel.decimals}f} {unit.symbol}")


def _earlier(session: Session, asked: PreviewRequest, typed: list[Typed]) -> list[Typed]:
    """What an open run holds already, but for the places that are typed anew."""
    if asked.run_id is None:
        return []
    run = session.get(Run, asked.run_id)
    if run is None or run.retracted_at is not None:
        return []
    new = {(t.field, t.position, t.load, t.about) for t in typed}
    return [t for t in typed_of_run(session, run) if (t.field, t.position, t.load, t.about) not in new]


def reduction_view(method: Method, reduction: Reduction, outcome: str | None) -> ReductionView:
    return ReductionView(
        method=reduction.method,
        procedure_version=reduction.procedure_version,
        reduction_version=reduction.reduction_version,
        results=[
            ResultView(
                quantity=r.key,
                label=method.quantity(r.key).label,
                value=r.value,
                unit=r.unit,
                bound=str(method.bound_of(r, outcome, "counts")),
                interval=None if r.interval is None else (r.interval.low, r.interval.high),
                provisional=r.provisional,
                warnings=r.warnings,
            )
            for r in reduction.results
        ],
        warnings=reduction.warnings,
    )
