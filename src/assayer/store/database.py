"""Open, migrate and use the database of one data folder."""

from __future__ import annotations

import os
import re
import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from functools import cache
from pathlib import Path
from typing import Any, NoReturn

from sqlalchemy import Dialect, Engine, create_engine, event
from sqlalchemy.exc import DatabaseError
from sqlalchemy.orm import Session, sessionmaker
from sqlalchemy.util import LRUCache

from assayer.core.errors import ConflictError, DataFolderError
from assayer.store.folder import DATABASE, damaged, examine, hold, make_private, mark_opened
from assayer.store.schema import revision_of, revisions, upgrade
from assayer.store.turns import Turns

_COMPILED: LRUCache[Any, Any] = LRUCache(1000)
"""Statements as SQLite reads them: making one out of a query takes longer than asking it, and is the same for every data folder, reading or writing."""


@cache
def _dialect() -> Dialect:
    """One for all engines, since what is compiled belongs to it."""
    engine = create_engine("sqlite://")
    with engine.connect():
        return engine.dialect


def _engine(path: Path, begin: str, durable: bool) -> Engine:
    engine = create_engine(f"sqlite:///{path}", connect_args={"timeout": 15, "check_same_thread": False})
    engine.dialect = _dialect()
    engine.update_execution_options(compiled_cache=_COMPILED)

    @event.listens_for(engine, "connect")
    def _on_connect(connection: sqlite3.Connection, _record: Any) -> None:
        # transactions are begun by us, see below
        connection.isolation_level = None
        # FULL: an accepted reading survives a power cut, at about 1 ms a commit
        for pragma in ("journal_mode=WAL", f"synchronous={'FULL' if durable else 'OFF'}", "foreign_keys=ON", "cache_size=-32000", "temp_store=MEMORY"):
            connection.execute(f"PRAGMA {pragma}")

    @event.listens_for(engine, "begin")
    def _on_begin(connection: Any) -> None:
        connection.exec_driver_sql(begin)

    return engine


class Database:
    """The database of one data folder: many readers, one writer at a time, in the order in which they came.

    Writing transactions take the write lock when they begin: two people's changes then queue up instead
    of failing half-way. `durable=False` does not wait for the disk: for data that can be made again.
    """

    def __init__(self, folder: Path, durable: bool = True) -> None:
        self.folder = folder
        make_private(folder)
        examine(folder)
        self.path = folder / DATABASE
        self._held = hold(folder)
        self._inode: int | None = None
        self._turns = Turns()
        self._reader = _engine(self.path, "BEGIN", durable)
        self._writer = _engine(self.path, "BEGIN IMMEDIATE", durable)
        self._read_session = sessionmaker(self._reader, expire_on_commit=False)
        self._write_session = sessionmaker(self._writer, expire_on_commit=False)

    def migrate(self) -> None:
        """Bring the database to the newest schema.

        Raises
        ------
        DataFolderError
            If the folder cannot be written, or was made by a newer version of Assayer.
        """
        known = revisions()
        try:
            if not self.path.exists():
                self._create()
            with self._reader.connect() as connection:
                current = revision_of(connection)
            if current is not None and current not in known:
                raise DataFolderError(f"the data folder '{self.folder}' was made by a newer version of Assayer: update Assayer to open it")
            if current != known[-1]:
                upgrade(self._writer, self.folder)
            with self._writer.connect() as connection:
                raw = connection.connection.dbapi_connection
                assert isinstance(raw, sqlite3.Connection)
                mark_opened(self.folder, raw)
            self._inode = self.path.stat().st_ino
        except DatabaseError as error:
            self._raise(error)

    def _create(self) -> None:
        """A new notebook is made whole or not at all: an empty database is always the mark of something gone wrong."""
        partial = self.folder / f"{DATABASE}.part"
        for leftover in self.folder.glob(f"{DATABASE}.part*"):
            leftover.unlink()
        engine = _engine(partial, "BEGIN IMMEDIATE", durable=False)
        upgrade(engine, self.folder)
        engine.dispose()
        with partial.open("rb+") as file:
            os.fsync(file.fileno())
        partial.rename(self.path)

    @contextmanager
    def read(self) -> Iterator[Session]:
        """A session for reading; nothing it does is kept."""
        try:
            with self._read_session() as session:
                yield session
        except DatabaseError as error:
            self._raise(error)

    @contextmanager
    def write(self) -> Iterator[Session]:
        """A transaction: all of it is kept, or nothing."""
        self._refuse_moved()
        try:
            with self._turns.mine(), self._write_session.begin() as session:
                yield session
        except DatabaseError as error:
            self._raise(error)

    def _raise(self, error: DatabaseError) -> NoReturn:
        told = explain(error, self.folder)
        if told is error:
            raise error
        raise told from None

    def _refuse_moved(self) -> None:
        """A file that is exchanged or deleted under a running program goes on living unseen: nothing may be written into it."""
        if self._inode is None:
            return
        try:
            there = self.path.stat().st_ino
        except OSError:
            there = None
        if there != self._inode:
            what = "is no longer there" if there is None else "was exchanged"
            raise DataFolderError(f"'{self.path}' {what} while Assayer was running: nothing of this entry was saved; put it back, then stop and start Assayer")

    def close(self) -> None:
        """Write everything into the one file; no write-ahead file stays behind."""
        self._reader.dispose()
        self._writer.dispose()
        self._held.close()


def explain(error: DatabaseError, folder: Path) -> Exception:
    """What a failure of SQLite means for the user; what is a mistake of ours stays what it is."""
    taken = re.fullmatch(r"UNIQUE constraint failed: (\w+)\.id", str(error.orig))
    if taken is not None:
        return ConflictError(
            f"an id that was sent is in use already (among the {taken[1].replace('_', ' ')}): nothing was saved; give each thing an id of its own"
        )
    if type(error.orig) not in (sqlite3.DatabaseError, sqlite3.OperationalError):
        return error
    reason = str(error.orig)
    if any(words in reason for words in ("malformed", "not a database", "disk I/O error", "no such table")):
        return damaged(folder, reason)
    if "full" in reason:
        return DataFolderError(f"the disk of '{folder}' is full: nothing of this entry was saved, make room and send it again")
    if "readonly" in reason or "unable to open" in reason:
        return DataFolderError(f"cannot write to '{folder}': check its permissions ({reason})")
    if "locked" in reason:
        return DataFolderError("another program holds the database: nothing of this entry was saved, try again in a moment")
    return DataFolderError(f"the database of '{folder}' failed: {reason}")
