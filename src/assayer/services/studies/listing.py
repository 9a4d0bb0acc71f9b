"""Studies: the list, and one with its arms and tests."""

from __future__ import annotations

from typing import Any

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from assayer.core.methods import method as find_method
from assayer.services.stock.materials import material_dict
from assayer.services.unit import Workspace, find
from assayer.store.models import Arm, Run, Slot, Study, Test


def list_studies(workspace: Workspace, limit: int, offset: int) -> dict[str, Any]:
    """Studies, newest first, with how far each has come."""
    with workspace.read() as session:
        total = session.scalar(select(func.count()).select_from(Study)) or 0
        studies = session.scalars(select(Study).order_by(Study.created_at.desc(), Study.id).limit(limit).offset(offset)).all()
        ids = [s.id for s in studies]
        slots = select(Arm.study_id, func.count()).join(Slot, Slot.arm_id == Arm.id).where(Arm.study_id.in_(ids)).group_by(Arm.study_id)
        pulled = (
            select(Test.study_id, func.count())
            .join(Run, Run.test_id == Test.id)
            .where(Test.study_id.in_(ids), Run.retracted_at.is_(None), Run.complete)
            .group_by(Test.study_id)
        )
        planned = {study_id: count for study_id, count in session.execute(slots)}
        tested = {study_id: count for study_id, count in session.execute(pulled)}
        marks: dict[str, list[dict[str, Any]]] = {}
        for arm in session.scalars(select(Arm).where(Arm.study_id.in_(ids)).order_by(Arm.position)):
            marks.setdefault(arm.study_id, []).append({"mark": arm.mark, **_swatch(arm)})
        items = [
            {
                "id": s.id,
                "title": s.title,
                "question": s.question,
                "studied_factor": s.studied_factor,
                "created_at": s.created_at,
                "planned": planned.get(s.id, 0),
                "tested": tested.get(s.id, 0),
                "swatches": marks.get(s.id, []),
            }
            for s in studies
        ]
        return {"items": items, "total": total, "limit": limit, "offset": offset}


def _swatch(arm: Arm) -> dict[str, Any]:
    material = arm.variant.material
    return {"hex": material.hex, "filled": material.filler is not None}


def arm_dict(arm: Arm) -> dict[str, Any]:
    return {
        "id": arm.id,
        "mark": arm.mark,
        "treatment": arm.variant.treatment,
        "material": material_dict(arm.variant.material),
        "settings": arm.variant.sheet.name,
    }


def get_study(workspace: Workspace, study_id: str) -> dict[str, Any]:
    """One study with its arms and tests."""
    with workspace.read() as session:
        return study_dict(session, find(session, Study, study_id))


def study_dict(session: Session, study: Study) -> dict[str, Any]:
    arms = session.scalars(select(Arm).where(Arm.study_id == study.id).order_by(Arm.position))
    tests = session.scalars(select(Test).where(Test.study_id == study.id).order_by(Test.position))
    return {
        "id": study.id,
        "title": study.title,
        "question": study.question,
        "studied_factor": study.studied_factor,
        "reference_arm_id": study.reference_arm_id,
        "revision": study.revision,
        "created_at": study.created_at,
        "arms": [arm_dict(a) for a in arms],
        "tests": [test_dict(t) for t in tests],
    }


def test_dict(test: Test) -> dict[str, Any]:
    method = find_method(test.method)
    shape = method.shape(test.shape)
    return {
        "id": test.id,
        "study_id": test.study_id,
        "method": test.method,
        "label": method.label_for(test.orientation),
        "after": method.after,
        "orientation": test.orientation,
        "shape": {
            "name": shape.name,
            "label": shape.label,
            "width": shape.width,
            "thickness": shape.thickness,
            "gauge_length": shape.gauge_length,
            "overall": shape.overall,
            "parallel": shape.parallel,
            "end_width": shape.end_width,
        },
        "replicates": test.replicates,
        "margin": test.margin_value,
        "margin_relative": test.margin_relative,
        "fractures": [{"name": name, "label": label, "bound": str(bound)} for name, (label, bound) in method.fractures.items()],
        "quantities": [{"name": q.name, "label": q.label, "unit": q.unit, "good_side": str(q.good_side)} for q in method.quantities],
        "main": method.main,
    }
