"""A material's results over studies."""

from __future__ import annotations

from collections import defaultdict
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from assayer.core.methods import method as find_method
from assayer.core.stats.groups import summarise
from assayer.store.models import Arm, Batch, Result, Run, Specimen, Study, Test, Variant


def _measured(session: Session, ids: list[str]) -> dict[str, list[dict[str, Any]]]:
    """Groups of measured values by material, one for each study, test, arm, rig and quantity: unlike is never put together."""
    rows = session.execute(
        select(Variant.material_id, Result.quantity, Result.value, Result.unit, Test, Study.title, Run.rig_version_id, Arm.id)
        .join(Run, Run.id == Result.run_id)
        .join(Test, Test.id == Run.test_id)
        .join(Study, Study.id == Test.study_id)
        .join(Specimen, Specimen.id == Run.specimen_id)
        .join(Batch, Batch.id == Specimen.batch_id)
        .join(Variant, Variant.id == Batch.variant_id)
        .join(Arm, (Arm.variant_id == Variant.id) & (Arm.study_id == Study.id))
        .where(Variant.material_id.in_(ids), Run.retracted_at.is_(None), Run.validity == "counts", Result.bound == "exact")
        .order_by(Study.created_at.desc(), Test.position)
    ).all()
    groups: dict[tuple[str, ...], tuple[Any, list[float]]] = {}
    for row in rows:
        key = (row.Test.id, row.quantity, row.rig_version_id, row.id)
        groups.setdefault(key, (row, []))[1].append(row.value)
    shown: dict[str, list[dict[str, Any]]] = defaultdict(list)
    for row, values in groups.values():
        method = find_method(row.Test.method)
        spec = next((q for q in method.quantities if q.name == row.quantity), None)
        if spec is None:
            continue
        group = summarise(values)
        shown[row.material_id].append(
            {
                "study_id": row.Test.study_id,
                "study": row.title,
                "test_id": row.Test.id,
                "test": method.label_for(row.Test.orientation),
                "orientation": row.Test.orientation,
                "rig_version_id": row.rig_version_id,
                "quantity": row.quantity,
                "label": spec.label,
                "unit": row.unit,
                "good_side": str(spec.good_side),
                "main": row.quantity == method.main,
                "values": values,
                "n": len(values),
                "mean": group.mean,
                "ci95": None if group.ci95 is None else (group.ci95.low, group.ci95.high),
            }
        )
    return shown
