"""A data folder in use: database, files, clock; and the unit of work that every change happens in."""

from __future__ import annotations

import random
from collections.abc import Callable, Iterable, Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import UTC, datetime
from hashlib import sha256
from pathlib import Path
from typing import Any, TypeVar, cast
from zoneinfo import ZoneInfo

import platformdirs
from pydantic import BaseModel
from sqlalchemy import Table, bindparam, insert, select, update
from sqlalchemy.orm import Session
from sqlalchemy.orm.util import identity_key

from assayer.core.errors import ConflictError, EntryError, MissingError, StaleError
from assayer.core.ids import uuid7
from assayer.core.methods import register
from assayer.core.methods.own import definition_of, own_method
from assayer.store.database import Database
from assayer.store.files import FileStore
from assayer.store.models import Base, Change, OwnMethodVersion, Sent, Study, Test

Clock = Callable[[], datetime]
Facts = Mapping[str, object]
"""Some values of an object by their names, as they go into the record."""


def system_clock() -> datetime:
    return datetime.now(UTC)


def default_folder() -> Path:
    """Where data lie unless `--data` says otherwise."""
    return Path(platformdirs.user_data_dir("assayer", appauthor=False))


@dataclass(frozen=True, slots=True)
class Actor:
    """Who does something, and in which time zone."""

    who: str
    zone: str = "UTC"

    def __post_init__(self) -> None:
        try:
            ZoneInfo(self.zone)
        except (KeyError, ValueError, OSError):
            raise EntryError(f"'{self.zone}' is no time zone", "zone") from None


_LOG = insert(cast(Table, Change.__table__))
"""A line of the log is never changed: nothing is held of it, so it goes in as it is."""

_SENT = insert(cast(Table, Sent.__table__))

_RAISE = {
    kind: update(table := cast(Table, kind.__table__)).where(table.c.id.in_(bindparam("ids", expanding=True))).values(revision=table.c.revision + 1)
    for kind in (Study, Test)
}
"""Made once, and of the tables: what a session holds of them is told apart from it."""


@dataclass(slots=True)
class Unit:
    """One transaction: its session, its actor, its instant, and the log of what it changes."""

    session: Session
    actor: Actor
    now: datetime
    rng: random.Random | None = None
    digest: bytes | None = None
    """Of what is sent in it, where that has an id."""
    kept: bytes | None = None
    """Of what was sent under that id before."""
    made: bool = True
    """What is sent is made in it; not where it is there already, or is left for another try."""

    def refuse_other(self, what: str, current: BaseModel | None = None, *, same: bool = True, alike: bool = True) -> None:
        """An id that is there already must come with what came with it before.

        Parameters
        ----------
        same : bool
            It is of the same thing as before: the same spool, the same rig.
        alike : bool
            What is kept still says what is sent; asked only where no digest was kept with it, since it may have been changed by now.

        Raises
        ------
        ConflictError
            If it does not; with what is kept.
        """
        self.made = False
        if not same or (self.kept is None and not alike):
            raise ConflictError(f"another {what} already has this id", current)
        if self.kept is not None and self.kept != self.digest:
            raise ConflictError(f"this {what} was kept before with other content than is sent now: load the page anew and change what is kept", current)

    def new_id(self) -> str:
        return str(uuid7(self.now, self.rng))

    def log(self, entity: str, entity_id: str, action: str, before: Facts | None = None, after: Facts | None = None) -> None:
        """Record the change in the same transaction: what was so before, and what is after."""
        self.log_all(entity, action, [(entity_id, before, after)])

    def log_all(self, entity: str, action: str, told: Iterable[tuple[str, Facts | None, Facts | None]]) -> None:
        """Record the same change of several objects: of each its id, what was so before, and what is after."""
        common = {"at": self.now, "zone": self.actor.zone, "who": self.actor.who, "entity": entity, "action": action}
        rows = [common | {"entity_id": key, "before": before, "after": after} for key, before, after in told]
        if rows:
            self.session.execute(_LOG, rows)

    def touch(self, study_id: str, test_ids: Iterable[str] = ()) -> None:
        """Raise the data revision of a study, by which clients refresh, and of the tests whose evidence changed."""
        for kind, ids in ((Study, [study_id]), (Test, list(test_ids))):
            if not ids:
                continue
            self.session.execute(_RAISE[kind], {"ids": ids})
            for key in ids:
                held = self.session.identity_map.get(identity_key(kind, key))
                if held is not None:
                    self.session.expire(held, ["revision"])


def digest_of(content: BaseModel) -> bytes:
    """The same for the same content; what is asked about and confirmed is none of it, nor what a newer version adds and leaves as it was."""
    return sha256(content.model_dump_json(exclude={"confirmed"}, exclude_defaults=True).encode()).digest()


def register_own(session: Session) -> None:
    """Make the tests that this notebook's lab defined known to whoever looks for a method."""
    for row in session.scalars(select(OwnMethodVersion)):
        register(own_method(row.method, row.method, definition_of(row.definition), stored=True))


class Workspace:
    """A data folder in use.

    Parameters
    ----------
    folder : Path
        Made and brought to the newest schema if need be.
    clock : callable
        Tells the instant; everything takes the time from here.
    rng : random.Random, optional
        Makes ids and codes reproducible, for demo data.
    durable : bool
        False does not wait for the disk: for demo and test data, which can be made again.
    """

    def __init__(self, folder: Path, clock: Clock = system_clock, rng: random.Random | None = None, durable: bool = True) -> None:
        self.rng = rng
        self.folder = folder
        self.clock = clock
        self.db = Database(folder, durable)
        self.db.migrate()
        self.files = FileStore(folder / "files", durable)
        self.recomputing: dict[str, tuple[int, int]] = {}
        """How far a correction of a rig's version is worked out: runs done, of how many."""
        with self.db.read() as session:
            register_own(session)

    @contextmanager
    def read(self) -> Iterator[Session]:
        with self.db.read() as session:
            yield session

    @contextmanager
    def write(self, actor: Actor, sent: tuple[str, BaseModel] | None = None) -> Iterator[Unit]:
        """A unit of work. Of what is `sent` to make an object, under its id, a digest is kept with it."""
        with self.db.write() as session:
            unit = Unit(session, actor, self.clock(), self.rng)
            if sent is not None:
                unit.digest, unit.kept = digest_of(sent[1]), session.scalar(select(Sent.digest).where(Sent.id == sent[0]))
            yield unit
            if sent is not None and unit.kept is None and unit.made:
                session.execute(_SENT, {"id": sent[0], "digest": unit.digest})

    def close(self) -> None:
        self.db.close()


T = TypeVar("T", bound=Base)


def find(session: Session, kind: type[T], key: str) -> T:
    """The object with this id.

    Raises
    ------
    MissingError
        If there is none.
    """
    found = session.get(kind, key)
    if found is None:
        raise MissingError(f"there is no {_WORDS.get(kind.__name__, kind.__name__.lower())} with the id {key}")
    return found


_WORDS = {"RigVersion": "rig version", "SettingsSheet": "settings sheet", "FollowUp": "follow-up"}


def expect_revision(given: int | None, current: int, what: str, state: Any = None) -> None:
    """Refuse an edit that was made against an older state."""
    if given is not None and given != current:
        raise StaleError(f"{what} was changed by somebody else in the meantime: look at the newer state, then edit again", state)
