"""Deciding on doubts: a note settles one, a retest puts further specimens into the queue; both can be taken back."""

from __future__ import annotations

from typing import TYPE_CHECKING

from sqlalchemy import func, select

from assayer.core.errors import ConflictError, EntryError
from assayer.core.quantities.words import counted
from assayer.services.findings.doubt_views import DecisionView, DoubtView
from assayer.services.findings.doubts import decision_view, doubts, specimens_to_test
from assayer.services.printing.open_slots import free_spares
from assayer.services.studies.changing import amend
from assayer.services.studies.planning import add_slots
from assayer.services.unit import Actor, Unit, Workspace, expect_revision, find
from assayer.store.models import DoubtDecision, PlatePlace, Run, Slot, Specimen, Study

if TYPE_CHECKING:
    from assayer.services.findings.requests import DecisionEdit, NewDecision

_MOST_OF_EACH = 100
"""Specimens of one arm in one test, further ones included."""


def decide(workspace: Workspace, actor: Actor, study_id: str, new: NewDecision) -> tuple[DecisionView, bool]:
    """Settle a doubt by a note, or add specimens to test again; the same id again changes nothing (second value False).

    Specimens that are added are taken from the free spares, which are in the queue at once; the others wait to be printed.

    Raises
    ------
    ConflictError
        If the doubt is no longer there as it was seen, or somebody else has decided on it.
    EntryError
        If a note says nothing, or no further specimens of an arm would say more.
    """
    if new.kind == "note" and not new.note:
        raise EntryError("say in a note why the doubt is settled", "note")
    doubt = _as_seen(workspace, study_id, new)
    with workspace.write(actor, (new.id, new)) as unit:
        session = unit.session
        decision = session.get(DoubtDecision, new.id)
        if decision is not None:
            unit.refuse_other("decision", _view(unit, decision), same=decision.study_id == study_id and decision.doubt == new.doubt)
            return _view(unit, decision), False
        if doubt is None:
            raise ConflictError("the results have changed, and this doubt is no longer there as it was: look at the list again")
        there = select(DoubtDecision).where(DoubtDecision.study_id == study_id, DoubtDecision.doubt == new.doubt, DoubtDecision.evidence == new.evidence)
        standing = session.scalar(there.where(DoubtDecision.retracted_at.is_(None)))
        if standing is not None:
            if new.kind == standing.kind == "note" or not _is_tested(unit, standing):
                raise ConflictError(f"{standing.who} has decided on this doubt already: {standing.note or 'it is tested again'}", _view(unit, standing))
            # it remains after the retest: the newer decision takes the place of the older one
            standing.retracted_at = unit.now
            session.flush()
        study = find(session, Study, study_id)
        slot_ids = _add_specimens(unit, study, doubt, new) if new.kind == "retest" else []
        decision = DoubtDecision(
            id=new.id, study_id=study_id, doubt=new.doubt, evidence=new.evidence, kind=new.kind, note=new.note, slot_ids=slot_ids, decided_at=unit.now,
            zone=actor.zone, who=actor.who, revision=1,
        )  # fmt: skip
        session.add(decision)
        session.flush()
        after = {"doubt": new.evidence, "note": new.note, "specimens": len(slot_ids)}
        unit.log("study", study_id, "doubt settled" if new.kind == "note" else "retest", after=after)
        unit.touch(study_id, [doubt.test_id] if slot_ids and doubt.test_id else [])
        return _view(unit, decision), True


def edit_decision(workspace: Workspace, actor: Actor, decision_id: str, edit: DecisionEdit, revision: int) -> DecisionView:
    """Take a decision back or bring it back. With a retest go its specimens that were neither printed for it nor tested.

    Raises
    ------
    ConflictError
        If a retest is to be brought back, or the doubt was decided on again meanwhile.
    """
    with workspace.write(actor) as unit:
        decision = find(unit.session, DoubtDecision, decision_id)
        expect_revision(revision, decision.revision, "the decision", _view(unit, decision))
        if edit.retracted == (decision.retracted_at is not None):
            return _view(unit, decision)
        if edit.retracted:
            decision.retracted_at = unit.now
            touched = _withdraw_specimens(unit, decision)
        else:
            _refuse_return(unit, decision)
            decision.retracted_at, touched = None, set()
        decision.revision += 1
        unit.session.flush()
        unit.log("study", decision.study_id, "doubt opened again" if edit.retracted else "doubt settled", after={"doubt": decision.evidence})
        unit.touch(decision.study_id, touched)
        return _view(unit, decision)


def _refuse_return(unit: Unit, decision: DoubtDecision) -> None:
    if decision.kind == "retest":
        raise ConflictError("a retest that was taken back is asked for anew")
    again = select(DoubtDecision.id).where(
        DoubtDecision.study_id == decision.study_id, DoubtDecision.doubt == decision.doubt, DoubtDecision.evidence == decision.evidence,
        DoubtDecision.retracted_at.is_(None),
    )  # fmt: skip
    if unit.session.scalar(again) is not None:
        raise ConflictError("the doubt was decided on again meanwhile")


def _as_seen(workspace: Workspace, study_id: str, new: NewDecision) -> DoubtView | None:
    """The doubt as the results have it now, if that is what was seen; worked out before anything is written, so that nobody waits for it."""
    _, test_id, quantity, *_ = f"{new.doubt}|||".split("|")
    listed = doubts(workspace, study_id, test_id or None, quantity or None).doubts
    return next((d for d in listed if (d.key, d.text) == (new.doubt, new.evidence)), None)


def _is_tested(unit: Unit, decision: DoubtDecision) -> bool:
    to_test, tested = specimens_to_test(unit.session, [decision])
    return decision.kind == "retest" and tested[decision.id] >= to_test[decision.id]


def _add_specimens(unit: Unit, study: Study, doubt: DoubtView, new: NewDecision) -> list[str]:
    """Replicates of the arms, filled by spares as far as there are free ones; their ids."""
    if doubt.test_id is None or not doubt.retest_arm_ids or not set(new.arm_ids) <= set(doubt.retest_arm_ids):
        raise EntryError("further specimens of this would not settle the doubt", "arm_ids")
    arm_ids = new.arm_ids or doubt.retest_arm_ids
    amend(unit, study, f"{counted(new.specimens * len(arm_ids), 'further specimen')} of {doubt.test}", new.note or doubt.text)
    numbers = select(Slot.arm_id, func.max(Slot.number), func.count()).where(Slot.test_id == doubt.test_id, Slot.arm_id.in_(arm_ids)).group_by(Slot.arm_id)
    last = {arm_id: (highest, count) for arm_id, highest, count in unit.session.execute(numbers)}
    if any(count + new.specimens > _MOST_OF_EACH for _, count in last.values()):
        raise EntryError(f"that would be more than {_MOST_OF_EACH} specimens of one material in this test", "specimens")
    planned = [(arm_id, doubt.test_id, last.get(arm_id, (0, 0))[0] + i + 1) for arm_id in arm_ids for i in range(new.specimens)]
    add_slots(unit, planned)
    rows = unit.session.execute(select(Slot.arm_id, Slot.number, Slot.id).where(Slot.test_id == doubt.test_id, Slot.arm_id.in_(arm_ids)))
    id_of = {(arm_id, number): slot_id for arm_id, number, slot_id in rows}
    slot_ids = [id_of[arm_id, number] for arm_id, _, number in planned]
    spares = free_spares(unit.session, study.id)
    for (arm_id, test_id, number), slot_id in zip(planned, slot_ids, strict=True):
        lying = spares.get((test_id, arm_id), [])
        if lying:
            spare = lying.pop(0)
            spare.slot_id = slot_id
            unit.log("specimen", spare.id, "took a place", after={"replicate": number})
    unit.session.flush()
    return slot_ids


def _withdraw_specimens(unit: Unit, decision: DoubtDecision) -> set[str]:
    """Give spares back and drop the replicates that nothing fills; the tests that this changes."""
    touched = set()
    for slot_id in decision.slot_ids:
        slot = unit.session.get(Slot, slot_id)
        if slot is None:
            continue
        filling = unit.session.scalars(select(Specimen).where(Specimen.slot_id == slot_id)).all()
        tested = unit.session.scalar(select(Run.id).where(Run.specimen_id.in_([s.id for s in filling]), Run.retracted_at.is_(None)).limit(1))
        laid = unit.session.scalar(select(PlatePlace.plate_id).where(PlatePlace.slot_id == slot_id).limit(1))
        was_printed = any(s.spare_test_id is None for s in filling)
        misprinted = unit.session.scalar(select(Specimen.id).where(Specimen.planned_slot_id == slot_id).limit(1))
        if tested or laid or was_printed or misprinted:
            continue
        for spare in filling:
            spare.slot_id = None
        unit.session.flush()
        unit.session.delete(slot)
        touched.add(slot.test_id)
    unit.session.flush()
    return touched


def _view(unit: Unit, decision: DoubtDecision) -> DecisionView:
    to_test, tested = specimens_to_test(unit.session, [decision])
    return decision_view(decision, to_test[decision.id], tested[decision.id])
