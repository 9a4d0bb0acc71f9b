"""Each damaged state of a data folder is recognised before anything is written, with what is whole and how to go on."""

import os
import shutil
import sqlite3
import struct
import time

import pytest
from sqlalchemy import text

from assayer.core.errors import DamagedError, DataFolderError
from assayer.services.stock.materials import add_material
from assayer.services.unit import Workspace
from assayer.store.database import Database
from assayer.store.files import FileStore
from assayer.store.folder import examine, hold

from ..support import ACTOR, material

WAL = "assayer.db-wal"


@pytest.fixture
def folder(data_folder):
    """A closed notebook with some materials and one recording beside it."""
    workspace = Workspace(data_folder, durable=False)
    for i in range(40):
        add_material(workspace, ACTOR, material(f"Line {i}", note="x" * 900))
    workspace.files.put(b"a recording")
    workspace.close()
    return data_folder


def crashed(folder, to, add="Crashed"):
    """The folder as a kill leaves it: an entry that is only in the write-ahead file."""
    workspace = Workspace(folder, durable=False)
    add_material(workspace, ACTOR, material(add))
    shutil.copytree(folder, to)
    workspace.close()
    assert (to / WAL).stat().st_size > 0
    return to


def products(folder):
    workspace = Workspace(folder, durable=False)
    with workspace.read() as session:
        found = set(session.execute(text("SELECT product FROM materials")).scalars())
    workspace.close()
    return found


def empty(database):
    database.write_bytes(b"")


def cut(database):
    database.write_bytes(database.read_bytes()[:-8192])


def headless(database):
    database.write_bytes(b"garbage garbage!" + database.read_bytes()[16:])


def short(database):
    database.write_bytes(database.read_bytes()[:60])


def odd_pages(database):
    data = bytearray(database.read_bytes())
    data[16:18] = struct.pack(">H", 4097)
    database.write_bytes(data)


@pytest.mark.parametrize(
    "damage, words",
    [
        (empty, r"is empty \(0 bytes\)"),
        (cut, r"is cut off \(2 of \d+ pages are missing\)"),
        (headless, "its first bytes are not those of one"),
        (short, "its first bytes are not those of one"),
        (odd_pages, "pages of 4097 bytes"),
        (lambda database: database.unlink(), "holds 1 kept files, but assayer.db is missing"),
    ],
)
def test_a_damaged_database_is_told_with_what_is_whole_and_is_left_as_it_is(folder, damage, words):
    damage(folder / "assayer.db")
    before = {p: p.read_bytes() for p in folder.rglob("*") if p.is_file()}
    for opening in (lambda: examine(folder), lambda: Database(folder), lambda: Workspace(folder)):
        with pytest.raises(DamagedError, match=words) as told:
            opening()
        assert "restore a backup" in str(told.value)
    assert "1 kept files" in str(told.value)
    assert {p: p.read_bytes() for p in folder.rglob("*") if p.is_file()} == before


def test_a_random_page_is_recognised_while_it_is_read(folder):
    database = folder / "assayer.db"
    data = bytearray(database.read_bytes())
    with sqlite3.connect(database) as connection:
        root = connection.execute("SELECT rootpage FROM sqlite_master WHERE name = 'materials'").fetchone()[0]
    data[(root - 1) * 4096 : root * 4096] = b"\x5a" * 4096
    database.write_bytes(data)
    workspace = Workspace(folder, durable=False)
    with pytest.raises(DamagedError, match="is damaged"), workspace.read() as session:
        session.execute(text("SELECT sum(length(note)) FROM materials")).all()
    with pytest.raises(DamagedError, match="keep a copy of the folder"):
        add_material(workspace, ACTOR, material("Anew"))
    workspace.close()


def test_a_page_that_the_start_itself_needs_is_told_too(folder):
    database = folder / "assayer.db"
    data = bytearray(database.read_bytes())
    data[200:4096] = b"\xa5" * 3896
    database.write_bytes(data)
    with pytest.raises(DamagedError, match=r"is damaged .*the 1 kept files beside it are whole"):
        Workspace(folder, durable=False)


def test_an_empty_place_is_nothing_and_a_file_is_no_folder(tmp_path):
    assert not examine(tmp_path / "not there")
    assert not examine(tmp_path)
    (tmp_path / "file").write_text("x")
    with pytest.raises(DataFolderError, match="is a file, not a folder"):
        examine(tmp_path / "file")


def test_a_write_ahead_file_without_its_database_is_told(folder, tmp_path):
    left = crashed(folder, tmp_path / "left")
    (left / "assayer.db").unlink()
    shutil.rmtree(left / "files")
    with pytest.raises(DamagedError, match=r"holds the last entries \(assayer.db-wal\), but assayer.db is missing"):
        examine(left)


def test_what_a_crash_left_is_taken_up(folder, tmp_path):
    left = crashed(folder, tmp_path / "left")
    assert "Crashed" in products(left)
    assert not (left / WAL).exists(), "closing leaves one file"


def test_a_database_copied_in_under_a_write_ahead_file_is_refused(folder, tmp_path):
    """An older copy of the same notebook: SQLite itself would mix the two."""
    older = shutil.copytree(folder, tmp_path / "older")
    products(folder)
    left = crashed(folder, tmp_path / "left")
    own = (left / "assayer.db").read_bytes()
    shutil.copy(older / "assayer.db", left / "assayer.db")
    with pytest.raises(DamagedError, match=r"is not the database that assayer.db-wal beside it was written for"):
        examine(left)
    assert (left / WAL).stat().st_size > 0, "nothing was thrown away"
    (left / "assayer.db").write_bytes(own)
    assert "Crashed" in products(left), "the former one put back"
    again = crashed(folder, tmp_path / "again", "Crashed again")
    shutil.copy(older / "assayer.db", again / "assayer.db")
    (again / WAL).rename(tmp_path / "moved away")
    assert "Crashed" not in products(again), "the copy alone opens"


def test_a_damaged_page_under_a_write_ahead_file_is_told_before_the_two_are_joined(folder, tmp_path):
    left = crashed(folder, tmp_path / "left")
    data = bytearray((left / "assayer.db").read_bytes())
    for page in range(30, 50):
        data[page * 4096 : page * 4096 + 200] = b"\xa5" * 200
    (left / "assayer.db").write_bytes(data)
    log = (left / WAL).read_bytes()
    with pytest.raises(DamagedError, match="is damaged"):
        Workspace(left)
    assert (left / WAL).read_bytes() == log


def test_a_file_exchanged_or_deleted_under_a_running_program_is_not_written_to(folder, tmp_path):
    workspace = Workspace(folder, durable=False)
    shutil.copy(folder / "assayer.db", tmp_path / "copy")
    (folder / "assayer.db").unlink()
    with pytest.raises(DataFolderError, match="is no longer there"):
        add_material(workspace, ACTOR, material("Lost"))
    shutil.copy(tmp_path / "copy", folder / "assayer.db")
    with pytest.raises(DataFolderError, match="was exchanged"):
        add_material(workspace, ACTOR, material("Lost"))
    workspace.close()


def test_a_new_notebook_is_made_whole_or_not_at_all(tmp_path, monkeypatch):
    def interrupted(*_):
        raise KeyboardInterrupt

    monkeypatch.setattr("alembic.command.upgrade", interrupted)
    with pytest.raises(KeyboardInterrupt):
        Workspace(tmp_path / "new")
    monkeypatch.undo()
    (tmp_path / "new/assayer.db.part").write_bytes(b"half of one" * 1000)
    assert not (tmp_path / "new/assayer.db").exists()
    assert products(tmp_path / "new") == set()
    assert [p.name for p in (tmp_path / "new").iterdir() if ".part" in p.name] == []


def test_the_data_are_their_owners_alone(tmp_path):
    open_to_all = tmp_path / "open"
    open_to_all.mkdir(mode=0o755)
    for folder in (open_to_all, tmp_path / "made"):
        workspace = Workspace(folder, durable=False)
        workspace.files.put(b"a recording")
        workspace.close()
        assert folder.stat().st_mode & 0o077 == 0


def test_a_folder_in_use_is_not_had_alone(folder):
    workspace = Workspace(folder, durable=False)
    other = Workspace(folder, durable=False)
    with pytest.raises(DataFolderError, match="is in use: stop Assayer there"):
        hold(folder, alone=True)
    other.close()
    workspace.close()
    hold(folder, alone=True).close()


def test_what_a_killed_server_left_half_taken_in_goes_after_a_day(tmp_path):
    store = FileStore(tmp_path / "files", durable=False)
    kept = store.put(b"kept")
    old, young = store.folder / "old.part", store.folder / "young.part"
    for path in (old, young):
        path.write_bytes(b"half")
    os.utime(old, (time.time() - 90_000,) * 2)
    store.sweep()
    assert (old.exists(), young.exists(), store.path(kept).read_bytes()) == (False, True, b"kept")
    with store.incoming() as coming:
        coming.write(b"ke")
        coming.write(b"pt")
        assert (coming.keep(), coming.size) == (kept, 4)
    with store.incoming() as dropped:
        dropped.write(b"never")
    assert sorted(p.name for p in store.folder.glob("*.part")) == ["young.part"]
