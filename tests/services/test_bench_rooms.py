"""Racks and rounds, stepped bending, printing and reprinting, variants across studies; and what they cost in queries."""

from datetime import timedelta

import pytest
from sqlalchemy import event

from assayer.core.errors import AssayerError, ConflictError, QuestionError
from assayer.services.bench import curves, preview, queue, recompute, rounds, runs
from assayer.services.bench.requests import NewRun, PreviewRequest, RawField
from assayer.services.day import sheet
from assayer.services.findings import one_test
from assayer.services.printing import batches
from assayer.services.printing.requests import NewBatch
from assayer.services.rigs import rigs
from assayer.services.sessions.requests import Place, RoomReading
from assayer.services.stock import materials
from assayer.services.studies import board, listing, planning
from assayer.services.studies.requests import NewArm, NewStudy, NewTest
from assayer.services.unit import Workspace

from ..conftest import NOW
from ..support import ACTOR, AT, Lab, channel, material, new_id, reading, rig

HOUR = timedelta(hours=1)


def _with_a_rack(workspace):
    due = [60.0, 3600.0, 4 * 3600.0, 10 * 3600.0, 86400.0, 2 * 86400.0, 360000.0, 7 * 86400.0]
    made = Lab(workspace, [NewTest(id=new_id(), method="creep", orientation="flat", replicates=3, protocol={"due": due})])
    shown = [channel("gap", "mm", 0.01, decimals=2, high=150)]
    made.rack = rigs.add_rig(workspace, ACTOR, rig(name="Loft rack", methods=["creep"], channels=shown, places=4))[0]
    made.session, made.hung = new_id(), []
    return made


@pytest.fixture
def lab(once):
    """A rack of four places and a creep test of two materials, three frames each."""
    return once("a rack", _with_a_rack)


def hang(lab, place=0, arm=0, at=NOW, **more):
    specimen = next(s for s in lab.specimens(lab.tests[0], lab.arms[arm]) if s not in lab.hung)
    lab.hung.append(specimen)
    base = {"id": new_id(), "subject_id": specimen, "test_id": lab.tests[0], "rig_version_id": lab.rack.id, "happened_at": at, "complete": False}
    new = NewRun(**base, readings=[], place=Place(session_id=lab.session, position=place), **more)
    return runs.accept(lab.workspace, ACTOR, new)[0], new


def add(lab, new, *readings, complete=False, place=None, **more):
    change = {"readings": list(readings), "complete": complete, "place": place or new.place} | more
    return runs.accept(lab.workspace, ACTOR, new.model_copy(update=change))[0]


def rack(lab):
    return rounds.get_rack(lab.workspace, lab.rack.rig_id, "st", blind=False)


def test_a_frame_through_its_days_on_the_rack(lab, clock):
    _, new = hang(lab)
    member = rack(lab).members[0]
    assert (member.stage, member.unloaded, member.position) == ("hung", None, 0)
    add(lab, new, reading("unloaded", "2001"), reading("load_on", "", happened_at=NOW))
    for hours, raw in ((1 / 60, "2040"), (1, "2044"), (4, "2047")):
        clock.now = NOW + hours * HOUR
        add(lab, new, reading("gap", raw, {1 / 60: 0, 1: 1, 4: 2}[hours], happened_at=clock.now, ambient_c=21.0))
    member = rack(lab).members[0]
    assert (member.stage, member.unloaded) == ("loaded", 20.01)
    assert [(round(p.after), p.value) for p in member.course] == [(60, 20.40), (3600, 20.44), (14400, 20.47)]
    clock.now = NOW + 24 * HOUR
    assert [str(d.state) for d in rack(lab).members[0].due][:6] == ["read", "read", "read", "missed", "due", "ahead"]
    clock.now = NOW + 30 * HOUR
    assert [str(d.state) for d in rack(lab).members[0].due][4] == "late"
    item = next(i for i in sheet.day_sheet(lab.workspace).items if i.kind == "round")
    assert (item.state, item.rig_id) == ("late", lab.rack.rig_id)
    # unloaded: recovery is read from then on, and the run is closed by its outcome
    add(lab, new, reading("load_off", "", happened_at=clock.now))
    off, clock.now = clock.now, clock.now + HOUR
    last = reading("recovery", "2020", 1, happened_at=clock.now)
    with pytest.raises(QuestionError, match="3 of 8 readings that are due: end here") as asked:
        add(lab, new, last, complete=True, outcome="carried")
    done = add(lab, new, last, complete=True, outcome="carried", confirmed=[asked.value.questions[0].key])
    shares = {r.quantity: r.value for r in done.results}
    assert shares["recovered_share@3600"] == pytest.approx((20.47 - 20.20) / (20.47 - 20.01))
    assert shares["deformation_on_loading"] == pytest.approx(0.39)
    assert off < clock.now
    assert rack(lab).members == []
    assert lab.cell(lab.tests[0], lab.arms[0]).tested == 1


def test_a_place_holds_one_frame_and_the_rack_ends_at_its_last_place(lab):
    _, first = hang(lab, place=3)
    with pytest.raises(ConflictError, match="place 4"):
        hang(lab, place=3, arm=1)
    with pytest.raises(AssayerError, match="4 places"):
        hang(lab, place=4, arm=1)
    _, second = hang(lab, place=1, arm=1)
    assert [m.position for m in rack(lab).members] == [1, 3]
    add(lab, first, reading("unloaded", "2001"), complete=False)
    runs.retract(lab.workspace, ACTOR, first.id)
    assert [m.run_id for m in rack(lab).members] == [second.id]
    assert [w.test_id for w in rack(lab).waiting] == lab.tests


def test_a_reading_of_a_round_is_asked_about_when_it_runs_backwards(lab, clock):
    _, new = hang(lab)
    add(lab, new, reading("load_on", "", happened_at=NOW))
    clock.now = NOW + timedelta(minutes=1)
    add(lab, new, reading("gap", "2040", 0, happened_at=clock.now))
    clock.now = NOW + HOUR

    def asked(raw):
        fields = [RawField(field="gap", position=1, raw=raw, happened_at=clock.now)]
        body = PreviewRequest(test_id=lab.tests[0], rig_version_id=lab.rack.id, specimen_id=new.subject_id, run_id=new.id, readings=fields)
        return preview.preview_entry(lab.workspace, body)

    assert asked("2043").questions == []
    assert "20.43" in asked("2043").read_as[0].text
    back = asked("1990").questions
    assert "runs backwards" in back[0].text
    with pytest.raises(AssayerError):
        add(lab, new, reading("gap", "1990", 1, happened_at=clock.now))
    add(lab, new, reading("gap", "1990", 1, happened_at=clock.now), confirmed=[back[0].key])
    with pytest.raises(AssayerError):
        add(lab, new, reading("gap", "2050", 1, happened_at=clock.now))


def test_the_room_is_kept_once_a_round_and_compared_with_what_the_group_had(lab, clock):
    _, new = hang(lab)
    room = RoomReading(id=new_id(), raw="21,5", at=NOW)
    place = Place(session_id=lab.session, position=0, room=room)
    add(lab, new, reading("load_on", "", happened_at=NOW), place=place)
    clock.now = NOW + timedelta(minutes=1)
    add(lab, new, reading("gap", "2040", 0, happened_at=clock.now, ambient_c=21.5), place=place)
    seen = rack(lab)
    assert (seen.room.value, seen.usual_room) == (21.5, 21.5)
    clock.now = NOW + HOUR
    warm = Place(session_id=lab.session, position=0, room=RoomReading(id=new_id(), raw="80 °F", at=clock.now))
    kept = add(lab, new, reading("gap", "2044", 1, happened_at=clock.now, ambient_c=26.9), place=warm)
    assert rack(lab).room.value == pytest.approx((80 - 32) / 1.8)
    assert rack(lab).usual_room == pytest.approx((21.5 + 26.9) / 2)
    assert any("over 5 °C apart" in w for w in kept.remarks + [w for r in kept.results for w in r.warnings]) or kept.results == []


def test_one_reading_is_taken_back_and_the_rest_stands(lab, clock):
    _, new = hang(lab)
    add(lab, new, reading("load_on", "", happened_at=NOW))
    clock.now = NOW + timedelta(minutes=1)
    first = reading("gap", "2040", 0, happened_at=clock.now)
    add(lab, new, first)
    runs.retract_reading(lab.workspace, ACTOR, new.id, first.id)
    assert [m.course for m in rack(lab).members] == [[]]
    add(lab, new, reading("gap", "2041", 0, happened_at=clock.now))
    assert [p.value for p in rack(lab).members[0].course] == [20.41]


def test_a_reprint_fills_the_slot_beside_its_left_out_predecessor(workspace):
    lab = Lab(workspace, [NewTest(id=new_id(), orientation="flat", replicates=2)])
    bad = lab.accept(lab.tests[0], lab.arms[0], ["60"], validity="left_out", validity_reason="slipped in the grips")[0]
    again = next(t for a in batches.print_plan(workspace, lab.study.id).arms if a.arm_id == lab.arms[0] for t in a.tests).again
    assert len(again) == 1
    with pytest.raises(ConflictError):
        batches.print_batch(workspace, ACTOR, NewBatch(id=new_id(), arm_id=lab.arms[1], slot_ids=again, printed_at=AT))
    new = batches.print_batch(workspace, ACTOR, NewBatch(id=new_id(), arm_id=lab.arms[0], slot_ids=again, printed_at=AT))[0]
    fresh = new.specimens[0]
    assert fresh.id != bad.specimen_id
    cell = lab.cell(lab.tests[0], lab.arms[0])
    assert (cell.planned, [d.code for d in cell.dots]) == (2, [bad.code]), "the predecessor is still shown, with its reason"
    waiting = {i.code: i.state for i in queue.queue(workspace, lab.tests[0], "st", blind=False).items}
    assert (waiting[fresh.code], waiting[bad.code]) == ("waiting", "left_out")
    assert not any(t.again for a in batches.print_plan(workspace, lab.study.id).arms for t in a.tests)


def test_nothing_is_booked_before_it_was_printed_and_a_variant_lives_across_studies(workspace):
    m = material()
    materials.add_material(workspace, ACTOR, m)
    studies = []
    for title in ("one", "two"):
        new = NewStudy(id=new_id(), title=title, arms=[NewArm(id=new_id(), material_id=m.id)], tests=[NewTest(id=new_id(), orientation="flat", replicates=2)])
        studies.append(planning.create_study(workspace, ACTOR, new)[0])
    assert [(s.planned, s.printed) for s in listing.list_studies(workspace, 10, 0).items] == [(2, 0), (2, 0)]
    assert queue.queue(workspace, studies[0].tests[0].id, "st", blind=False).items == []
    batch = NewBatch(id=new_id(), arm_id=studies[0].arms[0].id, printed_at=AT)
    made, fresh = batches.print_batch(workspace, ACTOR, batch)
    again, repeated = batches.print_batch(workspace, ACTOR, batch)
    assert (fresh, repeated, again) == (True, False, made)
    assert {s.title: s.printed for s in listing.list_studies(workspace, 10, 0).items} == {"one": 2, "two": 0}
    from assayer.store.models import Variant

    with workspace.read() as session:
        assert session.query(Variant).count() == 1, "the same material on the same sheet is one variant"


def test_stepped_bending_from_entry_to_board_and_recompute(workspace):
    lab = Lab(workspace, [NewTest(id=new_id(), method="stepped-bending", orientation="flat", replicates=1, protocol={"ladder": [20, 40], "times": [5, 20]})])
    shown = [channel("deflection", "mm", 0.01), channel("length", "mm", 0.01)]
    stand = rigs.add_rig(workspace, ACTOR, rig(name="Stand", methods=["stepped-bending"], channels=shown, geometry={"span": 64}))[0]
    rows = [(20, 5, "0.60"), (20, 20, "0.61"), (40, 5, "1.20"), (40, 20, "1.40")]
    start = {20: AT, 40: AT + timedelta(minutes=2)}
    readings = [reading("width", "10"), reading("thickness", "4")]
    readings += [reading("load_on", "", i, load=load, happened_at=at) for i, (load, at) in enumerate(start.items())]
    readings += [reading("deflection", v, i, load=f, happened_at=start[f] + timedelta(seconds=t)) for i, (f, t, v) in enumerate(rows)]
    specimen = lab.specimens(lab.tests[0], lab.arms[0])[0]
    new = NewRun(id=new_id(), subject_id=specimen, test_id=lab.tests[0], rig_version_id=stand.id, happened_at=AT, readings=readings, outcome="held")
    kept = runs.accept(workspace, ACTOR, new)[0]
    found = {r.quantity: r for r in kept.results}
    assert found["drift@40"].value == pytest.approx(100 * 0.2 / 1.2, rel=1e-6)
    assert found["load_carried"].value == 20
    assert lab.cell(lab.tests[0], lab.arms[0]).group.mean == 20
    assert recompute.recompute(workspace, ACTOR) == []
    drift = one_test.findings(workspace, lab.tests[0], "drift@40")
    assert drift.arms[0].group.mean == pytest.approx(100 * 0.2 / 1.2, rel=1e-6)


# what it costs -------------------------------------------------------------------------------------------------------


def counted(workspace, act):
    """How many statements an answer takes on the database."""
    seen = []

    def listen(_connection, _cursor, statement, *_):
        if statement.lstrip().upper().startswith(("SELECT", "WITH")):
            seen.append(statement)

    engines = [workspace.db._reader, workspace.db._writer]
    for engine in engines:
        event.listen(engine, "before_cursor_execute", listen)
    try:
        act()
    finally:
        for engine in engines:
            event.remove(engine, "before_cursor_execute", listen)
    return len(seen)


@pytest.fixture(scope="module")
def wide(tmp_path_factory):
    """A study of 40 arms with two tests, some of it tested."""
    workspace = Workspace(tmp_path_factory.mktemp("wide") / "data", lambda: NOW, durable=False)
    made = Lab(workspace, [NewTest(id=new_id(), orientation=o, replicates=2) for o in ("flat", "upright")], products=[f"P {i}" for i in range(40)])
    for arm in made.arms[:8]:
        made.accept(made.tests[0], arm, ["60", "61"])
        made.accept(made.tests[1], arm, ["30", "31"])
    yield made
    workspace.close()


@pytest.mark.parametrize("what, most", [("study", 12), ("board", 12), ("list", 5), ("findings", 12), ("ratio", 12), ("queue", 8)])
def test_cost_grows_with_what_is_looked_at_not_with_arms(wide, what, most):
    ws, test = wide.workspace, wide.tests[0]
    acts = {
        "study": lambda: listing.get_study(ws, wide.study.id),
        "board": lambda: board.board(ws, wide.study.id),
        "list": lambda: listing.list_studies(ws, 50, 0),
        "findings": lambda: one_test.findings(ws, test),
        "ratio": lambda: one_test.findings(ws, wide.tests[1], "layer_ratio"),
        "queue": lambda: queue.queue(ws, test, "st", blind=False),
    }
    assert counted(ws, acts[what]) <= most


def test_curves_of_a_test_are_reduced_once(own_demo, monkeypatch):
    from assayer.core.methods import REGISTRY

    workspace = Workspace(own_demo, durable=False)
    study = listing.list_studies(workspace, 1, 0).items[0].id
    creep = next(t for t in listing.get_study(workspace, study).tests if t.method == "creep")
    calls = []
    real = type(REGISTRY["creep"]).view
    monkeypatch.setattr(type(REGISTRY["creep"]), "view", lambda self, inputs: calls.append(1) or real(self, inputs))
    first = curves.curves_of_test(workspace, creep.id)
    once = len(calls)
    assert once > 0
    assert curves.curves_of_test(workspace, creep.id) == first
    assert len(calls) == once
    workspace.close()
