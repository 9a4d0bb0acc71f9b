"""What stands is changed: a plan is extended, a study put away and copied, a purpose asks for more, a product is withdrawn."""

import urllib.request

import pytest
from selenium.webdriver.common.keys import Keys

from ..support import new_id
from .test_edges import somebody_else_pulls
from .test_slice import waiting

pytestmark = pytest.mark.browser


def pick(walk, label, words):
    """One of a list, by keyboard: its letters, then Enter."""
    box = walk.labelled(label)
    box.click()
    box.send_keys(words)
    walk.until(lambda: [o for o in walk.all("[role=option]") if o.is_displayed() and words in o.text])
    walk.press(Keys.ARROW_DOWN, Keys.ENTER)


def test_a_plan_grows_is_renamed_copied_and_put_away(server, walk, tests_of_demo):
    study = server.get("/api/studies")["items"][0]
    before = server.get(f"/api/studies/{study['id']}")
    walk.open(f"{walk.base}/studies/{study['id']}/plan")
    walk.labelled("Another material")
    pick(walk, "Another material", "Pliant")
    pick(walk, "Another test", "Hardness")
    walk.until(lambda: "specimens more to print" in walk.text())
    each = walk.labelled("Specimens of each: Tension, flat")
    each.send_keys(Keys.CONTROL, "a")
    each.send_keys("7")
    # a material more over 7 + 5 + 3 + 3, two more of the first test for five others, a test of five of each for six
    walk.see(f"{18 + 10 + 30} specimens more to print")
    # what is not planned yet outlives a reload
    walk.driver.refresh()
    walk.see(f"{18 + 10 + 30} specimens more to print")
    walk.click("Leave it as it is")
    walk.gone("specimens more to print")
    pick(walk, "Another material", "Pliant")
    walk.see("16 specimens more to print")
    name = walk.field("What is it called?")
    name.send_keys(Keys.END, ", half typed")
    # somebody tests a specimen meanwhile: that is no other plan, and what was begun stays
    somebody_else_pulls(server, tests_of_demo["upright"], waiting(server, tests_of_demo["upright"])[0])
    walk.labelled("Why is the plan changed?").send_keys("a bridge to the winter study")
    walk.driver.find_element("xpath", "//button[contains(., 'Plan these')]").send_keys(Keys.ENTER)
    walk.until(lambda: len(server.get(f"/api/studies/{study['id']}")["arms"]) == len(before["arms"]) + 1)
    walk.see("Stell Pliant")
    walk.gone("specimens more to print")
    name = walk.field("What is it called?")
    assert name.get_attribute("value") == f"{study['title']}, half typed"
    # somebody renames it meanwhile: that is said, and shown
    fresh = server.get(f"/api/studies/{study['id']}")
    renamed = urllib.request.Request(
        f"{server.url}/api/studies/{study['id']}",
        b'{"question": "Another one?"}',
        {"Content-Type": "application/json", "If-Match": f'"{fresh["revision"]}"'},
        method="PATCH",
    )
    urllib.request.urlopen(renamed).close()
    name.send_keys(Keys.ENTER)
    walk.see("The plan was changed by somebody else")
    walk.see("Another one?")
    name = walk.field("What is it called?")
    name.send_keys(Keys.END, ", second year", Keys.ENTER)
    walk.until(lambda: walk.find("h1").text == f"{study['title']}, second year")
    walk.click("Copy this study")
    walk.see("With these materials")
    copied = walk.driver.find_element("css selector", "[role=dialog] input")
    assert copied.get_attribute("value") == f"{study['title']}, second year, again"
    copied.send_keys(Keys.CONTROL, "a")
    copied.send_keys("Winter hives")
    walk.driver.find_element("xpath", "//button[contains(., 'Creep')]").send_keys(Keys.SPACE)
    copied.send_keys(Keys.ENTER)
    walk.until(lambda: walk.find("h1").text == "Winter hives")
    made = server.get("/api/studies")["items"][0]
    assert (made["title"], made["tested"], made["printed"]) == ("Winter hives", 0, 0)
    assert [t["method"] for t in server.get(f"/api/studies/{made['id']}")["tests"]] == ["tension", "tension", "stepped-bending"]
    walk.click("Put it away")
    walk.see("it is in no list of what is to be done")
    walk.open(f"{walk.base}/studies")
    walk.see("1 put away")
    assert "Winter hives" not in walk.text()
    walk.click("1 put away")
    walk.see("Winter hives")
    walk.click("Winter hives")
    walk.click("Plan")
    walk.click("Take it up again")
    walk.gone("it is in no list of what is to be done")
    assert server.get("/api/studies")["put_away"] == 0
    assert walk.console() == []


def test_a_purpose_asks_for_more_and_loses_nothing_in_other_units(server, walk):
    purpose = server.get(f"/api/purposes/{server.get('/api/purposes')['items'][0]['id']}")
    kept = {c["id"]: c for c in purpose["criteria"]}
    walk.open(f"{walk.base}/units")
    walk.see("a pull bar's strength")
    walk.driver.find_element("xpath", "//label[normalize-space(.)='psi']/preceding-sibling::input").send_keys(Keys.SPACE)
    walk.open(f"{walk.base}/choose?purpose={purpose['id']}")
    walk.click("Change what it needs")
    walk.see("Keep the changes")
    title = walk.field("The part")
    title.send_keys(Keys.END, ", heavy")
    first = next(c for c in purpose["criteria"] if c["unit"] == "MPa")
    needed = walk.labelled(f"{first['label']}, {first['orientation']}: all that is needed at")
    needed.send_keys(Keys.CONTROL, "a")
    needed.send_keys("8000", Keys.ENTER)
    walk.see("Keep these weights")
    after = server.get(f"/api/purposes/{purpose['id']}")
    assert after["title"] == f"{purpose['title']}, heavy"
    assert next(c for c in after["criteria"] if c["id"] == first["id"])["all_needed"] == pytest.approx(8000 * 4.4482216152605 / 25.4**2)
    for c in after["criteria"]:
        same = ("no_use", "required", "weight") if c["id"] == first["id"] else ("no_use", "all_needed", "required", "weight")
        assert [c[k] for k in same] == [kept[c["id"]][k] for k in same], "what was not touched stays to the last digit"
    assert walk.console() == []


def test_a_product_is_withdrawn_and_a_speed_in_another_unit_is_asked_about(server, walk):
    grey = next(m for m in server.get("/api/stock")["items"] if m["colour"] == "grey")
    walk.open(f"{walk.base}/stock/materials/{grey['id']}")
    walk.click("Withdrawn, a successor")
    day = walk.field("Withdrawn since")
    walk.driver.execute_script(
        "Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set.call(arguments[0], '2026-03-01'); arguments[0].dispatchEvent(new Event('input', {bubbles: true}))",
        day,
    )
    base = walk.field("Derived from")
    base.click()
    base.send_keys("Fenwick Outdoor")
    walk.press(Keys.ARROW_DOWN, Keys.ENTER)
    day.send_keys(Keys.ENTER)
    walk.see("Withdrawn by its maker since 1 Mar")
    assert [(r["how"], r["product"]) for r in server.get(f"/api/materials/{grey['id']}")["related"]] == [("derived from", "Outdoor")]
    walk.open(f"{walk.base}/stock/spools/{grey['spools'][0]['id']}")
    walk.see("Fit to print?")
    speed = walk.field("Speed, mm/s")
    speed.send_keys(Keys.CONTROL, "a")
    speed.send_keys("3600")
    walk.see("was 3600 mm/min meant, which is 60 mm/s?")
    walk.click("Yes, 60")
    walk.gone("was 3600 mm/min meant")
    assert walk.field("Speed, mm/s").get_attribute("value") == "60"
    # what its body is, and what the printer's feeder needs
    bore = walk.field("Bore, mm")
    bore.send_keys(Keys.CONTROL, "a")
    bore.send_keys("50,5")
    walk.driver.find_element("xpath", "//label[starts-with(., 'Loose end')]/following::select[1]").send_keys("under")
    bore.send_keys(Keys.ENTER)
    walk.see("the spool's bore of 50.5 mm does not go onto the holder of 52 mm")
    walk.see("the loose end lies under another turn")
    spool = server.get(f"/api/spools/{grey['spools'][0]['id']}")
    assert (spool["bore"], spool["body"], spool["loose_end"]) == (50.5, "cardboard", "under a turn")
    walk.labelled("Printer").click()
    walk.click("change this printer")
    holder = walk.field("Spool holder, mm thick")
    holder.send_keys(Keys.CONTROL, "a")
    holder.send_keys("48", Keys.ENTER)
    walk.gone("does not go onto the holder")
    assert walk.console() == []


def a_study(server):
    """Two materials of one kind, three of each pulled flat; nothing printed."""
    materials = [m["id"] for m in server.get("/api/stock")["items"]][:2]
    arms = [{"id": new_id(), "material_id": m} for m in materials]
    new = {"id": new_id(), "title": "Clips", "arms": arms, "tests": [{"id": new_id(), "orientation": "flat", "replicates": 3}]}
    return server.ask("/api/studies", new)[1]


def test_a_plan_is_started_printed_misprinted_printed_again_and_amended(server, walk):
    study = a_study(server)
    plan = f"{walk.base}/studies/{study['id']}/plan"
    walk.open(plan)
    walk.see("colour differs")
    walk.see("scatter")
    walk.click("Start the study")
    walk.see("Started on")
    # printed on a printer that is said once
    walk.open(f"{walk.base}/studies/{study['id']}/print")
    walk.find('input[placeholder="such as hardened 0.4"]').send_keys("brass 0.4")
    room = walk.field("in a room of")
    room.send_keys("warm")
    walk.see("a number")
    room.send_keys(Keys.CONTROL, "a")
    room.send_keys("21,5")
    walk.gone("a number")
    walk.click("3 printed")
    walk.see("3 specimens with their codes")
    of_study = lambda: server.get(f"/api/studies/{study['id']}/batches")["items"]  # noqa: E731
    (batch,) = of_study()
    assert (batch["nozzle"], batch["room"]) == ("brass 0.4", 21.5)
    tap = lambda code: walk.until(lambda: [b for b in walk.all("ol button") if code in b.text])[0].click()  # noqa: E731
    # a tap says nothing yet: it asks there, and what is said can be undone
    code = batch["specimens"][1]["code"]
    tap(code)
    walk.see("would not stick")
    assert {s["outcome"] for s in of_study()[0]["specimens"]} == {"good"}
    walk.press(Keys.ESCAPE)
    walk.gone("would not stick")
    tap(code)
    walk.click("✕ failed")
    walk.see(f"{code}: failed.")
    walk.click("Undo")
    walk.until(lambda: of_study()[0]["specimens"][1]["outcome"] == "good")
    # misprinted, by keyboard: its place waits again
    tap(code)
    walk.labelled("What was wrong").send_keys("wrong infill")
    walk.press(Keys.ENTER)
    walk.until(lambda: of_study()[0]["specimens"][1]["fault"] == "wrong infill")
    walk.see("1 printed")
    walk.click("1 printed")
    walk.see("1 specimen with its code")
    again = next(b for b in of_study() if b["id"] != batch["id"])
    assert again["specimens"][0]["number"] == 2
    # a place that was filled again cannot be taken back
    tap(code)
    walk.click("good")
    walk.see("was printed again meanwhile")
    # what is planned now is an amendment
    walk.open(plan)
    walk.see("Started on")
    walk.until(lambda: walk.all('input[aria-label^="Specimens of each"]'))
    count = walk.labelled("Specimens of each")
    count.send_keys(Keys.CONTROL, "a")
    count.send_keys("5")
    walk.see("specimens more to print")
    walk.click("Plan these")
    walk.see("say why its plan is changed")
    walk.labelled("Why is the plan changed?").send_keys("too wide an interval")
    walk.click("Plan these")
    walk.see("more specimens of each: too wide an interval")
    walk.labelled("Why is the plan changed?").send_keys("another nozzle for the nylon")
    walk.find("input[role=switch]").send_keys(Keys.SPACE)
    walk.see("each material is printed at its best: another nozzle")
    now = server.get(f"/api/studies/{study['id']}")
    assert [a["reason"] for a in now["amendments"]] == ["too wide an interval", "another nozzle for the nylon"]
    assert now["each_at_best"] is True
    assert now["tests"][0]["replicates"] == 5
    assert walk.console() == [] or all("409" in line or "422" in line for line in walk.console())


def test_settings_of_one_material_are_studied_by_keyboard(server, walk):
    walk.open(walk.base + "/studies/new")
    walk.field("What is it called?").send_keys("Fan and nozzle")
    walk.click("Settings")
    walk.until(lambda: [b for b in walk.all("button[aria-pressed]") if "Everyday" in b.text])[0].send_keys(Keys.ENTER)
    for i, (name, values) in enumerate((("nozzle", "210; 225"), ("fan", "0; 50"), ("flow", "95; 100,5")), 1):
        if i > 1:
            walk.click("Another setting")
        pick(walk, f"Setting {i}", name)
        walk.labelled(f"Values of setting {i}").send_keys(values)
    walk.see("80 specimens")
    pick(walk, "How they are combined", "fraction")
    walk.see("It cannot tell apart: nozzle = fan × flow")
    walk.see("40 specimens")
    walk.labelled("Values of setting 2").send_keys("0")
    walk.see("it lies between 0 and 100")
    walk.labelled("Values of setting 2").send_keys(Keys.BACKSPACE)
    walk.see("40 specimens")
    walk.driver.find_element("xpath", "//button[contains(., 'Make the study')]").send_keys(Keys.ENTER)
    walk.until(lambda: server.get("/api/studies")["items"][0]["title"] == "Fan and nozzle")
    study = server.get(f"/api/studies/{server.get('/api/studies')['items'][0]['id']}")
    assert (study["title"], study["studied_factor"], study["studied_settings"]) == ("Fan and nozzle", "setting", ["nozzle_temperature", "fan", "flow"])
    assert [tuple(a["differs"].values()) for a in study["arms"]] == [
        ("210 °C", "0 %", "100.5 %"),
        ("225 °C", "0 %", "95 %"),
        ("210 °C", "50 %", "95 %"),
        ("225 °C", "50 %", "100.5 %"),
    ]
    walk.open(f"{walk.base}/studies/{study['id']}/board")
    walk.see("nozzle 225 °C · fan 50 %")
    assert server.get(f"/api/studies/{study['id']}/fairness")["items"] == [], "nothing but the studied settings differs"
    walk.open(f"{walk.base}/studies/{study['id']}/plan")
    walk.see("Studied: nozzle temperature, fan, flow")
