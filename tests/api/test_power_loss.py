"""Power lost while entries come in, on a real file system that drops whatever was not synced.

The notebook lies on an ext4 of its own in an image file, mounted so that nothing reaches the image but what is synced
(commits of the journal and writing back wait for ten minutes). The image, copied while the server is stopped in the
middle of its work, is the disk as it stood when the power went.
"""

import hashlib
import io
import os
import shutil
import signal
import sqlite3
import subprocess
import threading
import time
import urllib.request
from contextlib import closing, contextmanager, suppress

import pytest
from PIL import Image

from ..browser.walk import Server
from ..support import new_id
from .test_durability import CHANNELS, entry, post

OPTIONS = "loop,commit=600,noauto_da_alloc"


@contextmanager
def mounted(image, at):
    at.mkdir(exist_ok=True)
    subprocess.run(["mount", "-o", OPTIONS, image, at], check=True, capture_output=True)
    try:
        yield at
    finally:
        subprocess.run(["umount", at], check=True, capture_output=True)


@pytest.fixture
def disk(tmp_path):
    image = tmp_path / "disk.img"
    image.touch()
    os.truncate(image, 96 << 20)
    try:
        subprocess.run(["mkfs.ext4", "-q", image], check=True, capture_output=True)
        with mounted(image, tmp_path / "disk") as at:
            yield image, at
    except (OSError, subprocess.CalledProcessError) as error:
        pytest.skip(f"no file system can be mounted here: {getattr(error, 'stderr', None) or error}")


@contextmanager
def after_power_loss(image, tmp_path):
    """The disk as it stood, mounted anew elsewhere: its journal is played back as at the next start."""
    copy = tmp_path / "afterwards.img"
    shutil.copyfile(image, copy)
    with mounted(copy, tmp_path / "afterwards") as at:
        yield at
    copy.unlink()


def set_up(server):
    materials, version = [new_id() for _ in range(6)], new_id()
    for i, key in enumerate(materials):
        post(server, "/api/materials", {"id": key, "maker": "Hollin", "product": f"No. {i}", "polymer": "PLA", "colour": "grey", "hex": "#888888"})
    post(server, "/api/rigs", {"id": new_id(), "version_id": version, "name": "frame", "channels": CHANNELS})
    arms, tests = [{"id": new_id(), "material_id": m} for m in materials], [{"id": new_id(), "orientation": "flat", "replicates": 50}]
    _, study = post(server, "/api/studies", {"id": new_id(), "title": "t", "arms": arms, "tests": tests})
    for arm in study["arms"]:
        post(server, "/api/batches", {"id": new_id(), "arm_id": arm["id"], "printed_at": "2026-06-01T08:00:00Z"})
    test = study["tests"][0]["id"]
    return test, version, server.get(f"/api/tests/{test}/queue")["items"]


def send_photo(server, specimen, number):
    out = io.BytesIO()
    Image.new("RGB", (320, 240), (number % 256, number // 256, 9)).save(out, "JPEG")
    key = new_id()
    request = urllib.request.Request(f"{server.url}/api/photos/{key}?subject_kind=specimen&subject_id={specimen}", out.getvalue(), method="PUT")
    with urllib.request.urlopen(request, timeout=30) as answer:
        assert answer.status == 201
    return key


def test_what_was_answered_is_there_after_the_power_was_lost(disk, tmp_path):
    image, at = disk
    server = Server(at / "data")
    server.start()
    done = threading.Event()
    runs, photos, workers = [], [], []
    try:
        test, rig, items = set_up(server)

        def pull(own):
            for item in own:
                body = entry(test, item, rig)
                if done.is_set() or post(server, "/api/runs", body)[0] != 201:
                    return
                runs.append(body["id"])

        def look():
            for number, item in enumerate(items):
                if done.is_set():
                    return
                photos.append(send_photo(server, item["specimen_id"], number))

        workers += [threading.Thread(target=pull, args=(items[i::3],)) for i in range(3)] + [threading.Thread(target=look)]
        for worker in workers:
            worker.start()
        for cut in range(3):
            enough = 12 * (cut + 1)
            while len(runs) < enough or len(photos) < enough // 3:
                time.sleep(0.003)
            (at / "unsynced").write_bytes(b"x" * 50_000)
            server.process.send_signal(signal.SIGSTOP)
            answered, seen = set(runs), set(photos)
            time.sleep(0.1)
            with after_power_loss(image, tmp_path) as left:
                assert not (left / "unsynced").exists() or (left / "unsynced").stat().st_size == 0, "this disk keeps what was not synced: it shows nothing"
                with closing(sqlite3.connect(left / "data/assayer.db")) as database:
                    kept = {k for (k,) in database.execute("SELECT id FROM runs")}
                    assert database.execute("PRAGMA integrity_check").fetchone() == ("ok",)
                    files = dict(database.execute("SELECT id, sha256 FROM photos"))
                assert answered <= kept, f"{len(answered - kept)} of {len(answered)} accepted entries were lost"
                assert seen <= set(files)
                there = {hashlib.sha256(p.read_bytes()).hexdigest() for p in (left / "data/files").rglob("*") if p.is_file()}
                assert {files[key] for key in seen} <= there, "a picture is known whose file had not reached the disk"
            server.process.send_signal(signal.SIGCONT)
    finally:
        done.set()
        if server.process is not None:
            with suppress(ProcessLookupError):
                server.process.send_signal(signal.SIGCONT)
        for worker in workers:
            worker.join()
        server.stop()
