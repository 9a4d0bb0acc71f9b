"""How far each arm is from the reference in percent, what the usual scatter says of too few, and the answer in words."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from sqlalchemy.orm import Session

from assayer.core.methods.derived import Derived
from assayer.core.methods.vocabulary import Bound
from assayer.core.statements.answer import ArmResult, Comparison, answer
from assayer.core.stats.groups import GroupSummary, Interval
from assayer.core.stats.relative import FEW, Provisional, Relative, provisional, relative_to
from assayer.core.stats.several_groups import Pair
from assayer.core.stats.verdicts import Verdict, VerdictWord
from assayer.services.findings.views import ProvisionalView, RelativeView, SentenceView
from assayer.services.studies.evidence_groups import Evidence
from assayer.services.studies.evidence_views import pair
from assayer.services.studies.ratios import ArmRatio
from assayer.services.studies.scatter import says_enough, scatter_of
from assayer.services.unit import Workspace


@dataclass(frozen=True, slots=True)
class Differences:
    """By arm: how many times the reference it is, and what the usual scatter says where specimens are few."""

    relative: Mapping[str, Relative] = field(default_factory=dict)
    provisional: Mapping[str, Provisional] = field(default_factory=dict)


def differences(workspace: Workspace, session: Session, evidence: Evidence, verdicts: Mapping[str, Verdict], reference_id: str | None) -> Differences:
    """Factors at the level of the verdicts, and provisional differences where two specimens or fewer decide nothing."""
    groups = evidence.groups()
    reference = groups.get(reference_id or "")
    spec = evidence.method.quantity(evidence.quantity)
    if reference is None or spec.graded:
        return Differences()
    others = evidence.comparable_with(groups, reference_id or "")
    comparisons = sum(g.n >= FEW for g in others.values()) or 1
    relative = {a: r for a, g in others.items() if spec.ratio_scale and (r := relative_to(reference, g, comparisons)) is not None}
    few = {a: g for a, g in others.items() if min(g.n, reference.n) <= FEW and _is_open(verdicts.get(a))}
    scatter = _usual_scatter(workspace, session, evidence) if few else None
    if scatter is None:
        return Differences(relative)
    return Differences(relative, {a: provisional(reference, g, scatter, spec.ratio_scale, comparisons) for a, g in few.items()})


def _is_open(verdict: Verdict | None) -> bool:
    return verdict is None or verdict.word in (VerdictWord.NONE, VerdictWord.UNDECIDED)


def _usual_scatter(workspace: Workspace, session: Session, evidence: Evidence) -> float | None:
    """As a share of the mean, or in the quantity's unit where it has no ratio scale; as observed here, else what is typical of the method."""
    method, spec = evidence.method, evidence.method.quantity(evidence.quantity)
    pooled = [s for s in scatter_of(workspace, session, [method.name]) if s.orientation == evidence.test.orientation and s.unit == spec.unit]
    known = pooled[0] if pooled and spec.name == method.main and says_enough(pooled[0]) else None
    if spec.ratio_scale:
        return (known.cv if known else None) or method.typical_cv
    return (known.sd if known else None) or None


def sentences(
    evidence: Evidence, verdicts: Mapping[str, Verdict], apart: Differences, names: Mapping[str, str], reference_id: str | None, pairs: Sequence[Pair]
) -> list[SentenceView]:
    """The answer of a test in words."""
    if reference_id is None or reference_id not in names:
        return []
    spec, groups = evidence.method.quantity(evidence.quantity), evidence.groups()
    of = Comparison(
        label=spec.label,
        unit="" if spec.unit == "1" else spec.unit,
        good_side=spec.good_side,
        reference=names[reference_id],
        alike_pairs={frozenset((names[p.a], names[p.b])) for p in pairs if not p.ci95.clear_of_zero},
        margin_share=evidence.margin.value if evidence.margin.relative else None,
    )
    arms = [
        _arm_result(names[a], (groups[a], groups[reference_id]), v, evidence.bound_of_mean(a), apart.relative.get(a), apart.provisional.get(a))
        for a, v in verdicts.items()
    ]
    return _views(of, arms)


def ratio_sentences(
    spec: Derived, label: str, ratios: Mapping[str, ArmRatio], verdicts: Mapping[str, Verdict], names: Mapping[str, str], reference_id: str | None
) -> list[SentenceView]:
    """The answer of a derived quantity in words."""
    if reference_id is None or reference_id not in ratios:
        return []
    of = Comparison(
        label=label, unit="", good_side=spec.good_side, reference=names[reference_id], margin_share=None if spec.margin is None else spec.margin.value
    )
    arms = [
        ArmResult(names[a], 0, r.ratio.ratio, v, relative_of_logs(v), None, at_least=r.bound is Bound.AT_LEAST, at_most=r.bound is Bound.AT_MOST)
        for a, v in verdicts.items()
        if (r := ratios.get(a)) is not None
    ]
    return _views(of, arms)


def _arm_result(
    name: str, compared: tuple[GroupSummary, GroupSummary], verdict: Verdict, bound: Bound, relative: Relative | None, few: Provisional | None
) -> ArmResult:
    group, reference = compared
    return ArmResult(name, min(group.n, reference.n), group.mean, verdict, relative, few, at_least=bound is Bound.AT_LEAST, at_most=bound is Bound.AT_MOST)


def _views(of: Comparison, arms: Sequence[ArmResult]) -> list[SentenceView]:
    return [SentenceView(says=s.says, text=s.text) for s in answer(of, arms)]


def relative_view(relative: Relative | None) -> RelativeView | None:
    return None if relative is None else RelativeView(factor=relative.factor, ci95=pair(relative.ci95))


def provisional_view(few: Provisional | None) -> ProvisionalView | None:
    if few is None:
        return None
    return ProvisionalView(difference=few.difference, ci95=(few.ci95.low, few.ci95.high), relative=relative_view(few.relative))


def relative_of_logs(verdict: Verdict | None) -> Relative | None:
    """Of ratios, whose verdicts are about logarithms."""
    if verdict is None:
        return None
    ci = verdict.ci95
    return Relative(math.exp(verdict.difference), None if ci is None else Interval(math.exp(ci.low), math.exp(ci.high)))
