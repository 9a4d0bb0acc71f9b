"""Fixtures that several folders share."""

import fcntl
import gc
import os
import re
import shutil
from contextlib import contextmanager
from datetime import UTC, datetime

import pytest
from sqlalchemy import Engine, event

from assayer.cli.serving import settle_memory
from assayer.demo.scenario import make_demo
from assayer.services.unit import Workspace

from .nursery import Nursery

NOW = datetime(2026, 6, 15, 10, 0, tzinfo=UTC)

# as the server does: what is loaded stays, and collections that walk over it take a tenth of all tests' time
gc.disable()


def pytest_collection_finish():
    settle_memory()


@pytest.fixture(scope="session")
def nursery():
    """Where servers and commands come from that need no process of their own from its beginning."""
    made = Nursery()
    yield made
    made.close()


@pytest.fixture(scope="session")
def demo_folder(tmp_path_factory):
    """The demo data, made once for all workers; copy it before changing it."""
    return made_once(tmp_path_factory, "demo", lambda folder: make_demo(folder, datetime.now(UTC)))


@pytest.fixture(scope="session")
def demo_of_that_day(tmp_path_factory, nursery):
    """The demo data of `NOW`, made by the command beside the rest of an attempt that was broken off; not to be changed."""

    def make(folder):
        part = folder.with_name(folder.name + ".part")
        part.mkdir()
        (part / "rest of an interrupted one").write_text("x")
        done = nursery.run("demo", "--data", folder, "--no-serve", "--now", NOW.isoformat())
        assert done.returncode == 0, done.stderr

    return made_once(tmp_path_factory, "demo of that day", make)


def made_once(tmp_path_factory, name, make):
    """A folder that is made once for all workers."""
    base = tmp_path_factory.getbasetemp()
    shared = base.parent if "PYTEST_XDIST_WORKER" in os.environ else base
    with (shared / f"{name}.lock").open("w") as lock:
        # whoever comes first makes it while the others wait
        fcntl.flock(lock, fcntl.LOCK_EX)
        folder = shared / name
        if not folder.exists():
            make(shared / f"{name} being made")
            (shared / f"{name} being made").rename(folder)
    return folder


@pytest.fixture
def own_demo(demo_folder, tmp_path):
    """A copy of the demo data to be changed at will."""
    return shutil.copytree(demo_folder, tmp_path / "data")


@pytest.fixture(scope="session")
def migrated(tmp_path_factory):
    """A data folder of the newest schema with nothing in it: migrating anew takes longer than most tests."""
    folder = tmp_path_factory.mktemp("migrated") / "data"
    Workspace(folder, durable=False).close()
    return folder


@pytest.fixture
def data_folder(migrated, tmp_path):
    """An empty data folder of one's own."""
    return shutil.copytree(migrated, tmp_path / "data")


@pytest.fixture
def workspace(data_folder):
    """An empty data folder with a clock that stands still."""
    made = Workspace(data_folder, lambda: NOW, durable=False)
    yield made
    made.close()


_WRITES = re.compile(r"\s*(?:INSERT (?:OR \w+ )?INTO|UPDATE|DELETE FROM) \"?(\w+)", re.IGNORECASE)
UNLOGGED = {"leases", "changes", "results"}
"""A station's claim of a specimen is no change of what is known; results are worked out anew from what is."""
_RAISED = re.compile(r"UPDATE (\w+) SET revision=(?:\S+ WHERE|\()", re.IGNORECASE)
EVIDENCE = {"runs", "readings", "batches", "slots"}
"""What boards and rankings rest on: whoever looks at them learns of a change by the revision of the study."""


@pytest.fixture(autouse=True)
def every_change_is_in_the_log_and_raises_what_rests_on_it(monkeypatch):
    """Whatever a unit of work writes, a line of the log says so, and evidence raises its study's revision: held wherever a test goes through the services."""
    written: list[set[str]] = []

    def seen(conn, cursor, statement, *_):
        found, raised = _WRITES.match(statement), _RAISED.match(statement)
        if written and (raised or found):
            written[-1].add(f"revision of {raised[1]}" if raised else found[1])

    kept = Workspace.write

    @contextmanager
    def write(self, actor, *sent):
        with kept(self, actor, *sent) as unit:
            written.append(set())
            try:
                yield unit
                unit.session.flush()
            finally:
                tables = written.pop()
            changed = {t for t in tables if not t.startswith("revision of ")}
            assert not changed - UNLOGGED or "changes" in changed, f"{sorted(changed)} changed, and the log does not say so"
            told = not changed & EVIDENCE or tables & {"revision of studies", "studies", "trials"}
            assert told, f"{sorted(changed)} changed, and whoever looks at the study is not told"

    monkeypatch.setattr(Workspace, "write", write)
    event.listen(Engine, "before_cursor_execute", seen)
    yield
    event.remove(Engine, "before_cursor_execute", seen)
