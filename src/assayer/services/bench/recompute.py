"""Apply the newest reduction, or a corrected calibration, and tell which values moved."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from sqlalchemy import case, func, select
from sqlalchemy.orm import Session

from assayer.core.curves.compliance import RigidBar, machine_compliance
from assayer.core.methods import REGISTRY
from assayer.services.bench.curves import read_as_told
from assayer.services.bench.foreseen import Correction, keep, look_ahead, seen_again
from assayer.services.bench.views import MovedList, MovedView, Outdated, Recomputing
from assayer.services.rigs.calibrations import add_calibration, change_calibration, edited_calibration, foresee_calibration, set_compliance
from assayer.services.rigs.templates import templates_of
from assayer.services.rigs.views import ComplianceView
from assayer.services.unit import Actor, Unit, Workspace, find
from assayer.store.models import Calibration, Reading, Result, RigVersion, Run, Test

if TYPE_CHECKING:
    from assayer.services.rigs.requests import CalibrationEdit, ComplianceEdit, NewCalibration

_PORTION = 200
_TRIES = 3
"""How often what was worked out beside the work of others may be made doubtful by it, before everybody waits."""


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
        ids = _standing(session)
    moved: list[MovedView] = []
    for start in range(0, len(ids), _PORTION):
        portion = ids[start : start + _PORTION]
        outlook = look_ahead(workspace, portion)
        with workspace.write(actor) as unit:
            moved += keep(unit, seen_again(unit.session, portion, outlook, outlook.stirred(unit.session)))
        if progress is not None:
            progress(start + len(portion), len(ids))
    return moved


_ALL = "all"
"""Under which the progress of recomputing everything is noted."""


def outdated(workspace: Workspace) -> Outdated:
    """How many runs hold results of an earlier reduction than the newest, and how far recomputing is where it is under way."""
    done, of = workspace.recomputing.get(_ALL, (0, 0))
    with workspace.read() as session:
        # along the tests, so that only what is outdated is read of the results
        newest = case({name: method.reduction_version for name, method in REGISTRY.items()}, value=Test.method, else_=0)
        of_test = select(func.count(Result.run_id.distinct())).where(Result.test_id == Test.id, Result.reduction_version < newest).scalar_subquery()
        return Outdated(runs=session.scalar(select(func.sum(of_test)).select_from(Test)) or 0, done=done, of=of)


def recompute_all(workspace: Workspace, actor: Actor) -> MovedList:
    """Reduce everything anew, noting how far that is, and say what moved."""

    def progress(done: int, of: int) -> None:
        workspace.recomputing[_ALL] = (done, of)

    try:
        with workspace.read() as session:
            runs = len(_standing(session))
        return MovedList(runs=runs, moved=recompute(workspace, actor, progress))
    finally:
        workspace.recomputing.pop(_ALL, None)


def would_move(workspace: Workspace, progress: Callable[[int, int], None] | None = None) -> list[MovedView]:
    """What `recompute` would move; nothing is kept."""
    with workspace.read() as session:
        ids = _standing(session)
    outlook = look_ahead(workspace, ids, progress=progress)
    return [m for run_id in sorted(outlook.runs) for m in outlook.runs[run_id].moved]


def _standing(session: Session) -> list[str]:
    return list(session.scalars(select(Run.id).where(Run.retracted_at.is_(None)).order_by(Run.id)))


# ---- what a correction of a rig moves -------------------------------------------------------------


def runs_of_rig(session: Session, rig_version_id: str) -> list[str]:
    """Runs that were tested, or any reading of which was taken, on a version of a rig."""
    read_there = select(Reading.run_id).where(Reading.rig_version_id == rig_version_id)
    rows = session.scalars(select(Run.id).where(Run.retracted_at.is_(None), (Run.rig_version_id == rig_version_id) | Run.id.in_(read_there)).order_by(Run.id))
    return list(rows)


def _corrected(
    workspace: Workspace, actor: Actor, rig_version_id: str, foresee: Correction, make: Callable[[Unit], bool], sent: tuple[str, NewCalibration] | None = None
) -> tuple[MovedList, bool]:
    """Make a correction of a rig and keep what its runs give then; what that is, is worked out before anybody has to wait for it."""
    try:
        return _tried(workspace, actor, rig_version_id, foresee, make, sent)
    finally:
        workspace.recomputing.pop(rig_version_id, None)


def _tried(
    workspace: Workspace, actor: Actor, rig_version_id: str, foresee: Correction, make: Callable[[Unit], bool], sent: tuple[str, NewCalibration] | None
) -> tuple[MovedList, bool]:
    def progress(done: int, of: int) -> None:
        workspace.recomputing[rig_version_id] = (done, of)

    tries = 0
    while True:
        tries += 1
        with workspace.read() as session:
            ids = runs_of_rig(session, rig_version_id)
        progress(0, len(ids))
        outlook = look_ahead(workspace, ids, foresee, progress)
        with workspace.write(actor, sent) as unit:
            stirred = outlook.stirred(unit.session)
            if stirred is None and tries < _TRIES:
                unit.made = False
                continue
            if not make(unit):
                return MovedList(runs=0, moved=[]), False
            ids = runs_of_rig(unit.session, rig_version_id)
            return MovedList(runs=len(ids), moved=keep(unit, seen_again(unit.session, ids, outlook, stirred))), True


def calibrate(workspace: Workspace, actor: Actor, rig_version_id: str, new: NewCalibration) -> tuple[MovedList, bool]:
    """Keep a calibration, compute anew what it covers, and say what moved."""
    now = workspace.clock()

    def foresee(session: Session) -> bool:
        return foresee_calibration(session, rig_version_id, new, now)

    return _corrected(workspace, actor, rig_version_id, foresee, lambda unit: add_calibration(unit, rig_version_id, new), (new.id, new))


def correct_calibration(workspace: Workspace, actor: Actor, calibration_id: str, edit: CalibrationEdit, revision: int) -> MovedList:
    """Correct a calibration, compute anew what was read with it, and say what moved."""
    now = workspace.clock()
    with workspace.read() as session:
        rig_version_id = find(session, Calibration, calibration_id).rig_version_id

    def foresee(session: Session) -> bool:
        edited_calibration(session, calibration_id, edit, revision, now)
        return True

    def make(unit: Unit) -> bool:
        change_calibration(unit, calibration_id, edit, revision)
        return True

    return _corrected(workspace, actor, rig_version_id, foresee, make)[0]


def keep_compliance(workspace: Workspace, actor: Actor, rig_version_id: str, edit: ComplianceEdit) -> MovedList:
    """Set the compliance of a rig version, reduce its recordings anew, and say what moved."""

    def foresee(session: Session) -> bool:
        version = find(session, RigVersion, rig_version_id)
        version.compliance, version.compliance_uncertainty = edit.compliance, edit.uncertainty
        return True

    def make(unit: Unit) -> bool:
        set_compliance(unit, rig_version_id, edit)
        return True

    return _corrected(workspace, actor, rig_version_id, foresee, make)[0]


def recomputing(workspace: Workspace, rig_version_id: str) -> Recomputing:
    """How far a correction of a rig's version is that is being worked out; of no run where none is."""
    with workspace.read() as session:
        find(session, RigVersion, rig_version_id)
    done, of = workspace.recomputing.get(rig_version_id, (0, 0))
    return Recomputing(done=done, of=of)


def read_compliance(workspace: Workspace, rig_version_id: str, data: bytes, columns: str | None = None, bar: RigidBar | None = None) -> ComplianceView:
    """The compliance that a recorded pull on a rigid bar shows; nothing is kept."""
    with workspace.read() as session:
        templates = templates_of(session, rig_version_id)
    found = machine_compliance(read_as_told(data, columns, templates).recording, bar)
    return ComplianceView(
        compliance=found.value,
        uncertainty=found.uncertainty,
        of_bar=found.of_bar,
        ci95=None if found.ci95 is None else (found.ci95.low, found.ci95.high),
        r2=found.r2,
        rows=found.rows,
        force_range=found.force_range,
        warnings=found.warnings,
    )
