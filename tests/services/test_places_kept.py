"""The list of places is read once for as long as nothing is written: never older than the stock."""

from datetime import timedelta

from assayer.services.kept import Kept
from assayer.services.sessions import drying
from assayer.services.sessions.requests import EndDrying, MemberMass, NewDrying
from assayer.services.stock import materials, spools, storage
from assayer.services.stock.requests import MaterialEdit, NewMove, NewStorage, SpoolEdit
from assayer.store.models import StorageMove

from ..conftest import NOW
from ..support import ACTOR, new_id
from .stockroom import ago
from .test_stock_edges import put, several


def test_every_change_of_the_stock_is_seen_in_the_list_of_places(workspace, monkeypatch):
    """What was read before is used again as long as nothing was written: after each change the list is as one that is made from nothing."""

    def places():
        told = storage.list_places(workspace)
        assert told == storage.list_places(workspace)
        monkeypatch.setattr(storage, "_at_hand", Kept(2))
        assert told == storage.list_places(workspace), "it was older than the stock"
        return told

    seen = [places()]

    def after(change):
        done = change()
        seen.append(places())
        assert seen[-1] != seen[-2], "the change is not to be seen"
        return done

    one, two = after(lambda: several(workspace, 2))
    moved = NewMove(id=new_id(), spool_id=one.id)
    after(lambda: storage.store_spools(workspace, ACTOR, NewStorage(moves=[moved], storage="dry box", place="Box C", at=ago(5), humidity=20)))
    after(lambda: spools.retract_entry(workspace, ACTOR, StorageMove, moved.id, back=False))
    dried = NewDrying(id=new_id(), device="Loft dryer", temperature=60, hours=2, started_at=ago(4), members=[MemberMass(spool_id=two.id)])
    run = after(lambda: drying.start_drying(workspace, ACTOR, dried)[0])
    after(lambda: drying.end_drying(workspace, ACTOR, run.id, EndDrying(ended_at=ago(1), members=[], place="Box A"), run.revision))
    after(lambda: drying.undo_drying(workspace, ACTOR, run.id, "all"))
    after(lambda: materials.edit_material(workspace, ACTOR, one.material.id, MaterialEdit(colour="moss"), 1))
    after(lambda: spools.edit_spool(workspace, ACTOR, one.id, SpoolEdit(gone_why="used up"), spools.get_spool(workspace, one.id).revision))
    # and time goes on without any entry: what lies open lies open for longer
    after(lambda: put(workspace, "open", ago(2), two.id, place="shelf"))
    after(lambda: setattr(workspace, "clock", lambda: NOW + timedelta(hours=30)))
