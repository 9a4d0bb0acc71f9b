"""A backup holds all that is there at one instant, is no good once a byte of it changed, and comes back as it was."""

import json
import shutil
import sqlite3
import threading
import zipfile
from contextlib import suppress
from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from assayer.core.errors import DamagedError, DataFolderError, FileError
from assayer.core.plan.retention import worth_keeping
from assayer.services.stock.materials import add_material
from assayer.services.unit import Workspace
from assayer.store.backup import peek_manifest, read_manifest, restore, write_backup

from ..conftest import NOW
from ..support import ACTOR, material


def tables(folder):
    with sqlite3.connect(folder / "assayer.db") as connection:
        names = [n for (n,) in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table' ORDER BY name")]
        return {n: connection.execute(f'SELECT * FROM "{n}"').fetchall() for n in names}


def recordings(folder):
    return {p.name: p.read_bytes() for p in (folder / "files").glob("*/*")}


def test_what_is_restored_is_what_was_there(own_demo, tmp_path):
    said = []
    manifest = write_backup(own_demo, tmp_path / "b.zip", NOW, lambda what, share: said.append((what, share)))
    assert {"copying the database", "packing the files", "checking the backup"} <= {what for what, _ in said}
    assert all(0 <= share <= 1 for _, share in said)
    back = tmp_path / "back"
    assert restore(tmp_path / "b.zip", back) is None
    assert tables(back) == tables(own_demo)
    assert recordings(back) == recordings(own_demo)
    assert manifest.rows == {name: len(rows) for name, rows in tables(own_demo).items() if name != "sqlite_sequence"}
    assert (manifest.missing, manifest.made_at) == ([], NOW.isoformat())
    assert back.stat().st_mode & 0o077 == 0
    assert (tmp_path / "b.zip").stat().st_mode & 0o077 == 0


def test_a_backup_made_while_entries_come_in_holds_together(data_folder, tmp_path):
    workspace = Workspace(data_folder)
    answered, stop = [], threading.Event()

    def work():
        while not stop.is_set():
            new = material(f"Line {len(answered)}")
            add_material(workspace, ACTOR, new)
            answered.append(new.product)

    worker = threading.Thread(target=work)
    worker.start()
    try:
        for i in range(5):
            before = len(answered)
            manifest = write_backup(data_folder, tmp_path / f"{i}.zip", NOW)
            assert before <= manifest.rows["materials"] <= len(answered) + 1
            assert manifest.rows["changes"] == manifest.rows["materials"], "each with its line of the record: no entry is cut in two"
    finally:
        stop.set()
        worker.join()
        workspace.close()


def test_what_lay_there_is_kept_beside_and_backups_stay_where_they_are(own_demo):
    (own_demo / "backups").mkdir()
    made = own_demo / "backups" / "b.zip"
    write_backup(own_demo, made, NOW)
    before = tables(own_demo)
    with sqlite3.connect(own_demo / "assayer.db") as connection:
        connection.execute("UPDATE materials SET product = 'later'")
    former = restore(made, own_demo)
    assert tables(own_demo) == before
    assert {r for (r,) in sqlite3.connect(former / "assayer.db").execute("SELECT product FROM materials")} == {"later"}
    assert made.exists()


@pytest.mark.parametrize("part", ["assayer.db", "files/", "manifest.json"])
def test_a_changed_byte_is_found_and_nothing_is_changed(own_demo, tmp_path, part):
    good, bad = tmp_path / "good.zip", tmp_path / "bad.zip"
    write_backup(own_demo, good, NOW)
    with zipfile.ZipFile(good) as source, zipfile.ZipFile(bad, "w") as target:
        done = False
        for name in source.namelist():
            data = bytearray(source.read(name))
            if name.startswith(part) and not done:
                data[len(data) // 2] ^= 1
                done = True
            target.writestr(name, bytes(data))
    before = tables(own_demo)
    with pytest.raises(FileError, match=r"is damaged|is no backup|what it was"):
        restore(bad, own_demo)
    assert tables(own_demo) == before
    assert [p.name for p in own_demo.parent.iterdir() if "restoring" in p.name or "before" in p.name] == []


def with_manifest(good, bad, data):
    with zipfile.ZipFile(good) as source, zipfile.ZipFile(bad, "w") as target:
        for name in source.namelist():
            target.writestr(name, data if name == "manifest.json" else source.read(name))


def test_any_changed_byte_of_the_manifest_is_found_and_one_of_the_first_version_is_read(own_demo, tmp_path):
    good, bad = tmp_path / "good.zip", tmp_path / "bad.zip"
    manifest = write_backup(own_demo, good, NOW)
    with zipfile.ZipFile(good) as source:
        head = source.read("manifest.json")
    for i in range(0, len(head), len(head) // 60):
        changed = bytearray(head)
        changed[i] ^= 1
        with_manifest(good, bad, bytes(changed))
        with suppress(FileError):
            # white space says nothing: laid out otherwise it is the same
            assert peek_manifest(bad) == manifest
            assert head[i : i + 1].isspace()
    first = {k: v for k, v in json.loads(head).items() if k != "sha256"} | {"version": 1}
    with_manifest(good, bad, json.dumps(first).encode())
    assert peek_manifest(bad) == manifest


def test_what_is_no_backup_of_ours_is_refused(own_demo, tmp_path):
    good = tmp_path / "good.zip"
    write_backup(own_demo, good, NOW)

    def other(**change):
        made = tmp_path / f"{'-'.join(change)}.zip"
        with zipfile.ZipFile(good) as source, zipfile.ZipFile(made, "w") as target:
            for name in source.namelist():
                data = source.read(name)
                if name == "manifest.json":
                    # one of the first version, which anybody could write
                    first = {k: v for k, v in json.loads(data).items() if k != "sha256"} | {"version": 1}
                    data = json.dumps(first | change).encode()
                target.writestr(name, data)
        return made

    (tmp_path / "text").write_text("x")
    (tmp_path / "cut.zip").write_bytes(good.read_bytes()[:30_000])
    for file, words in (
        (tmp_path / "none.zip", "there is no file"),
        (tmp_path / "text", "is no backup of Assayer"),
        (tmp_path / "cut.zip", "or it is cut off"),
        (other(format="letters"), "is no backup of Assayer"),
        (other(version=3), "made by a newer version"),
        (other(files={"../../etc/passwd": 3}), "damaged or cut off: .* is no name of a recording"),
        (other(files={"z" * 64: 3}, rows={}), "is no name of a recording"),
        (other(files={"a" * 63: 3}, missing=[]), "is no name of a recording"),
    ):
        with pytest.raises(FileError, match=words):
            read_manifest(file)


def test_a_notebook_that_does_not_hold_together_gives_no_backup(own_demo, tmp_path):
    with sqlite3.connect(own_demo / "assayer.db") as connection:
        connection.execute("PRAGMA foreign_keys=OFF")
        connection.execute("DELETE FROM materials WHERE id = (SELECT material_id FROM variants LIMIT 1)")
    with pytest.raises(DamagedError, match="points at a materials that is not there"):
        write_backup(own_demo, tmp_path / "b.zip", NOW)
    assert list(tmp_path.glob("*.zip*")) == []
    assert list(tmp_path.glob(".assayer-*")) == []
    with pytest.raises(DataFolderError, match="there is no notebook"):
        write_backup(tmp_path / "nowhere", tmp_path / "b.zip", NOW)


def test_a_recording_that_is_gone_is_named_in_the_backup(own_demo, tmp_path):
    gone = sorted((own_demo / "files").glob("*/*"))[0]
    gone.unlink()
    manifest = write_backup(own_demo, tmp_path / "b.zip", NOW)
    assert manifest.missing == [gone.name]
    assert gone.name not in manifest.files
    (tmp_path / "r").mkdir()
    restore(tmp_path / "b.zip", tmp_path / "r")
    assert recordings(tmp_path / "r") == recordings(own_demo)


def test_a_backup_that_fails_half_way_leaves_the_one_before(own_demo, tmp_path, monkeypatch):
    target = tmp_path / "b.zip"
    write_backup(own_demo, target, NOW)
    before = target.read_bytes()

    def full(*_args, **_more):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(zipfile.ZipFile, "write", full)
    with pytest.raises(DataFolderError, match=r"cannot write the backup.*No space left"):
        write_backup(own_demo, target, NOW)
    assert target.read_bytes() == before
    assert [p.name for p in tmp_path.iterdir() if "part" in p.name] == []


# ---- which are worth their room ------------------------------------------------------------------


def test_a_year_of_nights_leaves_seven_days_four_weeks_twelve_months():
    nights = [NOW - timedelta(days=d) for d in range(500)]
    kept = worth_keeping(nights, NOW)
    sundays = {8, 15}
    """Of the weeks before this Monday's: the 14th is among the seven days already."""
    ends = {(NOW - at).days for at in nights if (at + timedelta(days=1)).month != at.month and at > NOW - timedelta(days=345)}
    assert len(ends) == 11
    assert {(NOW - at).days for at in kept} == set(range(7)) | sundays | ends


@given(st.lists(st.integers(0, 800), max_size=60), st.integers(0, 800))
def test_thinning_night_by_night_loses_nothing_that_thinning_at_once_would_keep(days, today):
    """What stays today was there yesterday: no night may have thrown away what a later night wants."""
    start = datetime(2024, 1, 1, 3, tzinfo=UTC)
    kept = set()
    for d in sorted({*days, today}):
        kept = worth_keeping({*kept, start + timedelta(days=d)}, start + timedelta(days=d))
    last = start + timedelta(days=max(*days, today) if days else today)
    assert kept == worth_keeping({start + timedelta(days=d) for d in {*days, today}}, last)


def test_a_clock_set_back_throws_nothing_away():
    ahead = NOW + timedelta(days=3)
    assert worth_keeping([ahead, NOW], NOW) == {ahead, NOW}
    assert worth_keeping([], NOW) == set()


def test_an_unused_folder_is_filled_as_it_stands(own_demo, tmp_path):
    target = tmp_path / "empty"
    target.mkdir()
    write_backup(own_demo, tmp_path / "b.zip", NOW)
    assert restore(tmp_path / "b.zip", target) is None
    shutil.rmtree(target)
    assert restore(tmp_path / "b.zip", target) is None
    assert (target / "assayer.db").exists()
