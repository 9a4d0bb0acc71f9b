"""Drift of a rig: its reference material from study to study (METHODS 13)."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence

from sqlalchemy import select
from sqlalchemy.orm import Session

from assayer.core.methods import method as find_method
from assayer.core.stats.drift import FEWEST, individuals_chart
from assayer.services.declarations import quantity_view
from assayer.services.findings.earlier import runs_of
from assayer.services.findings.rig_views import DriftChart, DriftPoint, RigDrift
from assayer.services.parts.shapes import title_of
from assayer.services.rigs.rigs import newest_version
from assayer.services.stock.materials import material_view
from assayer.services.studies.evidence_groups import conditions_of
from assayer.services.studies.evidence_views import pair
from assayer.services.studies.history import MeasuredGroup, groups_of
from assayer.services.unit import Workspace, find
from assayer.store.models import Material, Rig, RigVersion, Run, Test

Alike = tuple[str, ...]
"""What two results must share besides their rig: method, orientation, shape, conditions, quantity, procedures, and how they ended."""


def drift(workspace: Workspace, rig_id: str) -> RigDrift:
    """The charts of a rig's reference material on its newest version, those of most studies first."""
    with workspace.read() as session:
        rig = find(session, Rig, rig_id)
        if rig.reference_material_id is None:
            return RigDrift(material=None, charts=[])
        material = find(session, Material, rig.reference_material_id)
        return RigDrift(material=material_view(material), charts=charts_of(session, newest_version(session, rig_id), material))


def charts_of(session: Session, version: RigVersion, material: Material) -> list[DriftChart]:
    """Of what was measured alike in at least two studies, the main quantities; as printed, without bounds."""
    groups = [g for g in groups_of(session, [material.id], [Run.rig_version_id == version.id]).get(material.id, []) if is_plain(g) and g.view.main]
    tests = tests_of(session, groups)
    _, last = runs_of(session, tests, {g.view.quantity for g in groups})
    charts = [_chart(own, tests, last) for own in alike(session, tests, groups).values()]
    return sorted((c for c in charts if len(c.points) > 1), key=lambda c: -len(c.points))


def is_plain(group: MeasuredGroup) -> bool:
    """As printed in the usual way, and measured to the end."""
    v = group.view
    return not (v.treatment or v.settings or v.at_least or v.at_most)


def tests_of(session: Session, groups: Sequence[MeasuredGroup]) -> dict[str, Test]:
    return {t.id: t for t in session.scalars(select(Test).where(Test.id.in_({g.view.test_id for g in groups})))}


def alike(session: Session, tests: Mapping[str, Test], groups: Sequence[MeasuredGroup]) -> dict[Alike, list[MeasuredGroup]]:
    """Groups by all that they must share to be held against each other, rig and material aside."""
    procedures, _ = runs_of(session, tests, {g.view.quantity for g in groups})
    by_key: dict[Alike, list[MeasuredGroup]] = defaultdict(list)
    for g in groups:
        v, test = g.view, tests[g.view.test_id]
        versions = sorted(procedures[v.test_id, v.rig_version_id, v.quantity])
        by_key[test.method, test.orientation, test.shape, conditions_of(test), v.quantity, " ".join(versions), v.end].append(g)
    return by_key


def _chart(groups: Sequence[MeasuredGroup], tests: Mapping[str, Test], last: Mapping[str, str]) -> DriftChart:
    by_study: dict[str, list[MeasuredGroup]] = defaultdict(list)
    for g in groups:
        by_study[g.view.study_id].append(g)
    studies = sorted(by_study.values(), key=lambda own: max(last[g.view.test_id] for g in own))
    means = [mean_of(own) for own in studies]
    chart = individuals_chart(means)
    first = groups[0].view
    test = tests[first.test_id]
    points = [
        DriftPoint(
            study_id=own[0].view.study_id, study=own[0].view.study, test_id=own[0].view.test_id, on=max(last[g.view.test_id] for g in own),
            n=sum(g.view.n for g in own), mean=mean, signal=None if chart is None else chart.signals[i],
        )
        for i, (own, mean) in enumerate(zip(studies, means, strict=True))
    ]  # fmt: skip
    quantity = quantity_view(find_method(test.method).quantity(first.quantity), first.quantity)
    limits = None if chart is None else pair(chart.limits)
    return DriftChart(
        test=title_of(test), orientation=test.orientation, end=first.end, quantity=quantity,
        points=points, centre=None if chart is None else chart.centre, limits=limits, missing=max(0, FEWEST - len(points)),
    )  # fmt: skip


def mean_of(groups: Sequence[MeasuredGroup]) -> float:
    """Of all their specimens."""
    return sum(g.view.n * g.view.mean for g in groups) / sum(g.view.n for g in groups)
