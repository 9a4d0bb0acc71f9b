"""A material's results over studies."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from itertools import groupby

from sqlalchemy import ColumnElement, Row, select
from sqlalchemy.orm import Session, joinedload

from assayer.core.methods import method as find_method
from assayer.core.methods.base import Method
from assayer.core.methods.results import unlike_starts
from assayer.core.methods.vocabulary import Bound, Validity
from assayer.core.stats.batches import summarise_batched
from assayer.core.stats.groups import GroupSummary
from assayer.services.declarations import main_of
from assayer.services.parts.shapes import title_of
from assayer.services.studies.listing import settings_apart
from assayer.services.studies.views import MeasuredView
from assayer.store.models import Arm, Batch, Result, RigVersion, Run, Slot, Specimen, Study, Test, Variant

_Found = Row[str, str, str, float, str, str, float, str, str, str, str | None, str]


@dataclass(frozen=True, slots=True)
class _Tested:
    """What is said of a test wherever its results stand."""

    test: Test
    method: Method
    study: str
    title: str
    main: str


def _join_unnamed(groups: dict[tuple[str, ...], list[_Found]], tests: Mapping[str, _Tested]) -> None:
    """Runs whose end is not told apart, such as bars that did not break, stand with the commonest end of their arm."""
    ends: dict[tuple[str, ...], list[str]] = defaultdict(list)
    for key, own in groups.items():
        ends[key[:-1]] += [key[-1]] * len(own)
    for key in [k for k in groups if not k[-1]]:
        commonest = tests[key[0]].method.commonest_end(ends[key[:-1]])
        if commonest:
            groups[*key[:-1], commonest] += groups.pop(key)


def _drop_unlike_starts(groups: dict[tuple[str, ...], list[_Found]], tests: Mapping[str, _Tested], rows: Sequence[_Found]) -> None:
    """Values that begin to count at unlike times are not averaged: the quantity that does not depend on it stands beside them."""
    starts = {(row.run_id, row.quantity): row.value for row in rows}
    for key, own in list(groups.items()):
        spec = next((q for q in tests[key[0]].method.quantities if q.name == key[1]), None)
        if spec is not None and spec.starts and unlike_starts([starts[at] for row in own if (at := (row.run_id, spec.starts)) in starts]):
            del groups[key]


@dataclass(frozen=True, slots=True)
class _Told:
    """What tells an arm from others of its material in one study."""

    treatment: str
    settings: str


def _side_by_side(arm: Arm) -> tuple[str, str]:
    """Arms of one material in one study."""
    return arm.study_id, arm.variant.material_id


def _rigs(session: Session, groups: Iterable[tuple[str, ...]]) -> dict[tuple[str, str], str]:
    """Names of rigs by test and version, empty where an arm's quantity was measured on one only."""
    used: dict[tuple[str, str, str], set[str]] = defaultdict(set)
    for test, quantity, version, arm, _ in groups:
        used[test, quantity, arm].add(version)
    several = {(test, version) for (test, *_), versions in used.items() if len(versions) > 1 for version in versions}
    if not several:
        return {}
    found = select(RigVersion).where(RigVersion.id.in_({version for _, version in several})).options(joinedload(RigVersion.rig))
    versions = {v.id: v for v in session.scalars(found)}
    names = Counter(v.rig.name for v in versions.values())
    return {(test, id): f"{v.rig.name} {v.number}" if names[v.rig.name] > 1 else v.rig.name for test, id in several for v in (versions[id],)}


def _arms(session: Session, ids: Iterable[str]) -> dict[str, _Told]:
    parts = joinedload(Arm.variant).joinedload(Variant.sheet)
    arms = session.scalars(select(Arm).where(Arm.id.in_(ids)).options(parts)).all()
    told: dict[str, _Told] = {}
    for _, alike in groupby(sorted(arms, key=_side_by_side), key=_side_by_side):
        own = list(alike)
        apart = settings_apart(own)
        told |= {a.id: _Told(a.variant.treatment, " · ".join(f"{name} {value}" for name, value in apart[a.id].items())) for a in own}
    return told


def _tests(session: Session, ids: Iterable[str]) -> dict[str, _Tested]:
    rows = session.execute(select(Test, Study.title).join(Study, Study.id == Test.study_id).where(Test.id.in_(ids)))
    return {t.id: _Tested(t, find_method(t.method), study, title_of(t), main_of(t)) for t, study in rows}


@dataclass(frozen=True, slots=True)
class MeasuredGroup:
    """A group of a history as it is answered, and its summary with the error of its mean."""

    view: MeasuredView
    summary: GroupSummary


def history_of(session: Session, material_ids: list[str]) -> dict[str, list[MeasuredView]]:
    """The history of materials as it is answered."""
    return {key: [g.view for g in groups] for key, groups in groups_of(session, material_ids).items()}


def groups_of(session: Session, material_ids: list[str], conditions: Sequence[ColumnElement[bool]] = ()) -> dict[str, list[MeasuredGroup]]:
    """Groups of measured values by material, one for each study, test, arm, rig, end and quantity: unlike is never put together.

    Bounds are treated as exact, as on the board, and are counted; the batch scatter is pooled over all arms of a test,
    as there. Grades and places have no interval. `conditions` on tests and results narrow what is read.
    """
    r = Result
    of_materials = (
        select(Slot.test_id)
        .join(Specimen, Specimen.slot_id == Slot.id)
        .join(Batch, Batch.id == Specimen.batch_id)
        .join(Variant, Variant.id == Batch.variant_id)
        .where(Variant.material_id.in_(material_ids))
    )
    rows = session.execute(
        select(
            Variant.material_id, Run.test_id, r.quantity, r.value, r.unit, r.bound, r.reading_step, Slot.arm_id, Specimen.batch_id, Run.rig_version_id,
            Run.outcome, Run.id.label("run_id"),
        )
        .join(Run, Run.id == Result.run_id)
        .join(Test, Test.id == Run.test_id)
        .join(Study, Study.id == Test.study_id)
        .join(Specimen, Specimen.id == Run.specimen_id)
        .join(Batch, Batch.id == Specimen.batch_id)
        .join(Variant, Variant.id == Batch.variant_id)
        .join(Slot, Slot.id == Specimen.slot_id)
        .where(Test.id.in_(of_materials), Run.retracted_at.is_(None), Run.validity != Validity.LEFT_OUT, Result.provisional.is_(False), *conditions)
        .order_by(Study.created_at.desc(), Test.position, Result.seq)
    ).all()  # fmt: skip
    if not rows:
        return {}
    tests = _tests(session, {row.test_id for row in rows})
    groups: dict[tuple[str, ...], list[_Found]] = defaultdict(list)
    for row in rows:
        end = tests[row.test_id].method.end_apart(row.outcome)
        groups[row.test_id, row.quantity, row.rig_version_id, row.arm_id, end].append(row)
    _join_unnamed(groups, tests)
    _drop_unlike_starts(groups, tests, rows)
    summaries = _summaries(groups, tests)
    groups = {key: own for key, own in groups.items() if own[0].material_id in material_ids}
    arms = _arms(session, {row.arm_id for own in groups.values() for row in own})
    rigs = _rigs(session, groups)
    shown: dict[str, list[MeasuredGroup]] = defaultdict(list)
    for group_key, own in groups.items():
        end, first, tested = group_key[-1], own[0], tests[own[0].test_id]
        key = first.quantity
        if all(q.name != key.partition("@")[0] for q in tested.method.quantities):
            continue
        spec = tested.method.quantity(key)
        values = [r.value for r in own]
        bounds = Counter(r.bound for r in own)
        group = summaries[group_key]
        view = MeasuredView(
            study_id=tested.test.study_id,
            study=tested.study,
            test_id=first.test_id,
            test=tested.title,
            orientation=tested.test.orientation,
            rig_version_id=first.rig_version_id,
            rig=rigs.get((first.test_id, first.rig_version_id), ""),
            end=end,
            arm_id=first.arm_id,
            treatment=arms[first.arm_id].treatment,
            settings=arms[first.arm_id].settings,
            quantity=key,
            label=spec.label,
            unit=first.unit,
            good_side=str(spec.good_side),
            main=key == tested.main,
            values=values,
            n=group.n,
            at_least=bounds[Bound.AT_LEAST],
            at_most=bounds[Bound.AT_MOST],
            mean=group.mean,
            ci95=None if group.ci95 is None or spec.graded else (group.ci95.low, group.ci95.high),
        )
        shown[first.material_id].append(MeasuredGroup(view, group))
    return shown


def _summaries(groups: Mapping[tuple[str, ...], list[_Found]], tests: Mapping[str, _Tested]) -> dict[tuple[str, ...], GroupSummary]:
    """Of each group its summary; the groups of one test, quantity, rig and end are summarised together, by arm."""
    together: dict[tuple[str, ...], dict[tuple[str, ...], list[_Found]]] = defaultdict(dict)
    for key, own in groups.items():
        test_id, quantity, rig_version_id, _, end = key
        together[test_id, quantity, rig_version_id, end][key] = own
    summaries: dict[tuple[str, ...], GroupSummary] = {}
    for (test_id, quantity, *_), by_arm in together.items():
        method = tests[test_id].method
        ratio_scale = next((q.ratio_scale for q in method.quantities if q.name == quantity.partition("@")[0]), True)
        names = {str(i): key for i, key in enumerate(by_arm)}
        batched = summarise_batched(
            {name: [r.value for r in by_arm[key]] for name, key in names.items()},
            {name: [r.batch_id for r in by_arm[key]] for name, key in names.items()},
            {name: max(r.reading_step for r in by_arm[key]) for name, key in names.items()},
            ratio_scale,
        )
        summaries |= {key: batched.groups[name] for name, key in names.items()}
    return summaries
