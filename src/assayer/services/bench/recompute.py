"""Apply the newest reduction to every run and tell which values moved."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from sqlalchemy import select

from assayer.core.errors import AssayerError
from assayer.services.bench.reductions import reduce_run
from assayer.services.studies.evidence import refresh_evidence
from assayer.services.unit import Actor, Workspace, find
from assayer.store.models import Result, Run

_SAME = 1e-9
_CHUNK = 200


@dataclass(frozen=True, slots=True)
class Moved:
    """One value that is no longer what it was; `old` or `new` is None where it came or went."""

    code: str
    quantity: str
    old: float | None
    new: float | None
    unit: str


def recompute(workspace: Workspace, actor: Actor, progress: Callable[[int, int], None] | None = None) -> list[Moved]:
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
        ids = session.scalars(select(Run.id).where(Run.retracted_at.is_(None), Run.complete).order_by(Run.id)).all()
    moved: list[Moved] = []
    for start in range(0, len(ids), _CHUNK):
        with workspace.write(actor) as unit:
            tests = set()
            for run_id in ids[start : start + _CHUNK]:
                run = find(unit.session, Run, run_id)
                if run.retracted_at is not None:
                    continue
                query = select(Result).where(Result.run_id == run_id)
                before = {r.quantity: (r.value, r.unit) for r in unit.session.scalars(query)}
                try:
                    reduce_run(unit.session, run)
                except AssayerError as error:
                    raise AssayerError(f"specimen {run.specimen.code}: {error}") from error
                unit.session.flush()
                after = {r.quantity: (r.value, r.unit) for r in unit.session.scalars(query)}
                changed = _compare(run.specimen.code, before, after)
                if changed:
                    tests.add(run.test_id)
                    unit.log("run", run_id, "recomputed", {m.quantity: m.old for m in changed}, {m.quantity: m.new for m in changed})
                moved += changed
            for test_id in sorted(tests):
                refresh_evidence(unit, test_id)
        if progress is not None:
            progress(min(start + _CHUNK, len(ids)), len(ids))
    return moved


def _compare(code: str, before: dict[str, tuple[float, str]], after: dict[str, tuple[float, str]]) -> list[Moved]:
    moved = []
    for quantity in dict.fromkeys((*before, *after)):
        old, new = before.get(quantity), after.get(quantity)
        same = old is not None and new is not None and abs(old[0] - new[0]) <= _SAME * max(abs(old[0]), abs(new[0]))
        if not same:
            moved.append(Moved(code, quantity, old and old[0], new and new[0], (new or old or (0.0, ""))[1]))
    return moved
