"""Print jobs: what was printed, when and from which spool; specimens get their codes here."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from assayer.core.errors import ConflictError, EntryError
from assayer.core.methods import method as find_method
from assayer.core.methods.vocabulary import Validity
from assayer.core.quantities.slips import ask, question_past
from assayer.services.codes import free_code
from assayer.services.printing.requests import NewBatch
from assayer.services.printing.views import ArmToPrint, BatchView, PrintedSpecimen, PrintPlan, ToPrint
from assayer.services.stock.spools import debit
from assayer.services.studies.evidence import arms_of
from assayer.services.unit import Actor, Unit, Workspace, find
from assayer.store.models import Arm, Batch, FilamentUse, Run, Slot, Specimen, Spool, Study, Test


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
            return _view(unit.session, there, new.arm_id), False
        arm = find(unit.session, Arm, new.arm_id)
        spool = find(unit.session, Spool, new.spool_id) if new.spool_id is not None else None
        if spool is not None and spool.material_id != arm.variant.material_id:
            raise EntryError(f"spool {spool.code} holds another material than {arm.mark}", "spool_id")
        ask([question_past("printed_at", new.printed_at, unit.now, "printed at")], new.confirmed)
        slots = _slots_to_print(unit, arm, new)
        batch = Batch(id=new.id, variant_id=arm.variant_id, printed_at=new.printed_at, zone=actor.zone, spool_id=spool.id if spool else None)
        unit.session.add(batch)
        unit.session.flush()
        tests = {t.id: t for t in unit.session.scalars(select(Test).where(Test.id.in_({s.test_id for s in slots})))}
        _add_specimens(unit, batch, slots, tests)
        if spool is not None and arm.variant.material.density is not None:
            mass = sum(find_method(tests[s.test_id].method).shape(tests[s.test_id].shape).volume for s in slots) * arm.variant.material.density
            debit(unit, spool, unit.new_id(), mass, new.printed_at, _words(slots, tests), batch.id)
        unit.touch(arm.study_id, tests)
        unit.log("batch", batch.id, "printed", after={"arm": arm.mark, "specimens": len(slots), "spool": spool.code if spool else None})
        return _view(unit.session, batch, arm.id), True


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


def _view(session: Session, batch: Batch, arm_id: str) -> BatchView:
    rows = session.execute(
        select(Specimen, Slot).join(Slot, Slot.id == Specimen.slot_id).where(Specimen.batch_id == batch.id).order_by(Specimen.position)
    ).all()
    spool = session.get(Spool, batch.spool_id) if batch.spool_id else None
    mass = session.scalar(select(FilamentUse.mass).where(FilamentUse.batch_id == batch.id, FilamentUse.retracted_at.is_(None)))
    return BatchView(
        id=batch.id,
        arm_id=arm_id,
        printed_at=batch.printed_at,
        spool_id=batch.spool_id,
        spool_code=spool.code if spool else None,
        mass=mass,
        specimens=[PrintedSpecimen(id=s.id, code=s.code, test_id=slot.test_id, number=slot.number) for s, slot in rows],
    )
