"""How specimens came off the plate; spares, misprints that are filed elsewhere, treatments."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from typing import TYPE_CHECKING

from sqlalchemy import select

from assayer.core.errors import ConflictError, EntryError
from assayer.core.methods.vocabulary import Validity
from assayer.services.printing.batch_views import batch_views
from assayer.services.printing.open_slots import free_spares, open_slots
from assayer.services.printing.views import BatchView
from assayer.services.studies.changing import amend
from assayer.services.unit import Actor, Unit, Workspace, find
from assayer.store.models import Arm, Batch, Run, Slot, Specimen, Study, Test

if TYPE_CHECKING:
    from assayer.services.printing.requests import BatchOutcome, Refiling, SpecimenOutcome, Treated


def came_off(specimen: Specimen) -> str | None:
    """How it came off the plate, in words; None where that was well."""
    if specimen.outcome == "good":
        return None
    return f"{specimen.outcome}, {specimen.fault}" if specimen.fault else specimen.outcome


def judge_batch(workspace: Workspace, actor: Actor, batch_id: str, told: BatchOutcome) -> BatchView:
    """Say how specimens came off the plate. What is not good leaves its replicate, which then waits to be printed again.

    Raises
    ------
    EntryError
        If a specimen is not of this batch.
    ConflictError
        If it was tested already, or its replicate was printed again meanwhile.
    """
    with workspace.write(actor) as unit:
        batch = find(unit.session, Batch, batch_id)
        own = {s.id: s for s in unit.session.scalars(select(Specimen).where(Specimen.batch_id == batch_id))}
        tested = set(unit.session.scalars(select(Run.specimen_id).where(Run.specimen_id.in_(own), Run.retracted_at.is_(None))))
        if any(one.specimen_id not in own for one in told.specimens):
            raise EntryError("it is not of this batch", "specimens")
        # spares first: one that is lost itself takes nobody's place, one that is good again makes way
        for one in sorted(told.specimens, key=lambda one: own[one.specimen_id].spare_test_id is None):
            specimen = own[one.specimen_id]
            before = {"outcome": specimen.outcome, "fault": specimen.fault}
            _judge(unit, specimen, one, specimen.id in tested)
            after = {"outcome": specimen.outcome, "fault": specimen.fault}
            if after != before:
                unit.log("specimen", specimen.id, "judged", before, after)
        _touch(unit, list(own.values()))
        return batch_views(unit.session, [batch])[0]


def _touch(unit: Unit, specimens: Sequence[Specimen]) -> None:
    """Raise the revision of what these specimens are of."""
    unit.session.flush()
    of_slots = select(Slot.test_id).where(Slot.id.in_([key for s in specimens if (key := s.slot_id or s.planned_slot_id)]))
    ids = set(unit.session.scalars(of_slots)) | {s.spare_test_id for s in specimens if s.spare_test_id}
    studies: dict[str, list[str]] = defaultdict(list)
    for test_id, study_id in unit.session.execute(select(Test.id, Test.study_id).where(Test.id.in_(ids))):
        studies[study_id].append(test_id)
    for study_id, test_ids in studies.items():
        unit.touch(study_id, test_ids)


def _judge(unit: Unit, specimen: Specimen, told: SpecimenOutcome, tested: bool) -> None:
    """Set one specimen's outcome. Where it leaves its replicate, a good spare takes its place; where it comes back, the spare goes."""
    if told.outcome != "good" and specimen.slot_id is not None:
        if tested:
            raise ConflictError(f"{specimen.code} was tested already: leave its run out at the bench instead")
        specimen.planned_slot_id, specimen.slot_id = specimen.slot_id, None
        specimen.outcome = told.outcome
        unit.session.flush()
        _spare_takes(unit, specimen.planned_slot_id)
    elif told.outcome == "good" and specimen.slot_id is None and specimen.planned_slot_id is not None:
        # a spare lies ready again; another specimen comes back to its place
        if specimen.spare_test_id is None:
            _make_room(unit, specimen)
            specimen.slot_id = specimen.planned_slot_id
        specimen.planned_slot_id = None
    specimen.outcome, specimen.fault = told.outcome, told.fault if told.outcome != "good" else ""


def _spare_takes(unit: Unit, slot_id: str) -> None:
    slot = find(unit.session, Slot, slot_id)
    spares = free_spares(unit.session, find(unit.session, Test, slot.test_id).study_id).get((slot.test_id, slot.arm_id), [])
    if spares:
        spares[0].slot_id = slot_id
        unit.log("specimen", spares[0].id, "took a place", after={"replicate": slot.number})


def _make_room(unit: Unit, specimen: Specimen) -> None:
    """A spare that took the place of a specimen gives it back, unless it was tested."""
    left_out = select(Run.id).where(Run.specimen_id == Specimen.id, Run.retracted_at.is_(None), Run.validity == Validity.LEFT_OUT).exists()
    standing = unit.session.scalars(select(Specimen).where(Specimen.slot_id == specimen.planned_slot_id, ~left_out)).all()
    for other in standing:
        if other.spare_test_id is None:
            raise ConflictError(f"the replicate of {specimen.code} was printed again meanwhile")
        if unit.session.scalar(select(Run.id).where(Run.specimen_id == other.id, Run.retracted_at.is_(None))) is not None:
            raise ConflictError(f"the spare {other.code} took the place of {specimen.code} and was tested")
        other.slot_id = None


def take_spare(workspace: Workspace, actor: Actor, slot_id: str, specimen_id: str) -> BatchView:
    """Let a spare fill a replicate whose specimens were all left out; the batch it is of.

    Raises
    ------
    ConflictError
        If the replicate waits for none, or the specimen is no free spare of that arm and test.
    """
    with workspace.write(actor) as unit:
        slot = find(unit.session, Slot, slot_id)
        specimen = find(unit.session, Specimen, specimen_id)
        batch = find(unit.session, Batch, specimen.batch_id)
        if specimen.slot_id == slot_id:
            return batch_views(unit.session, [batch])[0]
        study_id = find(unit.session, Test, slot.test_id).study_id
        key = (slot.test_id, slot.arm_id)
        if specimen not in free_spares(unit.session, study_id).get(key, []):
            raise ConflictError(f"{specimen.code} is no free spare of this material and test")
        waiting, again = open_slots(unit.session, [slot.test_id], on_plates=True)
        if slot_id not in [*waiting.get(key, []), *again.get(key, [])]:
            raise ConflictError("this replicate has its specimen")
        specimen.slot_id = slot_id
        unit.log("specimen", specimen.id, "took a place", after={"replicate": slot.number})
        _touch(unit, [specimen])
        return batch_views(unit.session, [batch])[0]


def refile_batch(workspace: Workspace, actor: Actor, batch_id: str, told: Refiling) -> BatchView:
    """File a misprinted batch under the arm that it is in truth: every specimen of it, tested or not.

    Each takes a replicate of its test that waits there, the others are spares of it; what it leaves waits to be printed again.

    Raises
    ------
    EntryError
        If that arm is of another study, filament or treatment.
    ConflictError
        If a specimen was tested and no replicate of its test waits there.
    """
    with workspace.write(actor) as unit:
        batch = find(unit.session, Batch, batch_id)
        arm = find(unit.session, Arm, told.arm_id)
        now = find(unit.session, Arm, batch_views(unit.session, [batch])[0].arm_id)
        if arm.id == now.id:
            return batch_views(unit.session, [batch])[0]
        for wrong, words in (
            (arm.study_id != now.study_id, "it is of another study"),
            (arm.variant.material_id != now.variant.material_id, f"{arm.mark} is of another filament"),
            (arm.variant.treatment != now.variant.treatment, f"{arm.mark} is treated otherwise"),
        ):
            if wrong:
                raise EntryError(words, "arm_id")
        study = find(unit.session, Study, arm.study_id)
        amend(unit, study, f"a batch of {now.mark} is filed under {arm.mark}", told.reason)
        own = unit.session.scalars(select(Specimen).where(Specimen.batch_id == batch_id).order_by(Specimen.position)).all()
        _move(unit, own, arm)
        batch.variant_id = arm.variant_id
        unit.log("batch", batch_id, "filed elsewhere", before={"arm": now.mark}, after={"arm": arm.mark, "reason": told.reason})
        _touch(unit, own)
        return batch_views(unit.session, [batch])[0]


def _move(unit: Unit, own: Sequence[Specimen], arm: Arm) -> None:
    """Specimens into the replicates that wait in another arm."""
    filled = {s.id: s.slot_id or s.planned_slot_id for s in own}
    tests = {key: test_id for key, test_id in unit.session.execute(select(Slot.id, Slot.test_id).where(Slot.id.in_([k for k in filled.values() if k])))}
    tested = set(unit.session.scalars(select(Run.specimen_id).where(Run.specimen_id.in_([s.id for s in own]), Run.retracted_at.is_(None))))
    test_ids = {s.id: tests.get(filled[s.id] or "", s.spare_test_id) for s in own}
    waiting, again = open_slots(unit.session, [t for t in set(test_ids.values()) if t], on_plates=True)
    lost = []
    # those that were tested first: they must count somewhere
    for s in sorted(own, key=lambda s: s.id not in tested):
        test_id = test_ids[s.id] or ""
        free = waiting.get((test_id, arm.id)) or again.get((test_id, arm.id)) or []
        if s.outcome not in ("good", "misprinted"):
            s.slot_id, s.planned_slot_id, s.spare_test_id = None, None, test_id
        elif free:
            s.slot_id, s.planned_slot_id, s.spare_test_id = free.pop(0), None, None
        else:
            s.slot_id, s.planned_slot_id, s.spare_test_id = None, None, test_id
            lost += [s.code] if s.id in tested else []
        s.outcome, s.fault = ("good", "") if s.outcome == "misprinted" else (s.outcome, s.fault)
    if lost:
        which = f"{', '.join(lost[:4])} {'was' if len(lost) == 1 else 'were'} tested"
        raise ConflictError(f"{which}, and no replicate waits for it in {arm.mark}: plan more of each first")


def treat_batch(workspace: Workspace, actor: Actor, batch_id: str, told: Treated) -> BatchView:
    """Say that the specimens of a batch have had their treatment, or (without an instant) that they have not."""
    with workspace.write(actor) as unit:
        batch = find(unit.session, Batch, batch_id)
        view = batch_views(unit.session, [batch])[0]
        if not view.treatment:
            raise EntryError(f"{view.mark} is not treated")
        if told.at is not None and told.at < batch.printed_at:
            raise EntryError("that was before it was printed", "at")
        own = unit.session.scalars(select(Specimen).where(Specimen.batch_id == batch_id)).all()
        for specimen in own:
            specimen.treated_at = told.at
        unit.log("batch", batch_id, "treated" if told.at else "not treated yet", after={"treatment": view.treatment})
        _touch(unit, own)
        return batch_views(unit.session, [batch])[0]
