"""The board of a study, and its reference."""

from __future__ import annotations

from collections.abc import Sequence

from sqlalchemy import select
from sqlalchemy.orm import Session

from assayer.core.errors import EntryError
from assayer.core.methods.derived import DERIVED
from assayer.services.kept import Kept
from assayer.services.studies.evidence import arms_of, begun, earlier_tests, load_evidence
from assayer.services.studies.evidence_views import evidence_view
from assayer.services.studies.fairness import problems_of
from assayer.services.studies.listing import study_view
from assayer.services.studies.ratios import derived_of, facts_of_test
from assayer.services.studies.views import StudyView
from assayer.services.unit import Actor, Workspace, expect_revision, find
from assayer.store.models import Arm, Study, Test

_cache: Kept[str] = Kept(400)


def board(workspace: Workspace, study_id: str) -> tuple[str, int]:
    """The board as JSON text (a BoardView) and its revision; what is cached is put together without being parsed."""
    with workspace.read() as session:
        # one snapshot: the revision and the evidence belong together
        study = find(session, Study, study_id)
        tests = session.scalars(select(Test).where(Test.study_id == study_id).order_by(Test.position)).all()
        arms = arms_of(session, study_id)
        earlier = _revisions_of_reference(session, study, arms)
        keys = {t.id: (*_key(workspace, t, tests, study), *earlier) for t in tests}
        parts: dict[str, str | None] = {t.id: _cache.get(keys[t.id]) for t in tests}
        missing = [t for t in tests if parts[t.id] is None]
        if missing:
            made = _make(session, study, missing, tests, arms)
            for test_id, text in made.items():
                _cache.put(keys[test_id], text)
            parts |= made
        columns = ",".join(parts[t.id] or "" for t in tests)
        problems = ",".join(p.model_dump_json() for p in problems_of(session, study, tests, arms))
        return f'{{"study_id":"{study_id}","revision":{study.revision},"columns":[{columns}],"problems":[{problems}]}}', study.revision


def _key(workspace: Workspace, test: Test, tests: Sequence[Test], study: Study) -> tuple[object, ...]:
    """What the evidence of a test follows from: its own data, those below the line of its ratios, the reference."""
    own = facts_of_test(test)
    below = [other.revision for other in tests if any(spec.pairs(own, facts_of_test(other)) for spec in DERIVED.values())]
    return (str(workspace.db.path), test.id, test.revision, *below, study.reference_arm_id, test.margin_value, test.margin_relative)


def _revisions_of_reference(session: Session, study: Study, arms: Sequence[Arm]) -> list[tuple[str, int]]:
    """Of the tests of another study, where the reference is an arm of it."""
    reference = None if study.reference_arm_id in {a.id for a in arms} else session.get(Arm, study.reference_arm_id or "")
    if reference is None:
        return []
    rows = session.execute(select(Test.id, Test.revision).where(Test.study_id == reference.study_id).order_by(Test.position))
    return [(test_id, revision) for test_id, revision in rows]


def _has_common_test(session: Session, arm: Arm, study_id: str) -> bool:
    return any(earlier_tests(session, arm, test) for test in session.scalars(select(Test).where(Test.study_id == study_id)))


def _make(session: Session, study: Study, missing: Sequence[Test], tests: Sequence[Test], arms: Sequence[Arm]) -> dict[str, str]:
    below = {t.id: derived_of(t, tests, arms) for t in missing}
    needed = {t.id: t for t in missing} | {other.id: other for pairs in below.values() for _, other in pairs}
    evidence = load_evidence(session, needed.values(), arms, begun(session, missing))
    return {t.id: evidence_view(evidence[t.id], [(spec, evidence[other.id]) for spec, other in below[t.id]], study).model_dump_json() for t in missing}


def set_reference(workspace: Workspace, actor: Actor, study_id: str, arm_id: str, revision: int | None) -> StudyView:
    """Make another arm the reference; every verdict of the study follows from it."""
    with workspace.write(actor) as unit:
        study = find(unit.session, Study, study_id)
        expect_revision(revision, study.revision, "the study", study_view(unit.session, study))
        arm = unit.session.get(Arm, arm_id)
        if arm is None or (arm.study_id != study_id and not _has_common_test(unit.session, arm, study_id)):
            raise EntryError("the reference must be an arm of this study, or one of another study that was tested by the same method", "reference_arm_id")
        before = study.reference_arm_id
        if before != arm_id:
            study.reference_arm_id = arm_id
            unit.touch(study_id)
            unit.log("study", study_id, "reference changed", {"reference_arm_id": before}, {"reference_arm_id": arm_id})
        return study_view(unit.session, study)
