"""Evidence as it is answered: groups, verdicts, dots, and what is to be said about an arm."""

from __future__ import annotations

from collections.abc import Sequence

from assayer.core.methods.ambient import AMBIENT_APART
from assayer.core.methods.base import at_words
from assayer.core.methods.derived import Derived
from assayer.core.methods.vocabulary import Bound
from assayer.core.stats.batches import BatchRatio
from assayer.core.stats.groups import GroupSummary, Interval
from assayer.core.stats.verdicts import Verdict
from assayer.services.parts.shapes import shape_of, title_of
from assayer.services.studies.evidence_groups import REDUCED_BY, Dot, Evidence, Key
from assayer.services.studies.ratios import ArmRatio, arm_ratios, label_of, ratio_verdicts, reference_of
from assayer.services.studies.views import BatchRatioView, CellView, DotView, EvidenceView, GroupView, RatioView, VerdictView
from assayer.store.models import Study, Test


def dot_view(dot: Dot) -> DotView:
    return DotView(
        run_id=dot.run_id,
        specimen_id=dot.specimen_id,
        code=dot.code,
        value=dot.value,
        bound=dot.bound,
        state=dot.state,
        reason=dot.reason,
    )


def pair(value: Interval | None) -> tuple[float, float] | None:
    return None if value is None else (value.low, value.high)


def verdict_view(verdict: Verdict | None) -> VerdictView | None:
    if verdict is None:
        return None
    return VerdictView(
        word=str(verdict.word),
        difference=verdict.difference,
        ci95=pair(verdict.ci95),
        ci90=pair(verdict.ci90),
        margin=verdict.margin,
        more_specimens=verdict.more_specimens,
        notes=verdict.notes,
    )


def group_view(evidence: Evidence, arm_id: str, group: GroupSummary | None) -> GroupView | None:
    """A group with its bounds; grades get no interval of their mean, which claims more than was seen (decision 0031)."""
    if group is None:
        return None
    bounds = evidence.bounds(arm_id)
    graded = evidence.method.quantity(evidence.quantity).graded
    return GroupView(
        n=group.n,
        mean=group.mean,
        sd=group.sd,
        cv=group.cv,
        ci95=None if graded else pair(group.ci95),
        median=group.median,
        minimum=group.minimum,
        maximum=group.maximum,
        at_least=bounds.at_least,
        at_most=bounds.at_most,
        batches=group.batches,
        within_sd=None if graded else group.within_sd,
        ci95_new_batch=None if graded else pair(group.ci95_new_batch),
    )


def batch_ratio_view(ratio: BatchRatio | None) -> BatchRatioView | None:
    return None if ratio is None else BatchRatioView(ratio=ratio.ratio, df=ratio.df_between, few=ratio.few)


def ratio_view(ratio: ArmRatio, test: Test, verdict: Verdict | None) -> RatioView:
    return RatioView(
        name=ratio.spec.name,
        label=label_of(ratio.spec, test),
        ratio=ratio.ratio.ratio,
        ci95=pair(ratio.ratio.ci95),
        bound=str(ratio.bound),
        verdict=verdict_view(verdict),
    )


def notes_of(evidence: Evidence, arm_id: str) -> list[str]:
    """What is to be said about an arm: what stands apart and why, bounds in its mean, rooms that differ."""
    dots = evidence.dots.get(arm_id, [])
    notes = []
    for key in dict.fromkeys(d.key for d in dots if d.state == "apart"):
        count = sum(d.key == key and d.state == "apart" for d in dots)
        differs = _differs(key, evidence.keys[arm_id], evidence.rig_names.get(key[1], ""))
        notes.append(f"{count} {differs}: shown apart, not averaged")
    if evidence.unlike_starts is not None and dots:
        first, last = (at_words("after", s).removeprefix("after ") for s in evidence.unlike_starts)
        notes.append(f"first read between {first} and {last}: compared by the fitted law from 1 min on")
        unfitted = [d.code for d in dots if d.state == "counts" and d.value is None]
        if unfitted:
            notes.append(f"{', '.join(unfitted)}: too few readings for a fit, not comparable")
    bounds, n = evidence.bounds(arm_id), len(evidence.counted(arm_id))
    if bounds.at_least:
        fit = evidence.fits.get(arm_id)
        how = "the true mean is higher" if fit is None else "nothing limits the mean above, so its lower limit is shown (Weibull)"
        notes.append(f"{bounds.at_least} of {n} are lower bounds: {how}")
    lower = [d for d in evidence.counted(arm_id) if d.bound == Bound.AT_LEAST and d.value is not None]
    if lower and not bounds.at_least:
        notes.append(f"{len(lower)} of {n} are lower bounds, included in the mean (Weibull); its interval does not model batches")
    exact = [d.value for d in evidence.counted(arm_id) if d.bound == Bound.EXACT and d.value is not None]
    above = [d.code for d in lower if exact and (d.value or 0.0) > sum(exact) / len(exact)]
    if above:
        notes.append(f"{', '.join(above)}: the lower bound is above the mean of what broke, so that mean is too low")
    if bounds.at_most:
        notes.append(f"{bounds.at_most} of {n} are upper bounds: the true mean is lower")
    counted = [d.ambient for own in evidence.dots.values() for d in own if d.state == "counts" and d.ambient is not None]
    if counted:
        mean = sum(counted) / len(counted)
        for d in evidence.counted(arm_id):
            if d.ambient is not None and abs(d.ambient - mean) > AMBIENT_APART:
                notes.append(f"{d.code}: the room was {d.ambient:.1f} °C, {mean:.1f} °C for all: the comparison is marked")
    return notes


def _differs(key: Key, usual: Key, rig: str) -> str:
    """Which of the three differs first, in words."""
    if key[0] != usual[0]:
        (procedure, _, reduction), usual_procedure = key[0].partition(REDUCED_BY), usual[0].partition(REDUCED_BY)[0]
        if procedure == usual_procedure:
            return f"computed by {f'reduction {reduction}' if reduction else 'the newest reduction'}, unlike the others: run assayer recompute"
        return f"tested with another procedure ({rig})"
    return f"tested with another rig ({rig})" if key[1] != usual[1] else f"ended otherwise ({key[2]})"


def evidence_view(evidence: Evidence, below: Sequence[tuple[Derived, Evidence]], study: Study) -> EvidenceView:
    """What the board shows of one test."""
    groups = evidence.groups()
    verdicts = evidence.verdicts(groups, study.reference_arm_id)
    spec = evidence.method.quantity(evidence.quantity)
    reference = groups.get(study.reference_arm_id or "")
    ratios = [arm_ratios(derived, evidence, other) for derived, other in below]
    judged = [ratio_verdicts(r, reference_of(d, r, evidence.arms, study.reference_arm_id)) for (d, _), r in zip(below, ratios, strict=True)]
    test = evidence.test
    return EvidenceView(
        test_id=test.id,
        label=title_of(test),
        orientation=test.orientation,
        shape=shape_of(test).label,
        quantity=evidence.quantity,
        quantity_label=spec.label,
        unit=spec.unit,
        good_side=str(spec.good_side),
        replicates=test.replicates,
        margin=evidence.margin.absolute(reference) if reference else None,
        margin_relative=test.margin_value if test.margin_relative else None,
        revision=test.revision,
        cells=[
            CellView(
                arm_id=arm.id,
                planned=evidence.planned[arm.id],
                printed=evidence.printed[arm.id],
                treated=evidence.treated[arm.id],
                measured=evidence.measured[arm.id],
                tested=evidence.tested(arm.id),
                batches=evidence.batches(arm.id),
                dots=[dot_view(d) for d in evidence.dots.get(arm.id, [])],
                group=group_view(evidence, arm.id, groups.get(arm.id)),
                verdict=verdict_view(verdicts.get(arm.id)),
                derived=[ratio_view(r[arm.id], test, v.get(arm.id)) for r, v in zip(ratios, judged, strict=True) if arm.id in r],
                notes=notes_of(evidence, arm.id),
            )
            for arm in evidence.arms
        ],
        batch_ratio=batch_ratio_view(evidence.batch_ratio),
    )
