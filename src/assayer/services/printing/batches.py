"""Print jobs: what was printed, when and from which spool; specimens get their codes here."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from typing import cast

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from assayer.core.errors import ConflictError, EntryError
from assayer.core.methods import method as find_method
from assayer.core.methods.vocabulary import Validity
from assayer.core.quantities.slips import ask, question_past
from assayer.services.codes import free_code
from assayer.services.printing.requests import BatchOutcome, NewBatch, SpecimenOutcome
from assayer.services.printing.views import ArmToPrint, BatchList, BatchView, PrintedSpecimen, PrintPlan, SpecimenState, ToPrint
from assayer.services.stock.spools import debit
from assayer.services.studies.evidence import arms_of
from assayer.services.unit import Actor, Unit, Workspace, find
from assayer.store.models import Arm, Batch, FilamentUse, Printer, Run, Slot, Specimen, Spool, Study, Test


def print_plan(workspace: Workspace, study_id: str) -> PrintPlan:
    """What of a study waits to be printed, and what is to be printed again."""
    with workspace.read() as session:
        study = find(session, Study, study_id)
        tests = session.scalars(select(Test).where(Test.study_id == study_id).order_by(Test.position)).all()
        waiting, again = _open_slots(session, [t.id for t in tests])
        arms = []
        for arm in arms_of(session, study_id):
            density = arm.variant.material.density
            rows = [
                ToPrint(
                    test_id=t.id,
                    label=f"{find_method(t.method).label_for(t.orientation)}, {t.orientation}",
                    waiting=len(waiting.get((t.id, arm.id), [])),
                    again=again.get((t.id, arm.id), []),
                    mass_each=None if density is None else find_method(t.method).shape(t.shape).volume * density,
                )
                for t in tests
            ]
            arms.append(ArmToPrint(arm_id=arm.id, mark=arm.mark, spool_id=arm.spool_id, tests=rows))
        return PrintPlan(study_id=study_id, revision=study.revision, arms=arms)


def _open_slots(session: Session, test_ids: list[str]) -> tuple[dict[tuple[str, str], list[str]], dict[tuple[str, str], list[str]]]:
    """Slots without a specimen, and slots all of whose specimens were left out, by test and arm."""
    specimens = select(Specimen.slot_id, func.count().label("printed")).where(Specimen.slot_id.is_not(None)).group_by(Specimen.slot_id).subquery()
    out = (
        select(Specimen.slot_id, func.count().label("out"))
        .join(Run, (Run.specimen_id == Specimen.id) & Run.retracted_at.is_(None) & (Run.validity == Validity.LEFT_OUT))
        .group_by(Specimen.slot_id)
        .subquery()
    )
    rows = session.execute(
        select(Slot.test_id, Slot.arm_id, Slot.id, specimens.c.printed, out.c.out)
        .outerjoin(specimens, specimens.c.slot_id == Slot.id)
        .outerjoin(out, out.c.slot_id == Slot.id)
        .where(Slot.test_id.in_(test_ids))
        .order_by(Slot.number)
    )
    waiting: dict[tuple[str, str], list[str]] = defaultdict(list)
    again: dict[tuple[str, str], list[str]] = defaultdict(list)
    for test_id, arm_id, slot_id, printed, left_out in rows:
        if not printed:
            waiting[test_id, arm_id].append(slot_id)
        elif left_out == printed:
            again[test_id, arm_id].append(slot_id)
    return waiting, again


def print_batch(workspace: Workspace, actor: Actor, new: NewBatch) -> tuple[BatchView, bool]:
    """Keep a print job: a specimen with its code for each replicate, the spool debited.

    The same id again changes nothing (second value False). A replicate that was left out keeps its
    specimen and gets another beside it.
    """
    with workspace.write(actor) as unit:
        there = unit.session.get(Batch, new.id)
        if there is not None:
            return _views(unit.session, [there])[0], False
        arm = find(unit.session, Arm, new.arm_id)
        spool = find(unit.session, Spool, new.spool_id) if new.spool_id is not None else None
        if spool is not None and spool.material_id != arm.variant.material_id:
            raise EntryError(f"spool {spool.code} holds another material than {arm.mark}", "spool_id")
        ask([question_past("printed_at", new.printed_at, unit.now, "printed at")], new.confirmed)
        slots = _slots_to_print(unit, arm, new)
        batch = Batch(id=new.id, variant_id=arm.variant_id, printed_at=new.printed_at, zone=actor.zone, spool_id=spool.id if spool else None)
        batch.printer_id = find(unit.session, Printer, new.printer_id).id if new.printer_id is not None else None
        batch.nozzle, batch.minutes, batch.room = new.nozzle, new.minutes, new.room
        unit.session.add(batch)
        unit.session.flush()
        tests = {t.id: t for t in unit.session.scalars(select(Test).where(Test.id.in_({s.test_id for s in slots})))}
        _add_specimens(unit, batch, slots, tests)
        if spool is not None and arm.variant.material.density is not None:
            mass = sum(find_method(tests[s.test_id].method).shape(tests[s.test_id].shape).volume for s in slots) * arm.variant.material.density
            debit(unit, spool, unit.new_id(), mass, new.printed_at, _words(slots, tests), batch.id)
        study = find(unit.session, Study, arm.study_id)
        if study.started_at is None:
            # what was printed is no longer planned at will
            study.started_at = unit.now
            unit.log("study", study.id, "started")
            unit.session.flush()
        unit.touch(arm.study_id, tests)
        unit.log("batch", batch.id, "printed", after={"arm": arm.mark, "specimens": len(slots), "spool": spool.code if spool else None})
        unit.session.flush()
        return _views(unit.session, [batch])[0], True


def batches_of(workspace: Workspace, study_id: str) -> BatchList:
    """The batches that specimens of a study came from, the newest first."""
    with workspace.read() as session:
        find(session, Study, study_id)
        of_study = (
            select(Batch)
            .join(Specimen, Specimen.batch_id == Batch.id)
            .join(Slot, Slot.id == func.coalesce(Specimen.slot_id, Specimen.planned_slot_id))
            .join(Arm, Arm.id == Slot.arm_id)
            .where(Arm.study_id == study_id)
            .distinct()
            .order_by(Batch.printed_at.desc(), Batch.id.desc())
        )
        return BatchList(items=_views(session, session.scalars(of_study).all()))


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
        slots = []
        for one in told.specimens:
            specimen = own.get(one.specimen_id)
            if specimen is None:
                raise EntryError("it is not of this batch", "specimens")
            before = {"outcome": specimen.outcome, "fault": specimen.fault}
            slots.append(_judge(unit, specimen, one, specimen.id in tested))
            after = {"outcome": specimen.outcome, "fault": specimen.fault}
            if after != before:
                unit.log("specimen", specimen.id, "judged", before, after)
        unit.session.flush()
        rows = unit.session.execute(select(Arm.study_id, Slot.test_id).join(Slot, Slot.arm_id == Arm.id).where(Slot.id.in_([s for s in slots if s]))).all()
        for study_id in {r.study_id for r in rows}:
            unit.touch(study_id, {r.test_id for r in rows if r.study_id == study_id})
        return _views(unit.session, [batch])[0]


def _judge(unit: Unit, specimen: Specimen, told: SpecimenOutcome, tested: bool) -> str | None:
    """Set one specimen's outcome; the slot that this is about."""
    slot_id = specimen.slot_id or specimen.planned_slot_id
    if told.outcome != "good" and specimen.slot_id is not None:
        if tested:
            raise ConflictError(f"{specimen.code} was tested already: leave its run out at the bench instead")
        specimen.planned_slot_id, specimen.slot_id = specimen.slot_id, None
    elif told.outcome == "good" and specimen.slot_id is None and specimen.planned_slot_id is not None:
        left_out = select(Run.id).where(Run.specimen_id == Specimen.id, Run.retracted_at.is_(None), Run.validity == Validity.LEFT_OUT).exists()
        if unit.session.scalar(select(Specimen.id).where(Specimen.slot_id == specimen.planned_slot_id, ~left_out)) is not None:
            raise ConflictError(f"the replicate of {specimen.code} was printed again meanwhile")
        specimen.slot_id, specimen.planned_slot_id = specimen.planned_slot_id, None
    specimen.outcome, specimen.fault = told.outcome, told.fault if told.outcome != "good" else ""
    return slot_id


def _slots_to_print(unit: Unit, arm: Arm, new: NewBatch) -> list[Slot]:
    tests = unit.session.scalars(select(Test).where(Test.study_id == arm.study_id).order_by(Test.position)).all()
    own = {t.id for t in tests}
    if not set(new.test_ids) <= own:
        raise EntryError("a test of another study is named", "test_ids")
    waiting, again = _open_slots(unit.session, [t.id for t in tests])
    if new.slot_ids:
        open_ids = {s for (_, arm_id), ids in again.items() if arm_id == arm.id for s in ids}
        if not set(new.slot_ids) <= open_ids:
            raise ConflictError("only a replicate of this arm whose specimens were all left out is printed again")
        ids = new.slot_ids
    else:
        ids = [s for t in tests if not new.test_ids or t.id in new.test_ids for s in waiting.get((t.id, arm.id), [])]
    if not ids:
        raise ConflictError(f"nothing of {arm.mark} waits to be printed")
    found = {s.id: s for s in unit.session.scalars(select(Slot).where(Slot.id.in_(ids)))}
    return [found[key] for key in ids]


def _add_specimens(unit: Unit, batch: Batch, slots: Sequence[Slot], tests: dict[str, Test]) -> None:
    for position, slot in enumerate(slots, 1):
        test = tests[slot.test_id]
        specimen = Specimen(
            id=unit.new_id(), code=free_code(unit), batch_id=batch.id, position=position, shape=test.shape, orientation=test.orientation, slot_id=slot.id
        )
        unit.session.add(specimen)
        # the next code must see this one
        unit.session.flush()


def _words(slots: Sequence[Slot], tests: dict[str, Test]) -> str:
    counts: dict[str, int] = defaultdict(int)
    for slot in slots:
        test = tests[slot.test_id]
        counts[f"{find_method(test.method).shape(test.shape).label}, {test.orientation}"] += 1
    return "; ".join(f"{n} × {what}" for what, n in counts.items())[:200]


def _views(session: Session, batches: Sequence[Batch]) -> list[BatchView]:
    """Batches as they are shown, in the same few queries however many."""
    ids = [b.id for b in batches]
    rows = session.execute(
        select(Specimen, Slot, Arm.mark)
        .join(Slot, Slot.id == func.coalesce(Specimen.slot_id, Specimen.planned_slot_id))
        .join(Arm, Arm.id == Slot.arm_id)
        .where(Specimen.batch_id.in_(ids))
        .order_by(Specimen.position)
    ).all()
    tested = set(session.scalars(select(Run.specimen_id).where(Run.specimen_id.in_([r.Specimen.id for r in rows]), Run.retracted_at.is_(None))))
    spools = {key: code for key, code in session.execute(select(Spool.id, Spool.code).where(Spool.id.in_([b.spool_id for b in batches if b.spool_id])))}
    printers = {
        key: name for key, name in session.execute(select(Printer.id, Printer.name).where(Printer.id.in_([b.printer_id for b in batches if b.printer_id])))
    }
    masses = select(FilamentUse.batch_id, FilamentUse.mass).where(FilamentUse.batch_id.in_(ids), FilamentUse.retracted_at.is_(None))
    mass = {key: m for key, m in session.execute(masses)}
    found = []
    for b in batches:
        own = [r for r in rows if r.Specimen.batch_id == b.id]
        found.append(
            BatchView(
                id=b.id,
                arm_id=own[0].Slot.arm_id,
                mark=own[0].mark,
                printed_at=b.printed_at,
                spool_id=b.spool_id,
                spool_code=spools.get(b.spool_id or ""),
                mass=mass.get(b.id),
                printer_id=b.printer_id,
                printer=printers.get(b.printer_id or "", ""),
                nozzle=b.nozzle,
                minutes=b.minutes,
                room=b.room,
                specimens=[_printed_specimen(r.Specimen, r.Slot, r.Specimen.id in tested) for r in own],
            )
        )
    return found


def _printed_specimen(s: Specimen, slot: Slot, tested: bool) -> PrintedSpecimen:
    return PrintedSpecimen(
        id=s.id, code=s.code, test_id=slot.test_id, number=slot.number, shape=s.shape, orientation=s.orientation,
        outcome=cast(SpecimenState, s.outcome), fault=s.fault, tested=tested,
    )  # fmt: skip
