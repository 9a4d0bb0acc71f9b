"""Backups and the check as the page and the day sheet see them."""

import sqlite3
import time
from datetime import timedelta
from threading import Event

import pytest

from assayer.core.errors import ConflictError, EntryError, FileError, MissingError
from assayer.services.bench import runs
from assayer.services.day import sheet
from assayer.services.safekeeping import backups
from assayer.services.safekeeping import jobs as module_of_jobs
from assayer.services.safekeeping.check import check
from assayer.services.safekeeping.jobs import Jobs
from assayer.services.stock import materials
from assayer.services.unit import Workspace
from assayer.store.backup import peek_manifest

from ..conftest import NOW
from ..support import ACTOR, material, run
from .test_curves_wiring import recording


def day_items(workspace):
    return [(i.state, i.text) for i in sheet.day_sheet(workspace).items if i.kind == "backup"]


def test_the_day_sheet_speaks_up_after_a_week_without_a_good_backup(lab, clock, tmp_path):
    assert day_items(lab.workspace) == [], "begun today"
    clock.now = NOW + timedelta(days=7)
    assert day_items(lab.workspace) == []
    clock.now = NOW + timedelta(days=7, seconds=1)
    assert day_items(lab.workspace) == [("due", "there is no backup yet")]
    backups.make_backup(lab.workspace)
    assert day_items(lab.workspace) == []
    clock.now += timedelta(days=9)
    assert day_items(lab.workspace) == [("due", "the last good one is 9 days old")]
    backups.make_backup(lab.workspace, tmp_path / "elsewhere" / "mine.zip")
    assert day_items(lab.workspace) == [], "one put elsewhere counts"
    assert backups.status(lab.workspace).last_good == clock.now


def test_backups_go_where_they_are_told_and_are_listed_newest_first(lab, clock, tmp_path):
    made = backups.make_backup(lab.workspace)[0]
    assert made.parent == lab.workspace.folder / "backups"
    assert backups.status(lab.workspace).same_disk
    elsewhere = tmp_path / "disk" / "assayer"
    backups.set_folder(lab.workspace, ACTOR, str(elsewhere))
    told = backups.status(lab.workspace)
    assert (told.folder, told.backups) == (str(elsewhere), [])
    assert told.last_good == NOW, "the one before is still known"
    clock.now += timedelta(hours=1)
    backups.make_backup(lab.workspace)
    clock.now += timedelta(hours=1)
    backups.make_backup(lab.workspace, nightly=True)
    (elsewhere / "assayer-notes.zip").write_text("mine")
    found = backups.status(lab.workspace).backups
    assert [(b.made_at, b.nightly) for b in found] == [(NOW + timedelta(hours=2), True), (NOW + timedelta(hours=1), False)]
    assert found[0].size == (elsewhere / found[0].name).stat().st_size
    assert peek_manifest(backups.backup_file(lab.workspace, found[0].name)).made_at == clock.now.isoformat()
    for name in ("assayer-notes.zip", "../assayer.db", "assayer-20260101T000000Z.zip"):
        with pytest.raises(MissingError):
            backups.backup_file(lab.workspace, name)
    backups.set_folder(lab.workspace, ACTOR, "")
    assert backups.folder_of(lab.workspace) == lab.workspace.folder / "backups"


def test_only_a_backup_that_opens_is_a_good_one(lab, clock):
    folder = lab.workspace.folder / "backups"
    made = backups.make_backup(lab.workspace)[0]
    (lab.workspace.folder / "safekeeping.json").unlink()
    (folder / "assayer-20260616T100000Z.zip").write_bytes(made.read_bytes()[:2000])
    clock.now = NOW + timedelta(days=2)
    assert backups.last_good(lab.workspace) == NOW, "the newer one is cut off"
    made.unlink()
    assert backups.last_good(lab.workspace) is None


def test_a_folder_for_backups_is_tried_before_it_is_taken(lab, tmp_path):
    (tmp_path / "file").write_text("x")
    for folder, words in (("backups", "begin at the root"), (str(tmp_path / "file" / "in"), "cannot write into")):
        with pytest.raises(EntryError, match=words) as told:
            backups.set_folder(lab.workspace, ACTOR, folder)
        assert told.value.field == "folder"
    assert backups.folder_of(lab.workspace) == lab.workspace.folder / "backups"


def test_the_nightly_one_comes_once_a_day_and_thins_out_only_nightly_ones(lab, clock):
    jobs = Jobs(lab.workspace)
    by_hand = backups.make_backup(lab.workspace)[0].name
    clock.now += timedelta(minutes=1)
    assert [jobs.nightly(), jobs.nightly()] == [True, False]
    clock.now += timedelta(hours=23, minutes=59)
    assert not jobs.nightly()
    for _ in range(20):
        clock.now += timedelta(days=1)
        assert jobs.nightly()
    nightly = [b for b in backups.status(lab.workspace).backups if b.nightly]
    days = [(clock.now - b.made_at).days for b in nightly]
    assert days[:7] == list(range(7))
    assert 8 <= len(days) <= 11
    assert by_hand in [b.name for b in backups.status(lab.workspace).backups]


def test_the_watch_goes_on_whatever_goes_wrong(lab, monkeypatch, caplog):
    """What fails in words or by a fault of ours is logged, and the next look makes the backup."""
    jobs, tried, make = Jobs(lab.workspace), [], module_of_jobs.make_backup

    def first_two_fail(*args, **more):
        tried.append(more["nightly"])
        if len(tried) == 1:
            raise FileError("the folder is full")
        if len(tried) == 2:
            raise RuntimeError("a fault of ours")
        return make(*args, **more)

    monkeypatch.setattr(module_of_jobs, "make_backup", first_two_fail)
    jobs.keep_nightly(0.02)
    deadline = time.monotonic() + 30
    while not [b for b in backups.status(lab.workspace).backups if b.nightly]:
        assert time.monotonic() < deadline
        time.sleep(0.02)
    jobs.stop()
    assert tried == [True, True, True]
    assert "the nightly backup failed: the folder is full" in caplog.text
    assert "a fault of ours" in caplog.text


def test_a_fault_of_ours_ends_a_job_in_words(lab, monkeypatch):
    jobs = Jobs(lab.workspace)

    def broken(*_args, **_more):
        raise RuntimeError("no such thing")

    monkeypatch.setattr(module_of_jobs, "make_backup", broken)
    jobs.start("backup")
    jobs.wait()
    assert (jobs.shown().state, jobs.shown().words) == ("failed", "something went wrong in Assayer itself: the log names the place")


def test_a_job_runs_beside_and_says_how_it_ended(lab, monkeypatch):
    jobs, go_on, write = Jobs(lab.workspace), Event(), backups.write_backup

    def slowly(*args):
        args[-1]("copying the database", 0.5)
        go_on.wait(20)
        return write(*args)

    monkeypatch.setattr(backups, "write_backup", slowly)
    jobs.start("backup")
    while (under_way := jobs.shown()).share != 0.5:
        assert under_way.state == "running"
    with pytest.raises(ConflictError, match="a backup is under way"):
        jobs.start("check")
    go_on.set()
    jobs.wait()
    done = jobs.shown()
    assert (done.kind, done.state, done.share) == ("backup", "done", 1.0)
    assert "stood its check" in done.words
    jobs.start("check")
    jobs.wait()
    assert jobs.shown().words.startswith("all is whole")
    (lab.workspace.folder / "backups").rename(lab.workspace.folder / "former")
    (lab.workspace.folder / "backups").write_text("in the way")
    jobs.start("backup")
    jobs.wait()
    failed = jobs.shown()
    assert (failed.state, "cannot write the backup" in failed.words) == ("failed", True)


def test_the_check_finds_what_does_not_hold_together(lab):
    curve = recording(lab, lab.rig)
    other = recording(lab, lab.rig, peak_stress=41.0)
    specimen = lab.specimens(lab.flat, lab.arms[0])[0]
    runs.accept(lab.workspace, ACTOR, run(specimen, lab.flat, lab.rig, None, curve_id=curve))
    lab.accept(lab.flat, lab.arms[1], ["60", "61"])
    whole = check(lab.workspace)
    assert (whole.faults, whole.recordings, whole.runs) == ([], 2, 3)
    kept = lab.workspace.files.folder
    (kept / "ab").mkdir(exist_ok=True)
    (kept / "ab" / ("ab" * 32)).write_bytes(b"left by a crash")
    assert check(lab.workspace).notes == ["1 files belong to nothing: taken in and then dropped, or left by a crash; they do no harm"]

    def path(key):
        with sqlite3.connect(lab.workspace.db.path) as connection:
            return lab.workspace.files.path(connection.execute("SELECT sha256 FROM curves WHERE id = ?", (key,)).fetchone()[0])

    before = path(other).read_bytes()
    path(other).write_bytes(before[:-1] + b"9")
    removed = path(curve).read_bytes()
    path(curve).unlink()
    texts = {f.about: f.text for f in check(lab.workspace).faults}
    assert set(texts) == {"recordings"}
    found = [f.text for f in check(lab.workspace).faults]
    assert [("missing" in t, "altered" in t) for t in found] == [(True, False), (False, True)]
    path(other).write_bytes(before)
    path(curve).write_bytes(removed)
    with sqlite3.connect(lab.workspace.db.path) as connection:
        connection.execute("UPDATE results SET value = value * 1.1 WHERE quantity = 'strength' AND run_id IN (SELECT id FROM runs WHERE curve_id IS NULL)")
    (fault,) = check(lab.workspace).faults
    assert (fault.about, "recompute" in fault.advice) == ("results", True)
    assert fault.text.startswith("2 kept results are not what the readings give")
    with sqlite3.connect(lab.workspace.db.path) as connection:
        connection.execute("PRAGMA foreign_keys=OFF")
        connection.execute("DELETE FROM rigs WHERE id IN (SELECT rig_id FROM rig_versions)")
    assert {f.about for f in check(lab.workspace).faults} == {"references"}


def test_the_check_changes_nothing_and_holds_nobody_up(own_demo):
    workspace = Workspace(own_demo, durable=False)
    before = [line for line in sqlite3.connect(workspace.db.path).iterdump()]
    shares = []
    with workspace.write(ACTOR):
        report = check(workspace, lambda what, share: shares.append((what, share)))
    assert report.faults == []
    assert {what for what, _ in shares} == {"looking through the database", "reading the files", "reducing the readings anew"}
    materials.add_material(workspace, ACTOR, material("Anew"))
    workspace.close()
    assert len([line for line in sqlite3.connect(own_demo / "assayer.db").iterdump()]) > len(before)
