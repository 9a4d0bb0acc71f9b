"""The whole slice as a person walks it at 1280 × 800: pulls become verdicts and a ranking, with no console error."""

import re
import time

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from .walk import browser, running_server

pytestmark = pytest.mark.browser


def waiting(server, test):
    return [i for i in server.get(f"/api/tests/{test}/queue")["items"] if i["state"] == "waiting"]


def runs_of(server, specimen):
    return [r for r in server.get(f"/api/specimens/{specimen}")["runs"] if r["retracted_at"] is None]


def fill_by_keyboard(walk, load="1120"):
    """Seven fields, Enter after each, the way the calliper and the rig are read; leaves the load filled and not accepted."""
    walk.until(lambda: walk.driver.switch_to.active_element.tag_name == "input", "no field waits for a reading")
    for value in ("5.02", "5,03", "5.01", "3.97", "3.98", "3.96"):
        walk.type_slowly(value)
        walk.press(Keys.ENTER)
    walk.type_slowly(load)


def code_at_hand(walk):
    return walk.find("[aria-current=step]").text.split()[0]


def test_from_the_board_through_the_bench_to_the_ranking(server, walk, tests_of_demo):
    walk.open(walk.base + "/")
    walk.click("Frame hangers for summer hives")
    walk.see("Layer adhesion")
    # the board by keyboard alone: the half-tested arm is the last row
    walk.find('[data-at="0-0"]').click()
    walk.press(Keys.PAGE_DOWN)
    walk.see("3 of 5")
    walk.press("b")
    walk.see("random order")
    first = waiting(server, tests_of_demo["flat"])[0]
    assert code_at_hand(walk) == first["code"]
    fill_by_keyboard(walk)
    walk.until(lambda: walk.find("[data-testid=result]").text == "56.4", "the strength was not shown")
    # where it broke, by touching the drawing: at the left end it is a grip break, a lower bound
    outline = walk.find("[data-testid=outline]")
    ActionChains(walk.driver).move_to_element_with_offset(outline, -outline.size["width"] // 2 + 20, 60).click().perform()
    walk.see("≥ 56.4")
    walk.find('input[name="peak_force-0"]').click()
    walk.press(Keys.ENTER)
    walk.until(lambda: runs_of(server, first["specimen_id"]), "the entry never reached the server")
    run = runs_of(server, first["specimen_id"])[0]
    assert (run["operator"], run["validity"], run["outcome"], run["complete"]) == ("Ilse", "at_least", "grip", True)
    assert run["results"][0]["value"] == pytest.approx(1120 * 1.004 / (5.02 * 3.97), rel=1e-6), "calibrated"
    # undo brings the entries back; accepted anew without the grip break
    walk.until(lambda: code_at_hand(walk) != first["code"])
    walk.press("u")
    walk.see(f"{first['code']} was taken back")
    walk.until(lambda: not runs_of(server, first["specimen_id"]))
    assert walk.find('input[name="width-1"]').get_attribute("value") == "5,03"
    walk.click("in the parallel part")
    walk.find('input[name="peak_force-0"]').click()
    walk.press(Keys.ENTER)
    walk.until(lambda: runs_of(server, first["specimen_id"])[0]["validity"] == "counts")
    # a fault, with its reason, by keys
    second = waiting(server, tests_of_demo["flat"])[0]
    walk.until(lambda: code_at_hand(walk) == second["code"])
    walk.press("f")
    walk.see(f"What is wrong with {second['code']}?")
    walk.press("4")
    walk.until(lambda: runs_of(server, second["specimen_id"])[0]["validity_reason"] == "damaged in handling")
    walk.see("This queue is done")
    # the findings follow
    walk.click("Studies", "a")
    walk.click("Frame hangers for summer hives")
    walk.find('[data-at="4-0"]').click()
    walk.see("Orrery Burden")
    walk.press(Keys.ENTER)
    walk.see("against Tarn Clearwater")
    walk.see("Welch's ANOVA")
    walk.find("canvas")
    walk.click("Choose", "a")
    walk.see("A rank is shared")
    assert walk.console() == []


def test_a_scanner_never_accepts_nor_faults(server, walk, tests_of_demo):
    test = tests_of_demo["upright"]
    items = waiting(server, test)
    walk.open(f"{walk.base}/bench?test={test}")
    walk.see("random order")
    here, other = items[0], items[1]
    fill_by_keyboard(walk, "470")
    walk.see("Accept, next")
    # a filled reading waits, the cursor in its last field: a scanned code must not become "Accept"
    walk.scan(other["code"])
    walk.until(lambda: code_at_hand(walk) == other["code"])
    assert runs_of(server, here["specimen_id"]) == []
    assert walk.find('input[name="peak_force-0"]').get_attribute("value") == ""
    walk.scan(here["code"])
    walk.until(lambda: code_at_hand(walk) == here["code"])
    assert walk.find('input[name="peak_force-0"]').get_attribute("value") == "470", "what was typed is as it was"
    # nor a click on Accept where that has the focus; and letters like F, U, N set nothing off
    walk.driver.execute_script("document.querySelector('button[aria-disabled=false]').focus()")
    for code in ("FUN42", "F0000", "UUUUU", "NFUFN"):
        walk.scan(code)
        walk.see(code.replace("O", "0") if "U" not in code else "never used in a code")
    assert "What is wrong with" not in walk.text()
    assert runs_of(server, here["specimen_id"]) == []
    # a misread code is named
    wrong = other["code"][:-1] + ("0" if other["code"][-1] != "0" else "1")
    walk.scan(wrong)
    walk.see("wrong check character")
    # a calliper that types fills its field and goes on; it does not accept either
    field = walk.find('input[name="width-0"]')
    field.click()
    field.send_keys(Keys.CONTROL, "a")
    walk.scan("5.05")
    walk.until(lambda: field.get_attribute("value") == "5.05")
    assert runs_of(server, here["specimen_id"]) == []
    # a URL is a code too
    walk.scan(f"{walk.base}/s/{other['code'].lower()}")
    walk.until(lambda: code_at_hand(walk) == other["code"], "the scanned specimen was not taken up")
    assert walk.find('input[name="width-0"]').get_attribute("value") == ""


def test_a_killed_server_loses_and_doubles_nothing(server, walk, tests_of_demo):
    test = tests_of_demo["upright"]
    items = waiting(server, test)
    walk.open(f"{walk.base}/bench?test={test}")
    walk.see("random order")
    fill_by_keyboard(walk, "470")
    walk.see("Plausible")
    server.kill()
    walk.press(Keys.ENTER)
    walk.see("1 entry waits for the server")
    # work goes on without a server; the page is loaded anew once it is back
    fill_by_keyboard(walk, "482")
    walk.press(Keys.ENTER)
    walk.see("2 entries wait")
    server.start()
    walk.driver.refresh()
    walk.until(lambda: [len(runs_of(server, i["specimen_id"])) for i in items[:2]] == [1, 1], "the entries never arrived")
    walk.gone("for the server")
    loads = [next(r["raw"] for r in runs_of(server, i["specimen_id"])[0]["readings"] if r["field"] == "peak_force") for i in items[:2]]
    assert loads == ["470", "482"]
    # an answer that was lost on the way: the entry is sent again and stays one
    walk.see("random order")
    walk.driver.execute_script(
        "const real = window.fetch; let lost = false; window.fetch = async (...a) => { const r = await real(...a);"
        "if (!lost && (a[0].url || '').endsWith('/api/runs')) { lost = true; throw new TypeError('lost'); } return r; }"
    )
    walk.until(lambda: code_at_hand(walk) == items[2]["code"])
    fill_by_keyboard(walk, "475")
    walk.press(Keys.ENTER)
    walk.until(lambda: runs_of(server, items[2]["specimen_id"]))
    walk.see("This queue is done")
    walk.gone("waits")
    assert len(runs_of(server, items[2]["specimen_id"])) == 1


def test_a_dropped_curve_is_drawn_questions_are_asked_once(server, walk, tests_of_demo, tmp_path):
    from ..services.test_bench_to_board import recording

    test = tests_of_demo["upright"]
    item = waiting(server, test)[0]
    walk.open(f"{walk.base}/bench?test={test}")
    walk.see("random order")
    for value in ("5.00",) * 3 + ("4.00",) * 3:
        walk.type_slowly(value)
        walk.press(Keys.ENTER)
    broken = tmp_path / "photo.csv"
    broken.write_bytes(bytes(range(256)) * 30)
    upload = walk.find('input[type="file"]')
    upload.send_keys(str(broken))
    walk.see("this is not a text file")
    headerless = tmp_path / "pull.csv"
    headerless.write_bytes(b"\n".join(recording(0.6).split(b"\n")[5:]))
    walk.find('input[type="file"]').send_keys(str(headerless))
    walk.see("This file leaves a question")
    for i, role in enumerate(("time", "travel", "force"), 1):
        walk.labelled(f"column {i} is").click()
        walk.until(lambda role=role: [e.click() for e in walk.all("[role=option]") if e.is_displayed() and e.text == role] or None)
    walk.click("Read it like this")
    walk.see("pull.csv")
    walk.until(lambda: float(walk.find("[data-testid=result]").text) == pytest.approx(19.3, abs=0.2))
    walk.find('svg[aria-label="force over travel"]')
    walk.find("body").send_keys(Keys.ENTER)
    walk.until(lambda: runs_of(server, item["specimen_id"]))
    run = runs_of(server, item["specimen_id"])[0]
    assert run["curve"]["file_name"] == "pull.csv"
    # drilled down to: the window of the modulus can be moved, and the choice stays
    walk.open(f"{walk.base}/studies/{server.get('/api/studies')['items'][0]['id']}/findings?test={test}&specimen={item['specimen_id']}&run={run['id']}")
    walk.see("strain range of the modulus")
    handle = walk.labelled("upper end of the strain range")
    handle.send_keys(Keys.SHIFT, Keys.ARROW_RIGHT)
    walk.until(lambda: runs_of(server, item["specimen_id"])[0]["options"]["modulus_range"][1] == pytest.approx(0.003, abs=1e-4))
    walk.see("Back to the standard range")
    # two people at once: the other one changed it after this page was read
    walk.driver.execute_async_script(
        "const done = arguments[2]; fetch(`/api/runs/${arguments[0]}`, {method: 'PATCH', headers: {'Content-Type': 'application/json', 'If-Match': `\"${arguments[1]}\"`},"
        "body: JSON.stringify({outcome: 'grip'})}).then((r) => done(r.status))",
        run["id"],
        runs_of(server, item["specimen_id"])[0]["revision"],
    )
    walk.find('button[aria-label="correct width 1"]').click()
    form = walk.find("form input")
    form.send_keys(Keys.CONTROL, "a")
    form.send_keys("5.11")
    walk.all("form input")[1].send_keys("misread")
    walk.all("form input")[1].send_keys(Keys.ENTER)
    walk.see("was changed by somebody else")
    assert runs_of(server, item["specimen_id"])[0]["outcome"] == "grip"
    assert walk.find("form input").get_attribute("value") == "5.11", "what was typed is still there"
    walk.until(lambda: "at the grip" in [i.get_attribute("value") for i in walk.all("input")])
    walk.all("form input")[1].send_keys(Keys.ENTER)
    walk.until(lambda: any(r["superseded"] for r in runs_of(server, item["specimen_id"])[0]["readings"]))
    walk.see("corrected: misread")


def test_choose_follows_its_weights(server, walk):
    walk.open(walk.base + "/choose")
    walk.see("A rank is shared")

    def order():
        return re.findall(r"(?:^|; |: )([A-Z]\w+ \w+(?: CF)?): rank", walk.labelled("Ranking: ").get_attribute("aria-label"))

    before = walk.until(lambda: order() or None)
    for label, key in (
        ("weight of strength, upright", Keys.HOME),
        ("weight of layer ratio, upright", Keys.HOME),
        ("weight of load carried steadily, flat", Keys.HOME),
        ("weight of creep at the horizon, flat", Keys.HOME),
    ):
        walk.labelled(label).send_keys(key)
    walk.until(lambda: order() != before and order()[0] == "Orrery Burden", "flat strength alone puts the strongest first")
    walk.click("Keep these weights")
    purpose = server.get("/api/purposes")["items"][0]["id"]
    walk.until(lambda: [c["weight"] > 0 for c in server.get(f"/api/purposes/{purpose}")["criteria"]] == [True, False, False, False, False])
    walk.driver.refresh()
    walk.until(lambda: order()[0] == "Orrery Burden")
    assert walk.console() == []


def test_blind_dimensions_round_and_a_study_of_ones_own(server, walk, tests_of_demo):
    walk.open(walk.base + "/studies/new")
    walk.see("The board it becomes")
    walk.find("input").send_keys("Gate hinges")
    for name in ("Tarn Clearwater", "Hollin Everyday"):
        walk.click(name)
    walk.see("20 specimens")
    walk.click("Another material")
    for label, value in (("Maker", "Stell"), ("Product", "Pliant Plus"), ("Base polymer", "PP"), ("Colour", "white")):
        walk.field(label).send_keys(value)
    walk.click("Add")
    walk.see("30 specimens")
    walk.click("Make the study")
    # nothing is booked before it is said that it was printed
    walk.see("10 printed")
    study = server.get("/api/studies")["items"][0]
    assert (study["title"], study["planned"], study["printed"]) == ("Gate hinges", 30, 0)
    for _ in range(3):
        walk.click("10 printed")
        time.sleep(0.6)
    walk.see("Everything planned has been printed")
    study = server.get("/api/studies")["items"][0]
    assert (study["planned"], study["printed"]) == (30, 30)
    walk.press("/")
    walk.see("Find or do")
    walk.type_slowly("bench")
    walk.press(Keys.ENTER)
    walk.see("What waits on the bench")
    walk.click("Tension, flat")
    walk.see("random order")
    walk.see("Dimensions round")
    walk.until(lambda: walk.driver.find_element(By.XPATH, "//label[.='blind']").click() or True)
    walk.until(lambda: not any(n in walk.find("#content").text for n in ("Stell Pliant", "Tarn Clearwater", "Hollin Everyday")), "blind shows no material")
    walk.click("Dimensions round")
    code = code_at_hand(walk)
    walk.find('input[name="width-0"]').click()
    for value in ("5.02", "5,03", "5.01", "3.97", "3.98"):
        walk.type_slowly(value)
        walk.press(Keys.ENTER)
    walk.type_slowly("39")
    walk.press(Keys.ENTER)
    walk.see("was 3.9 mm meant?")
    walk.press(Keys.ENTER)
    walk.until(lambda: walk.find('input[name="thickness-2"]').get_attribute("value").startswith("3.9"))
    walk.press(Keys.ENTER)
    walk.until(lambda: code_at_hand(walk) != code, "the round goes on to the next")
    test = server.get(f"/api/studies/{study['id']}")["tests"][0]["id"]
    walk.until(lambda: [i["code"] for i in server.get(f"/api/tests/{test}/queue")["items"] if i["state"] == "measured"] == [code])
    # a purpose of one's own, from the study's tests
    walk.open(walk.base + "/choose")
    walk.click("Another purpose")
    walk.see("What is the part")
    walk.field("The part").send_keys("Gate hinge")
    for label, value in (("strength, flat: no use", "10"), ("strength, flat: all", "50,5")):
        walk.labelled(label).send_keys(value)
    walk.click("Rank for this purpose")
    walk.see("no use at 10 MPa, all that is needed at 50.5 MPa")
    assert walk.console() == []


def test_an_empty_notebook_says_what_to_do(tmp_path, nursery):
    with running_server(tmp_path / "new", nursery) as server, browser() as walk:
        walk.open(server.url)
        walk.see("Nothing waits")
        walk.click("To the stock")
        walk.see("The stock is empty")
        walk.open(server.url + "/stock/intake")
        walk.see("No material yet")
        walk.open(server.url + "/stock/drying")
        walk.see("No spool at hand")
        walk.open(server.url + "/studies")
        walk.see("No study yet")
        walk.click("Plan the first study")
        walk.see("No material is registered yet")
        walk.open(server.url + "/bench")
        walk.see("Nothing waits on the bench")
        walk.open(server.url + "/choose")
        walk.see("plan one first")
        walk.open(server.url + "/nowhere")
        walk.see("There is no such page")
        assert walk.console() == []
