"""Finding: words in any order over names, lots, places and codes, through the service."""

from datetime import date, timedelta

import pytest

from assayer.services.bench import queue
from assayer.services.day.search import search
from assayer.services.dial_in import trials
from assayer.services.rigs import rigs
from assayer.services.stock import spools, storage
from assayer.services.stock.requests import NewMove, NewSpool, NewStorage, SpoolEdit
from assayer.services.studies import changing
from assayer.services.studies import listing as studies
from assayer.services.studies.requests import NewTest, StudyEdit
from assayer.store.models import StorageMove

from ..support import ACTOR, Lab, new_id
from .stockroom import add_petg, ago, spool_of
from .trailhead import Trailhead


def found(workspace, words, limit=12):
    return [(f.kind, f.label) for f in search(workspace, words, limit).items]


@pytest.fixture
def shelf(workspace):
    """Two materials; three spools of the one, in two lots and two places."""
    black = add_petg(workspace)
    add_petg(workspace, colour="red", filler=None)
    pages = []
    for lot, place in (("7811", "Drawer"), ("7811", "Trunk"), ("42 100%", "Drawer")):
        new = NewSpool(id=new_id(), material_id=black, lot=lot, received_on=date(2026, 6, 10))
        pages.append(spool_of(workspace, material_id=black, spool=new, place=place))
    return workspace, pages


def test_words_are_found_in_any_order_and_all_of_them(shelf):
    workspace, (one, two, three) = shelf
    material = ("material", "Tarn Clearwater CF, black")

    def spool(page):
        return ("spool", f"{page.code} Tarn Clearwater CF, black")

    for words in ("black clearwater", "CLEARWATER black", "petg carbon tarn", "carb black"):
        assert found(workspace, words)[0] == material, words
        assert set(found(workspace, words)[1:]) == {spool(one), spool(two), spool(three)}
    assert [f.detail for f in search(workspace, "black clearwater", 1).items] == ["PETG + carbon fibre"]
    assert found(workspace, "red carbon") == []
    assert [k for k, _ in found(workspace, "red")] == ["material"]
    # by lot, by place, by both and a word of the material
    assert set(found(workspace, "7811")) == {spool(one), spool(two)}
    assert found(workspace, "trunk petg 7811") == [spool(two)]
    assert found(workspace, "100%") == [spool(three)], "a sign of the search itself is a sign like any other"
    assert found(workspace, one.code.lower()) == [spool(one)]
    assert found(workspace, "") == found(workspace, "   ") == []
    assert len(found(workspace, "black", limit=2)) == 2


def test_what_is_called_exactly_so_stands_before_what_only_holds_the_word(shelf):
    """Two spools, each with the other's code as its lot."""
    workspace, (one, two, _) = shelf
    for spool, lot in ((one, two.code), (two, one.code)):
        spools.edit_spool(workspace, ACTOR, spool.id, SpoolEdit(lot=lot), spools.get_spool(workspace, spool.id).revision)
    for first, second in ((one, two), (two, one)):
        assert [f.code for f in search(workspace, first.code, 12).items] == [first.code, second.code]


def test_a_spool_is_found_where_it_lies_now(shelf):
    workspace, (one, _, three) = shelf
    move = NewMove(id=new_id(), spool_id=one.id)
    storage.store_spools(workspace, ACTOR, NewStorage(moves=[move], storage="open", place="Window sill", at=ago(1)))
    assert [label for _, label in found(workspace, "sill window")] == [f"{one.code} Tarn Clearwater CF, black"]
    assert [label.split()[0] for _, label in found(workspace, "drawer")] == [three.code]
    spools.retract_entry(workspace, ACTOR, StorageMove, move.id, False)
    assert found(workspace, "sill") == []
    # what is used up comes last, and says so
    spools.edit_spool(workspace, ACTOR, three.id, SpoolEdit(gone_why="used up"), spools.get_spool(workspace, three.id).revision)
    last = search(workspace, "tarn black", 12).items[-1]
    assert (last.code, last.detail) == (three.code, "lot 42 100%, Drawer, gone: used up")


def test_specimens_by_the_beginning_of_their_code_and_studies_and_rigs_by_words(lab):
    workspace = lab.workspace
    # another study with tests of the same kind names none of them
    other = Lab(workspace, [NewTest(id=new_id(), orientation=o, replicates=1) for o in ("flat", "upright")], ("Hearth", "Moor"), name="Second").study
    assert other.title == lab.study.title
    changing.edit_study(workspace, ACTOR, other.id, StudyEdit(title="Another"), studies.get_study(workspace, other.id).revision)
    workspace_title = lab.study.title
    codes = sorted(i.code for i in queue.queue(workspace, lab.flat, "st", blind=False).items)
    for code in codes:
        assert search(workspace, code, 12).items[0].code == code
        assert [f.detail for f in search(workspace, code, 12).items if f.kind == "specimen"] == [workspace_title]
    begun = [f.code for f in search(workspace, codes[0][:3].lower(), 50).items if f.kind == "specimen"]
    assert codes[0] in begun
    assert {c[:3] for c in begun} == {codes[0][:3]}
    assert [f for f in search(workspace, codes[0][:2], 50).items if f.kind == "specimen"] == [], "two letters are too little to go by"
    title = studies.get_study(workspace, lab.study.id).title
    assert ("study", lab.study.id) in [(f.kind, f.id) for f in search(workspace, title.upper(), 12).items]
    rig = rigs.list_rigs(workspace).items[0]
    named = [(f.kind, f.id) for f in search(workspace, rig.name, 12).items]
    assert ("rig", rig.rig_id) in named


def test_dial_ins_sheets_printers_and_methods_are_found(workspace):
    head = Trailhead(workspace)
    assert found(workspace, "clip warm") == [("dial-in", "Tarn Clearwater CF, black: Clip")]
    assert [f.detail for f in search(workspace, "dial-in tarn", 12).items] == ["clip on Warm Box"]
    assert ("printer", "Warm Box") in found(workspace, "box warm")
    assert ("method", "Heat ramp") in found(workspace, "ramp heat")
    assert [k for k, _ in found(workspace, "settings sheet clip")] == [], "none was accepted"
    first = head.print(1, {"stringing": 3}, nozzle_temperature=235)
    trials.accept_trial(workspace, ACTOR, head.trial(first).id, back=False)
    earlier = workspace.clock()
    workspace.clock = lambda: earlier + timedelta(minutes=50)
    second = head.print(first, {"stringing": 4}, nozzle_temperature=232)
    trials.accept_trial(workspace, ACTOR, head.trial(second).id, back=False)
    sheets = [f for f in search(workspace, "sheet clip", 12).items if f.kind == "sheet"]
    assert [(f.id, f.detail) for f in sheets] == [(head.trial(second).sheet_id, "Clip on Warm Box")], "the one accepted last"
    trials.accept_trial(workspace, ACTOR, head.trial(second).id, back=True)
    assert [f.id for f in search(workspace, "sheet clip", 12).items if f.kind == "sheet"] == [head.trial(first).sheet_id]
