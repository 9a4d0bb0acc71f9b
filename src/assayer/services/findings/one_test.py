"""Findings of one test: groups, Welch's ANOVA, all pairs, verdicts, hints of outliers."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session

from assayer.core.errors import EntryError
from assayer.core.methods.derived import DERIVED, Derived
from assayer.core.methods.results import at_order
from assayer.core.methods.vocabulary import Bound
from assayer.core.stats.grades import agreement
from assayer.core.stats.outliers import grubbs
from assayer.core.stats.several_groups import Pair, games_howell, welch_anova
from assayer.core.stats.tolerance import design_value
from assayer.core.stats.verdicts import Verdict
from assayer.services.declarations import quantity_view
from assayer.services.findings.answers import differences, provisional_view, ratio_sentences, relative_of_logs, relative_view, sentences
from assayer.services.findings.earlier import earlier_results
from assayer.services.findings.names import arm_names, name_of_earlier
from assayer.services.findings.per_spool import per_spool
from assayer.services.findings.views import AgreementView, AnovaView, EarlierArmView, EarlierView, EndGroupView, FindingArm, Findings, OutlierView, PairView
from assayer.services.studies.evidence import arms_of, begun, load_evidence
from assayer.services.studies.evidence_groups import Dot, Evidence
from assayer.services.studies.evidence_views import batch_ratio_view, dot_view, group_view, notes_of, pair, ratio_view, verdict_view
from assayer.services.studies.fairness import problems_of
from assayer.services.studies.listing import arm_views, study_ref, test_view
from assayer.services.studies.plan_views import ProblemView
from assayer.services.studies.ratios import ArmRatio, arm_ratios, controls_of, derived_of, label_of, ratio_verdicts, reference_of
from assayer.services.unit import Workspace, find
from assayer.services.views import QuantityView
from assayer.store.models import Arm, Result, Study, Test


def findings(
    workspace: Workspace, test_id: str, quantity: str | None = None, end: str | None = None, reference: str | None = None, added: Collection[str] = ()
) -> Findings:
    """Everything the Findings tab of a test shows, for one of its quantities, derived ones included.

    Parameters
    ----------
    quantity : str, optional
        Default: the one that the verdicts of the test rest on.
    end : str, optional
        The way of ending to compare, where ways of ending are not averaged with each other; default: the most common.
    reference : str, optional
        The arm that the others are compared with; default: the study's reference.
    added : collection of str
        Materials whose earlier results are shown beside those of the arms' own.

    Raises
    ------
    EntryError
        If the test has no such quantity or arm, or no run ended so.
    """
    with workspace.read() as session:
        test = find(session, Test, test_id)
        study = find(session, Study, test.study_id)
        tests = session.scalars(select(Test).where(Test.study_id == study.id).order_by(Test.position)).all()
        arms = arms_of(session, study.id)
        if reference is not None and reference not in {a.id for a in arms} and session.get(Arm, reference) is None:
            raise EntryError("there is no such arm", "reference")
        reference_id = reference or study.reference_arm_id
        problems = problems_of(session, study, tests, arms)
        belonging = derived_of(test, tests, arms)
        derived = next(((spec, other) for spec, other in belonging if spec.name == quantity), None)
        if derived is not None:
            return _of_ratio(session, study, _ratios(session, reference_id, test, arms, derived), belonging, problems)
        if quantity in DERIVED:
            spec = DERIVED[quantity]
            needs = "arms that were treated, each beside one that was not" if spec.of_controls else "the other test of it in this study"
            raise EntryError(f"this test has no {spec.label}: it needs {needs}", "quantity")
        shown = {test_id: quantity} if quantity else begun(session, [test])
        evidence = load_evidence(session, [test], arms, shown, {} if end is None else {test_id: end}, reference_id)[test_id]
        if end is not None and end not in evidence.ends:
            raise EntryError(f"no run of this test ended '{end}'", "end")
        return _of_quantity(workspace, session, (study, reference_id), evidence, belonging, problems, earlier_results(session, evidence, reference_id, added))


def _of_quantity(
    workspace: Workspace,
    session: Session,
    of: tuple[Study, str | None],
    evidence: Evidence,
    belonging: Sequence[tuple[Derived, Test]],
    problems: list[ProblemView],
    earlier: list[EarlierView],
) -> Findings:
    study, reference_id = of
    spec = evidence.method.quantity(evidence.quantity)
    groups = evidence.groups()
    verdicts = evidence.verdicts(groups, reference_id)
    apart = differences(workspace, session, evidence, verdicts, reference_id)
    views = {v.id: v for v in arm_views(session, evidence.arms, study)}
    names = arm_names(list(views.values())) | name_of_earlier(evidence)
    if evidence.earlier is not None:
        views[evidence.earlier.arm.id] = arm_views(session, [evidence.earlier.arm], study)[0]
    # grades are steps, not measured values: no variances are compared, nothing stands out by its distance
    measured = {} if spec.graded else groups
    anova = welch_anova(measured)
    spools = per_spool(session, evidence)
    arms = []
    for arm in evidence.compared_arms:
        counted = evidence.counted(arm.id)
        # a bound is no value that could be an outlier
        exact = [d for d in counted if d.bound == Bound.EXACT]
        hint = None if spec.graded else grubbs([d.value for d in exact if d.value is not None])
        stands_out = None
        if hint is not None and hint.stands_out:
            odd = exact[hint.index]
            stands_out = OutlierView(run_id=odd.run_id, code=odd.code, g=hint.g, critical=hint.critical)
        arms.append(
            FindingArm(
                arm=views[arm.id],
                name=names[arm.id],
                earlier=_earlier_view(evidence, arm.id),
                planned=evidence.planned[arm.id],
                measured=evidence.measured[arm.id],
                batches=evidence.batches(arm.id),
                group=group_view(evidence, arm.id, groups.get(arm.id)),
                ratio=None,
                verdict=verdict_view(verdicts.get(arm.id)),
                relative=relative_view(apart.relative.get(arm.id)),
                provisional=provisional_view(apart.provisional.get(arm.id)),
                dots=[dot_view(d) for d in evidence.dots.get(arm.id, [])],
                prints=_prints(evidence.dots.get(arm.id, [])),
                outlier=stands_out,
                notes=notes_of(evidence, arm.id),
                per_spool=spools.get(arm.id),
                design_value=_design_value(evidence, arm.id),
                ends=[EndGroupView(end=end, n=g.n, mean=g.mean, ci95=pair(g.ci95)) for end, g in evidence.by_end(arm.id).items()],
            )
        )
    pairs = games_howell(measured)
    return Findings(
        test=test_view(evidence.test),
        study=study_ref(study),
        quantity=quantity_view(spec, evidence.quantity),
        quantities=_available(session, evidence, belonging),
        reference_arm_id=reference_id,
        answer=sentences(evidence, verdicts, apart, names, reference_id, pairs),
        arms=arms,
        anova=None if anova is None else AnovaView(f=anova.f, df1=anova.df1, df2=anova.df2, p=anova.p),
        agreement=_agreement(evidence),
        pairs=[_pair_view(p, verdicts, reference_id, len(groups)) for p in pairs],
        batch_ratio=batch_ratio_view(evidence.batch_ratio),
        end=evidence.end,
        ends=evidence.ends,
        earlier=earlier,
        problems=problems,
    )


def _prints(dots: Sequence[Dot]) -> list[int]:
    """By dot the number of its batch; batches have ids in the order in which they were recorded."""
    numbers = {batch_id: i for i, batch_id in enumerate(sorted({d.batch_id for d in dots}), 1)}
    return [numbers[d.batch_id] for d in dots]


def _earlier_view(evidence: Evidence, arm_id: str) -> EarlierArmView | None:
    earlier = evidence.earlier
    if earlier is None or earlier.arm.id != arm_id:
        return None
    return EarlierArmView(study_id=earlier.study_id, study=earlier.study, test_id=earlier.test_id, on=earlier.on, differs=list(earlier.differs))


def _design_value(evidence: Evidence, arm_id: str) -> float | None:
    """Of values that are all exact; grades have none."""
    spec, group = evidence.method.quantity(evidence.quantity), evidence.groups().get(arm_id)
    if group is None or spec.graded or any(d.bound != Bound.EXACT for d in evidence.counted(arm_id)):
        return None
    return design_value(group, spec.good_side)


def _pair_view(pair_: Pair, verdicts: Mapping[str, Verdict], reference_id: str | None, arms: int) -> PairView:
    """A pair; where it is the reference's and decides otherwise than the verdict, one line says why."""
    arm_id = pair_.b if pair_.a == reference_id else pair_.a if pair_.b == reference_id else None
    verdict = verdicts.get(arm_id or "")
    note = None
    if verdict is not None and verdict.ci95 is not None and verdict.ci95.clear_of_zero != pair_.ci95.clear_of_zero:
        allowed, joint = arms - 1, arms * (arms - 1) // 2
        which, other = ("verdict", "pair") if verdict.ci95.clear_of_zero else ("pair", "verdict")
        note = f"the {which} is clear of 0 and the {other} is not: the verdicts allow for {allowed} comparisons with the reference, the pairs for all {joint}"
    return PairView(a=pair_.a, b=pair_.b, difference=pair_.difference, ci95=(pair_.ci95.low, pair_.ci95.high), p=pair_.p, note=note)


@dataclass(frozen=True, slots=True)
class _Ratios:
    """A derived quantity by arm, and the evidence above and below its line."""

    spec: Derived
    ratios: Mapping[str, ArmRatio]
    reference_id: str | None
    above: Evidence
    below: Evidence
    arms: Sequence[Arm]


def _ratios(session: Session, reference_id: str | None, test: Test, arms: Sequence[Arm], derived: tuple[Derived, Test]) -> _Ratios:
    spec, other = derived
    evidence = load_evidence(session, [test, other], arms)
    above, below = evidence[test.id], evidence[other.id]
    ratios = arm_ratios(spec, above, below)
    # what was not treated has kept all of itself: it stands below the line only
    shown = [a for a in above.arms if a.id in controls_of(arms)] if spec.of_controls else above.arms
    return _Ratios(spec, ratios, reference_of(spec, ratios, arms, reference_id), above, below, shown)


def _of_ratio(session: Session, study: Study, shown: _Ratios, belonging: Sequence[tuple[Derived, Test]], problems: list[ProblemView]) -> Findings:
    above, below, ratios = shown.above, shown.below, shown.ratios
    verdicts = ratio_verdicts(ratios, shown.reference_id)
    views = {v.id: v for v in arm_views(session, above.arms, study)}
    names = arm_names(list(views.values()))
    return Findings(
        test=test_view(above.test),
        study=study_ref(study),
        quantity=_derived_view(shown.spec, above.test),
        quantities=_available(session, above, belonging),
        reference_arm_id=shown.reference_id,
        answer=ratio_sentences(shown.spec, label_of(shown.spec, above.test), ratios, verdicts, names, shown.reference_id),
        arms=[
            FindingArm(
                arm=views[arm.id],
                name=names[arm.id],
                earlier=None,
                planned=above.planned[arm.id],
                measured=above.measured[arm.id],
                batches=above.batches(arm.id),
                group=None,
                ratio=ratio_view(ratios[arm.id], above.test, verdicts.get(arm.id)) if arm.id in ratios else None,
                verdict=verdict_view(verdicts.get(arm.id)),
                relative=relative_view(relative_of_logs(verdicts.get(arm.id))),
                provisional=None,
                dots=[],
                prints=[],
                outlier=None,
                notes=notes_of(above, arm.id) + [n for n in notes_of(below, arm.id) if n not in notes_of(above, arm.id)],
                per_spool=None,
                design_value=None,
                ends=[],
            )
            for arm in shown.arms
        ],
        anova=None,
        agreement=None,
        pairs=[],
        batch_ratio=None,
        end="",
        ends=[],
        earlier=[],
        problems=problems,
    )


def _agreement(evidence: Evidence) -> AgreementView | None:
    """Of prints that were put in order; grades by steps tell their disagreement print by print."""
    if not evidence.method.quantity(evidence.quantity).placed:
        return None
    counted = [d.run_id for arm in evidence.arms for d in evidence.counted(arm.id)]
    found = agreement([evidence.grades.get(run_id, {}) for run_id in counted])
    return None if found is None else AgreementView(w=found.w, graders=found.graders, prints=found.prints)


def _derived_view(spec: Derived, test: Test) -> QuantityView:
    return QuantityView(name=spec.name, label=label_of(spec, test), unit=spec.unit, good_side=str(spec.good_side), derived=True)


def _available(session: Session, evidence: Evidence, belonging: Sequence[tuple[Derived, Test]]) -> list[QuantityView]:
    """The quantities there are values of, in the order of the method, and those derived."""
    test, method = evidence.test, evidence.method
    keys = session.scalars(select(Result.quantity).where(Result.test_id == test.id, Result.run_id.is_not(None)).distinct()).all()
    order = {q.name: i for i, q in enumerate(method.quantities)}
    ranked = sorted(keys, key=lambda k: (order.get(k.partition("@")[0], 99), at_order(k)))
    known = [(k, method.quantity(k)) for k in ranked if k.partition("@")[0] in order]
    own = [quantity_view(q, k) for k, q in known]
    return own + [_derived_view(spec, test) for spec, _ in belonging]
