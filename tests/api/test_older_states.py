"""Nobody overwrites another: every change that is made against an older state is refused, on every route that takes one."""

import pytest
from sqlalchemy import text

from assayer.services.unit import Workspace

from ..support import new_id
from .application import serving

TABLES = {
    "calibration_id": "calibrations", "material_id": "materials", "part_id": "parts", "photo_id": "photos", "printer_id": "printers", "purpose_id": "purposes", "conversion_id": "rig_conversions",
    "spool_id": "spools", "nozzle_id": "nozzles", "surface_id": "bed_surfaces", "change_id": "printer_changes", "study_id": "studies", "trail_id": "trails", "trial_id": "trials", "run_id": "runs",
}  # fmt: skip
BODIES = {
    "DecisionEdit": {"retracted": True},
    "ConversionEdit": {"retracted": True},
    "CalibrationEdit": {"note": "read anew"},
    "MassCorrection": {"spool_id": "00000000-0000-7000-8000-000000000000", "moment": "before", "raw": "900"},
    "EndDrying": {"ended_at": "2026-06-15T09:00:00Z"},
    "TrialRecord": {"outcome": "good", "printed_at": "2026-06-15T09:00:00Z"},
    "RunEdit": {"validity": "left_out", "validity_reason": "slipped"},
}
NO_STATE = "999999"
FETCHED_ANEW = {"/api/calibrations/{calibration_id}", "/api/spools/{spool_id}", "/api/trails/{trail_id}", "/api/trials/{trial_id}"}
"""Their pages fetch the newer state themselves; all others are sent it with the refusal."""


@pytest.fixture
def demo(own_demo):
    workspace = Workspace(own_demo, durable=False)
    with serving(workspace) as client:
        yield workspace, client
    workspace.close()


def body_of(name, workspace):
    def one(sql):
        with workspace.read() as session:
            return session.scalar(text(sql))

    if name == "Correction":
        row = "SELECT {} FROM readings WHERE run_id = (SELECT id FROM runs LIMIT 1) ORDER BY seq LIMIT 1"
        told = {column: one(row.format(column)) for column in ("field", "position", "raw")}
        return told | {"id": new_id(), "supersedes": one(row.format("id")), "reason": "read anew"}
    if name == "ReferenceEdit":
        return {"reference_arm_id": one("SELECT id FROM arms WHERE study_id = (SELECT id FROM studies LIMIT 1) LIMIT 1")}
    return BODIES.get(name, {})


def test_a_change_against_an_older_state_is_refused_everywhere(demo):
    workspace, client = demo
    spool = client.get("/api/stock").json()["items"][0]["spools"][0]["id"]
    set_up = client.post("/api/follow-ups", json={"id": new_id(), "object_kind": "spool", "object_id": spool, "text": "dry?", "due_on": "2026-07-01"})
    study = client.get("/api/studies").json()["items"][0]["id"]
    doubt = client.get(f"/api/studies/{study}/doubts").json()["doubts"][0]
    settled = {"id": new_id(), "doubt": doubt["key"], "evidence": doubt["text"], "kind": "note", "note": "seen"}
    decision = client.post(f"/api/studies/{study}/doubts/decisions", json=settled)
    ids = {"follow_up_id": set_up.json()["id"], "decision_id": decision.json()["id"]}
    with workspace.read() as session:
        ids |= {name: session.scalar(text(f"SELECT id FROM {table} LIMIT 1")) for name, table in TABLES.items()}
        ids["drying_id"] = session.scalar(text("SELECT id FROM sessions WHERE kind = 'drying' AND ended_at IS NULL"))
    tried = 0
    for path, operations in client.app.openapi()["paths"].items():
        for verb, operation in operations.items():
            if "412" not in operation["responses"]:
                continue
            name = next(iter(operation["requestBody"]["content"].values()))["schema"]["$ref"].rsplit("/", 1)[1]
            url, body = path.format(**ids), body_of(name, workspace)
            bare = client.request(verb, url, json=body)
            assert bare.status_code == 428, (verb, path, bare.status_code, bare.text[:300])
            older = client.request(verb, url, json=body, headers={"If-Match": f'"{NO_STATE}"'})
            assert older.status_code == 412, (verb, path, older.status_code, older.text[:300])
            assert (older.json().get("current") is None) == (path in FETCHED_ANEW), f"{verb} {path}: the newer state"
            tried += 1
    assert tried == 23
