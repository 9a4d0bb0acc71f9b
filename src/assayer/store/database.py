"""Open, migrate and use the database of one data folder."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from alembic import command
from alembic.config import Config
from alembic.runtime.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import Engine, create_engine, event
from sqlalchemy.exc import OperationalError
from sqlalchemy.orm import Session, sessionmaker

from assayer.core.errors import DataFolderError

FILE_NAME = "assayer.db"
_MIGRATIONS = Path(__file__).with_name("migrations")


def _engine(path: Path, begin: str, durable: bool) -> Engine:
    engine = create_engine(f"sqlite:///{path}", connect_args={"timeout": 15, "check_same_thread": False})

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
    """The database of one data folder: many readers, one writer at a time.

    Writing transactions take the write lock when they begin: two people's changes then queue up instead
    of failing half-way. `durable=False` does not wait for the disk: for data that can be made again.
    """

    def __init__(self, folder: Path, durable: bool = True) -> None:
        self.folder = folder
        try:
            folder.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise DataFolderError(f"cannot make the data folder '{folder}': {error.strerror or error}") from None
        self.path = folder / FILE_NAME
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
        config = Config()
        config.set_main_option("script_location", str(_MIGRATIONS))
        known = {s.revision for s in ScriptDirectory.from_config(config).walk_revisions()}
        try:
            with self._reader.connect() as connection:
                current = MigrationContext.configure(connection).get_current_revision()
            if current is not None and current not in known:
                raise DataFolderError(f"the data folder '{self.folder}' was made by a newer version of Assayer: update Assayer to open it")
            self._upgrade(config)
        except OperationalError as error:
            raise explain(error, self.folder) from None

    def _upgrade(self, config: Config) -> None:
        """Run what is missing in one transaction.

        Tables are made anew under the rows that point at them: foreign keys are off meanwhile (which
        SQLite allows only outside a transaction), and every one is checked before it is kept.
        """
        with self._writer.connect() as connection:
            raw = connection.connection.dbapi_connection
            assert raw is not None
            raw.execute("PRAGMA foreign_keys=OFF")
            try:
                with connection.begin():
                    config.attributes["connection"] = connection
                    command.upgrade(config, "head")
                    broken = connection.exec_driver_sql("PRAGMA foreign_key_check").all()
                    if broken:
                        raise DataFolderError(
                            f"the data folder '{self.folder}' could not be brought to the newest form ({broken[0][0]} points at nothing): nothing was changed"
                        )
            finally:
                raw.execute("PRAGMA foreign_keys=ON")

    @contextmanager
    def read(self) -> Iterator[Session]:
        """A session for reading; nothing it does is kept."""
        with self._read_session() as session:
            yield session

    @contextmanager
    def write(self) -> Iterator[Session]:
        """A transaction: all of it is kept, or nothing."""
        try:
            with self._write_session.begin() as session:
                yield session
        except OperationalError as error:
            raise explain(error, self.folder) from None

    def close(self) -> None:
        self._reader.dispose()
        self._writer.dispose()


def explain(error: OperationalError, folder: Path) -> DataFolderError:
    """What a failure of SQLite means for the user."""
    reason = str(error.orig)
    if "full" in reason:
        return DataFolderError(f"the disk of '{folder}' is full: nothing of this entry was saved, make room and send it again")
    if "readonly" in reason or "unable to open" in reason:
        return DataFolderError(f"cannot write to '{folder}': check its permissions ({reason})")
    if "locked" in reason:
        return DataFolderError("another program holds the database: nothing of this entry was saved, try again in a moment")
    return DataFolderError(f"the database of '{folder}' failed: {reason}")
