"""The stock over HTTP: questions as problems, edits against an older state, two people at once, tables and labels."""

import csv
import io
import threading
from datetime import UTC, datetime, timedelta

import pytest

from assayer.services.unit import Workspace
from assayer.store.backup import read_manifest

from ..support import new_id
from .application import serving
from .test_api import problem

HEADERS = {"Assayer-Person": "Ilse", "Assayer-Zone": "Europe/Berlin"}


@pytest.fixture
def app(own_demo):
    workspace = Workspace(own_demo, durable=False)
    with serving(workspace, headers=HEADERS) as client:
        yield client
    workspace.close()


def item(app, colour):
    return next(m for m in app.get("/api/stock").json()["items"] if m["colour"] == colour)


def now(**ago):
    return (datetime.now(UTC) - timedelta(**ago)).isoformat()


def test_a_question_comes_as_a_problem_with_what_was_likely_meant(app):
    spool = item(app, "smoke")["spools"][0]
    body = {"id": new_id(), "raw": "9560", "at": now()}
    answer = problem(app.post(f"/api/spools/{spool['id']}/weighings", json=body), 422)
    question = answer["questions"][0]
    assert (answer["field"], question["field"], question["likely"], question["may_confirm"]) == ("gross", "gross", "956", True)
    assert app.post(f"/api/spools/{spool['id']}/weighings", json=body | {"raw": "1040"}).status_code == 201
    again = app.post(f"/api/spools/{spool['id']}/weighings", json=body | {"raw": "1040"})
    assert (again.status_code, again.json()["left"]) == (200, 826)
    problem(app.post(f"/api/spools/{spool['id']}/weighings", json=body | {"raw": "1171"}), 409)


def test_edits_say_which_state_they_were_made_against(app):
    material = item(app, "grey")
    url = f"/api/materials/{material['id']}"
    tag = app.get(url).headers["etag"]
    problem(app.patch(url, json={"density": 1.14}), 428)
    assert app.patch(url, json={"density": 1.14}, headers={"If-Match": tag}).json()["material"]["density"] == 1.14
    problem(app.patch(url, json={"density": 1.15}, headers={"If-Match": tag}), 412)
    answer = problem(app.patch(url, json={"window": {"bed_low": 110, "bed_high": 95}}, headers={"If-Match": '"2"'}), 422)
    assert answer["field"] == "bed_low"
    assert app.get(url).json()["window"]["bed_low"] == 92, "nothing of it was kept"


def test_two_people_ending_one_session_end_it_once(app):
    run = next(d for d in app.get("/api/dryings").json()["items"] if d["ended_at"] is None)
    answers = []

    def end():
        body = {"ended_at": now(), "members": [], "storage": "dry box", "place": "Box B"}
        answers.append(app.put(f"/api/dryings/{run['id']}/end", json=body, headers={"If-Match": f'"{run["revision"]}"'}).status_code)

    both = [threading.Thread(target=end) for _ in range(2)]
    for t in both:
        t.start()
    for t in both:
        t.join()
    assert sorted(answers) == [200, 412]
    page = app.get(f"/api/spools/{run['members'][0]['spool_id']}").json()
    assert sum(m["place"] == "Box B" for m in page["moves"]) == 1


def test_two_people_taking_in_the_same_material_make_one(app):
    body = {"maker": "Stell", "product": "Ballast", "polymer": "PP", "colour": "grey", "hex": "#888888"}
    answers = []
    both = [threading.Thread(target=lambda: answers.append(app.post("/api/materials", json=body | {"id": new_id()}).status_code)) for _ in range(2)]
    for t in both:
        t.start()
    for t in both:
        t.join()
    assert sorted(answers) == [201, 409]


def test_tables_and_labels_go_out(app):
    answer = app.get("/api/exports/materials.csv")
    assert answer.headers["content-type"] == "text/csv; charset=utf-8"
    rows = list(csv.reader(io.StringIO(answer.text.lstrip("\ufeff"))))
    assert (len(rows), rows[0][:3]) == (11, ["Maker", "Product", "Polymer"])
    code = item(app, "black")["spools"][0]["code"]
    label = app.get(f"/api/labels/{code}.svg")
    assert label.headers["content-type"] == "image/svg+xml"
    assert "PETG + 15 % carbon fibre" in label.text
    problem(app.get("/api/labels/ZZZZZ.svg"), 422)
    problem(app.put("/api/preferences", json={"label_base_url": "ftp://somewhere"}), 422)


def test_a_specimen_names_its_spool_and_its_label_stays_blind(app):
    study = app.get("/api/studies").json()["items"][0]["id"]
    test = app.get(f"/api/studies/{study}").json()["tests"][0]["id"]
    queued = app.get(f"/api/tests/{test}/queue").json()["items"][0]
    specimen = app.get(f"/api/specimens/{queued['specimen_id']}").json()
    assert specimen["spool"]["code"] in {s["code"] for m in app.get("/api/stock").json()["items"] for s in m["spools"]}
    label = app.get(f"/api/labels/{queued['code']}.svg").text
    assert specimen["material"]["maker"] not in label


def test_a_backup_is_made_followed_and_downloaded(app, tmp_path):
    before = app.get("/api/safekeeping").json()
    assert (before["backups"], before["job"], before["same_disk"]) == ([], None, True)
    assert app.post("/api/backups").status_code == 202
    while (now := app.get("/api/safekeeping").json())["job"]["state"] == "running":
        assert 0 <= now["job"]["share"] <= 1
    assert now["job"]["state"] == "done", now["job"]
    (made,) = now["backups"]
    assert app.post("/api/checks").status_code == 202
    while (looked := app.get("/api/safekeeping").json()["job"])["state"] == "running":
        assert looked["kind"] == "check"
    assert (looked["state"], looked["words"][:12]) == ("done", "all is whole")
    got = app.get(f"/api/backups/{made['name']}")
    assert (got.status_code, got.headers["content-type"], len(got.content)) == (200, "application/zip", made["size"])
    assert made["name"] in got.headers["content-disposition"]
    (tmp_path / "b.zip").write_bytes(got.content)
    assert read_manifest(tmp_path / "b.zip").rows["studies"] == app.get("/api/studies").json()["total"] > 5
    assert app.get("/api/backups/assayer-20200101T000000Z.zip").status_code == 404
    assert app.get("/api/backups/%2e%2e%2fassayer.db").status_code == 404
    refused = app.put("/api/safekeeping/folder", json={"folder": "somewhere"})
    assert (refused.status_code, refused.json()["field"]) == (422, "folder")
    assert app.put("/api/safekeeping/folder", json={"folder": str(tmp_path / "disk")}).json()["folder"] == str(tmp_path / "disk")


def test_twelve_are_found_unless_more_are_asked_for(app):
    """The demo holds more that is called by an "a" than that."""
    words = {"words": "a"}
    found = app.get("/api/found", params=words).json()["items"]
    assert len(found) == 12
    more = app.get("/api/found", params=words | {"limit": 50}).json()["items"]
    assert [f["id"] for f in more[:12]] == [f["id"] for f in found]
    assert len(more) > 12
    assert problem(app.get("/api/found", params=words | {"limit": 51}), 422)
    assert app.get("/api/found").json() == {"items": []}
