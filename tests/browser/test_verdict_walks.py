"""What verdicts rest on, by keyboard: the batches and the target of a plan, bounds, the way a bar broke."""

import pytest
from selenium.webdriver.common.keys import Keys

pytestmark = pytest.mark.browser


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
