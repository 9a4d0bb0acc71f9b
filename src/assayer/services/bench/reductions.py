"""From the readings of a run to results: the step "entry → reading → reduce → result"."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import TypedDict, cast

import numpy as np
from sqlalchemy import Table, delete, insert
from sqlalchemy.orm import Session

from assayer.core.curves.recording import Recording
from assayer.core.errors import EntryError
from assayer.core.methods import method as find_method
from assayer.core.methods.base import Method
from assayer.core.methods.inputs import Entry, Inputs
from assayer.core.methods.results import Reduction
from assayer.core.methods.steps import CLOCK_EVENTS, Field
from assayer.core.methods.vocabulary import Validity
from assayer.services.bench.printed import printed_of
from assayer.services.parts.shapes import shape_of
from assayer.services.rigs.calibrations import RigReader, reader_of
from assayer.services.unit import find
from assayer.store.curve_codec import unpack
from assayer.store.models import Curve, Reading, Result, Run, Test


@dataclass(frozen=True, slots=True)
class Typed:
    """One entry as it stands, kept or not: of which field and place, its value as shown, when, on which rig."""

    field: str
    position: int
    value: float
    happened_at: datetime
    calibrated_at: datetime
    ambient: float | None
    load: float | None
    after: float | None
    rig: RigReader
    about: str | None = None
    reading_id: str | None = None
    """Of the reading, where it is kept."""


def standing(readings: Iterable[Reading]) -> list[Reading]:
    """The readings that no later one supersedes and nobody took back, in order of field and position."""
    rows = [r for r in readings if r.retracted_at is None]
    superseded = {r.supersedes_id for r in rows}
    return sorted((r for r in rows if r.id not in superseded), key=lambda r: (r.field, r.position, r.seq or 0))


def typed_of_run(session: Session, run: Run) -> list[Typed]:
    """What stands of a run, each reading with the rig it was read on."""
    readers: dict[str, RigReader] = {}
    typed = []
    for r in standing(run.readings):
        key = r.rig_version_id or run.rig_version_id
        if key not in readers:
            readers[key] = reader_of(session, key)
        # a clock that is ahead must not call a calibration that is still to come
        at = r.happened_at
        typed.append(Typed(r.field, r.position, r.value, at, min(at, r.entered_at), r.ambient_c, r.load, r.after, readers[key], r.about, r.id))
    return typed


def entries_of(method: Method, typed: Sequence[Typed]) -> list[Entry]:
    """Entries in base units: calibrated, and timed from the events they count from."""
    events = {(t.field, t.load): t.happened_at for t in typed if t.field in CLOCK_EVENTS}
    entries = []
    for t in typed:
        if t.field in CLOCK_EVENTS:
            continue
        field = method.field(t.field)
        factor = t.rig.factor_of(field, t.calibrated_at)
        entries.append(Entry(t.field, t.value * factor, t.position, seconds_after(field, t, events), t.load, t.ambient, t.about))
    return entries


def seconds_after(field: Field, typed: Typed, events: Mapping[tuple[str, float | None], datetime]) -> float | None:
    """Seconds from the event a reading counts from; None where it is not timed, or the event is not known."""
    if typed.after is not None:
        return typed.after
    if field.counts_from is None:
        return None
    start = events.get((field.counts_from, typed.load if field.by_load else None))
    return None if start is None else (typed.happened_at - start).total_seconds()


def load_recording(curve: Curve) -> Recording:
    """The recording of a stored curve; float32 as stored, so that results can be made anew from the database alone."""
    names = [c["role"] for c in curve.columns]
    block = unpack(curve.data, len(names)).astype(float)
    lines = None if curve.lines is None else np.frombuffer(curve.lines, "<i4").astype(np.int64)
    channels = {name: block[i] for i, name in enumerate(names)}
    return Recording(channels, lines, curve.columns[0].get("first_line", 1), list(curve.warnings))


def make_inputs(
    test: Test,
    rig: RigReader,
    typed: Sequence[Typed],
    at: datetime,
    recording: Recording | None = None,
    outcome: str | None = None,
    options: Mapping[str, object] | None = None,
    printed: Mapping[str, float] | None = None,
) -> Inputs:
    """Inputs of the reduction, with the rig's calibrations applied to readings and recording alike."""
    method = find_method(test.method)
    steps = {}
    for field in method.fields():
        own = [t.rig for t in typed if t.field == field.name] or [rig]
        steps[field.name] = max(r.step(field) for r in own)
    if recording is not None:
        recording = recording.scaled({name: rig.factor(name, at) for name in recording.channels})
    return Inputs(
        entries_of(method, typed),
        shape_of(test),
        outcome,
        recording,
        rig.version.compliance,
        {name: float(value) for name, value in rig.version.geometry.items()},
        steps,
        method.protocol.read(test.protocol, method.label),
        method.options.read(options or {}, method.label),
        printed or {},
        rig.version.compliance_uncertainty or 0.0,
    )


def inputs_of_run(session: Session, run: Run, typed: Sequence[Typed] | None = None) -> Inputs:
    """What a run is reduced from; `typed` where it was put together before."""
    test = find(session, Test, run.test_id)
    recording = load_recording(find(session, Curve, run.curve_id)) if run.curve_id else None
    rig = reader_of(session, run.rig_version_id)
    if typed is None:
        typed = typed_of_run(session, run)
    printed = printed_of(session, find_method(test.method), run.specimen_id)
    return make_inputs(test, rig, typed, run.happened_at, recording, run.outcome, run.options, printed)


def reduction_of(session: Session, run: Run, inputs: Inputs | None = None, typed: Sequence[Typed] | None = None) -> Reduction | None:
    """What the readings of a run give so far (or `inputs`, made of them before; or `typed`); nothing is kept.

    None where an open run, or one that was left out, does not hold enough yet.

    Raises
    ------
    EntryError
        If a run that is complete and counts lacks something, or holds what cannot be; names the field.
    """
    try:
        return find_method(find(session, Test, run.test_id).method).reduced(inputs if inputs is not None else inputs_of_run(session, run, typed))
    except EntryError:
        # a specimen that never got to be measured is left out with its reason; it has no values
        if run.complete and run.validity != Validity.LEFT_OUT:
            raise
        return None


_KEEP = insert(cast(Table, Result.__table__))


def reduce_run(session: Session, run: Run, typed: Sequence[Typed] | None = None, inputs: Inputs | None = None, fresh: bool = False) -> Reduced:
    """Reduce what is there of a run so far and put its results in place of the former ones (a fresh one has none); see `reduction_of`."""
    if not fresh:
        session.execute(delete(Result).where(Result.run_id == run.id))
    if run.retracted_at is not None:
        return Reduced(None, [], run.remarks)
    made = reduced(session, run, typed, inputs)
    # putting the same in their place would have everything that the run holds looked through again
    if run.remarks != made.remarks:
        run.remarks = made.remarks
    keep_rows(session, made.rows)
    return made


class Row(TypedDict):
    """A row of the table of results, by its columns."""

    subject_kind: str
    subject_id: str
    test_id: str
    run_id: str
    quantity: str
    value: float
    unit: str
    bound: str
    warnings: list[str]
    reduction_version: int
    interval_low: float | None
    interval_high: float | None
    reading_step: float
    provisional: bool


@dataclass(frozen=True, slots=True)
class Reduced:
    """What the readings of a run give: the reduction, its results as rows, and what is remarked of the run."""

    reduction: Reduction | None
    rows: list[Row]
    remarks: list[str]


def reduced(session: Session, run: Run, typed: Sequence[Typed] | None = None, inputs: Inputs | None = None) -> Reduced:
    """What a run would be kept with if it were reduced now; nothing is kept. See `reduction_of`."""
    method = find_method(find(session, Test, run.test_id).method)
    if typed is None:
        typed = typed_of_run(session, run)
    reduction = reduction_of(session, run, inputs, typed)
    kept = [r for r in run.remarks if r.startswith(UNCHECKED)]
    if reduction is None:
        return Reduced(None, [], kept)
    outcome = method.outcome_at(run.outcome, run.outcome_place, shape_of(find(session, Test, run.test_id)))
    elsewhere = [] if outcome == run.outcome else [f"by its place on the shape it broke {method.outcome(outcome or '').label}: that decides what is a bound"]
    remarks = list(dict.fromkeys((*kept, *elsewhere, *reduction.warnings, *marks_of(method, typed))))
    return Reduced(reduction, _rows_of(run, method, reduction, outcome), remarks)


def _rows_of(run: Run, method: Method, reduction: Reduction, outcome: str | None) -> list[Row]:
    """Results as they are kept; `outcome` is the one whose bounds hold."""
    return [
        {
            "subject_kind": run.subject_kind,
            "subject_id": run.subject_id,
            "test_id": run.test_id,
            "run_id": run.id,
            "quantity": result.key,
            "value": result.value,
            "unit": result.unit,
            "bound": str(method.bound_of(result, outcome, run.validity)),
            "warnings": result.warnings,
            "reduction_version": reduction.reduction_version,
            "interval_low": None if result.interval is None else result.interval.low,
            "interval_high": None if result.interval is None else result.interval.high,
            "reading_step": result.reading_step,
            "provisional": result.provisional and not run.complete,
        }
        for result in reduction.results
    ]


def keep_rows(session: Session, rows: Sequence[Row]) -> None:
    if rows:
        session.execute(_KEEP, rows)


UNCHECKED = "entered without the server: "
"""Remarks that begin so came with the entry and stay."""


def marks_of(method: Method, typed: Sequence[Typed]) -> list[str]:
    """What the rigs say of the readings: beyond the range, coarse, calibration due."""
    return list(dict.fromkeys(mark for _, mark in marked(method, typed)))


def marked(method: Method, typed: Sequence[Typed]) -> list[tuple[Typed, str]]:
    """Readings with what their rig says of them; what it says of several, at the first of them."""
    marks = [(t, mark) for t in typed if t.field not in CLOCK_EVENTS for mark in t.rig.marks(method.field(t.field), t.value, t.calibrated_at)]
    return list({mark: (t, mark) for t, mark in reversed(marks)}.values())[::-1]
