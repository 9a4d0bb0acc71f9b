"""Purposes: what materials are ranked for, with criteria and weights."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from sqlalchemy import select
from sqlalchemy.orm import Session

from assayer.core.errors import ConflictError, EntryError
from assayer.core.methods import method as find_method
from assayer.core.methods.derived import DERIVED
from assayer.core.methods.results import at_order
from assayer.core.ranking.estimates import Criterion
from assayer.services.choose.views import CriterionOption, CriterionOptions, CriterionView, PurposeItem, PurposeList, PurposeView
from assayer.services.declarations import main_of
from assayer.services.parts.shapes import title_of
from assayer.services.studies.evidence import arms_of
from assayer.services.studies.listing import arm_views
from assayer.services.studies.ratios import derived_of, label_of
from assayer.services.unit import Actor, Unit, Workspace, expect_revision, find
from assayer.store.models import Arm, Purpose, PurposeCriterion, Result, Study, Test

if TYPE_CHECKING:
    from assayer.services.choose.requests import CriterionSpec, NewPurpose, PurposeEdit


def list_purposes(workspace: Workspace, limit: int, offset: int) -> PurposeList:
    with workspace.read() as session:
        rows = session.execute(select(Purpose, Study.title).join(Study, Study.id == Purpose.study_id).order_by(Purpose.title).limit(limit).offset(offset)).all()
        return PurposeList(items=[PurposeItem(id=p.id, title=p.title, study_id=p.study_id, study_title=title) for p, title in rows])


def criterion_options(workspace: Workspace, study_id: str) -> CriterionOptions:
    """What a purpose may ask for: the main quantity of each test, what has been measured besides, and what is derived."""
    with workspace.read() as session:
        find(session, Study, study_id)
        arms = arms_of(session, study_id)
        tests = session.scalars(select(Test).where(Test.study_id == study_id).order_by(Test.position)).all()
        measured = session.execute(select(Result.test_id, Result.quantity).where(Result.test_id.in_([t.id for t in tests])).distinct()).all()
        items = []
        for test in tests:
            method = find_method(test.method)
            main = main_of(test)
            keys = {main} | {q for test_id, q in measured if test_id == test.id and any(s.name == q.partition("@")[0] for s in method.quantities)}
            order = {q.name: i for i, q in enumerate(method.quantities)}
            for key in sorted(keys, key=lambda k: (k != main, order[k.partition("@")[0]], at_order(k))):
                spec = method.quantity(key)
                items.append(_option(test, key, spec.label, spec.unit, str(spec.good_side), key == main))
            items += [_option(test, d.name, label_of(d, test), d.unit, str(d.good_side), False) for d, _ in derived_of(test, tests, arms)]
        return CriterionOptions(items=items)


def _option(test: Test, quantity: str, label: str, unit: str, good_side: str, main: bool) -> CriterionOption:
    return CriterionOption(
        test_id=test.id,
        test_label=title_of(test),
        orientation=test.orientation,
        quantity=quantity,
        label=label,
        unit=unit,
        good_side=good_side,
        main=main,
        derived=quantity in DERIVED,
    )


def add_purpose(workspace: Workspace, actor: Actor, new: NewPurpose) -> tuple[PurposeView, bool]:
    """Add a purpose with its criteria; the same id again changes nothing (second value False)."""
    with workspace.write(actor, (new.id, new)) as unit:
        there = unit.session.get(Purpose, new.id)
        if there is not None:
            unit.refuse_other("purpose", kept := purpose_view(unit.session, there), same=there.study_id == new.study_id)
            return kept, False
        study = find(unit.session, Study, new.study_id)
        purpose = Purpose(id=new.id, study_id=study.id, title=new.title, seed=study.seed, revision=1)
        unit.session.add(purpose)
        unit.session.flush()
        purpose.criteria = [
            PurposeCriterion(**spec.model_dump(), position=position) for position, spec in enumerate(_checked(unit.session, study.id, new.criteria))
        ]
        unit.session.flush()
        unit.log("purpose", purpose.id, "added", after={"title": purpose.title, "criteria": len(purpose.criteria)})
        return purpose_view(unit.session, purpose), True


def _check(tests: dict[str, Test], arms: Sequence[Arm], test_id: str, quantity: str, position: int) -> None:
    error = EntryError(f"criterion {position + 1}: the study has no such test and quantity", "criteria", row=position + 1)
    test = tests.get(test_id)
    if test is None:
        raise error
    if quantity in DERIVED:
        if all(spec.name != quantity for spec, _ in derived_of(test, tests.values(), arms)):
            raise error
        return
    try:
        find_method(test.method).quantity(quantity)
    except EntryError:
        raise error from None


def edit_purpose(workspace: Workspace, actor: Actor, purpose_id: str, edit: PurposeEdit, revision: int | None) -> PurposeView:
    """Change what is given of a purpose: its name, what it asks for and its limits, its weights.

    Raises
    ------
    EntryError
        If a criterion is not of the study, is there twice, or no weight is above 0.
    ConflictError
        If a criterion's id is in use by another purpose.
    """
    with workspace.write(actor) as unit:
        purpose = find(unit.session, Purpose, purpose_id)
        expect_revision(revision, purpose.revision, "the purpose", purpose_view(unit.session, purpose))
        whole = edit.title is not None or edit.criteria is not None
        before = _told(purpose) if whole else _weights(purpose)
        if edit.title is not None:
            purpose.title = edit.title
        if edit.criteria is not None:
            _replace_criteria(unit, purpose, edit.criteria)
        unknown = set(edit.weights) - {c.id for c in purpose.criteria}
        if unknown:
            raise EntryError("a weight is given for a criterion that this purpose does not have", "weights")
        for criterion in purpose.criteria:
            criterion.weight = edit.weights.get(criterion.id, criterion.weight)
        if not any(c.weight > 0 for c in purpose.criteria):
            raise EntryError("at least one weight must be above 0", "weights")
        purpose.revision += 1
        unit.log("purpose", purpose_id, "edited" if whole else "weighted", before, _told(purpose) if whole else _weights(purpose))
        unit.session.flush()
        return purpose_view(unit.session, purpose)


def _weights(purpose: Purpose) -> dict[str, object]:
    return {"weights": {c.id: c.weight for c in purpose.criteria}}


def _told(purpose: Purpose) -> dict[str, object]:
    """For the record: what a purpose asked for."""
    limits = ("test_id", "quantity", "no_use", "all_needed", "required", "near", "weight")
    return {"title": purpose.title, "criteria": {c.id: {name: getattr(c, name) for name in limits} for c in purpose.criteria}}


def _replace_criteria(unit: Unit, purpose: Purpose, specs: list[CriterionSpec]) -> None:
    """The criteria as given: those with a known id keep it, and their test and quantity."""
    known = {c.id: c for c in purpose.criteria}
    checked = _checked(unit.session, purpose.study_id, specs)
    for spec in specs:
        there = known.get(spec.id)
        if there is None and unit.session.get(PurposeCriterion, spec.id) is not None:
            raise ConflictError("another criterion already has this id")
        if there is not None and (there.test_id, there.quantity) != (spec.test_id, spec.quantity):
            raise EntryError("a criterion keeps its test and quantity: leave it out and add another one", "criteria")
    kept = []
    for position, spec in enumerate(checked):
        criterion = known.get(spec.id) or PurposeCriterion(id=spec.id)
        for name, value in (spec.model_dump() | {"position": position}).items():
            setattr(criterion, name, value)
        kept.append(criterion)
    # what is asked again by another criterion must be gone before: a quantity is asked for once
    purpose.criteria = [c for c in kept if c.id in known]
    unit.session.flush()
    purpose.criteria = kept
    unit.session.flush()


def _checked(session: Session, study_id: str, specs: list[CriterionSpec]) -> list[CriterionSpec]:
    """The criteria, each of a test of the study and asked for once."""
    tests = {t.id: t for t in session.scalars(select(Test).where(Test.study_id == study_id))}
    arms, seen = arms_of(session, study_id), set()
    for position, spec in enumerate(specs):
        _check(tests, arms, spec.test_id, spec.quantity, position)
        if (spec.test_id, spec.quantity) in seen:
            raise EntryError(f"criterion {position + 1} is there twice", "criteria", row=position + 1)
        seen.add((spec.test_id, spec.quantity))
        Criterion(spec.quantity, spec.no_use, spec.all_needed, spec.required, spec.near)
    return specs


def get_purpose(workspace: Workspace, purpose_id: str) -> PurposeView:
    with workspace.read() as session:
        return purpose_view(session, find(session, Purpose, purpose_id))


def purpose_view(session: Session, purpose: Purpose) -> PurposeView:
    study = find(session, Study, purpose.study_id)
    tests = {t.id: t for t in session.scalars(select(Test).where(Test.study_id == study.id))}
    return PurposeView(
        id=purpose.id,
        title=purpose.title,
        study_id=purpose.study_id,
        study_title=study.title,
        revision=purpose.revision,
        criteria=[_criterion_view(c, tests[c.test_id]) for c in purpose.criteria],
        arms=arm_views(session, arms_of(session, study.id), study),
    )


def _criterion_view(c: PurposeCriterion, test: Test) -> CriterionView:
    method = find_method(test.method)
    derived = DERIVED.get(c.quantity)
    spec = derived or method.quantity(c.quantity)
    return CriterionView(
        id=c.id,
        test_id=c.test_id,
        test_label=title_of(test),
        orientation=test.orientation,
        quantity=c.quantity,
        label=label_of(derived, test) if derived else spec.label,
        unit=spec.unit,
        no_use=c.no_use,
        all_needed=c.all_needed,
        required=c.required,
        near=c.near,
        weight=c.weight,
        derived=derived is not None,
    )
