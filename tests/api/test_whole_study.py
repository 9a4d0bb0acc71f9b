"""A study from the material to the ranking over HTTP alone; whatever is made is sent twice, as a page does whose answer was lost."""

from datetime import timedelta

import pytest
from sqlalchemy import func, select

from assayer.services.unit import Workspace
from assayer.store.models import Change

from ..conftest import NOW
from ..support import Clock, new_id
from .application import APPLICATION, serving
from .test_api import problem

HEADERS = {"Assayer-Person": "Ilse", "Assayer-Zone": "Europe/Berlin"}
CHANNELS = [
    {"name": "force", "dimension": "force", "unit": "N", "step": 1, "high": 2000},
    {"name": "length", "dimension": "length", "unit": "mm", "step": 0.01},
]
DENSITIES = {"Everyday": 1.24, "Clearwater": 1.27}


class Page:
    """A client that sends what it makes twice and looks what the second time left in the record."""

    def __init__(self, workspace, client):
        self.workspace, self.client = workspace, client

    def lines(self):
        with self.workspace.read() as session:
            return session.scalar(select(func.count()).select_from(Change))

    def make(self, path, headers=None, **body):
        first = self.client.post(f"/api/{path}", json=body, headers=headers)
        assert first.status_code == 201, first.text
        kept = self.lines()
        again = self.client.post(f"/api/{path}", json=body, headers=headers)
        assert (again.status_code, again.headers.get("etag")) == (200, first.headers.get("etag")), again.text
        assert self.lines() == kept, f"{path} was recorded twice"
        return first.json()

    def get(self, path):
        answer = self.client.get(f"/api/{path}")
        assert answer.status_code == 200, answer.text
        return answer.json()

    def send(self, verb, path, tag=None, **body):
        answer = self.client.request(verb, f"/api/{path}", json=body or None, headers={"If-Match": tag} if tag else None)
        assert answer.status_code in (200, 201, 204), answer.text
        return answer


class Study:
    """Two materials, one rig, three pulled flat of each, all printed."""

    def __init__(self, page):
        self.page = page
        self.materials = [
            page.make("materials", id=new_id(), maker="Hollin", product=p, polymer="PLA", colour="amber", hex="#D9962B", density=d)["id"]
            for p, d in DENSITIES.items()
        ]
        self.rig = page.make("rigs", id=new_id(), version_id=new_id(), name="Jack", channels=CHANNELS, methods=["tension"])
        arms = [{"id": new_id(), "material_id": m} for m in self.materials]
        self.study = page.make("studies", id=new_id(), title="PLA", arms=arms, tests=[{"id": new_id(), "orientation": "flat", "replicates": 3}])
        self.arms = [a["id"] for a in self.study["arms"]]
        self.test = self.study["tests"][0]["id"]
        for arm in self.arms:
            page.make("batches", id=new_id(), arm_id=arm, printed_at=NOW.isoformat())

    def waiting(self, arm):
        items = self.page.get(f"tests/{self.test}/queue")["items"]
        return [i["specimen_id"] for i in items if i["arm"]["id"] == arm and i["state"] == "waiting"]

    def entry(self, specimen, force, **more):
        readings = [{"id": new_id(), "field": f, "raw": raw} for f, raw in (("width", "5.00"), ("thickness", "4.00"), ("peak_force", force))]
        at = (NOW + timedelta(hours=1)).isoformat()
        return {"id": new_id(), "subject_id": specimen, "test_id": self.test, "rig_version_id": self.rig["id"], "happened_at": at, "readings": readings} | more

    def pull(self, arm, *forces):
        return [self.page.make("runs", **self.entry(s, f)) for s, f in zip(self.waiting(arm), forces, strict=False)]

    def cell(self, arm):
        column = self.page.get(f"studies/{self.study['id']}/board")["columns"][0]
        return next(c for c in column["cells"] if c["arm_id"] == arm)

    def mean(self, arm):
        return self.cell(arm)["group"]["mean"]


@pytest.fixture
def clock():
    return Clock(NOW + timedelta(hours=2))


@pytest.fixture
def page(data_folder, clock):
    workspace = Workspace(data_folder, clock, durable=False)
    with serving(workspace, headers=HEADERS) as client:
        yield Page(workspace, client)
    workspace.close()


@pytest.fixture
def study(page):
    return Study(page)


def test_each_step_shows_on_the_board(page, study):
    one, other = study.arms
    runs = study.pull(one, "800", "820", "840")
    study.pull(other, "900", "901", "902")
    assert (study.mean(one), study.mean(other)) == (pytest.approx(41), pytest.approx(45.05))

    # corrected: 840 was 880
    run = f"runs/{runs[2]['id']}"
    wrong = next(r for r in page.get(run)["readings"] if r["field"] == "peak_force")
    tag = page.client.get(f"/api/{run}").headers["etag"]
    corrected = page.make(f"{run}/corrections", headers={"If-Match": tag}, id=new_id(), field="peak_force", raw="880", supersedes=wrong["id"], reason="misread")
    assert study.mean(one) == pytest.approx((40 + 41 + 44) / 3)
    assert next(r for r in corrected["readings"] if r["id"] == wrong["id"])["superseded"], "the reading that was wrong stays"

    # left out, then in again
    tag = page.client.get(f"/api/{run}").headers["etag"]
    out = page.send("PATCH", run, tag, validity="left_out", validity_reason="slipped")
    assert study.mean(one) == pytest.approx(40.5)
    page.send("PATCH", run, out.headers["etag"], validity="counts")
    assert study.mean(one) == pytest.approx((40 + 41 + 44) / 3)

    # taken back, then restored
    before = len(study.waiting(one))
    page.send("PUT", f"{run}/retraction")
    assert (study.mean(one), len(study.waiting(one))) == (pytest.approx(40.5), before + 1)
    page.send("DELETE", f"{run}/retraction")
    assert (study.mean(one), len(study.waiting(one))) == (pytest.approx((40 + 41 + 44) / 3), before)


def strengths(moved):
    """(before, after) of each strength that moved, to a millionth of a MPa."""
    return [(round(m["old"], 6), round(m["new"], 6)) for m in moved["moved"] if m["quantity"] == "strength"]


def test_a_calibration_answers_what_moved_and_a_correction_of_it_moves_it_on(page, study, clock):
    one = study.arms[0]
    study.pull(one, "800", "800", "800")
    path = f"rig-versions/{study.rig['id']}/calibrations"
    day = (NOW - timedelta(days=1)).isoformat()
    calibration = new_id()
    moved = page.make(path, id=calibration, channel="force", factor=1.05, valid_from=day)
    assert (moved["runs"], strengths(moved), study.mean(one)) == (3, [(40, 42)] * 3, pytest.approx(42))
    (kept,) = page.get(f"rigs/{study.rig['rig_id']}")["calibrations"]
    assert (kept["id"], kept["factor"]) == (calibration, 1.05)
    url = f"calibrations/{calibration}"
    problem(page.client.patch(f"/api/{url}", json={"factor": 1.1}), 428)
    tag = f'"{kept["revision"]}"'
    moved = page.send("PATCH", url, tag, factor=1.1).json()
    assert (strengths(moved), study.mean(one)) == ([(42, 44)] * 3, pytest.approx(44))
    problem(page.client.patch(f"/api/{url}", json={"factor": 1.2}, headers={"If-Match": tag}), 412)
    assert study.mean(one) == pytest.approx(44), "who had read the former state changed nothing"
    # it ended before anything was pulled: what it had moved moves back
    (kept,) = page.get(f"rigs/{study.rig['rig_id']}")["calibrations"]
    page.send("PATCH", url, f'"{kept["revision"]}"', valid_to=NOW.isoformat())
    assert study.mean(one) == pytest.approx(40)


def test_a_calibration_shows_on_its_rig_from_its_first_instant_up_to_its_last(page, study, clock):
    start, end = clock.now + timedelta(hours=1), clock.now + timedelta(hours=3)
    at = {"valid_from": start.isoformat(), "valid_to": end.isoformat(), "due_at": end.isoformat()}
    clock.now = start
    page.make(f"rig-versions/{study.rig['id']}/calibrations", id=new_id(), channel="force", factor=1.05, **at)
    shown = []
    for instant in (start - timedelta(seconds=1), start, end - timedelta(seconds=1), end):
        clock.now = instant
        (rig,) = page.get("rigs")["items"]
        shown.append(rig["calibrated_at"] is not None)
    assert shown == [False, True, True, False]


def test_a_purpose_ranks_by_the_board_and_new_weights_need_the_state_they_replace(page, study):
    one, other = study.arms
    study.pull(one, "800", "810", "790")
    study.pull(other, "900", "910", "890")
    criterion = new_id()
    criteria = [{"id": criterion, "test_id": study.test, "quantity": "strength", "no_use": 30, "all_needed": 60, "required": 42}]
    purpose = page.make("purposes", id=new_id(), study_id=study.study["id"], title="Hook", criteria=criteria)
    url = f"purposes/{purpose['id']}"
    ranked = {a["arm_id"]: a for a in page.get(f"{url}/ranking")["ranked"]}
    assert [ranked[a]["requirements"][criterion] for a in (one, other)] == ["fail", "pass"], "40 MPa, 45 MPa, and 42 is needed"
    assert [ranked[a]["estimates"][criterion] for a in (one, other)] == pytest.approx([study.mean(one), study.mean(other)])
    tag = page.client.get(f"/api/{url}").headers["etag"]
    problem(page.client.patch(f"/api/{url}", json={"weights": {criterion: 2}}), 428)
    page.send("PATCH", url, tag, weights={criterion: 2})
    problem(page.client.patch(f"/api/{url}", json={"weights": {criterion: 3}}, headers={"If-Match": tag}), 412)
    assert page.get(url)["criteria"][0]["weight"] == 2


def test_another_entry_for_what_was_tested_meets_the_one_that_is_kept(page, study):
    (run,) = study.pull(study.arms[0], "800")
    specimen = run["subject_id"]
    found = problem(page.client.post("/api/runs", json=study.entry(specimen, "900")), 409)
    assert found["current"]["id"] == run["id"]
    # nothing can be entered for a test that its specimen is not of
    tests = [{"id": new_id(), "orientation": "flat", "replicates": 2}]
    other = page.make("studies", id=new_id(), title="B", arms=[{"id": new_id(), "material_id": study.materials[0]}], tests=tests)
    entry = study.entry(study.waiting(study.arms[1])[0], "800", test_id=other["tests"][0]["id"])
    assert problem(page.client.post("/api/runs", json=entry), 422)["field"] == "subject_id"


def operations(description, *answers):
    """(verb, path) of all that declare each of these answers."""
    for path, verbs in description["paths"].items():
        for verb, operation in verbs.items():
            if set(answers) <= set(operation["responses"]):
                yield verb, path, operation


def filled(path):
    while "{" in path:
        head, _, rest = path.partition("{")
        path = f"{head}{new_id()}{rest.partition('}')[2]}"
    return path


def test_what_is_not_there_is_said_by_every_page_that_asks_for_one_thing(page):
    """Each operation without a body, for an id that nothing has."""
    asked = 0
    for verb, path, operation in operations(APPLICATION.openapi(), "404"):
        needed = {p["name"] for p in operation.get("parameters", []) if p.get("required") and p["in"] == "query"}
        if "requestBody" in operation or needed or path.startswith("/api/labels"):
            continue
        # what is chosen from a few words is told by one of them
        problem(page.client.request(verb, filled(path.replace("{kind}", "stl"))), 404)
        asked += 1
    assert asked > 20


def test_every_edit_that_may_overwrite_asks_for_the_state_it_was_made_against(page):
    before, asked = page.lines(), 0
    for verb, path, _ in operations(APPLICATION.openapi(), "412", "428"):
        found = problem(page.client.request(verb, filled(path), json={}), 428)
        assert "If-Match" in found["detail"]
        asked += 1
    assert asked >= 7
    assert page.lines() == before
