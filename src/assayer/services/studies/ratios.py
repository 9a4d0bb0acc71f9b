"""Derived quantities of two tests, arm by arm, and their verdicts."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from assayer.core.methods.derived import DERIVED, Derived, TestFacts, bound_of_ratio
from assayer.core.methods.vocabulary import Bound
from assayer.core.stats.ratios import RatioOfMeans
from assayer.core.stats.verdicts import GroupBounds, Verdict, decide_ratios
from assayer.services.studies.evidence import Evidence
from assayer.store.models import Test


@dataclass(frozen=True, slots=True)
class ArmRatio:
    """A derived quantity of one arm."""

    spec: Derived
    ratio: RatioOfMeans
    bounds: GroupBounds
    bound: Bound


def facts_of_test(test: Test) -> TestFacts:
    return TestFacts(test.method, test.orientation, test.shape, repr(sorted(test.protocol.items())))


def derived_of(test: Test, tests: Iterable[Test]) -> list[tuple[Derived, Test]]:
    """The derived quantities that belong to a test, each with the test below its line."""
    own = facts_of_test(test)
    return [(spec, other) for spec in DERIVED.values() for other in tests if other.id != test.id and spec.pairs(own, facts_of_test(other))]


def arm_ratios(spec: Derived, above: Evidence, below: Evidence) -> dict[str, ArmRatio]:
    """A derived quantity by arm, where both tests were done alike; empty where their rigs or procedures differ."""
    upper, lower = above.groups(), below.groups()
    found = {}
    for arm_id in (a for a in upper if a in lower and above.keys[a] == below.keys[a]):
        ratio = spec.ratio(upper[arm_id], lower[arm_id])
        if ratio is None:
            continue
        ours, theirs = above.bounds(arm_id), below.bounds(arm_id)
        as_ratio = GroupBounds(ours.at_least + theirs.at_most, ours.at_most + theirs.at_least)
        found[arm_id] = ArmRatio(spec, ratio, as_ratio, bound_of_ratio(ours, theirs))
    return found


def ratio_verdicts(ratios: Mapping[str, ArmRatio], reference_id: str | None) -> dict[str, Verdict]:
    """Verdicts on the ratios against the reference's, as logs."""
    reference = ratios.get(reference_id or "")
    if reference is None:
        return {}
    others = {a: r for a, r in ratios.items() if a != reference_id}
    spec = reference.spec
    decided = decide_ratios(
        reference.ratio, {a: r.ratio for a, r in others.items()}, spec.margin, spec.good_side, {a: r.bounds for a, r in others.items()}, reference.bounds
    )
    return {d.group: d for d in decided}
