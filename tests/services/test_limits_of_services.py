"""The instants, amounts and answers at which a rule of the services turns, and the ones beside them."""

from datetime import date, timedelta

import pytest

from assayer.core.errors import EntryError, StaleError
from assayer.services import changes
from assayer.services.bench.preview import preview_entry
from assayer.services.bench.requests import PreviewRequest, RawField
from assayer.services.dial_in.wetness import printed_wet
from assayer.services.parts import parts
from assayer.services.parts.requests import PartEdit
from assayer.services.sessions import drying
from assayer.services.sessions.requests import EndDrying, MemberMass, NewDrying
from assayer.services.stock import intakes
from assayer.services.stock.requests import NewSpool
from assayer.store.models import Spool

from ..support import ACTOR, new_id
from .stockroom import add_petg, ago, intake, spool_of
from .test_parts import taken_in
from .trailhead import Trailhead


@pytest.fixture
def head(workspace):
    return Trailhead(workspace)


def dried(workspace, spool, start, end):
    new = NewDrying(id=new_id(), device="Box", temperature=65, hours=1, started_at=ago(start), members=[MemberMass(spool_id=spool.id)])
    session = drying.start_drying(workspace, ACTOR, new)[0]
    return drying.end_drying(workspace, ACTOR, session.id, EndDrying(ended_at=ago(end)), session.revision)


def test_a_room_between_deep_frost_and_a_hot_oven_is_believed(loft):
    new = loft.hang()
    loft.load(new)
    for position, (hours, raw, gap) in enumerate(((1 / 60, "-50", "2040"), (1, "300", "2050"))):
        loft.read(new, hours, gap, position, room=raw)
    for raw in ("-50.5", "300.5"):
        with pytest.raises(EntryError, match="check the reading"):
            loft.read(new, 4, "2060", 2, room=raw)


def test_the_end_of_a_drying_sent_again_is_the_same_until_it_is_taken_back(workspace):
    spool = spool_of(workspace)
    ended = dried(workspace, spool, 12, 4)
    same = EndDrying(ended_at=ago(4))
    assert drying.end_drying(workspace, ACTOR, ended.id, same, ended.revision) == ended
    with pytest.raises(StaleError, match="ended already"):
        drying.end_drying(workspace, ACTOR, ended.id, EndDrying(ended_at=ago(3)), ended.revision)
    gone = drying.undo_drying(workspace, ACTOR, ended.id, "all")
    with pytest.raises(StaleError, match="ended already"):
        drying.end_drying(workspace, ACTOR, ended.id, same, gone.revision)


def test_a_spool_of_this_century_may_come_in(workspace):
    key = add_petg(workspace)

    def received(day):
        new = intake(key, spool=NewSpool(id=new_id(), material_id=key, received_on=day))
        return intakes.take_in(workspace, ACTOR, new)[0].received_on

    assert received(date(2000, 1, 1)) == "2000-01-01"
    with pytest.raises(EntryError, match="check the year"):
        received(date(1999, 12, 31))


def test_what_is_printed_the_instant_a_drying_ends_is_printed_dry(head):
    dried(head.workspace, head.spool, 40, 30)
    head.record(1, spool_id=head.spool.id, printed_at=ago(20), symptoms=["popping"])
    dried(head.workspace, head.spool, 12, 10)

    def said(at):
        with head.workspace.read() as session:
            return printed_wet(session, session.get(Spool, head.spool.id), at)

    minute = timedelta(minutes=1)
    # wet from the drying before the trial that popped until the one after it
    assert [said(at) is not None for at in (ago(30) - minute, ago(30), ago(20), ago(10) - minute, ago(10))] == [False, True, True, True, False]


def test_the_record_of_a_part_begins_with_its_file_and_its_outlines_are_in_thousandths(workspace):
    part = taken_in(workspace, (40 / 3, 20 / 3, 10 / 3), unit="cm")
    with workspace.read() as session:
        (line,) = changes.record_of(session, [part.id])[part.id]
    assert (line.action, {c.name: c.after for c in line.changes}) == ("taken in", {"name": "Hive hook", "file": "hook v2.stl", "unit": "cm"})
    seen = [v for loop in (*part.views.top, *part.views.front) for point in loop for v in point]
    assert seen == [round(v, 3) for v in seen]
    assert max(seen) == 66.667


def test_a_blind_preview_tells_nothing_that_only_the_material_does(lab):
    """PLA does not bear 200 MPa; something else might: who does not know which it is is not told."""
    specimen = lab.specimens(lab.flat, lab.arms[0], "waiting")[0]
    typed = [RawField(field=f, raw=raw) for f, raw in (("width", "5.0"), ("thickness", "4.0"), ("peak_force", "265"))]

    def asked(blind):
        found = preview_entry(lab.workspace, PreviewRequest(test_id=lab.flat, rig_version_id=lab.rig, specimen_id=specimen, readings=typed, blind=blind))
        return [q.text for q in found.questions]

    assert any("for PLA" in text for text in asked(False))
    assert not any("PLA" in text for text in asked(True))


def test_a_part_is_drawn_with_the_places_that_have_a_size_and_those_without(workspace):
    from .test_parts import place

    part = taken_in(workspace)
    parts.edit_part(workspace, ACTOR, part.id, PartEdit(places=[place(), place(label="rim", nominal=None)]), part.revision)
    svg = parts.part_file(workspace, part.id, "svg", "flat")[0].decode()
    assert ">1 bore 8<" in svg
    assert ">2 rim<" in svg
