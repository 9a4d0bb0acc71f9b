"""Reads the evidence of tests: their specimens with what was measured of each, placed by what they can be averaged with."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

from sqlalchemy import Row, func, select
from sqlalchemy.orm import Session, joinedload, load_only

from assayer.core.methods import method as find_method
from assayer.core.methods.base import Method
from assayer.core.methods.results import at_order, unlike_starts
from assayer.core.methods.vocabulary import Validity
from assayer.services.declarations import main_of
from assayer.services.rigs.margins import margin_of
from assayer.services.studies.evidence_groups import Dot, EarlierReference, Evidence, Key, differences_from, procedure_key
from assayer.store.counting import count_if
from assayer.store.models import Arm, Material, Reading, Result, Rig, RigVersion, Run, Slot, Specimen, Study, Test, Variant


def arms_of(session: Session, study_id: str, windows: bool = False) -> Sequence[Arm]:
    """The arms of a study with their variants, materials (and what their makers ask for) and sheets, in one query."""
    material = joinedload(Arm.variant).joinedload(Variant.material)
    with_parts = material.joinedload(Material.window) if windows else material, joinedload(Arm.variant).joinedload(Variant.sheet)
    return session.scalars(select(Arm).where(Arm.study_id == study_id).options(*with_parts).order_by(Arm.position)).all()


def load_evidence(
    session: Session,
    tests: Iterable[Test],
    arms: Sequence[Arm],
    quantities: Mapping[str, str] | None = None,
    ends: Mapping[str, str] | None = None,
    reference_id: str | None = None,
) -> dict[str, Evidence]:
    """Read tests of one study with all their runs, in the same few queries however many they are.

    `quantities` by test id; each test's main quantity where it is not named. `ends` by test id: the way of ending to
    compare, where ways of ending are not averaged with each other; the most common where it is not named. `reference_id`:
    what the arms are compared with, the study's reference where it is not named; an arm of another study is read as well.
    """
    found: dict[str, Evidence] = {}
    for test in tests:
        method = find_method(test.method)
        found[test.id] = Evidence(test, method, (quantities or {}).get(test.id) or main_of(test), arms)
    ids = list(found)
    for evidence in found.values():
        # one study, which whoever asks has mostly read already
        study = session.get(Study, evidence.test.study_id)
        evidence.bounds_in = study is not None and study.bounds_in
    _count_slots(session, found)
    wanted = {name for e in found.values() for name in (e.quantity, *_starts_of(e.method, e.quantity)) if name}
    # plain rows of what is needed: there are thousands
    r = Result
    of_runs = select(r.run_id, r.quantity, r.value, r.bound, r.reading_step, r.provisional, r.reduction_version).where(
        r.test_id.in_(ids), r.run_id.is_not(None), r.quantity.in_(wanted)
    )
    values = {(row.run_id, row.quantity): row for row in session.execute(of_runs)}
    rows = session.execute(
        select(Slot.arm_id, Slot.id.label("slot_id"), Specimen.id, Specimen.code, Specimen.batch_id, Run)
        .select_from(Slot)
        .join(Specimen, Specimen.slot_id == Slot.id)
        .join(Run, (Run.specimen_id == Specimen.id) & (Run.test_id == Slot.test_id) & Run.retracted_at.is_(None))
        .where(Slot.test_id.in_(ids))
        .options(load_only(*_OF_RUN))
        .order_by(Run.happened_at, Specimen.code)
    ).all()
    ambient = _ambient(session, [e.test.id for e in found.values() if any(f.timed for f in e.method.fields())])
    _compare_by_starts(found, {row.Run.id: row.Run for row in rows}, values)
    by_test: dict[str, list[_Row]] = defaultdict(list)
    for row in rows:
        evidence = found[row.Run.test_id]
        result = values.get((row.Run.id, evidence.quantity))
        end = evidence.method.end_apart(row.Run.outcome)
        by_test[row.Run.test_id].append(_Row(row.arm_id, row.slot_id, row.id, row.code, row.batch_id, row.Run, result, end))
    rigs = _rigs(session, {r.run.rig_version_id for own in by_test.values() for r in own})
    for test_id, own in by_test.items():
        _place(found[test_id], own, ambient, rigs, (ends or {}).get(test_id))
    for evidence in found.values():
        if evidence.method.quantity(evidence.quantity).graded:
            by = evidence.method.graded_by(evidence.quantity)
            evidence.grades = _grades(session, evidence.test.id, by) if by else evidence.results_as_grades()
    for evidence in found.values():
        if (evidence.asked or evidence.quantity) != main_of(evidence.test):
            evidence.own_margin = margin_of(session, evidence.method, evidence.quantity)
        study = session.get(Study, evidence.test.study_id)
        reference = reference_id or (None if study is None else study.reference_arm_id)
        if reference is not None and reference not in {a.id for a in arms}:
            _join_earlier_reference(session, evidence, reference)
    return found


def earlier_tests(session: Session, arm: Arm, test: Test) -> Sequence[Test]:
    """The tests of an arm's own study by the same method and orientation, those done alike first."""
    alike = select(Test).where(Test.study_id == arm.study_id, Test.method == test.method, Test.orientation == test.orientation).order_by(Test.position)
    return sorted(session.scalars(alike), key=lambda t: (t.shape, t.protocol) != (test.shape, test.protocol))


def _join_earlier_reference(session: Session, evidence: Evidence, arm_id: str) -> None:
    """Put the specimens of an arm of another study beside those of a test; they count where they were tested alike."""
    arm = session.get(Arm, arm_id)
    tests = [] if arm is None or arm.study_id == evidence.test.study_id else earlier_tests(session, arm, evidence.test)
    if arm is None or not tests:
        return
    (other,) = load_evidence(session, tests[:1], [arm], {tests[0].id: evidence.quantity}, reference_id=arm_id).values()
    dots = other.dots.get(arm_id, [])
    if not dots or other.quantity != evidence.quantity:
        return
    procedure, rig_version_id, end = next(iter(evidence.keys.values()), ("", "", ""))
    own = procedure, rig_version_id, evidence.end or end
    keys = {d.key for d in dots if d.state == "counts"}
    unlike = [differences_from(other.test, (frozenset({k[0]}), k[1], k[2]), evidence.test, own) for k in keys]
    differs = min(unlike, key=len, default=["nothing that counts"])
    # another shape, or other conditions, cannot be seen from how a single specimen was measured
    alike = not set(differs) & {"another shape", "other conditions"}
    evidence.dots[arm_id] = [replace(d, state="counts" if alike and d.key == own else "apart") if d.state in ("counts", "apart") else d for d in dots]
    evidence.grades |= {d.run_id: other.grades[d.run_id] for d in dots if d.run_id in other.grades}
    evidence.keys[arm_id] = own
    evidence.rig_names |= other.rig_names
    evidence.planned[arm_id] = len(dots)
    study = session.get_one(Study, arm.study_id)
    last = session.scalar(select(func.max(Run.happened_at)).where(Run.id.in_([d.run_id for d in dots])))
    evidence.earlier = EarlierReference(arm, study.id, study.title, other.test.id, "" if last is None else last.date().isoformat(), differs)


def begun(session: Session, tests: Iterable[Test]) -> dict[str, str]:
    """By test, before the time or load that its verdicts rest on has come: its quantity at the latest one that has results."""
    mains = {t.id: main for t in tests if find_method(t.method).quantity(main := main_of(t)).by in ("load", "after")}
    if not mains:
        return {}
    rows = session.execute(select(Result.test_id, Result.quantity).where(Result.test_id.in_(mains), Result.run_id.is_not(None)).distinct()).all()
    found: dict[str, list[str]] = defaultdict(list)
    for test_id, key in rows:
        if key.partition("@")[0] == mains[test_id].partition("@")[0]:
            found[test_id].append(key)
    return {test_id: max(keys, key=at_order) for test_id, keys in found.items() if mains[test_id] not in keys}


def _grades(session: Session, test_id: str, field_name: str) -> dict[str, dict[str, float]]:
    """By run, what each grader gave: of readings that nobody took back, the last one of each."""
    rows = session.execute(
        select(Reading.run_id, Reading.about, Reading.value)
        .join(Run, Run.id == Reading.run_id)
        .where(Run.test_id == test_id, Run.retracted_at.is_(None), Reading.field == field_name, Reading.retracted_at.is_(None), Reading.about.is_not(None))
        .order_by(Reading.seq)
    )
    found: dict[str, dict[str, float]] = defaultdict(dict)
    for run_id, grader, value in rows:
        found[run_id][grader or ""] = value
    return found


def _starts_of(method: Method, quantity: str) -> tuple[str, str]:
    """The quantity that tells when one begins to count, and the one that is compared instead where that differs; empty where neither is declared."""
    spec = method.quantity(quantity)
    return spec.starts, spec.else_by


def _compare_by_starts(found: Mapping[str, Evidence], runs: Mapping[str, Run], values: Mapping[tuple[str, str], _Result]) -> None:
    """Where specimens of a test begin to count at unlike times, the test is compared by the quantity that does not depend on it (METHODS 6)."""
    of_test: dict[str, list[float]] = defaultdict(list)
    for run_id, run in runs.items():
        starts, _ = _starts_of(found[run.test_id].method, found[run.test_id].quantity)
        start = values.get((run_id, starts))
        if start is not None and run.validity != Validity.LEFT_OUT:
            of_test[run.test_id].append(start.value)
    for test_id, starts_there in of_test.items():
        if unlike_starts(starts_there):
            evidence = found[test_id]
            evidence.unlike_starts = (min(starts_there), max(starts_there))
            evidence.asked, evidence.quantity = evidence.quantity, _starts_of(evidence.method, evidence.quantity)[1]


_OF_RUN = (
    Run.test_id, Run.procedure_version, Run.rig_version_id, Run.happened_at, Run.complete, Run.validity, Run.validity_reason, Run.outcome,
)  # fmt: skip
_Result = Row[str | None, str, float, str, float, bool, int]


@dataclass(frozen=True, slots=True)
class _Row:
    arm_id: str
    slot_id: str
    specimen_id: str
    code: str
    batch_id: str
    run: Run
    result: _Result | None
    end: str


def _count_slots(session: Session, found: Mapping[str, Evidence]) -> None:
    own = select(Specimen.slot_id).where(Specimen.slot_id == Slot.id)
    printed, treated = own.exists(), own.where(Specimen.treated_at.is_not(None)).exists()
    rows = session.execute(
        select(Slot.test_id, Slot.arm_id, func.count(), count_if(printed), count_if(treated))
        .where(Slot.test_id.in_(list(found)))
        .group_by(Slot.test_id, Slot.arm_id)
    )
    for test_id, arm_id, planned, done, conditioned in rows:
        found[test_id].planned[arm_id] = planned
        found[test_id].printed[arm_id] = done
        found[test_id].treated[arm_id] = conditioned


def _rigs(session: Session, version_ids: set[str]) -> dict[str, tuple[str, str]]:
    """Id and name of the rig of each version."""
    if not version_ids:
        return {}
    rows = session.execute(select(RigVersion.id, Rig.id, Rig.name).join(Rig).where(RigVersion.id.in_(version_ids)))
    return {version: (rig_id, name) for version, rig_id, name in rows}


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


def _keys(method: Method, arms: Sequence[Arm], counting: Sequence[_Row], rigs: Mapping[str, tuple[str, str]], end: str | None) -> dict[str, Key]:
    """What most specimens that count were tested with (of several, what was used first) is the test; where rigs are studied, each arm's own rig is."""
    votes = Counter((_procedure(method, r), r.run.rig_version_id, r.end) for r in sorted(counting, key=lambda r: (r.run.happened_at, r.run.id)))
    if not votes:
        return {}
    procedure, rig = Counter((k[0], k[1]) for k in votes.elements()).most_common(1)[0][0]
    usual = (procedure, rig, end or method.commonest_end(k[2] for k in votes.elements() if k[:2] == (procedure, rig)))
    keys = {}
    for arm in arms:
        own = [key for key in votes if arm.rig_id is not None and rigs.get(key[1], ("", ""))[0] == arm.rig_id and (key[0], key[2]) == (usual[0], usual[2])]
        keys[arm.id] = usual if arm.rig_id is None else max(own, key=lambda k: votes[k], default=(usual[0], "", usual[2]))
    return keys


def _procedure(method: Method, row: _Row) -> str:
    return procedure_key(method, row.run.procedure_version, None if row.result is None else row.result.reduction_version)


def _place(evidence: Evidence, rows: list[_Row], ambient: Mapping[str, float], rigs: Mapping[str, tuple[str, str]], end: str | None) -> None:
    shown = [r for r in rows if r.run.complete or r.result is not None]
    counting = [r for r in shown if r.run.validity != Validity.LEFT_OUT]
    evidence.keys = _keys(evidence.method, evidence.arms, counting, rigs, end)
    evidence.end = next((key[2] for key in evidence.keys.values()), "")
    evidence.ends = sorted({r.end for r in counting if r.end})
    evidence.rig_names = {r.run.rig_version_id: rigs.get(r.run.rig_version_id, ("", ""))[1] for r in rows}
    evidence.measured = Counter(r.arm_id for r in rows if not r.run.complete)
    for r in shown:
        # how it ended is no matter where that is not told apart
        end = r.end or evidence.keys.get(r.arm_id, ("", "", ""))[2]
        key = (_procedure(evidence.method, r), r.run.rig_version_id, end)
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
                state=_state(r, key == evidence.keys.get(r.arm_id)),
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
