"""What is to be looked at again, from the page of a thing to the day sheet; a photograph put to a tested specimen."""

from datetime import date, timedelta

import pytest
from PIL import Image
from selenium.webdriver.common.keys import Keys

from ..support import new_id

pytestmark = pytest.mark.browser


def test_a_follow_up_is_set_on_a_spool_and_settled_on_the_day_sheet(server, walk):
    spool = next(s for m in server.get("/api/stock")["items"] for s in m["spools"])
    walk.open(f"{walk.base}/stock/spools/{spool['id']}")
    walk.labelled("What to look at again").send_keys("is it brittle?", Keys.ENTER, Keys.ENTER)
    walk.labelled("Settled: is it brittle?")
    walk.until(lambda: walk.labelled("What to look at again").get_attribute("value") == "")
    query = f"/api/follow-ups?object_kind=spool&object_id={spool['id']}"
    (kept,) = server.get(query)["items"]
    assert (kept["text"], kept["due_on"]) == ("is it brittle?", (date.today() + timedelta(days=30)).isoformat())
    late = {
        "id": new_id(),
        "object_kind": "spool",
        "object_id": spool["id"],
        "text": "has it unwound?",
        "due_on": (date.today() - timedelta(days=2)).isoformat(),
    }
    assert server.ask("/api/follow-ups", late)[0] == 201
    walk.open(f"{walk.base}/")
    walk.see("has it unwound?")
    walk.see("2 days late")
    assert "is it brittle?" not in walk.text()
    walk.labelled("Settled: has it unwound?").click()
    walk.see("Settled: “has it unwound?”.")
    walk.gone("2 days late")
    walk.click("Undo")
    walk.see("2 days late")
    walk.labelled("Put off 7 days: has it unwound?").click()
    walk.gone("2 days late")
    walk.open(f"{walk.base}/stock/spools/{spool['id']}")
    walk.see("in 7 days")
    walk.labelled("Take back: is it brittle?").click()
    walk.see("Taken back: “is it brittle?”.")
    assert [f["text"] for f in server.get(query)["items"]] == ["has it unwound?"]


def test_a_photograph_is_put_to_a_tested_specimen(server, walk, tests_of_demo, tmp_path):
    test = tests_of_demo["flat"]
    pictured = {p["specimen_id"] for p in server.get(f"/api/tests/{test}/photos")["items"]}
    tested = next(i for i in server.get(f"/api/tests/{test}/queue")["items"] if i["state"] == "counts" and i["specimen_id"] not in pictured)
    study = next(s["id"] for s in server.get("/api/studies")["items"] if test in [t["id"] for t in server.get(f"/api/studies/{s['id']}")["tests"]])
    picture = tmp_path / "break.png"
    Image.new("RGB", (320, 240), "#884422").save(picture)
    walk.open(f"{walk.base}/studies/{study}/findings?test={test}&specimen={tested['specimen_id']}")
    walk.see("Photographs")
    walk.see("Add photographs")
    walk.find("section input[type=file]").send_keys(str(picture))
    run = server.get(f"/api/specimens/{tested['specimen_id']}")["runs"][0]["id"]
    walk.until(lambda: server.get(f"/api/photos?subject_kind=run&subject_id={run}")["items"], "the photograph did not arrive")
    walk.see("More photographs")
