"""Storage: where spools lie, and how damp it is there."""

from __future__ import annotations

from dataclasses import dataclass, field
from datetime import datetime
from typing import TYPE_CHECKING, TypedDict

from assayer.core.errors import ConflictError
from assayer.core.filament.moisture import moisture_state, open_limit
from assayer.core.quantities.slips import ask, question_past
from assayer.services.changes import last_change
from assayer.services.kept import Kept
from assayer.services.stock.spool_state import Lying, lying
from assayer.services.stock.spools import add_move
from assayer.services.stock.views import DecisionWord, MaterialView, PlaceList
from assayer.services.unit import Actor, Workspace, find
from assayer.store.models import Spool, StorageMove

if TYPE_CHECKING:
    from assayer.services.stock.requests import NewStorage


def store_spools(workspace: Workspace, actor: Actor, new: NewStorage) -> PlaceList:
    """Put spools somewhere, or note the humidity where they lie; sent twice it is kept once."""
    with workspace.write(actor) as unit:
        ask([question_past("at", new.at, unit.now, "put there at")])
        for move in new.moves:
            spool = find(unit.session, Spool, move.spool_id)
            there = unit.session.get(StorageMove, move.id)
            if there is not None:
                kept, told = (there.spool_id, there.at, there.storage, there.place), (move.spool_id, new.at, new.storage, new.place)
                if kept != told or there.humidity != new.humidity:
                    raise ConflictError("another move already has this id")
                continue
            add_move(unit, spool.id, new.at, new.storage, new.place, new.humidity, move.id)
            spool.revision += 1
            unit.log("storage", move.id, "moved", after={"spool": spool.code, "storage": new.storage, "place": new.place, "humidity": new.humidity})
    return list_places(workspace)


class _Spool(TypedDict):
    id: str
    code: str
    material: MaterialView
    words: str
    dried: bool
    decision: DecisionWord | None


@dataclass(slots=True)
class _Place:
    humidity: float | None = None
    read_at: datetime | None = None
    spools: list[_Spool] = field(default_factory=list)


_at_hand: Kept[list[Lying]] = Kept(2)


def list_places(workspace: Workspace) -> PlaceList:
    """Where the spools at hand lie: each place with its last humidity and its spools."""
    with workspace.read() as session:
        now = workspace.clock()
        places: dict[tuple[str, str], _Place] = {}
        # every change of the stock is in the record: with the same last entry nothing has moved
        at_hand = _at_hand.of((str(workspace.db.path), last_change(session)), lambda: lying(session))
        for f in at_hand:
            past = f.moves if not f.moves or f.moves[-1].at <= now else [m for m in f.moves if m.at <= now]
            state = moisture_state(f.stored, f.dryings, now)
            drying = f.sessions[-1].device if state.kind == "drying" else None
            key = ("dryer", drying) if drying else (state.storage.value, past[-1].place if past else "")
            entry = places.setdefault(key, _Place())
            read = [m for m in past if m.humidity is not None and m.storage == key[0] and m.place == key[1]]
            if read and (entry.read_at is None or read[-1].at > entry.read_at):
                entry.humidity, entry.read_at = read[-1].humidity, read[-1].at
            limit = open_limit(f.material.polymer)
            dried = state.kind == "dried" and (limit is None or state.open_hours <= limit)
            entry.spools.append({"id": f.id, "code": f.code, "material": f.material, "words": state.words, "dried": dried, "decision": f.decision})
        order = {"dryer": 0, "dry box": 1, "sealed bag": 2, "open": 3}
        items = [
            {"storage": storage, "place": place, "humidity": p.humidity, "read_at": p.read_at, "spools": p.spools}
            for (storage, place), p in sorted(places.items(), key=lambda item: (order[item[0][0]], item[0][1]))
        ]
        # all views in one go: a thousand made one by one take longer than all the rest
        return PlaceList.model_validate({"items": items})
