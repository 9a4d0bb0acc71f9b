"""Racks through the services: two racks, two tests, another person, undo, what waits, what is due, when it ends."""

from datetime import timedelta

import pytest

from assayer.core.errors import AssayerError, ConflictError, EntryError
from assayer.services.bench import recompute, rounds, runs
from assayer.services.day import sheet
from assayer.services.findings import one_test
from assayer.services.rigs import rigs
from assayer.services.rigs.requests import NewCalibration
from assayer.services.studies import changing
from assayer.services.studies.requests import NewTest, StudyEdit
from assayer.services.unit import Workspace
from assayer.store.models import DeviceSession

from ..conftest import NOW
from ..support import ACTOR, new_id, reading
from .loft import HOUR, SCHEDULE, TOMAS, Loft


def test_each_rack_shows_what_hangs_on_it_and_both_what_waits(loft):
    assert (loft.item().state, loft.item().hanging, loft.item().places) == ("empty", 0, 4)
    one = loft.hang(place=2)
    two = loft.hang(place=0, arm=1, rack=loft.cellar, actor=TOMAS)
    assert [(m.run_id, m.position) for m in loft.view().members] == [(one.id, 2)]
    assert [(m.run_id, m.position) for m in loft.view(loft.cellar).members] == [(two.id, 0)]
    waiting = loft.view().waiting
    assert [(w.test_id, w.load, len(w.items)) for w in waiting] == [(loft.tests[0], 24.0, 6)]
    assert (loft.item().hanging, loft.item(loft.cellar).hanging) == (1, 1)
    assert loft.view().members[0].arm.id == loft.arms[0]
    assert loft.view(blind=True).members[0].arm is None
    changing.edit_study(loft.workspace, ACTOR, loft.study.id, StudyEdit(put_away=True), None)
    assert loft.view().waiting == [], "put away: nothing of it waits"
    assert [m.run_id for m in loft.view().members] == [one.id], "what hangs goes on"
    changing.edit_study(loft.workspace, ACTOR, loft.study.id, StudyEdit(put_away=False), None)
    assert len(loft.view().waiting[0].items) == 6
    with pytest.raises(EntryError, match="is no rack"):
        rounds.get_rack(loft.workspace, next(r.rig_id for r in rigs.list_rigs(loft.workspace).items if r.id == loft.rig), "st", blind=False)


def test_a_rack_is_as_urgent_as_its_most_urgent_reading(loft, clock):
    early, late = loft.hang(0), loft.hang(1, arm=1)
    loft.load(early, 0.0)
    loft.load(late, 0.5)
    clock.now = NOW + timedelta(seconds=60)
    assert loft.item().state == "due"
    loft.read(early, 1 / 60, "2040", 0)
    assert loft.item().state == "ahead", "what hangs later has not come to its first reading"
    clock.now = NOW + 0.5 * HOUR + timedelta(seconds=90)
    item = loft.item()
    assert (item.state, item.due, item.next_due) == ("late", 1, NOW + 0.5 * HOUR + timedelta(seconds=60))
    clock.now = NOW + 1 * HOUR
    assert loft.item().due == 2, "one late, one due"
    day = next(i for i in sheet.day_sheet(loft.workspace).items if i.kind == "round")
    assert (day.rig_id, day.state) == (loft.loft.rig_id, "late")


def test_a_reading_of_a_place_is_kept_once_by_whom_read_it(loft):
    new = loft.hang()
    loft.load(new)
    kept = loft.read(new, 1 / 60, "2040", 0, actor=TOMAS)
    assert next(r for r in kept.readings if r.field == "gap").entered_by == "Tomas"
    with pytest.raises(ConflictError, match=r"gap 1 was read already \(2040, by Tomas\)"):
        loft.read(new, 1 / 60, "2041", 0)
    assert [p.value for p in loft.view().members[0].course] == [20.40]


def test_the_creep_of_a_walked_frame_is_its_gap_after_the_horizon(loft):
    kept = loft.through(loft.hang())
    found = {r.quantity: r for r in kept.results}
    assert found["creep_at_horizon"].value == pytest.approx(0.40)
    assert not found["creep_at_horizon"].provisional
    assert found["deformation_on_loading"].value == pytest.approx(0.40)
    cell = loft.cell(loft.tests[0], loft.arms[0])
    assert (cell.tested, cell.group.n, cell.group.mean) == (1, 1, pytest.approx(0.40))
    assert loft.item().state == "empty"
    assert loft.view().session_id is None


def test_what_is_foreseen_counts_once_no_reading_can_change_it(data_folder, clock):
    """Eight of ten hours foresee the tenth by Findley's law; it is told as provisional and counts when the run is closed."""
    workspace = Workspace(data_folder, clock, durable=False)
    schedule = SCHEDULE | {"due": [60, 3600, 14400, 21600, 28800, 36000]}
    loft = Loft(workspace, clock, [NewTest(id=new_id(), method="creep", orientation="flat", replicates=2, protocol=schedule)])
    new = loft.hang()
    loft.load(new)
    for i, hours in enumerate((1 / 60, 1, 4, 6, 8)):
        kept = loft.read(new, hours, f"{100 * (20.30 + 0.30 * hours**0.3):.0f}", i)
    foreseen = next(r for r in kept.results if r.quantity == "creep_at_horizon")
    assert foreseen.provisional
    assert loft.cell(loft.tests[0], loft.arms[0]).group is None
    kept = loft.add(new, complete=True, outcome="carried", confirmed=["end=5 of 6 readings that are due"])
    closed = next(r for r in kept.results if r.quantity == "creep_at_horizon")
    assert (closed.provisional, closed.value) == (False, pytest.approx(foreseen.value))
    assert loft.cell(loft.tests[0], loft.arms[0]).group.mean == pytest.approx(foreseen.value)
    assert foreseen.value == pytest.approx(0.30 * (10**0.3 - (1 / 60) ** 0.3), abs=0.02)
    workspace.close()


def test_a_frame_that_still_hangs_counts_for_nothing_yet(loft):
    new = loft.hang()
    loft.load(new)
    for hours, raw, i in ((1 / 60, "2040", 0), (1, "2050", 1), (4, "2060", 2)):
        kept = loft.read(new, hours, raw, i)
    cell = loft.cell(loft.tests[0], loft.arms[0])
    assert (cell.group, cell.tested, cell.measured) == (None, 0, 1)
    kept = loft.add(new, complete=True, outcome="broke")
    last = {r.quantity: r for r in kept.results}["creep_at_horizon"]
    assert (last.bound, last.value) == ("at_least", pytest.approx(0.20))
    cell = loft.cell(loft.tests[0], loft.arms[0])
    assert (cell.group.at_least, cell.tested) == (1, 1)


def test_what_came_off_is_left_out_with_its_reason_and_its_place_is_free(loft):
    new = loft.hang(place=1)
    loft.load(new)
    loft.read(new, 1 / 60, "2040", 0)
    kept = loft.add(new, complete=True, outcome="came off", validity="left_out", validity_reason="damaged in handling")
    assert (kept.validity, kept.outcome) == ("left_out", "came off")
    assert loft.hang(place=1).id != new.id
    assert loft.cell(loft.tests[0], loft.arms[0]).group is None


def test_a_session_ends_with_its_last_frame_and_a_new_one_begins(loft):
    def sessions():
        with loft.workspace.read() as session:
            return [(s.id, s.ended_at is not None) for s in session.query(DeviceSession).order_by(DeviceSession.started_at)]

    first, second = loft.hang(0), loft.hang(1, arm=1)
    loft.through(first)
    assert sessions() == [(loft.sessions[loft.loft.id], False)]
    runs.retract(loft.workspace, ACTOR, second.id)
    assert sessions() == [(loft.sessions[loft.loft.id], True)]
    runs.restore(loft.workspace, ACTOR, second.id)
    assert sessions() == [(loft.sessions[loft.loft.id], False)], "what comes back hangs again"


def test_a_rack_that_is_empty_ends_though_another_still_carries(loft):
    def ended():
        with loft.workspace.read() as session:
            return {s.id: s.ended_at is not None for s in session.query(DeviceSession)}

    one, _ = loft.hang(0), loft.hang(0, arm=1, rack=loft.cellar)
    loft.through(one)
    assert ended() == {loft.sessions[loft.loft.id]: True, loft.sessions[loft.cellar.id]: False}


def test_what_was_taken_back_does_not_come_back_onto_a_taken_place(loft):
    first = loft.hang(0)
    runs.retract(loft.workspace, ACTOR, first.id)
    second = loft.hang(0, arm=1)
    with pytest.raises(ConflictError, match="place 1 of Loft rack is taken"):
        runs.restore(loft.workspace, ACTOR, first.id)
    assert [m.run_id for m in loft.view().members] == [second.id]


def test_a_session_is_of_one_rack(loft):
    loft.hang(0)
    loft.sessions[loft.cellar.id] = loft.sessions[loft.loft.id]
    with pytest.raises(ConflictError, match="another device"):
        loft.hang(0, arm=1, rack=loft.cellar)


def test_only_the_latest_standing_reading_of_an_open_run_is_taken_back(loft):
    new = loft.hang()
    loft.load(new)
    kept = loft.read(new, 1 / 60, "2040", 0)
    key = next(r.id for r in kept.readings if r.field == "gap")
    after = runs.retract_reading(loft.workspace, ACTOR, new.id, key)
    assert after.revision == kept.revision + 1
    with pytest.raises(ConflictError, match="standing reading of an open run"):
        runs.retract_reading(loft.workspace, ACTOR, new.id, key)
    again = loft.read(new, 1 / 60, "2042", 0)
    done = loft.add(new, complete=True, outcome="came off")
    with pytest.raises(ConflictError, match="standing reading of an open run"):
        runs.retract_reading(loft.workspace, ACTOR, new.id, next(r.id for r in again.readings if r.raw == "2042"))
    assert done.complete


def test_the_room_that_a_group_usually_has_leaves_out_what_was_left_out(loft):
    cold, warm = loft.hang(0), loft.hang(1, arm=1)
    loft.load(cold)
    loft.read(cold, 1 / 60, "2040", 0, ambient=20.0, room="20")
    loft.load(warm, 0.1)
    loft.read(warm, 0.1 + 1 / 60, "2040", 0, ambient=30.0, room="30")
    assert loft.view().usual_room == pytest.approx(25.0)
    assert loft.view().room.value == 30.0
    loft.add(warm, complete=True, outcome="came off", validity="left_out", validity_reason="damaged in handling")
    assert loft.view().usual_room == pytest.approx(20.0)
    with pytest.raises(EntryError, match="check the reading"):
        loft.read(cold, 1, "2050", 1, room="2150")


def test_a_warm_frame_is_noted_against_the_others_of_its_test(loft):
    for place, (arm, ambient) in enumerate(((0, 20.0), (0, 20.0), (1, 26.0))):
        new = loft.hang(place, arm)
        loft.load(new)
        for hours, raw, i in ((1 / 60, "2040", 0), (1, "2050", 1), (4, "2060", 2), (10, "2070", 3)):
            done = loft.read(new, hours, raw, i, ambient=ambient, complete=i == 3, outcome="carried" if i == 3 else None)
    assert done.complete
    notes = loft.cell(loft.tests[0], loft.arms[1]).notes
    assert any("26.0 °C, 22.0 °C for all: the comparison is marked" in n for n in notes)
    assert not any("°C" in n for n in loft.cell(loft.tests[0], loft.arms[0]).notes), "2 °C from the mean is no mark"


def test_a_calibration_of_the_gap_scales_the_creep(loft):
    kept = loft.through(loft.hang())
    new = NewCalibration(id=new_id(), channel="gap", factor=1.10, valid_from=NOW - HOUR)
    told = recompute.calibrate(loft.workspace, ACTOR, loft.loft.id, new)[0]
    assert {m.quantity: m.new / m.old for m in told.moved}["creep_at_horizon"] == pytest.approx(1.10)
    assert {m.code for m in told.moved} == {kept.code}


def test_findings_of_a_time_or_load_are_of_that_one(loft):
    new = loft.hang()
    loft.load(new)
    for hours, raw, i in ((1 / 60, "2040", 0), (1, "2050", 1), (4, "2060", 2), (10, "2070", 3)):
        loft.read(new, hours, raw, i)
    loft.add(new, reading("load_off", "", happened_at=loft.clock.now))
    for seconds, raw, i in ((360, "2050", 0), (3600, "2035", 1)):
        loft.clock.now = NOW + 10 * HOUR + timedelta(seconds=seconds)
        loft.add(new, reading("recovery", raw, i, happened_at=loft.clock.now), complete=i == 1, outcome="carried" if i else None)
    shares = {
        q: one_test.findings(loft.workspace, loft.tests[0], q).arms[0].group.mean
        for q in ("recovered_share@360", "recovered_share@3600", "remaining_share@3600")
    }
    assert shares == {
        "recovered_share@360": pytest.approx(0.20 / 0.70),
        "recovered_share@3600": pytest.approx(0.35 / 0.70),
        "remaining_share@3600": pytest.approx(0.5),
    }
    shown = [q.name for q in one_test.findings(loft.workspace, loft.tests[0]).quantities]
    assert shown[0] == "deformation_on_loading"
    assert shown.index("recovered_share@360") < shown.index("recovered_share@3600") < shown.index("remaining_share@360")
    with pytest.raises(AssayerError):
        one_test.findings(loft.workspace, loft.tests[0], "recovered_share")


def test_readings_before_the_load_or_out_of_order_are_placed_by_their_times(loft):
    """Read in the wrong order of places: the course follows the clock."""
    new = loft.hang()
    loft.load(new)
    loft.read(new, 1 / 60, "2040", 0)
    loft.read(new, 4, "2060", 2)
    missed = reading("gap", "2050", 1, happened_at=NOW + 1 * HOUR, ambient_c=21.0)
    loft.add(new, missed)
    assert [(round(p.after), p.value) for p in loft.view().members[0].course] == [(60, 20.40), (3600, 20.50), (14400, 20.60)]
