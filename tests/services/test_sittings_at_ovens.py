"""Several specimens in one oven: what is noted is kept at once, twice is once, and nobody notes past one another."""

from dataclasses import dataclass
from datetime import timedelta

import pytest
from pydantic import ValidationError

from assayer.core.errors import ConflictError, EntryError, MissingError
from assayer.services.day.sheet import day_sheet
from assayer.services.sessions import ovens
from assayer.services.sessions.requests import NewOven, NewOvenNote, OvenNotes
from assayer.services.unit import Actor

from ..support import ACTOR, AT, channel, jack, new_id
from .test_further_bench import Hall

TOMAS = Actor("Tomas", "Europe/Berlin")
MINUTE = timedelta(minutes=1)


@dataclass
class Kitchen:
    """A test of heat with an oven, and three specimens of one arm in it."""

    hall: Hall
    specimens: list[str]

    def put_in(self, specimens=None, actor=ACTOR, **more):
        members = [{"specimen_id": s, "run_id": new_id()} for s in specimens or self.specimens]
        base = {"id": new_id(), "test_id": self.hall.test, "rig_version_id": self.hall.own_rig.id, "started_at": AT, "members": members}
        new = NewOven(**base | more)
        return new, ovens.begin_oven(self.hall.workspace, actor, new)[0]

    def note(self, key, *notes, actor=ACTOR):
        return ovens.note_at_oven(self.hall.workspace, actor, key, OvenNotes(notes=list(notes)))

    def running(self):
        return [o.id for o in ovens.ovens_of(self.hall.workspace, self.hall.test).items]

    def due(self):
        return [(i.title, i.text, i.test_id, i.since) for i in day_sheet(self.hall.workspace).items if i.kind == "oven"]


@pytest.fixture
def kitchen(workspace):
    hall = Hall(workspace, "heat-ramp", [channel("temperature", "°C", 0.1, dimension="temperature", low=-10, high=300)], geometry={"noticed_step": 2})
    return Kitchen(hall, hall.specimens(hall.test, hall.arms[0], "waiting"))


def noted(what, minutes=1, **more):
    return NewOvenNote(**{"id": new_id(), "what": what, "at": AT + minutes * MINUTE} | more)


def test_what_is_in_an_oven_is_known_at_every_device(kitchen):
    new, told = kitchen.put_in()
    assert (told.id, told.test_id, told.device, told.started_at, told.who) == (new.id, kitchen.hall.test, "rig of heat-ramp", AT, ACTOR.who)
    assert [(m.specimen_id, m.run_id) for m in told.members] == [(m.specimen_id, m.run_id) for m in new.members]
    codes = [m.code for m in told.members]
    assert len({*codes, ""}) == 4
    assert ovens.begin_oven(kitchen.hall.workspace, TOMAS, new) == (told, False), "twice is once"
    assert kitchen.due() == [("rig of heat-ramp: 3 in it", f"{', '.join(codes)} · put in by {ACTOR.who}", kitchen.hall.test, AT)]
    _, other = kitchen.put_in(kitchen.hall.specimens(kitchen.hall.test, kitchen.hall.arms[1], "waiting")[:1], TOMAS, started_at=AT - MINUTE)
    assert kitchen.running() == [other.id, new.id], "the oldest first"
    assert len(kitchen.due()) == 2
    assert (
        ovens.ovens_of(kitchen.hall.workspace, Hall(kitchen.hall.workspace, "warp", [channel("length", "mm", 0.01)], products=("Sturdy", "Pliant")).test).items
        == []
    )


def test_a_specimen_is_in_one_oven_at_a_time(kitchen):
    new, _ = kitchen.put_in()
    with pytest.raises(ConflictError, match="is in rig of heat-ramp already, put in by") as busy:
        kitchen.put_in(kitchen.specimens[1:2], TOMAS)
    assert busy.value.current.id == new.id
    other_members = [{"specimen_id": kitchen.specimens[0], "run_id": new_id()}]
    with pytest.raises(ConflictError, match="another session already has this id"):
        kitchen.put_in(id=new.id, members=other_members)
    kitchen.note(new.id, left := noted("left", specimen_id=kitchen.specimens[1]))
    assert kitchen.due()[0][0] == "rig of heat-ramp: 2 in it"
    kitchen.note(new.id, noted("taken back", 2, note_id=left.id))
    with pytest.raises(ConflictError, match="already"):
        kitchen.put_in(kitchen.specimens[1:2], TOMAS)
    kitchen.note(new.id, noted("left", 3, specimen_id=kitchen.specimens[1]))
    kitchen.put_in(kitchen.specimens[1:2], TOMAS)


def test_notes_of_two_devices_go_together(kitchen):
    new, _ = kitchen.put_in()
    shown, seen = noted("shown", raw="62,5"), noted("seen", 2, specimen_id=kitchen.specimens[0], field="noticed_at", raw="62,5")
    kitchen.note(new.id, shown, seen)
    told = kitchen.note(
        new.id, seen, noted("taken back", 3, note_id=seen.id), noted("seen", 4, specimen_id=kitchen.specimens[1], field="failed_at"), actor=TOMAS
    )
    assert [(n.what, n.specimen_id, n.field, n.raw, n.note_id, n.entered_by) for n in told.notes] == [
        ("shown", None, None, "62,5", None, ACTOR.who),
        ("seen", kitchen.specimens[0], "noticed_at", "62,5", None, ACTOR.who),
        ("taken back", None, None, "", seen.id, "Tomas"),
        ("seen", kitchen.specimens[1], "failed_at", "", None, "Tomas"),
    ]
    assert told.notes[0].at == AT + MINUTE
    assert kitchen.note(new.id, shown) == told == ovens.get_oven(kitchen.hall.workspace, new.id)
    with pytest.raises(ConflictError, match="another note already has this id"):
        kitchen.note(new.id, shown.model_copy(update={"raw": "26,5"}))
    _, other = kitchen.put_in(kitchen.hall.specimens(kitchen.hall.test, kitchen.hall.arms[1], "waiting"))
    with pytest.raises(ConflictError, match="another note already has this id"):
        kitchen.note(other.id, shown)


@pytest.mark.parametrize(
    ("given", "field"),
    [
        ({"what": "shown", "raw": "warm"}, "raw"),
        ({"what": "shown", "raw": "62 mm"}, "raw"),
        ({"what": "shown", "raw": "62", "field": "noticed_at"}, "field"),
        ({"what": "seen", "field": "noticed_at", "raw": "62"}, "specimen_id"),
        ({"what": "seen", "mine": 0, "raw": "62"}, "field"),
        ({"what": "seen", "mine": 0, "field": "width", "raw": "62"}, "field"),
        ({"what": "seen", "mine": 0, "field": "noticed_at", "raw": "warm"}, "raw"),
        ({"what": "ended", "mine": 0, "raw": "exploded"}, "raw"),
        ({"what": "left", "specimen_id": "another"}, "specimen_id"),
        ({"what": "logger", "mine": 0}, "specimen_id"),
        ({"what": "taken back"}, "note_id"),
        ({"what": "taken back", "note_id": "back"}, "note_id"),
        ({"what": "taken back", "note_id": "of another"}, "note_id"),
        ({"what": "shown", "raw": "62", "note_id": "one"}, "note_id"),
    ],
)
def test_a_note_that_does_not_belong_is_refused(kitchen, given, field):
    new, _ = kitchen.put_in()
    _, other = kitchen.put_in(strange := kitchen.hall.specimens(kitchen.hall.test, kitchen.hall.arms[1], "waiting"))
    one, of_another = noted("shown", raw="60"), noted("shown", raw="60")
    back = noted("taken back", note_id=one.id)
    kitchen.note(new.id, one, back)
    kitchen.note(other.id, of_another, *(noted("ended", specimen_id=strange[0], raw=raw) for raw in ("curled", "")))
    names = {"one": one.id, "back": back.id, "of another": of_another.id, "another": strange[0]}
    more = {key: names.get(value, value) for key, value in given.items() if key != "mine"} | ({"specimen_id": kitchen.specimens[0]} if "mine" in given else {})
    with pytest.raises(EntryError) as refused:
        kitchen.note(new.id, noted(more.pop("what"), 2, **more))
    assert refused.value.field == field
    assert len(ovens.get_oven(kitchen.hall.workspace, new.id).notes) == 2


def test_what_has_nothing_to_do_with_ovens_is_refused(kitchen):
    warp = Hall(kitchen.hall.workspace, "warp", [channel("length", "mm", 0.01)], products=("Sturdy", "Pliant"))
    with pytest.raises(EntryError, match="nothing of this test is seen in an oven"):
        kitchen.put_in(test_id=warp.test, rig_version_id=warp.own_rig.id)
    with pytest.raises(EntryError, match="does not do this test"):
        kitchen.put_in(rig_version_id=jack(kitchen.hall.workspace).id)
    with pytest.raises(EntryError, match="the specimen in row 2 is none of this test"):
        kitchen.put_in([kitchen.specimens[0], warp.specimens(warp.test, warp.arms[0], "waiting")[0]])
    with pytest.raises(EntryError, match="named twice"):
        kitchen.put_in(kitchen.specimens[:1] * 2)
    with pytest.raises(ValidationError):
        kitchen.put_in(members=[])
    assert kitchen.running() == []
    for ask in (ovens.get_oven, ovens.ovens_of):
        with pytest.raises(MissingError):
            ask(kitchen.hall.workspace, new_id())


def test_a_sitting_ends_once_and_what_is_noted_afterwards_is_refused(kitchen):
    new, _ = kitchen.put_in()
    kitchen.note(new.id, shown := noted("shown", raw="60"))
    ended = ovens.end_oven(kitchen.hall.workspace, ACTOR, new.id, AT + 9 * MINUTE)
    assert (ended.ended_at, ended.forgotten, kitchen.running(), kitchen.due()) == (AT + 9 * MINUTE, False, [], [])
    assert ovens.end_oven(kitchen.hall.workspace, TOMAS, new.id, AT + 20 * MINUTE) == ended
    assert kitchen.note(new.id, shown) == ended, "what had arrived may arrive again"
    with pytest.raises(ConflictError, match="this sitting at rig of heat-ramp is over") as over:
        kitchen.note(new.id, noted("shown", 10, raw="61"))
    assert over.value.current == ended
    kitchen.put_in()
    early, _ = kitchen.put_in(kitchen.hall.specimens(kitchen.hall.test, kitchen.hall.arms[1], "waiting"))
    assert ovens.end_oven(kitchen.hall.workspace, ACTOR, early.id, AT - MINUTE).ended_at == AT, "a clock that is late does not end it before it began"


def test_a_sitting_is_forgotten_and_brought_back_where_nothing_of_it_is_in_another_oven(kitchen):
    new, _ = kitchen.put_in()
    assert ovens.forget_oven(kitchen.hall.workspace, ACTOR, new.id, back=True).forgotten is False
    assert ovens.forget_oven(kitchen.hall.workspace, ACTOR, new.id, back=False).forgotten is True
    assert kitchen.running() == []
    with pytest.raises(ConflictError, match="is over"):
        kitchen.note(new.id, noted("shown", raw="60"))
    again, _ = kitchen.put_in(kitchen.specimens[:1])
    with pytest.raises(ConflictError, match="already"):
        ovens.forget_oven(kitchen.hall.workspace, ACTOR, new.id, back=True)
    ovens.end_oven(kitchen.hall.workspace, ACTOR, again.id, AT)
    assert ovens.forget_oven(kitchen.hall.workspace, ACTOR, new.id, back=True).forgotten is False
    assert kitchen.running() == [new.id]
