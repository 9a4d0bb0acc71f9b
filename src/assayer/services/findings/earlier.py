"""Results of a study's materials from other studies, and those reported elsewhere, beside the findings of a test."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Collection, Mapping, Sequence

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from assayer.core.errors import EntryError
from assayer.core.filament.claims import read_statement
from assayer.core.methods import method as find_method
from assayer.core.methods.vocabulary import Validity
from assayer.core.stats.agreement import Agreement
from assayer.core.stats.groups import GroupSummary, summarise_reported
from assayer.core.stats.relative import relative_to
from assayer.services.findings.answers import relative_view
from assayer.services.findings.claims import MEASURED_BY
from assayer.services.findings.conversions import agreement_of, conversions_to
from assayer.services.findings.views import EarlierView
from assayer.services.stock.materials import material_view
from assayer.services.studies.evidence_groups import ANOTHER_RIG, Evidence, conditions_of, differences_from, procedure_key
from assayer.services.studies.evidence_views import pair
from assayer.services.studies.history import MeasuredGroup, groups_of
from assayer.services.views import Pair2
from assayer.store.models import Material, ReportedResult, Result, Run, Test

MOST = 12
"""Rows shown; a material that was tested for years has its history on its own page."""


def earlier_results(session: Session, evidence: Evidence, reference_id: str | None, added: Collection[str] = ()) -> list[EarlierView]:
    """Groups of other studies by the same method, orientation and quantity, newest first, then what was reported.

    Parameters
    ----------
    added : collection of str
        Ids of materials to show beside those of the arms.
    """
    materials = {a.variant.material_id: a.variant.material for a in evidence.arms}
    further = set(added) - materials.keys()
    if further:
        materials |= {m.id: m for m in session.scalars(select(Material).where(Material.id.in_(further)))}
    test, starts = evidence.test, evidence.method.quantity(evidence.quantity).starts
    others = (
        Test.method == test.method,
        Test.orientation == test.orientation,
        Test.study_id != test.study_id,
        Result.quantity.in_([evidence.quantity, *([starts] if starts else [])]),
    )
    groups = [(m, g) for m, of in groups_of(session, sorted(materials), others).items() for g in of if g.view.quantity == evidence.quantity]
    rows = _compared(session, groups, materials, evidence, reference_id)
    # what was asked for by name is not crowded out by the arms' own history
    chosen = [row for row in rows if row.material.id in further]
    return chosen[:MOST] + [row for row in rows if row.material.id not in further][:MOST] + _reported(session, materials, evidence)


def _compared(
    session: Session, groups: Sequence[tuple[str, MeasuredGroup]], materials: Mapping[str, Material], evidence: Evidence, reference_id: str | None
) -> list[EarlierView]:
    """The groups, what can be compared first; each with what differs from how the reference was tested."""
    if not groups:
        return []
    tests = {t.id: t for t in session.scalars(select(Test).where(Test.id.in_({g.view.test_id for _, g in groups})))}
    procedures, tested_on = runs_of(session, tests, [evidence.quantity])
    key = evidence.keys.get(reference_id or "") or next(iter(evidence.keys.values()), ("", "", ""))
    reference = evidence.groups().get(reference_id or "")
    test = evidence.test
    conversions = conversions_to(session, key[1], (test.method, test.orientation, test.shape, conditions_of(test), evidence.quantity)) if key[1] else {}
    rows = []
    for material_id, g in groups:
        v = g.view
        differs = differences_from(tests[v.test_id], (procedures[v.test_id, v.rig_version_id, v.quantity], v.rig_version_id, v.end), evidence.test, key)
        row = _measured(g, materials[material_id], tested_on[v.test_id], differs, None if differs else reference, evidence)
        conversion = conversions.get((v.rig_version_id, v.end)) if differs == [ANOTHER_RIG] else None
        rows.append(row if conversion is None else _converted(row, agreement_of(conversion)))
    rows.sort(key=lambda row: row.on, reverse=True)
    # what was printed as usual before what was treated or set otherwise
    return sorted(rows, key=lambda row: (bool(row.differs), bool(row.distinguished_by)))


def runs_of(session: Session, tests: Mapping[str, Test], quantities: Collection[str]) -> tuple[dict[tuple[str, str, str], frozenset[str]], dict[str, str]]:
    """By test, rig version and quantity the procedures that values were measured and computed by; by test the day of the last of them."""
    rows = session.execute(
        select(Run.test_id, Run.rig_version_id, Result.quantity, Run.procedure_version, Result.reduction_version, func.max(Run.happened_at))
        .join(Result, Result.run_id == Run.id)
        .where(Run.test_id.in_(tests), Run.retracted_at.is_(None), Run.validity != Validity.LEFT_OUT)
        .where(Result.quantity.in_(quantities), Result.provisional.is_(False))
        .group_by(Run.test_id, Run.rig_version_id, Result.quantity, Run.procedure_version, Result.reduction_version)
    )
    procedures: dict[tuple[str, str, str], set[str]] = defaultdict(set)
    last: dict[str, str] = {}
    for test_id, rig_version_id, quantity, procedure, reduction, at in rows:
        procedures[test_id, rig_version_id, quantity].add(procedure_key(find_method(tests[test_id].method), procedure, reduction))
        last[test_id] = max(at.date().isoformat(), last.get(test_id, ""))
    return {key: frozenset(versions) for key, versions in procedures.items()}, last


def _measured(group: MeasuredGroup, material: Material, on: str, differs: Sequence[str], reference: GroupSummary | None, evidence: Evidence) -> EarlierView:
    v, spec = group.view, evidence.method.quantity(evidence.quantity)
    relative = relative_to(reference, group.summary) if reference is not None and spec.ratio_scale and not spec.graded else None
    return EarlierView(
        material=material_view(material),
        distinguished_by=" · ".join(part for part in (v.treatment, v.settings, v.rig) if part),
        source=v.study,
        on=on,
        study_id=v.study_id,
        test_id=v.test_id,
        arm_id=v.arm_id,
        reported=False,
        differs=list(differs),
        n=v.n,
        values=v.values,
        mean=v.mean,
        ci95=v.ci95,
        at_least=v.at_least,
        at_most=v.at_most,
        converted=False,
        relative=relative_view(relative),
    )


def _converted(row: EarlierView, line: Agreement) -> EarlierView:
    """A result of another rig as the accepted line has it on this one; as it is, with the reason, outside the range of the line."""
    try:
        mean, predicted = line.predicted(row.mean)
    except EntryError:
        return row.model_copy(update={"differs": ["another rig, not convertible here"]})
    own = 0.0 if row.ci95 is None else line.slope * (row.ci95[1] - row.ci95[0]) / 2
    half = math.hypot((predicted.high - predicted.low) / 2, own)
    values = [line.intercept + line.slope * v for v in row.values]
    return row.model_copy(
        update={"mean": mean, "ci95": (mean - half, mean + half), "values": values, "differs": ["converted from another rig"], "converted": True}
    )


def _reported(session: Session, materials: Mapping[str, Material], evidence: Evidence) -> list[EarlierView]:
    """Figures of somebody else or of a lab's past, which are never compared by their interval."""
    spec = evidence.method.quantity(evidence.quantity)
    rows = session.scalars(
        select(ReportedResult)
        .where(ReportedResult.material_id.in_(materials), ReportedResult.retracted_at.is_(None), ReportedResult.unit == spec.unit)
        .order_by(ReportedResult.entered_at.desc(), ReportedResult.id)
    )
    alike = [r for r in rows if _means(r.quantity, evidence)]
    return [
        EarlierView(
            material=material_view(materials[r.material_id]),
            distinguished_by="",
            source=", ".join(part for part in (r.source, r.method) if part),
            on=r.reported_on,
            study_id=None,
            test_id=None,
            arm_id=None,
            reported=True,
            differs=["reported"],
            n=r.n,
            values=[],
            mean=r.value,
            ci95=_reported_interval(r),
            at_least=0,
            at_most=0,
            converted=False,
            relative=None,
        )
        for r in alike[:MOST]
    ]


def _means(words: str, evidence: Evidence) -> bool:
    """Whether a reported quantity, in its own words, is the one shown."""
    if words.strip().lower() == evidence.method.quantity(evidence.quantity).label.lower():
        return True
    quantity = read_statement(words).quantity
    return (evidence.quantity, evidence.test.orientation) in MEASURED_BY.get(quantity or "", ())


def _reported_interval(r: ReportedResult) -> Pair2 | None:
    return pair(summarise_reported(r.value, r.sd, r.n)) if r.sd is not None and r.n is not None else None
