"""Creep, stepped bending and rigs as a person does them, by keyboard; what was typed comes back."""

import time
from datetime import UTC, datetime

import pytest
from selenium.webdriver.common.keys import Keys

from ..api.test_durability import entry, post
from ..support import new_id
from .test_slice import code_at_hand, fill_by_keyboard, runs_of, waiting

pytestmark = pytest.mark.browser


def rack_of(server, name="Loft rack"):
    rig = next(r for r in server.get("/api/rigs")["items"] if r["name"] == name)
    return server.get(f"/api/racks/{rig['rig_id']}?station=walk")


def typed(walk):
    return walk.driver.switch_to.active_element.get_attribute("value")


def active(walk):
    return walk.driver.switch_to.active_element.get_attribute("name")


def own_study(server, method, replicates=2, orientation="flat"):
    """A study of one arm with one test, all of it printed."""
    material = next(m for m in server.get("/api/materials")["items"] if m["product"] == "Everyday")
    study, arm, test = new_id(), new_id(), new_id()
    tests = [{"id": test, "method": method, "orientation": orientation, "replicates": replicates}]
    status, body = post(server, "/api/studies", {"id": study, "title": "Own", "arms": [{"id": arm, "material_id": material["id"]}], "tests": tests})
    assert status == 201, body
    status, body = post(server, "/api/batches", {"id": new_id(), "arm_id": arm, "printed_at": datetime.now(UTC).isoformat()})
    assert status == 201, body
    return test


def test_a_creep_round_by_keyboard(server, walk):
    before = rack_of(server)["members"]
    last = {m["code"]: m["course"][-1]["value"] for m in before}
    walk.open(walk.base + "/")
    walk.click("Round over Loft rack")
    walk.see("the room, once a round")
    walk.until(lambda: active(walk) == "room")
    walk.type_slowly("28")
    walk.press(Keys.ENTER)
    walk.see("warmer than that")
    walk.press(Keys.BACKSPACE, Keys.BACKSPACE)
    walk.type_slowly("22,1")
    walk.press(Keys.ENTER)
    # the last value is not shown before this one is typed
    walk.until(lambda: active(walk) == "gap-5")
    assert "less than" not in walk.text()
    assert "more than" not in walk.text()
    first, second, _, fourth, fifth = before
    walk.type_slowly(str(round(100 * (last[first["code"]] + 0.09))))
    walk.see("0.09 mm more than after 2")
    # a half-typed reading is there again after a reload
    walk.driver.refresh()
    walk.until(lambda: typed(walk) == str(round(100 * (last[first["code"]] + 0.09))), "the draft did not come back")
    walk.press(Keys.ENTER)
    walk.until(lambda: second["code"] in walk.find("main").text and active(walk) == "gap-5" and typed(walk) == "")
    # one that runs backwards is asked about, and stands when it is confirmed
    walk.type_slowly(f"{last[second['code']] - 0.5:.2f}")
    walk.press(Keys.ENTER)
    walk.see("runs backwards")
    walk.press("k")
    walk.gone("runs backwards")
    walk.until(lambda: active(walk) == "gap-5")
    for _ in range(5):
        walk.press(Keys.BACKSPACE)
    walk.type_slowly(f"{last[second['code']] + 0.06:.2f}")
    walk.press(Keys.ENTER)
    walk.find('svg g[aria-current=step][data-place="3"]')
    walk.press("n")
    walk.find('svg g[aria-current=step][data-place="4"]')
    walk.press("o")
    walk.see(f"{fourth['code']} leaves place 4")
    walk.click("came off the rack")
    walk.find('svg g[aria-current=step][data-place="5"]')
    walk.type_slowly(f"{last[fifth['code']] + 0.02:.2f}")
    walk.press(Keys.ENTER)
    walk.see("3 of 4 read in this round")
    walk.until(lambda: [len(m["course"]) for m in rack_of(server)["members"]] == [5, 5, 4, 5])
    after = {m["code"]: m for m in rack_of(server)["members"]}
    assert after[first["code"]]["course"][-1]["value"] == pytest.approx(last[first["code"]] + 0.09)
    run = runs_of(server, first["specimen_id"])[0]
    reading = next(r for r in run["readings"] if r["field"] == "gap" and r["position"] == 5)
    assert (reading["ambient_c"], reading["raw"], run["complete"]) == (22.1, str(round(100 * (last[first["code"]] + 0.09))), False)
    off = runs_of(server, fourth["specimen_id"])[0]
    assert (off["outcome"], off["complete"]) == ("came off", True)
    assert rack_of(server)["room"]["value"] == 22.1
    # one back: it stands in its field again
    walk.press("u")
    walk.see(f"the last entry of {fifth['code']} was taken back")
    walk.until(lambda: typed(walk) == f"{last[fifth['code']] + 0.02:.2f}")
    walk.until(lambda: [len(m["course"]) for m in rack_of(server)["members"]] == [5, 5, 4, 4])
    assert walk.console() == []


def test_frames_are_hung_loaded_and_unloaded(server, walk):
    test = own_study(server, "creep")
    rack = rack_of(server, "Cellar rack")
    walk.open(f"{walk.base}/bench/racks/{rack['rig_id']}")
    walk.until(lambda: active(walk) == "room")
    walk.type_slowly("21.5")
    walk.press(Keys.ENTER)
    walk.see("Hang it on place 1")
    first = rack["waiting"][0]["items"][0]
    walk.press(Keys.ENTER)
    walk.until(lambda: active(walk) == "unloaded-0")
    walk.type_slowly("2001")
    walk.press(Keys.ENTER)
    walk.see("N is on")
    walk.press(Keys.ENTER)
    walk.until(lambda: active(walk) == "gap-0", "the station stays for the first reading")
    walk.type_slowly("2044")
    walk.see("the first reading of this one")
    walk.press(Keys.ENTER)
    walk.until(lambda: len(rack_of(server, "Cellar rack")["members"][0]["course"]) == 1)
    member = rack_of(server, "Cellar rack")["members"][0]
    assert (member["code"], member["stage"], member["unloaded"], member["position"]) == (first["code"], "loaded", 20.01, 0)
    assert member["course"][0]["value"] == 20.44
    assert [i["state"] for i in server.get(f"/api/tests/{test}/queue")["items"]] == ["measured", "waiting"]


def test_stepped_bending_by_keyboard_and_a_reload_loses_no_clock(server, walk):
    test = own_study(server, "stepped-bending")
    item = waiting(server, test)[0]
    walk.open(f"{walk.base}/bench?test={test}")
    walk.see("the clock runs from there")
    for value in ("10.02", "10.03", "10.01", "4.01", "4.02", "4.00"):
        walk.type_slowly(value)
        walk.press(Keys.ENTER)
    walk.until(lambda: active(walk) == "load_on-0", "Enter leads to the first weight")
    walk.press(Keys.ENTER)
    began = time.monotonic()
    walk.until(lambda: active(walk) == "deflection-0")
    walk.see("s under 20 N")
    walk.driver.refresh()
    walk.see("s under 20 N")
    shown = float(walk.find("[role=timer] strong").text)
    assert abs(shown - (time.monotonic() - began)) < 3, "the clock runs on over a reload"
    for position, value in ((0, "0.412"), (1, "0.420"), (2, "0.431")):
        walk.find(f'input[name="deflection-{position}"]').click()
        walk.type_slowly(value)
    # accepted with one weight of four: that is asked, not taken for held
    walk.find("[data-accept]").click()
    walk.see("1 of 4 weights: end here?")
    assert runs_of(server, item["specimen_id"]) == []
    for load, values in ((1, ("0.83", "0.85", "0.87")), (2, ("1.70", "1.74", "1.79"))):
        walk.find(f'button[name="load_on-{load}"]').click()
        for j, value in enumerate(values):
            walk.find(f'input[name="deflection-{3 * load + j}"]').click()
            walk.type_slowly(value)
    # it broke under the last weight: what it carried stands
    walk.click("broke")
    walk.see("load carried steadily")
    walk.find('input[name="deflection-8"]').click()
    walk.press(Keys.ENTER)
    # past what stays after unloading: nothing does of what broke
    walk.until(lambda: active(walk) == "residual-0")
    walk.press(Keys.ENTER)
    run = walk.until(lambda: runs_of(server, item["specimen_id"])[0])
    deflections = [r for r in run["readings"] if r["field"] == "deflection"]
    assert [(r["load"], r["raw"]) for r in deflections][:4] == [(20, "0.412"), (20, "0.420"), (20, "0.431"), (40, "0.83")]
    assert all(0 < r["after"] < 300 for r in deflections)
    assert {r["quantity"].partition("@")[0] for r in run["results"]} >= {"deflection", "load_carried"}
    assert walk.console() == []


def test_a_rig_is_added_and_calibrated_and_what_moved_is_told(server, walk, tests_of_demo):
    walk.open(walk.base + "/rigs")
    walk.click("Add a rig")
    walk.field("Name of the rig").send_keys("Attic rack")
    walk.driver.find_element("xpath", "//label[.='Creep']").click()
    walk.see("gap")
    decimals = walk.field("implied decimals")
    decimals.send_keys(Keys.CONTROL, "a")
    decimals.send_keys("2")
    walk.see("20.47")
    walk.click("Add the rig")
    walk.see("look at the display and confirm")
    walk.driver.find_element("xpath", "//label[.='yes, it shows no point']").click()
    walk.click("Add the rig")
    walk.see("2 decimals without a point: 2047 reads 20.47 mm")
    rig = next(r for r in server.get("/api/rigs")["items"] if r["name"] == "Attic rack")
    assert (rig["places"], rig["channels"][0]["decimals"], rig["channels"][0]["step"], rig["methods"]) == (8, 2, 0.01, ["creep"])
    # the stand is calibrated anew: what was measured since moves, and it is told
    stand = next(r for r in server.get("/api/rigs")["items"] if r["name"] == "Two-support stand")
    walk.open(f"{walk.base}/rigs/{stand['rig_id']}")
    walk.see("calibration is due")
    (before,) = server.get(f"/api/rigs/{stand['rig_id']}")["calibrations"]
    walk.click("correct deflection")
    factor = walk.field("factor")
    factor.send_keys(Keys.CONTROL, "a")
    factor.send_keys("1.02")
    factor.send_keys(Keys.ENTER)
    walk.see("runs moved")
    assert "deflection at 20 N" in walk.text()
    assert "@" not in walk.text()
    kept = server.get(f"/api/rigs/{stand['rig_id']}")["calibrations"]
    changed = {"factor": 1.02, "revision": before["revision"] + 1}
    assert kept == [before | changed], "its times stay to the second"
    walk.click("Calibrate …")
    walk.field("display shows").send_keys("10")
    walk.field("it truly is").send_keys("10,05")
    walk.until(lambda: walk.field("factor").get_attribute("value") == "1.00500")
    walk.click("Keep the calibration")
    walk.see("Kept; no result moved")
    assert len(server.get(f"/api/rigs/{stand['rig_id']}")["calibrations"]) == 2
    assert walk.console() == []


def test_what_is_typed_stays_with_its_specimen(server, walk, tests_of_demo):
    test = tests_of_demo["upright"]
    first, second = waiting(server, test)[:2]
    walk.open(f"{walk.base}/bench?test={test}")
    walk.see("random order")
    for value in ("5.01", "5.02"):
        walk.type_slowly(value)
        walk.press(Keys.ENTER)
    # another chip, the header, Back and a reload: it is there again, and nowhere else
    walk.click(second["code"])
    walk.until(lambda: code_at_hand(walk) == second["code"])
    assert walk.find('input[name="width-0"]').get_attribute("value") == ""
    walk.click("Stock", "a")
    walk.see("10 materials")
    walk.driver.back()
    walk.until(lambda: code_at_hand(walk) == first["code"])
    assert walk.find('input[name="width-1"]').get_attribute("value") == "5.02"
    walk.driver.refresh()
    walk.until(lambda: walk.find('input[name="width-0"]').get_attribute("value") == "5.01")
    # another tab accepts it meanwhile: this one says so, and keeps what was typed off the next specimen
    rig = next(r["id"] for r in server.get("/api/rigs")["items"] if r["calibrated_at"] and "tension" in r["methods"])
    assert post(server, "/api/runs", entry(test, first, rig, "470"))[0] == 201
    walk.see(f"{first['code']} was tested meanwhile")
    walk.see("stays its draft here")
    walk.click("Next specimen")
    walk.until(lambda: code_at_hand(walk) == second["code"])
    assert walk.find('input[name="width-0"]').get_attribute("value") == ""
    # the code of a tested specimen opens the specimen, from every page and by a scanner
    walk.press("/")
    walk.see("Find or do")
    walk.type_slowly(first["code"])
    walk.press(Keys.ENTER)
    walk.see("Raw entries")
    assert "/findings" in walk.driver.current_url
    walk.open(walk.base + "/choose")
    walk.see("A rank is shared")
    walk.scan(second["code"])
    walk.until(lambda: "/bench" in walk.driver.current_url and code_at_hand(walk) == second["code"])


def test_a_lost_decimal_point_is_asked_about_and_enter_goes_on_from_the_outcome(server, walk, tests_of_demo):
    test = tests_of_demo["upright"]
    item = waiting(server, test)[0]
    walk.open(f"{walk.base}/bench?test={test}")
    walk.see("random order")
    for value in ("502", "", "4.01"):
        if value:
            walk.type_slowly(value)
        walk.press(Keys.ENTER)
        if value == "502":
            # one reading is enough: Enter on an empty one goes on to the next field
            walk.until(lambda: active(walk) == "width-1")
    walk.press(Keys.ENTER)
    walk.until(lambda: active(walk) == "peak_force-0")
    walk.type_slowly("470")
    walk.press(Keys.ENTER)
    walk.see("was 5.02 mm meant?")
    assert runs_of(server, item["specimen_id"]) == []
    walk.press(Keys.ENTER)
    walk.until(lambda: walk.find('input[name="width-0"]').get_attribute("value").startswith("5.02"))
    walk.click("across one layer plane")
    walk.press(Keys.ENTER)
    run = walk.until(lambda: runs_of(server, item["specimen_id"])[0])
    assert run["outcome"] == "one layer"
    assert run["results"][0]["value"] == pytest.approx(470 * 1.004 / (5.02 * 4.01), rel=1e-6)


def test_a_done_queue_leads_to_the_next(server, walk, tests_of_demo):
    test = tests_of_demo["flat"]
    walk.open(f"{walk.base}/bench?test={test}")
    walk.see("random order")
    for _ in waiting(server, test):
        fill_by_keyboard(walk)
        walk.press(Keys.ENTER)
        time.sleep(0.3)
    walk.see("This queue is done")
    walk.until(lambda: walk.driver.switch_to.active_element.tag_name == "a")
    walk.press(Keys.ENTER)
    walk.see("random order")
    assert test not in walk.driver.current_url
