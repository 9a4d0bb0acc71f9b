"""Doubts follow from the results; a note settles one for as long as its evidence stays, a retest goes into the queue, both can be taken back."""

from datetime import timedelta

import pytest
from sqlalchemy import select

from assayer.core.errors import ConflictError, EntryError
from assayer.core.stats.outliers import grubbs
from assayer.services.bench import queue, recompute, runs
from assayer.services.bench.requests import RunEdit
from assayer.services.choose import purposes
from assayer.services.choose.requests import CriterionSpec, NewPurpose
from assayer.services.findings import decisions
from assayer.services.findings.doubt_views import DoubtKind
from assayer.services.findings.doubts import doubts
from assayer.services.findings.requests import DecisionEdit, NewDecision
from assayer.services.printing import batches
from assayer.services.printing.requests import NewBatch
from assayer.services.rigs.requests import NewCalibration
from assayer.services.stock import materials
from assayer.services.stock.requests import NewClaim
from assayer.services.studies import changing, listing, planning
from assayer.services.studies.requests import NewArm, NewStudy, NewTest, StudyEdit, StudyExtension
from assayer.services.unit import Actor
from assayer.store.models import Slot

from ..support import ACTOR, AT, jack, material, new_id, printed, run
from .printshop import Shop
from .test_batches_and_bounds import Batched

TOMAS = Actor("Tomas")
ODD = (40.0, 41.0, 40.5, 55.0)


@pytest.fixture
def lab(workspace):
    return Batched(workspace)


def listed(lab, kind=None, study=None, **asked):
    found = doubts(lab.workspace, study or lab.study.id, **asked).doubts
    return [d for d in found if kind in (None, d.kind)]


def with_outlier(lab):
    """Three and one of the first arm, one of them far off."""
    lab.print_again((0,))
    lab.pull(0, ODD)
    (doubt,) = listed(lab, DoubtKind.OUTLIER)
    return doubt


def decide(lab, doubt, kind="note", actor=ACTOR, **more):
    new = NewDecision(**{"id": new_id(), "doubt": doubt.key, "evidence": doubt.text, "kind": kind, "note": "seen" if kind == "note" else ""} | more)
    return decisions.decide(lab.workspace, actor, lab.study.id, new)[0]


def waiting(lab):
    return sum(i.state == "waiting" for i in queue.queue(lab.workspace, lab.flat, "st", blind=False).items)


# ---- deciding ------------------------------------------------------------------------------------


def test_a_note_settles_an_outlier_until_the_evidence_changes(lab):
    doubt = with_outlier(lab)
    hint = grubbs(ODD)
    assert doubt.text.endswith(f"is an outlier (G {hint.g:.2f} > {hint.critical:.2f}); it still counts")
    assert (doubt.state, doubt.arm_ids, len(doubt.specimens), doubt.retest_arm_ids) == ("open", [lab.arms[0]], 1, [lab.arms[0]])
    note = decide(lab, doubt, note="the bar was dropped")
    assert [(d.state, d.decision.note, d.decision.who) for d in listed(lab, DoubtKind.OUTLIER)] == [("settled", "the bar was dropped", "Ilse")]
    with pytest.raises(ConflictError, match="Ilse has decided on this doubt already: the bar was dropped"):
        decide(lab, doubt, actor=TOMAS)
    # another value: another doubt, and what was decided was decided on the former
    lab.pull(0, (40.2,))
    assert [d.state for d in listed(lab, DoubtKind.OUTLIER)] == ["open"]
    with pytest.raises(ConflictError, match="the results have changed"):
        decide(lab, doubt)
    assert decisions.edit_decision(lab.workspace, TOMAS, note.id, DecisionEdit(retracted=True), note.revision).revision == 2


def test_what_was_settled_can_be_opened_again_and_settled_anew(lab):
    doubt = with_outlier(lab)
    note = decide(lab, doubt)
    opened = decisions.edit_decision(lab.workspace, TOMAS, note.id, DecisionEdit(retracted=True), note.revision)
    assert [d.state for d in listed(lab, DoubtKind.OUTLIER)] == ["open"]
    back = decisions.edit_decision(lab.workspace, TOMAS, note.id, DecisionEdit(retracted=False), opened.revision)
    assert [d.state for d in listed(lab, DoubtKind.OUTLIER)] == ["settled"]
    decisions.edit_decision(lab.workspace, TOMAS, note.id, DecisionEdit(retracted=True), back.revision)
    other = decide(lab, doubt, actor=TOMAS, note="mine")
    with pytest.raises(ConflictError, match="decided on again meanwhile"):
        decisions.edit_decision(lab.workspace, TOMAS, note.id, DecisionEdit(retracted=False), None)
    assert listed(lab, DoubtKind.OUTLIER)[0].decision.id == other.id


def test_an_excluded_specimen_is_in_doubt_no_longer(lab):
    doubt = with_outlier(lab)
    runs.edit_run(lab.workspace, TOMAS, doubt.specimens[0].run_id, RunEdit(validity="left_out", validity_reason="slipped"), None)
    assert listed(lab, DoubtKind.OUTLIER) == []


def test_the_same_decision_sent_again_is_one(lab):
    doubt = with_outlier(lab)
    new = NewDecision(id=new_id(), doubt=doubt.key, evidence=doubt.text, kind="retest", specimens=2)
    answers = [decisions.decide(lab.workspace, ACTOR, lab.study.id, new) for _ in range(2)]
    assert [is_new for _, is_new in answers] == [True, False]
    assert answers[0][0].to_test == answers[1][0].to_test == 2
    with lab.workspace.read() as session:
        assert session.scalar(select(Slot.number).where(Slot.arm_id == lab.arms[0]).order_by(Slot.number.desc()).limit(1)) == 8


def test_what_says_nothing_is_refused(lab):
    doubt = with_outlier(lab)
    with pytest.raises(EntryError, match="say in a note why"):
        decide(lab, doubt, note="")
    with pytest.raises(EntryError, match="would not settle the doubt"):
        decide(lab, doubt, "retest", arm_ids=[lab.arms[1]])
    with pytest.raises(ConflictError, match="the results have changed"):
        decide(lab, doubt, evidence="something else")
    with pytest.raises(EntryError, match="no such test"):
        listed(lab, test_id=new_id())


# ---- retests -------------------------------------------------------------------------------------


def test_a_retest_waits_for_its_print_and_leaves_the_doubt_open_where_it_remains(lab):
    doubt = with_outlier(lab)
    study = listing.get_study(lab.workspace, lab.study.id)
    changing.edit_study(lab.workspace, ACTOR, study.id, StudyEdit(start=True), study.revision)
    before = waiting(lab)
    decide(lab, doubt, "retest", specimens=3)
    (doubt,) = listed(lab, DoubtKind.OUTLIER)
    assert (doubt.state, doubt.decision.to_test, doubt.decision.tested) == ("retest", 3, 0)
    amended = listing.get_study(lab.workspace, lab.study.id).amendments[-1]
    assert (amended.what, amended.reason) == ("3 further specimens of Tension", doubt.text)
    with pytest.raises(ConflictError, match="it is tested again"):
        decide(lab, doubt, actor=TOMAS)
    batches.print_batch(lab.workspace, ACTOR, NewBatch(id=new_id(), arm_id=lab.arms[0], printed_at=AT))
    assert waiting(lab) == before + 3
    lab.pull(0, (55.5, 41.2, 40.8, 40.4, 55.2))
    assert listed(lab, DoubtKind.OUTLIER) == [], "with the others it stands out no longer"
    # more of each, planned later: what the retest added counts among them
    revision = listing.get_study(lab.workspace, lab.study.id).revision
    changing.extend_study(lab.workspace, ACTOR, lab.study.id, StudyExtension(replicates={lab.flat: 10}, reason="more"), revision)
    with lab.workspace.read() as session:
        numbers = session.scalars(select(Slot.number).where(Slot.arm_id == lab.arms[0])).all()
    assert sorted(numbers) == list(range(1, 11))


def test_a_spare_is_in_the_queue_at_once_and_lies_ready_again_when_the_retest_is_taken_back(workspace):
    shop = Shop(workspace)
    shop.study_ = shop.study(tests=[NewTest(id=new_id(), orientation="flat", replicates=4, spares=1)])
    for plate in shop.lay(shop.study_, batches=1).plates:
        shop.print(plate)
    frame = jack(workspace)
    test, arm = shop.study_.tests[0].id, shop.study_.arms[0].id
    items = [i for i in queue.queue(workspace, test, "st", blind=False).items if i.arm.id == arm]
    for item, force in zip(items, ("800", "805", "798", "1200"), strict=True):
        runs.accept(workspace, ACTOR, run(item.specimen_id, test, frame.id, force))
    shop.study, shop.flat = shop.study_, test
    (doubt,) = listed(shop, DoubtKind.OUTLIER)
    assert waiting(shop) == 4, "those of the other material"
    decision = decide(shop, doubt, "retest", specimens=2)
    assert waiting(shop) == 5, "the spare; the second has to be printed"
    decisions.edit_decision(workspace, TOMAS, decision.id, DecisionEdit(retracted=True), decision.revision)
    assert (waiting(shop), [d.state for d in listed(shop, DoubtKind.OUTLIER)]) == (4, ["open"])
    with workspace.read() as session:
        assert len(session.scalars(select(Slot.id).where(Slot.arm_id == arm)).all()) == 4
    with pytest.raises(ConflictError, match="asked for anew"):
        decisions.edit_decision(workspace, TOMAS, decision.id, DecisionEdit(retracted=False), None)
    # once its specimen was tested, the replicate stays
    again = decide(shop, listed(shop, DoubtKind.OUTLIER)[0], "retest", specimens=1)
    (spare,) = [i for i in queue.queue(workspace, test, "st", blind=False).items if i.arm.id == arm and i.state == "waiting"]
    runs.accept(workspace, ACTOR, run(spare.specimen_id, test, frame.id, "1180"))
    decisions.edit_decision(workspace, TOMAS, again.id, DecisionEdit(retracted=True), again.revision)
    with workspace.read() as session:
        assert len(session.scalars(select(Slot.id).where(Slot.arm_id == arm)).all()) == 5


# ---- what is doubtful ----------------------------------------------------------------------------


def test_a_batch_unlike_the_others_is_named_by_its_specimens(lab):
    lab.pull(0, (40.0, 40.5, 39.5))
    lab.print_again()
    lab.pull(0, (50.0, 50.5, 49.5))
    (doubt,) = listed(lab, DoubtKind.BATCH)
    assert "20 % below the other batches" in doubt.text or "25 % above the other batches" in doubt.text
    assert len(doubt.specimens) == 3
    assert doubt.further == 3


def test_lower_bounds_above_another_mean_and_mixed_breaks(lab):
    lab.pull(0, (40.0, 40.4, 40.8))
    lab.pull(1, (39.0,), outcome="gauge")
    lab.pull(1, (45.0, 38.0), outcome="grip")
    (doubt,) = listed(lab, DoubtKind.BOUND)
    assert doubt.arm_ids == [lab.arms[1]]
    assert "above the mean of those that broke" in doubt.text
    assert listed(lab, DoubtKind.ENDS) == [], "a break at the grip is a bound, not another way to break"


def test_upright_breaks_of_both_kinds_at_one_height(workspace):
    lab = Batched(workspace, orientations=("upright",))
    lab.pull(0, (20.0, 20.4), outcome="one layer", outcome_place=0.41)
    lab.pull(0, (20.2,), outcome="several layers", outcome_place=0.43)
    lab.pull(1, (20.0, 20.3, 20.5), outcome="one layer", outcome_place=0.5)
    (ends,) = listed(lab, DoubtKind.ENDS)
    assert (ends.arm_ids, ends.text) == ([lab.arms[0]], "ended in different ways: 2 across one layer plane, 1 over several layers")
    places = listed(lab, DoubtKind.BREAK_PLACE)
    assert [d.arm_ids for d in places] == [[lab.arms[0]], [lab.arms[1]]]
    assert places[0].text.startswith("3 of 3 broke within a tenth of the gauge, at 42 % of the height")


def test_specimens_tested_after_a_calibration_was_due(lab):
    late = {"happened_at": AT + timedelta(days=2)}
    lab.pull(0, (40.0,))
    lab.pull(1, (40.0, 40.4), **late)
    assert listed(lab, DoubtKind.CALIBRATION) == []
    due = NewCalibration(id=new_id(), channel="force", factor=1.0, valid_from=AT - timedelta(days=300), due_at=AT + timedelta(days=1))
    recompute.calibrate(lab.workspace, ACTOR, lab.rig, due)
    (doubt,) = listed(lab, DoubtKind.CALIBRATION)
    assert doubt.text == "Pull frame: the calibration of force was due on 16 June 2026, and 2 specimens were tested after it"
    assert (doubt.arm_ids, doubt.retest_arm_ids, doubt.rig_id is not None) == ([], [], True)


def earlier(lab, values, material_id=None, rig=None, factor=9.80665):
    """The same variant in another study before."""
    arm = NewArm(id=new_id(), material_id=material_id or lab.study.arms[0].material.id)
    test = NewTest(id=new_id(), orientation="flat", replicates=len(values))
    study = printed(lab.workspace, planning.create_study(lab.workspace, ACTOR, NewStudy(id=new_id(), title="before", arms=[arm], tests=[test]))[0])
    for item, value in zip(queue.queue(lab.workspace, test.id, "st", blind=False).items, values, strict=True):
        runs.accept(lab.workspace, ACTOR, run(item.specimen_id, test.id, rig or lab.rig, f"{20 * value / factor:.8g}", ("5.0",), ("4.0",)))
    return study


def test_an_arm_unlike_its_own_earlier_result_on_the_same_rig(lab):
    lab.pull(0, (40.0, 40.4, 40.8))
    earlier(lab, (50.0, 50.4, 50.8), rig=jack(lab.workspace).id, factor=1)
    assert listed(lab, DoubtKind.HISTORY) == [], "another rig"
    earlier(lab, (41.0, 41.4, 40.8))
    assert listed(lab, DoubtKind.HISTORY) == [], "alike"
    study = earlier(lab, (50.0, 50.4, 50.8))
    (doubt,) = listed(lab, DoubtKind.HISTORY)
    assert "20 % below its own earlier result in “before”, printed and tested alike" in doubt.text
    assert doubt.material_id == lab.study.arms[0].material.id
    # seen from there it is the other way round
    assert any("25 % above" in d.text for d in listed(lab, DoubtKind.HISTORY, study=study.id))


def test_a_colour_unlike_another_of_its_product(lab):
    lab.pull(0, (40.0, 40.4, 40.8))
    red = material("Everyday", colour="red")
    materials.add_material(lab.workspace, ACTOR, red)
    earlier(lab, (50.0, 50.4, 50.8), material_id=red.id)
    (doubt,) = listed(lab, DoubtKind.COLOUR)
    assert "20 % below red of the same product in “before”" in doubt.text
    assert listed(lab, DoubtKind.HISTORY) == []


def test_a_claim_that_the_results_contradict(lab):
    lab.pull(0, (40.0, 40.4, 40.8))
    key = lab.study.arms[0].material.id
    for text in ("tensile strength 60 MPa", "tensile strength 40 MPa"):
        materials.add_claim(lab.workspace, ACTOR, key, NewClaim(id=new_id(), text=text, source="data sheet"))
    (doubt,) = listed(lab, DoubtKind.CLAIM)
    assert "the maker says “tensile strength 60 MPa”; strength measured 33 % below that" in doubt.text


def test_one_test_shows_its_own_doubts_and_those_of_the_study(workspace):
    lab = Batched(workspace, orientations=("flat", "upright"))
    lab.pull(0, (40.0, 40.4), test=lab.tests[1], outcome="one layer", outcome_place=0.4)
    lab.pull(0, (40.2,), test=lab.tests[1], outcome="several layers", outcome_place=0.6)
    assert [d.test_id for d in listed(lab, DoubtKind.ENDS)] == [lab.tests[1]]
    assert listed(lab, DoubtKind.ENDS, test_id=lab.tests[0]) == []
    assert len(listed(lab, DoubtKind.ENDS, test_id=lab.tests[1])) == 1


def test_a_ranking_that_rests_on_two_specimens_is_in_doubt(lab):
    lab.pull(0, (40.0, 41.0, 42.0))
    lab.pull(1, (50.0, 51.0))
    assert not listed(lab, DoubtKind.PROVISIONAL), "nobody ranks by it"
    criterion = CriterionSpec(id=new_id(), test_id=lab.flat, quantity="strength", no_use=0, all_needed=60)
    purposes.add_purpose(lab.workspace, ACTOR, NewPurpose(id=new_id(), study_id=lab.study.id, title="Hook", criteria=[criterion]))
    unweighted = CriterionSpec(id=new_id(), test_id=lab.flat, quantity="strength", no_use=0, all_needed=60, weight=0)
    purposes.add_purpose(lab.workspace, ACTOR, NewPurpose(id=new_id(), study_id=lab.study.id, title="By something else", criteria=[unweighted]))
    (doubt,) = listed(lab, DoubtKind.PROVISIONAL)
    assert (doubt.arm_ids, doubt.retest_arm_ids, "“Hook”" in doubt.text) == ([lab.arms[1]], [lab.arms[1]], True)
    lab.pull(1, (52.0,))
    assert not listed(lab, DoubtKind.PROVISIONAL)
