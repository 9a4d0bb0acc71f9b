"""The dial-in as it is used: a trial by keyboard, a tower graded, two sheets beside each other, a file inspected and stepped, two photographs."""

import io
import json
import urllib.request

import pytest
from PIL import Image
from selenium.webdriver.common.keys import Keys

from ..gcode_writer import tower
from .test_changes import pick

pytestmark = pytest.mark.browser


@pytest.fixture
def trail(server):
    return server.get(f"/api/trails/{server.get('/api/trails')['items'][0]['id']}")


def shown(server, trail):
    return server.get(f"/api/trails/{trail['id']}")


def focus(walk, css):
    walk.driver.execute_script("arguments[0].focus()", walk.find(css))


def press(walk, words):
    walk.until(lambda: walk.driver.find_elements("xpath", f"//button[contains(., '{words}')]"))
    walk.driver.find_element("xpath", f"//button[contains(., '{words}')]").send_keys(Keys.ENTER)


def widths(walk):
    return walk.driver.execute_script("return [...document.querySelectorAll('figure img')].map((i) => i.getBoundingClientRect().width)")


def test_a_trial_is_planned_and_recorded_by_keyboard(server, walk, trail):
    walk.open(f"{walk.base}/dial-in/{trail['id']}?trial=11")
    walk.see("What each change did")
    focus(walk, f"#trial-{trail['trials'][10]['id']}")
    walk.press("t")
    walk.see("from trial 11, planned with your first entry")
    # pressed again and left again, nothing stays behind
    walk.press("t")
    walk.driver.refresh()
    walk.see("from trial 11, planned with your first entry")
    assert len(shown(server, trail)["trials"]) == len(trail["trials"])
    pick(walk, "Change a setting", "fan, bridges")
    box = walk.until(lambda: walk.driver.switch_to.active_element if walk.driver.switch_to.active_element.get_attribute("inputmode") == "decimal" else None)
    box.send_keys("80,0", Keys.ENTER)
    walk.until(lambda: len(shown(server, trail)["trials"]) > len(trail["trials"]) and shown(server, trail)["trials"][-1]["changes"])
    new = shown(server, trail)["trials"][-1]
    assert [c["after"]["value"] for c in new["changes"]] == [80]
    assert (new["parent_id"], new["outcome"], len(shown(server, trail)["trials"])) == (trail["trials"][10]["id"], "planned", len(trail["trials"]) + 1)
    walk.see("planned: what does it change")
    # f: failed asks at how many per cent first; it was good after all
    focus(walk, "form input[name=outcome]")
    walk.press("f")
    walk.until(lambda: walk.driver.switch_to.active_element.get_attribute("data-figure") is not None)
    focus(walk, "form input[name=outcome]")
    walk.press("g")
    walk.until(lambda: walk.driver.switch_to.active_element.get_attribute("data-figure") is not None)
    walk.press("4", "1", Keys.TAB, "5", ",", "2")
    focus(walk, "form fieldset input[name=stringing]")
    walk.press("3", "2", "4")
    walk.see("sags by one to three lines")
    # what was typed is there again after a reload
    walk.driver.refresh()
    assert walk.field("mass, g").get_attribute("value") == "5,2"
    walk.field("mass, g").send_keys(Keys.CONTROL, Keys.ENTER)
    done = walk.until(lambda: t if (t := shown(server, trail)["trials"][-1])["outcome"] == "good" else None)
    assert (done["minutes"], done["total_mass"]) == (41, 5.2)
    assert done["grades"] == {"stringing": 3, "bridging": 2, "overhang": 4}
    assert done["who"] == "Ilse"
    # the effect stands alone at once
    walk.see("fan bridge")
    assert walk.console() == []
    assert walk.axe() == []


def test_the_first_candidate_is_tried_and_taken_back(server, walk, trail):
    walk.open(f"{walk.base}/dial-in/{trail['id']}?trial=11")
    walk.see("What to try next")
    press(walk, "Try infill speed 40 mm/s")
    new = walk.until(lambda: t if (t := shown(server, trail)["trials"][-1])["number"] == 13 else None)
    assert [(c["name"], c["after"]["value"]) for c in new["changes"]] == [("speed_infill", 40)]
    walk.see("planned: what does it change")
    press(walk, "take it back")
    walk.see("Trial 13 was taken back")
    assert len(shown(server, trail)["trials"]) == 12
    press(walk, "Bring it back")
    walk.until(lambda: len(shown(server, trail)["trials"]) == 13)


def by_two(trial):
    """The trial, once two people graded it."""
    return trial if len({g["grader"] for g in trial["by_grader"]}) == 2 else None


def test_a_tower_is_graded_by_keys(server, walk, trail):
    tower_ = next(t for t in trail["trials"] if t["series"])
    walk.open(f"{walk.base}/dial-in/{trail['id']}/towers/{tower_['id']}")
    walk.see("Read for")
    walk.until(lambda: walk.driver.switch_to.active_element.get_attribute("id") == "tower")
    walk.press(Keys.ARROW_RIGHT, "0", "1", "2", "n", "4", "4")
    walk.see("Keep 6 grades")
    walk.driver.refresh()
    walk.see("Keep 6 grades")
    walk.until(lambda: walk.driver.switch_to.active_element.get_attribute("id") == "tower")
    walk.press(Keys.ENTER)
    graded = walk.until(lambda: by_two(next(t for t in shown(server, trail)["trials"] if t["series"])))
    own = {g["band"]: g["grade"] for g in graded["by_grader"] if g["grader"] == "Ilse"}
    assert own == {1: 0, 2: 1, 3: 2, 4: None, 5: 4, 6: 4}
    assert graded["bands"][0]["bridging"] == 0.5, "the median of two graders"
    walk.see("60 … 100 % (4 of 4)")
    assert walk.console() == []
    assert walk.axe() == []


def test_two_sheets_show_what_differs(server, walk, trail):
    walk.open(f"{walk.base}/dial-in/sheets/{trail['trials'][10]['sheet_id']}")
    walk.see("volumetric flow limit")
    walk.see("calibration")
    assert walk.axe() == []
    choice = walk.find("#beside")
    # printed, it holds the settings and not what they are chosen with
    walk.driver.execute_cdp_cmd("Emulation.setEmulatedMedia", {"media": "print"})
    assert not choice.is_displayed()
    walk.see("volumetric flow limit")
    walk.driver.execute_cdp_cmd("Emulation.setEmulatedMedia", {"media": ""})
    choice.send_keys("trial 5")
    choice.send_keys(Keys.ENTER)
    walk.see("only what differs")
    rows = [row.text for row in walk.all("tbody tr")]
    assert [row.split("\n")[0].split(" ")[0] for row in rows] == ["flow", "fan"]
    walk.driver.back()
    assert walk.console() == []


def test_a_file_is_inspected_and_stepped(server, walk, trail, tmp_path):
    file = tmp_path / "own tower.gcode"
    file.write_bytes(tower(feed=lambda n: 15 if n > 180 else 45))
    walk.open(f"{walk.base}/dial-in/gcode")
    walk.see("fan-tower.gcode")
    walk.find("input[type=file]").send_keys(str(file))
    walk.see("What stands out")
    walk.see("an outer wall at 15 mm/s is laid alike in all layers")
    walk.see("217")
    focus(walk, "[aria-label^='Strips by height']")
    walk.press(Keys.ARROW_UP, Keys.ARROW_UP)
    walk.see("layer 3, 0.60 mm")
    walk.click("Step a setting through this file", "summary")
    for label, value in (("lowest band, °C", "236"), ("step, °C", "-4"), ("bands", "6"), ("band height, mm", "7"), ("base, mm", "1,4")):
        box = walk.field(label)
        box.send_keys(Keys.CONTROL, "a")
        box.send_keys(value)
    walk.see("M104 S216 before line")
    walk.click("Download the stepped file", "a")
    got = walk.until(lambda: next(iter(walk.downloads.glob("*.gcode")), None))
    walk.until(lambda: b"M104 S216" in got.read_bytes())
    assert walk.axe() == []
    bad = tmp_path / "no print.gcode"
    bad.write_bytes(bytes(range(200)) * 20)
    walk.open(f"{walk.base}/dial-in/gcode")
    walk.find("input[type=file]").send_keys(str(bad))
    walk.see("this is no G-code")
    # while a series is typed, those that do not match the file are refused
    assert [line for line in walk.console() if "/steps" not in line] == []


def test_two_photographs_lie_side_by_side_at_one_scale(server, walk, trail, tmp_path):
    files = []
    for name, colour in (("a.jpg", (180, 60, 60)), ("b.png", (60, 60, 180))):
        data = io.BytesIO()
        Image.new("RGB", (800, 500), colour).save(data, "JPEG" if name.endswith("jpg") else "PNG")
        (tmp_path / name).write_bytes(data.getvalue())
        files.append(str(tmp_path / name))
    (tmp_path / "c.jpg").write_bytes(b"no picture")
    walk.open(f"{walk.base}/dial-in/{trail['id']}?trial=10")
    walk.see("Add photographs")
    walk.find("input[type=file][multiple]").send_keys("\n".join([*files, str(tmp_path / "c.jpg")]))
    walk.see("c.jpg: this is no picture")
    photos = walk.until(lambda: p if len(p := next(t for t in shown(server, trail)["trials"] if t["number"] == 10)["photos"]) == 2 else None)
    for p, scale in zip(photos, (0.05, 0.1), strict=True):
        headers = {"Content-Type": "application/json", "If-Match": '"1"'}
        asked = urllib.request.Request(f"{server.url}/api/photos/{p['id']}", json.dumps({"scale": scale}).encode(), headers, method="PATCH")
        urllib.request.urlopen(asked).close()
    walk.open(f"{walk.base}/dial-in/light-table?photos={photos[0]['id']},{photos[1]['id']}")
    walk.see("at one scale, by their marks")
    walk.until(lambda: len(walk.all("figure img")) == 2)
    wide = walk.until(lambda: w if (w := widths(walk))[0] < w[1] else None)
    # 800 pixels of 0.05 mm are half as wide as 800 of 0.1 mm
    assert wide[0] * 2 == pytest.approx(wide[1], abs=2)
    walk.find("[aria-label='Photographs side by side']").send_keys("+")
    walk.until(lambda: widths(walk)[0] == pytest.approx(wide[0] * 1.25, abs=2))
    # each says its trial, what it changed and its material; others are chosen freely
    walk.see("Trial 10, glass · fan 30")
    walk.see("Tarn Clearwater, smoke")
    walk.labelled("Remove").click()
    walk.until(lambda: len(walk.all("figure img")) == 1)
    press(walk, "Choose photographs")
    walk.until(lambda: walk.all("[role=dialog] button[aria-pressed=false] img"))
    walk.find("[role=dialog] button[aria-pressed=false]").click()
    walk.until(lambda: len(walk.all("figure img")) == 2)
    walk.press(Keys.ESCAPE)
    walk.gone("On the light table")
    assert walk.axe() == []


LOSES_EACH_FIRST_ANSWER = """
const real = window.fetch, lost = new Set();
window.fetch = async (request, more) => {
  const answer = await real(request, more);
  if (request.method !== 'POST' || lost.has(request.url)) return answer;
  lost.add(request.url);
  throw new TypeError('lost');
};
"""


def test_what_is_sent_again_because_its_answer_was_lost_is_one_thing(server, walk, trail):
    walk.open(f"{walk.base}/dial-in/hardware")
    walk.see("Add a nozzle")
    walk.driver.execute_script(LOSES_EACH_FIRST_ANSWER)
    for section, kind, typed in (("Nozzles", "nozzles", ("Wide one", "0,8")), ("Bed surfaces", "bed_surfaces", ("Smooth one",))):
        fields = walk.all(f'section[aria-label="{section}"] form input:not([type=checkbox])')
        for field, text in zip(fields, typed, strict=False):
            field.send_keys(text)
        fields[0].send_keys(Keys.ENTER)
        walk.see("could not be reached")
        assert fields[0].get_attribute("value") == typed[0]
        fields[0].send_keys(Keys.ENTER)
        walk.until(lambda field=fields[0]: field.get_attribute("value") == "", "it was not taken as what is there already")
        assert [n["name"] for n in server.get("/api/hardware")[kind]].count(typed[0]) == 1
    walk.open(f"{walk.base}/dial-in/{trail['id']}?trial=11")
    walk.see("What each change did")
    walk.driver.execute_script(LOSES_EACH_FIRST_ANSWER)
    focus(walk, f"#trial-{trail['trials'][10]['id']}")
    walk.press("t")
    press(walk, "Plan it with the same settings")
    walk.see("could not be reached")
    press(walk, "Plan it with the same settings")
    walk.see("planned: what does it change")
    assert [t["number"] for t in shown(server, trail)["trials"]][-2:] == [12, 13]
    # once it went through, the next alike is another
    focus(walk, f"#trial-{trail['trials'][10]['id']}")
    walk.press(Keys.ENTER, "t")
    press(walk, "Plan it with the same settings")
    walk.until(lambda: len(shown(server, trail)["trials"]) == 14)


def test_a_trial_kept_elsewhere_says_so_and_what_was_typed_stays(server, walk, trail):
    planned = next(t for t in trail["trials"] if t["outcome"] == "planned")
    number = planned["number"]
    mine = lambda: next(t for t in shown(server, trail)["trials"] if t["number"] == number)  # noqa: E731
    walk.open(f"{walk.base}/dial-in/{trail['id']}?trial={number}")
    walk.see("How did it come out?")
    note = walk.find('form[aria-label^="Record of trial"] textarea:not([aria-hidden])')
    note.send_keys("clear to the edge")
    walk.press(Keys.TAB)
    headers = {"Content-Type": "application/json", "If-Match": f'"{planned["revision"]}"'}
    theirs = json.dumps({"outcome": "poor", "note": "cloudy", "grades": []}).encode()
    urllib.request.urlopen(urllib.request.Request(f"{server.url}/api/trials/{planned['id']}", theirs, headers, method="PATCH")).close()
    walk.find('form[aria-label^="Record of trial"] input[name=outcome]').click()
    press(walk, f"Keep trial {number}")
    walk.see("Saved elsewhere in the meantime:")
    note = walk.find('form[aria-label^="Record of trial"] textarea:not([aria-hidden])')
    assert note.get_attribute("value") == "clear to the edge"
    assert mine()["note"] == "cloudy"
    walk.driver.refresh()
    walk.see("Saved elsewhere in the meantime:")
    press(walk, "Overwrite with mine")
    walk.gone("Saved elsewhere in the meantime:")
    press(walk, f"Keep trial {number}")
    walk.until(lambda: mine()["note"] == "clear to the edge")
    assert mine()["outcome"] == "good"
