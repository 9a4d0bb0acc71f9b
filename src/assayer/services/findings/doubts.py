"""All doubts about a study: worked out from its results, with what was decided on them."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Mapping, Sequence

from sqlalchemy import select
from sqlalchemy.orm import Session

from assayer.core.errors import EntryError
from assayer.core.methods.vocabulary import Validity
from assayer.services.findings.doubt import Doubt
from assayer.services.findings.doubt_views import DecisionView, DoubtKind, DoubtsView, DoubtView
from assayer.services.findings.doubts_of_history import doubts_of_claims, doubts_of_history, read_history
from assayer.services.findings.doubts_of_purposes import doubts_of_purposes
from assayer.services.findings.doubts_of_rigs import doubts_of_drift
from assayer.services.findings.doubts_of_tests import doubts_of_test, read_runs
from assayer.services.findings.names import arm_names
from assayer.services.parts.shapes import title_of
from assayer.services.studies.evidence import arms_of, begun, load_evidence
from assayer.services.studies.fairness import circumstances
from assayer.services.studies.listing import arm_views, study_ref
from assayer.services.unit import Workspace, find
from assayer.store.models import Arm, DoubtDecision, Run, Specimen, Study, Test

_FURTHER = {DoubtKind.OUTLIER: 1, DoubtKind.BOUND: 1, DoubtKind.ENDS: 2, DoubtKind.HAMMER: 2, DoubtKind.ROOM: 2}
"""How many further specimens are proposed; where a batch, a spool or a rig may be the cause, as many as a group needs."""

_ORDER = {"open": 0, "retest": 1, "settled": 2}


def doubts(workspace: Workspace, study_id: str, test_id: str | None = None, quantity: str | None = None) -> DoubtsView:
    """The doubts about a study, or about one of its tests and one of its quantities; open ones first.

    Raises
    ------
    EntryError
        If the test is not of the study.
    """
    with workspace.read() as session:
        study = find(session, Study, study_id)
        tests = _tests_of(session, study_id)
        if test_id is not None and test_id not in {t.id for t in tests}:
            raise EntryError("the study has no such test", "test")
        return DoubtsView(study=study_ref(study), doubts=doubt_views(session, study, tests, test_id, quantity))


def doubt_views(session: Session, study: Study, tests: Sequence[Test], test_id: str | None = None, quantity: str | None = None) -> list[DoubtView]:
    arms = arms_of(session, study.id)
    names = arm_names(arm_views(session, arms, study))
    shown = [t for t in tests if test_id in (None, t.id)]
    found = doubts_of(session, study, tests, arms, names, shown, quantity)
    decisions = _decisions(session, study.id)
    to_test, tested = specimens_to_test(session, decisions.values())
    titles = {t.id: title_of(t) for t in tests}
    views = []
    for doubt in found:
        decision = decisions.get((doubt.key, doubt.text))
        decided = None if decision is None else decision_view(decision, to_test[decision.id], tested[decision.id])
        views.append(
            DoubtView(
                key=doubt.key, kind=doubt.kind, text=doubt.text, remedy=doubt.remedy, test_id=doubt.test_id, test=titles.get(doubt.test_id or "", ""),
                arm_ids=list(doubt.arm_ids), names=[names[a] for a in doubt.arm_ids], specimens=list(doubt.specimens),
                retest_arm_ids=list(doubt.retest), further=_FURTHER.get(doubt.kind, 3),
                material_id=doubt.material_id, rig_id=doubt.rig_id, spool_id=doubt.spool_id, state=_state(decided), decision=decided,
            )
        )  # fmt: skip
    return sorted(views, key=lambda v: _ORDER[v.state])


def doubts_of(
    session: Session, study: Study, tests: Sequence[Test], arms: Sequence[Arm], names: Mapping[str, str], shown: Sequence[Test], quantity: str | None = None
) -> list[Doubt]:
    """The doubts about a study and about the shown ones of its tests, as they follow from the results."""
    quantities = {shown[0].id: quantity} if quantity and len(shown) == 1 else begun(session, shown)
    # of its own arms only: what is doubtful about a reference from another study is said there
    own = arms[0].id if arms else None
    evidence = [e for e in load_evidence(session, shown, arms, quantities, reference_id=own).values() if e.groups()]
    all_doubts = [
        Doubt(DoubtKind.CIRCUMSTANCES, f"{u.name} {u.setting}".strip(), u.text, u.fix, arm_ids=tuple(arm_ids))
        for u, arm_ids in circumstances(session, study, tests, arms)
    ]
    if not evidence:
        return all_doubts
    tested = read_runs(session, [e.test.id for e in evidence])
    history = read_history(session, arms, evidence)
    for e in evidence:
        all_doubts += [*doubts_of_test(session, e, tested, names), *doubts_of_history(study, e, history, names), *doubts_of_claims(e, history, names)]
    all_doubts += [*doubts_of_drift(session, evidence), *doubts_of_purposes(session, evidence, names)]
    return all_doubts


def decision_view(decision: DoubtDecision, to_test: int, tested: int) -> DecisionView:
    return DecisionView(
        id=decision.id, kind="retest" if decision.kind == "retest" else "note", note=decision.note, who=decision.who, decided_at=decision.decided_at,
        to_test=to_test, tested=tested, revision=decision.revision,
    )  # fmt: skip


def _state(decision: DecisionView | None) -> str:
    if decision is None:
        return "open"
    if decision.kind == "note":
        return "settled"
    return "retest" if decision.tested < decision.to_test else "open"


def _tests_of(session: Session, study_id: str) -> Sequence[Test]:
    return session.scalars(select(Test).where(Test.study_id == study_id).order_by(Test.position)).all()


def _decisions(session: Session, study_id: str) -> dict[tuple[str, str], DoubtDecision]:
    """By the doubt and the evidence that it was decided on."""
    rows = session.scalars(select(DoubtDecision).where(DoubtDecision.study_id == study_id, DoubtDecision.retracted_at.is_(None)))
    return {(d.doubt, d.evidence): d for d in rows}


def specimens_to_test(session: Session, decisions: Iterable[DoubtDecision]) -> tuple[Counter[str], Counter[str]]:
    """By decision: how many specimens were added to test again, and how many of them were tested."""
    of_slot = {slot_id: d.id for d in decisions for slot_id in d.slot_ids}
    to_test, tested = Counter(of_slot.values()), Counter[str]()
    if of_slot:
        rows = (
            select(Specimen.slot_id)
            .join(Run, Run.specimen_id == Specimen.id)
            .where(Specimen.slot_id.in_(of_slot), Run.retracted_at.is_(None), Run.complete, Run.validity != Validity.LEFT_OUT)
        )
        tested.update(of_slot[slot_id] for slot_id in session.scalars(rows) if slot_id)
    return to_test, tested
