"""The bench's queue: what is to be tested, in which order, by whom."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

from sqlalchemy import select

from assayer.core.plan.order import random_order
from assayer.services.bench.reductions import standing
from assayer.services.stock.materials import material_dict
from assayer.services.unit import Actor, Workspace, find
from assayer.store.models import Arm, Lease, Material, Run, Slot, Specimen, Study, Test, Variant

LEASE = timedelta(minutes=10)


def queue(workspace: Workspace, test_id: str, station: str, blind: bool) -> dict[str, Any]:
    """All specimens of a test in the study's random order, each with how far it is.

    Blind: nothing that tells the material is given out.
    """
    with workspace.read() as session:
        test = find(session, Test, test_id)
        study = find(session, Study, test.study_id)
        rows = session.execute(
            select(Specimen, Run, Arm, Material, Lease)
            .select_from(Slot)
            .join(Specimen, Specimen.slot_id == Slot.id)
            .join(Arm, Arm.id == Slot.arm_id)
            .join(Variant, Variant.id == Arm.variant_id)
            .join(Material, Material.id == Variant.material_id)
            .outerjoin(Run, (Run.specimen_id == Specimen.id) & (Run.test_id == test_id) & Run.retracted_at.is_(None))
            .outerjoin(Lease, Lease.specimen_id == Specimen.id)
            .where(Slot.test_id == test_id)
        ).all()
        by_id = {r.Specimen.id: r for r in rows}
        now = workspace.clock()
        items = []
        for specimen_id in random_order(by_id, study.seed):
            specimen, run, arm, material, lease = by_id[specimen_id]
            state = "waiting" if run is None else "measured" if not run.complete else run.validity
            items.append(
                {
                    "specimen_id": specimen.id,
                    "code": specimen.code,
                    "state": state,
                    "run_id": None if run is None else run.id,
                    "fields": {} if run is None or run.complete else _raw_fields(run),
                    "held_by": lease.station if lease is not None and lease.until > now and lease.station != station else None,
                    "arm": None if blind else {"id": arm.id, "mark": arm.mark, "material": material_dict(material)},
                }
            )
        return {"test_id": test_id, "study_id": study.id, "items": items}


def _raw_fields(run: Run) -> dict[str, list[str]]:
    fields: dict[str, list[str]] = {}
    for reading in standing(run.readings):
        fields.setdefault(reading.field, []).append(reading.raw)
    return fields


def take_lease(workspace: Workspace, actor: Actor, specimen_id: str, station: str) -> dict[str, Any]:
    """Hold a specimen for a station; tells if another one holds it."""
    with workspace.write(actor) as unit:
        find(unit.session, Specimen, specimen_id)
        lease = unit.session.get(Lease, specimen_id)
        if lease is not None and lease.until > unit.now and lease.station != station:
            return {"specimen_id": specimen_id, "held_by": lease.station}
        # a station holds one specimen at a time
        for old in unit.session.scalars(select(Lease).where(Lease.station == station)):
            unit.session.delete(old)
        if lease is not None:
            unit.session.delete(lease)
        unit.session.flush()
        unit.session.add(Lease(specimen_id=specimen_id, station=station, until=unit.now + LEASE))
        return {"specimen_id": specimen_id, "held_by": None}
