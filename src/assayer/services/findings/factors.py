"""Several factors in one test: what each does, and how they act together; one setting as a sweep."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np
from sqlalchemy.orm import Session

from assayer.core.errors import EntryError
from assayer.core.methods.vocabulary import Bound
from assayer.core.plan.fairness import settings_studied
from assayer.core.plan.study_plan import StudiedFactor
from assayer.core.settings.declared import setting, shown
from assayer.core.settings.limits import windows
from assayer.core.stats.effects import Effect, Effects, replicated_effects, unreplicated_effects
from assayer.core.stats.groups import GroupSummary
from assayer.core.stats.sweep import sweep
from assayer.core.stats.verdicts import GoodSide
from assayer.services.declarations import quantity_view
from assayer.services.findings.factor_views import CellMean, FactorEffect, FactorsView, FactorView, SweepLevel, SweepView
from assayer.services.stock.materials import window_of
from assayer.services.studies.evidence import arms_of, begun, load_evidence
from assayer.services.studies.evidence_groups import Evidence
from assayer.services.studies.evidence_views import pair
from assayer.services.studies.listing import narrowed_names, settings_of
from assayer.services.unit import Workspace, find
from assayer.store.models import Arm, Study, Test

_DRAWN = 60
"""Points of a fitted curve."""


@dataclass(frozen=True, slots=True)
class Factor:
    """A factor of a study: its name, and the level of each arm as it is shown; `values` where levels are numbers."""

    name: str
    levels: Mapping[str, str]
    values: Mapping[str, float] = field(default_factory=dict)

    def ordered(self, first: str | None) -> list[str]:
        """The levels: numbers ascending, else that of the arm `first`, the reference, before the others."""
        by_place = sorted(self.levels, key=lambda arm: (self.values.get(arm, math.inf) if self.values else 0.0, arm != first))
        return list(dict.fromkeys(self.levels[arm] for arm in by_place))


def factors(workspace: Workspace, test_id: str, quantity: str | None = None) -> FactorsView:
    """What each factor of a study does to a quantity of a test, and the sweep where one setting was varied.

    Raises
    ------
    EntryError
        If the test has no such quantity.
    """
    with workspace.read() as session:
        test = find(session, Test, test_id)
        study = find(session, Study, test.study_id)
        arms = arms_of(session, study.id, windows=True)
        evidence = load_evidence(session, [test], arms, {test_id: quantity} if quantity else begun(session, [test]))[test_id]
        spec = evidence.method.quantity(evidence.quantity)
        found = [f for f in factors_of(session, study, arms) if len(set(f.levels.values())) > 1]
        effects, reason = _effects(found, evidence, study.reference_arm_id)
        return FactorsView(
            test_id=test_id,
            quantity=quantity_view(spec, evidence.quantity),
            factors=[FactorView(name=f.name, levels=f.ordered(study.reference_arm_id)) for f in found],
            cells=[_cell(found, arm, group) for arm in arms if (group := evidence.groups().get(arm.id)) is not None],
            effects=[] if effects is None else [_effect_view(e, effects, evidence) for e in effects.effects],
            stands_out_from=None if effects is None else effects.stands_out_from,
            reason=reason,
            sweep=_sweep(study, arms, evidence),
        )


def factors_of(session: Session, study: Study, arms: Sequence[Arm]) -> list[Factor]:
    """The factors that a study varies: materials where it crosses them, then what it studies; levels named by their values."""
    kind = StudiedFactor(study.studied_factor)
    found = []
    if study.crosses_materials or kind in (StudiedFactor.MATERIAL, StudiedFactor.COLOUR):
        products = {a.id: (a.variant.material.maker, a.variant.material.product) for a in arms}
        colours = {a.variant.material_id for a in arms}
        is_colour = len(colours) > len(set(products.values()))
        named = {a.id: f"{' '.join(products[a.id])}{f', {a.variant.material.colour}' if is_colour else ''}" for a in arms}
        found.append(Factor("material", named))
    if kind is StudiedFactor.TREATMENT:
        found.append(Factor("treatment", {a.id: a.variant.treatment or "untreated" for a in arms}))
    elif kind in (StudiedFactor.LOT, StudiedFactor.PRINTER, StudiedFactor.RIG):
        names = narrowed_names(session, arms, study)
        ids = {a.id: {StudiedFactor.LOT: a.spool_id, StudiedFactor.PRINTER: a.printer_id, StudiedFactor.RIG: a.rig_id}[kind] for a in arms}
        found.append(Factor(str(kind), {a: names.get(key or "", "not said") for a, key in ids.items()}))
    elif kind is StudiedFactor.SETTING:
        for name in _independent(study.studied_settings):
            label = declared.label if (declared := setting(name)) is not None else name
            values = {a.id: settings_of(a).get(name) for a in arms}
            numbers = {a: float(v) for a, v in values.items() if isinstance(v, int | float) and not isinstance(v, bool)}
            found.append(Factor(label, {a: "not said" if v is None else shown(name, v) for a, v in values.items()}, numbers))
    return found


def _independent(studied: Sequence[str]) -> list[str]:
    """Of settings that are moved together the first stands for all."""
    return [settings_studied([entry])[0] for entry in studied]


def _effects(found: Sequence[Factor], evidence: Evidence, reference_id: str | None) -> tuple[Effects | None, str]:
    """Main effects and interactions, or why there are none."""
    if len(found) < 2:
        return None, ""
    if evidence.method.quantity(evidence.quantity).graded:
        return None, "grades have no effects: their steps are not equal"
    groups = evidence.groups()
    bounded = [a for a in groups if any(d.bound != Bound.EXACT for d in evidence.counted(a))]
    if bounded:
        return None, "some results are bounds: effects need values"
    cells = {tuple(f.levels[arm_id] for f in found): group for arm_id, group in groups.items()}
    if len(cells) < len(groups):
        return None, "two arms have the same levels of all factors"
    levels = {f.name: f.ordered(reference_id) for f in found}
    try:
        if cells and all(g.n == 1 for g in cells.values()):
            return unreplicated_effects(levels, {cell: g.mean for cell, g in cells.items()}), ""
        return replicated_effects(levels, cells), ""
    except EntryError as error:
        return None, str(error)


def _cell(found: Sequence[Factor], arm: Arm, group: GroupSummary) -> CellMean:
    return CellMean(arm_id=arm.id, levels=[f.levels[arm.id] for f in found], n=group.n, mean=group.mean, ci95=pair(group.ci95))


def _effect_view(effect: Effect, effects: Effects, evidence: Evidence) -> FactorEffect:
    limit = effects.stands_out_from
    clear = effect.ci95.clear_of_zero if effect.ci95 is not None else limit is not None and abs(effect.difference) > limit
    margin = next((m for g in evidence.groups().values() if (m := evidence.margin.absolute(g)) is not None), None)
    return FactorEffect(
        factors=list(effect.factors),
        levels=list(effect.levels),
        against=list(effect.against),
        difference=effect.difference,
        ci95=pair(effect.ci95),
        p=effect.p,
        stands_out=clear,
        matters=margin is not None and abs(effect.difference) > margin,
        aliases=list(effect.aliases),
    )


def _sweep(study: Study, arms: Sequence[Arm], evidence: Evidence) -> SweepView | None:
    """The response against the one setting that was varied, of one material; None for anything else."""
    names = _independent(study.studied_settings)
    spec = evidence.method.quantity(evidence.quantity)
    if study.studied_factor != StudiedFactor.SETTING or len(names) != 1 or len({a.variant.material_id for a in arms}) != 1 or spec.graded:
        return None
    level = {a.id: value for a in arms if isinstance(value := settings_of(a).get(names[0]), int | float) and not isinstance(value, bool)}
    points = [(level[arm_id], d.value, arm_id) for arm_id in level for d in evidence.counted(arm_id) if d.value is not None and d.bound == Bound.EXACT]
    if len(level) < 3 or len({x for x, *_ in points}) < 3:
        return None
    try:
        found = sweep([x for x, *_ in points], [y for _, y, _ in points], evidence.margin, spec.good_side is GoodSide.LOWER)
    except EntryError:
        return None
    declared, window = setting(names[0]), windows(window_of(arms[0].variant.material)).get(names[0])
    low, high = min(x for x, *_ in points), max(x for x, *_ in points)
    curve = None if found.chosen is None else found.curves[found.chosen]
    drawn = np.linspace(low, high, _DRAWN)
    optimum = found.optimum if found.optimum is not None and found.optimum.inside else None
    return SweepView(
        setting=names[0],
        label=names[0] if declared is None else declared.label,
        unit="" if declared is None else declared.unit,
        points=[(x, y) for x, y, _ in points],
        levels=[SweepLevel(x=v.x, n=v.n, mean=v.mean, loss=v.loss, loss_limit=v.loss_limit, in_window=v.in_window) for v in found.levels],
        best_level=found.best_level,
        margin=found.margin,
        chosen=None if found.chosen is None else str(found.chosen),
        lack_of_fit={str(shape): c.lack_of_fit_p for shape, c in found.curves.items()},
        curve=[] if curve is None else list(zip(drawn.tolist(), curve.at(drawn).tolist(), strict=True)),
        optimum=None if optimum is None else optimum.x,
        optimum_ci95=None if optimum is None else pair(optimum.interval),
        maker_window=None if window is None else (window.low, window.high),
    )
