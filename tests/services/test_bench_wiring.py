"""From entry to result through the services, with two rigs, two tests, two people, bounds and left-outs in them."""

from datetime import timedelta

import pytest
from sqlalchemy import select

from assayer.core.errors import AssayerError, ConflictError, EntryError, MissingError, StaleError
from assayer.core.methods import method as find_method
from assayer.core.methods.derived import DERIVED
from assayer.core.plan.order import random_order
from assayer.services import codes
from assayer.services.bench import preview, queue, recompute, runs, specimens
from assayer.services.bench.foreseen import compare
from assayer.services.bench.requests import Correction, PreviewRequest, RunEdit
from assayer.services.findings import one_test
from assayer.services.printing import batches
from assayer.services.printing.requests import NewBatch
from assayer.services.rigs import rigs
from assayer.services.rigs.requests import NewCalibration, NewRigVersion
from assayer.services.stock import materials
from assayer.services.studies import planning
from assayer.services.studies.evidence import arms_of, load_evidence
from assayer.services.studies.ratios import arm_ratios
from assayer.services.studies.requests import NewArm, NewStudy, NewTest
from assayer.services.unit import Actor
from assayer.store.models import Study, Test

from ..support import ACTOR, AT, channel, jack, material, new_id, reading, run

TOMAS = Actor("Tomas", "Europe/Berlin")
AREA = 4.02 * 3.97
G = 9.80665


def strength(view):
    return next(r.value for r in view.results if r.quantity == "strength")


def calibrate(lab, rig_id, factor, channel_name="force", start=AT - timedelta(days=1), **more):
    new = NewCalibration(id=new_id(), channel=channel_name, factor=factor, valid_from=start, **more)
    return recompute.calibrate(lab.workspace, ACTOR, rig_id, new)[0]


# ---- who holds a specimen ------------------------------------------------------------------------


def test_a_queue_says_how_many_are_not_printed(workspace):
    keys = [material(product) for product in ("Everyday", "Clearwater")]
    for m in keys:
        materials.add_material(workspace, ACTOR, m)
    arms = [NewArm(id=new_id(), material_id=m.id) for m in keys]
    new = NewStudy(id=new_id(), title="t", arms=arms, tests=[NewTest(id=new_id(), orientation="flat", replicates=4)])
    study, _ = planning.create_study(workspace, ACTOR, new)
    batches.print_batch(workspace, ACTOR, NewBatch(id=new_id(), arm_id=study.arms[0].id, printed_at=AT))
    shown = queue.queue(workspace, study.tests[0].id, "st", blind=False)
    assert (len(shown.items), shown.unprinted) == (4, 4)


def test_a_run_that_was_taken_back_or_never_was_adds_nothing_to_a_preview(loft):
    new = loft.hang()
    loft.load(new)
    loft.read(new, 1 / 60, "2040", 0)
    with loft.workspace.read() as session:
        asked = PreviewRequest(test_id=loft.tests[0], rig_version_id=loft.loft.id, specimen_id=new.subject_id, readings=[], run_id=new.id)
        assert sorted(t.field for t in preview._earlier(session, asked, [])) == ["gap", "load_on", "unloaded"]
        assert preview._earlier(session, asked.model_copy(update={"run_id": new_id()}), []) == []
    runs.retract(loft.workspace, ACTOR, new.id)
    with loft.workspace.read() as session:
        assert preview._earlier(session, asked, []) == []


def test_nobody_holds_what_is_not_there(lab):
    with pytest.raises(MissingError):
        queue.take_lease(lab.workspace, ACTOR, new_id(), "st")


def held(lab, specimen, station="st"):
    return next(i.held_by for i in queue.queue(lab.workspace, lab.flat, station, blind=False).items if i.specimen_id == specimen)


def test_a_lease_is_released_by_the_entry_by_time_and_by_the_next_specimen(lab, clock):
    one, two, three, _ = lab.specimens(lab.flat, lab.arms[0])
    assert queue.take_lease(lab.workspace, ACTOR, one, "left").held_by is None
    assert (held(lab, one), held(lab, one, "left")) == ("left", None), "the station that holds it sees it free"
    assert queue.take_lease(lab.workspace, ACTOR, one, "right").held_by == "left"
    queue.take_lease(lab.workspace, ACTOR, two, "left")
    assert (held(lab, one), held(lab, two)) == (None, "left"), "a station holds one at a time"
    runs.accept(lab.workspace, ACTOR, run(two, lab.flat, lab.rig))
    assert held(lab, two) is None
    queue.take_lease(lab.workspace, ACTOR, three, "left")
    clock.now += timedelta(minutes=9, seconds=59)
    assert held(lab, three) == "left"
    clock.now += timedelta(seconds=2)
    assert held(lab, three) is None
    assert queue.take_lease(lab.workspace, ACTOR, three, "right").held_by is None, "what is left lying is free again"


def test_the_queue_tells_nothing_of_the_material_when_blind_and_keeps_its_order(lab):
    seen = queue.queue(lab.workspace, lab.flat, "st", blind=False).items
    blind = queue.queue(lab.workspace, lab.flat, "st", blind=True).items
    assert [i.code for i in seen] == [i.code for i in blind]
    assert all(i.arm is None for i in blind)
    assert {i.arm.id for i in seen} == set(lab.arms)
    with lab.workspace.read() as session:
        seed = session.get(Study, lab.study.id).seed
    ids = [i.specimen_id for i in seen]
    assert ids == random_order(sorted(ids), seed)
    assert ids != random_order(sorted(ids), seed + 1), "each study has an order of its own"


def test_what_waits_is_counted_by_test(lab):
    def counts():
        return {t.test_id: (t.waiting, t.open, t.printed, t.unprinted) for t in queue.waiting_tests(lab.workspace).items}

    assert counts() == {lab.flat: (8, 0, 8, 0), lab.upright: (8, 0, 8, 0)}
    specimen = lab.specimens(lab.flat, lab.arms[0])[0]
    opened = run(specimen, lab.flat, lab.rig, None, complete=False)
    runs.accept(lab.workspace, ACTOR, opened)
    assert counts()[lab.flat] == (7, 1, 8, 0)
    runs.accept(lab.workspace, ACTOR, run(specimen, lab.flat, lab.rig, "60", width=(), thickness=(), id=opened.id))
    assert counts()[lab.flat] == (7, 0, 8, 0)
    for test in lab.tests:
        for arm in lab.arms:
            lab.accept(test, arm, ["60"] * 4)
    assert counts() == {}, "a test that is done is no more on the bench"


# ---- entries -------------------------------------------------------------------------------------


def test_a_run_opened_by_one_and_pulled_by_another_keeps_who_read_what(lab):
    specimen = lab.specimens(lab.flat, lab.arms[0])[0]
    opened = run(specimen, lab.flat, lab.rig, None, complete=False)
    runs.accept(lab.workspace, ACTOR, opened)
    done = runs.accept(lab.workspace, TOMAS, run(specimen, lab.flat, lab.rig, "60", width=(), thickness=(), id=opened.id))[0]
    assert done.operator == "Tomas"
    assert {r.field: r.entered_by for r in done.readings} == {"width": "Ilse", "thickness": "Ilse", "peak_force": "Tomas"}
    with pytest.raises(ConflictError, match="already by Tomas"):
        runs.accept(lab.workspace, ACTOR, run(specimen, lab.flat, lab.rig, "61"))


def test_an_entry_is_of_the_test_its_specimen_was_printed_for(lab):
    specimen = lab.specimens(lab.flat, lab.arms[0])[0]
    with pytest.raises(EntryError, match="not planned for this test"):
        runs.accept(lab.workspace, ACTOR, run(specimen, lab.upright, lab.rig))
    with pytest.raises(EntryError, match="is of a specimen, not of a batch"):
        runs.accept(lab.workspace, ACTOR, run(specimen, lab.flat, lab.rig, subject_kind="batch"))
    with pytest.raises(MissingError):
        runs.accept(lab.workspace, ACTOR, run(new_id(), lab.flat, lab.rig))
    with pytest.raises(EntryError, match="cannot be the end of a specimen printed flat"):
        runs.accept(lab.workspace, ACTOR, run(specimen, lab.flat, lab.rig, outcome="one layer"))
    with pytest.raises(EntryError, match="at least one reading"):
        runs.accept(lab.workspace, ACTOR, run(specimen, lab.flat, lab.rig, None, width=(), thickness=(), complete=False))
    with pytest.raises(EntryError, match="nothing of tension counts from 'load_on'"):
        runs.accept(lab.workspace, ACTOR, run(specimen, lab.flat, lab.rig).model_copy(update={"readings": [reading("load_on", "")]}))
    assert specimens.get_specimen(lab.workspace, specimen).runs == [], "nothing of what was refused is kept"


def test_what_is_left_out_needs_a_reason_and_an_own_one_is_marked_as_such(lab):
    one, two, *_ = lab.specimens(lab.flat, lab.arms[0])
    with pytest.raises(EntryError, match="say why"):
        runs.accept(lab.workspace, ACTOR, run(one, lab.flat, lab.rig, validity="left_out"))
    kept = runs.accept(lab.workspace, TOMAS, run(one, lab.flat, lab.rig, validity="left_out", validity_reason="the cat"))[0]
    assert (kept.validity_reason, kept.validity_by) == ("other: the cat", "Tomas")
    never = runs.accept(lab.workspace, ACTOR, run(two, lab.flat, lab.rig, None, width=(), thickness=(), validity="left_out", validity_reason="misprinted"))[0]
    assert (never.validity_reason, never.results) == ("misprinted", [])


def test_the_same_entry_again_changes_nothing_and_an_addition_adds(lab):
    specimen = lab.specimens(lab.flat, lab.arms[0])[0]
    opened = run(specimen, lab.flat, lab.rig, None, complete=False)
    first, fresh = runs.accept(lab.workspace, ACTOR, opened)
    again, repeated = runs.accept(lab.workspace, ACTOR, opened)
    assert (fresh, repeated, again.revision) == (True, False, first.revision)
    more = opened.model_copy(update={"readings": [*opened.readings, reading("width", "4.04", 1)]})
    added, grew = runs.accept(lab.workspace, ACTOR, more)
    assert grew
    assert len(added.readings) == 3
    elsewhere = lab.specimens(lab.flat, lab.arms[0])[1]
    with pytest.raises(ConflictError):
        runs.accept(lab.workspace, ACTOR, run(elsewhere, lab.flat, lab.rig, id=opened.id))


def test_an_edit_needs_the_newest_state_and_an_accepted_run(lab):
    specimen = lab.specimens(lab.flat, lab.arms[0])[0]
    opened = runs.accept(lab.workspace, ACTOR, run(specimen, lab.flat, lab.rig, None, complete=False))[0]
    with pytest.raises(ConflictError, match="only a run that was accepted"):
        runs.edit_run(lab.workspace, ACTOR, opened.id, RunEdit(outcome="grip"), opened.revision)
    kept = lab.accept(lab.flat, lab.arms[1], ["60"])[0]
    done = runs.edit_run(lab.workspace, TOMAS, kept.id, RunEdit(outcome="grip", outcome_place=0.1), kept.revision)
    assert (done.outcome, done.outcome_place, done.validity, done.validity_reason, done.validity_by) == ("grip", 0.1, "at_least", "at the grip", "Tomas")
    with pytest.raises(StaleError):
        runs.edit_run(lab.workspace, ACTOR, kept.id, RunEdit(outcome="gauge"), kept.revision)
    back = runs.edit_run(lab.workspace, ACTOR, kept.id, RunEdit(outcome="gauge"), done.revision)
    assert (back.validity, back.validity_reason) == ("counts", None)
    gone = runs.retract(lab.workspace, ACTOR, kept.id)
    with pytest.raises(ConflictError):
        runs.edit_run(lab.workspace, ACTOR, kept.id, RunEdit(outcome="grip"), gone.revision)


def test_what_was_taken_back_can_come_again_unless_it_was_entered_anew(lab):
    first = lab.accept(lab.flat, lab.arms[0], ["60"])[0]
    runs.retract(lab.workspace, ACTOR, first.id)
    assert lab.cell(lab.flat, lab.arms[0]).tested == 0
    assert strength(runs.restore(lab.workspace, ACTOR, first.id)) == pytest.approx(60 * G / AREA)
    runs.retract(lab.workspace, ACTOR, first.id)
    second = runs.accept(lab.workspace, TOMAS, run(first.specimen_id, lab.flat, lab.rig, "61"))[0]
    with pytest.raises(ConflictError, match="already by Tomas"):
        runs.restore(lab.workspace, ACTOR, first.id)
    with pytest.raises(ConflictError, match="was taken back: enter it anew"):
        runs.accept(lab.workspace, ACTOR, run(first.specimen_id, lab.flat, lab.rig, "62", id=first.id))
    shown = specimens.get_specimen(lab.workspace, first.specimen_id).runs
    assert [r.id for r in shown] == [second.id, first.id], "what stands first, what was taken back after it"


# ---- corrections ---------------------------------------------------------------------------------


def correction(old, raw, **more):
    return Correction(**{"id": new_id(), "field": old.field, "position": old.position, "raw": raw, "supersedes": old.id, "reason": "misread"} | more)


def test_a_correction_of_a_correction_stands_alone_and_the_chain_is_kept(lab):
    kept = lab.accept(lab.flat, lab.arms[0], ["60"])[0]
    peak = next(r for r in kept.readings if r.field == "peak_force")
    first = correction(peak, "61")
    once = runs.correct(lab.workspace, TOMAS, kept.id, first, kept.revision)[0]
    assert strength(once) == pytest.approx(61 * G / AREA)
    with pytest.raises(ConflictError, match="not the standing one"):
        runs.correct(lab.workspace, ACTOR, kept.id, correction(peak, "62"), once.revision)
    with pytest.raises(StaleError):
        runs.correct(lab.workspace, ACTOR, kept.id, correction(peak, "62", supersedes=first.id), kept.revision)
    new = next(r for r in once.readings if r.id == first.id)
    twice = runs.correct(lab.workspace, ACTOR, kept.id, correction(new, "62"), once.revision)[0]
    assert strength(twice) == pytest.approx(62 * G / AREA)
    assert {r.raw: (r.superseded, r.entered_by) for r in twice.readings if r.field == "peak_force"} == {
        "60": (True, "Ilse"),
        "61": (True, "Tomas"),
        "62": (False, "Ilse"),
    }
    same, again = runs.correct(lab.workspace, TOMAS, kept.id, first, None)
    assert (again, same.revision) == (False, twice.revision), "sent once more, it changes nothing"


def test_a_correction_is_read_as_the_rig_that_showed_the_first_one(lab):
    """Measured on the pull frame (kgf), pulled on the jack (N): a corrected width is the calliper's, a corrected load the jack's."""
    other = jack(lab.workspace).id
    specimen = lab.specimens(lab.flat, lab.arms[0])[0]
    opened = run(specimen, lab.flat, lab.rig, None, complete=False)
    runs.accept(lab.workspace, ACTOR, opened)
    calibrate(lab, lab.rig, 1.10, "length")
    kept = runs.accept(lab.workspace, ACTOR, run(specimen, lab.flat, other, "590", width=(), thickness=(), id=opened.id))[0]
    assert strength(kept) == pytest.approx(590 / (AREA * 1.1**2)), "the first rig's calibration is for what was read on it"
    peak = next(r for r in kept.readings if r.field == "peak_force")
    done = runs.correct(lab.workspace, ACTOR, kept.id, correction(peak, "600"), kept.revision)[0]
    assert strength(done) == pytest.approx(600 / (AREA * 1.1**2))
    width = next(r for r in done.readings if r.field == "width")
    last = runs.correct(lab.workspace, ACTOR, kept.id, correction(width, "4.12"), done.revision)[0]
    assert strength(last) == pytest.approx(600 / (4.12 * 3.97 * 1.1**2))


# ---- codes ---------------------------------------------------------------------------------------


def test_a_code_leads_to_the_test_its_specimen_waits_for(lab):
    item = queue.queue(lab.workspace, lab.upright, "st", blind=False).items[0]
    found = codes.resolve_code(lab.workspace, item.code.lower())
    assert (found.kind, found.id, found.test_id, found.code) == ("specimen", item.specimen_id, lab.upright, item.code)
    frame = next(r for r in rigs.list_rigs(lab.workspace).items if r.id == lab.rig)
    assert codes.resolve_code(lab.workspace, frame.code).id == frame.rig_id
    with pytest.raises(AssayerError):
        codes.resolve_code(lab.workspace, "ZZZZZ")


def test_a_specimen_says_which_arm_it_is_of_and_whether_its_course_can_be_drawn(lab, loft):
    specimen = lab.specimens(lab.upright, lab.arms[1])[0]
    shown = specimens.get_specimen(lab.workspace, specimen)
    assert (shown.test_id, shown.mark, shown.study_id) == (lab.upright, lab.study.arms[1].mark, lab.study.id)
    hung = loft.hang()
    loft.through(hung)
    (run_,) = specimens.get_specimen(loft.workspace, hung.subject_id).runs
    assert (run_.curve, run_.has_view) == (None, True), "put together from its readings"


def test_the_code_of_a_hanging_specimen_leads_to_its_rack(loft):
    one, two = loft.hang(), loft.hang(rack=loft.cellar)
    for new, rack in ((one, loft.loft), (two, loft.cellar)):
        code = specimens.get_specimen(loft.workspace, new.subject_id).code
        assert codes.resolve_code(loft.workspace, code).rig_id == rack.rig_id
    loft.through(one)
    assert codes.resolve_code(loft.workspace, specimens.get_specimen(loft.workspace, one.subject_id).code).rig_id is None


def test_what_is_noted_of_either_test_stands_once_beside_their_ratio(lab):
    for test, arm, peaks in ((lab.flat, 0, ["60", "61"]), (lab.flat, 1, ["50", "51"]), (lab.upright, 0, ["45", "46"]), (lab.upright, 1, ["40", "42"])):
        lab.accept(test, lab.arms[arm], peaks)
    lab.accept(lab.flat, lab.arms[1], ["49"], outcome="grip")
    lab.accept(lab.upright, lab.arms[1], ["41"], outcome="grip")
    shown = one_test.findings(lab.workspace, lab.upright, "layer_ratio")
    notes = {a.arm.id: a.notes for a in shown.arms}
    assert notes[lab.arms[0]] == []
    assert notes[lab.arms[1]] == ["1 of 3 are lower bounds: the true mean is higher"], "said of both, told once"
    lab.accept(lab.flat, lab.arms[1], ["48"], outcome="grip")
    again = {a.arm.id: a.notes for a in one_test.findings(lab.workspace, lab.upright, "layer_ratio").arms}[lab.arms[1]]
    assert again == ["1 of 3 are lower bounds: the true mean is higher", "2 of 4 are lower bounds: the true mean is higher"]


def test_a_changed_rig_is_another_one_from_that_day(lab, clock):
    page = rigs.get_rig(lab.workspace, next(r.rig_id for r in rigs.list_rigs(lab.workspace).items if r.id == lab.rig))
    lab.accept(lab.flat, lab.arms[0], ["60", "61"])
    new = NewRigVersion(version_id=new_id(), channels=[channel("force", "N", 1), channel("length", "mm", 0.01)], note="braced")
    with pytest.raises(EntryError, match="must come after it"):
        rigs.add_version(lab.workspace, ACTOR, page.rig.rig_id, new)
    clock.now += timedelta(days=1)
    rigs.add_version(lab.workspace, ACTOR, page.rig.rig_id, new)
    third = lab.specimens(lab.flat, lab.arms[0])[2]
    runs.accept(lab.workspace, ACTOR, run(third, lab.flat, new.version_id, "600"))
    cell = lab.cell(lab.flat, lab.arms[0])
    assert sorted(d.state for d in cell.dots) == ["apart", "counts", "counts"]
    assert (cell.group.n, cell.tested) == (2, 3)
    assert any("another rig (Pull frame)" in n for n in cell.notes)


def test_the_queue_brings_what_an_open_run_holds_and_nothing_of_a_complete_one(lab):
    one, two, three = lab.specimens(lab.flat, lab.arms[0])[:3]
    runs.accept(lab.workspace, ACTOR, run(one, lab.flat, lab.rig, None, width=("4.02", "4.03"), complete=False))
    runs.accept(lab.workspace, ACTOR, run(two, lab.flat, lab.rig, "60"))
    shown = {i.specimen_id: (i.state, i.fields) for i in queue.queue(lab.workspace, lab.flat, "st", blind=False).items}
    assert shown[one] == ("measured", {"width": ["4.02", "4.03"], "thickness": ["3.97"]})
    assert (shown[two], shown[three]) == (("counts", {}), ("waiting", {}))


def test_a_station_may_take_what_it_holds_anew(lab):
    specimen = lab.specimens(lab.flat, lab.arms[0])[0]
    for _ in range(2):
        assert queue.take_lease(lab.workspace, ACTOR, specimen, "left").held_by is None
    assert queue.take_lease(lab.workspace, ACTOR, specimen, "right").held_by == "left"


def test_bounds_of_a_ratio_are_those_that_raise_and_those_that_lower_it(lab):
    """At least above the line and at most below it raise it, the others lower it."""
    for test, validities in ((lab.upright, ("at_least", "at_least", "at_most")), (lab.flat, ("at_most", "at_least", "counts"))):
        for specimen, validity in zip(lab.specimens(test, lab.arms[0])[:3], validities, strict=True):
            more = {} if validity == "counts" else {"validity": validity, "validity_reason": "slipped"}
            runs.accept(lab.workspace, ACTOR, run(specimen, test, lab.rig, "60", unchecked=True, **more))
    with lab.workspace.read() as session:
        tests = session.scalars(select(Test).where(Test.study_id == lab.study.id)).all()
        found = load_evidence(session, tests, arms_of(session, lab.study.id))
        ratio = arm_ratios(DERIVED["layer_ratio"], found[lab.upright], found[lab.flat])[lab.arms[0]]
    assert (ratio.bounds.at_least, ratio.bounds.at_most) == (2 + 1, 1 + 1)
    assert ratio.bound == "exact", "it may be either"


def test_readings_keep_the_rig_they_were_read_on_wherever_the_run_goes_next(lab):
    """Width on A, thickness on B, load on A again: each is read as the rig that showed it."""
    other = jack(lab.workspace, name="Other").id
    specimen = lab.specimens(lab.flat, lab.arms[0])[0]
    first = run(specimen, lab.flat, lab.rig, None, thickness=(), complete=False)
    runs.accept(lab.workspace, ACTOR, first)
    more = {"readings": [reading("thickness", "3.97")], "rig_version_id": other}
    runs.accept(lab.workspace, ACTOR, first.model_copy(update=more))
    back = runs.accept(lab.workspace, ACTOR, first.model_copy(update={"readings": [reading("peak_force", "60")], "complete": True}))[0]
    assert strength(back) == pytest.approx(60 * G / AREA, rel=1e-9)

    def now():
        return strength(specimens.get_specimen(lab.workspace, specimen).runs[0])

    calibrate(lab, other, 1.10, "length")
    assert now() == pytest.approx(60 * G / (4.02 * 3.97 * 1.10), rel=1e-9)
    calibrate(lab, lab.rig, 1.02, "length")
    assert now() == pytest.approx(60 * G / (4.02 * 1.02 * 3.97 * 1.10), rel=1e-9)


def test_a_result_has_moved_by_more_than_what_rounding_does(lab):
    for old, new, moved in (
        (2000.0, 2000.0 * (1 + 3e-10), False),
        (2000.0, 2000.0 * (1 + 3e-9), True),
        (2e-4, 2e-4 * (1 + 3e-9), True),
        (2e-4, 2e-4 * (1 + 3e-10), False),
    ):
        assert bool(compare("x", find_method("tension"), {"strength": (old, "MPa", "exact")}, {"strength": (new, "MPa", "exact")})) is moved
    (shown,) = compare("x", find_method("tension"), {"strength": (2.0, "MPa", "exact")}, {"strength": (2.0, "MPa", "at_least")})
    assert (shown.old, shown.new, shown.new_bound) == (2.0, 2.0, "at_least"), "a bound alone is a change"
    named = compare("x", find_method("stepped-bending"), {}, dict.fromkeys(("deflection@20", "given up"), (1.0, "mm", "exact")))
    assert [m.label for m in named] == ["deflection at 20 N", "given up"]


def test_a_correction_keeps_the_room_that_it_does_not_name(loft):
    new = loft.hang()
    loft.load(new)
    loft.clock.now += timedelta(seconds=60)
    kept = loft.read(new, 1 / 60, "2047", 0, ambient=23.5)
    old = next(r for r in kept.readings if r.field == "gap")
    silent = runs.correct(loft.workspace, ACTOR, kept.id, correction(old, "2052"), kept.revision)[0]
    standing = next(r for r in silent.readings if r.field == "gap" and not r.superseded)
    assert (standing.raw, standing.ambient_c, standing.load) == ("2052", 23.5, old.load)
    said = runs.correct(loft.workspace, ACTOR, kept.id, correction(standing, "2055", ambient_c=24.0), silent.revision)[0]
    assert next(r for r in said.readings if r.field == "gap" and not r.superseded).ambient_c == 24.0
