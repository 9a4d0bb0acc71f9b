"""HTTP: problems name the field, edits need their state, everything declared, nothing reachable from foreign pages."""

import json
import re
from concurrent.futures import ThreadPoolExecutor
from threading import Event

import fastapi.routing
import httpx
import pytest

from assayer.api.app import create_app
from assayer.services.unit import Workspace

from ..support import new_id
from .application import APPLICATION, serving


def waiting(app, study, k=0):
    test = study["tests"][0]["id"]
    items = app.get(f"/api/tests/{test}/queue").json()["items"]
    return test, [i for i in items if i["state"] == "waiting"][k]


def entry(app, study, **more):
    test, item = waiting(app, study)
    rig = next(r for r in app.get("/api/rigs").json()["items"] if r["calibrated_at"])
    readings = [{"id": new_id(), "field": f, "position": 0, "raw": raw} for f, raw in (("width", "4,02"), ("thickness", "3.97"), ("peak_force", "1120"))]
    return {
        "id": new_id(),
        "subject_id": item["specimen_id"],
        "test_id": test,
        "rig_version_id": rig["id"],
        "happened_at": "2026-06-01T10:00:00+02:00",
        "readings": readings,
    } | more


def problem(response, status):
    assert response.status_code == status, response.text
    assert response.headers["content-type"] == "application/problem+json"
    found = response.json()
    assert {"type", "title", "status", "detail"} <= set(found)
    return found


def test_an_entry_is_created_once_and_edited_under_its_etag(app, study):
    body = entry(app, study)
    first = app.post("/api/runs", json=body, headers={"Assayer-Person": "Zo%C3%AB", "Assayer-Zone": "Europe/Berlin"})
    assert (first.status_code, first.headers["etag"], first.json()["operator"]) == (201, '"2"', "Zoë")
    assert app.post("/api/runs", json=body).status_code == 200
    assert problem(app.post("/api/runs", json=entry(app, study) | {"subject_id": body["subject_id"]}), 409)["current"]["id"] == body["id"]
    url = f"/api/runs/{body['id']}"
    edit = {"validity": "left_out", "validity_reason": "slipped"}
    assert "If-Match" in problem(app.patch(url, json=edit), 428)["detail"]
    problem(app.patch(url, json=edit, headers={"If-Match": "nonsense"}), 412)
    done = app.patch(url, json=edit, headers={"If-Match": first.headers["etag"]})
    assert (done.status_code, done.headers["etag"]) == (200, '"3"')
    stale = problem(app.patch(url, json={"validity": "counts"}, headers={"If-Match": first.headers["etag"]}), 412)
    assert "changed by somebody else" in stale["detail"]
    assert stale["current"]["validity"] == "left_out"


@pytest.mark.parametrize(
    "change, field, words",
    [
        ({"readings": [{"id": "x", "field": "width", "raw": "4"}]}, "readings.0.id", "readings, entry 1, id: not in the expected format"),
        ({"happened_at": "2026-06-01T10:00:00"}, "happened_at", "needs its time zone"),
        ({"outcome_place": 7}, "outcome_place", "must be at most 1"),
        ({"surprise": 1}, "surprise", "not a known field"),
        ({"validity": "left_out"}, "validity_reason", "say why"),
    ],
)
def test_bad_bodies_name_their_field(app, study, change, field, words):
    found = problem(app.post("/api/runs", json=entry(app, study, **change)), 422)
    assert found["field"] == field
    assert words in found["detail"]


def test_text_in_a_number_field_names_it_and_keeps_nothing(app, study):
    body = entry(app, study)
    body["readings"][2]["raw"] = "about sixty"
    found = problem(app.post("/api/runs", json=body), 422)
    assert (found["field"], "'about sixty' is not a number" in found["detail"]) == ("peak_force", True)
    problem(app.get(f"/api/runs/{body['id']}"), 404)


def test_files_that_cannot_be_used_say_so(app):
    rig = app.get("/api/rigs").json()["items"][0]["id"]

    def send(data, columns=""):
        return app.put(f"/api/curves/{new_id()}?rig_version_id={rig}&file_name=x.csv{columns}", content=data)

    assert "is empty" in problem(send(b""), 422)["detail"]
    assert "not a text file" in problem(send(bytes(range(256)) * 40), 422)["detail"]
    asked = problem(send(b"\n".join(b"%d,%.1f,%.1f" % (i, i / 10, i * 3) for i in range(20))), 422)
    assert asked["file_questions"][0]["about"] == "force"
    assert asked["preview"]["rows"][1] == ["1", "0.1", "3.0"]
    assert problem(send(b"a;b\n" * 3 + b"1.234,5;2\n" * 30), 422)["line"] == 4
    problem(app.get("/api/curves?x"), 404)


def test_a_file_of_100_mb_is_refused_while_it_comes_in(app):
    rig = app.get("/api/rigs").json()["items"][0]["id"]
    sent = 0

    def endless():
        nonlocal sent
        for _ in range(100):
            sent += 1
            yield b"1.0,2.0,3.0\n" * 87382

    found = app.put(f"/api/curves/{new_id()}?rig_version_id={rig}&file_name=x.csv", content=endless())
    assert found.status_code == 413
    assert "50 MB" in found.text


def test_the_board_is_sent_once_per_revision_and_has_its_shape(app, study):
    url = f"/api/studies/{study['id']}/board"
    first = app.get(url)
    assert app.get(url, headers={"If-None-Match": first.headers["etag"]}).status_code == 304
    from assayer.services.studies.views import BoardView

    # the cached text is not checked on the way: it is here
    assert BoardView.model_validate_json(first.content).model_dump(mode="json") == first.json()
    app.post("/api/runs", json=entry(app, study))
    assert app.get(url, headers={"If-None-Match": first.headers["etag"]}).status_code == 200


def test_curves_come_as_binary(app, study):
    data = app.get(f"/api/tests/{study['tests'][0]['id']}/curves").content
    size = int.from_bytes(data[:4], "little")
    head = json.loads(data[4 : 4 + size])
    assert len(head["curves"]) >= 15
    assert len(data) == 4 + size + sum(8 * c["points"] for c in head["curves"])
    assert {"break", "peak", "modulus_range"} <= set(head["curves"][0]["marks"])


def test_lists_are_paged(app):
    page = app.get("/api/materials?limit=2&offset=3").json()
    assert (len(page["items"]), page["total"], page["offset"]) == (2, 10, 3)
    problem(app.get("/api/materials?limit=100000"), 422)


@pytest.mark.parametrize(
    "method, headers",
    [("GET", {"Host": "evil.example"}), ("POST", {"Origin": "http://evil.example"}), ("POST", {"Origin": "null"})],
)
def test_foreign_hosts_and_origins_are_refused(app, method, headers):
    problem(app.request(method, "/api/materials", headers=headers, json={}), 403)


def test_pages_of_ours_may_change_things_and_carry_a_strict_policy(app):
    answer = app.put("/api/people/Ada", headers={"Origin": "http://127.0.0.1:8717"})
    assert "Ada" in answer.json()["items"]
    assert "default-src 'self'" in answer.headers["content-security-policy"]
    assert "unsafe-inline" not in answer.headers["content-security-policy"].split("style-src")[0]


def test_the_description_bounds_every_integer_and_declares_every_problem():
    description = APPLICATION.openapi()
    parameters = [p for path in description["paths"].values() for operation in path.values() for p in operation.get("parameters", [])]
    for schema in [p["schema"] for p in parameters] + [
        s for c in description["components"]["schemas"].values() if c.get("additionalProperties") is False for s in c["properties"].values()
    ]:
        for one in schema.get("anyOf", [schema]):
            if one.get("type") == "integer":
                assert {"minimum", "maximum"} <= set(one), schema
    for path, operations in description["paths"].items():
        for method, operation in operations.items():
            assert {"422", "507"} <= set(operation["responses"]), (method, path)
            if "{" in path and "people" not in path and "exports" not in path:
                assert "404" in operation["responses"], (method, path)
    # a problem is described once, as what is really sent
    shared = description["components"]["responses"]
    assert {r["$ref"].rsplit("/", 1)[1] for p in description["paths"].values() for o in p.values() for r in o["responses"].values() if "$ref" in r} == set(
        shared
    )
    assert all(list(r["content"]) == ["application/problem+json"] for r in shared.values())
    assert not re.search(r"https?://", json.dumps(description))


def test_documentation_works_without_a_network(app):
    page = app.get("/api/docs").text
    assert not re.search(r"(src|href)=\"https?:", page)
    for part in re.findall(r"(?:src|href)=\"([^\"]+)\"", page):
        assert app.get(part).status_code == 200, part


def test_unknown_paths(app):
    problem(app.get("/api/nothing"), 404)
    assert "mistyped" in problem(app.get("/api/materials/amber"), 404)["detail"]
    assert problem(app.get("/api/exports/people.csv"), 422)["field"] == "kind"
    assert '<div id="root">' in app.get("/studies/some/where").text, "a page of the application"
    assert app.get("/assets/none.js").status_code == 404


def test_every_answer_fits_its_description(app, study):
    """Each GET that the demo can feed, against the model that the front end's types are made from."""
    use = app.get("/api/purposes").json()["items"][0]["id"]
    test, item = waiting(app, study)
    run = next(d["run_id"] for c in app.get(f"/api/studies/{study['id']}/board").json()["columns"][0]["cells"] for d in c["dots"])
    for path in (
        "/api/people",
        "/api/rigs",
        f"/api/purposes/{use}",
        f"/api/purposes/{use}/ranking",
        f"/api/tests/{test}/findings",
        f"/api/specimens/{item['specimen_id']}",
        f"/api/runs/{run}",
        f"/api/runs/{run}/curve",
        f"/api/codes?text={item['code']}",
        "/api/day",
        "/api/stock",
        "/api/dryings",
        "/api/places",
        "/api/printers",
        "/api/preferences",
        *(f"/api/exports/{kind}.csv" for kind in ("materials", "claims", "reported")),
        *(f"/api/materials/{m['id']}" for m in app.get("/api/stock").json()["items"]),
        *(f"/api/spools/{s['id']}" for m in app.get("/api/stock").json()["items"] for s in m["spools"]),
        f"/api/labels/{item['code']}.svg",
    ):
        answer: httpx.Response = app.get(path)
        assert answer.status_code == 200, (path, answer.text[:300])
    assert problem(app.get(f"/api/tests/{test}/findings?quantity=colour"), 422)["field"] == "quantity"


def test_shapes_come_as_files_in_sizes_of_ones_own(app):
    shapes = app.get("/api/shapes").json()["items"]
    assert "short-pull-bar" in {s["name"] for s in shapes}
    told = app.get("/api/shapes/bar/solid.stl", params={"orientation": "on edge", "size": ["width=12"], "number": 3})
    assert told.headers["content-type"] == "model/stl"
    assert 'filename="bar-on-edge.stl"' in told.headers["content-disposition"]
    assert len(told.content) == 84 + 50 * int.from_bytes(told.content[80:84], "little"), "binary STL"
    assert app.get("/api/shapes/bar/sheet", params={"size": "width=12"}).json()["dimensions"]["width"] == 12
    assert problem(app.get("/api/shapes/bar/solid.3mf", params={"size": "wide=12"}), 422)["field"] == "wide"
    assert problem(app.get("/api/shapes/d638-i/solid.3mf", params={"orientation": "upright"}), 422)["field"] == "orientation"
    problem(app.get("/api/shapes/none/sheet"), 404)


def test_the_first_page_is_answered_before_the_other_areas_are_loaded(own_demo, monkeypatch):
    workspace = Workspace(own_demo, durable=False)
    with serving(workspace, application=create_app()) as app:
        the_first_page_comes_first(app, monkeypatch)
    workspace.close()
    # a description has all of them, whatever was asked before
    assert {"/api/day", "/api/rigs", "/api/gcode"} <= set(create_app().openapi()["paths"])


def the_first_page_comes_first(app, monkeypatch):
    few = list(app.app.routes)
    for path in ("/api/day", "/api/people", "/api/health", "/", "/studies"):
        assert app.get(path).status_code == 200, path
        assert app.app.routes == few, path
    app.app.load_rest()
    # what a route takes was worked out while it was loaded, not when somebody first asks for it
    with monkeypatch.context() as patched:
        patched.setattr(fastapi.routing, "get_dependant", None)
        assert app.get("/api/rigs").json()["items"]
    loaded = list(app.app.routes)
    assert app.get("/api/studies").json()["items"]
    assert app.app.routes == loaded
    assert len(app.app.areas) == 16
    assert [r for r in loaded if r in few] == few, "those that were there stand as they stood, what catches the rest among them"
    # describing them takes seconds: nobody waits for it because somebody mistyped an address
    problem(app.delete("/api/nothing"), 404)
    problem(app.delete("/api/day"), 405)
    assert app.app.openapi_schema is None


def test_nobody_waits_while_everything_is_described(app, monkeypatch):
    began, others = Event(), Event()

    def described():
        began.set()
        return {"others": others.wait(20)}

    monkeypatch.setattr(APPLICATION, "openapi", described)
    with ThreadPoolExecutor(1) as other:
        asked = other.submit(app.get, "/api/openapi.json")
        assert began.wait(20)
        assert app.get("/api/health").status_code == 200
        others.set()
        assert asked.result().json() == {"others": True}
