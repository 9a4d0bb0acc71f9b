"""The same id again: with the same content nothing is done twice, with other content it is a conflict that shows what is kept. Of every kind."""

import re
from datetime import timedelta

import pytest
from sqlalchemy import delete, func, select

from assayer.services.unit import Actor, Workspace
from assayer.store.models import Change, Sent

from ..support import new_id
from .application import serving
from .years import asked_of

BY_THEIR_BYTES = {"/api/parts/{part_id}", "/api/photos/{photo_id}"}
OWN_RULES = {"/api/runs", "/api/ovens", "/api/own-methods", "/api/trials/{trial_id}/drying", "/api/batches", "/api/intakes"}
"""Compared in full, reading by reading (runs, ovens, definitions, intakes), or without content; the others follow here."""


@pytest.fixture
def demo(own_demo):
    workspace = Workspace(own_demo, durable=False)
    with serving(workspace, headers={"Assayer-Person": "Ilse"}) as client:
        yield workspace, client
    workspace.close()


def told(workspace, client):
    """Of each kind: the path, what is sent first, and what is changed the second time."""

    def get(path):
        return client.get(f"/api/{path}").json()

    at = (workspace.clock() - timedelta(hours=1)).isoformat()
    material = get("stock")["items"][0]["id"]
    inside = {m["spool_id"] for d in get("dryings")["items"] for m in d["members"]}
    spool = next(s["id"] for m in get("stock")["items"] for s in m["spools"] if s["id"] not in inside and get(f"spools/{s['id']}")["empty"])
    printer, rig = get("printers")["items"][0], next(r for r in get("rigs")["items"] if r["name"] == "Pull frame 2 kN")
    trail = get(f"trails/{get('trails')['items'][0]['id']}")
    trial = next(t["id"] for t in trail["trials"] if t["outcome"] == "good")
    study = get(f"studies/{get('studies')['items'][0]['id']}")
    test = study["tests"][0]
    doubt = get(f"studies/{study['id']}/doubts")["doubts"][0]
    pendulums = sorted((r["rig_id"] for r in get("rigs")["items"] if r["methods"] == ["impact"]), key=lambda key: len(get(f"rigs/{key}")["record"]))
    lines = (c for c in get(f"rigs/{pendulums[0]}/against/{pendulums[1]}")["comparisons"] if c["line"] and not c["reason"] and not c["conversion"])
    line = next(lines)
    channels = [{"name": "force", "dimension": "force", "unit": "N", "step": 0.1}]
    criterion = {"id": new_id(), "test_id": test["id"], "quantity": "strength", "no_use": 0, "all_needed": 90}
    asked = get(f"spools/{spool}")
    return [
        ("materials", {"maker": "M", "product": "p", "polymer": "PLA", "colour": "red", "hex": "#880000"}, {"colour": "blue"}),
        (f"materials/{material}/claims", {"text": "tough as nails", "source": "box"}, {"source": "leaflet"}),
        ("spools", {"material_id": material, "received_on": "2026-01-05"}, {"received_on": "2026-01-06"}),
        (f"spools/{spool}/weighings", {"at": at, "raw": f"{asked['empty'] + 20:.0f}"}, {"at": workspace.clock().isoformat()}),
        (f"spools/{spool}/uses", {"at": at, "raw": "1", "what": "clip"}, {"raw": "2"}),
        ("dryings", {"device": "box", "temperature": 40, "hours": 3, "started_at": at, "members": [{"spool_id": spool}]}, {"temperature": 45}),
        ("follow-ups", {"object_kind": "spool", "object_id": spool, "text": "dry?", "due_on": "2026-12-24"}, {"due_on": "2026-12-25"}),
        ("printers", {"name": "Thumb", "nozzle": 0.4}, {"nozzle": 0.6}),
        (f"printers/{printer['id']}/changes", {"at": at, "kind": "frame", "text": "a brace"}, {"text": "two braces"}),
        ("nozzles", {"name": "Steel 0.5", "diameter": 0.5}, {"diameter": 0.6}),
        ("bed-surfaces", {"name": "Taped glass", "note": ""}, {"note": "thick"}),
        ("rigs", {"version_id": new_id(), "name": "Jack", "methods": ["tension"], "channels": channels}, {"methods": ["stepped-bending"]}),
        (f"rigs/{rig['rig_id']}/versions", {"version_id": new_id(), "channels": channels, "note": "moved"}, {"note": "moved again"}),
        (f"rig-versions/{rig['id']}/calibrations", {"channel": rig["channels"][0]["name"], "factor": 1.01, "valid_from": at}, {"factor": 1.02}),
        ("trails", {"trial_id": new_id(), "material_id": material, "printer_id": printer["id"], "purpose": "hook", "part": "hook"}, {"part": "clip"}),
        ("trials", {"parent_id": trial, "part": "clip"}, {"part": "hook"}),
        ("dial-calibrations", {"trial_id": new_id(), "parent_id": trial, "kind": "pressure advance", "at": at, "advance": 0.04}, {"advance": 0.05}),
        (
            "studies",
            {"title": "S", "arms": [{"id": new_id(), "material_id": material}], "tests": [{"id": new_id(), "orientation": "flat"}]},
            {"question": "which?"},
        ),
        (
            f"studies/{study['id']}/copies",
            {"title": "again", "arm_ids": [study["arms"][0]["id"]], "test_ids": [test["id"]]},
            {"arm_ids": [study["arms"][1]["id"]]},
        ),
        (f"studies/{study['id']}/doubts/decisions", {"doubt": doubt["key"], "evidence": doubt["text"], "kind": "note", "note": "seen"}, {"note": "looked at"}),
        (f"rigs/{pendulums[0]}/against/{pendulums[1]}/conversions", {"key": line["key"], "slope": line["line"]["slope"]}, {"note": "of brittle ones"}),
        ("purposes", {"study_id": study["id"], "title": "gate", "criteria": [criterion]}, {"criteria": [criterion | {"all_needed": 80}]}),
    ]  # fmt: skip


def counted(workspace):
    with workspace.read() as session:
        return session.scalar(select(func.count()).select_from(Change)), session.scalar(select(func.count()).select_from(Sent))


def test_the_same_again_is_done_once_and_other_content_is_a_conflict_with_what_is_kept(demo):
    workspace, client = demo
    tried = set()
    for path, content, change in told(workspace, client):
        body = content if "version_id" in content and "rigs/" in path else {"id": new_id()} | content
        # a question that is asked about is confirmed; that is no other content
        first = client.post(f"/api/{path}", json=body)
        assert first.status_code == 201, (path, first.text[:400])
        before = counted(workspace)
        again = client.post(f"/api/{path}", json=body)
        assert (again.status_code, counted(workspace)) == (200, before), (path, again.text[:400])
        other = client.post(f"/api/{path}", json=body | change)
        assert (other.status_code, counted(workspace)) == (409, before), (path, other.text[:400])
        assert "with other content" in other.json()["detail"] or "already has this id" in other.json()["detail"]
        assert other.json()["current"], path
        tried.add("/api/" + re.sub(r"[0-9a-f]{8}-[0-9a-f-]{27}", "{}", path))
    made = {p for p, ops in client.app.openapi()["paths"].items() for o in ops.values() if {"200", "201"} <= set(o["responses"])}
    assert tried == {re.sub(r"{\w+}", "{}", path) for path in made - BY_THEIR_BYTES - OWN_RULES}


def test_a_batch_too(demo):
    workspace, client = demo
    study = client.get(f"/api/studies/{client.get('/api/studies').json()['items'][0]['id']}").json()
    copied = client.post(
        f"/api/studies/{study['id']}/copies",
        json={"id": new_id(), "title": "again", "arm_ids": [a["id"] for a in study["arms"][:1]], "test_ids": [study["tests"][0]["id"]]},
    ).json()
    batch = {"id": new_id(), "arm_id": copied["arms"][0]["id"], "printed_at": workspace.clock().isoformat(), "minutes": 65}
    assert client.post("/api/batches", json=batch).status_code == 201
    assert client.post("/api/batches", json=batch).status_code == 200
    other = client.post("/api/batches", json=batch | {"minutes": 80})
    assert (other.status_code, other.json()["current"]["minutes"]) == (409, 65)


def test_what_was_changed_after_it_was_kept_is_no_other_content(demo):
    """Somebody renames it before the answer that was lost is asked for again."""
    _, client = demo
    body = {"id": new_id(), "name": "Thumb", "nozzle": 0.4}
    made = client.post("/api/printers", json=body)
    assert made.status_code == 201
    edited = client.patch(f"/api/printers/{body['id']}", json={"nozzle": 0.6}, headers={"If-Match": f'"{made.json()["revision"]}"'})
    assert edited.status_code == 200
    again = client.post("/api/printers", json=body)
    assert (again.status_code, again.json()["nozzle"]) == (200, 0.6)
    material = client.get("/api/stock").json()["items"][0]["id"]
    plan = {"id": new_id(), "title": "S", "arms": [{"id": new_id(), "material_id": material}], "tests": [{"id": new_id(), "orientation": "flat"}]}
    study = client.post("/api/studies", json=plan).json()
    renamed = client.patch(f"/api/studies/{plan['id']}", json={"title": "T"}, headers={"If-Match": f'"{study["revision"]}"'})
    assert renamed.status_code == 200
    again = client.post("/api/studies", json=plan)
    assert (again.status_code, again.json()["title"]) == (200, "T")


def test_of_what_was_kept_without_a_digest_the_columns_are_compared(demo):
    """As it is for all that older versions made."""
    workspace, client = demo
    kept = client.get("/api/studies").json()["items"][0]
    stock = client.get("/api/stock").json()["items"]
    material, (spool, other_spool) = stock[0]["id"], [s["id"] for m in stock for s in m["spools"]][:2]
    study = client.get(f"/api/studies/{kept['id']}").json()
    plan = {"id": kept["id"], "arms": [{"id": new_id(), "material_id": material}], "tests": [{"id": new_id(), "orientation": "flat"}], "title": kept["title"]}
    known = client.get("/api/printers").json()["items"][0]
    copy = {"id": new_id(), "title": "again", "arm_ids": [study["arms"][0]["id"]], "test_ids": [study["tests"][0]["id"]]}
    bought = {"id": new_id(), "maker": "M", "product": "p", "polymer": "PLA", "colour": "red", "hex": "#880000"}
    looked = {"id": new_id(), "spool_id": spool, "happened_at": workspace.clock().isoformat(), "note": "looked at", "decision": "fit"}
    for path, body in ((f"studies/{kept['id']}/copies", copy), ("materials", bought), ("intakes", looked)):
        made = client.post(f"/api/{path}", json=body)
        assert made.status_code == 201, (path, made.text[:300])
    with workspace.write(Actor("Ilse")) as unit:
        unit.session.execute(delete(Sent))
        unit.log("notebook", kept["id"], "made older")
    for path, body, change, what in (
        ("studies", plan, {"title": "another"}, "study"),
        (f"studies/{kept['id']}/copies", copy, {"title": "another"}, "study"),
        ("printers", {"id": known["id"], "name": known["name"], "nozzle": 0.25}, {"name": "another"}, "printer"),
        ("materials", bought, {"colour": "blue"}, "material"),
        ("intakes", looked, {"spool_id": other_spool}, "intake"),
        ("intakes", looked, {"note": "not looked at"}, "intake"),
    ):
        assert client.post(f"/api/{path}", json=body).status_code == 200, path
        other = client.post(f"/api/{path}", json=body | change)
        assert (other.status_code, other.json()["detail"]) == (409, f"another {what} already has this id"), (path, change)
    with workspace.read() as session:
        assert session.scalar(select(func.count()).select_from(Sent)) == 0, "nothing was made: no digest of it"


def test_a_refused_entry_leaves_nothing_behind_and_may_come_otherwise(demo):
    workspace, client = demo
    body = {"id": new_id(), "maker": "M", "product": "p", "polymer": "PLA", "colour": "red", "hex": "#880000", "density": 30.0}
    before = counted(workspace)
    asked = client.post("/api/materials", json=body)
    assert (asked.status_code, counted(workspace)) == (422, before)
    confirmed = {"confirmed": [q["key"] for q in asked.json()["questions"]]}
    assert client.post("/api/materials", json=body | {"density": 1.24}).status_code == 201
    assert client.post("/api/materials", json=body | confirmed).status_code == 409
    assert client.post("/api/materials", json=body | {"density": 1.24} | confirmed).status_code == 200, "what is confirmed is no content"


def spoiled(content):
    """The content with one thing of it at a time as nobody means it: what is named is not there, a number beyond measure or nearly nothing."""
    for name, value in content.items():
        if name.endswith("_id"):
            yield content | {name: new_id()}
        elif name.endswith("_ids"):
            yield content | {name: [new_id()]}
        elif isinstance(value, int | float) and not isinstance(value, bool):
            yield from (content | {name: number} for number in (5e-324, 1e-200, 1.7e308))
        elif isinstance(value, list) and value and isinstance(value[0], dict):
            yield from (content | {name: [one, *value[1:]]} for one in spoiled(value[0]))
        elif isinstance(value, str) and re.fullmatch(r"[\d.]+", value):
            yield from (content | {name: raw} for raw in ("1e-320", "1e308", "0"))


def test_what_names_nothing_or_has_no_measure_is_refused_and_never_our_mistake(demo):
    workspace, client = demo
    kept = []
    wanted = [(path, content) for path, content, _ in told(workspace, client)]
    printer = next(path for path, _ in wanted if path.startswith("printers/"))
    at = workspace.clock().isoformat()
    # what may be named besides, and is not in the short form above
    wanted += [(printer, {"at": at, "kind": "filter", "text": "one", name: new_id()}) for name in ("nozzle_id", "bed_surface_id")]
    frame = next(r for r in client.get("/api/rigs").json()["items"] if r["name"] == "Pull frame 2 kN")
    long_ago = (workspace.clock() - timedelta(days=90)).isoformat()
    calibrations = f"rig-versions/{frame['id']}/calibrations"
    wanted += [(calibrations, {"channel": c["name"], "factor": 1.0, "valid_from": long_ago}) for c in frame["channels"]]
    study = client.get(f"/api/studies/{client.get('/api/studies').json()['items'][0]['id']}").json()
    batch = {"printed_at": at, "arm_id": study["arms"][0]["id"], "spool_id": new_id(), "printer_id": new_id(), "plate_id": new_id(), "minutes": 65, "mass": 3.0}
    wanted.append(("batches", batch))
    for path, content in wanted:
        for body in spoiled(content):
            answer = client.post(f"/api/{path}", json={"id": new_id()} | body)
            assert answer.status_code in (201, 404, 409, 422), (path, body, answer.text[:300])
            kept += [path] if answer.status_code == 201 else []
    # a number far from all others may be meant: pages that show it stand all the same
    assert len(kept) > 5
    for of, verb, path, body in asked_of(client, workspace):
        assert client.request(verb, path, json=body).status_code < 500, (of, verb, path)
