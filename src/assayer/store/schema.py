"""The schema of a database: its revisions, and bringing it to the newest one.

Revisions are read off the names of their files: what runs them takes longer to load than all else at a start,
and is only needed where something is to be run.
"""

from __future__ import annotations

from pathlib import Path

from sqlalchemy import Connection, Engine, inspect

from assayer.core.errors import DataFolderError

_MIGRATIONS = Path(__file__).with_name("migrations")


def revisions() -> list[str]:
    """All that are known, the newest last."""
    return sorted(p.name.partition("_")[0] for p in (_MIGRATIONS / "versions").glob("[0-9]*_*.py"))


def revision_of(connection: Connection) -> str | None:
    """At which revision a database is; None where nothing was ever run."""
    if not inspect(connection).has_table("alembic_version"):
        return None
    found = connection.exec_driver_sql("SELECT version_num FROM alembic_version").scalar()
    return None if found is None else str(found)


def upgrade(engine: Engine, folder: Path) -> None:
    """Run what is missing in one transaction.

    Tables are made anew under the rows that point at them: foreign keys are off meanwhile (which
    SQLite allows only outside a transaction), and every one is checked before it is kept.

    Raises
    ------
    DataFolderError
        If a row would point at nothing.
    """
    from alembic import command
    from alembic.config import Config

    config = Config()
    config.set_main_option("script_location", str(_MIGRATIONS))
    with engine.connect() as connection:
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
                        f"the data folder '{folder}' could not be brought to the newest form ({broken[0][0]} points at nothing): nothing was changed"
                    )
        finally:
            raw.execute("PRAGMA foreign_keys=ON")
