"""Rig against rig: the same materials measured alike on both, their differences, and Deming's line (METHODS 13, 15)."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from sqlalchemy import select
from sqlalchemy.orm import Session

from assayer.core.errors import EntryError
from assayer.core.methods import method as find_method
from assayer.core.methods.base import Method
from assayer.core.quantities.words import counted
from assayer.core.stats.agreement import FEWEST, Agreement, agreement
from assayer.core.stats.groups import GroupSummary, interval_of_mean, summarise, t_quantile
from assayer.services.declarations import quantity_view
from assayer.services.findings.conversions import conversion_key, conversion_view
from assayer.services.findings.rig_drift import Alike, alike, tests_of
from assayer.services.findings.rig_views import RigComparison, RigLine, RigMean, RigName, RigPair, RigsCompared
from assayer.services.parts.shapes import title_of
from assayer.services.rigs.rigs import newest_version
from assayer.services.stock.materials import material_view
from assayer.services.studies.evidence_views import pair
from assayer.services.studies.history import MeasuredGroup, groups_of
from assayer.services.unit import Workspace, find
from assayer.store.models import Batch, Material, Rig, RigConversion, RigVersion, Run, Specimen, Variant

KEY_PARTS = "\n"
"""Stands between the parts of a comparison's key: neither names nor conditions hold it."""
_ALONG = 25
"""Points at which the line is drawn."""


@dataclass(frozen=True, slots=True)
class _Pair:
    material: Material
    name: str
    one: list[MeasuredGroup]
    other: list[MeasuredGroup]


def compare_rigs(workspace: Workspace, rig_id: str, other_id: str) -> RigsCompared:
    """Everything that was measured alike on the newest versions of two rigs, of each quantity and way of breaking.

    Raises
    ------
    EntryError
        If a rig is to be compared with itself.
    """
    if rig_id == other_id:
        raise EntryError("choose another rig to compare it with", "other")
    with workspace.read() as session:
        versions = tuple(newest_version(session, find(session, Rig, key).id) for key in (rig_id, other_id))
        return RigsCompared(one=_name(versions[0]), other=_name(versions[1]), comparisons=_comparisons(session, *versions))


def _name(version: RigVersion) -> RigName:
    return RigName(id=version.id, rig_id=version.rig_id, name=version.rig.name)


def _comparisons(session: Session, one: RigVersion, other: RigVersion) -> list[RigComparison]:
    materials = _on_both(session, one, other)
    groups = groups_of(session, sorted(materials), [Run.rig_version_id.in_([one.id, other.id])])
    flat = [g for of in groups.values() for g in of if g.view.main and not (g.view.at_least or g.view.at_most)]
    of_group = {id(g): materials[key] for key, of in groups.items() for g in of}
    tests = tests_of(session, flat)
    between = RigConversion.from_version_id == one.id, RigConversion.to_version_id == other.id, RigConversion.retracted_at.is_(None)
    accepted = {conversion_key(c): c for c in session.scalars(select(RigConversion).where(*between))}
    shown = []
    for key, own in alike(session, tests, flat).items():
        pairs = _pairs(own, (one, other), of_group)
        if pairs:
            test = tests[own[0].view.test_id]
            shown.append(_comparison(key, title_of(test), find_method(test.method), pairs, accepted.get(_short(key))))
    return sorted(shown, key=lambda c: (-len(c.pairs), c.test, c.end))


def _on_both(session: Session, one: RigVersion, other: RigVersion) -> dict[str, Material]:
    """By id, the materials that were measured on both."""
    measured = [
        select(Variant.material_id)
        .join(Batch, Batch.variant_id == Variant.id)
        .join(Specimen, Specimen.batch_id == Batch.id)
        .join(Run, Run.specimen_id == Specimen.id)
        .where(Run.rig_version_id == version.id, Run.retracted_at.is_(None))
        .distinct()
        for version in (one, other)
    ]
    both = set(session.scalars(measured[0])) & set(session.scalars(measured[1]))
    return {m.id: m for m in session.scalars(select(Material).where(Material.id.in_(both)))}


def _pairs(groups: Iterable[MeasuredGroup], versions: tuple[RigVersion, RigVersion], of_group: Mapping[int, Material]) -> list[_Pair]:
    """Groups of the same material, treatment and settings on the one rig and on the other."""
    sides: dict[tuple[str, str, str], dict[str, list[MeasuredGroup]]] = defaultdict(lambda: defaultdict(list))
    for g in groups:
        sides[of_group[id(g)].id, g.view.treatment, g.view.settings][g.view.rig_version_id].append(g)
    one, other = (v.id for v in versions)
    return [
        _Pair(of_group[id(by_rig[one][0])], " · ".join(part for part in (treatment, settings) if part), by_rig[one], by_rig[other])
        for (_, treatment, settings), by_rig in sides.items()
        if by_rig[one] and by_rig[other]
    ]


def _comparison(key: Alike, title: str, method: Method, pairs: Sequence[_Pair], accepted: RigConversion | None) -> RigComparison:
    _, orientation, _, _, quantity, _, end = key
    spec = method.quantity(quantity)
    views = sorted((_pair_view(p) for p in pairs), key=lambda p: p.one.mean)
    differences = summarise([p.difference for p in views], 0.0, ratio_scale=False)
    margin = spec.margin.absolute(summarise([(p.one.mean + p.other.mean) / 2 for p in views]))
    line, reason = _line(views)
    return RigComparison(
        key=KEY_PARTS.join(_short(key)), test=title, orientation=orientation, quantity=quantity_view(spec, quantity), end=end, pairs=views,
        agrees=_agrees(differences, margin), mean_difference=differences.mean, difference_ci95=pair(differences.ci95), limits=_limits(differences),
        margin=margin, line=line, reason=reason, conversion=None if accepted is None else conversion_view(accepted),
    )  # fmt: skip


def _pair_view(p: _Pair) -> RigPair:
    one, other = _mean(p.one), _mean(p.other)
    return RigPair(material=material_view(p.material), name=p.name, one=one, other=other, difference=other.mean - one.mean)


def _mean(groups: Sequence[MeasuredGroup]) -> RigMean:
    if len(groups) == 1:
        return RigMean(n=groups[0].view.n, mean=groups[0].view.mean, ci95=groups[0].view.ci95)
    together = summarise([v for g in groups for v in g.view.values])
    return RigMean(n=together.n, mean=together.mean, ci95=pair(together.ci95))


def _agrees(differences: GroupSummary, margin: float | None) -> bool | None:
    if differences.error is None or differences.ci95 is None or margin is None or differences.error.variance == 0:
        return None
    if interval_of_mean(differences.mean, differences.error, 0.90).inside(-margin, margin):
        return True
    return False if differences.ci95.clear_of_zero else None


def _limits(differences: GroupSummary) -> tuple[float, float] | None:
    """Within which one more difference lies with 95 % confidence."""
    if differences.sd is None:
        return None
    half = t_quantile(0.975, differences.n - 1) * differences.sd * np.sqrt(1 + 1 / differences.n)
    return differences.mean - float(half), differences.mean + float(half)


def _line(pairs: Sequence[RigPair]) -> tuple[RigLine | None, str]:
    """The line through the pairs; or why there is none, or why it converts nothing."""
    if len(pairs) < FEWEST:
        return None, f"a line needs {counted(FEWEST, 'material')} on both rigs, but there {'is' if len(pairs) == 1 else 'are'} {len(pairs)}"
    try:
        fit = agreement([p.one.mean for p in pairs], [p.other.mean for p in pairs])
    except EntryError as error:
        return None, str(error)
    line = RigLine(
        slope=fit.slope, intercept=fit.intercept, se_slope=fit.se_slope, se_intercept=fit.se_intercept, covariance=fit.covariance, s=fit.s, n=fit.n,
        low=fit.low, high=fit.high, band=_band(fit),
    )  # fmt: skip
    if fit.slope - t_quantile(0.975, fit.n - 2) * fit.se_slope <= 0:
        return line, "the two do not rise together for certain: a value of the one says nothing of the other"
    return line, ""


def _band(fit: Agreement) -> list[tuple[float, float, float, float]]:
    # a hair inside its range: the ends themselves may round to a value beyond it
    at = np.linspace(fit.low, fit.high, _ALONG).clip(fit.low, fit.high).tolist()
    return [(x, y, ci.low, ci.high) for x in at for y, ci in [fit.predicted(x)]]


def _short(key: Alike) -> tuple[str, ...]:
    method, orientation, shape, protocol, quantity, _, end = key
    return method, orientation, shape, protocol, quantity, end
