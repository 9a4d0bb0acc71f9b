"""The evidence of a test: its dots, groups and verdicts, derived from what was kept and never kept itself.

It is cached in this process by the revision of the test's data, so that accepting a reading costs the same
however large the study is, and nothing older than the data is ever given out.
"""

from __future__ import annotations

from collections import Counter, OrderedDict, defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from threading import Lock

from sqlalchemy import func, select
from sqlalchemy.orm import Session, joinedload

from assayer.core.methods import method as find_method
from assayer.core.methods.base import Method
from assayer.core.methods.derived import DERIVED, Derived, TestFacts, bound_of_ratio
from assayer.core.methods.vocabulary import Bound, Validity
from assayer.core.stats.groups import GroupSummary, Interval, summarise
from assayer.core.stats.ratios import RatioOfMeans
from assayer.core.stats.verdicts import GroupBounds, Margin, Verdict, decide, decide_ratios
from assayer.services.studies.views import CellView, DotView, EvidenceView, GroupView, RatioView, VerdictView
from assayer.store.counting import count_if
from assayer.store.models import Arm, Reading, Result, Rig, RigVersion, Run, Slot, Specimen, Study, Test, Variant

Key = tuple[str, str]
"""What two results must share to be averaged: procedure version and rig version."""

_AMBIENT_APART = 3.0
"""°C between the mean of a run and that of its test, above which the comparison is marked (METHODS 6)."""


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

    def view(self) -> DotView:
        return DotView(
            run_id=self.run_id,
            specimen_id=self.specimen_id,
            code=self.code,
            value=self.value,
            bound=self.bound,
            state=self.state,
            reason=self.reason,
        )


@dataclass(slots=True)
class Evidence:
    """All there is to know of one test for one quantity: per arm its plan, its dots and its group."""

    test: Test
    method: Method
    quantity: str
    arms: Sequence[Arm]
    planned: Counter[str] = field(default_factory=Counter)
    printed: Counter[str] = field(default_factory=Counter)
    measured: Counter[str] = field(default_factory=Counter)
    dots: dict[str, list[Dot]] = field(default_factory=dict)
    rig_names: dict[str, str] = field(default_factory=dict)
    key: Key | None = None

    def counted(self, arm_id: str) -> list[Dot]:
        return [d for d in self.dots.get(arm_id, []) if d.state == "counts" and d.value is not None]

    def batches(self, arm_id: str) -> int:
        return len({d.batch_id for d in self.dots.get(arm_id, [])})

    def tested(self, arm_id: str) -> int:
        """Slots that have been tested: a retest after one was left out is not counted twice."""
        return len({d.slot_id for d in self.dots.get(arm_id, []) if d.state != "open"})

    def groups(self) -> dict[str, GroupSummary]:
        """Summaries by arm, of the arms with at least one value that counts; s² is at least r²/12."""
        spec = self.method.quantity(self.quantity)
        found: dict[str, GroupSummary] = {}
        for arm in self.arms:
            counted = self.counted(arm.id)
            if counted:
                step = max(d.reading_step for d in counted)
                found[arm.id] = summarise([d.value for d in counted if d.value is not None], step, spec.ratio_scale)
        return found

    def bounds(self, arm_id: str) -> GroupBounds:
        counts = Counter(d.bound for d in self.counted(arm_id))
        return GroupBounds(counts[Bound.AT_LEAST], counts[Bound.AT_MOST])

    def bound_of_mean(self, arm_id: str) -> Bound:
        """How the mean at face value stands to the true one."""
        bounds = self.bounds(arm_id)
        if bool(bounds.at_least) == bool(bounds.at_most):
            return Bound.EXACT
        return Bound.AT_LEAST if bounds.at_least else Bound.AT_MOST

    @property
    def margin(self) -> Margin:
        """The test's margin for its main quantity, each other quantity's own."""
        if self.quantity == self.method.main:
            return Margin(self.test.margin_value, self.test.margin_relative)
        return self.method.quantity(self.quantity).margin

    def verdicts(self, groups: Mapping[str, GroupSummary], reference_id: str | None) -> dict[str, Verdict]:
        """The verdict on each arm against the reference; empty without one."""
        reference = groups.get(reference_id or "")
        if reference is None or reference_id is None:
            return {}
        others = {a: g for a, g in groups.items() if a != reference_id}
        good_side = self.method.quantity(self.quantity).good_side
        decided = decide(reference, others, self.margin, good_side, {a: self.bounds(a) for a in others}, self.bounds(reference_id))
        return {d.group: d for d in decided}


@dataclass(frozen=True, slots=True)
class ArmRatio:
    """A derived quantity of one arm."""

    spec: Derived
    ratio: RatioOfMeans
    bounds: GroupBounds
    bound: Bound


def arms_of(session: Session, study_id: str) -> Sequence[Arm]:
    """The arms of a study with their variants, materials and sheets, in one query."""
    with_parts = joinedload(Arm.variant).joinedload(Variant.material), joinedload(Arm.variant).joinedload(Variant.sheet)
    return session.scalars(select(Arm).where(Arm.study_id == study_id).options(*with_parts).order_by(Arm.position)).all()


def load_evidence(session: Session, tests: Iterable[Test], arms: Sequence[Arm], quantities: Mapping[str, str] | None = None) -> dict[str, Evidence]:
    """Read tests of one study with all their runs, in the same few queries however many they are.

    `quantities` by test id; each test's main quantity where it is not named.
    """
    found: dict[str, Evidence] = {}
    for test in tests:
        method = find_method(test.method)
        found[test.id] = Evidence(test, method, (quantities or {}).get(test.id) or method.main, arms)
    ids = list(found)
    _count_slots(session, found)
    wanted = {e.quantity for e in found.values()}
    of_runs = select(Result).where(Result.test_id.in_(ids), Result.run_id.is_not(None), Result.quantity.in_(wanted))
    values = {(r.run_id, r.quantity): r for r in session.scalars(of_runs)}
    rows = session.execute(
        select(Slot.arm_id, Slot.id.label("slot_id"), Specimen.id, Specimen.code, Specimen.batch_id, Run)
        .select_from(Slot)
        .join(Specimen, Specimen.slot_id == Slot.id)
        .join(Run, (Run.specimen_id == Specimen.id) & (Run.test_id == Slot.test_id) & Run.retracted_at.is_(None))
        .where(Slot.test_id.in_(ids))
        .order_by(Run.happened_at, Specimen.code)
    ).all()
    ambient = _ambient(session, [e.test.id for e in found.values() if any(f.timed for f in e.method.fields())])
    by_test: dict[str, list[_Row]] = defaultdict(list)
    for row in rows:
        result = values.get((row.Run.id, found[row.Run.test_id].quantity))
        by_test[row.Run.test_id].append(_Row(row.arm_id, row.slot_id, row.id, row.code, row.batch_id, row.Run, result))
    names = _rig_names(session, {r.run.rig_version_id for own in by_test.values() for r in own})
    for test_id, own in by_test.items():
        _place(found[test_id], own, ambient, names)
    return found


@dataclass(frozen=True, slots=True)
class _Row:
    arm_id: str
    slot_id: str
    specimen_id: str
    code: str
    batch_id: str
    run: Run
    result: Result | None


def _count_slots(session: Session, found: Mapping[str, Evidence]) -> None:
    printed = select(Specimen.slot_id).where(Specimen.slot_id == Slot.id).exists()
    rows = session.execute(
        select(Slot.test_id, Slot.arm_id, func.count(), count_if(printed)).where(Slot.test_id.in_(list(found))).group_by(Slot.test_id, Slot.arm_id)
    )
    for test_id, arm_id, planned, done in rows:
        found[test_id].planned[arm_id] = planned
        found[test_id].printed[arm_id] = done


def _rig_names(session: Session, version_ids: set[str]) -> dict[str, str]:
    if not version_ids:
        return {}
    return {version: name for version, name in session.execute(select(RigVersion.id, Rig.name).join(Rig).where(RigVersion.id.in_(version_ids)))}


def _ambient(session: Session, test_ids: list[str]) -> dict[str, float]:
    """Mean ambient of each run whose readings carry one, °C."""
    if not test_ids:
        return {}
    means = (
        select(Reading.run_id, func.avg(Reading.ambient_c))
        .join(Run, Run.id == Reading.run_id)
        .where(Run.test_id.in_(test_ids), Run.retracted_at.is_(None), Reading.ambient_c.is_not(None))
        .group_by(Reading.run_id)
    )
    return {run_id: mean for run_id, mean in session.execute(means)}


def _place(evidence: Evidence, rows: list[_Row], ambient: Mapping[str, float], names: Mapping[str, str]) -> None:
    shown = [r for r in rows if r.run.complete or r.result is not None]
    # what most specimens that count were tested with is the test; anything else stands apart from it
    votes = Counter((r.run.procedure_version, r.run.rig_version_id) for r in shown if r.run.validity != Validity.LEFT_OUT)
    evidence.key = votes.most_common(1)[0][0] if votes else None
    evidence.rig_names = {r.run.rig_version_id: names.get(r.run.rig_version_id, "") for r in rows}
    evidence.measured = Counter(r.arm_id for r in rows if not r.run.complete)
    for r in shown:
        key = (r.run.procedure_version, r.run.rig_version_id)
        evidence.dots.setdefault(r.arm_id, []).append(
            Dot(
                arm_id=r.arm_id,
                slot_id=r.slot_id,
                run_id=r.run.id,
                specimen_id=r.specimen_id,
                code=r.code,
                batch_id=r.batch_id,
                value=None if r.result is None else r.result.value,
                bound="exact" if r.result is None else r.result.bound,
                state=_state(r, key == evidence.key),
                reason=r.run.validity_reason,
                key=key,
                reading_step=0.0 if r.result is None else r.result.reading_step,
                ambient=ambient.get(r.run.id),
            )
        )


def _state(row: _Row, alike: bool) -> str:
    if row.run.validity == Validity.LEFT_OUT:
        return "left_out"
    if row.result is not None and row.result.provisional:
        return "open"
    return "counts" if alike else "apart"


# ---- derived quantities ---------------------------------------------------------------------------


def facts_of_test(test: Test) -> TestFacts:
    return TestFacts(test.method, test.orientation, test.shape, repr(sorted(test.protocol.items())))


def derived_of(test: Test, tests: Iterable[Test]) -> list[tuple[Derived, Test]]:
    """The derived quantities that belong to a test, each with the test below its line."""
    own = facts_of_test(test)
    return [(spec, other) for spec in DERIVED.values() for other in tests if other.id != test.id and spec.pairs(own, facts_of_test(other))]


def arm_ratios(spec: Derived, above: Evidence, below: Evidence) -> dict[str, ArmRatio]:
    """A derived quantity by arm, where both tests were done alike; empty where their rigs or procedures differ."""
    if above.key is None or above.key != below.key:
        return {}
    upper, lower = above.groups(), below.groups()
    found = {}
    for arm_id in (a for a in upper if a in lower):
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


# ---- views ----------------------------------------------------------------------------------------


def pair(value: Interval | None) -> tuple[float, float] | None:
    return None if value is None else (value.low, value.high)


def verdict_view(verdict: Verdict | None) -> VerdictView | None:
    if verdict is None:
        return None
    return VerdictView(
        word=str(verdict.word),
        difference=verdict.difference,
        ci95=pair(verdict.ci95),
        ci90=pair(verdict.ci90),
        margin=verdict.margin,
        more_specimens=verdict.more_specimens,
        notes=verdict.notes,
    )


def group_view(group: GroupSummary | None, bounds: GroupBounds) -> GroupView | None:
    if group is None:
        return None
    return GroupView(
        n=group.n,
        mean=group.mean,
        sd=group.sd,
        cv=group.cv,
        ci95=pair(group.ci95),
        median=group.median,
        minimum=group.minimum,
        maximum=group.maximum,
        at_least=bounds.at_least,
        at_most=bounds.at_most,
    )


def ratio_view(ratio: ArmRatio, verdict: Verdict | None) -> RatioView:
    return RatioView(
        name=ratio.spec.name,
        label=ratio.spec.label,
        ratio=ratio.ratio.ratio,
        ci95=pair(ratio.ratio.ci95),
        bound=str(ratio.bound),
        verdict=verdict_view(verdict),
    )


def notes_of(evidence: Evidence, arm_id: str) -> list[str]:
    """What is to be said about an arm: what stands apart and why, bounds in its mean, rooms that differ."""
    dots = evidence.dots.get(arm_id, [])
    notes = []
    for key in dict.fromkeys(d.key for d in dots if d.state == "apart"):
        count = sum(d.key == key and d.state == "apart" for d in dots)
        assert evidence.key is not None
        differs = "procedure" if key[0] != evidence.key[0] else "rig"
        notes.append(f"{count} tested with another {differs} ({evidence.rig_names.get(key[1], '')}): shown apart, not averaged")
    bounds, n = evidence.bounds(arm_id), len(evidence.counted(arm_id))
    if bounds.at_least:
        notes.append(f"{bounds.at_least} of {n} are lower bounds: the true mean is higher")
    if bounds.at_most:
        notes.append(f"{bounds.at_most} of {n} are upper bounds: the true mean is lower")
    counted = [d.ambient for own in evidence.dots.values() for d in own if d.state == "counts" and d.ambient is not None]
    if counted:
        mean = sum(counted) / len(counted)
        for d in evidence.counted(arm_id):
            if d.ambient is not None and abs(d.ambient - mean) > _AMBIENT_APART:
                notes.append(f"{d.code}: the room was {d.ambient:.1f} °C, {mean:.1f} °C for all: the comparison is marked")
    return notes


def evidence_view(evidence: Evidence, below: Sequence[tuple[Derived, Evidence]], study: Study) -> EvidenceView:
    """What the board shows of one test."""
    groups = evidence.groups()
    verdicts = evidence.verdicts(groups, study.reference_arm_id)
    spec = evidence.method.quantity(evidence.quantity)
    reference = groups.get(study.reference_arm_id or "")
    ratios = [arm_ratios(derived, evidence, other) for derived, other in below]
    judged = [ratio_verdicts(r, study.reference_arm_id) for r in ratios]
    test = evidence.test
    return EvidenceView(
        test_id=test.id,
        label=evidence.method.label_for(test.orientation),
        orientation=test.orientation,
        shape=evidence.method.shape(test.shape).label,
        quantity=evidence.quantity,
        quantity_label=spec.label,
        unit=spec.unit,
        good_side=str(spec.good_side),
        replicates=test.replicates,
        margin=evidence.margin.absolute(reference) if reference else None,
        margin_relative=test.margin_value if test.margin_relative else None,
        revision=test.revision,
        cells=[
            CellView(
                arm_id=arm.id,
                planned=evidence.planned[arm.id],
                printed=evidence.printed[arm.id],
                measured=evidence.measured[arm.id],
                tested=evidence.tested(arm.id),
                batches=evidence.batches(arm.id),
                dots=[d.view() for d in evidence.dots.get(arm.id, [])],
                group=group_view(groups.get(arm.id), evidence.bounds(arm.id)),
                verdict=verdict_view(verdicts.get(arm.id)),
                derived=[ratio_view(r[arm.id], v.get(arm.id)) for r, v in zip(ratios, judged, strict=True) if arm.id in r],
                notes=notes_of(evidence, arm.id),
            )
            for arm in evidence.arms
        ],
    )


class EvidenceCache:
    """Answers about tests, by the revision of their data; the oldest go first."""

    def __init__(self, size: int = 400) -> None:
        self._size = size
        self._kept: OrderedDict[tuple[object, ...], str] = OrderedDict()
        self._lock = Lock()

    def get(self, key: tuple[object, ...]) -> str | None:
        with self._lock:
            found = self._kept.get(key)
            if found is not None:
                self._kept.move_to_end(key)
            return found

    def put(self, key: tuple[object, ...], answer: str) -> None:
        with self._lock:
            self._kept[key] = answer
            while len(self._kept) > self._size:
                self._kept.popitem(last=False)
