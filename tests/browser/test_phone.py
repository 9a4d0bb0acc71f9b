"""On a phone held upright, and on a tablet: nothing is cut off, the board keeps its width, whatever is pressed is high enough."""

import pytest

from .walk import Walk

pytestmark = pytest.mark.browser

IN_VIEW = "return arguments[0].every((e) => { const r = e.getBoundingClientRect(); return r.width > 0 && r.left >= 0 && r.right <= innerWidth; })"


def box(walk: Walk, css: str) -> dict[str, float]:
    return walk.driver.execute_script("return document.querySelector(arguments[0]).getBoundingClientRect().toJSON()", css)


def test_a_phone_shows_the_whole_menu_the_board_and_its_panel(server, walk):
    study = server.get("/api/studies")["items"][0]["id"]
    walk.resize(390, 844)
    walk.open(f"{walk.base}/studies/{study}/board")
    walk.see("Layer adhesion")
    assert walk.driver.execute_script(IN_VIEW, walk.all("header a, header button"))
    grid, panel = box(walk, "[role=grid]"), box(walk, "aside[aria-label='The chosen cell']")
    assert box(walk, "main")["width"] - 60 < walk.driver.execute_script("return document.querySelector('[role=grid]').parentElement.clientWidth")
    assert panel["top"] > grid["bottom"], "the panel stands beside the board"
    # the swatches stay where the cells are pushed along
    head = walk.find("tbody th")
    before = head.rect["x"]
    walk.driver.execute_script("document.querySelector('[role=grid]').parentElement.scrollLeft = 120")
    assert abs(head.rect["x"] - before) < 2
    assert head.rect["width"] <= 48


def test_headings_stay_together_and_buttons_are_high_enough(server, walk):
    walk.resize(390, 844)
    trail = server.get("/api/trails")["items"][0]["id"]
    materials = [f"/stock/materials/{m['id']}" for m in server.get("/api/materials")["items"]]
    for path in [f"/dial-in/{trail}", "/dial-in/hardware", *materials]:
        walk.open(walk.base + path)
        walk.until(lambda: walk.all("h1") and not walk.all("[aria-busy=true]"))
        assert box(walk, "h1")["height"] < 80, f"{path}: a word to a line"
        wide = walk.driver.execute_script("return document.documentElement.scrollWidth")
        assert wide <= 390, f"{path} shifts sideways: {wide}"
        low = walk.driver.execute_script(
            "return [...document.querySelectorAll('main button')].filter((e) => e.checkVisibility() && e.offsetHeight < 24).map((e) => e.innerText)"
        )
        assert low == [], path


def test_a_tablet_shows_the_whole_bar(server, walk):
    walk.resize(768, 1024)
    walk.open(f"{walk.base}/studies")
    walk.see("New study")
    assert walk.driver.execute_script(IN_VIEW, walk.all("header a:not([href='#content']), header button"))
