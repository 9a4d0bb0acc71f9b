"""Several bars in one oven, by keyboard alone: the thermometer typed, a letter for each that sags."""

import pytest
from selenium.webdriver.common.keys import Keys

pytestmark = [pytest.mark.browser, pytest.mark.xdist_group("browser")]


def test_a_sitting_at_the_oven(server, walk):
    study = next(s["id"] for s in server.get("/api/studies")["items"] if s["title"].startswith("Entrance gates"))
    test = next(t["id"] for t in server.get(f"/api/studies/{study}")["tests"] if t["method"] == "heat-ramp")
    waiting = [i for i in server.get(f"/api/tests/{test}/queue")["items"] if i["state"] == "waiting"]
    assert len(waiting) == 3
    walk.open(f"{walk.base}/bench?test={test}")
    walk.click("several at once")
    walk.see("3 of 3 that wait go in")
    walk.press(Keys.ENTER)
    walk.see("the oven shows, °C")
    a, b, c = (i["code"] for i in waiting)
    walk.press("a")
    walk.see("type first what the oven shows")
    keys = 0

    def typed(text):
        nonlocal keys
        walk.type_slowly(text)
        walk.press(Keys.ENTER)
        keys += len(text) + 1

    def letter(one):
        nonlocal keys
        walk.press(one)
        keys += 1

    typed("60")
    typed("640")
    walk.see("that is a leap")
    walk.press(*[Keys.BACKSPACE] * 3)
    typed("62")
    letter("b")
    walk.see("sag seen at")
    letter("c")
    walk.press("u")
    walk.see(f"{c}: taken back")
    # what was noted outlives a reload
    walk.driver.refresh()
    walk.see("sag seen at")
    typed("64,5")
    letter("c")
    letter("b")
    walk.see("hung down at")
    typed("70")
    walk.click("Forget this sitting")
    walk.see("3 of 3 that wait go in")
    walk.click("Bring it back")
    walk.see("hung down at")
    walk.click("Take them out")
    walk.until(lambda: all(server.get(f"/api/specimens/{i['specimen_id']}")["runs"] for i in waiting), "they were not kept")
    run = {code: server.get(f"/api/specimens/{i['specimen_id']}")["runs"][0] for code, i in zip((a, b, c), waiting, strict=True)}
    step = 2.0
    found = {code: {r["quantity"]: (r["value"], r["bound"]) for r in run[code]["results"]} for code in run}
    assert found[b] == {"sag_onset": (62 - step / 2, "exact"), "total_failure": (64.5, "exact")}
    assert found[c] == {"sag_onset": (64.5 - step / 2, "exact")}
    assert found[a]["sag_onset"] == (70 - step / 2, "at_least")
    assert {code: r["outcome"] for code, r in run.items()} == {a: "stood", b: "sagged", c: "sagged"}
    walk.see("Onset of sag of every specimen")
    print(f"keys a specimen: {keys / 3:.1f}")
    walk.open(f"{walk.base}/bench/oven/{test}")
    walk.see("Nothing waits for the oven")
