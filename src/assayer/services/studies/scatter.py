"""How far specimens scatter here: what a plan may assume of a test."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable

from sqlalchemy import or_, select
from sqlalchemy.orm import Session

from assayer.core.methods import REGISTRY, known
from assayer.core.methods import method as find_method
from assayer.core.methods.vocabulary import Bound, Validity
from assayer.core.ranking.ranking import pooled_sd
from assayer.core.stats.groups import summarise
from assayer.services.declarations import main_of
from assayer.services.rigs.views import ScatterList, ScatterView
from assayer.services.unit import Workspace
from assayer.store.models import Result, Run, Slot, Specimen, Test


def scatter(workspace: Workspace) -> ScatterList:
    """Pooled scatter of the main quantity within arms, by method and orientation; unlike rigs and ends are never one arm."""
    with workspace.read() as session:
        used = session.scalars(select(Test.method).distinct()).all()
        return ScatterList(items=scatter_of(session, dict.fromkeys((*REGISTRY, *used))))


def scatter_of(session: Session, methods: Iterable[str]) -> list[ScatterView]:
    """The scatter of some methods."""
    names = [m for m in methods if known(m)]
    if not names:
        return []
    rows = session.execute(
        select(Test, Slot.arm_id, Run.rig_version_id, Run.outcome, Result.quantity, Result.value, Result.unit)
        .join(Run, Run.id == Result.run_id)
        .join(Test, Test.id == Run.test_id)
        .join(Specimen, Specimen.id == Run.specimen_id)
        .join(Slot, Slot.id == Specimen.slot_id)
        .where(Run.retracted_at.is_(None), Run.validity != Validity.LEFT_OUT, Result.bound == Bound.EXACT, Result.provisional.is_(False))
        .where(Test.method.in_(names), or_(*(Result.quantity.startswith(find_method(m).main) for m in names)))
    ).all()
    mains = {r.Test.id: main_of(r.Test) for r in rows}
    groups: dict[tuple[str, str, str], dict[tuple[str, ...], list[float]]] = defaultdict(lambda: defaultdict(list))
    for r in rows:
        if mains[r.Test.id] == r.quantity:
            end = find_method(r.Test.method).end_apart(r.outcome)
            groups[r.Test.method, r.Test.orientation, r.unit][r.Test.id, r.arm_id, r.rig_version_id, end].append(r.value)
    items = []
    for (method, orientation, unit), arms in sorted(groups.items()):
        spec = next(q for q in find_method(method).quantities if q.name == find_method(method).main)
        summaries = [summarise(values, 0.0, spec.ratio_scale) for values in arms.values()]
        pooled = pooled_sd(summaries)
        # relative scatter pooled as variances are: √(Σ(n−1)·CV² / Σ(n−1))
        relative = [(s.n - 1, s.sd / abs(s.mean)) for s in summaries if s.cv is not None and s.sd is not None]
        df = sum(n for n, _ in relative)
        items.append(
            ScatterView(
                method=method,
                orientation=orientation,
                quantity=spec.name,
                arms=len(arms),
                specimens=sum(len(v) for v in arms.values()),
                cv=(sum(n * cv**2 for n, cv in relative) / df) ** 0.5 if df else None,
                sd=None if pooled is None else pooled[0],
                unit=unit,
            )
        )
    return items
