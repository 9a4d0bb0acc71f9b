"""Findings of one test: groups, Welch's ANOVA, all pairs, verdicts, hints of outliers."""

from __future__ import annotations

from typing import Any

from assayer.core.errors import EntryError
from assayer.core.methods import method as find_method
from assayer.core.stats.outliers import grubbs
from assayer.core.stats.several_groups import games_howell, welch_anova
from assayer.services.studies.evidence import apart_notes, decision_dict, group_dict, interval, load_evidence
from assayer.services.studies.listing import arm_dict, test_dict
from assayer.services.unit import Workspace, find
from assayer.store.models import Result, Study, Test


def findings(workspace: Workspace, test_id: str, quantity: str | None = None) -> dict[str, Any]:
    """Everything the Findings tab of a test shows, for one of its quantities.

    Raises
    ------
    EntryError
        If the method has no such quantity.
    """
    with workspace.read() as session:
        test = find(session, Test, test_id)
        method = find_method(test.method)
        if quantity is not None and all(q.name != quantity for q in method.quantities):
            raise EntryError(f"{method.label} has no quantity '{quantity}'", "quantity")
        study = find(session, Study, test.study_id)
        column = load_evidence(session, test, quantity)
        spec = method.quantity(column.quantity)
        groups = column.groups()
        decisions = column.decisions(groups, study.reference_arm_id)
        anova = welch_anova(groups)
        available = {r for (r,) in session.query(Result.quantity).filter(Result.test_id == test_id, Result.subject_kind == "specimen").distinct()}
        arms = []
        for arm in column.arms:
            dots = column.dots.get(arm.id, [])
            counted = column.counted(arm.id)
            hint = grubbs([d.value for d in counted if d.value is not None])
            arms.append(
                {
                    "arm": arm_dict(arm),
                    "planned": column.planned[arm.id],
                    "batches": column.batches.get(arm.id, 0),
                    "group": group_dict(groups.get(arm.id)),
                    "decision": decision_dict(decisions.get(arm.id)),
                    "dots": [d.as_dict() for d in dots],
                    "outlier": None
                    if hint is None or not hint.stands_out
                    else {"run_id": counted[hint.index].run_id, "code": counted[hint.index].code, "g": hint.g, "critical": hint.critical},
                    "notes": apart_notes(column, dots),
                }
            )
        return {
            "test": test_dict(test),
            "study": {"id": study.id, "title": study.title, "reference_arm_id": study.reference_arm_id, "revision": study.revision},
            "quantity": {"name": spec.name, "label": spec.label, "unit": spec.unit, "good_side": str(spec.good_side)},
            "quantities": [{"name": q.name, "label": q.label, "unit": q.unit} for q in method.quantities if q.name in available],
            "arms": arms,
            "anova": None if anova is None else {"f": anova.f, "df1": anova.df1, "df2": anova.df2, "p": anova.p},
            "pairs": [{"a": p.a, "b": p.b, "difference": p.difference, "ci95": interval(p.ci95), "p": p.p} for p in games_howell(groups)],
        }
