"""How the strengths of an arm spread: its breaks on a Weibull plot, and the fitted line."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy.orm import Session

from assayer.core.errors import EntryError
from assayer.core.methods.vocabulary import Bound
from assayer.core.stats.weibull import fit_weibull, plotting_positions
from assayer.services.findings.names import arm_names
from assayer.services.findings.views import SpreadOfArm, StrengthSpread
from assayer.services.studies.evidence import arms_of, begun, load_evidence
from assayer.services.studies.evidence_groups import Evidence
from assayer.services.studies.listing import arm_views
from assayer.services.unit import Workspace, find
from assayer.store.models import Arm, Study, Test


def strength_spread(workspace: Workspace, test_id: str, quantity: str | None = None, end: str | None = None) -> StrengthSpread:
    """Of each arm with values that count; upper bounds have no place on the plot.

    Raises
    ------
    EntryError
        If the quantity has no zero that means "none of it".
    """
    with workspace.read() as session:
        test = find(session, Test, test_id)
        study = find(session, Study, test.study_id)
        arms = arms_of(session, study.id)
        evidence = _evidence(session, test, arms, quantity, end)
        spec = evidence.method.quantity(evidence.quantity)
        if not spec.ratio_scale or spec.graded:
            raise EntryError(f"{spec.label} has no Weibull plot: it is no strength", "quantity")
        names = arm_names(arm_views(session, arms, study))
        return StrengthSpread(arms=[_of_arm(evidence, arm, names[arm.id]) for arm in arms if evidence.counted(arm.id)])


def _evidence(session: Session, test: Test, arms: Sequence[Arm], quantity: str | None, end: str | None) -> Evidence:
    quantities = {test.id: quantity} if quantity else begun(session, [test])
    return load_evidence(session, [test], arms, quantities, {} if end is None else {test.id: end}, reference_id=arms[0].id)[test.id]


def _of_arm(evidence: Evidence, arm: Arm, name: str) -> SpreadOfArm:
    counted = evidence.counted(arm.id)
    exact = [d.value for d in counted if d.bound == Bound.EXACT and d.value is not None]
    bounds = [d.value for d in counted if d.bound == Bound.AT_LEAST and d.value is not None]
    shape = scale = None
    reason = ""
    try:
        fit = fit_weibull(exact, bounds)
        shape, scale = fit.shape, fit.scale
    except EntryError as error:
        reason = str(error)
    points = [p for p in plotting_positions(exact, bounds) if p[0] > 0]
    return SpreadOfArm(arm_id=arm.id, name=name, shape=shape, scale=scale, points=points, bounds=len(bounds), reason=reason)
