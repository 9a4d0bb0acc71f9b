"""Every page for everybody: by keyboard, by ear, light and dark, on a desk, a tablet and a phone; with data and without."""

from itertools import cycle

import pytest
from selenium.webdriver.common.keys import Keys

from .test_slice import fill_by_keyboard, waiting
from .walk import Server, Walk, browser, running_server

pytestmark = pytest.mark.browser

SIZES = [(390, 844), (768, 1024), (1280, 800)]


def dial_in_of(server: Server) -> dict[str, str]:
    """The pages of the dial-in; planned, printed and graded trials among them."""
    trail = server.get(f"/api/trails/{server.get('/api/trails')['items'][0]['id']}")
    at = f"/dial-in/{trail['id']}"
    by_number = {t["number"]: t for t in trail["trials"]}
    photos = ",".join(p["id"] for t in trail["trials"] for p in t["photos"])
    return {
        "/dial-in": "Dial-in",
        at: "Dial-in: Tarn Clearwater",
        f"{at}?trial=12": "Sight glass",
        f"{at}?trial=6&record=true": "Sight glass",
        f"{at}/towers/{by_number[9]['id']}": "Tower of trial 9",
        f"/dial-in/sheets/{by_number[11]['sheet_id']}": "Sight glass 11",
        f"/dial-in/sheets/{by_number[11]['sheet_id']}?with={by_number[2]['sheet_id']}": "",
        "/dial-in/gcode": "G-code",
        f"/dial-in/gcode/{server.get('/api/gcode')['items'][0]['id']}": "fan-tower.gcode",
        "/dial-in/hardware": "Printers, nozzles, bed surfaces",
        f"/dial-in/light-table?photos={photos}": "Light table",
        "/dial-in/light-table": "Nothing lies on the light table",
    }


def bench_of(server: Server) -> dict[str, str]:
    """Every other capture, a bath, grading, many files, a test of one's own."""
    gates = next(s["id"] for s in server.get("/api/studies")["items"] if s["title"].startswith("Entrance gates"))
    tests = {t["method"]: t["id"] for t in server.get(f"/api/studies/{gates}")["tests"]}
    alone = ("exposure", "graded")
    return {
        **{f"/bench?test={key}": "" for method, key in tests.items() if method not in alone},
        f"/bench/grading/{tests['graded']}": "Grading: ",
        f"/bench/oven/{tests['heat-ramp']}": "Oven: ",
        f"/bench?test={tests['graded']}": "graded side by side",
        f"/bench/files/{tests['torsion']}": "Many recordings at once",
        f"/studies/{gates}/board": "Board: ",
        f"/studies/{gates}/findings?test={tests['dimensions']}": "Findings: ",
        f"/studies/{gates}/findings?test={tests['graded']}": "Findings: ",
        "/rigs/own": "A test of your own",
        "/methods/impact": "Notched impact",
    }


def pages_of(server: Server) -> dict[str, str]:
    """Every page that a person can be on, by what it is called in the title of its window."""
    study = server.get("/api/studies")["items"][0]
    whole = server.get(f"/api/studies/{study['id']}")
    upright, bending, creep = (
        next(t["id"] for t in whole["tests"] if wanted in (t["orientation"], t["method"])) for wanted in ("upright", "stepped-bending", "creep")
    )
    stock = {m["colour"]: m for m in server.get("/api/stock")["items"]}
    dot = server.get(f"/api/studies/{study['id']}/board")["columns"][0]["cells"][0]["dots"][0]
    racks = {f"/bench/racks/{r['rig_id']}": "" for r in server.get("/api/racks")["items"]}
    rig = server.get("/api/rigs")["items"][0]["rig_id"]
    rigs = {r["name"]: r["rig_id"] for r in server.get("/api/rigs")["items"]}
    hooks = next(s["id"] for s in server.get("/api/studies")["items"] if s["title"] == "Hooks before the frost")
    title = study["title"]
    clamps = next(s["id"] for s in server.get("/api/studies")["items"] if s["title"].startswith("Lid clamps"))
    in_use = server.get(f"/api/studies/{clamps}")["tests"][0]["id"]
    return {
        "/": "Day sheet",
        "/stock": "Stock",
        # one whose claims contradict each other
        f"/stock/materials/{stock['grey']['id']}": "",
        "/stock/new": "",
        f"/stock/spools/{stock['natural']['spools'][0]['id']}": "",
        "/stock/intake": "",
        f"/stock/intake?material={stock['moss']['id']}": "",
        "/stock/drying": "Drying & storage",
        "/stock/lists": "",
        "/stock/labels": "",
        **dial_in_of(server),
        "/studies": "Studies",
        "/studies/new": "",
        f"/studies/{study['id']}/board": f"Board: {title}",
        f"/studies/{study['id']}/findings?test={upright}": f"Findings: {title}",
        f"/studies/{study['id']}/findings?test=across": f"Findings: {title}",
        f"/studies/{study['id']}/findings?test={upright}&specimen={dot['specimen_id']}": f"Findings: {title}",
        f"/studies/{study['id']}/findings?test={creep}": f"Findings: {title}",
        f"/studies/{study['id']}/print": f"Print: {title}",
        f"/studies/{study['id']}/plan": f"Plan: {title}",
        f"/bench?test={upright}": "Bench: ",
        f"/bench?test={bending}": "Bench: ",
        f"/bench?test={creep}": "is read in rounds",
        "/bench": "What waits on the bench",
        "/bench/racks": "",
        **racks,
        **bench_of(server),
        "/rigs": "Rigs & methods",
        f"/rigs/{rig}": "",
        f"/rigs/{rigs['Pull frame 2 kN']}": "",
        f"/rigs/{rigs['Pendulum with a digital dial']}/against/{rigs['Pendulum on the doorpost']}": "",
        f"/studies/{hooks}/findings": "Findings: ",
        "/rigs/new?method=creep": "",
        "/rigs/shapes": "Shapes",
        "/rigs/parts": "Parts of your own",
        f"/rigs/parts/{server.get('/api/parts')['items'][0]['id']}": "Lid clamp",
        f"/bench?test={in_use}": "Bench: ",
        "/methods/functional-part": "Part in use",
        "/methods/creep": "",
        "/choose": "Choose",
        "/units": "Units shown",
        "/safekeeping": "Safekeeping",
        "/unsent": "Kept in this browser",
        "/nowhere": "There is no such page",
    }


def show(walk: Walk, scheme: str) -> None:
    """Light or dark, chosen as in another tab: the page follows without being loaded anew."""
    walk.driver.execute_script(
        "const [key, value] = ['mantine-color-scheme-value', arguments[0]]; localStorage.setItem(key, value);"
        "dispatchEvent(new StorageEvent('storage', {key, newValue: value, storageArea: localStorage}));",
        scheme,
    )
    walk.until(lambda: walk.all(f"html[data-mantine-color-scheme={scheme}]"), f"it did not become {scheme}")


def everywhere(walk: Walk, path: str, title: str) -> list[str]:
    """What is wrong with a page on the phone it was opened on, and as the window grows; everything in the one light, colours in the other too."""
    found = []
    light, dark = "light", "dark"
    walk.resize(*SIZES[0])
    opened(walk, path)
    for size in SIZES:
        walk.resize(*size)
        found += [f"{path}, {size[0]} px, {light}: {f}" for f in faults(walk, title)]
        show(walk, dark)
        found += [f"{path}, {size[0]} px, {dark}: {f}" for f in walk.axe(only_colours=True)]
        light, dark = dark, light
    show(walk, "light")
    return found


def opened(walk: Walk, path: str) -> None:
    walk.open(walk.base + path)
    walk.until(lambda: walk.driver.title.endswith("· Assayer") and not walk.all("[aria-busy=true]"), f"{path} never got a title: {walk.driver.title}")


def faults(walk: Walk, title: str) -> list[str]:
    found = walk.axe()
    if title not in walk.driver.title:
        found.append(f"its title is {walk.driver.title!r}")
    if len(walk.all("h1")) != 1:
        found.append(f"it has {len(walk.all('h1'))} main headings")
    wide = walk.driver.execute_script("return document.documentElement.scrollWidth - document.documentElement.clientWidth")
    if wide > 0:
        out = walk.driver.execute_script(
            "const inside = e => { for (let p = e.parentElement; p; p = p.parentElement) if (getComputedStyle(p).overflowX !== 'visible') return true; return false; };"
            "return [...document.querySelectorAll('main *')].filter(e => e.getBoundingClientRect().right > innerWidth + 1 && !inside(e)).map(e => e.tagName + '.' + (e.getAttribute('class') || '').slice(0, 40)).slice(0, 4)"
        )
        found.append(f"it is {wide} px wider than the window: {out}")
    return found + walk.console()


PARTS = 4


@pytest.mark.parametrize("part", range(PARTS))
def test_every_page_is_for_everybody(server, walk, part):
    mine = list(pages_of(server).items())[part::PARTS]
    assert len(mine) > 15
    assert [f for path, title in mine for f in everywhere(walk, path, title)] == []


def test_a_new_notebook_is_for_everybody_too(tmp_path, nursery):
    paths = [
        "/",
        "/stock",
        "/stock/new",
        "/dial-in",
        "/dial-in/gcode",
        "/dial-in/hardware",
        "/stock/intake",
        "/stock/drying",
        "/stock/lists",
        "/stock/labels",
        "/studies",
        "/studies/new",
        "/bench",
        "/bench/racks",
        "/rigs",
        "/rigs/new",
        "/rigs/shapes",
        "/choose",
        "/units",
        "/safekeeping",
        "/unsent",
    ]
    with running_server(tmp_path / "new", nursery) as server, browser() as walk:
        walk.base = server.url
        found = []
        # each in one size and light, so that every size and light has its share of pages with nothing on them
        for path, size, light in zip(paths, cycle(SIZES), cycle(("light", "dark")), strict=False):
            walk.resize(*size)
            opened(walk, path)
            show(walk, light)
            found += [f"{path}, {size[0]} px, {light}: {f}" for f in faults(walk, "")]
        assert found == []


def test_a_round_is_walked_with_a_thumb(server):
    """At the width of a phone: the room, a reading, the next place; what is to be pressed lies under the thumb."""
    rack = next(r["rig_id"] for r in server.get("/api/racks")["items"] if r["name"] == "Loft rack")
    first = server.get(f"/api/racks/{rack}?station=thumb")["members"][0]
    with browser(390, 844) as walk:
        walk.base = server.url
        walk.open(server.url + "/studies")
        walk.driver.execute_script("localStorage.setItem('assayer.person', 'Ilse')")
        walk.open(f"{server.url}/bench/racks/{rack}")

        def go():
            button = walk.until(lambda: next(b for b in walk.all("main button") if b.text and b.value_of_css_property("position") == "fixed"))
            place = button.rect
            assert place["y"] > 600
            assert place["y"] + place["height"] <= 844
            assert place["height"] >= 44
            button.click()

        walk.find("[name=room]").send_keys("21.4")
        go()
        field = walk.find("[name=gap-5]")
        field.send_keys(f"{round(100 * (first['course'][-1]['value'] + 0.07))}")
        walk.see("more than after")
        go()
        walk.until(lambda: len(server.get(f"/api/racks/{rack}?station=thumb")["members"][0]["course"]) == len(first["course"]) + 1)
        assert "mm" in walk.find('g[data-place="1"]').get_attribute("textContent"), "what was read stands there with its unit"
        # the next place has come into sight by itself
        walk.find('g[data-place="2"][aria-current=step]')
        box = walk.find('g[data-place="2"]').rect
        assert box["x"] >= 0
        assert box["x"] + box["width"] <= 390


SEEN_FOCUS = """
const e = document.activeElement, s = getComputedStyle(e);
if (e === document.body) return null;
return [e.outerHTML.slice(0, 120), s.outlineStyle !== 'none' && parseFloat(s.outlineWidth) >= 2];
"""


def test_the_heading_has_the_cursor_at_a_change_of_page_and_every_stop_of_it_is_seen(server, walk):
    def at(words):
        walk.until(
            lambda: walk.driver.title == f"{words} · Assayer" and walk.driver.switch_to.active_element.tag_name == "h1", f"not at the heading of {words}"
        )

    walk.open(walk.base + "/")
    walk.see("Day sheet")
    for page in ("Stock", "Studies"):
        walk.driver.find_element("link text", page).send_keys(Keys.ENTER)
        at(page)
    walk.driver.back()
    at("Stock")
    study = server.get("/api/studies")["items"][0]["id"]
    for path in ("/stock", f"/studies/{study}/board", "/choose", "/dial-in/hardware"):
        opened(walk, path)
        stops = []
        for _ in range(20):
            walk.driver.switch_to.active_element.send_keys(Keys.TAB)
            stops.append(walk.driver.execute_script(SEEN_FOCUS))
        assert len({html for html, _ in filter(None, stops)}) > 9, path
        assert [html for html, seen in filter(None, stops) if not seen] == [], path


def test_the_next_specimen_its_result_and_a_doubt_are_said(server, walk, tests_of_demo):
    first, second = waiting(server, tests_of_demo["upright"])[:2]

    def said(words):
        walk.until(lambda: words in walk.find(".visually-hidden[role=status]").get_attribute("textContent"), f"'{words}' was not said")

    def live(words):
        walk.until(lambda: any(words in e.text for e in walk.all("[aria-live=polite]")), f"'{words}' stands in nothing that is read out")

    walk.open(f"{walk.base}/bench?test={tests_of_demo['upright']}")
    said(f"Now {first['code']}, ")
    fill_by_keyboard(walk, "470")
    live("MPa")
    walk.press(Keys.ENTER)
    said(f"{first['code']} accepted. Now {second['code']}, ")
    # a comma in the wrong place
    fill_by_keyboard(walk, "470")
    width = walk.find('input[name="width-1"]')
    width.send_keys(Keys.CONTROL, "a")
    width.send_keys("50,3")
    walk.find('input[name="peak_force-0"]').send_keys(Keys.ENTER)
    live("was 5.03 mm meant?")
