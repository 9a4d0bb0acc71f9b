"""Print jobs: what was printed, when and from which spool; specimens get their codes here."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from sqlalchemy import select, union

from assayer.core.errors import ConflictError, EntryError
from assayer.core.plan.study_plan import StudiedFactor
from assayer.core.quantities.slips import ask, question_past
from assayer.services.codes import free_code
from assayer.services.parts.shapes import shape_of, title_of
from assayer.services.printing.batch_views import batch_views
from assayer.services.printing.open_slots import open_slots
from assayer.services.printing.plate_views import strand_mass
from assayer.services.printing.views import ArmToPrint, BatchList, BatchView, PrintPlan, ToPrint
from assayer.services.stock.spools import debit
from assayer.services.studies.evidence import arms_of
from assayer.services.unit import Actor, Unit, Workspace, find
from assayer.store.models import Arm, Batch, GcodeFile, Plate, PlatePlace, Printer, Slot, Specimen, Spool, Study, Test

if TYPE_CHECKING:
    from assayer.services.printing.requests import NewBatch


def print_plan(workspace: Workspace, study_id: str) -> PrintPlan:
    """What of a study waits to be printed, and what is to be printed again."""
    with workspace.read() as session:
        study = find(session, Study, study_id)
        tests = session.scalars(select(Test).where(Test.study_id == study_id).order_by(Test.position)).all()
        waiting, again = open_slots(session, [t.id for t in tests])
        arms = []
        for arm in arms_of(session, study_id):
            density = arm.variant.material.density
            rows = [
                ToPrint(
                    test_id=t.id,
                    label=f"{title_of(t)}, {t.orientation}",
                    waiting=len(waiting.get((t.id, arm.id), [])),
                    again=again.get((t.id, arm.id), []),
                    mass_each=None if density is None else shape_of(t).volume * density,
                )
                for t in tests
            ]
            arms.append(ArmToPrint(arm_id=arm.id, mark=arm.mark, spool_id=arm.spool_id, tests=rows))
        return PrintPlan(study_id=study_id, revision=study.revision, arms=arms)


Lain = tuple[Test, Slot | None]
"""What lay on the bed: without a slot a spare."""


def print_batch(workspace: Workspace, actor: Actor, new: NewBatch) -> tuple[BatchView, bool]:
    """Keep a print job: a specimen with its code for each replicate, the spools debited.

    The same id again changes nothing (second value False). A replicate that was left out keeps its
    specimen and gets another beside it.
    """
    with workspace.write(actor, (new.id, new)) as unit:
        there = unit.session.get(Batch, new.id)
        if there is not None:
            unit.refuse_other("batch", kept := batch_views(unit.session, [there])[0])
            return kept, False
        arm = find(unit.session, Arm, new.arm_id)
        study = find(unit.session, Study, arm.study_id)
        spool = find(unit.session, Spool, new.spool_id) if new.spool_id is not None else None
        printer_id = find(unit.session, Printer, new.printer_id).id if new.printer_id is not None else None
        _refuse_others(unit, study, arm, spool, printer_id)
        ask([question_past("printed_at", new.printed_at, unit.now, "printed at")], new.confirmed)
        tests = {t.id: t for t in unit.session.scalars(select(Test).where(Test.study_id == arm.study_id).order_by(Test.position))}
        lain = _of_plate(unit, arm, tests, new.plate_id) if new.plate_id is not None else _to_print(unit, arm, tests, new)
        batch = Batch(id=new.id, variant_id=arm.variant_id, printed_at=new.printed_at, zone=actor.zone, spool_id=spool.id if spool else None)
        batch.printer_id, batch.nozzle, batch.minutes, batch.room, batch.plate_id = printer_id, new.nozzle, new.minutes, new.room, new.plate_id
        unit.session.add(batch)
        unit.session.flush()
        _add_specimens(unit, batch, lain, _codes(unit, new.plate_id))
        _debit(unit, arm, spool, batch, lain, new)
        if study.started_at is None:
            # what was printed is no longer planned at will
            study.started_at = unit.now
            unit.log("study", study.id, "started")
            unit.session.flush()
        unit.touch(arm.study_id, {t.id for t, _ in lain})
        unit.log("batch", batch.id, "printed", after={"arm": arm.mark, "specimens": len(lain), "spool": spool.code if spool else None})
        unit.session.flush()
        return batch_views(unit.session, [batch])[0], True


def _refuse_others(unit: Unit, study: Study, arm: Arm, spool: Spool | None, printer_id: str | None) -> None:
    """What is printed from another material, lot or on another printer than the arm stands for is not of the arm."""
    if spool is not None and spool.material_id != arm.variant.material_id:
        raise EntryError(f"spool {spool.code} holds another material than {arm.mark}", "spool_id")
    if study.studied_factor == StudiedFactor.LOT and arm.spool_id is not None:
        own = find(unit.session, Spool, arm.spool_id)
        if spool is None or (spool.id != own.id and (not own.lot or spool.lot != own.lot)):
            raise EntryError(f"{arm.mark} stands for the lot of spool {own.code}{f' ({own.lot})' if own.lot else ''}: print it from there", "spool_id")
    if study.studied_factor == StudiedFactor.PRINTER and arm.printer_id is not None and printer_id != arm.printer_id:
        raise EntryError(f"{arm.mark} stands for the printer {find(unit.session, Printer, arm.printer_id).name}: print it there", "printer_id")


def _debit(unit: Unit, arm: Arm, spool: Spool | None, batch: Batch, lain: Sequence[Lain], new: NewBatch) -> None:
    """Take from every spool what it gave: parts and what was purged."""
    words = _words(lain)
    mass = new.mass if new.mass is not None else _mass_of(unit, arm, lain, new.plate_id)
    if spool is not None and mass is not None:
        debit(unit, spool, unit.new_id(), mass + new.purge, new.printed_at, words, batch.id, new.purge)
    for other in new.besides:
        if other.part + other.purge > 0:
            beside = find(unit.session, Spool, other.spool_id)
            debit(unit, beside, unit.new_id(), other.part + other.purge, new.printed_at, f"beside: {words}"[:200], batch.id, other.purge)


def _mass_of(unit: Unit, arm: Arm, lain: Sequence[Lain], plate_id: str | None) -> float | None:
    """g by the file that it was printed from, or by the volume of the pieces."""
    material = arm.variant.material
    if material.density is None:
        return None
    of_plate = select(GcodeFile.found["filament_mm"].as_float()).where(GcodeFile.plate_id == plate_id, GcodeFile.retracted_at.is_(None))
    length = unit.session.scalar(of_plate.order_by(GcodeFile.added_at.desc())) if plate_id is not None else None
    if length:
        return strand_mass(length, material.diameter, material.density)
    return sum(shape_of(t).volume for t, _ in lain) * material.density


def _of_plate(unit: Unit, arm: Arm, tests: Mapping[str, Test], plate_id: str) -> list[Lain]:
    """What lay on a plate, place by place; where a replicate was printed otherwise meanwhile, it is a spare."""
    plate = find(unit.session, Plate, plate_id)
    if plate.arm_id != arm.id:
        raise EntryError("the plate is of another arm", "plate_id")
    if unit.session.scalar(select(Batch.id).where(Batch.plate_id == plate_id)) is not None:
        raise ConflictError(f"plate {plate.number} was printed already")
    places = unit.session.scalars(select(PlatePlace).where(PlatePlace.plate_id == plate_id).order_by(PlatePlace.position)).all()
    waiting, again = open_slots(unit.session, list(tests), on_plates=True)
    still = {s for found in (waiting, again) for (_, arm_id), own in found.items() if arm_id == arm.id for s in own}
    slots = {s.id: s for s in unit.session.scalars(select(Slot).where(Slot.id.in_(still)))}
    return [(tests[p.test_id], slots.get(p.slot_id or "")) for p in places]


def _to_print(unit: Unit, arm: Arm, tests: Mapping[str, Test], new: NewBatch) -> list[Lain]:
    return [(tests[s.test_id], s) for s in _slots_to_print(unit, arm, list(tests.values()), new)]


def batches_of(workspace: Workspace, study_id: str) -> BatchList:
    """The batches that specimens of a study came from, the newest first."""
    with workspace.read() as session:
        find(session, Study, study_id)
        slots = select(Slot.id).join(Arm, Arm.id == Slot.arm_id).where(Arm.study_id == study_id)
        # each by its own index; one condition on both would read all specimens
        own = union(
            select(Specimen.batch_id).where(Specimen.slot_id.in_(slots)),
            select(Specimen.batch_id).where(Specimen.slot_id.is_(None), Specimen.planned_slot_id.in_(slots)),
            select(Batch.id).join(Plate, Plate.id == Batch.plate_id).where(Plate.study_id == study_id),
        )
        of_study = select(Batch).where(Batch.id.in_(own)).order_by(Batch.printed_at.desc(), Batch.id.desc())
        return BatchList(items=batch_views(session, session.scalars(of_study).all()))


def _slots_to_print(unit: Unit, arm: Arm, tests: Sequence[Test], new: NewBatch) -> list[Slot]:
    own = {t.id for t in tests}
    if not set(new.test_ids) <= own:
        raise EntryError("a test of another study is named", "test_ids")
    waiting, again = open_slots(unit.session, [t.id for t in tests])
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


def _codes(unit: Unit, plate_id: str | None) -> dict[int, str]:
    """Codes that were sunk into the pieces of a plate, by place."""
    if plate_id is None:
        return {}
    rows = unit.session.execute(select(PlatePlace.position, PlatePlace.code).where(PlatePlace.plate_id == plate_id, PlatePlace.code.is_not(None)))
    return {position: code or "" for position, code in rows}


def _add_specimens(unit: Unit, batch: Batch, lain: Sequence[Lain], codes: Mapping[int, str]) -> None:
    for position, (test, slot) in enumerate(lain, 1):
        specimen = Specimen(
            id=unit.new_id(), code=codes.get(position) or free_code(unit), batch_id=batch.id, position=position, shape=test.shape, orientation=test.orientation,
            slot_id=None if slot is None else slot.id, spare_test_id=test.id if slot is None else None,
        )  # fmt: skip
        unit.session.add(specimen)
        # the next code must see this one
        unit.session.flush()


def _words(lain: Sequence[Lain]) -> str:
    counts = Counter(f"{shape_of(test).label}, {test.orientation}" for test, _ in lain)
    return "; ".join(f"{n} × {what}" for what, n in counts.items())[:200]
