"""What is typed into a number field stays as typed; what cannot be is said at the field with what was likely meant, and is not recorded."""

import pytest
from selenium.webdriver.common.keys import Keys

pytestmark = pytest.mark.browser


def type_over(field, text):
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys(text)


def test_a_dryers_temperature_is_never_rewritten(server, walk):
    before = len(server.get("/api/dryings")["items"])
    walk.open(walk.base + "/stock/drying")
    spool = next(s for p in server.get("/api/places")["items"] for s in p["spools"] if s["material"]["product"] == "Everyday")
    walk.until(lambda: [b for b in walk.all("button") if spool["code"] in b.text])[0].click()
    heat = walk.field("At, °C")
    for typed in ("6,5", "650"):
        type_over(heat, typed + Keys.TAB)
        walk.see("from 20 to 200: did you mean 65?")
        assert heat.get_attribute("value") == typed
    type_over(walk.field("Device"), "Loft dryer" + Keys.TAB)
    hours = walk.field("For, h")
    type_over(hours, "80" + Keys.ENTER)
    assert len(server.get("/api/dryings")["items"]) == before, "nothing is recorded while a field is wrong"
    type_over(heat, "45")
    hours.send_keys(Keys.ENTER)
    walk.see("was 8 h meant?")
    assert (heat.get_attribute("value"), hours.get_attribute("value")) == ("45", "80")
