"""Cost grows with what is looked at: the questions of the demo's pages, before and after forty more years of it are stored."""

from __future__ import annotations

import json
import shutil
import sqlite3
import tempfile
import time
from collections import Counter
from datetime import UTC, datetime
from pathlib import Path
from typing import Any
from uuid import NAMESPACE_OID, uuid5

import numpy as np
from benchmarks.measuring import report
from fastapi.testclient import TestClient
from tests.api.demo_questions import Question, questions

from assayer.api.app import create_app
from assayer.cli.serving import settle_memory
from assayer.core.codes import SYMBOLS, with_check
from assayer.demo.scenario import make_demo
from assayer.services.unit import Workspace

COPIES = 40
LAB = {
    "alembic_version", "people", "preferences", "current_sheets", "leases", "rigs", "rig_versions", "rig_channels", "calibrations", "dial_calibrations",
    "printers", "printer_changes", "nozzles", "bed_surfaces", "own_method_versions", "file_templates",
}  # fmt: skip
"""What a lab has once, however long it works."""
NAMED = {("materials", "product"), ("purposes", "title"), ("studies", "title")}
DONE = (
    "UPDATE studies SET put_away_at = created_at", "UPDATE runs SET complete = 1", "UPDATE spools SET gone_at = created_at, decision = 'fit'",
    "UPDATE materials SET doubts = 0", "UPDATE trails SET put_away_at = created_at", "UPDATE sessions SET ended_at = coalesce(ended_at, started_at)",
    "DELETE FROM follow_ups",
)  # fmt: skip
"""Work of former years is finished."""

Times = dict[str, tuple[float, int]]
"""Of each question, seconds and bytes of the answer."""


def multiply(path: Path, copies: int) -> None:
    """Store everything again so many times, under new ids, codes and names, as work that is done."""
    db = sqlite3.connect(path)
    tables = {}
    for (name,) in db.execute("SELECT name FROM sqlite_master WHERE type = 'table'").fetchall():
        shape = db.execute(f"PRAGMA table_info({name})").fetchall()
        keys = [c for c in shape if c[5]]
        # a number that SQLite gives out is given out anew
        columns = [c[1] for c in shape if not (len(keys) == 1 and c[5] and "INT" in c[2])]
        if name not in LAB and columns:
            quoted = ", ".join(f'"{c}"' for c in columns)
            tables[name] = columns, quoted, db.execute(f"SELECT {quoted} FROM {name}").fetchall()
    ids = {row[columns.index("id")] for columns, _, rows in tables.values() if "id" in columns for row in rows}
    codes: dict[tuple[str, int], str] = {}

    def anew(table: str, column: str, value: Any, copy: int) -> Any:
        if value in ids:
            return str(uuid5(NAMESPACE_OID, f"{value} {copy}"))
        if column == "code" and value:
            number = len(codes) + 100_000
            return codes.setdefault((value, copy), with_check("".join(SYMBOLS[(number >> (5 * k)) & 31] for k in range(5))))
        return f"{value} {copy}" if (table, column) in NAMED else value

    for copy in range(1, copies + 1):
        for name, (columns, quoted, rows) in tables.items():
            made = [[anew(name, c, v, copy) for c, v in zip(columns, row, strict=True)] for row in rows]
            db.executemany(f"INSERT INTO {name} ({quoted}) VALUES ({', '.join('?' * len(columns))})", made)
    db.execute("CREATE TEMP TABLE own (id TEXT PRIMARY KEY)")
    db.executemany("INSERT INTO own VALUES (?)", [(i,) for i in ids])
    for statement in DONE:
        db.execute(f"{statement} WHERE id NOT IN (SELECT id FROM own)")
    db.commit()
    db.close()


def asked_of(client: TestClient, workspace: Workspace) -> list[Question]:
    """Of each view a few."""
    seen: Counter[str] = Counter()
    found = []
    for question in questions(client, workspace):
        seen[question[0]] += 1
        if seen[question[0]] <= 4:
            found.append(question)
    return found


def timed_answers(folder: Path, asked: list[Question] | None = None) -> tuple[list[Question], Times]:
    workspace = Workspace(folder, durable=False)
    with TestClient(create_app(workspace), base_url="http://127.0.0.1") as client:
        asked = asked or asked_of(client, workspace)
        for _, verb, path, body in asked:
            client.request(verb, path, json=body)
        settle_memory()
        found: Times = {}
        for _, verb, path, body in asked:
            taken = []
            for _ in range(3):
                start = time.perf_counter()
                answer = client.request(verb, path, json=body)
                taken.append(time.perf_counter() - start)
            found[f"{verb} {path} {json.dumps(body)}"] = sorted(taken)[1], len(answer.content)
    workspace.close()
    return asked, found


def bench_growth() -> None:
    """Answers that say no more than before, and all of them."""
    with tempfile.TemporaryDirectory() as folder:
        small, large = Path(folder) / "small", Path(folder) / "large"
        make_demo(small, datetime.now(UTC))
        asked, before = timed_answers(small)
        shutil.copytree(small, large)
        multiply(large / "assayer.db", COPIES)
        _, after = timed_answers(large, asked)
    same = [q for q in before if after[q][1] < 1.3 * before[q][1]]
    ratio = sum(after[q][0] for q in same) / sum(before[q][0] for q in same)
    slowest = max(same, key=lambda q: after[q][0] / before[q][0] if after[q][0] > 0.02 else 0.0)
    told = f"most: {slowest[:60]} {before[slowest][0] * 1e3:.0f} → {after[slowest][0] * 1e3:.0f} ms"
    report(f"{len(same)} answers that say the same, {COPIES} times as much stored", ratio, 1.5, "×", told)
    times = sorted((seconds for seconds, _ in after.values()), reverse=True)
    report(
        f"all {len(after)} questions of the pages with that much stored, p95", float(np.quantile(times, 0.95)) * 1e3, 50, "ms", f"longest {times[0] * 1e3:.0f}"
    )
