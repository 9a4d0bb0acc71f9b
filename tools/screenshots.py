"""Make docs/screenshots from the demo data: one current picture of each main view, 1280 × 800."""

from __future__ import annotations

import sys
import tempfile
import time
from datetime import UTC, datetime
from pathlib import Path

ROOT = Path(__file__).parents[1]
sys.path.insert(0, str(ROOT))

from tests.browser.walk import Keys, Server, Walk, browser, running_server  # noqa: E402

from assayer.demo.scenario import make_demo  # noqa: E402

OUT = ROOT / "docs/screenshots"


def take(walk: Walk, server: Server, dark: bool) -> None:
    study = server.get("/api/studies")["items"][0]["id"]
    tests = {t["orientation"]: t["id"] for t in server.get(f"/api/studies/{study}")["tests"]}
    column = server.get(f"/api/studies/{study}/board")["columns"][0]
    dot = column["cells"][1]["dots"][0]
    findings = f"/studies/{study}/findings?test={tests['flat']}"
    suffix = "-dark" if dark else ""
    # two browsers take pictures one after the other: each at a specimen of its own
    waiting = [i["specimen_id"] for i in server.get(f"/api/tests/{tests['upright']}/queue")["items"] if i["state"] == "waiting"]
    views = {
        "studies": ("/studies", "Frame hangers"),
        "board": (f"/studies/{study}/board", "Layer adhesion"),
        "findings": (findings, "Welch's ANOVA"),
        "specimen": (f"{findings}&specimen={dot['specimen_id']}&run={dot['run_id']}", "Raw entries"),
        "bench": (f"/bench?test={tests['upright']}&specimen={waiting[dark]}", "random order"),
        "new-study": ("/studies/new", "The board it becomes"),
        "choose": ("/choose", "probability of rank"),
    }
    for name, (path, sign) in views.items():
        if dark and name not in ("board", "bench"):
            continue
        walk.open(server.url + path)
        walk.see(sign)
        if name == "board":
            walk.find('[data-at="2-1"]').click()
        if name == "bench":
            for value in ("4.02", "4.04", "4.01", "3.97", "3.95", "3.98"):
                walk.type_slowly(value)
                walk.press(Keys.ENTER)
            walk.type_slowly("388")
            walk.click("across one layer plane")
            walk.see("Plausible")
        if name == "new-study":
            walk.find("input").send_keys("Gate hinges")
            walk.click("Fenwick Outdoor")
            walk.click("Hollin Everyday")
        time.sleep(1.2)
        walk.picture(OUT / f"{name}{suffix}.png")


def main() -> None:
    OUT.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as folder:
        make_demo(Path(folder) / "data", datetime.now(UTC))
        with running_server(Path(folder) / "data") as server:
            for dark in (False, True):
                with browser(dark=dark) as walk:
                    walk.open(server.url + "/studies")
                    walk.driver.execute_script("localStorage.setItem('assayer.person', 'Ilse')")
                    take(walk, server, dark)


if __name__ == "__main__":
    main()
