"""The ranking of a study's arms for a purpose."""

from __future__ import annotations

import math
from collections import OrderedDict
from collections.abc import Mapping
from threading import Lock
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from assayer.core.ranking.ranking import Criterion, Estimate, RankingDraws, estimate, pooled_sd
from assayer.services.choose.purposes import LAYER_RATIO
from assayer.services.studies.evidence import load_evidence
from assayer.services.unit import Workspace, find
from assayer.store.models import Arm, Purpose, PurposeCriterion, Result, Study, Test


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


def rank(workspace: Workspace, purpose_id: str, weights: Mapping[str, float] | None = None) -> dict[str, Any]:
    """The ranking under the kept weights, or under others that are only tried."""
    with workspace.read() as session:
        use = find(session, Purpose, purpose_id)
        study = find(session, Study, use.study_id)
        used = {c.id: (weights or {}).get(c.id, c.weight) for c in use.criteria}
        key = (str(workspace.db.path), purpose_id, study.revision, tuple((c.id, c.no_use, c.all_needed, c.required) for c in use.criteria))
        draws = _draws.get(key)
        if draws is None:
            draws = _make_draws(session, use, study)
            _draws.put(key, draws)
    ranked = draws.rank(used)
    return {
        "purpose_id": purpose_id,
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


def _make_draws(session: Session, use: Purpose, study: Study) -> RankingDraws:
    arms = session.scalars(select(Arm.id).where(Arm.study_id == study.id).order_by(Arm.position)).all()
    criteria = [Criterion(c.id, c.no_use, c.all_needed, c.required) for c in use.criteria]
    estimates: dict[tuple[str, str], Estimate] = {}
    for c in use.criteria:
        found = _ratio_estimates(session, c) if c.quantity == LAYER_RATIO else _group_estimates(session, c)
        estimates.update({(arm, c.id): known for arm, known in found.items()})
    return RankingDraws(list(arms), criteria, estimates, seed=use.seed)


def _group_estimates(session: Session, criterion: PurposeCriterion) -> dict[str, Estimate]:
    groups = load_evidence(session, find(session, Test, criterion.test_id), criterion.quantity).groups()
    pooled = pooled_sd(list(groups.values()))
    found = {arm: estimate(group, pooled) for arm, group in groups.items()}
    return {arm: known for arm, known in found.items() if known is not None}


def _ratio_estimates(session: Session, criterion: PurposeCriterion) -> dict[str, Estimate]:
    rows = session.scalars(
        select(Result).where(Result.test_id == criterion.test_id, Result.subject_kind == "arm", Result.quantity == LAYER_RATIO, Result.log_se.is_not(None))
    )
    return {r.subject_id: Estimate(math.log(r.value), r.log_se or 0.0, r.df or 1.0, log=True) for r in rows}
