"""Choose: rank the materials of a study for a use."""

from __future__ import annotations

import math
from collections import OrderedDict
from collections.abc import Mapping
from threading import Lock
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from assayer.core.errors import ConflictError, EntryError
from assayer.core.methods import method as find_method
from assayer.core.ranking import Criterion, Estimate, RankingDraws, estimate, pooled_sd
from assayer.services.columns import load_column
from assayer.services.commands import NewUse, UseEdit
from assayer.services.studies import arm_dict
from assayer.services.workspace import Actor, Workspace, expect_revision, find
from assayer.store.models import Arm, Result, Study, Test, Use, UseCriterion

LAYER_RATIO = "layer_ratio"


class _DrawsCache:
    """The draws of the last few uses, by data revision: a change of weights needs no new ones."""

    def __init__(self, size: int = 8) -> None:
        self._size = size
        self._kept: OrderedDict[tuple[Any, ...], RankingDraws] = OrderedDict()
        self._lock = Lock()

    def get(self, key: tuple[Any, ...]) -> RankingDraws | None:
        with self._lock:
            found = self._kept.get(key)
            if found is not None:
                self._kept.move_to_end(key)
            return found

    def put(self, key: tuple[Any, ...], draws: RankingDraws) -> None:
        with self._lock:
            self._kept[key] = draws
            while len(self._kept) > self._size:
                self._kept.popitem(last=False)


_draws = _DrawsCache()


def list_uses(workspace: Workspace, limit: int, offset: int) -> dict[str, Any]:
    with workspace.read() as session:
        uses = session.execute(select(Use, Study.title).join(Study, Study.id == Use.study_id).order_by(Use.title).limit(limit).offset(offset)).all()
        return {"items": [{"id": u.id, "title": u.title, "study_id": u.study_id, "study_title": title} for u, title in uses]}


def add_use(workspace: Workspace, actor: Actor, new: NewUse) -> tuple[dict[str, Any], bool]:
    """Add a use with its criteria; the same id again changes nothing (second value False)."""
    with workspace.write(actor) as unit:
        there = unit.session.get(Use, new.id)
        if there is not None:
            if there.title != new.title:
                raise ConflictError("another use already has this id")
            return use_dict(unit.session, there), False
        study = find(unit.session, Study, new.study_id)
        use = Use(id=new.id, study_id=study.id, title=new.title, seed=study.seed, revision=1)
        unit.session.add(use)
        unit.session.flush()
        seen = set()
        for position, spec in enumerate(new.criteria):
            test = find(unit.session, Test, spec.test_id)
            known = {q.name for q in find_method(test.method).quantities} | {LAYER_RATIO}
            if test.study_id != study.id or spec.quantity not in known:
                raise EntryError(f"criterion {position + 1}: the study has no such test and quantity", "criteria", row=position + 1)
            if (spec.test_id, spec.quantity) in seen:
                raise EntryError(f"criterion {position + 1} is there twice", "criteria", row=position + 1)
            seen.add((spec.test_id, spec.quantity))
            Criterion(spec.quantity, spec.no_use, spec.all_needed, spec.required)
            use.criteria.append(UseCriterion(**spec.model_dump(), position=position))
        unit.session.flush()
        unit.log("use", use.id, "added", after={"title": use.title, "criteria": len(use.criteria)})
        return use_dict(unit.session, use), True


def set_weights(workspace: Workspace, actor: Actor, use_id: str, edit: UseEdit, revision: int | None) -> dict[str, Any]:
    """Keep new weights of a use."""
    with workspace.write(actor) as unit:
        use = find(unit.session, Use, use_id)
        expect_revision(revision, use.revision, "the use", {"revision": use.revision})
        before = {c.id: c.weight for c in use.criteria}
        unknown = set(edit.weights) - set(before)
        if unknown:
            raise EntryError("a weight is given for a criterion that this use does not have", "weights")
        for criterion in use.criteria:
            criterion.weight = edit.weights.get(criterion.id, criterion.weight)
        if not any(c.weight > 0 for c in use.criteria):
            raise EntryError("at least one weight must be above 0", "weights")
        use.revision += 1
        unit.log("use", use_id, "weighted", {"weights": before}, {"weights": {c.id: c.weight for c in use.criteria}})
        unit.session.flush()
        return use_dict(unit.session, use)


def get_use(workspace: Workspace, use_id: str) -> dict[str, Any]:
    with workspace.read() as session:
        return use_dict(session, find(session, Use, use_id))


def use_dict(session: Session, use: Use) -> dict[str, Any]:
    study = find(session, Study, use.study_id)
    criteria = []
    for c in use.criteria:
        test = find(session, Test, c.test_id)
        method = find_method(test.method)
        ratio = c.quantity == LAYER_RATIO
        spec = None if ratio else method.quantity(c.quantity)
        criteria.append(
            {
                "id": c.id,
                "test_id": c.test_id,
                "test_label": method.label_for(test.orientation),
                "orientation": test.orientation,
                "quantity": c.quantity,
                "label": "layer ratio" if spec is None else spec.label,
                "unit": "1" if spec is None else spec.unit,
                "no_use": c.no_use,
                "all_needed": c.all_needed,
                "required": c.required,
                "weight": c.weight,
            }
        )
    return {
        "id": use.id,
        "title": use.title,
        "study_id": use.study_id,
        "study_title": study.title,
        "revision": use.revision,
        "criteria": criteria,
        "arms": [arm_dict(a) for a in session.scalars(select(Arm).where(Arm.study_id == study.id).order_by(Arm.position))],
    }


def rank(workspace: Workspace, use_id: str, weights: Mapping[str, float] | None = None) -> dict[str, Any]:
    """The ranking under the kept weights, or under others that are only tried."""
    with workspace.read() as session:
        use = find(session, Use, use_id)
        study = find(session, Study, use.study_id)
        used = {c.id: (weights or {}).get(c.id, c.weight) for c in use.criteria}
        key = (str(workspace.db.path), use_id, study.revision, tuple((c.id, c.no_use, c.all_needed, c.required) for c in use.criteria))
        draws = _draws.get(key)
        if draws is None:
            draws = _make_draws(session, use, study)
            _draws.put(key, draws)
    ranked = draws.rank(used)
    return {
        "use_id": use_id,
        "data_revision": study.revision,
        "seed": use.seed,
        "weights": used,
        "ranked": [
            {
                "arm_id": r.name,
                "rank": r.rank,
                "score_low": r.score_low,
                "score_high": r.score_high,
                "score_ci90": list(r.score_ci90),
                "coverage": r.coverage,
                "rank_probabilities": r.rank_probabilities,
                "usefulness": r.usefulness,
                "requirements": {k: str(v) for k, v in r.requirements.items()},
                "estimates": {c.key: _shown(draws, r.name, c.key) for c in draws.criteria},
                "notes": r.notes,
            }
            for r in ranked
        ],
    }


def _shown(draws: RankingDraws, arm_id: str, key: str) -> float | None:
    known = draws.estimates.get((arm_id, key))
    return None if known is None else known.shown()


def _make_draws(session: Session, use: Use, study: Study) -> RankingDraws:
    arms = session.scalars(select(Arm.id).where(Arm.study_id == study.id).order_by(Arm.position)).all()
    criteria = [Criterion(c.id, c.no_use, c.all_needed, c.required) for c in use.criteria]
    estimates: dict[tuple[str, str], Estimate] = {}
    for c in use.criteria:
        found = _ratio_estimates(session, c) if c.quantity == LAYER_RATIO else _group_estimates(session, c)
        estimates.update({(arm, c.id): known for arm, known in found.items()})
    return RankingDraws(list(arms), criteria, estimates, seed=use.seed)


def _group_estimates(session: Session, criterion: UseCriterion) -> dict[str, Estimate]:
    groups = load_column(session, find(session, Test, criterion.test_id), criterion.quantity).groups()
    pooled = pooled_sd(list(groups.values()))
    found = {arm: estimate(group, pooled) for arm, group in groups.items()}
    return {arm: known for arm, known in found.items() if known is not None}


def _ratio_estimates(session: Session, criterion: UseCriterion) -> dict[str, Estimate]:
    rows = session.scalars(
        select(Result).where(Result.test_id == criterion.test_id, Result.subject_kind == "arm", Result.quantity == LAYER_RATIO, Result.log_se.is_not(None))
    )
    return {r.subject_id: Estimate(math.log(r.value), r.log_se or 0.0, r.df or 1.0, log=True) for r in rows}
