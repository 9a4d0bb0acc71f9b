"""Cost grows with what is looked at: no page reads all of a table that grows with every entry."""

import re
from collections import Counter

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import event, text

from assayer.api.app import create_app
from assayer.services.unit import Workspace

from .demo_questions import questions

GROWS = {
    "arms", "batches", "changes", "curves", "filament_uses", "intakes", "oven_notes", "photos", "plate_places", "plates", "readings", "results", "runs",
    "session_members", "session_readings", "slots", "specimens", "spool_readings", "storage_moves", "trial_grades", "weighings",
}  # fmt: skip
"""Tables with several rows for each specimen, spool or entry."""


def scanned(session, statement, parameters):
    """Of a statement, the tables that SQLite reads from end to end."""
    named = {m[2] or m[1]: m[1] for m in re.finditer(r"(?:FROM|JOIN|,)\s+(\w+)(?: AS (\w+))?", statement)}
    plan = session.connection().exec_driver_sql(f"EXPLAIN QUERY PLAN {statement}", parameters)
    found = (re.match(r"SCAN (\w+)", row[3]) for row in plan)
    return {named.get(m[1], m[1]) for m in found if m}


@pytest.fixture
def demo(own_demo):
    workspace = Workspace(own_demo, durable=False)
    with TestClient(create_app(workspace), base_url="http://127.0.0.1") as client:
        yield workspace, client
    workspace.close()


def test_no_question_of_a_page_reads_a_growing_table_from_end_to_end(demo):
    workspace, client = demo
    asked, of_view = [], Counter()
    for view, verb, path, body in questions(client, workspace):
        of_view[view] += 1
        if of_view[view] <= 3:
            asked.append((view, verb, path, body))
    heard, current = {}, []

    def hear(connection, cursor, statement, parameters, context, many):
        if statement.startswith(("SELECT", "WITH")):
            heard.setdefault(statement, (current[-1], parameters))

    with workspace.read() as session:
        engine = session.get_bind()
    event.listen(engine, "before_cursor_execute", hear)
    try:
        for view, verb, path, body in asked:
            current.append(view)
            client.request(verb, path, json=body)
    finally:
        event.remove(engine, "before_cursor_execute", hear)
    assert len(heard) > 150
    with workspace.read() as session:
        found = [(of, table, s) for s, (of, parameters) in heard.items() for table in scanned(session, s, parameters) & GROWS]
    assert not found, "\n".join(f"{of} reads all of {table}: {' '.join(s.split())[:300]}" for of, table, s in found)


def test_a_question_that_has_no_index_is_told(demo):
    workspace, _ = demo
    with workspace.read() as session:
        assert scanned(session, "SELECT seq FROM changes WHERE who = ?", ("B. Klein",)) == {"changes"}
        assert scanned(session, "SELECT c.seq FROM studies JOIN changes AS c ON c.entity_id = studies.id WHERE studies.id = ?", ("x",)) == set()
        assert session.scalar(text("SELECT count(*) FROM changes")) > 100
