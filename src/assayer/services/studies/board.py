"""The board of a study, and its reference."""

from __future__ import annotations

from typing import Any

from sqlalchemy import select

from assayer.core.errors import EntryError
from assayer.services.studies.evidence import write_evidence
from assayer.services.studies.listing import study_dict
from assayer.services.unit import Actor, Workspace, expect_revision, find
from assayer.store.models import Arm, EvidenceCache, Study, Test


def board(workspace: Workspace, study_id: str) -> tuple[str, int]:
    """The board as JSON text and its revision: the cached columns, put together without being parsed."""
    with workspace.read() as session:
        # one snapshot: the revision and the columns belong together
        study = find(session, Study, study_id)
        rows = session.execute(
            select(EvidenceCache.payload).join(Test, Test.id == EvidenceCache.test_id).where(EvidenceCache.study_id == study_id).order_by(Test.position)
        ).scalars()
        return f'{{"study_id":"{study_id}","revision":{study.revision},"columns":[{",".join(rows)}]}}', study.revision


def set_reference(workspace: Workspace, actor: Actor, study_id: str, arm_id: str, revision: int | None) -> dict[str, Any]:
    """Make another arm the reference; every verdict of the study is made anew."""
    with workspace.write(actor) as unit:
        study = find(unit.session, Study, study_id)
        expect_revision(revision, study.revision, "the study", {"revision": study.revision})
        arm = unit.session.get(Arm, arm_id)
        if arm is None or arm.study_id != study_id:
            raise EntryError("the reference must be an arm of this study", "reference_arm_id")
        before = study.reference_arm_id
        if before != arm_id:
            study.reference_arm_id = arm_id
            unit.session.flush()
            unit.session.refresh(study)
            new_revision = unit.touch(study_id)
            for test in unit.session.scalars(select(Test).where(Test.study_id == study_id)).all():
                write_evidence(unit.session, test, new_revision)
            unit.session.refresh(study)
            unit.log("study", study_id, "reference changed", {"reference_arm_id": before}, {"reference_arm_id": arm_id})
        return study_dict(unit.session, study)
