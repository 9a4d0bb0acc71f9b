"""One specimen in full: where it comes from, its runs, readings, results and history."""

from __future__ import annotations

from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from assayer.services.stock.materials import material_dict
from assayer.services.unit import Workspace, find
from assayer.store.models import Arm, Batch, Change, Curve, Result, Run, Slot, Specimen, Spool, Variant


def run_dict(session: Session, run: Run) -> dict[str, Any]:
    """A run with its readings (superseded ones too), results and history."""
    superseded = {r.supersedes_id for r in run.readings}
    results = session.scalars(select(Result).where(Result.run_id == run.id).order_by(Result.seq))
    changes = session.scalars(select(Change).where(Change.entity == "run", Change.entity_id == run.id).order_by(Change.seq))
    curve = session.get(Curve, run.curve_id) if run.curve_id else None
    return {
        "id": run.id,
        "revision": run.revision,
        "specimen_id": run.specimen_id,
        "code": run.specimen.code,
        "test_id": run.test_id,
        "procedure_version": run.procedure_version,
        "rig": {"id": run.rig_version_id, "name": run.rig_version.rig.name, "version": run.rig_version.number},
        "operator": run.operator,
        "happened_at": run.happened_at,
        "zone": run.zone,
        "complete": run.complete,
        "retracted_at": run.retracted_at,
        "validity": run.validity,
        "validity_reason": run.validity_reason,
        "validity_by": run.validity_by,
        "fracture": run.fracture,
        "fracture_place": run.fracture_place,
        "modulus_window": run.options.get("modulus_window"),
        "curve": None if curve is None else {"id": curve.id, "file_name": curve.file_name, "rows": curve.rows},
        "remarks": run.remarks,
        "readings": [
            {
                "id": r.id,
                "field": r.field,
                "position": r.position,
                "raw": r.raw,
                "value": r.value,
                "unit": r.unit,
                "happened_at": r.happened_at,
                "entered_at": r.entered_at,
                "entered_by": r.entered_by,
                "supersedes": r.supersedes_id,
                "superseded": r.id in superseded,
                "reason": r.reason,
            }
            for r in sorted(run.readings, key=lambda r: (r.field, r.position, r.seq or 0))
        ],
        "results": [
            {"quantity": r.quantity, "value": r.value, "unit": r.unit, "bound": r.bound, "warnings": r.warnings, "reduction_version": r.reduction_version}
            for r in results
        ],
        "history": [{"at": c.at, "who": c.who, "action": c.action, "before": c.before, "after": c.after} for c in changes],
    }


def get_run(workspace: Workspace, run_id: str) -> dict[str, Any]:
    with workspace.read() as session:
        return run_dict(session, find(session, Run, run_id))


def get_specimen(workspace: Workspace, specimen_id: str) -> dict[str, Any]:
    """A specimen with where it comes from and every run of it, those taken back included."""
    with workspace.read() as session:
        specimen = find(session, Specimen, specimen_id)
        batch = find(session, Batch, specimen.batch_id)
        variant = find(session, Variant, batch.variant_id)
        spool = session.get(Spool, batch.spool_id) if batch.spool_id else None
        slot = session.get(Slot, specimen.slot_id) if specimen.slot_id else None
        arm = session.get(Arm, slot.arm_id) if slot else None
        runs = session.scalars(select(Run).where(Run.specimen_id == specimen_id).order_by(Run.retracted_at.is_not(None), Run.happened_at)).all()
        return {
            "id": specimen.id,
            "code": specimen.code,
            "shape": specimen.shape,
            "orientation": specimen.orientation,
            "position": specimen.position,
            "printed_at": batch.printed_at,
            "settings": variant.sheet.name,
            "treatment": variant.treatment,
            "material": material_dict(variant.material),
            "spool": None if spool is None else {"id": spool.id, "code": spool.code},
            "mark": arm.mark if arm else None,
            "test_id": slot.test_id if slot else None,
            "runs": [run_dict(session, r) for r in runs],
        }
