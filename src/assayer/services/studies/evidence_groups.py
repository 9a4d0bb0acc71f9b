"""The evidence of one test: its specimens, groups and verdicts, derived from what is stored and never stored itself."""

from __future__ import annotations

import json
import math
from collections import Counter, defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

from assayer.core.errors import EntryError
from assayer.core.methods.base import Method
from assayer.core.methods.derived import bound_of_mean
from assayer.core.methods.vocabulary import Bound
from assayer.core.stats.batches import BatchedGroups, BatchRatio, summarise_batched
from assayer.core.stats.grades import CLEAR, GradeComparison, compare_grades, holm
from assayer.core.stats.groups import GroupSummary, MeanError, t_quantile
from assayer.core.stats.verdicts import GoodSide, GroupBounds, Margin, Verdict, VerdictWord, decide
from assayer.core.stats.weibull import Weibull, fit_weibull
from assayer.services.declarations import main_of
from assayer.store.models import Arm, Test

Key = tuple[str, str, str]
"""What two results must share to be averaged: procedure version, rig version, and how they ended where that is told apart."""

ANOTHER_RIG = "another rig"

REDUCED_BY = ", reduction "
"""Stands in a key behind the procedure of a value that was computed by an earlier reduction, and before its version."""


def procedure_key(method: Method, procedure_version: str, reduction_version: int | None) -> str:
    """The procedure of a result, and its reduction where that is not the newest: values by unlike rules are not averaged."""
    is_newest = reduction_version is None or reduction_version == method.reduction_version
    return procedure_version if is_newest else f"{procedure_version}{REDUCED_BY}{reduction_version}"


def conditions_of(test: Test) -> str:
    """How a test is set, as one text that is the same for tests which are set alike."""
    return json.dumps(test.protocol, sort_keys=True)


def differences_from(test: Test, measured: tuple[frozenset[str], str, str], own_test: Test, own: Key) -> list[str]:
    """In which of the things that two results must share to be compared a group differs.

    `measured` and `own`: the procedure, or all that a group has; the rig version; the way of ending.
    """
    (procedures, rig_version_id, end), (own_procedure, own_rig_version_id, own_end) = measured, own
    differs = {
        "another shape": test.shape != own_test.shape,
        "other conditions": test.protocol != own_test.protocol,
        "another procedure": procedures != {own_procedure},
        ANOTHER_RIG: rig_version_id != own_rig_version_id,
        "ended otherwise": end != own_end,
    }
    return [what for what, is_so in differs.items() if is_so]


@dataclass(frozen=True, slots=True)
class Dot:
    """One tested specimen.

    `state`: "counts", "left_out", "open" while readings to come may change it, or "apart" where its
    procedure or rig differs from the test's.
    """

    arm_id: str
    slot_id: str
    run_id: str
    specimen_id: str | None
    code: str
    batch_id: str
    value: float | None
    bound: str
    state: str
    reason: str | None
    key: Key
    reading_step: float
    ambient: float | None = None


@dataclass(frozen=True, slots=True)
class EarlierReference:
    """An arm of another study that the arms of a test are compared with.

    `on` is the day of its last run; `differs` says why nothing is compared with it, empty where it is.
    """

    arm: Arm
    study_id: str
    study: str
    test_id: str
    on: str
    differs: Sequence[str]


@dataclass
class Evidence:
    """All there is to know of one test for one quantity: per arm its plan, its specimens and its group.

    Groups and fits follow from `dots` and are worked out once, when first asked for: by then it must be filled.
    """

    test: Test
    method: Method
    quantity: str
    arms: Sequence[Arm]
    planned: Counter[str] = field(default_factory=Counter)
    printed: Counter[str] = field(default_factory=Counter)
    treated: Counter[str] = field(default_factory=Counter)
    measured: Counter[str] = field(default_factory=Counter)
    dots: dict[str, list[Dot]] = field(default_factory=dict)
    rig_names: dict[str, str] = field(default_factory=dict)
    bounds_in: bool = False
    """Whether the study asks for means that include lower bounds."""
    grades: dict[str, dict[str, float]] = field(default_factory=dict)
    """Of graded traits: by run, what each grader gave."""
    keys: dict[str, Key] = field(default_factory=dict)
    """By arm; the same for all, but where rigs are studied each arm has its own."""
    end: str = ""
    """The way of ending that is compared, where ways of ending are told apart."""
    ends: list[str] = field(default_factory=list)
    """All ways of ending that there are."""
    asked: str = ""
    """The quantity that was asked for, where another is compared instead."""
    unlike_starts: tuple[float, float] | None = None
    """The first and the last s at which specimens begin to count, where that is why."""
    own_margin: Margin | None = None
    """The lab's margin of another quantity than the test's main one, where it has set one."""
    earlier: EarlierReference | None = None
    """Where the reference is of another study."""

    @property
    def compared_arms(self) -> Sequence[Arm]:
        """The arms of the study, and the reference where it is of another one."""
        return self.arms if self.earlier is None else [*self.arms, self.earlier.arm]

    def counted(self, arm_id: str) -> list[Dot]:
        return [d for d in self.dots.get(arm_id, []) if d.state == "counts" and d.value is not None]

    def batches(self, arm_id: str) -> int:
        return len({d.batch_id for d in self.dots.get(arm_id, [])})

    def tested(self, arm_id: str) -> int:
        """Slots that have been tested: a retest after one was left out is not counted twice."""
        return len({d.slot_id for d in self.dots.get(arm_id, []) if d.state != "open"})

    def groups(self) -> dict[str, GroupSummary]:
        """Summaries by arm, of the arms with at least one value that counts; s² is at least r²/12, and batch is a random effect."""
        return self._batched.groups

    @property
    def batch_ratio(self) -> BatchRatio | None:
        """Batch-to-within scatter, pooled over the arms; None for grades, and where no arm has two batches."""
        return None if self.method.quantity(self.quantity).graded else self._batched.batch_ratio

    @cached_property
    def _batched(self) -> BatchedGroups:
        counted = {arm.id: dots for arm in self.compared_arms if (dots := self.counted(arm.id))}
        batched = self._summarised(counted)
        return replace(batched, groups={a: with_bounds_in(g, self.fits[a]) if a in self.fits else g for a, g in batched.groups.items()})

    def _summarised(self, dots: Mapping[str, Sequence[Dot]]) -> BatchedGroups:
        """Groups of dots that have a value, by name."""
        return summarise_batched(
            {name: [d.value for d in of if d.value is not None] for name, of in dots.items()},
            {name: [d.batch_id for d in of] for name, of in dots.items()},
            {name: max(d.reading_step for d in of) for name, of in dots.items()},
            self.method.quantity(self.quantity).ratio_scale,
            self.test.id,
        )

    def by_end(self, arm_id: str) -> dict[str, GroupSummary]:
        """Summaries of an arm by how its runs ended, where that is told apart: those with its procedure and rig that are not excluded."""
        key = self.keys.get(arm_id)
        by_ending: dict[str, list[Dot]] = defaultdict(list)
        for dot in self.dots.get(arm_id, []):
            if key is not None and dot.state in ("counts", "apart") and dot.value is not None and dot.key[:2] == key[:2]:
                by_ending[dot.key[2]].append(dot)
        return self._summarised({end: dots for end, dots in by_ending.items() if end}).groups

    @cached_property
    def fits(self) -> dict[str, Weibull]:
        """By arm, the fit that includes its lower bounds in its mean; of the arms that have some, where the study asks and enough broke."""
        if not self.bounds_in or not self.method.quantity(self.quantity).ratio_scale:
            return {}
        fits = {arm.id: self._fit(self.counted(arm.id)) for arm in self.compared_arms}
        return {arm_id: fit for arm_id, fit in fits.items() if fit is not None}

    @staticmethod
    def _fit(counted: Sequence[Dot]) -> Weibull | None:
        if any(d.bound == Bound.AT_MOST for d in counted):
            return None
        exact = [d.value for d in counted if d.bound == Bound.EXACT and d.value is not None]
        bounds = [d.value for d in counted if d.bound == Bound.AT_LEAST and d.value is not None]
        try:
            return fit_weibull(exact, bounds) if bounds else None
        except EntryError:
            return None

    def bounds(self, arm_id: str) -> GroupBounds:
        """How many values stand as bounds in an arm's mean: none where a fit with a finite interval includes them."""
        fit = self.fits.get(arm_id)
        if fit is not None and math.isfinite(fit.ci95.high):
            return GroupBounds()
        counts = Counter(d.bound for d in self.counted(arm_id))
        return GroupBounds(counts[Bound.AT_LEAST], counts[Bound.AT_MOST])

    def bound_of_mean(self, arm_id: str) -> Bound:
        """How the mean, with bounds treated as exact, stands to the true one."""
        return bound_of_mean(self.bounds(arm_id))

    @property
    def margin(self) -> Margin:
        """The test's margin for its main quantity, each other quantity's own."""
        if (self.asked or self.quantity) == main_of(self.test):
            return Margin(self.test.margin_value, self.test.margin_relative)
        return self.own_margin or self.method.quantity(self.quantity).margin

    def verdicts(self, groups: Mapping[str, GroupSummary], reference_id: str | None, further: bool = True) -> dict[str, Verdict]:
        """The verdict on each arm against the reference; empty without one. `further`: with the specimens that would decide."""
        reference = groups.get(reference_id or "")
        if reference is None or reference_id is None:
            return {}
        others = self.comparable_with(groups, reference_id)
        spec = self.method.quantity(self.quantity)
        if spec.graded:
            return self._graded(others, reference, reference_id, spec.good_side)
        decided = decide(reference, others, self.margin, spec.good_side, {a: self.bounds(a) for a in others}, self.bounds(reference_id), spec.target, further)
        return {d.group: replace(d, notes=[*d.notes, *self._batch_caveats(d, reference_id)]) for d in decided}

    def comparable_with(self, groups: Mapping[str, GroupSummary], reference_id: str) -> dict[str, GroupSummary]:
        """The other arms; where the reference is of another study, those that were tested as it was: a study of rigs has arms of several."""
        is_earlier = self.earlier is not None and reference_id == self.earlier.arm.id
        return {a: g for a, g in groups.items() if a != reference_id and (not is_earlier or self.keys.get(a) == self.keys.get(reference_id))}

    def _batch_caveats(self, verdict: Verdict, reference_id: str) -> list[str]:
        """What the batches behind a verdict leave open."""
        if verdict.word is VerdictWord.NONE:
            return []
        # counted from the prints themselves: a mean that includes bounds models no batches
        if any(len({d.batch_id for d in self.counted(arm_id)}) == 1 for arm_id in (verdict.group, reference_id)):
            return ["one print batch: valid for these prints"]
        ratio = self.batch_ratio
        return ["few batches: the intervals cover 92–97 % instead of 95 %"] if ratio is not None and ratio.few else []

    def _graded(self, others: Mapping[str, GroupSummary], reference: GroupSummary, reference_id: str, good_side: GoodSide) -> dict[str, Verdict]:
        """Grades get no margin and no equivalence: clearly apart by ranks (several arms: Holm), or not."""
        of_reference = self._by_grader(reference_id)
        compared = {a: compare_grades(self._by_grader(a), of_reference) for a in others}
        p_values = holm({a: c.p for a, c in compared.items() if c is not None})
        return {a: _graded_verdict(a, g.mean - reference.mean, compared[a], p_values.get(a), good_side) for a, g in others.items()}

    def results_as_grades(self) -> dict[str, dict[str, float]]:
        """Where what counts of several people stands as one result a run."""
        return {d.run_id: {"": d.value} for dots in self.dots.values() for d in dots if d.value is not None}

    def _by_grader(self, arm_id: str) -> dict[str, list[float]]:
        by_grader: dict[str, list[float]] = defaultdict(list)
        for dot in self.counted(arm_id):
            for grader, grade in self.grades.get(dot.run_id, {}).items():
                by_grader[grader].append(grade)
        return by_grader


def _graded_verdict(arm_id: str, difference: float, compared: GradeComparison | None, p: float | None, good_side: GoodSide) -> Verdict:
    """The direction is that of the tested rank sums: a grader who saw one side only may shift a mean, but has no say."""
    if compared is None or p is None:
        return Verdict(arm_id, difference, None, None, VerdictWord.NONE, None, notes=["nobody graded prints of both, or all are graded alike"])
    if p > CLEAR or compared.excess == 0:
        return Verdict(arm_id, difference, None, None, VerdictWord.UNDECIDED, None, notes=[f"no clear difference between the grades (p {p:.2g})"])
    higher = compared.excess > 0
    if good_side is GoodSide.NONE:
        word = VerdictWord.HIGHER if higher else VerdictWord.LOWER
    else:
        word = VerdictWord.BETTER if higher == (good_side is not GoodSide.LOWER) else VerdictWord.WORSE
    notes = [f"graded clearly apart (p {p:.2g})"]
    if (difference > 0) != higher:
        notes.append("by the graders who saw both; the means also hold grades of one side only")
    return Verdict(arm_id, difference, None, None, word, None, notes=notes)


def with_bounds_in(plain: GroupSummary, fitted: Weibull) -> GroupSummary:
    """A summary whose mean and interval are those of the fit; batches are not modelled in it.

    Where the upper end is not finite, the mean is a lower bound and stands at the lower end, without an interval.
    """
    if plain.n < 2 or plain.error is None:
        return plain
    if not math.isfinite(fitted.ci95.high):
        return replace(plain, mean=fitted.ci95.low, cv=None, ci95=None, batches=0, within_sd=None, ci95_new_batch=None)
    half = (fitted.ci95.high - fitted.ci95.low) / 2
    error = MeanError((half / t_quantile(0.975, plain.n - 1)) ** 2, plain.n - 1.0)
    sd = math.sqrt(error.variance * plain.n)
    return replace(plain, mean=fitted.mean, sd=sd, cv=sd / fitted.mean, ci95=fitted.ci95, error=error, batches=0, within_sd=None, ci95_new_batch=None)
