"""Results of a study's materials from other studies, and those reported elsewhere, beside the findings of a test."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from assayer.core.filament.claims import read_statement
from assayer.core.stats.groups import GroupSummary, summarise_reported
from assayer.core.stats.relative import relative_to
from assayer.services.findings.answers import relative_view
from assayer.services.findings.claims import MEASURED_BY
from assayer.services.findings.views import EarlierView
from assayer.services.stock.materials import material_view
from assayer.services.studies.evidence_groups import Evidence
from assayer.services.studies.evidence_views import pair
from assayer.services.studies.history import MeasuredGroup, groups_of
from assayer.services.views import Pair2
from assayer.store.models import Material, ReportedResult, Result, Run, Test

MOST = 12
"""Rows shown; a material that was tested for years has its history on its own page."""


@dataclass(frozen=True, slots=True)
class _Conditions:
    """What two results must share to be compared."""

    shape: str
    protocol: str
    procedures: frozenset[str]
    rig_version_id: str

    def differing(self, own: _Conditions, end: str, own_end: str) -> list[str]:
        found = []
        if self.shape != own.shape:
            found.append("another shape")
        if self.protocol != own.protocol:
            found.append("other conditions")
        if self.procedures != own.procedures:
            found.append("another procedure")
        if self.rig_version_id != own.rig_version_id:
            found.append("another rig")
        return found + (["ended otherwise"] if end != own_end else [])


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
    return _compared(session, groups, materials, evidence, reference_id) + _reported(session, materials, evidence)


def _compared(
    session: Session, groups: list[tuple[str, MeasuredGroup]], materials: Mapping[str, Material], evidence: Evidence, reference_id: str | None
) -> list[EarlierView]:
    """The groups, what can be compared first; each with what differs from this test."""
    if not groups:
        return []
    test = evidence.test
    tests = {test.id, *(g.view.test_id for _, g in groups)}
    facts = {t.id: t for t in session.scalars(select(Test).where(Test.id.in_(tests)))}
    procedures, tested_on = _runs_of(session, tests)
    key = next((k for k in evidence.keys.values()), ("", "", ""))
    own = _Conditions(test.shape, repr(sorted(test.protocol.items())), procedures.get((test.id, key[1]), frozenset()), key[1])
    reference = evidence.groups().get(reference_id or "")
    groups.sort(key=lambda found: tested_on[found[1].view.test_id], reverse=True)
    compared = []
    for material_id, g in groups:
        of_test, rig_id = facts[g.view.test_id], g.view.rig_version_id
        there = _Conditions(of_test.shape, repr(sorted(of_test.protocol.items())), procedures.get((of_test.id, rig_id), frozenset()), rig_id)
        compared.append((material_id, g, of_test, there.differing(own, g.view.end, evidence.end)))
    # what can be compared first, of untreated prints before treated ones; the newest first in each
    compared.sort(key=lambda found: (bool(found[3]), bool(found[1].view.treatment)))
    rows = []
    for material_id, g, of_test, differs in compared[:MOST]:
        rows.append(_measured(g, materials[material_id], tested_on[of_test.id].date().isoformat(), differs, None if differs else reference, evidence))
    return rows


def _runs_of(session: Session, test_ids: Collection[str]) -> tuple[dict[tuple[str, str], frozenset[str]], dict[str, datetime]]:
    """By test and rig version the procedures that its runs followed, and by test when the last of them was."""
    rows = session.execute(
        select(Run.test_id, Run.rig_version_id, Run.procedure_version, func.max(Run.happened_at))
        .where(Run.test_id.in_(test_ids), Run.retracted_at.is_(None))
        .group_by(Run.test_id, Run.rig_version_id, Run.procedure_version)
    )
    procedures: dict[tuple[str, str], set[str]] = {}
    last: dict[str, datetime] = {}
    for test_id, rig_id, procedure, at in rows:
        procedures.setdefault((test_id, rig_id), set()).add(procedure)
        last[test_id] = max(at, last.get(test_id, at))
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
        reported=False,
        differs=list(differs),
        n=v.n,
        values=v.values,
        mean=v.mean,
        ci95=v.ci95,
        at_least=v.at_least,
        at_most=v.at_most,
        relative=relative_view(relative),
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
            reported=True,
            differs=["reported"],
            n=r.n,
            values=[],
            mean=r.value,
            ci95=_reported_interval(r),
            at_least=0,
            at_most=0,
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
