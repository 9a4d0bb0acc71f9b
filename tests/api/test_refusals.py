"""What is refused, and how: the ends of time, ids in use elsewhere, other content under the same id, what cannot be seen, sizes, methods."""

import re

import pytest

from ..support import new_id
from .test_api import entry


def refused(answer, status, words):
    assert answer.status_code == status, answer.text
    assert answer.headers["content-type"] == "application/problem+json"
    assert answer.headers["x-content-type-options"] == "nosniff"
    assert re.search(words, answer.json()["detail"]), answer.json()["detail"]
    return answer.json()


@pytest.mark.parametrize(
    "at, words",
    [
        ("0001-01-01T00:00:00+14:00", "from 1900 to 2199"),
        ("9999-12-31T23:59:59-14:00", "from 1900 to 2199"),
        ("0001-01-01T00:00:00Z", "from 1900 to 2199"),
        ("1899-12-31T23:59:59Z", "from 1900 to 2199"),
        ("2200-01-01T00:00:00Z", "from 1900 to 2199"),
        ("2026-11-01T10:00:00", "needs its time zone"),
    ],
)
def test_the_ends_of_time_and_times_without_a_zone_are_refused_at_their_field(app, study, at, words):
    assert refused(app.post("/api/runs", json=entry(app, study, happened_at=at)), 422, words)["field"] == "happened_at"
    one = entry(app, study)
    one["readings"][0]["happened_at"] = at
    assert refused(app.post("/api/runs", json=one), 422, words)["field"] == "readings.0.happened_at"


def test_the_same_id_with_another_content_is_a_conflict_that_shows_what_is_kept(app, study):
    first = entry(app, study)
    assert app.post("/api/runs", json=first).status_code == 201
    assert app.post("/api/runs", json=first).status_code == 200
    for change, words in (({"raw": "1130"}, "is 1120, not 1130"), ({"position": 1}, "peak force 1 is 1120")):
        other = first | {"readings": [*first["readings"][:2], first["readings"][2] | change]}
        told = refused(app.post("/api/runs", json=other), 409, words)
        assert [r["raw"] for r in told["current"]["readings"] if r["field"] == "peak_force"] == ["1120"]


def test_an_id_that_is_in_use_elsewhere_is_a_conflict_and_nothing_is_kept(app, study):
    first = entry(app, study)
    assert app.post("/api/runs", json=first).status_code == 201
    second = entry(app, study)
    mine, second["readings"][0]["id"] = second["readings"][0]["id"], first["readings"][0]["id"]
    refused(app.post("/api/runs", json=second), 409, "in use already .among the readings")
    second["readings"][0]["id"] = mine
    assert app.post("/api/runs", json=second).status_code == 201, "the specimen is free still"
    m = [m["id"] for m in app.get("/api/materials").json()["items"]][:2]
    kept = app.get("/api/studies").json()["total"]

    def plan(arm, test):
        return {"id": new_id(), "title": "x", "arms": [{"id": arm, "material_id": m[0]}], "tests": [{"id": test, "orientation": "flat"}]}

    refused(app.post("/api/studies", json=plan(study["arms"][0]["id"], new_id())), 409, "among the arms")
    refused(app.post("/api/studies", json=plan(new_id(), study["tests"][0]["id"])), 409, "among the tests")
    twice = plan(key := new_id(), new_id())
    refused(app.post("/api/studies", json=twice | {"arms": [*twice["arms"], {"id": key, "material_id": m[1]}]}), 409, "among the arms")
    assert app.get("/api/studies").json()["total"] == kept


@pytest.mark.parametrize("name, words", [("\u200b\u200d", "nothing in it that can be seen"), ("a\x00b", "control characters")])
def test_a_name_that_cannot_be_seen_is_none(app, name, words):
    body = {"id": new_id(), "maker": name, "product": "p", "polymer": "PLA", "colour": "red", "hex": "#888888"}
    refused(app.post("/api/materials", json=body), 422, words)


def test_hosts_and_origins_that_are_no_addresses_are_refused(app):
    for headers in ({"Host": "[bad"}, {"Host": "127.0.0.1:port"}, {"Host": "testserver"}, {"Origin": "http://[bad"}, {"Origin": "127.0.0.1"}):
        refused(app.put("/api/people/Ada", headers=headers), 403, "not a name of this server|own pages")


def test_every_path_says_what_may_be_done_there(app, study):
    for path, allowed in (
        ("/api/people", "GET, HEAD, OPTIONS"),
        ("/api/people/Ada", "OPTIONS, PUT"),
        (f"/api/studies/{study['id']}/board", "GET, HEAD, OPTIONS"),
    ):
        told = app.options(path)
        assert (told.status_code, told.headers["allow"]) == (204, allowed)
        assert app.delete(path).headers["allow"] == allowed
        refused(app.delete(path), 405, "DELETE is not done at")
    refused(app.options("/api/nothing"), 404, "nothing at")
    refused(app.delete("/api/nothing"), 404, "nothing at")


def test_what_is_too_large_is_refused_in_the_form_of_all_refusals(app):
    answer = app.post("/api/materials", content=b"x" * 2_100_000, headers={"Content-Type": "application/json"})
    assert refused(answer, 413, "any other request 2 MB")["title"] == "Too large"


def test_a_width_beyond_all_bounds_is_asked_about(app, study):
    one = entry(app, study)
    one["readings"][0]["raw"] = "1e308"
    assert refused(app.post("/api/runs", json=one), 422, "is it the right shape")["questions"]
    # all of them so: no mean, no middle and no result of them breaks
    for reading in one["readings"]:
        reading["raw"] = "1e308"
    asked = refused(app.post("/api/runs", json=one), 422, r"1e\+308")
    one["confirmed"] = [q["key"] for q in asked["questions"]]
    assert app.post("/api/runs", json=one).status_code in (201, 422)
    preview = {"test_id": one["test_id"], "rig_version_id": one["rig_version_id"], "readings": [dict(r, happened_at=None) for r in one["readings"]]}
    assert app.post("/api/previews", json=preview).status_code in (200, 422)


def test_numbers_and_flags_are_taken_as_json_has_them(app):
    """A number in quotes, a yes for a number, a number for a yes: each names its field; what is missing is told before a stale state."""
    printer = {"id": new_id(), "name": "Quoted"}
    for name, value in (("nozzle", "0.4"), ("nozzle", True), ("hardened", "yes"), ("hardened", 1), ("holder", False)):
        refused = app.post("/api/printers", json=printer | {name: value})
        assert refused.status_code == 422
        assert [e["field"] for e in refused.json()["errors"]] == [name]
    assert app.post("/api/printers", json=printer | {"nozzle": 1, "hardened": True}).status_code == 201
    nonsense = {"If-Match": "whatever"}
    assert app.patch(f"/api/printers/{printer['id']}", headers=nonsense).status_code == 422
    stale = app.patch(f"/api/printers/{printer['id']}", json={"nozzle": 0.6}, headers=nonsense)
    kept = next(p for p in app.get("/api/printers").json()["items"] if p["id"] == printer["id"])
    assert (stale.status_code, kept["nozzle"]) == (412, 1)


def test_a_question_without_a_likely_meaning_says_so(app):
    material = {"id": new_id(), "maker": "M", "product": "p", "polymer": "PLA", "colour": "grey", "hex": "#888888", "density": 30.018}
    asked = app.post("/api/materials", json=material)
    assert asked.status_code == 422
    (question,) = asked.json()["questions"]
    assert question["likely"] is None
    assert question["may_confirm"] is True
    assert "line" not in asked.json(), "what does not apply is left out"


def test_dates_are_written_and_a_moment_of_drying_is_none(app):
    material = app.get("/api/stock").json()["items"][0]["id"]
    spool = {"id": new_id(), "material_id": material}
    for body in (spool | {"received_on": 0}, spool | {"received_on": 20000.0}):
        refused(app.post("/api/spools", json=body), 422, "a date is written")
    assert app.post("/api/spools", json=spool | {"received_on": "2026-05-01"}).status_code == 201
    oven = {"id": new_id(), "device": "Oven", "temperature": 60, "started_at": "2026-05-02T10:00:00Z", "hours": 5e-324, "members": [{"spool_id": spool["id"]}]}
    refused(app.post("/api/dryings", json=oven), 422, "hours")
    refused(app.post("/api/dryings", json=oven | {"hours": 6, "started_at": 1777000000}), 422, "a date is written")
    assert app.post("/api/dryings", json=oven | {"hours": 6}).status_code == 201
