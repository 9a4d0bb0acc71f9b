"""Cost grows with what is looked at: no page reads all of a table that grows with every entry."""

import re
from contextlib import contextmanager

import pytest
from sqlalchemy import event, text

from assayer.services.unit import Workspace

from .application import serving
from .years import asked_of, multiply

GROWS = {
    "arms", "batches", "changes", "curves", "filament_uses", "intakes", "oven_notes", "photos", "plate_places", "plates", "readings", "results", "runs",
    "sent", "session_members", "session_readings", "slots", "specimens", "spool_readings", "storage_moves", "trial_grades", "weighings",
}  # fmt: skip
"""Tables with several rows for each specimen, spool or entry."""


def scanned(session, statement, parameters):
    """Of a statement, the tables that SQLite reads from end to end."""
    named = {m[2] or m[1]: m[1] for m in re.finditer(r"(?:FROM|JOIN|,)\s+(\w+)(?: AS (\w+))?", statement)}
    plan = session.connection().exec_driver_sql(f"EXPLAIN QUERY PLAN {statement}", parameters)
    found = (re.match(r"SCAN (\w+)", row[3]) for row in plan)
    return {named.get(m[1], m[1]) for m in found if m}


@contextmanager
def opened(folder):
    workspace = Workspace(folder, durable=False)
    with serving(workspace) as client:
        yield workspace, client
    workspace.close()


@pytest.fixture
def demo(own_demo):
    with opened(own_demo) as demo:
        yield demo


def heard(workspace, client, asked):
    """The statements with which each question is answered."""
    told = []

    def hear(connection, cursor, statement, parameters, context, many):
        if statement.startswith(("SELECT", "WITH")):
            told[-1].append((statement, parameters))

    with workspace.read() as session:
        engine = session.get_bind()
    event.listen(engine, "before_cursor_execute", hear)
    try:
        for _, verb, path, body in asked:
            told.append([])
            client.request(verb, path, json=body)
    finally:
        event.remove(engine, "before_cursor_execute", hear)
    return told


def test_no_question_of_a_page_reads_a_growing_table_from_end_to_end(demo):
    workspace, client = demo
    asked = asked_of(client, workspace)
    different = {s: (q[0], p) for q, own in zip(asked, heard(workspace, client, asked), strict=True) for s, p in own}
    assert len(different) > 150
    with workspace.read() as session:
        found = [(of, table, s) for s, (of, parameters) in different.items() for table in scanned(session, s, parameters) & GROWS]
    assert not found, "\n".join(f"{of} reads all of {table}: {' '.join(s.split())[:300]}" for of, table, s in found)


def test_no_page_asks_more_often_where_more_is_stored(own_demo):
    with opened(own_demo) as (workspace, client):
        asked = asked_of(client, workspace)
        before = [len(own) for own in heard(workspace, client, asked)]
    multiply(own_demo / "assayer.db", 3)
    with opened(own_demo) as (workspace, client):
        # what is kept from before is read anew
        heard(workspace, client, asked)
        after = [len(own) for own in heard(workspace, client, asked)]
        assert len(client.get("/api/parts").json()["items"]) == 4
    assert sum(before) > 500
    more = [f"{q[2]}: {n} statements, {m} before" for q, m, n in zip(asked, before, after, strict=True) if n > m + 1]
    assert not more, "\n".join(more)


def test_a_question_that_has_no_index_is_told(demo):
    workspace, _ = demo
    with workspace.read() as session:
        assert scanned(session, "SELECT seq FROM changes WHERE who = ?", ("B. Klein",)) == {"changes"}
        assert scanned(session, "SELECT c.seq FROM studies JOIN changes AS c ON c.entity_id = studies.id WHERE studies.id = ?", ("x",)) == set()
        assert session.scalar(text("SELECT count(*) FROM changes")) > 100
