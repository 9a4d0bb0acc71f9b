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


def fill_intake(walk: Walk) -> None:
    """A spool half checked, with a reading that is asked about."""
    for field, value in (("lot", "7811"), ("gross", "689.5"), ("empty", "190")):
        walk.find(f"[name={field}]").send_keys(value)
    for digit, choice in zip("222112", walk.all("fieldset"), strict=False):
        choice.find_element("css selector", "input").send_keys(digit)
    for value in ("1.742", "1.751", "1.738", "1.747", "1.755", "1.744", "1.739", "1753"):
        walk.find("[name=diameter]").send_keys(value + Keys.ENTER)


def walk_round(walk: Walk, server: Server, rack: str) -> None:
    """The room, three places read, the fourth typed."""
    walk.find("[name=room]").click()
    walk.type_slowly("21.4")
    walk.press(Keys.ENTER)
    members = server.get(f"/api/racks/{rack}?station=picture")["members"]
    for i, member in enumerate(members[:4]):
        walk.find(f'g[data-place="{i + 1}"][aria-current=step]')
        walk.find("[name=gap-5]").click()
        walk.type_slowly(f"{round(100 * (member['course'][-1]['value'] + 0.07))}")
        walk.see("more than after")
        if i < 3:
            time.sleep(0.3)
            walk.press(Keys.ENTER)


def take(walk: Walk, server: Server, dark: bool) -> None:
    study = server.get("/api/studies")["items"][0]["id"]
    tests = {t["orientation"] if t["method"] == "tension" else t["method"]: t["id"] for t in server.get(f"/api/studies/{study}")["tests"]}
    rigs = {r["name"]: r["rig_id"] for r in server.get("/api/rigs")["items"]}
    widths = next(s["id"] for s in server.get("/api/studies")["items"] if s["title"].startswith("Line width"))
    soda = next(s["id"] for s in server.get("/api/studies")["items"] if s["title"].startswith("Gates after"))
    findings = f"/studies/{study}/findings?test={tests['flat']}"
    # two browsers take pictures one after the other: each at a specimen of its own
    waiting = [i["specimen_id"] for i in server.get(f"/api/tests/{tests['upright']}/queue")["items"] if i["state"] == "waiting"]
    stock = {(m["product"], m["colour"]): m for m in server.get("/api/stock")["items"]}
    smoke, burden = stock["Clearwater", "smoke"], stock["Burden", "natural"]
    trail = server.get(f"/api/trails/{server.get('/api/trails')['items'][0]['id']}")
    tower = next(t["id"] for t in trail["trials"] if t["series"])
    views = {
        "day": ("/", "Running"),
        "stock": ("/stock", "10 materials"),
        "dossier": (f"/stock/materials/{smoke['id']}", "own bars, not ISO 527"),
        "spool": (f"/stock/spools/{burden['spools'][0]['id']}", "not yet"),
        "intake": (f"/stock/intake?material={burden['id']}", "By eye and hand"),
        "trail": (f"/dial-in/{trail['id']}", "What each change did"),
        "tower": (f"/dial-in/{trail['id']}/towers/{tower}", "Read for"),
        "plan": (f"/studies/{study}/plan", "observed here on"),
        "print": (f"/studies/{widths}/print", "Next on the bed"),
        "board": (f"/studies/{study}/board", "Layer adhesion"),
        "findings": (findings, "Welch's ANOVA"),
        "across": (f"/studies/{study}/findings?test=across", "Do the tests agree?"),
        "factors": (f"/studies/{soda}/findings", "material × treatment"),
        "bench": (f"/bench?test={tests['upright']}&specimen={waiting[dark]}", "random order"),
        "round": (f"/bench/racks/{rigs['Loft rack']}", "the room, once a round"),
        "part": (f"/rigs/parts/{server.get('/api/parts')['items'][0]['id']}", "Lid clamp"),
        "rigs": ("/rigs", "scatters by"),
        "choose": ("/choose", "A rank is shared"),
    }
    for name, (path, sign) in views.items():
        # one view in the dark is enough
        if dark != (name == "factors"):
            continue
        walk.open(server.url + path)
        walk.see(sign)
        if name == "board":
            walk.find('[data-at="2-1"]').click()
        if name == "bench":
            for value in ("5.02", "5.04", "5.01", "3.97", "3.95", "3.98"):
                walk.type_slowly(value)
                walk.press(Keys.ENTER)
            walk.type_slowly("478")
            walk.click("across one layer plane")
            walk.see("Plausible")
        if name == "factors":
            walk.driver.execute_script("document.querySelector('[aria-label=\"Factors together\"]').scrollIntoView({block: 'center'})")
        if name == "round":
            walk_round(walk, server, rigs["Loft rack"])
        if name == "intake":
            fill_intake(walk)
        time.sleep(1.2)
        walk.picture(OUT / f"{name}.png")


CAPTURES = {
    "impact": ("7.98", "4.02", "127.5"),
    "torsion": ("8.02", "8.01", "8.03", "1.05", "1.46", "310"),
    "bending": ("10.02", "10.01", "10.03", "4.01", "4.00", "4.02", "98.4", "40", "2.4"),
    "heat-ramp": ("68",),
    "deflection-temperature": ("10.0", "10.0", "10.0", "4.00", "4.00", "4.00", "24", "0.02", "40", "0.08", "52", "0.210", "54", "0.268", "56", "0.335"),
    "warp": ("0.34", "0.30", "0.21"),
    "dimensions": ("10.03", "20.02", "29.95", "39.88"),
    "immersion-density": ("3.0214", "0.5910", "1.24", "22,5"),
}


def take_captures(walk: Walk, server: Server) -> None:
    """The further captures, each half filled, side by side on one picture; grading and a test of one's own beside them."""
    study = next(s["id"] for s in server.get("/api/studies")["items"] if s["title"].startswith("Entrance gates"))
    tests = {t["method"]: t["id"] for t in server.get(f"/api/studies/{study}")["tests"] if t["orientation"] == "flat"}
    pictures = []
    for method, typed in CAPTURES.items():
        walk.open(f"{server.url}/bench?test={tests[method]}")
        walk.see("random order")
        walk.until(lambda: walk.driver.switch_to.active_element.tag_name == "input")
        for i, value in enumerate(typed):
            if i:
                walk.press(Keys.ENTER)
            walk.type_slowly(value)
        time.sleep(1.2)
        pictures.append(walk.driver.get_screenshot_as_base64())
    for path, sign in ((f"/bench/grading/{tests['graded']}", "Grading: "), ("/rigs/own", "What follows")):
        walk.open(server.url + path)
        walk.see(sign)
        time.sleep(1.5)
        if sign == "Grading: ":
            for grade in "31223":
                walk.press(grade)
            time.sleep(0.8)
        pictures.append(walk.driver.get_screenshot_as_base64())
    walk.open("about:blank")
    cells = "".join(f'<img src="data:image/png;base64,{p}" style="width:636px;height:398px;border:1px solid #D9D1C0">' for p in pictures)
    walk.driver.execute_script(
        "document.body.style.margin = 0; document.body.innerHTML = arguments[0]",
        f'<div style="display:grid;grid-template-columns:1fr 1fr;gap:4px">{cells}</div>',
    )
    walk.driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", {"width": 1280, "height": 2012, "deviceScaleFactor": 1, "mobile": False})
    time.sleep(0.8)
    walk.driver.save_screenshot(str(OUT / "captures.png"))


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
                    if not dark:
                        take_captures(walk, server)


if __name__ == "__main__":
    main()
