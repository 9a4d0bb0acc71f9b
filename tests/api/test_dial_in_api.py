"""The dial-in over HTTP: trails with states, towers and stepped files as downloads, G-code with progress and cancel, photographs."""

import io
import time

import numpy as np
import pytest
import trimesh
from PIL import Image

from ..gcode_writer import tower
from ..support import new_id
from .test_api import problem


@pytest.fixture
def trail(app):
    """A trail of its own beside those of the demo."""
    printer = {"id": new_id(), "name": "Bench box", "nozzle": 0.4, "acceleration": 2000}
    assert app.post("/api/printers", json=printer).status_code == 201
    material = app.get("/api/stock").json()["items"][0]["id"]
    new = {"id": new_id(), "trial_id": new_id(), "material_id": material, "printer_id": printer["id"], "purpose": "Clip", "part": "clip"}
    made = app.post("/api/trails", json=new)
    assert made.status_code == 201
    assert made.headers["ETag"] == '"1"'
    return made.json()


def inspected(app, data, name="tower.gcode", **query):
    key = new_id()
    sent = app.put(f"/api/gcode/{key}", params={"name": name} | query, content=data)
    assert sent.status_code == 202, sent.text
    return key, finished(app, key)


def finished(app, key):
    for _ in range(300):
        job = app.get(f"/api/gcode/{key}/job").json()
        if job["state"] != "running":
            return job
        time.sleep(0.1)
    raise AssertionError("the inspection did not end")


def test_a_trial_is_planned_recorded_and_its_state_kept_apart(app, trail):
    first = trail["trials"][0]
    record = {"outcome": "good", "grades": [{"id": new_id(), "trait": "stringing", "grade": 1}]}
    problem(app.patch(f"/api/trials/{first['id']}", json=record), 428)
    done = app.patch(f"/api/trials/{first['id']}", json=record, headers={"If-Match": '"1"'})
    assert done.json()["trials"][0]["grades"] == {"stringing": 1}
    problem(app.patch(f"/api/trials/{first['id']}", json=record, headers={"If-Match": '"1"'}), 412)
    new = {"id": new_id(), "parent_id": first["id"], "changes": {"fan": {"value": 55.0}}}
    assert [app.post("/api/trials", json=new).status_code for _ in range(2)] == [201, 200]
    wrong = problem(app.post("/api/trials", json=new | {"id": new_id(), "changes": {"fan": {"value": 155.0}}}), 422)
    assert (wrong["field"], "0 and 100" in wrong["detail"]) == ("fan", True)
    sheet = app.get(f"/api/trails/{trail['id']}").json()["trials"][1]["sheet_id"]
    compared = app.get("/api/sheet-differences", params={"a": first["sheet_id"], "b": sheet}).json()
    assert [(d["name"], d["after"]["value"]) for d in compared["differences"]] == [("fan", 55)]
    steps = app.get(f"/api/trails/{trail['id']}/next").json()
    assert steps["symptom"]["name"] == "strings"


SERIES = {"setting": "nozzle_temperature", "start": 236, "step": -4, "count": 6, "band_height": 7, "base_height": 1.4}


@pytest.mark.parametrize("kind", ["stl", "3mf"])
def test_a_tower_comes_as_a_file(app, kind):
    answer = app.get(f"/api/towers/tower.{kind}", params=SERIES)
    assert answer.headers["content-type"] == f"model/{kind}"
    assert f"tower-nozzle-temperature.{kind}" in answer.headers["content-disposition"]
    mesh = trimesh.load(io.BytesIO(answer.content), file_type=kind, force="mesh")
    assert mesh.bounds[1][2] == pytest.approx(43.4)
    assert problem(app.get(f"/api/towers/tower.{kind}", params=SERIES | {"setting": "seam"}), 422)["field"] == "setting"
    assert problem(app.get(f"/api/towers/tower.{kind}", params=SERIES | {"band_height": 3}), 422)["field"] == "band_height"


def test_a_file_is_inspected_held_against_its_sheet_and_stepped(app, trail):
    data = tower(feed=lambda n: 15 if n > 180 else 45)
    key, job = inspected(app, data, trial_id=trail["trials"][0]["id"])
    assert (job["state"], job["share"]) == ("done", 1.0)
    shown = app.get(f"/api/gcode/{key}").json()
    found = shown["found"]
    assert (found["layers"], found["height_mm"], shown["trial_number"]) == (217, 43.4, 1)
    assert found["filament_mm"] == pytest.approx(217 * 156 * 0.03)
    assert found["temperatures"]["nozzle"] == [240, 230]
    assert len(found["by_layer"]["z"]) == 217
    assert {c["about"] for c in found["caps"]} == {"speed_outer", "flow_limit"}
    assert "nozzle_temperature" in {f["about"] for f in shown["findings"]}
    plan = app.post(f"/api/gcode/{key}/steps", json=SERIES).json()
    assert [b["value"] for b in plan["bands"]] == [236, 232, 228, 224, 220, 216]
    stepped = app.get(f"/api/gcode/{key}/stepped.gcode", params=SERIES)
    assert "tower-nozzle-temperature.gcode" in stepped.headers["content-disposition"]
    by_end = {name: value for name, value in SERIES.items() if name != "count"} | {"end": 216}
    assert app.get(f"/api/gcode/{key}/stepped.gcode", params=by_end).content == stepped.content
    assert problem(app.get(f"/api/gcode/{key}/stepped.gcode", params=by_end | {"end": 215}), 422)["field"] == "step"
    left = [line for line in stepped.content.split(b"\n") if not line.startswith(b"M104 S2") or line.endswith(b"the rest") or line == b"M104 S240"]
    assert b"\n".join(left) == data
    wrong = problem(app.post(f"/api/gcode/{key}/steps", json=SERIES | {"count": 3}), 422)
    assert "43.4 mm high" in wrong["detail"]
    other, _ = inspected(app, tower(), "even.gcode")
    difference = app.get("/api/gcode-differences", params={"a": key, "b": other}).json()
    assert difference["mass_share"] == pytest.approx(1)
    assert len(difference["rows"]) == 217
    assert difference["rows"][200]["seconds"][0] > difference["rows"][200]["seconds"][1]
    assert [f["name"] for f in app.get("/api/gcode", params={"trail_id": trail["id"]}).json()["items"]] == ["tower.gcode"]
    app.put(f"/api/gcode/{other}/retraction")
    assert other not in {f["id"] for f in app.get("/api/gcode").json()["items"]}
    # the printer of the trail speeds up twice as fast as is usual
    assert found["time_s"] < inspected(app, data)[1]["share"] * app.get(f"/api/gcode/{inspected(app, data)[0]}").json()["found"]["time_s"]


def test_each_heat_of_a_kept_file_is_held_against_its_own_setting(app, trail):
    wanted = {"nozzle_temperature": 230, "bed_temperature": 60, "chamber_temperature": 45, "nozzle_temperature_first": 230, "bed_temperature_first": 60}
    new = {"id": new_id(), "parent_id": trail["trials"][0]["id"], "changes": {k: {"value": float(v)} for k, v in wanted.items()}}
    assert app.post("/api/trials", json=new).status_code == 201

    def told(bed, chamber):
        data = f"M140 S{bed}\nM141 S{chamber}\n".encode() + tower(layers=20, heat=(230, 230))
        key, _ = inspected(app, data, trial_id=new["id"])
        return {f["about"]: f["text"] for f in app.get(f"/api/gcode/{key}").json()["findings"] if "temperature" in f["about"]}

    assert told(60, 45) == {}
    assert told(45, 45) == {"bed_temperature": "the file sets the bed to 45 °C, the sheet to 60 °C"}
    assert told(60, 60) == {"chamber_temperature": "the file sets the chamber to 60 °C, the sheet to 45 °C"}


def test_what_is_no_print_is_told_by_its_line_and_not_kept(app):
    before = app.get("/api/gcode").json()["items"]
    _, job = inspected(app, b"G90\nM83\nG1 X5 E1\nG1 X2000000 E1\n")
    assert (job["state"], job["line"]) == ("failed", 4)
    assert "beyond any printer" in job["words"]
    key, job = inspected(app, bytes(np.random.default_rng(1).integers(0, 256, 4000, np.uint8)))
    assert job["state"] == "failed"
    problem(app.get(f"/api/gcode/{key}"), 404)
    assert app.get("/api/gcode").json()["items"] == before


def test_an_inspection_can_be_cancelled_and_leaves_nothing(app, own_demo):
    kept = {p for p in (own_demo / "files").rglob("*") if p.is_file()}
    key = new_id()
    app.put(f"/api/gcode/{key}", params={"name": "long.gcode"}, content=tower(layers=30000))
    assert app.delete(f"/api/gcode/{key}/job").json()["state"] == "cancelled"
    assert finished(app, key)["state"] == "cancelled"
    for _ in range(100):
        left = {p for p in (own_demo / "files").rglob("*") if p.is_file()}
        if left == kept:
            break
        time.sleep(0.1)
    assert left == kept
    problem(app.delete(f"/api/gcode/{key}/job"), 404)


def photo(colour=(200, 30, 30)):
    out = io.BytesIO()
    Image.new("RGB", (900, 600), colour).save(out, "JPEG")
    return out.getvalue()


def test_photographs_are_kept_once_shown_captioned_and_taken_back(app, trail):
    trial = trail["trials"][0]["id"]
    place = {"subject_kind": "trial", "subject_id": trial, "caption": "the hook"}
    key = new_id()
    sent = [app.put(f"/api/photos/{key}", params=place, content=photo()) for _ in range(2)]
    assert [s.status_code for s in sent] == [201, 200]
    problem(app.put(f"/api/photos/{key}", params=place, content=photo((1, 2, 3))), 409)
    assert [p["id"] for p in app.get("/api/photos", params={"subject_kind": "trial", "subject_id": trial}).json()["items"]] == [key]
    for small, width in ((False, 900), (True, 480)):
        picture = app.get(f"/api/photos/{key}/picture", params={"small": small})
        assert picture.headers["content-type"] == "image/jpeg"
        assert Image.open(io.BytesIO(picture.content)).width == width
    edited = app.patch(f"/api/photos/{key}", json={"scale": 0.05}, headers={"If-Match": sent[0].headers["ETag"]}).json()
    assert (edited["scale"], edited["caption"]) == (0.05, "the hook")
    assert app.get(f"/api/trails/{trail['id']}").json()["trials"][0]["photos"][0]["scale"] == 0.05
    for caption, kept in (("from below", "from below"), (None, "")):
        tag = app.get(f"/api/photos/{key}").headers["ETag"]
        assert app.patch(f"/api/photos/{key}", json={"caption": caption}, headers={"If-Match": tag}).json()["caption"] == kept
    app.put(f"/api/photos/{key}/retraction")
    assert app.get("/api/photos", params={"subject_kind": "trial", "subject_id": trial}).json()["items"] == []
    problem(app.put(f"/api/photos/{new_id()}", params=place, content=b"no picture"), 422)
    problem(app.put(f"/api/photos/{new_id()}", params=place | {"subject_id": new_id()}, content=photo()), 404)
