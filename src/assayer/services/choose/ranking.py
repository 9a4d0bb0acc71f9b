"""The ranking of a study's arms for a purpose."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from sqlalchemy import select
from sqlalchemy.orm import Session

from assayer.core.methods.derived import DERIVED
from assayer.core.ranking.estimates import Criterion, Estimate, estimate, estimate_of_ratio, pooled_sd
from assayer.core.ranking.ranking import Ranked, RankingDraws
from assayer.services.choose.views import RankedView, Ranking
from assayer.services.kept import Kept
from assayer.services.studies.evidence import arms_of, load_evidence
from assayer.services.studies.fairness import problems_of
from assayer.services.studies.ratios import arm_ratios, derived_of
from assayer.services.unit import Workspace, find
from assayer.store.models import Arm, Purpose, PurposeCriterion, Study, Test

_draws: Kept[RankingDraws] = Kept(8)
"""The draws of the last few purposes: a change of weights needs no new ones."""


def rank(workspace: Workspace, purpose_id: str, weights: Mapping[str, float] | None = None, bounds_exact: bool = False) -> Ranking:
    """The ranking under the saved weights, or under others that are only tried.

    With `bounds_exact` values that are bounds are treated as exact, instead of leaving the score open.
    """
    with workspace.read() as session:
        purpose = find(session, Purpose, purpose_id)
        study = find(session, Study, purpose.study_id)
        used = {c.id: (weights or {}).get(c.id, c.weight) for c in purpose.criteria}
        criteria = tuple((c.id, c.no_use, c.all_needed, c.required, c.near) for c in purpose.criteria)
        key = (str(workspace.db.path), purpose_id, study.revision, criteria, bounds_exact)
        draws = _draws.of(key, lambda: _make_draws(session, purpose, study, bounds_exact))
        tests = session.scalars(select(Test).where(Test.study_id == study.id)).all()
        problems = [p.text for p in problems_of(session, study, tests, arms_of(session, study.id))]
    return Ranking(
        purpose_id=purpose_id,
        data_revision=study.revision,
        seed=purpose.seed,
        weights=used,
        ranked=[_ranked_view(draws, r) for r in draws.rank(used)],
        bounds_exact=bounds_exact,
        problems=problems,
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


def _make_draws(session: Session, purpose: Purpose, study: Study, bounds_exact: bool) -> RankingDraws:
    arms = arms_of(session, study.id)
    tests = {t.id: t for t in session.scalars(select(Test).where(Test.study_id == study.id))}
    criteria = [Criterion(c.id, c.no_use, c.all_needed, c.required, c.near) for c in purpose.criteria]
    estimates: dict[tuple[str, str], Estimate] = {}
    for c in purpose.criteria:
        of_criterion = _ratio_estimates(session, c, arms, tests) if c.quantity in DERIVED else _group_estimates(session, c, arms, tests)
        estimates.update({(arm, c.id): known.as_exact() if bounds_exact else known for arm, known in of_criterion.items()})
    return RankingDraws([a.id for a in arms], criteria, estimates, seed=purpose.seed)


def _group_estimates(session: Session, criterion: PurposeCriterion, arms: Sequence[Arm], tests: Mapping[str, Test]) -> dict[str, Estimate]:
    evidence = load_evidence(session, [tests[criterion.test_id]], arms, {criterion.test_id: criterion.quantity})[criterion.test_id]
    groups = evidence.groups()
    pooled = pooled_sd(list(groups.values()))
    estimates = {arm: estimate(group, pooled, evidence.bound_of_mean(arm), mean_key(evidence.test, evidence.quantity, arm)) for arm, group in groups.items()}
    return {arm: known for arm, known in estimates.items() if known is not None}


def _ratio_estimates(session: Session, criterion: PurposeCriterion, arms: Sequence[Arm], tests: Mapping[str, Test]) -> dict[str, Estimate]:
    test = tests[criterion.test_id]
    spec, other = next((s, o) for s, o in derived_of(test, tests.values(), arms) if s.name == criterion.quantity)
    evidence = load_evidence(session, [test, other], arms)
    above, below = evidence[test.id], evidence[other.id]
    estimates = {}
    for arm_id, r in arm_ratios(spec, above, below).items():
        upper, lower = mean_key(test, above.quantity, arm_id), mean_key(other, below.quantity, r.denominator)
        known = estimate_of_ratio(r.ratio, (upper, r.above), (lower, r.below))
        if known is not None:
            estimates[arm_id] = known
    return estimates


def mean_key(test: Test, quantity: str, arm_id: str) -> str:
    """Names one mean, so that criteria which rest on it draw it once and leave it open together."""
    return f"{test.id} {quantity} {arm_id}"
