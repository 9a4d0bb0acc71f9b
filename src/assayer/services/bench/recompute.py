"""Apply the newest reduction, or a corrected calibration, and tell which values moved."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from sqlalchemy import select
from sqlalchemy.orm import Session

from assayer.core.curves.compliance import machine_compliance
from assayer.core.errors import AssayerError
from assayer.core.methods import method as find_method
from assayer.services.bench.curves import read_as_told
from assayer.services.bench.reductions import reduce_run, reduction_of
from assayer.services.bench.specimens import code_of
from assayer.services.bench.views import MovedList, MovedView
from assayer.services.rigs.calibrations import add_calibration, change_calibration, set_compliance
from assayer.services.rigs.requests import CalibrationEdit, ComplianceEdit, NewCalibration
from assayer.services.rigs.templates import templates_of
from assayer.services.rigs.views import ComplianceView
from assayer.services.unit import Actor, Unit, Workspace, find
from assayer.store.models import Reading, Result, Run, Test

_SAME = 1e-9
_CHUNK = 200
Values = dict[str, tuple[float, str, str]]


def recompute(workspace: Workspace, actor: Actor, progress: Callable[[int, int], None] | None = None) -> list[MovedView]:
    """Reduce every accepted run anew, in portions, and return what moved.

    Parameters
    ----------
    progress : callable(done, total), optional

    Raises
    ------
    AssayerError
        If a run can no longer be reduced; names its specimen. Portions before it are kept.
    """
    with workspace.read() as session:
        ids = session.scalars(select(Run.id).where(Run.retracted_at.is_(None)).order_by(Run.id)).all()
    moved: list[MovedView] = []
    for start in range(0, len(ids), _CHUNK):
        with workspace.write(actor) as unit:
            moved += reduce_anew(unit, ids[start : start + _CHUNK])
        if progress is not None:
            progress(min(start + _CHUNK, len(ids)), len(ids))
    return moved


def would_move(workspace: Workspace, progress: Callable[[int, int], None] | None = None) -> list[MovedView]:
    """What `recompute` would move; nothing is kept."""
    with workspace.read() as session:
        ids = session.scalars(select(Run.id).where(Run.retracted_at.is_(None)).order_by(Run.id)).all()
    moved: list[MovedView] = []
    for start in range(0, len(ids), _CHUNK):
        with workspace.read() as session:
            for run in session.scalars(select(Run).where(Run.id.in_(ids[start : start + _CHUNK]), Run.retracted_at.is_(None))):
                code = code_of(session, run).removeprefix("specimen ")
                moved += _compare(code, _values(session, run.id), _made_anew(session, run))
        if progress is not None:
            progress(min(start + _CHUNK, len(ids)), len(ids))
    return moved


def _made_anew(session: Session, run: Run) -> Values:
    try:
        reduction = reduction_of(session, run)
    except AssayerError as error:
        raise AssayerError(f"{code_of(session, run)}: {error}") from error
    if reduction is None:
        return {}
    method = find_method(find(session, Test, run.test_id).method)
    return {r.key: (r.value, r.unit, str(method.bound_of(r, run.outcome, run.validity))) for r in reduction.results}


def reduce_anew(unit: Unit, run_ids: Sequence[str]) -> list[MovedView]:
    """Reduce runs anew within a transaction: values and bounds that moved, each noted in its run's record."""
    moved: list[MovedView] = []
    tests: dict[str, str] = {}
    for run_id in run_ids:
        run = find(unit.session, Run, run_id)
        if run.retracted_at is not None:
            continue
        before = _values(unit.session, run_id)
        code = code_of(unit.session, run)
        remarks = list(run.remarks)
        try:
            reduce_run(unit.session, run)
        except AssayerError as error:
            raise AssayerError(f"{code}: {error}") from error
        unit.session.flush()
        changed = _compare(code.removeprefix("specimen "), before, _values(unit.session, run_id))
        if changed or remarks != run.remarks:
            run.revision += 1
            tests[run.test_id] = find(unit.session, Test, run.test_id).study_id
        if changed:
            unit.log(
                "run", run_id, "recomputed", {m.quantity: _said(m.old, m.old_bound) for m in changed}, {m.quantity: _said(m.new, m.new_bound) for m in changed}
            )
        moved += changed
    for study_id in sorted(set(tests.values())):
        unit.touch(study_id, [t for t, s in tests.items() if s == study_id])
    return moved


def _values(session: Session, run_id: str) -> Values:
    return {r.quantity: (r.value, r.unit, r.bound) for r in session.scalars(select(Result).where(Result.run_id == run_id))}


def _said(value: float | None, bound: str | None) -> str | None:
    sign = {"at_least": "≥ ", "at_most": "≤ "}.get(bound or "", "")
    return None if value is None else f"{sign}{value:.6g}"


def _compare(code: str, before: Values, after: Values) -> list[MovedView]:
    moved = []
    for quantity in dict.fromkeys((*before, *after)):
        old, new = before.get(quantity), after.get(quantity)
        same = old is not None and new is not None and abs(old[0] - new[0]) <= _SAME * max(abs(old[0]), abs(new[0])) and old[2] == new[2]
        if not same:
            unit = (new or old or (0.0, "", ""))[1]
            moved.append(
                MovedView(
                    code=code,
                    quantity=quantity,
                    old=None if old is None else old[0],
                    new=None if new is None else new[0],
                    old_bound=None if old is None else old[2],
                    new_bound=None if new is None else new[2],
                    unit=unit,
                )
            )
    return moved


# ---- what a correction of a rig moves -------------------------------------------------------------


def runs_of_rig(unit: Unit, rig_version_id: str) -> list[str]:
    """Runs that were tested, or any reading of which was taken, on a version of a rig."""
    read_there = select(Reading.run_id).where(Reading.rig_version_id == rig_version_id)
    rows = unit.session.scalars(
        select(Run.id).where(Run.retracted_at.is_(None), (Run.rig_version_id == rig_version_id) | Run.id.in_(read_there)).order_by(Run.id)
    )
    return list(rows)


def _after(unit: Unit, rig_version_id: str) -> MovedList:
    ids = runs_of_rig(unit, rig_version_id)
    return MovedList(runs=len(ids), moved=reduce_anew(unit, ids))


def calibrate(workspace: Workspace, actor: Actor, rig_version_id: str, new: NewCalibration) -> tuple[MovedList, bool]:
    """Keep a calibration, compute anew what it covers, and say what moved."""
    with workspace.write(actor) as unit:
        is_new = add_calibration(unit, rig_version_id, new)
        return (_after(unit, rig_version_id) if is_new else MovedList(runs=0, moved=[])), is_new


def correct_calibration(workspace: Workspace, actor: Actor, calibration_id: str, edit: CalibrationEdit, revision: int) -> MovedList:
    """Correct a calibration, compute anew what was read with it, and say what moved."""
    with workspace.write(actor) as unit:
        calibration = change_calibration(unit, calibration_id, edit, revision)
        return _after(unit, calibration.rig_version_id)


def keep_compliance(workspace: Workspace, actor: Actor, rig_version_id: str, edit: ComplianceEdit) -> MovedList:
    """Set the compliance of a rig version, reduce its recordings anew, and say what moved."""
    with workspace.write(actor) as unit:
        set_compliance(unit, rig_version_id, edit.compliance)
        return _after(unit, rig_version_id)


def read_compliance(workspace: Workspace, rig_version_id: str, data: bytes, columns: str | None = None) -> ComplianceView:
    """The compliance that a recorded pull on a rigid bar shows; nothing is kept."""
    with workspace.read() as session:
        templates = templates_of(session, rig_version_id)
    found = machine_compliance(read_as_told(data, columns, templates).recording)
    return ComplianceView(
        compliance=found.value,
        ci95=None if found.ci95 is None else (found.ci95.low, found.ci95.high),
        r2=found.r2,
        rows=found.rows,
        force_range=found.force_range,
        warnings=found.warnings,
    )
