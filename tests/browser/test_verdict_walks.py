"""What verdicts rest on, by keyboard: the batches and the target of a plan, bounds, the way a bar broke."""

import math
import sqlite3

import pytest
from selenium.webdriver.common.keys import Keys

pytestmark = pytest.mark.browser

DOTS = '[...document.querySelectorAll(\'g[role="button"][aria-label^="specimen"]\')]'
CENTRE = "function centre(g) { const r = g.querySelector('circle').getBoundingClientRect(); return [r.x + r.width / 2, r.y + r.height / 2]; }"


def test_batches_and_a_target_are_planned(server, walk):
    study = server.get("/api/studies")["items"][0]
    power = lambda: server.get(f"/api/studies/{study['id']}/power")  # noqa: E731
    before = power()["rows"][0]
    walk.open(f"{walk.base}/studies/{study['id']}/plan")
    walk.see("Detectable difference")
    chosen = walk.find('[aria-labelledby="planned-batches"] input:checked')
    assert chosen.get_attribute("value") == str(power()["batches"])
    chosen.send_keys(Keys.ARROW_RIGHT)
    walk.until(lambda: power()["batches"] == int(chosen.get_attribute("value")) + 1)

    target = lambda: walk.field("Detect a difference of, %")  # noqa: E731
    target().send_keys("-5")
    walk.see("a number above 0, up to 1000")
    target().send_keys(Keys.ENTER)
    target().send_keys(Keys.CONTROL, "a")
    target().send_keys("12,5" + Keys.ENTER)
    walk.until(lambda: power()["rows"][0]["target"] == 0.125)
    assert not before["target_set"]
    walk.see("target, 12.5 %")
    assert target().get_attribute("value") == "12.5"
    assert walk.driver.switch_to.active_element == target(), "the cursor stays where it was typed"
    walk.driver.refresh()
    walk.until(lambda: target().get_attribute("value") == "12.5")
    target().send_keys(Keys.CONTROL, "a")
    target().send_keys(Keys.DELETE, Keys.TAB)
    walk.until(lambda: not power()["rows"][0]["target_set"])
    assert walk.console() == []


def test_a_target_stays_in_its_field_while_the_server_is_gone(server, walk):
    study = server.get("/api/studies")["items"][0]
    walk.open(f"{walk.base}/studies/{study['id']}/plan")
    walk.see("Detectable difference")
    server.kill()
    field = walk.field("Detect a difference of, %")
    field.send_keys("12" + Keys.ENTER)
    walk.see("could not be reached")
    assert field.get_attribute("value") == "12"
    server.start()
    field.send_keys(Keys.ENTER)
    walk.until(lambda: server.get(f"/api/studies/{study['id']}/power")["rows"][0]["target"] == 0.12)


def test_bars_that_broke_alike_are_compared(server, walk):
    gates = next(s["id"] for s in server.get("/api/studies")["items"] if s["title"].startswith("Entrance gates"))
    impact = next(t["id"] for t in server.get(f"/api/studies/{gates}")["tests"] if t["method"] == "impact")
    found = server.get(f"/api/tests/{impact}/findings")
    walk.open(f"{walk.base}/studies/{gates}/findings?test={impact}")
    ended = walk.until(lambda: walk.all('input[aria-label="How it ended"]'))[0]
    other = next(e for e in found["ends"] if e != found["end"])
    ended.click()
    walk.until(lambda: [o for o in walk.all("[role=option]") if o.text == other])[0].click()
    walk.until(lambda: "end=" in walk.driver.current_url)
    walk.until(lambda: walk.find('input[aria-label="How it ended"]').get_attribute("value") == other)
    assert walk.console() == []


def test_a_ranking_treats_bounds_as_exact_only_when_told(server, walk):
    walk.open(walk.base + "/choose")
    walk.see("not distinguishable from rank")
    walk.find('input[type="checkbox"][role="switch"]').send_keys(Keys.SPACE)
    walk.see("probability of rank")
    walk.find('input[type="checkbox"][role="switch"]').send_keys(Keys.SPACE)
    walk.see("not distinguishable from rank")
    assert walk.axe() == []


def test_the_board_takes_keys_at_once_and_a_touch_the_nearest_dot(server, walk, tests_of_demo):
    study = server.get("/api/studies")["items"][0]["id"]
    walk.open(f"{walk.base}/studies/{study}/board")
    walk.see("Layer adhesion")
    # nothing was clicked before
    walk.press(Keys.ARROW_DOWN, Keys.ARROW_RIGHT)
    walk.until(lambda: walk.find('[data-at="1-1"]').get_attribute("data-chosen"))
    assert walk.driver.switch_to.active_element == walk.find('[data-at="1-1"]')
    # between two dots that lie over one another, each side takes its own
    walk.open(f"{walk.base}/studies/{study}/findings?test={tests_of_demo['flat']}")
    walk.until(lambda: walk.all('g[role="button"][aria-label^="specimen"] circle'))
    places = walk.driver.execute_script(f"return {DOTS}.map((g) => [g.ariaLabel, ...centre(g)]); {CENTRE}")
    # a touch comes in whole pixels: dots less than that apart cannot be told by it
    pairs = [(math.dist(a[1:], b[1:]), a, b) for i, a in enumerate(places) for b in places[:i]]
    _, *near = min(pair for pair in pairs if pair[0] >= 3)
    shown = "return document.querySelector('[role=dialog], aside')?.innerText ?? ''"
    for name, *_ in near:
        # the page may still move while its curves are drawn: it is touched where it is now, and on whatever lies over it there
        touch = f"""const dot = {DOTS}.find((g) => g.ariaLabel === arguments[0]); dot.scrollIntoView({{block: 'center'}});
          const [clientX, clientY] = centre(dot);
          document.elementFromPoint(clientX, clientY).dispatchEvent(new MouseEvent('click', {{bubbles: true, clientX, clientY}})); {CENTRE}"""
        code = name.split()[1].rstrip(",")
        # what was opened before may still be fading out above it: then one touches again
        walk.until(lambda c=code, n=name, t=touch: walk.driver.execute_script(t, n) or c in walk.driver.execute_script(shown), f"{code} was touched")
        walk.press(Keys.ESCAPE)


def test_where_a_share_has_no_meaning_the_margin_is_set_in_its_unit(own_demo, server, walk):
    study = next(
        s["id"] for s in server.get("/api/studies")["items"] if any(t["method"] == "heat-ramp" for t in server.get(f"/api/studies/{s['id']}")["tests"])
    )
    find = lambda: next(t for t in server.get(f"/api/studies/{study}")["tests"] if t["method"] == "heat-ramp")  # noqa: E731
    test = find()
    assert test["margin_kinds"] == ["absolute"]
    with sqlite3.connect(own_demo / "assayer.db", timeout=10) as book:
        book.execute("UPDATE tests SET margin_relative = 1, margin_value = 0.1, revision = revision + 1 WHERE id = ?", (test["id"],))
    walk.open(f"{walk.base}/studies/{study}/findings?test={test['id']}")
    walk.see("A percentage has no meaning here")
    walk.click("set an absolute margin")
    field = walk.field(f"{test['label']}, {test['orientation']}")
    walk.until(lambda: walk.driver.switch_to.active_element == field)
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("-4")
    walk.see("a number above 0")
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("2,5")
    walk.field("Why, of").send_keys("a lid that is opened warm" + Keys.ENTER)
    walk.until(lambda: (find()["margin"], find()["margin_relative"]) == (2.5, False))
    walk.open(f"{walk.base}/studies/{study}/findings?test={test['id']}")
    walk.see("2.50 °C is the smallest difference that matters")
