"""The database: migrations match the models, writes are whole or nothing, curves come back as they were."""

import sqlite3

import numpy as np
import pytest
from alembic import command
from alembic.autogenerate import compare_metadata
from alembic.config import Config
from alembic.runtime.migration import MigrationContext
from hypothesis import given, settings
from hypothesis import strategies as st
from sqlalchemy import Engine, event, func, select, text
from sqlalchemy.engine.default import CacheStats
from sqlalchemy.exc import IntegrityError

from assayer.core.errors import DataFolderError
from assayer.services.stock.materials import add_material
from assayer.store.curve_codec import pack, unpack
from assayer.store.database import Database
from assayer.store.files import FileStore
from assayer.store.models import Base, Batch, Variant
from assayer.store.schema import _MIGRATIONS, revisions

from ..support import ACTOR, material


def test_migrations_lead_to_the_models(tmp_path):
    database = Database(tmp_path, durable=False)
    database.migrate()
    with database._reader.connect() as connection:
        context = MigrationContext.configure(connection, opts={"target_metadata": Base.metadata, "render_as_batch": True})
        assert compare_metadata(context, Base.metadata) == []
        # autogeneration does not see CHECK constraints: compare them by hand
        made = connection.execute(text("SELECT group_concat(sql) FROM sqlite_master")).scalar_one()
        for table in Base.metadata.tables.values():
            for constraint in table.constraints:
                if constraint.__class__.__name__ == "CheckConstraint":
                    assert str(constraint.sqltext) in made, constraint.name
        assert connection.execute(text("PRAGMA foreign_keys")).scalar() == 1
        assert connection.execute(text("PRAGMA journal_mode")).scalar() == "wal"
    database.close()


def test_a_statement_is_compiled_once_whoever_asks_it_of_whatever_folder(tmp_path):
    told = []

    def asked(connection, cursor, statement, parameters, context, many):
        if "once_for_all" in statement:
            told.append(context.cache_hit)

    event.listen(Engine, "before_cursor_execute", asked)
    for name in ("one", "other"):
        database = Database(tmp_path / name, durable=False)
        database.migrate()
        for session_of in (database.read, database.write):
            with session_of() as session:
                assert session.execute(select(func.count(Batch.id).label("once_for_all"))).scalar_one() == 0
        database.close()
    event.remove(Engine, "before_cursor_execute", asked)
    assert told == [CacheStats.CACHE_MISS, *3 * [CacheStats.CACHE_HIT]]


def test_accepted_readings_wait_for_the_disk(tmp_path):
    database = Database(tmp_path)
    database.migrate()
    with database.write() as session:
        assert session.execute(text("PRAGMA synchronous")).scalar() == 2, "FULL"
    database.close()


def test_a_folder_of_a_newer_version_is_left_alone(tmp_path):
    database = Database(tmp_path, durable=False)
    database.migrate()
    database.close()
    with sqlite3.connect(tmp_path / "assayer.db") as connection:
        connection.execute("UPDATE alembic_version SET version_num = '9999'")
    newer = Database(tmp_path, durable=False)
    with pytest.raises(DataFolderError, match="made by a newer version of Assayer"):
        newer.migrate()
    newer.close()


def test_a_failed_transaction_leaves_nothing(workspace):
    add_material(workspace, ACTOR, material("Kept"))
    with pytest.raises(IntegrityError), workspace.write(ACTOR) as unit:
        unit.session.execute(text("UPDATE materials SET product = 'changed'"))
        unit.session.execute(text("UPDATE materials SET filler_share = 400"))
    with workspace.read() as session:
        assert session.execute(text("SELECT product FROM materials")).scalars().all() == ["Kept"]


def test_a_full_disk_is_told_and_nothing_is_half_written(workspace):
    with workspace.db.write() as session:
        pages = session.execute(text("PRAGMA page_count")).scalar_one()
    with pytest.raises(DataFolderError, match=r"is full: nothing of this entry was saved"), workspace.write(ACTOR) as unit:
        # a limit on the file's pages behaves as a full disk does
        unit.session.execute(text(f"PRAGMA max_page_count = {pages}"))
        for i in range(400):
            unit.session.execute(text("INSERT INTO people (id, name) VALUES (:i, :n)"), {"i": f"p{i}", "n": f"name {i} " + "x" * 60})
    with workspace.read() as session:
        assert session.execute(text("SELECT count(*) FROM people")).scalar() == 0


def test_a_folder_that_cannot_be_made_is_named(tmp_path):
    (tmp_path / "file").write_text("in the way")
    with pytest.raises(DataFolderError, match="cannot make the data folder"):
        Database(tmp_path / "file" / "data")


@given(st.integers(1, 3), st.integers(5, 300), st.integers(0, 9))
@settings(max_examples=15, deadline=None)
def test_curves_come_back_as_they_were(width, rows, seed):
    columns = [np.random.default_rng(seed + i).normal(size=rows).astype(np.float32) for i in range(width)]
    assert np.array_equal(unpack(pack(columns), width), np.stack(columns))


def test_files_are_kept_once_and_whole(tmp_path):
    store = FileStore(tmp_path)
    digest = store.put(b"a recording")
    assert store.put(b"a recording") == digest
    assert store.path(digest).read_bytes() == b"a recording"
    assert [p.name for p in tmp_path.rglob("*") if p.is_file()] == [digest]


def test_a_notebook_of_the_first_schema_keeps_its_rows(tmp_path):
    """Migrated in place: materials keep their ids under the variants that point at them, new columns get their defaults."""
    database = Database(tmp_path, durable=False)
    config = Config()
    config.set_main_option("script_location", str(_MIGRATIONS))
    with database._writer.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "0001")
        at = "2026-01-01 10:00:00.000000"
        connection.execute(text(f"INSERT INTO materials VALUES ('m', 'Hollin', 'Everyday', 'PLA', NULL, NULL, 'amber', '#D9962B', 'Ha', '{at}')"))
        connection.execute(text(f"INSERT INTO settings_sheets VALUES ('s', 'as printed', '{{}}', NULL, '{at}')"))
        connection.execute(text("INSERT INTO variants VALUES ('v', 'm', 's', '')"))
        connection.execute(text(f"INSERT INTO batches VALUES ('b', 'v', '{at}', 'UTC')"))
    database.migrate()
    with database.read() as session:
        kept = session.get(Variant, "v").material
        assert (kept.product, kept.diameter, kept.density, kept.revision, kept.doubts, kept.window) == ("Everyday", 1.75, None, 1, 0, None)
        assert session.get(Batch, "b").spool_id is None
        assert session.execute(text("PRAGMA foreign_key_check")).all() == []
        with pytest.raises(IntegrityError):
            session.execute(text("UPDATE materials SET density = -1"))
    database.close()


def test_the_revisions_read_off_the_files_are_those_that_are_run():
    from alembic.script import ScriptDirectory

    config = Config()
    config.set_main_option("script_location", str(_MIGRATIONS))
    scripts = ScriptDirectory.from_config(config)
    assert revisions() == [s.revision for s in reversed(list(scripts.walk_revisions()))]
    assert revisions()[-1] == scripts.get_current_head()
