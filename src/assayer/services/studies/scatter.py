"""How far specimens scatter here: what a plan may assume of a test."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from sqlalchemy import Row, select
from sqlalchemy.orm import Session

from assayer.core.methods import REGISTRY, known
from assayer.core.methods import method as find_method
from assayer.core.methods.vocabulary import Bound, Orientation, Validity
from assayer.core.stats.batches import BatchRatio, batch_scatter, pool_of_tests, pooled_batch_ratio
from assayer.core.stats.scatter import ScatterPart, pooled_scatter, scatter_part
from assayer.services.declarations import main_of
from assayer.services.kept import Kept
from assayer.services.rigs.views import ScatterList, ScatterView
from assayer.services.unit import Workspace
from assayer.store.models import Result, Run, Slot, Specimen, Test


@dataclass(frozen=True, slots=True)
class _TestScatter:
    """What one test adds to the usual scatter of its method."""

    within: ScatterPart
    batch_ratio: BatchRatio | None


_OfUnit = Mapping[str, _TestScatter]
"""What a test adds, by the unit of its results."""

LEAST_DF = 4
"""Fewer degrees of freedom say too little of a method's usual scatter."""

_kept: Kept[_OfUnit] = Kept(20_000)


def scatter(workspace: Workspace) -> ScatterList:
    """Pooled scatter of the main quantity within batches, and the batch-to-within ratio, by method and orientation; unlike rigs and ends are never one arm."""
    with workspace.read() as session:
        used = session.scalars(select(Test.method).distinct()).all()
        return ScatterList(items=scatter_of(workspace, session, dict.fromkeys((*REGISTRY, *used))))


def says_enough(observed: ScatterView) -> bool:
    """Whether a scatter observed here rests on enough specimens to stand for the usual one."""
    return observed.specimens - observed.arms >= LEAST_DF


def scatter_of(workspace: Workspace, session: Session, methods: Iterable[str]) -> list[ScatterView]:
    """The scatter of some methods; a test whose evidence did not change is not read again."""
    names = [m for m in methods if known(m)]
    tests = session.execute(select(Test.id, Test.revision, Test.method, Test.orientation).where(Test.method.in_(names))).all()
    keys = {t.id: (str(workspace.db.path), t.id, t.revision) for t in tests}
    parts = {t.id: _kept.get(keys[t.id]) for t in tests}
    missing = [key for key, part in parts.items() if part is None]
    for test_id, read in _read(session, missing).items():
        _kept.put(keys[test_id], read)
        parts[test_id] = read
    by_kind: dict[tuple[str, str, str], list[_TestScatter]] = defaultdict(list)
    for t in tests:
        for unit, part in (parts[t.id] or {}).items():
            by_kind[t.method, t.orientation, unit].append(part)
    return [_view(*kind, by_kind[kind]) for kind in sorted(by_kind)]


def _read(session: Session, test_ids: Sequence[str]) -> dict[str, _OfUnit]:
    if not test_ids:
        return {}
    tests = {t.id: t for t in session.scalars(select(Test).where(Test.id.in_(test_ids)))}
    mains = {key: main_of(t) for key, t in tests.items()}
    # prints that are laid in order have places, which are relative to what lay beside them and pool with nothing
    mains = {key: main for key, main in mains.items() if main.partition("@")[0] == find_method(tests[key].method).main}
    rows = session.execute(
        select(Run.test_id, Slot.arm_id, Specimen.batch_id, Run.rig_version_id, Run.outcome, Result.quantity, Result.value, Result.unit, Result.reading_step)
        .join(Run, Run.id == Result.run_id)
        .join(Specimen, Specimen.id == Run.specimen_id)
        .join(Slot, Slot.id == Specimen.slot_id)
        .where(Run.retracted_at.is_(None), Run.validity != Validity.LEFT_OUT, Result.bound == Bound.EXACT, Result.provisional.is_(False))
        .where(Run.test_id.in_(test_ids), Result.quantity.in_(set(mains.values())))
    )
    of_test: dict[str, dict[str, list[_Row]]] = {key: defaultdict(list) for key in test_ids}
    for row in rows:
        if mains.get(row.test_id) == row.quantity:
            of_test[row.test_id][row.unit].append(row)
    return {key: {unit: _part(tests[key].method, mains[key], own) for unit, own in by_unit.items()} for key, by_unit in of_test.items()}


_Row = Row[str, str, str, str, str | None, str, float, str, float]


def _part(method_name: str, main: str, rows: Sequence[_Row]) -> _TestScatter:
    method = find_method(method_name)
    arms: dict[tuple[str, ...], list[_Row]] = defaultdict(list)
    for r in rows:
        arms[r.arm_id, r.rig_version_id, method.end_apart(r.outcome)].append(r)
    groups: dict[tuple[str, ...], int] = {}
    values, of = [], []
    for arm, members in arms.items():
        # batches of one specimen each are the replicates themselves
        single = len({r.batch_id for r in members}) == len(members)
        for r in members:
            values.append(r.value)
            of.append(groups.setdefault(arm if single else (*arm, r.batch_id), len(groups)))
    scatters = [(batch_scatter([r.value for r in own], [r.batch_id for r in own]), max(r.reading_step for r in own)) for own in arms.values()]
    return _TestScatter(scatter_part(values, of, method.quantity(main).ratio_scale), pooled_batch_ratio(scatters))


def _view(method_name: str, orientation: str, unit: str, parts: Sequence[_TestScatter]) -> ScatterView:
    pooled = pooled_scatter(p.within for p in parts)
    ratio = pool_of_tests(p.batch_ratio for p in parts if p.batch_ratio is not None)
    return ScatterView(
        method=method_name,
        orientation=Orientation(orientation),
        quantity=find_method(method_name).main,
        arms=pooled.groups,
        specimens=pooled.n,
        cv=pooled.cv,
        sd=pooled.sd,
        unit=unit,
        batch_ratio=None if ratio is None else ratio.ratio,
        batch_df=0 if ratio is None else int(ratio.df_between),
    )
