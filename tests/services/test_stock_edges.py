"""What a spool's record says at one instant: entries of the past and the future, two spools, what is asked, what is taken back, what the day sheet makes of it."""

from datetime import UTC, datetime, timedelta

import pytest

from assayer.core.errors import ConflictError, EntryError, MissingError, QuestionError
from assayer.services.bench import recompute
from assayer.services.changes import record_of
from assayer.services.day import sheet
from assayer.services.rigs import rigs
from assayer.services.rigs.requests import NewCalibration, NewRigVersion
from assayer.services.sessions import drying
from assayer.services.sessions.requests import EndDrying, MemberMass, NewDrying
from assayer.services.stock import intakes, listing, spools, storage
from assayer.services.stock.requests import IntakePreviewRequest, NewFilamentUse, NewMove, NewSpool, NewStorage, NewWeighing, SpoolEdit
from assayer.services.unit import Actor
from assayer.store.models import FilamentUse, StorageMove, Weighing

from ..conftest import NOW
from ..support import ACTOR, channel, new_id, rig
from .stockroom import add_petg, ago, intake, spool_of

TOMAS = Actor("Tomas", "Europe/Berlin")


def several(workspace, count):
    """Spools of one material."""
    material_id = add_petg(workspace)
    return [spool_of(workspace, material_id=material_id) for _ in range(count)]


def use(workspace, spool, grams, at, **more):
    return spools.take_filament(workspace, ACTOR, spool, NewFilamentUse(id=new_id(), raw=str(grams), at=at, **more))[0]


def weigh(workspace, spool, raw, at, **more):
    return spools.weigh(workspace, ACTOR, spool, NewWeighing(id=new_id(), raw=raw, at=at, **more))[0]


def put(workspace, where, at, *ids, place="", humidity=None):
    return storage.store_spools(
        workspace, ACTOR, NewStorage(moves=[NewMove(id=new_id(), spool_id=s) for s in ids], storage=where, place=place, humidity=humidity, at=at)
    )


# ---- balance -------------------------------------------------------------------------------------


def test_a_weighing_is_held_against_the_book_of_its_own_instant(workspace):
    """750 g; 100 g printed five hours ago. Weighed six hours ago 748 g were right; weighed now they are 98 g too many."""
    page = spool_of(workspace, happened_at=ago(48))
    use(workspace, page.id, 100, ago(5))
    before = weigh(workspace, page.id, str(214 + 748), ago(6))
    assert before.left == 648, "the print came after that weighing"
    with pytest.raises(QuestionError, match="98 g more than the book holds"):
        weigh(workspace, page.id, str(214 + 746), ago(1))
    assert weigh(workspace, page.id, str(214 + 652), ago(1)).left == 652, "a few grams are scales and purge lines"


def test_a_weighing_and_a_print_of_one_instant_are_taken_in_that_order(workspace):
    page = spool_of(workspace, happened_at=ago(48))
    use(workspace, page.id, 50, ago(4))
    after = weigh(workspace, page.id, str(214 + 750), ago(4))
    assert after.left == 700, "weighed, then printed"
    assert [p.event for p in after.course][-2:] == ["weighed", "printed"]


def test_a_print_is_held_against_what_was_left_at_its_instant(workspace):
    page = spool_of(workspace, happened_at=ago(48))
    weigh(workspace, page.id, str(214 + 300), ago(2))
    with pytest.raises(QuestionError, match="more than the 300 g"):
        use(workspace, page.id, 400, ago(1))
    assert use(workspace, page.id, 400, ago(3)).left == 300, "before that weighing there was enough"
    with pytest.raises(QuestionError, match="lies in the future"):
        use(workspace, page.id, 10, NOW + timedelta(hours=1))
    with pytest.raises(EntryError, match="a mass is above 0"):
        use(workspace, page.id, 0, ago(1))


def test_weighing_needs_the_empty_spool(workspace):
    page = spool_of(workspace, gross="", empty="")
    with pytest.raises(EntryError, match="the empty spool's mass is not known") as refused:
        weigh(workspace, page.id, "900", ago(1))
    assert refused.value.field == "empty"
    page = spools.edit_spool(workspace, ACTOR, page.id, SpoolEdit(empty=200), page.revision)
    assert weigh(workspace, page.id, "900", ago(1)).left == 700


def test_an_entry_under_an_id_that_is_known_must_be_the_same(workspace):
    one, two = several(workspace, 2)
    key = new_id()
    spools.take_filament(workspace, ACTOR, one.id, NewFilamentUse(id=key, raw="10", at=ago(1), what="hook"))
    with pytest.raises(ConflictError, match="another print already has this id"):
        spools.take_filament(workspace, ACTOR, two.id, NewFilamentUse(id=key, raw="10", at=ago(1), what="hook"))
    with pytest.raises(ConflictError, match="another print already has this id"):
        spools.take_filament(workspace, ACTOR, one.id, NewFilamentUse(id=key, raw="10", at=ago(1), what="gate"))
    other = new_id()
    spools.weigh(workspace, ACTOR, one.id, NewWeighing(id=other, raw="900", at=ago(1)))
    for spool, raw in ((two.id, "900"), (one.id, "901")):
        with pytest.raises(ConflictError, match="another weighing already has this id"):
            spools.weigh(workspace, ACTOR, spool, NewWeighing(id=other, raw=raw, at=ago(1)))
    assert spools.get_spool(workspace, two.id).left == 750


def test_what_is_taken_out_of_the_record_comes_in_again(workspace):
    page = spool_of(workspace)
    page = use(workspace, page.id, 40, ago(3), what="hook")
    key = page.uses[0].id
    assert spools.retract_entry(workspace, ACTOR, FilamentUse, key, back=False).left == 750
    assert spools.retract_entry(workspace, TOMAS, FilamentUse, key, back=True).left == 710
    put(workspace, "open", ago(2), page.id, place="shelf")
    moved = spools.get_spool(workspace, page.id)
    back = spools.retract_entry(workspace, ACTOR, StorageMove, moved.moves[-1].id, back=False)
    assert (back.place, moved.place) == (page.place, "shelf")
    with pytest.raises(MissingError):
        spools.retract_entry(workspace, ACTOR, Weighing, new_id(), back=False)


def test_a_weighing_of_a_drying_session_is_edited_with_the_session(workspace):
    page = spool_of(workspace)
    drying.start_drying(
        workspace, ACTOR, NewDrying(id=new_id(), device="Box", temperature=65, hours=8, started_at=ago(10), members=[MemberMass(spool_id=page.id, raw="964")])
    )
    own = next(w for w in spools.get_spool(workspace, page.id).weighings if w.moment == "before")
    with pytest.raises(ConflictError, match="edit the session instead"):
        spools.retract_entry(workspace, ACTOR, Weighing, own.id, back=False)


# ---- where it lies -------------------------------------------------------------------------------


def test_moves_that_are_still_to_come_do_not_tell_where_it_lies(workspace):
    """Put into a box ten hours ago, onto the shelf two hours ago: five hours ago it lay in the box, and eight hours later it had lain open."""
    page = spool_of(workspace, storage="sealed bag", happened_at=ago(48))
    put(workspace, "dry box", ago(10), page.id, place="Box A", humidity=15)
    put(workspace, "open", ago(2), page.id, place="shelf")
    assert spools.get_spool(workspace, page.id).moisture.open_hours == pytest.approx(2)
    workspace.clock = lambda: ago(5)
    then = spools.get_spool(workspace, page.id)
    assert (then.place, then.moisture.storage, then.moisture.open_hours) == ("Box A", "dry box", 0)
    assert [(p.storage, p.place, p.humidity) for p in storage.list_places(workspace).items] == [("dry box", "Box A", 15)]
    workspace.clock = lambda: NOW
    assert [(p.storage, p.place, p.humidity) for p in storage.list_places(workspace).items] == [("open", "shelf", None)]


def test_a_move_into_the_future_is_asked_about_and_not_kept(workspace):
    page = spool_of(workspace)
    with pytest.raises(QuestionError, match="lies in the future"):
        put(workspace, "open", NOW + timedelta(days=1), page.id)
    assert len(spools.get_spool(workspace, page.id).moves) == len(page.moves)


def test_several_spools_are_put_somewhere_together_and_the_last_humidity_counts(workspace):
    one, two = several(workspace, 2)
    put(workspace, "dry box", ago(6), one.id, two.id, place="Box B", humidity=30)
    put(workspace, "dry box", ago(2), one.id, place="Box B", humidity=12)
    places = {(p.storage, p.place): p for p in storage.list_places(workspace).items}
    box = places["dry box", "Box B"]
    assert (box.humidity, box.read_at, [s.id for s in box.spools]) == (
        12,
        ago(2),
        sorted((one.id, two.id), key=lambda k: next(s.code for s in (one, two) if s.id == k)),
    )
    with workspace.read() as session:
        moves = [m.id for m in spools.get_spool(workspace, one.id).moves]
        assert any(e.action == "moved" for own in record_of(session, moves).values() for e in own), "the log tells of a move"


def test_a_move_under_a_known_id_must_be_the_same_move(workspace):
    one, two = several(workspace, 2)
    first = NewStorage(moves=[NewMove(id=new_id(), spool_id=one.id)], storage="open", place="shelf", humidity=40, at=ago(1))
    storage.store_spools(workspace, ACTOR, first)
    storage.store_spools(workspace, ACTOR, first)
    assert [m.id for m in spools.get_spool(workspace, one.id).moves].count(first.moves[0].id) == 1
    elsewhere = {"moves": [NewMove(id=first.moves[0].id, spool_id=two.id)]}
    for other in (elsewhere, {"storage": "dry box"}, {"place": "box"}, {"humidity": 12.0}, {"at": ago(2)}):
        with pytest.raises(ConflictError, match="another move already has this id"):
            storage.store_spools(workspace, ACTOR, first.model_copy(update=other))


def test_places_come_with_the_dryer_first_and_leave_out_what_is_gone(workspace):
    pages = several(workspace, 4)
    put(workspace, "open", ago(9), pages[0].id, place="shelf")
    put(workspace, "dry box", ago(9), pages[1].id, place="Box A")
    put(workspace, "sealed bag", ago(9), pages[2].id)
    drying.start_drying(
        workspace, ACTOR, NewDrying(id=new_id(), device="Loft dryer", temperature=65, hours=8, started_at=ago(3), members=[MemberMass(spool_id=pages[3].id)])
    )
    assert [p.storage for p in storage.list_places(workspace).items] == ["dryer", "dry box", "sealed bag", "open"]
    gone = spools.get_spool(workspace, pages[0].id)
    spools.edit_spool(workspace, ACTOR, gone.id, SpoolEdit(gone_why="used up"), gone.revision)
    assert [p.storage for p in storage.list_places(workspace).items] == ["dryer", "dry box", "sealed bag"]
    back = spools.get_spool(workspace, pages[0].id)
    assert (back.gone_why, back.gone_at) == ("used up", NOW)
    again = spools.edit_spool(workspace, ACTOR, gone.id, SpoolEdit(gone_why=""), back.revision)
    assert (again.gone_why, again.gone_at) == (None, None)
    assert len(storage.list_places(workspace).items) == 4


# ---- drying --------------------------------------------------------------------------------------


def session_of(workspace, *pages, start=12, hours=8, **more):
    members = [MemberMass(spool_id=p.id, raw=more.pop("raw", "")) for p in pages]
    return drying.start_drying(
        workspace, ACTOR, NewDrying(id=new_id(), device="Loft dryer", temperature=65, hours=hours, started_at=ago(start), members=members, **more)
    )[0]


def test_two_spools_dry_together_and_each_has_its_own_loss(workspace):
    one, two = several(workspace, 2)
    run = drying.start_drying(
        workspace,
        ACTOR,
        NewDrying(
            id=new_id(),
            device="Loft dryer",
            temperature=65,
            hours=8,
            started_at=ago(12),
            members=[MemberMass(spool_id=one.id, raw="964"), MemberMass(spool_id=two.id, raw="960")],
        ),
    )[0]
    end = EndDrying(ended_at=ago(4), members=[MemberMass(spool_id=one.id, raw="961"), MemberMass(spool_id=two.id, raw="959")], storage="dry box", place="Box A")
    done = drying.end_drying(workspace, ACTOR, run.id, end, run.revision)
    assert {m.spool_id: m.lost for m in done.members} == {one.id: pytest.approx(3 / (961 - 214)), two.id: pytest.approx(1 / (959 - 214))}
    assert {spools.get_spool(workspace, p.id).left for p in (one, two)} == {747, 745}
    third = spool_of(workspace, material_id=one.material_id)
    running = session_of(workspace, third, start=2)
    with pytest.raises(EntryError, match="not in the session"):
        drying.end_drying(workspace, ACTOR, running.id, EndDrying(ended_at=ago(1), members=[MemberMass(spool_id=one.id, raw="1")]), running.revision)
    with pytest.raises(EntryError, match="named twice"):
        session_of(workspace, one, one, start=1)


def test_a_loss_is_asked_about_only_where_it_is_much(workspace):
    """Of 746 g dry: 5 % is 37.3 g."""
    page = spool_of(workspace)
    run = session_of(workspace, page, raw="964")
    with pytest.raises(QuestionError, match="lost"):
        drying.end_drying(workspace, ACTOR, run.id, EndDrying(ended_at=ago(2), members=[MemberMass(spool_id=page.id, raw="927")]), run.revision)
    kept = drying.end_drying(workspace, ACTOR, run.id, EndDrying(ended_at=ago(2), members=[MemberMass(spool_id=page.id, raw="930")]), run.revision)
    assert kept.members[0].after == 930


def test_what_was_taken_back_frees_the_spool_and_can_come_again(workspace):
    page = spool_of(workspace)
    run = session_of(workspace, page, raw="964")
    drying.undo_drying(workspace, ACTOR, run.id, "all")
    again = session_of(workspace, page, start=3)
    assert again.id != run.id
    drying.undo_drying(workspace, ACTOR, again.id, "all")
    back = drying.undo_drying(workspace, ACTOR, run.id, "none")
    assert back.members[0].before == 964
    with pytest.raises(ConflictError, match="has not ended"):
        drying.undo_drying(workspace, ACTOR, run.id, "end")


def test_the_list_of_dryings_has_what_runs_first_and_then_the_latest(workspace):
    pages = several(workspace, 3)
    ended = []
    for page, start, end in ((pages[0], 30, 20), (pages[1], 40, 10)):
        run = session_of(workspace, page, start=start)
        ended.append(drying.end_drying(workspace, ACTOR, run.id, EndDrying(ended_at=ago(end), members=[]), run.revision).id)
    running = session_of(workspace, pages[2], start=1)
    assert [r.id for r in drying.list_dryings(workspace, 5).items] == [running.id, ended[1], ended[0]]
    assert [r.id for r in drying.list_dryings(workspace, 1).items] == [running.id, ended[1]]


# ---- intake --------------------------------------------------------------------------------------


def test_a_diameter_in_question_counts_once_it_is_answered(workspace):
    material = add_petg(workspace)

    def seen(confirmed, raw=("1.75", "1.76", "2.35")):
        asked = IntakePreviewRequest(material_id=material, label_net=750, gross="964", empty="214", diameters=list(raw), confirmed=confirmed)
        return intakes.preview_intake(workspace, asked)

    doubted = seen([])
    (question,) = (q for q in doubted.questions if q.field == "diameters")
    assert (doubted.summary.mean, doubted.diameters) == (pytest.approx(1.755), [1.75, 1.76, 2.35])
    assert seen([question.key]).summary.mean == pytest.approx((1.75 + 1.76 + 2.35) / 3)


@pytest.mark.parametrize(("seal", "before"), [("open", True), ("none", True), ("intact", False)])
def test_a_spool_that_came_in_no_sealed_bag_lay_open_since_it_came(workspace, seal, before):
    page, _ = intakes.take_in(workspace, ACTOR, intake(add_petg(workspace), seal=seal))
    moves = [(m.storage, m.at) for m in sorted(spools.get_spool(workspace, page.id).moves, key=lambda m: m.at)]
    assert (page.left, page.weighed_at) == (750, ago(48))
    lay = [("open", datetime(2026, 6, 10, 12, tzinfo=UTC))] if before else []
    assert moves == [*lay, ("dry box", ago(48))]


# ---- the day sheet -------------------------------------------------------------------------------


def items(workspace, kind):
    return [(i.state, i.text) for i in sheet.day_sheet(workspace).items if i.kind == kind]


def test_a_calibration_that_fell_due_stays_until_it_is_done_again(workspace):
    frame = rigs.add_rig(workspace, ACTOR, rig(channels=[channel("force", "N", 1), channel("length", "mm", 0.01)]))[0]

    def calibrate(start, due=None, name="force"):
        new = NewCalibration(id=new_id(), channel=name, factor=1.0, valid_from=ago(start), due_at=None if due is None else ago(due))
        recompute.calibrate(workspace, ACTOR, frame.id, new)

    calibrate(2000, 100)
    calibrate(2000, -100, "length")
    assert [s for s, _ in items(workspace, "calibration")] == ["due"]
    assert "calibrate the force again: it was due on" in items(workspace, "calibration")[0][1]
    calibrate(60, 20)
    assert len(items(workspace, "calibration")) == 1, "done again, and due again: said once"
    workspace.clock = lambda: NOW + timedelta(hours=3)
    calibrate(-2)
    assert items(workspace, "calibration") == []
    workspace.clock = lambda: NOW
    assert len(items(workspace, "calibration")) == 1, "what begins later has not been done yet"
    calibrate(50)
    assert items(workspace, "calibration") == []


def test_due_states_of_a_dryer_turn_at_their_minute(workspace):
    page = spool_of(workspace)
    session_of(workspace, page, start=8, hours=8)
    states = []
    for minutes in (-1, 0, 59, 60):
        workspace.clock = lambda minutes=minutes: NOW + timedelta(minutes=minutes)
        states.append(items(workspace, "dryer")[0][0])
    assert states == ["running", "due", "due", "late"]


def test_an_unchecked_spool_is_late_after_a_week(workspace):
    new = intake(add_petg(workspace))
    intakes.add_spool(workspace, ACTOR, new.spool)
    states = []
    for days in (6.9, 7.1):
        workspace.clock = lambda days=days: NOW + timedelta(days=days)
        states.append(items(workspace, "intake")[0][0])
    assert states == ["due", "late"]
    page = listing.list_stock(workspace, listing.StockQuery()).items[0].spools[0]
    spools.edit_spool(workspace, ACTOR, page.id, SpoolEdit(gone_why="thrown away"), page.revision)
    assert items(workspace, "intake") == []


def test_a_rig_version_from_the_future_is_asked_about(workspace):
    frame = rigs.add_rig(workspace, ACTOR, rig())[0]
    later = NewRigVersion(version_id=new_id(), channels=[channel("force", "N", 1)], valid_from=NOW + timedelta(days=3))
    with pytest.raises(QuestionError, match="lies in the future"):
        rigs.add_version(workspace, ACTOR, frame.rig_id, later)
    assert len(rigs.get_rig(workspace, frame.rig_id).versions) == 1


def test_a_spool_registered_again_must_be_of_the_same_material(workspace):
    one, other = add_petg(workspace), add_petg(workspace, colour="white")
    new = NewSpool(id=new_id(), material_id=one, lot="7", received_on=NOW.date())
    page, made = intakes.add_spool(workspace, ACTOR, new)
    assert (made, page.lot) == (True, "7")
    assert intakes.add_spool(workspace, ACTOR, new)[1] is False
    with pytest.raises(ConflictError, match="another spool already has this id"):
        intakes.add_spool(workspace, ACTOR, new.model_copy(update={"material_id": other}))


def test_a_spool_cannot_have_come_in_days_to_come(workspace):
    page = spool_of(workspace)
    to_come = (NOW + timedelta(days=3)).date()
    with pytest.raises(QuestionError, match="received on"):
        spools.edit_spool(workspace, ACTOR, page.id, SpoolEdit(received_on=to_come), page.revision)
    kept = spools.edit_spool(workspace, ACTOR, page.id, SpoolEdit(received_on=NOW.date()), page.revision)
    assert kept.received_on == NOW.date().isoformat()
