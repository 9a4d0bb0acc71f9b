"""A study changed after it was made: renamed, put away, extended, copied. Nothing that was measured is touched by it."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from typing import TYPE_CHECKING

from sqlalchemy import select

from assayer.core.errors import ConflictError, EntryError
from assayer.core.methods import method as find_method
from assayer.core.plan.study_plan import StudiedFactor
from assayer.services.declarations import main_of
from assayer.services.studies.evidence import arms_of
from assayer.services.studies.listing import study_view
from assayer.services.studies.planning import add_arms, add_slots, look_at_standing, plan_test, seed_of, sheet_called
from assayer.services.studies.views import StudyView
from assayer.services.unit import Actor, Unit, Workspace, expect_revision, find
from assayer.store.models import Amendment, Arm, Slot, Study, Test

if TYPE_CHECKING:
    from assayer.services.studies.requests import StudyCopy, StudyEdit, StudyExtension

MOST_ARMS, MOST_TESTS = 60, 20


def edit_study(workspace: Workspace, actor: Actor, study_id: str, edit: StudyEdit, revision: int | None) -> StudyView:
    """Rename a study, word its question anew, put it away or back."""
    with workspace.write(actor) as unit:
        study = find(unit.session, Study, study_id)
        expect_revision(revision, study.revision, "the study", study_view(unit.session, study))
        if edit.title is not None or edit.question is not None:
            given = {k: v for k, v in (("title", edit.title), ("question", edit.question)) if v is not None}
            before = {k: getattr(study, k) for k in given}
            for name, value in given.items():
                setattr(study, name, value)
            unit.log("study", study_id, "renamed", before, given)
        if edit.each_at_best is not None and edit.each_at_best != study.each_at_best:
            amend(unit, study, "each material is printed at its best" if edit.each_at_best else "all are printed with the same settings", edit.reason)
            study.each_at_best = edit.each_at_best
            if study.started_at is None:
                unit.log("study", study_id, "each at its best" if edit.each_at_best else "all with the same settings")
        if edit.start and study.started_at is None:
            study.started_at = unit.now
            unit.log("study", study_id, "started")
        if "wanted_by" in edit.model_fields_set and edit.wanted_by != study.wanted_by:
            unit.log("study", study_id, "wanted by", {"wanted_by": _moment(study.wanted_by)}, {"wanted_by": _moment(edit.wanted_by)})
            study.wanted_by = edit.wanted_by
        if edit.bounds_in is not None and edit.bounds_in != study.bounds_in:
            study.bounds_in = edit.bounds_in
            unit.log("study", study_id, "bounds included in means" if edit.bounds_in else "bounds treated as exact")
            # every mean and verdict may move
            unit.touch(study_id, unit.session.scalars(select(Test.id).where(Test.study_id == study_id)).all())
        _plan_power(unit, study, edit)
        _set_margins(unit, study, edit)
        if edit.put_away is not None and edit.put_away != (study.put_away_at is not None):
            study.put_away_at = unit.now if edit.put_away else None
            unit.log("study", study_id, "put away" if edit.put_away else "taken up again")
        unit.session.flush()
        unit.touch(study_id)
        unit.session.refresh(study)
        return study_view(unit.session, study)


def _plan_power(unit: Unit, study: Study, edit: StudyEdit) -> None:
    """In how many batches each arm is printed, and which differences are to be detected."""
    if edit.batches is not None and edit.batches != study.batches:
        unit.log("study", study.id, "batches planned", {"batches": study.batches}, {"batches": edit.batches})
        study.batches = edit.batches
    for test_id, target in edit.targets.items():
        test = _test_of(unit, study, test_id, "targets")
        if test.target != target:
            unit.log("study", study.id, "target difference", {"test": test_id, "target": test.target}, {"test": test_id, "target": target})
            test.target = target


def _test_of(unit: Unit, study: Study, test_id: str, field: str) -> Test:
    test = unit.session.get(Test, test_id)
    if test is None or test.study_id != study.id:
        raise EntryError("the study has no such test", field)
    return test


def _set_margins(unit: Unit, study: Study, edit: StudyEdit) -> None:
    """Which difference matters: it decides the verdicts, so that a study that was started is amended."""
    for test_id, margin in edit.margins.items():
        test = _test_of(unit, study, test_id, "margins")
        method = find_method(test.method)
        quantity = method.quantity(main_of(test))
        if quantity.graded:
            raise EntryError(f"{quantity.label} is compared by ranks: no margin goes into its verdict", "margins")
        if margin.relative and not quantity.ratio_scale:
            raise EntryError(f"{quantity.label} has no zero that shares could be taken of: say a difference in {quantity.unit}", "margins")
        before, after = {"margin": test.margin_value, "relative": test.margin_relative}, {"margin": margin.value, "relative": margin.relative}
        if before == after:
            continue
        words = f"{100 * margin.value:g} % of the reference" if margin.relative else f"{margin.value:g} {quantity.unit}"
        amend(unit, study, f"{method.label}, {test.orientation}: a difference of {words} matters", edit.reason)
        test.margin_value, test.margin_relative = margin.value, margin.relative
        unit.log("study", study.id, "margin", {"test": test_id, **before}, {"test": test_id, **after})
        unit.touch(study.id, [test_id])


def _moment(at: datetime | None) -> str | None:
    return None if at is None else at.isoformat()


def amend(unit: Unit, study: Study, what: str, reason: str) -> None:
    """Keep why a started plan is changed; before the start there is nothing to keep.

    Raises
    ------
    EntryError
        If no reason is given.
    """
    if study.started_at is None:
        return
    if not reason:
        raise EntryError("the study was started: say why its plan is changed", "reason")
    unit.session.add(
        Amendment(id=unit.new_id(), study_id=study.id, at=unit.now, zone=unit.actor.zone, who=unit.actor.who, what=what, reason=reason)
    )  # fmt: skip
    unit.log("study", study.id, "amended", after={"what": what, "reason": reason})


def extend_study(workspace: Workspace, actor: Actor, study_id: str, more: StudyExtension, revision: int | None) -> StudyView:
    """Plan more of a study: materials, tests, specimens of each. What is there keeps its place and its order.

    Raises
    ------
    ConflictError
        If an id is in use.
    EntryError
        If a material is in the study already, if there would be too many, or fewer specimens than were planned.
    """
    look_at_standing(more.tests)
    with workspace.write(actor) as unit:
        study = find(unit.session, Study, study_id)
        expect_revision(revision, study.revision, "the study", study_view(unit.session, study))
        arms = arms_of(unit.session, study_id)
        tests = list(unit.session.scalars(select(Test).where(Test.study_id == study_id).order_by(Test.position)))
        if not (more.arms or more.tests or more.replicates or more.spares):
            raise EntryError("say what is to be planned besides: a material, a test, or more specimens")
        amend(unit, study, _words_of(more), more.reason)
        _refuse_too_many(len(arms) + len(more.arms), len(tests) + len(more.tests))
        for kind, table, given in (("an arm", Arm, more.arms), ("a test", Test, more.tests)):
            if any(unit.session.get(table, spec.id) is not None for spec in given):
                raise ConflictError(f"{kind} with this id is there already")
        slots = _more_of_each(tests, more.replicates, arms)
        # further specimens of an arm may have these numbers already
        numbered = select(Slot.arm_id, Slot.test_id, Slot.number).where(Slot.test_id.in_(more.replicates))
        there = {tuple(row) for row in unit.session.execute(numbered)}
        slots = [slot for slot in slots if slot not in there]
        _set_spares(tests, more.spares)
        fresh_arms = add_arms(unit, study, more.arms, sheet_called(unit, more.settings), arms)
        fresh_tests = [plan_test(unit.session, study_id, spec, len(tests) + position) for position, spec in enumerate(more.tests)]
        unit.session.add_all(fresh_tests)
        unit.session.flush()
        slots += [(arm.id, test.id, n) for arm in fresh_arms for test in tests for n in range(1, test.replicates + 1)]
        slots += [(arm.id, test.id, n) for arm in (*arms, *fresh_arms) for test in fresh_tests for n in range(1, test.replicates + 1)]
        add_slots(unit, slots)
        return _extended(unit, study, tests, more)


def _words_of(more: StudyExtension) -> str:
    counted = ((len(more.arms), "arm", "arms"), (len(more.tests), "test", "tests"))
    words = [f"{n} {one if n == 1 else many} more" for n, one, many in counted if n]
    return ", ".join([*words, *(["more specimens of each"] if more.replicates else []), *(["other numbers of spares"] if more.spares else [])])


def _refuse_too_many(arms: int, tests: int) -> None:
    if arms > MOST_ARMS:
        raise EntryError(f"that would be {arms} materials, at most {MOST_ARMS}: make a study of its own for the others", "arms")
    if tests > MOST_TESTS:
        raise EntryError(f"that would be {tests} tests, at most {MOST_TESTS}", "tests")


def _more_of_each(tests: list[Test], wanted: dict[str, int], arms: Sequence[Arm]) -> list[tuple[str, str, int]]:
    """Raise what is planned of each test; the slots that the arms which are there get by it."""
    by_id = {t.id: t for t in tests}
    slots = []
    for test_id, count in wanted.items():
        test = by_id.get(test_id)
        if test is None:
            raise EntryError("the study has no such test", "replicates")
        if count < test.replicates:
            raise EntryError(f"{test.replicates} of each are planned: that can be raised, not lowered to {count}", "replicates")
        slots += [(arm.id, test.id, number) for arm in arms for number in range(test.replicates + 1, count + 1)]
        test.replicates = count
    return slots


def _set_spares(tests: list[Test], wanted: dict[str, int]) -> None:
    by_id = {t.id: t for t in tests}
    for test_id, count in wanted.items():
        if test_id not in by_id:
            raise EntryError("the study has no such test", "spares")
        by_id[test_id].spares = count


def _extended(unit: Unit, study: Study, tests: list[Test], more: StudyExtension) -> StudyView:
    # an arm more is a row more in the evidence of every test
    touched = [t.id for t in tests] if more.arms else list(more.replicates)
    unit.touch(study.id, touched)
    after = {"arms": len(more.arms), "tests": len(more.tests), "replicates": more.replicates}
    unit.log("study", study.id, "extended", after=after)
    unit.session.refresh(study)
    return study_view(unit.session, study)


def copy_study(workspace: Workspace, actor: Actor, study_id: str, wanted: StudyCopy) -> tuple[StudyView, bool]:
    """Plan a study once more: the same variants and tests, set the same, in their order; nothing printed, nothing measured.

    The reference comes along where it is among them. The same id again changes nothing (second value False).

    Raises
    ------
    ConflictError
        If the id is that of another study.
    EntryError
        If a material or test is not of the study.
    """
    with workspace.write(actor, (wanted.id, wanted)) as unit:
        source = find(unit.session, Study, study_id)
        there = unit.session.get(Study, wanted.id)
        if there is not None:
            unit.refuse_other("study", kept := study_view(unit.session, there), alike=there.title == wanted.title)
            return kept, False
        arms = [a for a in arms_of(unit.session, study_id) if a.id in wanted.arm_ids]
        tests = [t for t in unit.session.scalars(select(Test).where(Test.study_id == study_id).order_by(Test.position)) if t.id in wanted.test_ids]
        for field, found, asked in (("arm_ids", len(arms), wanted.arm_ids), ("test_ids", len(tests), wanted.test_ids)):
            if found != len(set(asked)):
                raise EntryError("it is not of the study that is copied", field)
        study = Study(
            id=wanted.id, title=wanted.title, question=source.question, studied_factor=source.studied_factor,
            each_at_best=source.each_at_best, crosses_materials=source.crosses_materials,
            batches=source.batches, studied_settings=list(source.studied_settings), seed=seed_of(wanted.id),
            created_at=unit.now, zone=actor.zone, reference_arm_id=None,
        )  # fmt: skip
        unit.session.add(study)
        unit.session.flush()
        new_arms = [_arm_again(a, unit.new_id(), study, i) for i, a in enumerate(arms)]
        new_tests = [_again(t, unit.new_id(), study.id, i) for i, t in enumerate(tests)]
        unit.session.add_all([*new_arms, *new_tests])
        add_slots(unit, [(arm.id, test.id, n) for arm in new_arms for test in new_tests for n in range(1, test.replicates + 1)])
        reference = next((i for i, a in enumerate(arms) if a.id == source.reference_arm_id), 0)
        usual = unit.session.get(Arm, source.reference_arm_id or "")
        # what was compared with an arm of another study is so again
        study.reference_arm_id = new_arms[reference].id if usual is None or usual.study_id == source.id else usual.id
        unit.session.flush()
        unit.log("study", study.id, "copied", after={"title": study.title, "from": study_id, "arms": len(arms), "tests": len(tests)})
        return study_view(unit.session, study), True


def _arm_again(arm: Arm, arm_id: str, study: Study, position: int) -> Arm:
    """The same arm in another study: the spool comes along only where it is what is studied."""
    spool_id = arm.spool_id if study.studied_factor == StudiedFactor.LOT else None
    return Arm(
        id=arm_id, study_id=study.id, variant_id=arm.variant_id, mark=arm.mark, position=position, spool_id=spool_id, printer_id=arm.printer_id,
        rig_id=arm.rig_id,
    )  # fmt: skip


def _again(test: Test, test_id: str, study_id: str, position: int) -> Test:
    same = ("method", "orientation", "shape", "protocol", "replicates", "spares", "margin_value", "margin_relative", "target")
    # by today's procedure: it is not measured yet
    version = find_method(test.method).procedure_version
    return Test(id=test_id, study_id=study_id, position=position, procedure_version=version, **{name: getattr(test, name) for name in same})
