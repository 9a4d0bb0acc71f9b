"""Every question that the pages of the demo ask, and some that people at the bench and the desk would ask next."""

import re
from collections import defaultdict
from collections.abc import Iterator

from fastapi.testclient import TestClient
from sqlalchemy import select, text

from assayer.core.shapes import SHAPES
from assayer.services.unit import Workspace
from assayer.store.models import Reading, Run, Specimen, Test

NOT_SHOWN = {"/api/backups/{name}", "/api/safekeeping", "/api/gcode/{file_id}/job", "/api/curves/{curve_id}/raw", "/api/people"}
"""What depends on the machine, or is a file as it came."""
TABLES = {
    "material": "materials", "spool": "spools", "study": "studies", "test": "tests", "rig": "rigs", "run": "runs", "specimen": "specimens",
    "purpose": "purposes", "trail": "trails", "sheet": "settings_sheets", "part": "parts", "file": "gcode_files", "plate": "plates",
    "printer": "printers",
}  # fmt: skip
EVERY = {"run": 6, "specimen": 8}
"""Of the many alike every so many."""
DESIGNS = (
    {"kind": "all combinations"}, {"kind": "fraction", "halvings": 1}, {"kind": "central composite"}, {"kind": "Latin hypercube", "runs": 7, "seed": 3},
)  # fmt: skip

Question = tuple[str, str, str, dict | None]
"""The view it belongs to, verb, path, body."""


def questions(client: TestClient, workspace: Workspace) -> Iterator[Question]:
    ids = _ids(workspace)
    yield from _pages(client, ids)
    yield from _files(ids)
    yield from _desk(ids)
    yield from _bench(workspace)


def _ids(workspace: Workspace) -> dict[str, list[str]]:
    with workspace.read() as session:
        return {name: list(session.scalars(text(f"SELECT id FROM {table} ORDER BY id")))[:: EVERY.get(name, 1)] for name, table in TABLES.items()}


def _pages(client: TestClient, ids: dict[str, list[str]]) -> Iterator[Question]:
    for view, operations in sorted(client.app.openapi()["paths"].items()):
        names = re.findall(r"{(\w+?)(?:_id)?}", view)
        asked = [p for p in operations.get("get", {"parameters": [{"required": True, "in": "query"}]}).get("parameters", []) if p["in"] == "query"]
        if view in NOT_SHOWN or view.endswith(".zip") or any(p.get("required") for p in asked) or len(names) > 1 or not set(names) <= ids.keys():
            continue
        for key in ids[names[0]] if names else [""]:
            yield view, "GET", re.sub(r"{\w+}", key, view), None
    for words in ("clearwater smoke", "petg", "glass", "ring", "hanger", "KYGE", "loft", "4"):
        yield "/api/found", "GET", f"/api/found?words={words}", None
    for more in (
        "words=everyday",
        "polymer=PETG",
        "filled=true",
        "filled=false",
        "state=dry first",
        "state=none",
        "sort=price&limit=4",
        "sort=polymer&offset=3",
        "sort=newest",
    ):
        yield "/api/stock asked", "GET", f"/api/stock?{more}", None
    for kind in ("materials", "claims", "reported"):
        yield f"/api/exports/{kind}", "GET", f"/api/exports/{kind}.csv", None


def _files(ids: dict[str, list[str]]) -> Iterator[Question]:
    for shape in SHAPES:
        yield "/api/shapes/sheet", "GET", f"/api/shapes/{shape}/sheet", None
        yield "/api/shapes.svg", "GET", f"/api/shapes/{shape}/solid.svg", None
    for part in ids["part"]:
        yield "/api/parts.svg", "GET", f"/api/parts/{part}/solid.svg", None
    for plate in ids["plate"][:6]:
        yield "/api/plates.svg", "GET", f"/api/plates/{plate}/plate.svg", None


def _desk(ids: dict[str, list[str]]) -> Iterator[Question]:
    for printer in ids["printer"]:
        for spool in ids["spool"]:
            for settings in ({}, {"nozzle_temperature": 255, "bed_temperature": 95, "speed": 120, "line_width": 0.6, "layer_height": 0.3}):
                yield "/api/fit", "POST", "/api/fit", {"spool_id": spool, "printer_id": printer, "settings": settings}
    factors = [
        {"name": "nozzle_temperature", "levels": [220, 250]},
        {"name": "fan", "levels": [0, 60]},
        {"name": "layer_height", "levels": [0.12, 0.28]},
    ]
    for design in DESIGNS:
        yield "/api/designs", "POST", "/api/designs", {"factors": factors, **design}
    for together in (ids["spool"][:2], ids["spool"][2:6], ids["spool"]):
        yield "/api/dryings/preview", "POST", "/api/dryings/preview", {"spool_ids": together}


def _bench(workspace: Workspace) -> Iterator[Question]:
    """What would be said of entries that were accepted before, typed once more: as they were, and with one decimal mark lost."""
    with workspace.read() as session:
        runs: dict[str, list[Run]] = defaultdict(list)
        for run in session.scalars(select(Run).join(Test, Test.id == Run.test_id).where(Run.retracted_at.is_(None)).order_by(Run.id)):
            runs[run.test_id].append(run)
        for test_id, of_test in runs.items():
            for run in of_test[:2]:
                readings = [_typed(r) for r in session.scalars(select(Reading).where(Reading.run_id == run.id).order_by(Reading.seq))]
                if session.get(Specimen, run.specimen_id) is None or not readings:
                    continue
                body = {
                    "test_id": test_id,
                    "rig_version_id": run.rig_version_id,
                    "specimen_id": run.specimen_id,
                    "outcome": run.outcome,
                    "curve_id": run.curve_id,
                }
                yield "/api/previews", "POST", "/api/previews", body | {"readings": readings}
                yield "/api/previews blind", "POST", "/api/previews", body | {"readings": readings, "blind": True}
                for slipped in {0, len(readings) - 1}:
                    changed = [
                        r | {"raw": r["raw"].replace(".", "").lstrip("0") + ("0" if "." not in r["raw"] else "")} if i == slipped and r["raw"] else r
                        for i, r in enumerate(readings)
                    ]
                    yield "/api/previews slipped", "POST", "/api/previews", body | {"readings": changed}
                yield "/api/previews first", "POST", "/api/previews", body | {"readings": readings[:1], "curve_id": None}


def _typed(r: Reading) -> dict:
    return {
        "field": r.field,
        "position": r.position,
        "raw": r.raw,
        "happened_at": r.happened_at.isoformat(),
        "ambient_c": r.ambient_c,
        "load": r.load,
        "after": r.after,
        "about": r.about,
    }
