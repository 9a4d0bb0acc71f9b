"""Derived quantities of two tests, arm by arm, and their verdicts."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

from assayer.core.methods import method as find_method
from assayer.core.methods.derived import DERIVED, Derived, TestFacts, bound_of_mean, bound_of_ratio
from assayer.core.methods.vocabulary import Bound
from assayer.core.stats.groups import GroupSummary
from assayer.core.stats.ratios import RatioOfMeans
from assayer.core.stats.verdicts import GroupBounds, Verdict, decide_ratios
from assayer.services.declarations import main_of
from assayer.services.studies.evidence_groups import Evidence
from assayer.store.models import Arm, Test


@dataclass(frozen=True, slots=True)
class ArmRatio:
    """A derived quantity of one arm."""

    spec: Derived
    ratio: RatioOfMeans
    bounds: GroupBounds
    bound: Bound
    above: Bound
    """How the mean above the line, with bounds treated as exact, stands to the true one."""
    below: Bound
    denominator: str
    """The arm whose mean stands below the line: its own, or its control's."""


def facts_of_test(test: Test) -> TestFacts:
    return TestFacts(test.method, test.orientation, test.shape, repr(sorted(test.protocol.items())))


def derived_of(test: Test, tests: Iterable[Test], arms: Sequence[Arm]) -> list[tuple[Derived, Test]]:
    """The derived quantities that belong to a test, each with the test below its line (of what was treated: the same one)."""
    own = facts_of_test(test)
    found = [(spec, other) for spec in DERIVED.values() for other in tests if other.id != test.id and spec.pairs(own, facts_of_test(other))]
    if controls_of(arms) and find_method(test.method).quantity(main_of(test)).ratio_scale:
        found += [(spec, test) for spec in DERIVED.values() if spec.of_controls]
    return found


def label_of(spec: Derived, test: Test) -> str:
    """Of two tests its name says what it is; of what was treated it is of the test's main quantity."""
    return f"{spec.label} of {find_method(test.method).quantity(main_of(test)).label}" if spec.of_controls else spec.label


def arm_ratios(spec: Derived, above: Evidence, below: Evidence) -> dict[str, ArmRatio]:
    """A derived quantity by arm, where both means were found alike; none where rigs or procedures differ."""
    upper, lower = above.groups(), below.groups()
    beneath = controls_of(above.arms) if spec.of_controls else {a.id: a.id for a in above.arms}
    alike = {a: b for a, b in beneath.items() if a in upper and b in lower and above.keys[a] == below.keys[b]}
    made = {a: _ratio(spec, (upper[a], above.bounds(a)), (lower[b], below.bounds(b)), b) for a, b in alike.items()}
    return {a: ratio for a, ratio in made.items() if ratio is not None}


def controls_of(arms: Sequence[Arm]) -> dict[str, str]:
    """Of each treated arm the one of the same material and settings that was not treated."""
    untreated = {(a.variant.material_id, a.variant.sheet_id): a.id for a in arms if not a.variant.treatment}
    found = {a.id: untreated.get((a.variant.material_id, a.variant.sheet_id)) for a in arms if a.variant.treatment}
    return {arm: control for arm, control in found.items() if control is not None}


def reference_of(spec: Derived, ratios: Mapping[str, ArmRatio], arms: Sequence[Arm], reference_id: str | None) -> str | None:
    """The arm whose ratio the others are held against: the study's reference, or the treated one whose control that is."""
    if not spec.of_controls:
        return reference_id
    return next((a for a, control in controls_of(arms).items() if control == reference_id and a in ratios), None)


def _ratio(spec: Derived, above: tuple[GroupSummary, GroupBounds], below: tuple[GroupSummary, GroupBounds], denominator: str) -> ArmRatio | None:
    ratio = spec.ratio(above[0], below[0], denominator)
    if ratio is None:
        return None
    ours, theirs = above[1], below[1]
    as_ratio = GroupBounds(ours.at_least + theirs.at_most, ours.at_most + theirs.at_least)
    return ArmRatio(spec, ratio, as_ratio, bound_of_ratio(ours, theirs), bound_of_mean(ours), bound_of_mean(theirs), denominator)


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
