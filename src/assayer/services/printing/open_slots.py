"""Which replicates wait to be printed, and which are to be printed again."""

from __future__ import annotations

from collections import defaultdict

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from assayer.core.methods.vocabulary import Validity
from assayer.store.models import Arm, Batch, Plate, PlatePlace, Run, Slot, Specimen

Key = tuple[str, str]
"""Test and arm."""


def open_slots(session: Session, test_ids: list[str], on_plates: bool = False) -> tuple[dict[Key, list[str]], dict[Key, list[str]]]:
    """Slots without a specimen, and slots all of whose specimens were left out, by test and arm.

    Those that lie on a plate which is not printed yet are among them only with `on_plates`.
    """
    left_out = (Run.specimen_id == Specimen.id) & Run.retracted_at.is_(None) & (Run.validity == Validity.LEFT_OUT)
    wanted = (
        select(Slot.test_id, Slot.arm_id, Slot.id, func.count(Specimen.id.distinct()), func.count(Run.specimen_id.distinct()))
        .outerjoin(Specimen, Specimen.slot_id == Slot.id)
        .outerjoin(Run, left_out)
        .where(Slot.test_id.in_(test_ids))
        .group_by(Slot.id)
        .order_by(Slot.number)
    )
    if not on_plates:
        printed = select(Batch.id).where(Batch.plate_id == Plate.id).exists()
        # asked of each slot: a list of all that lie on plates would grow with all studies
        laid = select(PlatePlace.plate_id).join(Plate, Plate.id == PlatePlace.plate_id).where(PlatePlace.slot_id == Slot.id, ~printed)
        wanted = wanted.where(~laid.exists())
    waiting: dict[Key, list[str]] = defaultdict(list)
    again: dict[Key, list[str]] = defaultdict(list)
    for test_id, arm_id, slot_id, count, out in session.execute(wanted):
        if not count:
            waiting[test_id, arm_id].append(slot_id)
        elif out == count:
            again[test_id, arm_id].append(slot_id)
    return waiting, again


def free_spares(session: Session, study_id: str) -> dict[Key, list[Specimen]]:
    """Good spares that fill no replicate and were never tested, by test and arm, the oldest first."""
    tested = select(Run.id).where(Run.specimen_id == Specimen.id, Run.retracted_at.is_(None)).exists()
    rows = session.execute(
        select(Specimen, Plate.arm_id)
        .join(Batch, Batch.id == Specimen.batch_id)
        .join(Plate, Plate.id == Batch.plate_id)
        .join(Arm, Arm.id == Plate.arm_id)
        .where(Plate.study_id == study_id, Specimen.spare_test_id.is_not(None), Specimen.slot_id.is_(None), Specimen.planned_slot_id.is_(None))
        # a batch that was filed under another arm is no longer its plate's
        .where(Specimen.outcome == "good", Arm.variant_id == Batch.variant_id, ~tested)
        .order_by(Batch.printed_at, Specimen.position)
    )
    found: dict[Key, list[Specimen]] = defaultdict(list)
    for specimen, arm_id in rows:
        found[specimen.spare_test_id or "", arm_id].append(specimen)
    return found
