"""The demo with many times as much stored beside it, as after years of work."""

import sqlite3
from collections import Counter
from pathlib import Path
from typing import Any
from uuid import NAMESPACE_OID, uuid5

from fastapi.testclient import TestClient

from assayer.core.codes import SYMBOLS, with_check
from assayer.services.unit import Workspace

from .demo_questions import Question, questions

LAB = {
    "alembic_version", "people", "preferences", "current_sheets", "leases", "rigs", "rig_versions", "rig_channels", "calibrations", "dial_calibrations",
    "printers", "printer_changes", "nozzles", "bed_surfaces", "own_method_versions", "file_templates", "rig_conversions",
}  # fmt: skip
"""What a lab has once, however long it works."""
NAMED = {("materials", "product"), ("purposes", "title"), ("studies", "title")}
DONE = (
    "UPDATE studies SET put_away_at = created_at", "UPDATE runs SET complete = 1", "UPDATE spools SET gone_at = created_at, decision = 'fit'",
    "UPDATE materials SET doubts = 0", "UPDATE trails SET put_away_at = created_at", "UPDATE sessions SET ended_at = coalesce(ended_at, started_at)",
    "DELETE FROM follow_ups",
)  # fmt: skip
"""Work of former years is finished."""


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
    ids = {row[columns.index("id")] for name, (columns, _, rows) in tables.items() if "id" in columns and name != "sent" for row in rows}
    tables["sent"] = (*tables["sent"][:2], [row for row in tables["sent"][2] if row[0] in ids])
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
