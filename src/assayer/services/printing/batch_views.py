"""Batches as they are shown, in the same few queries however many."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from typing import cast

from sqlalchemy import func, select
from sqlalchemy.orm import Session, joinedload

from assayer.services.photos.photos import photos_of
from assayer.services.photos.views import PhotoView
from assayer.services.printing.views import BatchView, BesideView, PrintedSpecimen, SpecimenState
from assayer.store.models import Arm, Batch, FilamentUse, Plate, Printer, Run, Slot, Specimen, Spool, Variant


def batch_views(session: Session, batches: Sequence[Batch]) -> list[BatchView]:
    """Each with its specimens in the order of their places."""
    ids = [b.id for b in batches]
    own: dict[str, list[tuple[Specimen, Slot | None]]] = defaultdict(list)
    rows = session.execute(
        select(Specimen, Slot)
        .outerjoin(Slot, Slot.id == func.coalesce(Specimen.slot_id, Specimen.planned_slot_id))
        .where(Specimen.batch_id.in_(ids))
        .order_by(Specimen.position)
    )
    for specimen, slot in rows:
        own[specimen.batch_id].append((specimen, slot))
    arms = _arms(session, batches, own)
    everyone = [s.id for found in own.values() for s, _ in found]
    tested = set(session.scalars(select(Run.specimen_id).where(Run.specimen_id.in_(everyone), Run.retracted_at.is_(None))))
    uses: dict[str, list[FilamentUse]] = defaultdict(list)
    for use in session.scalars(select(FilamentUse).where(FilamentUse.batch_id.in_(ids), FilamentUse.retracted_at.is_(None)).order_by(FilamentUse.entered_at)):
        uses[use.batch_id or ""].append(use)
    spool_ids = {b.spool_id for b in batches if b.spool_id} | {u.spool_id for found in uses.values() for u in found}
    codes = {key: code for key, code in session.execute(select(Spool.id, Spool.code).where(Spool.id.in_(spool_ids)))}
    printers = {key: name for key, name in session.execute(select(Printer.id, Printer.name))} if batches else {}
    photos = photos_of(session, "batch", ids)
    return [_view(b, arms[b.id], own[b.id], tested, uses[b.id], codes, printers, photos.get(b.id, [])) for b in batches]


def _arms(session: Session, batches: Sequence[Batch], own: dict[str, list[tuple[Specimen, Slot | None]]]) -> dict[str, Arm]:
    """The arm of each: that of its replicates; where all are spares, that of its plate's study with its variant."""
    of_slot = {b.id: next((slot.arm_id for _, slot in own[b.id] if slot is not None), None) for b in batches}
    without = [key for key, arm_id in of_slot.items() if arm_id is None]
    beside = Arm.study_id == Plate.study_id, Arm.variant_id == Batch.variant_id
    spares = select(Batch.id, Arm.id).join(Plate, Plate.id == Batch.plate_id).join(Arm, beside[0] & beside[1]).where(Batch.id.in_(without))
    of_plate = {key: arm_id for key, arm_id in session.execute(spares)}
    wanted = {key: arm_id or of_plate[key] for key, arm_id in of_slot.items()}
    with_variant = joinedload(Arm.variant).joinedload(Variant.material)
    arms = {a.id: a for a in session.scalars(select(Arm).where(Arm.id.in_(set(wanted.values()))).options(with_variant))}
    return {key: arms[arm_id] for key, arm_id in wanted.items()}


def _view(
    b: Batch, arm: Arm, own: Sequence[tuple[Specimen, Slot | None]], tested: set[str | None], uses: Sequence[FilamentUse], codes: dict[str, str],
    printers: dict[str, str], photos: list[PhotoView],
) -> BatchView:  # fmt: skip
    main = next((u for u in uses if u.spool_id == b.spool_id), None)
    return BatchView(
        id=b.id,
        arm_id=arm.id,
        mark=arm.mark,
        printed_at=b.printed_at,
        spool_id=b.spool_id,
        spool_code=codes.get(b.spool_id or ""),
        mass=None if main is None else main.mass,
        purge=0.0 if main is None else main.purge,
        besides=[BesideView(spool_code=codes[u.spool_id], mass=u.mass, purge=u.purge) for u in uses if u is not main],
        printer_id=b.printer_id,
        printer=printers.get(b.printer_id or "", ""),
        nozzle=b.nozzle,
        minutes=b.minutes,
        room=b.room,
        plate_id=b.plate_id,
        treatment=arm.variant.treatment,
        photos=photos,
        specimens=[_specimen(s, slot, s.id in tested) for s, slot in own],
    )


def _specimen(s: Specimen, slot: Slot | None, tested: bool) -> PrintedSpecimen:
    return PrintedSpecimen(
        id=s.id, code=s.code, test_id=slot.test_id if slot is not None else s.spare_test_id or "", number=None if slot is None else slot.number,
        shape=s.shape, orientation=s.orientation, outcome=cast(SpecimenState, s.outcome), fault=s.fault, tested=tested, position=s.position,
        spare=slot is None, treated=s.treated_at is not None,
    )  # fmt: skip
