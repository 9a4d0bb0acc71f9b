"""Which verdicts a shortcoming of a plan affects."""

from __future__ import annotations

from dataclasses import replace

from assayer.core.plan.fairness import shortcomings
from assayer.core.plan.study_plan import PlannedArm, Shortcoming, StudyPlan


def affected_arms(plan: StudyPlan, shortcoming: Shortcoming) -> list[str]:
    """The arms whose verdict against the reference a shortcoming affects, in the order of the plan.

    Those that have it with the reference alone: an arm that shares its printer with the reference can be held against
    it, whatever the others were printed on. Where a test lacks replicates it has no verdict; those of other tests stand.
    """
    reference = next((a for a in plan.arms if a.name == plan.reference), None)
    if reference is None:
        return []

    def with_reference_alone(arm: PlannedArm) -> bool:
        pair = replace(plan, arms=[reference, arm], replicates={})
        return any((u.name, u.setting) == (shortcoming.name, shortcoming.setting) for u in shortcomings(pair))

    return [a.name for a in plan.arms if a is not reference and with_reference_alone(a)]
