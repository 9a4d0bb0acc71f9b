"""All tests of a study side by side: what each arm gains and gives up against a reference, and whether tests agree."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence

from sqlalchemy import select
from sqlalchemy.orm import Session

from assayer.core.errors import EntryError
from assayer.core.methods.properties import PART, property_of
from assayer.core.methods.vocabulary import Orientation
from assayer.core.plan.study_plan import StudiedFactor
from assayer.core.settings.declared import setting
from assayer.core.stats.profile import agreement_of_tests, change_of, in_margins
from assayer.core.stats.verdicts import GoodSide, VerdictWord
from assayer.services.declarations import quantity_view
from assayer.services.findings.across_views import AcrossCell, AcrossRow, AcrossView, TestsAgree, VariedSetting
from assayer.services.findings.answers import differences, provisional_view, relative_view
from assayer.services.findings.names import arm_names, name_of_earlier
from assayer.services.findings.print_costs import price_row, print_time_rows
from assayer.services.findings.printability import printability
from assayer.services.parts.shapes import title_of
from assayer.services.studies.evidence import arms_of, begun, load_evidence
from assayer.services.studies.evidence_groups import Evidence
from assayer.services.studies.evidence_views import group_view, notes_of, pair, verdict_view
from assayer.services.studies.fairness import problems_of
from assayer.services.studies.listing import arm_views, settings_of, study_ref
from assayer.services.unit import Workspace, find
from assayer.store.models import Arm, Study, Test


def across(workspace: Workspace, study_id: str, reference: str | None = None) -> AcrossView:
    """Every test of a study by its main quantity, price and print time, against one arm.

    Raises
    ------
    EntryError
        If the study has no such arm.
    """
    with workspace.read() as session:
        study = find(session, Study, study_id)
        tests = session.scalars(select(Test).where(Test.study_id == study_id).order_by(Test.position)).all()
        arms = arms_of(session, study_id)
        if reference is not None and reference not in {a.id for a in arms} and session.get(Arm, reference) is None:
            raise EntryError("there is no such arm", "reference")
        reference_id = reference or study.reference_arm_id
        evidence = load_evidence(session, tests, arms, begun(session, tests), reference_id=reference_id)
        tested = [evidence[t.id] for t in tests if evidence[t.id].groups()]
        views = arm_views(session, arms, study)
        earlier = {e.earlier.arm.id: e.earlier.arm for e in tested if e.earlier is not None}
        compared = [*arms, *earlier.values()]
        return AcrossView(
            study=study_ref(study),
            reference_arm_id=reference_id,
            arms=views,
            names=arm_names(views) | {key: name for e in tested for key, name in name_of_earlier(e).items()},
            rows=[
                *(_row(workspace, session, e, reference_id) for e in tested),
                *price_row(compared, reference_id),
                *print_time_rows(session, compared, reference_id),
            ],
            varied=_varied(study, arms),
            agreements=_agreements(tested),
            printability=printability(session, arms),
            problems=problems_of(session, study, tests, arms),
        )


def _varied(study: Study, arms: Sequence[Arm]) -> VariedSetting | None:
    if study.studied_factor != StudiedFactor.SETTING or len(study.studied_settings) != 1 or len({a.variant.material_id for a in arms}) > 1:
        return None
    (name,) = study.studied_settings
    levels = {a.id: v for a in arms if isinstance(v := settings_of(a).get(name), int | float) and not isinstance(v, bool)}
    declared = setting(name)
    if len(levels) < len(arms) or declared is None:
        return None
    return VariedSetting(label=declared.label, unit=declared.unit, levels=levels)


def _row(workspace: Workspace, session: Session, evidence: Evidence, reference_id: str | None) -> AcrossRow:
    test, spec = evidence.test, evidence.method.quantity(evidence.quantity)
    groups = evidence.groups()
    verdicts = evidence.verdicts(groups, reference_id)
    apart = differences(workspace, session, evidence, verdicts, reference_id)
    reference = groups.get(reference_id or "")
    margin = evidence.margin.absolute(reference) if reference is not None and not spec.graded else None
    cells = []
    for arm_id, group in groups.items():
        verdict, few = verdicts.get(arm_id), apart.provisional.get(arm_id)
        place = None
        if verdict is not None and margin and reference is not None:
            interval = few.ci95 if few is not None else verdict.ci95
            place = in_margins(group.mean - reference.mean, interval, margin, spec.good_side, reference.mean - spec.target)
        cells.append(
            AcrossCell(
                arm_id=arm_id,
                at=None if place is None else place.at,
                interval=None if place is None else pair(place.interval),
                change=None if arm_id == reference_id else change_of(None if verdict is None else verdict.word),
                group=group_view(evidence, arm_id, group),
                value=group.mean,
                verdict=verdict_view(verdict),
                relative=relative_view(apart.relative.get(arm_id)),
                provisional=provisional_view(few),
                notes=notes_of(evidence, arm_id),
            )
        )
    return AcrossRow(
        test_id=test.id, label=title_of(test), orientation=test.orientation, quantity=quantity_view(spec, evidence.quantity), margin=margin,
        margin_share=evidence.margin.value if evidence.margin.relative else None, cells=cells,
    )  # fmt: skip


def _agreements(tested: Sequence[Evidence]) -> list[TestsAgree]:
    """Of each property that several tests measured, and of each part in use against every property."""
    by_property: dict[str, list[Evidence]] = defaultdict(list)
    for e in tested:
        property_name = property_of(e.test.method, e.test.orientation)
        if property_name is not None:
            by_property[property_name].append(e)
    compared = [(name, of) for name, of in by_property.items() if len(of) > 1]
    for part in (e for e in tested if e.test.method == PART):
        compared += [(f"{title_of(part.test)} and {name}", [part, of[0]]) for name, of in by_property.items()]
    return [view for name, of in compared if (view := _agreement(name, of)) is not None]


def _agreement(name: str, of: Sequence[Evidence]) -> TestsAgree | None:
    sides = [e.method.quantity(e.quantity).good_side for e in of]
    if any(side not in (GoodSide.HIGHER, GoodSide.LOWER) for side in sides):
        return None
    means = [{a: g.mean for a, g in e.groups().items()} for e in of]
    agreement = agreement_of_tests(means, sides)
    if agreement is None:
        return None
    common = [a for a in means[0] if all(a in m for m in means)]
    best = [_best({a: m[a] for a in common}, side) for m, side in zip(means, sides, strict=True)]
    return TestsAgree(
        name=name, tests=[_in_words(e.test) for e in of], test_ids=[e.test.id for e in of], best_arm_ids=best, w=agreement.w, arms=agreement.prints,
        contradict=_contradicting(of, common),
    )  # fmt: skip


def _in_words(test: Test) -> str:
    return title_of(test) if test.orientation == Orientation.FLAT else f"{title_of(test)}, {test.orientation}"


def _best(means: Mapping[str, float], side: GoodSide) -> str:
    choose = min if side is GoodSide.LOWER else max
    return choose(means, key=lambda a: means[a])


def _contradicting(of: Sequence[Evidence], arms: Sequence[str]) -> list[tuple[str, str]]:
    """Pairs of arms of which one test proves the first better, and another the second; each arm is the reference in turn."""
    proved: dict[tuple[str, str], set[VerdictWord]] = defaultdict(set)
    for e in of:
        groups = {a: g for a, g in e.groups().items() if a in arms}
        for reference in groups:
            for arm, verdict in e.verdicts(groups, reference, further=False).items():
                proved[arm, reference].add(verdict.word)
    return [pair_ for pair_, words in proved.items() if pair_[0] < pair_[1] and {VerdictWord.BETTER, VerdictWord.WORSE} <= words]
