"""Makers' claims held against everything comparable that was measured here."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence

from assayer.core.methods import REGISTRY
from assayer.core.methods.traits import BEST_GRADE
from assayer.core.stats.claimed import ClaimJudgement, ClaimVerdict, judge_factor, judge_order, judge_value
from assayer.core.stats.groups import GroupSummary
from assayer.core.stats.verdicts import GoodSide, Margin
from assayer.services.findings.views import ClaimVerdictView
from assayer.services.studies.evidence_views import pair
from assayer.services.studies.history import MeasuredGroup
from assayer.store.models import Claim, Material

MEASURED_BY: Mapping[str, tuple[tuple[str, str], ...]] = {
    "strength": (("strength", "flat"),),
    "apparent_modulus": (("apparent_modulus", "flat"),),
    "layer_adhesion": (("strength", "upright"),),
    "impact": (("impact_strength", "flat"),),
    "bending_strength": (("flexural_strength", "flat"),),
    "bending_modulus": (("flexural_modulus", "flat"),),
    "strain_at_break": (("strain_at_break", "flat"),),
    "heat": (("deflection_temperature", "flat"), ("sag_onset", "flat")),
    "creep": (("creep_at_horizon", "flat"),),
    "warp": (("mean_lift", "flat"),),
    "shrinkage": (("shrinkage", "flat"),),
    "density": (("density", "flat"),),
    "stringing": (("median@stringing", "flat"),),
}
"""Which measured quantities, in which orientation, a claim is held against; "between the layers" is what parts upright."""


def comparable(claim: Claim, groups: Iterable[MeasuredGroup]) -> list[MeasuredGroup]:
    """The groups that a claim is about: its quantity as printed, for a maker does not speak of what was treated."""
    quantities = MEASURED_BY.get(claim.quantity or "", ())
    return [g for g in groups if (g.view.quantity, g.view.orientation) in quantities and not g.view.treatment]


def judge_claim(
    claim: Claim,
    own: Sequence[MeasuredGroup],
    others: Mapping[str, Sequence[MeasuredGroup]],
    materials: Sequence[Material],
    margins: Mapping[str, Margin] | None = None,
) -> list[ClaimVerdictView]:
    """The verdicts on one claim, one for each group that was measured of it.

    Parameters
    ----------
    own : sequence of MeasuredGroup
        Of the material that the claim is about.
    others : mapping of material id to MeasuredGroups
        Of the materials that it may be compared with.
    materials : sequence of Material
        Among which the one that is named is looked for.
    margins : mapping of quantity to Margin, optional
        Those that the lab has set itself.
    """
    groups = comparable(claim, own)
    if claim.relation in ("value", "at least", "at most") and claim.value is not None:
        return [_view(g, _of_value(claim, claim.value, g, margins or {})) for g in groups if _same_unit(claim, g)]
    if claim.relation == "none":
        return [_view(g, j) for g in groups if (j := _of_absence(g, margins or {})) is not None]
    if claim.relation not in ("times", "more", "less"):
        return []
    verdicts = []
    for other in named_in(claim.reference, materials):
        for g in groups:
            alike = [o for o in comparable(claim, others.get(other.id, [])) if _alike(g, o) and o.summary.mean > 0]
            if alike and g.summary.mean > 0:
                verdicts.append(_view(g, _of_factor(claim, g, alike[0].summary), f"{other.maker} {other.product}, {other.colour}"))
    return verdicts


def named_in(reference: str, materials: Sequence[Material]) -> list[Material]:
    """The materials that a reference names, in full or by the product alone; the longest name wins, in all its colours."""
    text = f" {reference.casefold()} "
    by_name: dict[str, list[Material]] = {}
    for m in materials:
        for name in (f"{m.maker} {m.product}", m.product):
            if f" {name.casefold()} " in text.replace(",", " ").replace(".", " "):
                by_name.setdefault(name, []).append(m)
    return by_name[max(by_name, key=len)] if by_name else []


def _alike(one: MeasuredGroup, other: MeasuredGroup) -> bool:
    """Measured with the same rig, ended the same way, in the same quantity."""
    a, b = one.view, other.view
    return (a.quantity, a.orientation, a.rig_version_id, a.end) == (b.quantity, b.orientation, b.rig_version_id, b.end)


def _same_unit(claim: Claim, g: MeasuredGroup) -> bool:
    return not claim.unit or claim.unit == g.view.unit


def _of_value(claim: Claim, value: float, g: MeasuredGroup, margins: Mapping[str, Margin]) -> ClaimJudgement:
    # a bound on a strength is a claim that more is fine
    side = {"at least": GoodSide.HIGHER, "at most": GoodSide.LOWER}.get(claim.relation, GoodSide(g.view.good_side))
    judgement = judge_value(value, g.summary, _margin(g, margins), side)
    if claim.relation != "value" and judgement.verdict is ClaimVerdict.BETTER:
        return ClaimJudgement(ClaimVerdict.AS_CLAIMED, judgement.measured, judgement.ci95)
    return judgement


def _of_absence(g: MeasuredGroup, margins: Mapping[str, Margin]) -> ClaimJudgement | None:
    """ "Does not warp", "no stringing": a value of 0 where the margin is absolute, the best step of grades; None where neither has a meaning."""
    if _is_graded(g):
        if all(v == BEST_GRADE for v in g.view.values):
            return ClaimJudgement(ClaimVerdict.AS_CLAIMED, g.summary.mean, None)
        is_present = g.view.n > 1 and all(v < BEST_GRADE for v in g.view.values)
        return ClaimJudgement(ClaimVerdict.CONTRADICTED if is_present else ClaimVerdict.UNDECIDED, g.summary.mean, None)
    margin = _margin(g, margins)
    return None if margin.relative else judge_value(0.0, g.summary, margin, GoodSide(g.view.good_side))


def _is_graded(g: MeasuredGroup) -> bool:
    return g.view.quantity.startswith("median@")


def _of_factor(claim: Claim, g: MeasuredGroup, against: GroupSummary) -> ClaimJudgement:
    if claim.relation in ("more", "less") or claim.value is None:
        return judge_order(g.summary, against, higher=claim.relation != "less")
    return judge_factor(claim.value, g.summary, against, GoodSide(g.view.good_side))


def _margin(g: MeasuredGroup, margins: Mapping[str, Margin]) -> Margin:
    """The lab's own, else that of the quantity; a share is of the claimed value."""
    name = g.view.quantity.partition("@")[0]
    if name in margins:
        return margins[name]
    spec = next((q for m in REGISTRY.values() for q in m.quantities if q.name == name), None)
    return Margin(0.10) if spec is None else spec.margin


def _view(g: MeasuredGroup, judgement: ClaimJudgement, against: str = "") -> ClaimVerdictView:
    bounds = g.view.at_least + g.view.at_most
    is_open = bounds > 0 and judgement.verdict is not ClaimVerdict.NOT_TESTABLE
    return ClaimVerdictView(
        measured=g.view,
        verdict=str(ClaimVerdict.UNDECIDED if is_open else judgement.verdict),
        value=judgement.measured,
        ci95=pair(judgement.ci95),
        against=against,
        reason=f"{bounds} of {g.view.n} are bounds" if is_open else judgement.reason,
    )
