"""Several bars in one oven, by keyboard alone: the thermometer typed, a letter for each that sags."""

import json
import struct
import urllib.request
from datetime import datetime, timedelta

import numpy as np
import pytest
from selenium.webdriver.common.keys import Keys

pytestmark = pytest.mark.browser


def curve_of(server, run_id):
    with urllib.request.urlopen(f"{server.url}/api/runs/{run_id}/curve") as answer:
        data = answer.read()
    return json.loads(data[4 : 4 + struct.unpack("<I", data[:4])[0]])["curves"][0]


def ramp_of(server):
    study = next(s["id"] for s in server.get("/api/studies")["items"] if s["title"].startswith("Entrance gates"))
    test = next(t["id"] for t in server.get(f"/api/studies/{study}")["tests"] if t["method"] == "heat-ramp")
    waiting = [i for i in server.get(f"/api/tests/{test}/queue")["items"] if i["state"] == "waiting"]
    assert len(waiting) == 3
    return test, waiting


def kept(server, walk, waiting):
    """The runs of specimens, once all have one."""
    walk.until(lambda: all(server.get(f"/api/specimens/{i['specimen_id']}")["runs"] for i in waiting), "they were not kept")
    return [server.get(f"/api/specimens/{i['specimen_id']}")["runs"][0] for i in waiting]


def test_a_sitting_at_the_oven(server, walk):
    test, waiting = ramp_of(server)
    walk.open(f"{walk.base}/bench?test={test}")
    walk.click("several at once")
    walk.see("3 of 3 that wait go in")
    walk.press(Keys.ENTER)
    walk.see("the oven shows, °C")
    a, b, c = (i["code"] for i in waiting)
    walk.press("a")
    walk.see("type first what the oven shows")

    def typed(text):
        walk.type_slowly(text)
        walk.press(Keys.ENTER)

    typed("60")
    typed("640")
    walk.see("that is a leap")
    walk.press(*[Keys.BACKSPACE] * 3)
    typed("62")
    walk.press("b")
    walk.see("sag seen at")
    walk.press("c")
    walk.press("u")
    walk.see(f"{c}: taken back")
    # what was noted outlives a reload, and the day sheet tells where it goes on
    walk.open(f"{walk.base}/")
    walk.see(": 3 in it")
    walk.see("just now")
    walk.click("Oven →")
    walk.see("sag seen at")
    # at another device it goes on where it is, and what is noted there comes in here
    walk.driver.execute_script("sessionStorage.held = localStorage.getItem(arguments[0]); localStorage.removeItem(arguments[0])", f"assayer.sitting.{test}")
    walk.open(f"{walk.base}/bench/oven/{test}")
    walk.see("put in by")
    walk.press(Keys.ENTER)
    walk.see("sag seen at")
    typed("63")
    walk.press("u")
    walk.see("63 was taken back")
    walk.until(lambda: len(server.get(f"/api/tests/{test}/ovens")["items"][0]["notes"]) == 7, "not all notes have arrived")
    walk.driver.execute_script("localStorage.setItem(arguments[0], sessionStorage.held)", f"assayer.sitting.{test}")
    walk.open(f"{walk.base}/bench/oven/{test}")
    walk.see("sag seen at")
    typed("64,5")
    walk.press("c")
    walk.press("b")
    walk.see("hung down at")
    typed("70")
    walk.click("Forget this sitting")
    walk.see("3 of 3 that wait go in")
    walk.click("Bring it back")
    walk.see("hung down at")
    walk.click("Take them out")
    walk.see(f"2 of 3 sagged; {a} would count as withstanding 70: end here?")
    assert not any(server.get(f"/api/specimens/{i['specimen_id']}")["runs"] for i in waiting)
    walk.click("End here")
    run = dict(zip((a, b, c), kept(server, walk, waiting), strict=True))
    step = 2.0
    found = {code: {r["quantity"]: (r["value"], r["bound"]) for r in run[code]["results"]} for code in run}
    assert found[b] == {"sag_onset": (62 - step / 2, "exact"), "total_failure": (64.5, "exact")}
    assert found[c] == {"sag_onset": (64.5 - step / 2, "exact")}
    assert found[a]["sag_onset"] == (70 - step / 2, "at_least")
    assert {code: r["outcome"] for code, r in run.items()} == {a: "stood", b: "sagged", c: "sagged"}
    # each run has what the oven showed, and where on it something was seen
    shown = {r["position"]: r["raw"] for r in run[b]["readings"] if r["field"] == "course"}
    assert shown == {0: "60", 1: "62", 2: "64,5", 3: "70"}
    drawn = curve_of(server, run[b]["id"])
    assert (drawn["x_label"], drawn["y_label"], drawn["points"]) == ("time", "temperature", 4)
    assert [drawn["marks"][name][1] for name in ("sag seen", "hung down")] == [62, 64.5]
    walk.see("Onset of sag of every specimen")
    walk.open(f"{walk.base}/bench/oven/{test}")
    walk.see("Nothing waits for the oven")


def test_after_a_touch_keys_go_where_they_went_before(server, walk):
    test, waiting = ramp_of(server)
    walk.open(f"{walk.base}/bench/oven/{test}")
    walk.see("3 of 3 that wait go in")
    walk.press(Keys.ENTER)
    walk.see("the oven shows, °C")
    a, b = (i["code"] for i in waiting[:2])
    walk.type_slowly("62")
    walk.press(Keys.ENTER)
    for undone in (f"{a} is in it again", "64 was taken back"):
        walk.find(f'[aria-label="Leave {a} out of this sitting"]').click()
        walk.see(f"{a} was left out")
        if "64" in undone:
            walk.type_slowly("64")
            walk.press(Keys.ENTER)
        walk.press("u")
        walk.see(undone)
    walk.press("u")
    walk.see(f"{a} is in it again")
    # a letter that was touched is not touched again by the Enter behind a temperature
    walk.find(f'[aria-label="{b}: seen now"]').click()
    walk.type_slowly("66")
    walk.press(Keys.ENTER)
    walk.press("a")
    walk.until(lambda: len(server.get(f"/api/tests/{test}/ovens")["items"][0]["notes"]) == 10, "not all notes have arrived")
    notes = server.get(f"/api/tests/{test}/ovens")["items"][0]["notes"]
    assert [(n["what"], n["raw"]) for n in notes[-3:]] == [("seen", "62"), ("shown", "66"), ("seen", "66")]


def test_a_logger_tells_the_temperature_of_what_was_seen(server, walk, tmp_path):
    test, waiting = ramp_of(server)
    walk.open(f"{walk.base}/bench/oven/{test}")
    walk.see("3 of 3 that wait go in")
    walk.press(Keys.ENTER)
    walk.see("a logger writes along")
    a, b, c = (i["code"] for i in waiting)
    walk.find("input[type=checkbox]").send_keys(Keys.SPACE)
    walk.find("input[inputmode=decimal]").click()
    walk.press("b")
    walk.see("sag seen at")
    walk.click("Take them out")
    walk.see(f"{b}: no temperature is known for when that was seen")
    # a file without times is refused in words, and nothing is lost by it
    walk.driver.refresh()
    walk.see("sag seen at")
    bad = tmp_path / "bad.csv"
    bad.write_text("Temp (°C)\n" + "\n".join(f"{40 + i}" for i in range(9)))
    logger = walk.all("input[type=file]")[0]
    logger.send_keys(str(bad))
    walk.see("the file has no times")
    # 2 K a minute from 40 °C, begun two minutes before they were put in, an hour wrong on its clock
    begun = datetime.now() - timedelta(minutes=2)
    rows = [(begun + timedelta(seconds=20 * i, hours=1), 40 + 2 * i / 3) for i in range(31)]
    good = tmp_path / "oven.csv"
    good.write_text("Date;Time;Temp. [°C]\n" + "\n".join(f"{at:%d.%m.%Y};{at:%H:%M:%S};{shown:.3f}".replace(".", ",", 0) for at, shown in rows))
    logger.send_keys(str(good))
    walk.see("oven.csv")
    walk.click("Take them out")
    walk.see(f"{b}: no temperature is known")
    clock = walk.field("its first row was written at")
    clock.send_keys(Keys.CONTROL, "a")
    clock.send_keys(f"{begun:%H:%M:%S}", Keys.ENTER)
    walk.see("°C")
    assert walk.axe() == []
    walk.click("Take them out")
    walk.click("End here")
    run = dict(zip((a, b, c), kept(server, walk, waiting), strict=True))
    seen = next(r for r in run[b]["readings"] if r["field"] == "noticed_at")
    after = (datetime.fromisoformat(seen["happened_at"]).timestamp() - begun.replace(microsecond=0).timestamp()) / 20
    assert seen["value"] == pytest.approx(np.interp(after, range(31), [shown for _, shown in rows]), abs=0.06)
    assert (run[a]["outcome"], run[b]["outcome"], run[c]["outcome"]) == ("stood", "sagged", "stood")
    assert next(r["raw"] for r in run[a]["readings"] if r["field"] == "noticed_at") == "60.0 °C"
    for one in run.values():
        drawn = curve_of(server, one["id"])
        assert (drawn["x_label"], drawn["points"]) == ("time", 31)
    assert curve_of(server, run[b]["id"])["marks"]["sag seen"][0] == pytest.approx(after / 3, abs=0.05)


def test_a_sitting_goes_on_while_the_server_is_gone(server, walk):
    test, waiting = ramp_of(server)
    walk.open(f"{walk.base}/bench/oven/{test}")
    walk.see("3 of 3 that wait go in")
    server.kill()
    walk.press(Keys.ENTER, Keys.ENTER)
    walk.see("the oven shows, °C")
    walk.type_slowly("60")
    walk.press(Keys.ENTER, "a")
    walk.see("sag seen at")
    server.start()
    noted = [("shown", "60"), ("seen", "60")]
    running = walk.until(lambda: [o for o in server.get(f"/api/tests/{test}/ovens")["items"] if len(o["notes"]) == 2], "the notes did not arrive")
    assert [(n["what"], n["raw"]) for n in running[0]["notes"]] == noted, "once, although Enter was pressed twice"
    # the page that follows cannot be fetched: that is said, and it comes by itself
    server.kill()
    walk.click("Take them out")
    walk.click("End here")
    walk.see("This page could not be fetched: the server does not answer")
    walk.see("wait for the server")
    assert len(walk.all("h1")) == 1
    server.start()
    walk.see("Onset of sag of every specimen")
    walk.until(lambda: not server.get(f"/api/tests/{test}/ovens")["items"], "the oven is still under way")
    assert all(len(server.get(f"/api/specimens/{i['specimen_id']}")["runs"]) == 1 for i in waiting)
