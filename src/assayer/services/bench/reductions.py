"""From the readings of a run to results: the step "entry → reading → reduce → result"."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from sqlalchemy import delete
from sqlalchemy.orm import Session

from assayer.core.curves.recording import Recording
from assayer.core.errors import EntryError
from assayer.core.methods import method as find_method
from assayer.core.methods.base import Bound, Inputs, Reduction
from assayer.core.quantities.units import DIMENSIONS, Quantity, parse_quantity
from assayer.services.rigs.calibrations import force_factor
from assayer.services.unit import find
from assayer.store.curve_codec import unpack
from assayer.store.models import Curve, Reading, Result, RigVersion, Run, Test

CURVE_COLUMNS = ("force", "travel", "strain", "time")


def parse_field(test: Test, rig: RigVersion, field: str, raw: str) -> Quantity:
    """Read what was typed into a field of the test's method, in the unit that the rig shows."""
    dimension = DIMENSIONS[find_method(test.method).dimension(field)]
    default = {"force": rig.force_unit, "length": rig.length_unit}.get(dimension.name)
    return parse_quantity(raw, dimension, default, field)


def standing(readings: Iterable[Reading]) -> list[Reading]:
    """The readings that no later one supersedes, in order of field and position."""
    rows = list(readings)
    superseded = {r.supersedes_id for r in rows}
    return sorted((r for r in rows if r.id not in superseded), key=lambda r: (r.field, r.position, r.seq or 0))


def values_by_field(readings: Iterable[Reading]) -> dict[str, list[float]]:
    fields: dict[str, list[float]] = {}
    for reading in standing(readings):
        fields.setdefault(reading.field, []).append(reading.value)
    return fields


def load_recording(curve: Curve) -> Recording:
    """The recording of a stored curve; float32 as stored, so that results can be made anew from the database alone."""
    names = [c["role"] for c in curve.columns]
    block = unpack(curve.data, len(names)).astype(float)
    columns = {name: block[i] for i, name in enumerate(names)}
    first_line = curve.columns[0].get("first_line", 1)
    return Recording(
        force=columns["force"],
        travel=columns.get("travel"),
        strain=columns.get("strain"),
        time=columns.get("time"),
        first_line=first_line,
        warnings=list(curve.warnings),
    )


def make_inputs(
    session: Session, test: Test, rig: RigVersion, at: Any, fields: Mapping[str, Sequence[float]], curve: Curve | None, options: Mapping[str, Any]
) -> Inputs:
    """Inputs of the reduction, with the rig's calibration applied."""
    factor = force_factor(session, rig.id, at)
    method = find_method(test.method)
    forces = {name for step in method.steps for name, spec in step.fields.items() if spec[1] == "force"}
    calibrated = {name: [v * factor for v in values] if name in forces else list(values) for name, values in fields.items()}
    recording = load_recording(curve) if curve is not None else None
    if recording is not None and factor != 1.0:
        recording = Recording(
            recording.force * factor, recording.travel, recording.strain, recording.time, recording.lines, recording.first_line, recording.warnings
        )
    return Inputs(calibrated, method.shape(test.shape), recording, rig.compliance, options)


def inputs_of_run(session: Session, run: Run) -> Inputs:
    test = find(session, Test, run.test_id)
    curve = find(session, Curve, run.curve_id) if run.curve_id else None
    return make_inputs(session, test, run.rig_version, run.happened_at, values_by_field(run.readings), curve, run.options)


def reduce_run(session: Session, run: Run) -> Reduction | None:
    """Reduce a run and put its results in place of the former ones; None for dimensions only."""
    session.execute(delete(Result).where(Result.run_id == run.id))
    if not run.complete or run.retracted_at is not None:
        return None
    test = find(session, Test, run.test_id)
    method = find_method(test.method)
    try:
        reduction = method.reduce(inputs_of_run(session, run))
    except EntryError:
        # a specimen that never got to be measured is left out with its reason; it has no values
        if run.validity != "left_out":
            raise
        run.remarks = []
        return None
    run.remarks = reduction.warnings
    for result in reduction.results:
        session.add(
            Result(
                subject_kind="specimen",
                subject_id=run.specimen_id,
                test_id=run.test_id,
                run_id=run.id,
                quantity=result.quantity,
                value=result.value,
                unit=result.unit,
                bound=str(bound_for(run.validity, result.bound)),
                warnings=result.warnings,
                reduction_version=reduction.reduction_version,
            )
        )
    return reduction


def bound_for(validity: str, bound: Bound) -> Bound:
    """A run that is a bound as a whole makes each of its values one."""
    if validity in (Bound.AT_LEAST, Bound.AT_MOST) and bound is Bound.EXACT:
        return Bound(validity)
    return bound


def explain_missing(fields: Mapping[str, Sequence[float]], needed: Iterable[str]) -> None:
    """Refuse a run without a reading of each field that is always needed."""
    for name in needed:
        if not fields.get(name):
            raise EntryError(f"{name.replace('_', ' ')}: at least one reading is needed", name)


def refuse_not_positive(field: str, value: float) -> None:
    if value <= 0:
        raise EntryError(f"{field.replace('_', ' ')} must be greater than 0", field)
