"""Purposes: what materials are ranked for, with criteria and weights."""

from __future__ import annotations

from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from assayer.core.errors import ConflictError, EntryError
from assayer.core.methods import method as find_method
from assayer.core.ranking.ranking import Criterion
from assayer.services.choose.requests import NewPurpose, WeightsEdit
from assayer.services.studies.listing import arm_dict
from assayer.services.unit import Actor, Workspace, expect_revision, find
from assayer.store.models import Arm, Purpose, PurposeCriterion, Study, Test

LAYER_RATIO = "layer_ratio"


def list_purposes(workspace: Workspace, limit: int, offset: int) -> dict[str, Any]:
    with workspace.read() as session:
        uses = session.execute(select(Purpose, Study.title).join(Study, Study.id == Purpose.study_id).order_by(Purpose.title).limit(limit).offset(offset)).all()
        return {"items": [{"id": u.id, "title": u.title, "study_id": u.study_id, "study_title": title} for u, title in uses]}


def add_purpose(workspace: Workspace, actor: Actor, new: NewPurpose) -> tuple[dict[str, Any], bool]:
    """Add a use with its criteria; the same id again changes nothing (second value False)."""
    with workspace.write(actor) as unit:
        there = unit.session.get(Purpose, new.id)
        if there is not None:
            if there.title != new.title:
                raise ConflictError("another use already has this id")
            return purpose_view(unit.session, there), False
        study = find(unit.session, Study, new.study_id)
        use = Purpose(id=new.id, study_id=study.id, title=new.title, seed=study.seed, revision=1)
        unit.session.add(use)
        unit.session.flush()
        seen = set()
        for position, spec in enumerate(new.criteria):
            test = find(unit.session, Test, spec.test_id)
            known = {q.name for q in find_method(test.method).quantities} | {LAYER_RATIO}
            if test.study_id != study.id or spec.quantity not in known:
                raise EntryError(f"criterion {position + 1}: the study has no such test and quantity", "criteria", row=position + 1)
            if (spec.test_id, spec.quantity) in seen:
                raise EntryError(f"criterion {position + 1} is there twice", "criteria", row=position + 1)
            seen.add((spec.test_id, spec.quantity))
            Criterion(spec.quantity, spec.no_use, spec.all_needed, spec.required)
            use.criteria.append(PurposeCriterion(**spec.model_dump(), position=position))
        unit.session.flush()
        unit.log("use", use.id, "added", after={"title": use.title, "criteria": len(use.criteria)})
        return purpose_view(unit.session, use), True


def set_weights(workspace: Workspace, actor: Actor, purpose_id: str, edit: WeightsEdit, revision: int | None) -> dict[str, Any]:
    """Keep new weights of a use."""
    with workspace.write(actor) as unit:
        use = find(unit.session, Purpose, purpose_id)
        expect_revision(revision, use.revision, "the use", {"revision": use.revision})
        before = {c.id: c.weight for c in use.criteria}
        unknown = set(edit.weights) - set(before)
        if unknown:
            raise EntryError("a weight is given for a criterion that this use does not have", "weights")
        for criterion in use.criteria:
            criterion.weight = edit.weights.get(criterion.id, criterion.weight)
        if not any(c.weight > 0 for c in use.criteria):
            raise EntryError("at least one weight must be above 0", "weights")
        use.revision += 1
        unit.log("use", purpose_id, "weighted", {"weights": before}, {"weights": {c.id: c.weight for c in use.criteria}})
        unit.session.flush()
        return purpose_view(unit.session, use)


def get_purpose(workspace: Workspace, purpose_id: str) -> dict[str, Any]:
    with workspace.read() as session:
        return purpose_view(session, find(session, Purpose, purpose_id))


def purpose_view(session: Session, use: Purpose) -> dict[str, Any]:
    study = find(session, Study, use.study_id)
    criteria = []
    for c in use.criteria:
        test = find(session, Test, c.test_id)
        method = find_method(test.method)
        ratio = c.quantity == LAYER_RATIO
        spec = None if ratio else method.quantity(c.quantity)
        criteria.append(
            {
                "id": c.id,
                "test_id": c.test_id,
                "test_label": method.label_for(test.orientation),
                "orientation": test.orientation,
                "quantity": c.quantity,
                "label": "layer ratio" if spec is None else spec.label,
                "unit": "1" if spec is None else spec.unit,
                "no_use": c.no_use,
                "all_needed": c.all_needed,
                "required": c.required,
                "weight": c.weight,
            }
        )
    return {
        "id": use.id,
        "title": use.title,
        "study_id": use.study_id,
        "study_title": study.title,
        "revision": use.revision,
        "criteria": criteria,
        "arms": [arm_dict(a) for a in session.scalars(select(Arm).where(Arm.study_id == study.id).order_by(Arm.position))],
    }
