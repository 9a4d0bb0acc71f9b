"""The ranking of a study's arms for a purpose."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

from sqlalchemy import select
from sqlalchemy.orm import Session

from assayer.core.methods.derived import DERIVED
from assayer.core.ranking.ranking import Criterion, Estimate, Ranked, RankingDraws, estimate, pooled_sd
from assayer.services.choose.views import RankedView, Ranking
from assayer.services.kept import Kept
from assayer.services.studies.evidence import arms_of, load_evidence
from assayer.services.studies.ratios import arm_ratios, derived_of
from assayer.services.unit import Workspace, find
from assayer.store.models import Arm, Purpose, PurposeCriterion, Study, Test

_draws: Kept[RankingDraws] = Kept(8)
"""The draws of the last few purposes: a change of weights needs no new ones."""


def rank(workspace: Workspace, purpose_id: str, weights: Mapping[str, float] | None = None) -> Ranking:
    """The ranking under the kept weights, or under others that are only tried."""
    with workspace.read() as session:
        purpose = find(session, Purpose, purpose_id)
        study = find(session, Study, purpose.study_id)
        used = {c.id: (weights or {}).get(c.id, c.weight) for c in purpose.criteria}
        key = (str(workspace.db.path), purpose_id, study.revision, tuple((c.id, c.no_use, c.all_needed, c.required, c.near) for c in purpose.criteria))
        draws = _draws.of(key, lambda: _make_draws(session, purpose, study))
    return Ranking(
        purpose_id=purpose_id,
        data_revision=study.revision,
        seed=purpose.seed,
        weights=used,
        ranked=[_ranked_view(draws, r) for r in draws.rank(used)],
    )


def _ranked_view(draws: RankingDraws, r: Ranked) -> RankedView:
    known = {c.key: draws.estimates.get((r.name, c.key)) for c in draws.criteria}
    return RankedView(
        arm_id=r.name,
        rank=r.rank,
        score_low=r.score_low,
        score_high=r.score_high,
        score_ci90=r.score_ci90,
        coverage=r.coverage,
        rank_probabilities=r.rank_probabilities,
        usefulness=r.usefulness,
        requirements={k: str(v) for k, v in r.requirements.items()},
        estimates={k: None if e is None else e.shown() for k, e in known.items()},
        bounds=r.bounds,
        notes=r.notes,
    )


def _make_draws(session: Session, purpose: Purpose, study: Study) -> RankingDraws:
    arms = arms_of(session, study.id)
    tests = {t.id: t for t in session.scalars(select(Test).where(Test.study_id == study.id))}
    criteria = [Criterion(c.id, c.no_use, c.all_needed, c.required, c.near) for c in purpose.criteria]
    estimates: dict[tuple[str, str], Estimate] = {}
    for c in purpose.criteria:
        found = _ratio_estimates(session, c, arms, tests) if c.quantity in DERIVED else _group_estimates(session, c, arms, tests)
        estimates.update({(arm, c.id): known for arm, known in found.items()})
    return RankingDraws([a.id for a in arms], criteria, estimates, seed=purpose.seed)


def _group_estimates(session: Session, criterion: PurposeCriterion, arms: Sequence[Arm], tests: Mapping[str, Test]) -> dict[str, Estimate]:
    evidence = load_evidence(session, [tests[criterion.test_id]], arms, {criterion.test_id: criterion.quantity})[criterion.test_id]
    groups = evidence.groups()
    pooled = pooled_sd(list(groups.values()))
    found = {arm: estimate(group, pooled, evidence.bound_of_mean(arm)) for arm, group in groups.items()}
    return {arm: known for arm, known in found.items() if known is not None}


def _ratio_estimates(session: Session, criterion: PurposeCriterion, arms: Sequence[Arm], tests: Mapping[str, Test]) -> dict[str, Estimate]:
    test = tests[criterion.test_id]
    spec, other = next((s, o) for s, o in derived_of(test, tests.values(), arms) if s.name == criterion.quantity)
    evidence = load_evidence(session, [test, other], arms)
    found = {}
    for arm_id, r in arm_ratios(spec, evidence[test.id], evidence[other.id]).items():
        if r.ratio.log_se is not None and r.ratio.df is not None:
            found[arm_id] = Estimate(math.log(r.ratio.ratio), r.ratio.log_se, r.ratio.df, log=True, bound=r.bound)
    return found
