"""Four writers, a server that is killed at any instant and started again, every entry sent until it is answered.

    .venv/bin/python benchmarks/trial_of_durability.py [MINUTES] [--seed N]

Afterwards the notebook is read with nothing but SQLite and held against what was answered: nothing missing, nothing
doubled, nothing half-written, the whole of it sound. A form of 60 seconds runs in the tests, where writers take their
time but for the last moments before each kill, since other tests run beside it.
"""

from __future__ import annotations

import argparse
import http.client
import json
import random
import sqlite3
import sys
import tempfile
import threading
import time
import urllib.error
import urllib.request
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from datetime import UTC, datetime
from itertools import count
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))

from benchmarks.writers import body as run_of
from benchmarks.writers import new_id, set_up
from tests.browser.walk import Server
from tests.nursery import Nursery

from assayer.services.stock import intakes, spools
from assayer.services.stock.requests import NewSpool, SpoolEdit
from assayer.services.unit import Actor, Workspace
from assayer.store.models import Material

WRITERS = 4
LIVES = (0.3, 4.0)
"""Seconds between a server's first answer and its kill."""
RUSH = 0.6
"""Where writers take their time, the seconds before a kill in which they do not."""


@dataclass
class Trial:
    """What was done and what was found."""

    kills: int = 0
    sent: int = 0
    answered: dict[str, dict[str, object]] = field(default_factory=dict)
    refused: list[str] = field(default_factory=list)
    missing: list[str] = field(default_factory=list)
    doubled: list[str] = field(default_factory=list)
    half: list[str] = field(default_factory=list)
    other: list[str] = field(default_factory=list)
    integrity: str = ""

    @property
    def sound(self) -> bool:
        return not (self.refused or self.missing or self.doubled or self.half or self.other) and self.integrity == "ok"

    def words(self) -> str:
        bad = {k: len(getattr(self, k)) for k in ("refused", "missing", "doubled", "half", "other")}
        return f"{self.kills} kills, {self.sent} requests for {len(self.answered)} answered entries; {bad}; integrity: {self.integrity}"


def run_trial(folder: Path, seconds: float, seed: int, nursery: Nursery | None = None, pause: float = 0.0) -> Trial:
    """Set up a notebook in `folder`, try it for so long, and read what is left.

    Writers pause so many seconds after each entry, but for the time just before a kill, when it matters what is under way.
    """
    # as many as can be accepted in the time, about
    work, rig = set_up(folder, max(2, min(20, round(seconds / 10))))
    spools = _spools(folder, WRITERS)
    trial, server, over, rush = Trial(), Server(folder, nursery=nursery), threading.Event(), threading.Event()
    server.start()
    writers = [
        threading.Thread(
            target=_write, args=(trial, server, over, lambda: rush.wait(pause), _entries(work[i::WRITERS], rig, spools[i]), random.Random(f"{seed}-{i}"))
        )
        for i in range(WRITERS)
    ]
    for writer in writers:
        writer.start()
    rng, until = random.Random(seed), time.monotonic() + seconds
    while time.monotonic() < until:
        life = rng.uniform(*LIVES)
        time.sleep(max(0.0, life - RUSH))
        rush.set()
        time.sleep(min(life, RUSH))
        server.kill()
        trial.kills += 1
        rush.clear()
        server.start()
    over.set()
    for writer in writers:
        writer.join()
    server.kill()
    trial.kills += 1
    read(folder, trial)
    return trial


def _spools(folder: Path, many: int) -> list[str]:
    workspace, actor = Workspace(folder, durable=False), Actor("trial")
    with workspace.read() as session:
        material = session.query(Material.id).first()
    ids = [new_id() for _ in range(many)]
    for key in ids:
        new = NewSpool(id=key, material_id=material[0] if material else "", received_on=workspace.clock().date())
        made, _ = intakes.add_spool(workspace, actor, new)
        spools.edit_spool(workspace, actor, key, SpoolEdit(empty=200), made.revision)
    workspace.close()
    return ids


def _entries(work: list[tuple[str, str]], rig: str, spool: str) -> Iterator[tuple[str, dict[str, object]]]:
    """Runs of seven readings as long as there are specimens, and weighings between them without end."""
    specimens = iter(work)
    for n in count():
        at = next(specimens, None) if n % 2 == 0 else None
        if at is not None:
            yield "/api/runs", json.loads(run_of(*at, rig))
        else:
            entry = {"id": new_id(), "raw": f"{900 - n % 6000 / 10:.1f}", "at": datetime.now(UTC).isoformat()}
            yield f"/api/spools/{spool}/weighings", entry


def _write(
    trial: Trial,
    server: Server,
    over: threading.Event,
    rest: Callable[[], object],
    entries: Iterator[tuple[str, dict[str, object]]],
    rng: random.Random,
) -> None:
    for path, entry in entries:
        while True:
            trial.sent += 1
            try:
                request = urllib.request.Request(server.url + path, json.dumps(entry).encode(), {"Content-Type": "application/json"})
                with urllib.request.urlopen(request, timeout=10) as answer:
                    answer.read()
                trial.answered[str(entry["id"])] = entry
                break
            except urllib.error.HTTPError as error:
                if error.code < 500:
                    trial.refused.append(f"{error.code} {path}: {error.read()[:200]!r}")
                    break
            except (OSError, http.client.HTTPException):
                # killed before the answer, or within it: sent again
                pass
            time.sleep(rng.uniform(0.02, 0.2))
        if over.is_set():
            return
        rest()


def read(folder: Path, trial: Trial) -> None:
    """With SQLite alone: every answered entry is there, once and whole, and nothing else is."""
    database = sqlite3.connect(folder / "assayer.db")
    trial.integrity = database.execute("PRAGMA integrity_check").fetchone()[0]
    broken = database.execute("PRAGMA foreign_key_check").fetchall()
    trial.other += [f"a reference to nothing: {row}" for row in broken]
    readings = dict(
        database.execute("SELECT run_id, group_concat(raw, '|') FROM (SELECT run_id, raw FROM readings ORDER BY run_id, field, position) GROUP BY run_id")
    )
    results = dict(database.execute("SELECT run_id, count(*) FROM results GROUP BY run_id"))
    runs = dict(database.execute("SELECT id, specimen_id FROM runs"))
    weighings = dict(database.execute("SELECT id, raw FROM weighings"))
    logged = dict(database.execute("SELECT entity_id, count(*) FROM changes WHERE entity = 'run' GROUP BY entity_id"))
    for key, entry in trial.answered.items():
        if "readings" in entry:
            wanted = "|".join(r["raw"] for r in sorted(entry["readings"], key=lambda r: (r["field"], r["position"])))  # type: ignore[attr-defined, index]
            if key not in runs:
                trial.missing.append(key)
            elif readings.get(key) != wanted or not results.get(key) or logged.get(key) != 1:
                trial.half.append(key)
        elif weighings.get(key) != entry["raw"]:
            trial.missing.append(key)
    specimens = [s for s in runs.values() if s is not None]
    trial.doubled += sorted({s for s in specimens if specimens.count(s) > 1}) if len(specimens) != len(set(specimens)) else []
    trial.other += [f"never answered, and there: {key}" for key in (runs.keys() | weighings.keys()) - trial.answered.keys()]
    database.close()


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("minutes", nargs="?", type=float, default=5.0)
    parser.add_argument("--seed", type=int, default=1)
    asked = parser.parse_args()
    with tempfile.TemporaryDirectory() as room:
        trial = run_trial(Path(room) / "data", 60 * asked.minutes, asked.seed)
    print("ok  " if trial.sound else "MISS", trial.words(), flush=True)
    for kind in ("refused", "missing", "doubled", "half", "other"):
        for one in getattr(trial, kind)[:5]:
            print(f"     {kind}: {one}")
    sys.exit(0 if trial.sound else 1)


if __name__ == "__main__":
    main()
