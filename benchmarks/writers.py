"""Eight clients accepting runs as fast as they can on the real server, against a bare SQLite program on the same disk.

    .venv/bin/python benchmarks/writers.py [SECONDS]

Each client is a process of its own with one kept connection and sends runs of seven readings; the bare program
commits the same rows durably, one transaction a run. Both are measured within one run, in turn.
"""

from __future__ import annotations

import http.client
import json
import multiprocessing as mp
import sqlite3
import statistics
import sys
import tempfile
import time
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

sys.path.insert(0, str(Path(__file__).parents[1]))

from tests.browser.walk import running_server

from assayer.core.ids import uuid7
from assayer.services.printing import batches
from assayer.services.printing.requests import NewBatch
from assayer.services.rigs import rigs
from assayer.services.rigs.requests import NewChannel, NewRig
from assayer.services.stock import materials
from assayer.services.stock.requests import NewMaterial
from assayer.services.studies import planning
from assayer.services.studies.requests import NewArm, NewStudy, NewTest
from assayer.services.unit import Actor, Workspace
from assayer.store.models import Slot, Specimen

CLIENTS = 8


def new_id() -> str:
    return str(uuid7(datetime.now(UTC)))


def set_up(folder: Path, replicates: int = 20) -> tuple[list[tuple[str, str]], str]:
    """A study of 40 arms, 5 tests, so many each: what is to be pulled, as (specimen, test), and the rig's version."""
    workspace, actor = Workspace(folder, durable=False), Actor("bench")
    ids = [new_id() for _ in range(40)]
    for i, key in enumerate(ids):
        materials.add_material(workspace, actor, NewMaterial(id=key, maker=f"M{i}", product="p", polymer="PLA", colour="grey", hex="#888888"))
    channels = [NewChannel(name=n, dimension=n, unit=u, step=0.01) for n, u in (("force", "N"), ("length", "mm"))]
    rig = rigs.add_rig(workspace, actor, NewRig(id=new_id(), version_id=new_id(), name="r", channels=channels))[0].id
    shapes = ["short-pull-bar", "dumb-bell-1ba", "dumb-bell-1a", "d638-i", "d638-iv"]
    plan = NewStudy(
        id=new_id(),
        title="t",
        arms=[NewArm(id=new_id(), material_id=m) for m in ids],
        tests=[NewTest(id=new_id(), orientation="flat", shape=s, replicates=replicates) for s in shapes],
    )
    study = planning.create_study(workspace, actor, plan)[0]
    for arm in study.arms:
        batches.print_batch(workspace, actor, NewBatch(id=new_id(), arm_id=arm.id, printed_at=workspace.clock()))
    with workspace.read() as session:
        nominal = {t.id: (t.shape.dimensions["width"], t.shape.dimensions["thickness"]) for t in study.tests}
        rows = [(s.id, t) for s, t in session.query(Specimen, Slot.test_id).join(Slot, Slot.id == Specimen.slot_id)]
    workspace.close()
    return [(s, json.dumps([t, *nominal[t]])) for s, t in rows], rig


def body(specimen: str, told: str, rig: str) -> bytes:
    test, width, thickness = json.loads(told)
    typed = [("width", i, f"{width + 0.01 * i:.2f}") for i in range(3)] + [("thickness", i, f"{thickness + 0.01 * i:.2f}") for i in range(3)]
    typed.append(("peak_force", 0, f"{40 * width * thickness:.1f}"))
    readings = [{"id": new_id(), "field": f, "position": i, "raw": raw} for f, i, raw in typed]
    at = datetime.now(UTC).isoformat()
    return json.dumps({"id": new_id(), "subject_id": specimen, "test_id": test, "rig_version_id": rig, "happened_at": at, "readings": readings}).encode()


def client(port: int, work: list[tuple[str, str]], rig: str, seconds: float, begin: Any, out: Any) -> None:
    connection = http.client.HTTPConnection("127.0.0.1", port, timeout=60)
    taken, statuses = [], []
    begin.wait()
    until = time.time() + seconds
    for specimen, told in work:
        if time.time() > until:
            break
        sent = body(specimen, told, rig)
        start = time.perf_counter()
        connection.request("POST", "/api/runs", sent, {"Content-Type": "application/json"})
        answer = connection.getresponse()
        answer.read()
        taken.append(time.perf_counter() - start)
        statuses.append(answer.status)
    out.put((taken, statuses))


def bare(folder: Path, seconds: float) -> float:
    """Runs a second of a program that only keeps the same rows: a run, seven readings, two results, a line of the record."""
    connection = sqlite3.connect(folder / "bare.db", isolation_level=None)
    connection.executescript(
        """PRAGMA journal_mode=WAL; PRAGMA synchronous=FULL;
        CREATE TABLE runs (id TEXT PRIMARY KEY, subject TEXT, test TEXT, at TEXT, words TEXT);
        CREATE TABLE readings (seq INTEGER PRIMARY KEY, id TEXT UNIQUE, run TEXT REFERENCES runs, field TEXT, raw TEXT, value REAL, at TEXT);
        CREATE INDEX readings_run ON readings (run);
        CREATE TABLE results (seq INTEGER PRIMARY KEY, run TEXT REFERENCES runs, quantity TEXT, value REAL);
        CREATE INDEX results_run ON results (run);
        CREATE TABLE changes (seq INTEGER PRIMARY KEY, at TEXT, what TEXT);"""
    )
    done, start = 0, time.perf_counter()
    while time.perf_counter() - start < seconds:
        key, at = new_id(), datetime.now(UTC).isoformat()
        connection.execute("BEGIN IMMEDIATE")
        connection.execute("INSERT INTO runs VALUES (?, ?, ?, ?, ?)", (key, key, key, at, "x" * 300))
        connection.executemany("INSERT INTO readings VALUES (NULL, ?, ?, 'width', '4.02', 4.02, ?)", [(new_id(), key, at) for _ in range(7)])
        connection.executemany("INSERT INTO results VALUES (NULL, ?, ?, 40.0)", [(key, q) for q in ("strength", "peak_force")])
        connection.execute("INSERT INTO changes VALUES (NULL, ?, ?)", (at, "x" * 300))
        connection.execute("COMMIT")
        done += 1
    connection.close()
    return done / (time.perf_counter() - start)


def main(seconds: float) -> None:
    with tempfile.TemporaryDirectory() as room:
        folder = Path(room)
        # more than can be accepted in that time
        work, rig = set_up(folder / "data", 40)
        plain = bare(folder, min(5.0, seconds))
        with running_server(folder / "data") as server:
            out: Any = mp.Queue()
            begin = mp.Barrier(CLIENTS + 1)
            clients = [mp.Process(target=client, args=(server.port, work[i::CLIENTS], rig, seconds, begin, out)) for i in range(CLIENTS)]
            for c in clients:
                c.start()
            begin.wait()
            start = time.perf_counter()
            found = [out.get() for _ in clients]
            taken = [t for times, _ in found for t in times]
            rate = len(taken) / (time.perf_counter() - start)
            for c in clients:
                c.join()
        (folder / "bare.db").unlink()
        plain = statistics.mean([plain, bare(folder, min(5.0, seconds))])
    statuses = [s for _, own in found for s in own]
    refused = sum(s != 201 for s in statuses)
    taken.sort()
    wanted = min(60.0, plain / 6)
    for what, got, bound, at_most in (
        (f"eight clients, {len(taken)} runs of 7 readings in {seconds:g} s: runs/s", rate, wanted, False),
        ("  p95 of an accepted run, ms", 1e3 * taken[int(0.95 * len(taken))], 250.0, True),
        ("  the longest, ms", 1e3 * taken[-1], 1000.0, True),
        ("  refused", float(refused), 0.0, True),
    ):
        ok = got <= bound if at_most else got >= bound
        print(f"{'ok  ' if ok else 'MISS'} {what:66} {got:9.3f} (bound {bound:g}; bare program {plain:.0f}/s, ratio {rate / plain:.3f})", flush=True)


if __name__ == "__main__":
    mp.set_start_method("spawn")
    main(float(sys.argv[1]) if len(sys.argv) > 1 else 60.0)
