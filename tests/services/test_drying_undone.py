"""Several spools in one dryer, checks entered late, and dryings that are undone."""

from datetime import date

import pytest

from assayer.core.errors import ConflictError, QuestionError
from assayer.services.sessions import drying
from assayer.services.sessions.requests import DryingPreviewRequest, EndDrying, MemberMass
from assayer.services.stock import intakes, spools
from assayer.services.stock.requests import NewSpool, SpoolEdit, WindowIn

from ..support import ACTOR, new_id
from .stockroom import add_petg, ago, intake, spool_of
from .test_stock_edges import session_of


def test_together_the_coolest_limit_rules_and_unknown_ones_are_named(workspace):
    hot = spool_of(workspace, material_id=add_petg(workspace))
    mild = add_petg(workspace, colour="red", window=WindowIn(dry_temperature=55, dry_time=6, dry_limit=70))
    delicate = spool_of(workspace, material_id=mild, spool=NewSpool(id=new_id(), material_id=mild, received_on=date(2026, 6, 1), heat_limit=50))
    blue = add_petg(workspace, colour="blue", window=None)
    silent = spool_of(workspace, material_id=blue, spool=NewSpool(id=new_id(), material_id=blue, received_on=date(2026, 6, 1)))

    def together(*pages):
        return drying.preview_drying(workspace, DryingPreviewRequest(spool_ids=[p.id for p in pages]))

    name = "({} Clearwater CF)".format("Tarn")
    alone = together(hot)
    assert (alone.temperature, alone.hours, alone.limit, alone.rules) == (65, 8, 65, f"the maker of {hot.code} {name}")
    assert (alone.unknown, alone.general) == ([], [])
    both = together(hot, delicate)
    assert (both.temperature, both.hours, both.limit, both.rules) == (50, 8, 50, f"the spool of {delicate.code} {name}")
    assert together(silent, delicate).unknown == [f"the maker of {silent.code} {name}", f"the spool of {silent.code} {name}"]
    by_polymer = together(silent)
    assert (by_polymer.temperature, by_polymer.hours, by_polymer.limit, by_polymer.general) == (65, 8, None, [f"{silent.code} {name}"])
    # hotter than one of them bears is asked about by its name, and by no other's
    with pytest.raises(QuestionError) as caught:
        session_of(workspace, hot, delicate)
    assert [delicate.code in q.text for q in caught.value.questions] == [True]


def test_an_older_check_entered_late_decides_nothing_about_today(workspace):
    page = spool_of(workspace, happened_at=ago(10))
    late = intake(page.material_id, spool=None, spool_id=page.id, happened_at=ago(48), decision="reject", note="torn bag", empty="230", gross="980")
    after, is_new = intakes.take_in(workspace, ACTOR, late)
    assert (is_new, after.decision, after.empty) == (True, page.decision, 214)
    assert [i.decision for i in after.intakes] == [page.decision, "reject"]
    assert intakes.take_in(workspace, ACTOR, late)[1] is False
    with pytest.raises(ConflictError):
        intakes.take_in(workspace, ACTOR, late.model_copy(update={"seal": "open"}))
    newer = late.model_copy(update={"id": new_id(), "happened_at": ago(1)})
    assert intakes.take_in(workspace, ACTOR, newer)[0].decision == "reject"
    assert spools.get_spool(workspace, page.id).empty == 230


def test_a_loss_is_asked_about_only_where_it_can_be_told(workspace):
    page = spool_of(workspace)
    spools.edit_spool(workspace, ACTOR, page.id, SpoolEdit(empty=None), spools.get_spool(workspace, page.id).revision)
    run = session_of(workspace, page, raw="964")
    # without the empty spool's mass nobody can say what share was lost
    ended = drying.end_drying(workspace, ACTOR, run.id, EndDrying(ended_at=ago(4), members=[MemberMass(spool_id=page.id, raw="900")]), run.revision)
    assert ended.members[0].lost is None
    weighed = spool_of(workspace, material_id=page.material.id)
    again = session_of(workspace, weighed, raw="964")
    with pytest.raises(QuestionError, match="lost 9"):
        drying.end_drying(workspace, ACTOR, again.id, EndDrying(ended_at=ago(4), members=[MemberMass(spool_id=weighed.id, raw="900")]), again.revision)


def test_a_drying_that_is_undone_takes_its_moves_along_and_brings_back_only_its_own(workspace):
    page = spool_of(workspace)
    run = session_of(workspace, page, raw="964")
    end = EndDrying(ended_at=ago(4), members=[MemberMass(spool_id=page.id, raw="962")], storage="sealed bag", place="Drawer 3")
    ended = drying.end_drying(workspace, ACTOR, run.id, end, run.revision)
    # the same end again, after an answer that got lost, changes nothing
    assert drying.end_drying(workspace, ACTOR, run.id, end, run.revision) == ended

    def standing():
        moves = [m.place for m in spools.get_spool(workspace, page.id).moves]
        return moves, [w.raw for w in spools.get_spool(workspace, page.id).weighings if w.moment in ("before", "after")]

    assert standing() == (["Box A", "Drawer 3"], ["964", "962"])
    drying.undo_drying(workspace, ACTOR, run.id, "all")
    assert standing() == (["Box A"], [])
    drying.undo_drying(workspace, ACTOR, run.id, "all")
    drying.undo_drying(workspace, ACTOR, run.id, "none")
    assert standing() == (["Box A", "Drawer 3"], ["964", "962"])
    drying.undo_drying(workspace, ACTOR, run.id, "end")
    assert standing() == (["Box A"], ["964"])
    drying.undo_drying(workspace, ACTOR, run.id, "all")
    drying.undo_drying(workspace, ACTOR, run.id, "none")
    assert standing() == (["Box A"], ["964"]), "the mass after was taken back with the end, before"
