"""Every capture by keyboard alone, on the drawing it is made on, with the keys counted; a test of one's own written and a test set in the plan."""

import pytest
from PIL import Image
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from assayer.core.shapes.gauges import DIMENSION_GAUGE

from .test_slice import code_at_hand, runs_of, waiting

pytestmark = pytest.mark.browser


@pytest.fixture
def gates(server):
    """Tests of the study that fills the rest of the bench, by method."""
    study = next(s for s in server.get("/api/studies")["items"] if s["title"].startswith("Entrance gates"))
    found = server.get(f"/api/studies/{study['id']}")
    flat = [t for t in found["tests"] if t["orientation"] == "flat" and not t["protocol"].get("ordered")]
    of = {t["method"] if not t["method"].startswith("own-") else "own": t["id"] for t in flat}
    return of | {"ordered": next(t["id"] for t in found["tests"] if t["protocol"].get("ordered")), "study": study["id"]}


class Hands:
    """Types, presses Enter, and counts."""

    def __init__(self, walk):
        self.walk = walk
        self.keys = 0

    def enter(self, *values):
        for value in values:
            self.walk.type_slowly(value)
            self.press(Keys.ENTER)
            self.keys += len(value)

    def press(self, key):
        self.walk.press(key)
        self.keys += 1


def begin(walk, server, gates, method):
    """The first specimen that waits for a test, with the cursor in its first field."""
    first = waiting(server, gates[method])[0]
    walk.open(f"{walk.base}/bench?test={gates[method]}")
    walk.until(lambda: code_at_hand(walk) == first["code"])
    walk.until(lambda: walk.driver.switch_to.active_element.tag_name == "input", "no field waits for a reading")
    return first, Hands(walk)


def kept(walk, server, first):
    walk.until(lambda: runs_of(server, first["specimen_id"]), "the entry never reached the server")
    run = runs_of(server, first["specimen_id"])[0]
    return run, {r["quantity"]: r["value"] for r in run["results"]}


CAPTURES = {
    "torsion": (("8.02", "8.01", "8.03", "1.05", "1.46", "310"), 31, "nominal_shear_strength", 16e3 * 1.46 / (3.141592653589793 * 8.02**3)),
    "bending": (("10.02", "10.01", "10.03", "4.01", "4.00", "4.02", "98.4", "40", "2.4"), 45, "flexural_strength", 3 * 98.4 * 64 / (2 * 10.02 * 4.01**2)),
    "warp": (("0.34", "0,30", "-0.05", "0.21"), 21, "mean_lift", 0.2),
    "immersion-density": (("3.0214", "0.5910", "1.27", "23"), 22, "density", 3.0214 * 0.99753866 / (3.0214 - 0.5910)),
}


@pytest.mark.parametrize("method", sorted(CAPTURES))
def test_a_capture_by_keyboard(server, walk, gates, method):
    typed, most, quantity, expected = CAPTURES[method]
    first, hands = begin(walk, server, gates, method)
    hands.enter(*typed)
    run, found = kept(walk, server, first)
    assert found[quantity] == pytest.approx(expected, rel=1e-6)
    assert run["complete"]
    assert hands.keys <= most, hands.keys


def test_a_swing_is_read_on_its_arc_and_its_break_said_by_letter(server, walk, gates):
    first, hands = begin(walk, server, gates, "impact")
    hands.enter("7.98", "4.02", "118.5")
    # unlike breaks are not averaged: it is not kept before its break is said
    walk.see("say how it ended")
    assert not runs_of(server, first["specimen_id"])
    hands.press("n")
    walk.until(lambda: walk.find('[data-outcome="none"]').get_attribute("aria-pressed") == "true")
    hands.press("h")
    walk.until(lambda: walk.find('[data-outcome="hinge"]').get_attribute("aria-pressed") == "true")
    hands.press(Keys.ENTER)
    run, found = kept(walk, server, first)
    assert run["outcome"] == "hinge"
    assert found["hammer_share"] == pytest.approx(found["net_energy"] / (0.75 * 9.80665 * 0.31 * (1 - -0.6704)), rel=1e-3)
    assert hands.keys <= 20, hands.keys


def test_the_feature_lights_up_and_the_next_one_after_it(server, walk, gates):
    first, hands = begin(walk, server, gates, "dimensions")
    for feature in DIMENSION_GAUGE.features:
        walk.until(lambda name=feature.name: walk.find("[data-lit]").get_attribute("data-lit") == name)
        hands.enter(f"{feature.nominal * 0.996:.2f}")
    run, found = kept(walk, server, first)
    assert found["shrinkage"] == pytest.approx(0.004, abs=1e-4)
    assert [r["about"] for r in run["readings"]] == [f.name for f in DIMENSION_GAUGE.features]
    assert hands.keys <= 67, hands.keys


def test_heat_by_eye_and_by_the_readings_of_a_ramp(server, walk, gates):
    first, hands = begin(walk, server, gates, "heat-ramp")
    hands.enter("68")
    walk.see("sag seen at")
    # nothing hung down, and no log: two times Enter on what is empty
    hands.press(Keys.ENTER)
    hands.press(Keys.ENTER)
    _, found = kept(walk, server, first)
    assert found["sag_onset"] == 67.0
    assert hands.keys <= 6, hands.keys
    second = waiting(server, gates["heat-ramp"])[0]
    walk.until(lambda: code_at_hand(walk) == second["code"])
    walk.until(lambda: walk.driver.switch_to.active_element.get_attribute("name") == "noticed_at-0")
    hands.press(Keys.ENTER)
    hands.press(Keys.ENTER)
    rows = [(40 + 2 * i, max(0.0, 0.02 * (2 * i - 14) ** 2 if i > 7 else 0.0)) for i in range(13)]
    for warm, sag in rows:
        hands.enter(f"{warm}", f"{sag:.2f}")
    hands.press(Keys.ENTER)
    run, found = kept(walk, server, second)
    assert len(run["readings"]) == 26
    assert 54 < found["sag_onset"] < 58


def test_a_deflection_temperature_is_logged_row_by_row(server, walk, gates):
    first, hands = begin(walk, server, gates, "deflection-temperature")
    hands.enter("10.0", "10.0", "10.0", "4.00", "4.00", "4.00")
    hands.enter("24", "0.02", "52", "0.210", "54", "0.268", "56", "0.335", "58", "0.420")
    hands.press(Keys.ENTER)
    _, found = kept(walk, server, first)
    assert found["deflection_temperature"] == pytest.approx(56.149, abs=5e-4)


def test_a_coupon_is_weighed_in_its_bath(server, walk, gates):
    rig = next(r for r in server.get("/api/rigs")["items"] if r["name"].startswith("Soda"))
    walk.open(f"{walk.base}/bench/racks/{rig['rig_id']}")
    walk.see("Exposure round")
    hands = Hands(walk)
    walk.until(lambda: walk.driver.switch_to.active_element.get_attribute("name") == "room")
    hands.enter("21")
    walk.see("mass, wiped dry")
    member = server.get(f"/api/racks/{rig['rig_id']}?station=x")["members"][0]
    last = member["course"][-1]["value"]
    hands.keys = 0
    hands.enter(f"{last + 0.0031:.4f}")
    walk.until(lambda: len(server.get(f"/api/racks/{rig['rig_id']}?station=x")["members"][0]["course"]) == len(member["course"]) + 1)
    assert hands.keys == 7


def test_a_test_of_ones_own_is_written_tried_and_planned(server, walk):
    walk.open(f"{walk.base}/rigs")
    walk.click("a test of your own")
    walk.see("A test of your own")
    name = walk.field("What it is called")
    name.send_keys("Snap of a clip")
    walk.until(lambda: "4.67" in walk.labelled("pull-out strength of the samples").text, "the samples gave no figure")
    formula = walk.labelled("formula of pull-out strength")
    formula.send_keys(Keys.CONTROL, "a")
    formula.send_keys("greatest_load + depth")
    walk.see("N cannot be added to mm")
    assert walk.find("mark").text or walk.find("mark").get_attribute("textContent") == "greatest_load + depth"
    keep = walk.until(lambda: [b for b in walk.all("button") if b.text == "Keep the test"])[0]
    assert not keep.is_enabled()
    # what is typed outlives a reload
    walk.driver.refresh()
    walk.until(lambda: walk.labelled("formula of pull-out strength").get_attribute("value") == "greatest_load + depth")
    formula = walk.labelled("formula of pull-out strength")
    formula.send_keys(Keys.CONTROL, "a")
    formula.send_keys("greatest_load / sqrt(diameter * depth)")
    walk.see("N/mm")
    walk.click("Keep the test")
    walk.see("your own · version 1")
    made = next(m for m in server.get("/api/own-methods")["items"] if m["label"] == "Snap of a clip")
    assert made["definition"]["results"][0]["formula"] == "greatest_load / sqrt(diameter * depth)"
    walk.open(f"{walk.base}/studies/new")
    walk.see("Snap of a clip")


def test_a_test_is_set_otherwise_in_the_plan(server, walk):
    walk.open(f"{walk.base}/studies/new")
    walk.field("What is it called?").send_keys("Soft bars")
    walk.click("Tarn Clearwater")
    walk.labelled("Stepped bending, flat").click()
    walk.labelled("How Stepped bending is set").click()
    ladder = walk.field("weights, one by one, N")
    ladder.send_keys("10 5")
    walk.see("numbers that rise")
    ladder.send_keys(Keys.CONTROL, "a")
    ladder.send_keys("2 5 10")
    ladder.send_keys(Keys.ESCAPE)
    walk.see("weights, one by one 2 5 10 N")
    walk.click("Make the study")
    study = walk.until(lambda: next(s for s in server.get("/api/studies")["items"] if s["title"] == "Soft bars"), "the study was not made")
    tests = {t["method"]: t["protocol"] for t in server.get(f"/api/studies/{study['id']}")["tests"]}
    assert tests["stepped-bending"]["ladder"] == [2, 5, 10]


def test_prints_are_graded_by_two_people_one_trait_at_a_time(server, walk, gates):
    walk.open(f"{walk.base}/bench/grading/{gates['graded']}")
    walk.see("Grading: sheen")
    walk.see("like a mirror")
    assert "Clearwater" not in walk.text(), "blind unless somebody wants to know"
    prints = server.get(f"/api/tests/{gates['graded']}/grading")["prints"]
    hands = Hands(walk)
    for i in range(len(prints)):
        walk.until(lambda at=i: prints[at]["code"] in walk.find('[data-here="true"]').text)
        hands.press("3" if i % 2 else "1")
    assert hands.keys == len(prints), "one key a print"
    # the last one was a slip
    hands.press("u")
    walk.see("was taken back")
    hands.press("2")

    def given(who):
        found = server.get(f"/api/tests/{gates['graded']}/grading")["prints"]
        return [next((g["grade"] for g in p["grades"] if (g["trait"], g["grader"]) == ("sheen", who)), None) for p in found]

    wanted = [3.0 if i % 2 else 1.0 for i in range(len(prints) - 1)] + [2.0]
    walk.until(lambda: given("Ilse") == wanted, "the grades never reached the server")
    # somebody else grades the same prints, and sees the others' only once the own one is given
    walk.driver.execute_script("localStorage.setItem('assayer.person', 'Tomas')")
    walk.driver.refresh()
    walk.see("stringing 0/12")
    walk.click("sheen")
    walk.see("1 graded it")
    walk.press("4")
    walk.see("others 1")
    walk.until(lambda: given("Tomas")[0] == 4.0)


def test_many_recordings_are_dropped_matched_and_taken_in(server, walk, tests_of_demo, tmp_path):
    items = waiting(server, tests_of_demo["flat"])
    rows = "\n".join(f"{0.02 * i:.3f};{min(40.0 * 0.02 * i, 900.0) if i < 1300 else 0.4:.3f}" for i in range(1320))
    text = f"Travel [mm];Force [N]\n{rows}\n"
    paths = [tmp_path / f"{items[1]['code']} pull.csv", tmp_path / "pull 2.csv", tmp_path / "notes.csv"]
    paths[0].write_text(text)
    # one file saved twice is asked about: the second is another pull
    paths[1].write_text(text.replace("900.0", "905.0"))
    paths[2].write_text("nothing to be read here\n")
    walk.open(f"{walk.base}/bench?test={tests_of_demo['flat']}")
    walk.click("many files")
    walk.see("Many recordings at once")
    walk.find("main input[type=file]").send_keys("\n".join(str(p) for p in paths))
    walk.see("1 matched by their code, 1 in test order")
    walk.see("its dimensions are not measured yet")
    for name, value in (("width", "5.02"), ("thickness", "3,97")):
        walk.field(f"{name}, where not measured").send_keys(value)
    walk.click("Take in 2 of 3")
    for item in items[:2]:
        walk.until(lambda i=item: runs_of(server, i["specimen_id"]), "a recording was not taken in")
        run = runs_of(server, item["specimen_id"])[0]
        assert {r["quantity"] for r in run["results"]} >= {"strength", "strain_at_break"}
    walk.see("notes.csv")


def compared_by_pairs(walk, hands, worth):
    """Answers every pair by key, the print of more worth each time, until an order stands."""
    while True:
        walk.until(lambda: walk.all('section[aria-label*=" or "]') or walk.all('ol[aria-label="The order, from the first"]'))
        at_hand = walk.all('section[aria-label*=" or "]')
        if not at_hand:
            return
        said = at_hand[0].get_attribute("aria-label")
        left, right = said.split(" or ")
        hands.press(Keys.ARROW_LEFT if worth[left] > worth[right] else Keys.ARROW_RIGHT)
        walk.until(lambda before=said: not any(e.get_attribute("aria-label") == before for e in walk.all('section[aria-label*=" or "]')))


def test_prints_are_put_in_order_by_hand_and_by_pairs(server, walk, gates, tmp_path):
    page = f"{walk.base}/bench/grading/{gates['ordered']}"
    walk.open(page)
    walk.driver.execute_script("localStorage.setItem('assayer.person', 'Maren')")
    walk.driver.refresh()
    walk.see("In order: fine detail")
    walk.see("spikes and edges sharp")
    prints = server.get(f"/api/tests/{gates['ordered']}/grading")["prints"]
    codes = [p["code"] for p in prints]

    def laid():
        return [e.text.split("\n")[2:0:-1] for e in walk.all('ol[aria-label="The order, from the first"] button')]

    hands = Hands(walk)
    walk.until(lambda: [code for code, _ in laid()] == codes)
    # the third to the front, then no difference to the one that was first
    hands.press(Keys.ARROW_RIGHT)
    hands.press(Keys.ARROW_RIGHT)
    for _ in range(2):
        walk.press(Keys.SHIFT + Keys.ARROW_LEFT + Keys.NULL)
    walk.until(lambda: laid()[:2] == [[codes[2], "1"], [codes[0], "2"]])
    hands.press("=")
    walk.until(lambda: laid()[0] == [codes[2], "1"], "nothing lies before the first")
    hands.press(Keys.ARROW_RIGHT)
    hands.press("=")
    walk.until(lambda: laid()[:2] == [[codes[2], "1.5"], [codes[0], "1.5"]])
    walk.driver.refresh()
    walk.until(lambda: laid()[:2] == [[codes[2], "1.5"], [codes[0], "1.5"]], "what was laid is gone after a reload")
    # dragged by its grip: the last to the second place from behind
    grips = walk.all('ol[aria-label="The order, from the first"] span[aria-hidden="true"]')
    ActionChains(walk.driver).click_and_hold(grips[-1]).move_to_element(grips[-2]).move_by_offset(1, 0).release().perform()
    walk.until(lambda: [code for code, _ in laid()][-2:] == [codes[5], codes[4]])
    picture = tmp_path / "spikes.png"
    Image.new("RGB", (60, 40), "teal").save(picture)
    walk.all("aside input[type=file]")[0].send_keys(str(picture))
    walk.until(lambda: walk.all("aside img"), "the photograph does not stand beside the prints")
    wanted = dict(laid())
    walk.find('[data-here="true"]').send_keys(Keys.ENTER)
    walk.see("takes your order back")

    def kept(trait, who="Maren"):
        found = server.get(f"/api/tests/{gates['ordered']}/grading")["prints"]
        return {p["code"]: next((f"{g['grade']:g}" for g in p["places"] if (g["trait"], g["grader"]) == (trait, who)), None) for p in found}

    walk.until(lambda: kept("fine_detail") == wanted, "the order never reached the server")
    # one more look: taken back, changed, kept anew
    hands.press("u")
    walk.see("the order was taken back")
    walk.until(lambda: set(kept("fine_detail").values()) == {None})
    walk.find('[data-here="true"]').send_keys(Keys.ENTER)
    walk.until(lambda: kept("fine_detail") == wanted)
    walk.see("Next trait")
    hands.press(Keys.ENTER)
    walk.see("In order: texture to the touch")
    hands.press(Keys.ENTER)
    walk.see("nothing was moved yet")
    walk.click("by pairs")
    walk.see("Which shows more texture to the touch?")
    hands.keys = 0
    worth = {code: i for i, code in enumerate(sorted(codes))}
    compared_by_pairs(walk, hands, worth)
    assert hands.keys <= 11, "six prints, at most 11 comparisons"
    walk.see("led to this order")
    assert [code for code, _ in laid()] == sorted(codes, reverse=True)
    hands.press(Keys.ENTER)
    walk.until(lambda: kept("texture") == {code: str(6 - i) for code, i in worth.items()})
    walk.see("Leave it open for others")
    assert walk.axe() == []
    walk.click("Leave it open for others")
    walk.see("Agreement of the orders")
    walk.see("3 people, 6 prints")
    # the photograph taken while they were laid is found with its print, whose places say whose they are
    pictured = next(p for p in server.get(f"/api/tests/{gates['ordered']}/grading")["prints"] if p["photos"])
    walk.open(f"{walk.base}/studies/{gates['study']}/findings?test={gates['ordered']}&specimen={pictured['specimen_id']}")
    walk.see("Photographs of the print")
    walk.see("place by fine detail, Maren")
    assert not any(p["complete"] for p in server.get(f"/api/tests/{gates['ordered']}/grading")["prints"])


def test_a_coupon_is_weighed_measured_and_graded_at_its_place_in_the_bath(server, walk, gates):
    bath = next(r for r in server.get("/api/racks")["items"] if r["name"].startswith("Soda bath"))
    walk.open(f"{walk.base}/bench/racks/{bath['rig_id']}")
    walk.driver.execute_script("localStorage.setItem('assayer.person', 'Maren')")
    walk.driver.refresh()
    walk.see("the room, once a round")
    hands = Hands(walk)
    hands.enter("21,3")
    walk.see("mass, wiped dry")
    first = next(m for m in server.get(f"/api/racks/{bath['rig_id']}?station=x")["members"] if m["position"] == 0)
    last = first["course"][-1]["value"]
    hands.keys = 0
    hands.enter(f"{last + 0.01:.3f}")
    for words, value in (("length", "60,1"), ("width", "60.1"), ("thickness", "1.01")):
        walk.until(lambda w=words: walk.all(f'input[aria-label="{w}, mm"]'), f"{words} is not asked for")
        hands.enter(value)
    walk.see("crazed, cracked or bleached")
    # what is typed is there after a reload, and the visit goes on
    walk.type_slowly("3")
    walk.driver.refresh()
    walk.until(lambda: walk.find('input[aria-label="looks, grade"]').get_attribute("value") == "3", "the grade that was typed is gone")
    hands.press(Keys.ENTER)
    for words, value in (("feel", "4"), ("distortion", "4")):
        walk.until(lambda w=words: walk.all(f'input[aria-label="{w}, grade"]'))
        hands.enter(value)
    walk.see("place 2")
    assert hands.keys <= 34, hands.keys

    def kept():
        run = server.get(f"/api/runs/{first['run_id']}")
        position = max(r["position"] for r in run["readings"] if r["field"] == "mass")
        return {(r["field"], r["about"]): r["raw"] for r in run["readings"] if r["position"] == position and r["about"]}

    # the next place is there before the server has answered
    wanted = {
        ("sizes", "length"): "60,1", ("sizes", "width"): "60.1", ("sizes", "thickness"): "1.01",
        ("looks", "Maren"): "3", ("feel", "Maren"): "4", ("distortion", "Maren"): "4",
    }  # fmt: skip
    walk.until(lambda: kept() == wanted, "what was entered at the place never came to the server")
    assert walk.axe() == []
