"""What follows from the record of spools at one moment: balance, moisture, last intake. Read for many at once."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any, cast

from pydantic import TypeAdapter
from sqlalchemy import ColumnElement, Row, Select, Table, select
from sqlalchemy.orm import Session

from assayer.core.filament import balance as book
from assayer.core.filament.mass import moisture_lost
from assayer.core.filament.moisture import Drying, MoistureState, Storage, Stored, moisture_state, open_limit
from assayer.services.stock.views import DecisionWord, MaterialView, MoistureView, SpoolItem, SpoolPage
from assayer.store.models import Base, DeviceSession, FilamentUse, Material, SessionMember, Spool, StorageMove, Weighing


@dataclass(slots=True)
class SpoolState:
    """The standing record of one spool, and what follows from it at `at`."""

    spool: Spool
    at: datetime
    weighings: list[Row[Any]] = field(default_factory=list)
    uses: list[Row[Any]] = field(default_factory=list)
    moves: list[Row[Any]] = field(default_factory=list)
    sessions: list[DeviceSession] = field(default_factory=list)

    @property
    def balance(self) -> book.Balance | None:
        return book.balance(*self._book(), self.at)

    @property
    def history(self) -> list[book.Point]:
        return book.history(*self._book(), self.at)

    def _book(self) -> tuple[list[book.Weighing], list[book.Debit], float | None, float | None]:
        weighed = [book.Weighing(w.at, w.gross) for w in self.weighings]
        return weighed, [book.Debit(u.at, u.mass) for u in self.uses], self.spool.empty, self.spool.label_net

    @property
    def moisture(self) -> MoistureState:
        return self.moisture_at(self.at)

    def moisture_at(self, at: datetime) -> MoistureState:
        return moisture_of(self.moves, self.sessions, at)

    @property
    def stale(self) -> bool:
        """Whether it lay open for longer than its polymer bears."""
        limit = open_limit(self.spool.material.polymer)
        return limit is not None and self.moisture.open_hours > limit

    @property
    def place(self) -> str:
        past = [m for m in self.moves if m.at <= self.at]
        return past[-1].place if past else ""

    def masses_of(self, session_id: str) -> tuple[Row[Any] | None, Row[Any] | None]:
        """Weighings before and after a session."""
        own = {w.moment: w for w in self.weighings if w.session_id == session_id}
        return own.get("before"), own.get("after")

    def lost_in(self, session_id: str) -> float | None:
        """Moisture lost in a session as a share of the dry filament; None where it was not weighed."""
        before, after = self.masses_of(session_id)
        if before is None or after is None or self.spool.empty is None or after.gross <= self.spool.empty:
            return None
        return moisture_lost(before.gross, after.gross, self.spool.empty)


def stored_of(moves: Iterable[Row[Any]]) -> list[Stored]:
    return [Stored(m.at, Storage(m.storage), m.humidity) for m in moves]


def dryings_of(sessions: Iterable[DeviceSession]) -> list[Drying]:
    return [Drying(s.started_at, s.ended_at, s.temperature or 0.0, s.due_at or s.started_at) for s in sessions]


def moisture_of(moves: Iterable[Row[Any]], sessions: Iterable[DeviceSession], at: datetime) -> MoistureState:
    """How dry it is by where it lay and when it was dried, both in order."""
    return moisture_state(stored_of(moves), dryings_of(sessions), at)


_PARTS: tuple[tuple[str, type[Base], tuple[str, ...]], ...] = (
    ("moves", StorageMove, ("at", "storage", "place", "humidity")),
    ("weighings", Weighing, ("at", "gross", "session_id", "moment")),
    ("uses", FilamentUse, ("at", "mass")),
)
"""What follows from the record needs these columns only; the page of a spool shows all."""


def states_of(session: Session, spools: Sequence[Spool], at: datetime, in_full: bool = True) -> dict[str, SpoolState]:
    """The facts of several spools, in four queries however many they are.

    Plain rows, since there may be many; `in_full` with who entered them and as what.
    """
    facts = {s.id: SpoolState(s, at) for s in spools}
    if not facts:
        return {}
    ids = list(facts)
    for name, kind, needed in _PARTS:
        table = kind.__table__.c
        columns = list(table) if in_full else [table.spool_id, *(table[n] for n in needed)]
        standing = select(*columns).where(table.spool_id.in_(ids), table.retracted_at.is_(None)).order_by(table.at, table.entered_at, table.id)
        for row in session.execute(standing):
            getattr(facts[row.spool_id], name).append(row)
    for spool_id, run in session.execute(_dryings(SessionMember.member_id.in_(ids))):
        facts[spool_id].sessions.append(run)
    return facts


def _dryings(of: ColumnElement[bool]) -> Select[str, DeviceSession]:
    return (
        select(SessionMember.member_id, DeviceSession)
        .join(DeviceSession, DeviceSession.id == SessionMember.session_id)
        .where(SessionMember.member_kind == "spool", of, DeviceSession.kind == "drying", DeviceSession.retracted_at.is_(None))
        .order_by(DeviceSession.started_at)
    )


@dataclass(slots=True)
class Lying:
    """A spool at hand, by where it lies: no more than a list of places needs, since there may be a thousand."""

    id: str
    code: str
    decision: DecisionWord | None
    material: MaterialView
    moves: list[Any] = field(default_factory=list)
    sessions: list[DeviceSession] = field(default_factory=list)
    stored: list[Stored] = field(default_factory=list)
    dryings: list[Drying] = field(default_factory=list)
    """What its moisture follows from, made once of moves and sessions."""


_OF_MATERIAL = tuple(MaterialView.model_fields)
_VIEWS = TypeAdapter(list[MaterialView])
"""All in one go: a thousand made one by one take longer than all the rest."""
_SPOOLS, _MATERIALS = cast(Table, Spool.__table__), cast(Table, Material.__table__)
_AT_HAND = (
    select(
        *(_SPOOLS.c[name].label(f"spool_{name}") for name in ("id", "code", "decision")),
        *(_MATERIALS.c[name] for name in _OF_MATERIAL),
    )
    .join(_MATERIALS, _MATERIALS.c.id == _SPOOLS.c.material_id)
    .where(_SPOOLS.c.gone_at.is_(None))
    .order_by(_SPOOLS.c.code)
)


def lying(session: Session) -> list[Lying]:
    """All spools at hand, by their codes, in three queries."""
    at_hand = select(Spool.id).where(Spool.gone_at.is_(None))
    rows = session.execute(_AT_HAND).all()
    views = _VIEWS.validate_python([dict(zip(_OF_MATERIAL, r[3:], strict=True)) for r in rows])
    found = {r[0]: Lying(r[0], r[1], r[2], view) for r, view in zip(rows, views, strict=True)}
    table = StorageMove.__table__.c
    moves = select(table.spool_id, table.at, table.storage, table.place, table.humidity).where(table.spool_id.in_(at_hand), table.retracted_at.is_(None))
    for row in session.execute(moves.order_by(table.at, table.entered_at, table.id)).all():
        found[row[0]].moves.append(row)
    for spool_id, run in session.execute(_dryings(SessionMember.member_id.in_(at_hand))):
        found[spool_id].sessions.append(run)
    for f in found.values():
        f.stored, f.dryings = stored_of(f.moves), dryings_of(f.sessions)
    return list(found.values())


def state_of(session: Session, spool: Spool, at: datetime) -> SpoolState:
    return states_of(session, [spool], at)[spool.id]


def spool_item(f: SpoolState) -> SpoolItem:
    """A spool as lists show it."""
    s, state, left = f.spool, f.moisture, f.balance
    moisture = MoistureView(
        kind=state.kind,
        storage=state.storage.value,
        open_hours=state.open_hours,
        words=state.words,
        stale=f.stale,
        dried_at=state.dried.end if state.dried else None,
        due_at=state.dried.due if state.dried and state.kind == "drying" else None,
    )
    return SpoolItem(
        id=s.id,
        code=s.code,
        material_id=s.material_id,
        lot=s.lot,
        received_on=s.received_on,
        label_net=s.label_net,
        empty=s.empty,
        heat_limit=s.heat_limit,
        body=s.body,
        bore=s.bore,
        loose_end=s.loose_end,
        decision=s.decision,
        note=s.note,
        gone_at=s.gone_at,
        gone_why=s.gone_why,
        revision=s.revision,
        left=None if left is None else left.left,
        weighed_at=None if left is None else left.weighed_at,
        place=f.place,
        moisture=moisture,
    )


def spool_page_of(f: SpoolState, **more: Any) -> SpoolPage:
    """The page of a spool: what lists show, and `more`."""
    return SpoolPage(**dict(spool_item(f)), **more)


def by_material(facts: Iterable[SpoolState]) -> dict[str, list[SpoolState]]:
    """Facts grouped by the spool's material."""
    grouped: dict[str, list[SpoolState]] = defaultdict(list)
    for f in facts:
        grouped[f.spool.material_id].append(f)
    return grouped
