"""Runs reduced anew: worked out beside the work of others, kept in a short turn of writing where nothing they rest on changed meanwhile."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import cast

from sqlalchemy import Table, bindparam, delete, select, update
from sqlalchemy.orm import Session, selectinload
from sqlalchemy.orm.util import identity_key

from assayer.core.errors import AssayerError
from assayer.core.methods import method as find_method
from assayer.core.methods.base import Method
from assayer.services.bench.reductions import Row, keep_rows, reduced
from assayer.services.bench.specimens import code_of, label_of
from assayer.services.bench.views import MovedView
from assayer.services.changes import last_change
from assayer.services.unit import Facts, Unit, Workspace, find
from assayer.store.models import Change, Result, Run, Specimen, Test

_SAME = 1e-9
_PORTION = 200
_BESIDE = {
    "G-code file", "bed surface", "claim", "curve", "curves", "drying", "filament use", "file template", "intake", "material", "notebook", "nozzle", "oven",
    "person", "plate", "preference", "printer", "purpose", "rack", "reported result", "specimen", "spool", "storage", "trail", "trial", "weighing",
}  # fmt: skip
"""What the record tells of and no reduction rests on; whatever else changes makes what was worked out doubtful."""

Correction = Callable[[Session], bool]
"""Makes a correction in what a session holds, nothing of it flushed; False where it is made already."""


@dataclass(frozen=True, slots=True)
class Foreseen:
    """What a run is to be kept with: its results as rows, its remarks, and what of it moved."""

    run_id: str
    test_id: str
    rows: list[Row]
    remarks: list[str]
    differs: bool
    """Any of the rows is not as it is kept."""
    shows: bool
    """A value moved, or a remark came or went: whoever looks at the run is told."""
    moved: list[MovedView]


@dataclass(frozen=True, slots=True)
class Outlook:
    """What runs give, worked out at one place of the log."""

    since: int
    runs: dict[str, Foreseen]

    def stirred(self, session: Session) -> set[str] | None:
        """The runs that changed meanwhile; None where anything changed that others may rest on."""
        changed = session.execute(select(Change.entity, Change.entity_id).where(Change.seq > self.since)).all()
        if any(entity != "run" and entity not in _BESIDE for entity, _ in changed):
            return None
        return {key for entity, key in changed if entity == "run"}


def seen_again(session: Session, run_ids: Sequence[str], outlook: Outlook, stirred: set[str] | None) -> list[Foreseen]:
    """What was worked out, but for what was stirred since (None: all of it); that is worked out now, within the turn."""
    holds = {} if stirred is None else {key: f for key, f in outlook.runs.items() if key not in stirred}
    again = [key for key in run_ids if key not in holds]
    return [*(holds[key] for key in run_ids if key in holds), *foresee(session, again)]


def no_correction(_session: Session) -> bool:
    return True


def look_ahead(
    workspace: Workspace, run_ids: Sequence[str], correction: Correction = no_correction, progress: Callable[[int, int], None] | None = None
) -> Outlook:
    """What runs would give after a correction, read in portions; nobody waits for it, and nothing is kept.

    Raises
    ------
    AssayerError
        If the correction cannot be made, or a run can no longer be reduced; names its specimen.
    """
    with workspace.read() as session:
        since = last_change(session)
    found: dict[str, Foreseen] = {}
    done = 0
    for portion in _portions(run_ids):
        with workspace.read() as session, session.no_autoflush:
            if not correction(session):
                break
            found |= {f.run_id: f for f in foresee(session, portion)}
        done += len(portion)
        if progress is not None:
            progress(done, len(run_ids))
    return Outlook(since, found)


def _portions(run_ids: Sequence[str]) -> list[list[str]]:
    return [list(run_ids[start : start + _PORTION]) for start in range(0, len(run_ids), _PORTION)]


_RUNS_ASKED = Run.id.in_(bindparam("runs", expanding=True))
_STANDING = select(Run).where(_RUNS_ASKED, Run.retracted_at.is_(None)).order_by(Run.id).options(selectinload(Run.readings))
_TESTS = select(Test).where(Test.id.in_(select(Run.test_id).where(_RUNS_ASKED)))
_SPECIMENS = select(Specimen).where(Specimen.id.in_(select(Run.specimen_id).where(_RUNS_ASKED)))
_KEPT = select(Result).where(Result.run_id.in_(bindparam("runs", expanding=True))).order_by(Result.seq)


def foresee(session: Session, run_ids: Sequence[str]) -> list[Foreseen]:
    """What runs give as the session sees them, beside what is kept of them; those that were taken back are passed over."""
    found = []
    for portion in _portions(run_ids):
        kept: dict[str, list[Result]] = {}
        for result in session.scalars(_KEPT, {"runs": portion}):
            kept.setdefault(str(result.run_id), []).append(result)
        runs = session.scalars(_STANDING, {"runs": portion}).all()
        # held, so that the session does not forget and fetch them for every step of every run
        beside = [session.scalars(of, {"runs": portion}).all() for of in (_TESTS, _SPECIMENS)]
        found += [_foreseen(session, run, kept.get(run.id, [])) for run in runs]
        del beside
    return found


def _foreseen(session: Session, run: Run, kept: Sequence[Result]) -> Foreseen:
    code = code_of(session, run)
    try:
        made = reduced(session, run)
    except AssayerError as error:
        raise AssayerError(f"{code}: {error}") from error
    before = {r.quantity: (r.value, r.unit, r.bound) for r in kept}
    method = find_method(find(session, Test, run.test_id).method)
    moved = compare(code.removeprefix("specimen "), method, before, {row["quantity"]: (row["value"], row["unit"], row["bound"]) for row in made.rows})
    differs = len(kept) != len(made.rows) or any(getattr(old, name) != value for old, new in zip(kept, made.rows, strict=True) for name, value in new.items())
    return Foreseen(run.id, run.test_id, made.rows, made.remarks, differs, bool(moved) or made.remarks != run.remarks, moved)


_RUNS = cast(Table, Run.__table__)
_REMARK = update(_RUNS).where(_RUNS.c.id == bindparam("run")).values(remarks=bindparam("told"), revision=_RUNS.c.revision + 1)
_DROP = delete(Result).where(Result.run_id.in_(bindparam("runs", expanding=True)))


def keep(unit: Unit, foreseen: Iterable[Foreseen]) -> list[MovedView]:
    """Put what was foreseen in place of what is kept: values and bounds that moved are noted in the records of their runs."""
    foreseen = sorted(foreseen, key=lambda f: f.run_id)
    other = [f for f in foreseen if f.differs]
    for portion in _portions([f.run_id for f in other]):
        unit.session.execute(_DROP, {"runs": portion})
    keep_rows(unit.session, [row for f in other for row in f.rows])
    shown = [f for f in foreseen if f.shows]
    if shown:
        unit.session.execute(_REMARK, [{"run": f.run_id, "told": f.remarks} for f in shown])
    for f in shown:
        held = unit.session.identity_map.get(identity_key(Run, f.run_id))
        if held is not None:
            unit.session.expire(held, ["remarks", "revision"])
    unit.log_all("run", "recomputed", [(f.run_id, *_before_and_after(f.moved)) for f in shown if f.moved])
    # a newer reduction may leave every value as it is, and still decides what they are averaged with
    tests = sorted({f.test_id for f in (*other, *shown)})
    study_of = {test: find(unit.session, Test, test).study_id for test in tests}
    for study_id in sorted(set(study_of.values())):
        unit.touch(study_id, [test for test in tests if study_of[test] == study_id])
    return [m for f in foreseen for m in f.moved]


def _before_and_after(moved: Sequence[MovedView]) -> tuple[Facts, Facts]:
    return {m.quantity: _said(m.old, m.old_bound) for m in moved}, {m.quantity: _said(m.new, m.new_bound) for m in moved}


def _said(value: float | None, bound: str | None) -> str | None:
    sign = {"at_least": "≥ ", "at_most": "≤ "}.get(bound or "", "")
    return None if value is None else f"{sign}{value:.6g}"


Values = Mapping[str, tuple[float, str, str]]
"""Value, unit and bound by quantity."""


def compare(code: str, method: Method, before: Values, after: Values) -> list[MovedView]:
    """The values and bounds that are no longer what they were, by more than rounding does."""
    moved = []
    for quantity in dict.fromkeys((*before, *after)):
        old, new = before.get(quantity), after.get(quantity)
        same = old is not None and new is not None and abs(old[0] - new[0]) <= _SAME * max(abs(old[0]), abs(new[0])) and old[2] == new[2]
        if not same:
            moved.append(
                MovedView(
                    code=code,
                    quantity=quantity,
                    label=label_of(method, quantity),
                    old=None if old is None else old[0],
                    new=None if new is None else new[0],
                    old_bound=None if old is None else old[2],
                    new_bound=None if new is None else new[2],
                    unit=(new or old or (0.0, "", ""))[1],
                )
            )
    return moved
