"""Plates walked through: laid out, printed, judged on the drawing, filed under another arm; kinds of studies by keyboard; the board from far."""

import io
import urllib.request
import zipfile

import pytest
import trimesh
from selenium.webdriver.common.keys import Keys

from ..support import new_id
from .test_changes import pick

pytestmark = pytest.mark.browser


def pick_field(walk, label, words):
    """One of a list whose field has a label that is seen."""
    walk.field(label).click()
    walk.until(lambda: [o for o in walk.all("[role=option]") if o.is_displayed() and words in o.text])[0].click()


def studied(walk, kind):
    walk.until(lambda: [x for x in walk.all('[aria-label="What is studied"] button') if x.text == kind])[0].click()


def a_sweep(server, shape=None):
    """Two walls of one filament, four of each."""
    amber = next(m for m in server.get("/api/stock")["items"] if m["colour"] == "amber")["id"]
    arms = [{"id": new_id(), "material_id": amber, "settings": {"infill": share}} for share in (20, 40)]
    test = {"id": new_id(), "orientation": "flat", "shape": shape, "replicates": 4, "spares": 1}
    return server.ask("/api/studies", {"id": new_id(), "title": "Walls", "studied_factor": "setting", "arms": arms, "tests": [test]})[1]


def test_plates_are_laid_printed_judged_and_filed_elsewhere(server, walk):
    study = a_sweep(server)
    base = f"/api/studies/{study['id']}"
    plates = lambda: server.get(f"{base}/plates")  # noqa: E731
    walk.open(f"{walk.base}/studies/{study['id']}/print")
    walk.see("8 specimens lie on no plate")
    walk.click("Lay them out")
    walk.see("4 plates wait")
    walk.gone("lie on no plate")
    assert walk.axe() == []
    first, second = plates()["plates"][:2]
    walk.see(f"Next on the bed · plate 1: {first['why']}")
    walk.see("mind: not dried (15 days open, never dried)")
    assert walk.text().count("never dried") == 1, "how dry it is stands there once"
    with zipfile.ZipFile(io.BytesIO(urllib.request.urlopen(f"{server.url}{base}/plates.zip").read())) as package:
        assert "plates.csv" in package.namelist()
    # what is typed of one plate waits while another is looked at, and over a reload
    walk.field("took").send_keys("1:0x")
    button = walk.until(lambda: [b for b in walk.all("button") if "This plate is printed" in b.text])[0]
    assert not button.is_enabled(), "that is no time"
    walk.field("took").send_keys(Keys.BACKSPACE, "5")
    walk.field("purged, g").send_keys("1,5")
    walk.find(f'button[data-plate="{second["number"]}"]').send_keys(Keys.ENTER)
    walk.see("Not the next one")
    assert walk.field("took").get_attribute("value") == ""
    walk.driver.refresh()
    walk.see("Next on the bed")
    assert (walk.field("took").get_attribute("value"), walk.field("purged, g").get_attribute("value")) == ("1:05", "1,5")
    # another spool gave the supports
    walk.click("another spool gave to it too")
    assert not walk.until(lambda: [b for b in walk.all("button") if "This plate is printed" in b.text])[0].is_enabled(), "which one is not said yet"
    pick_field(walk, "beside it", "ivory")
    walk.field("its spool").click()
    walk.until(lambda: [o for o in walk.all("[role=option]") if o.is_displayed()])[0].click()
    walk.driver.find_elements("xpath", "//label[starts-with(., 'in parts, g')]/following::input[1]")[-1].send_keys("2,5")
    walk.field("took").send_keys(Keys.ENTER, Keys.ENTER)
    walk.see("3 plates wait")
    batches = server.get(f"{base}/batches")["items"]
    assert [(b["plate_id"], b["minutes"], b["purge"]) for b in batches] == [(first["id"], 65, 1.5)], "Enter twice prints once"
    (batch,) = batches
    assert [(b["mass"], b["purge"]) for b in batch["besides"]] == [(2.5, 0)]
    walk.see(f"{len(batch['specimens'])} specimens with their codes")
    # judged on the drawing, by keyboard
    place = walk.until(lambda: walk.all('g[role="button"][data-position="1"]'))[0]
    assert batch["specimens"][0]["code"] in place.get_attribute("aria-label")
    place.send_keys(Keys.ENTER, Keys.ENTER)
    walk.labelled("What was wrong").send_keys("40 % infill", Keys.ENTER)
    walk.until(lambda: server.get(f"{base}/batches")["items"][0]["specimens"][0]["outcome"] == "misprinted")
    assert [x["number"] for x in server.get(f"{base}/batches")["items"][0]["specimens"]] == [1, 3, 1], "the spare took its place"
    # all of it is the other arm in truth
    walk.click("It is another arm in truth")
    pick_field(walk, "file all of this batch under", "infill")
    walk.field("what was found").send_keys("printed with the wrong file")
    walk.click("File it there")
    other = next(a["id"] for a in study["arms"] if a["id"] != first["arm_id"])
    walk.until(lambda: server.get(f"{base}/batches")["items"][0]["arm_id"] == other)
    assert server.get(base)["amendments"][-1]["reason"] == "printed with the wrong file"
    walk.open(f"{walk.base}/studies/{study['id']}/board")
    walk.see("printed with the wrong file")
    # what was laid for the place that is filled now is taken back, and laid again
    walk.open(f"{walk.base}/studies/{study['id']}/print")
    walk.see("3 plates wait")
    walk.click("Take them back")
    walk.see("specimens lie on no plate")
    walk.gone("plates wait")
    assert walk.axe() == []
    assert len([p for p in plates()["plates"] if p["batch_id"] is None]) == 0


def test_a_specimen_larger_than_the_bed_is_refused_on_the_page(server, walk):
    study = a_sweep(server)
    small = {"id": new_id(), "name": "Thumb", "build_x": 60, "build_y": 60, "build_z": 60}
    server.ask("/api/printers", small)
    walk.open(f"{walk.base}/studies/{study['id']}/print")
    walk.see("8 specimens lie on no plate")
    pick_field(walk, "plates for the printer", "Thumb")
    walk.click("Lay them out")
    walk.see("70 × 12 mm, does not fit on the bed of 60 × 60 mm")


def test_treatments_and_rigs_are_planned_by_keyboard(server, walk):
    def begin(title, kind):
        walk.open(f"{walk.base}/studies/new")
        walk.field("What is it called?").send_keys(title)
        studied(walk, kind)
        choice = walk.until(lambda: [b for b in walk.all("button[aria-pressed]") if "ivory" in b.text])[0]
        choice.send_keys(Keys.ENTER)
        walk.see("this one")

    found = lambda title: next((s for s in server.get("/api/studies")["items"] if s["title"] == title), None)  # noqa: E731

    def make(title):
        button = walk.until(lambda: [b for b in walk.all("button") if "Make the study" in b.text and b.is_enabled()])[0]
        button.send_keys(Keys.ENTER)
        return server.get(f"/api/studies/{walk.until(lambda: found(title))['id']}")

    begin("Annealing", "Treatments")
    walk.see("the control, and the reference")
    walk.labelled("Treatment 1").send_keys("annealed 2 h at 80 °C")
    walk.field("Spares of each").send_keys(Keys.CONTROL, "a")
    walk.field("Spares of each").send_keys("1")
    walk.see("20 specimens and 4 spares")
    made = make("Annealing")
    assert (made["studied_factor"], [a["treatment"] for a in made["arms"]]) == ("treatment", ["", "annealed 2 h at 80 °C"])
    assert {t["spares"] for t in made["tests"]} == {1}

    begin("Two frames", "Rigs")
    for name in ("Jack frame", "Pull frame"):
        walk.until(lambda name=name: [b for b in walk.all('[aria-label="What is compared"] button') if name in b.text])[0].send_keys(Keys.ENTER)
    made = make("Two frames")
    assert (made["studied_factor"], [a["differs"] for a in made["arms"]]) == ("rig", [{"rig": "Jack frame"}, {"rig": "Pull frame 2 kN"}])

    # colours of one product are told from materials by themselves; an older study is repeated from here
    walk.open(f"{walk.base}/studies/new")
    for colour in ("ivory", "slate"):
        walk.until(lambda colour=colour: [b for b in walk.all("button[aria-pressed]") if colour in b.text])[0].send_keys(Keys.ENTER)
    walk.see("its colours are what is studied")
    pick(walk, "Or repeat an older study", "Two frames")
    walk.see("With these materials")
    assert walk.axe() == []


def test_a_setting_that_moves_along_is_one_factor(server, walk):
    walk.open(f"{walk.base}/studies/new")
    walk.field("What is it called?").send_keys("Walls of one thickness")
    studied(walk, "Settings")
    walk.until(lambda: [b for b in walk.all("button[aria-pressed]") if "ivory" in b.text])[0].send_keys(Keys.ENTER)
    pick(walk, "Setting 1", "line width")
    walk.labelled("Values of setting 1").send_keys("0,4; 0,6")
    walk.click("moves with another")
    pick(walk, "What moves with setting 1", "perimeters")
    walk.labelled("Values of what moves with setting 1").send_keys("3")
    walk.see("2 numbers, one for each")
    walk.labelled("Values of what moves with setting 1").send_keys("; 2")
    walk.see("20 specimens")
    walk.until(lambda: [b for b in walk.all("button") if "Make the study" in b.text and b.is_enabled()])[0].send_keys(Keys.ENTER)
    found = walk.until(lambda: next((s for s in server.get("/api/studies")["items"] if s["title"] == "Walls of one thickness"), None))
    made = server.get(f"/api/studies/{found['id']}")
    assert made["studied_settings"] == ["line_width+perimeters"]
    assert [a["settings"] for a in made["arms"]] == ["as printed: line 0.4 mm, perimeters 3", "as printed: line 0.6 mm, perimeters 2"]
    unfair = [u["name"] for u in server.get(f"/api/studies/{found['id']}/fairness")["items"]]
    assert "settings tied" not in unfair


def test_the_board_is_looked_at_from_far_and_says_what_is_late(server, walk):
    study = server.get("/api/studies")["items"][0]
    walk.open(f"{walk.base}/studies/{study['id']}/plan")
    day = walk.field("Its answer is needed by")
    # typed figure by figure it passes through the year 2: nothing is kept of that
    day.send_keys("01052026")
    assert day.get_attribute("value") == "2026-01-05"
    assert server.get(f"/api/studies/{study['id']}")["wanted_by"] is None
    day.send_keys(Keys.ENTER)
    walk.until(lambda: server.get(f"/api/studies/{study['id']}")["wanted_by"])
    walk.open(f"{walk.base}/studies/{study['id']}/board")
    walk.see("what is not tested is late")
    cell = walk.until(lambda: walk.all('[data-at="4-0"]'))[0]
    assert "late" in cell.text
    table = lambda: walk.find("table[data-zoom]").get_attribute("data-zoom")  # noqa: E731
    assert table() == "all"
    cell.click()
    cell.send_keys("-")
    walk.until(lambda: table() == "intervals")
    walk.press("-", "-")
    walk.until(lambda: table() == "marks")
    walk.driver.refresh()
    walk.until(lambda: table() == "marks")
    assert walk.axe() == []
    walk.press(Keys.TAB)
    walk.until(lambda: walk.all('[data-at="0-0"]'))[0].click()
    walk.press("+")
    walk.until(lambda: table() == "intervals")


def test_a_shape_in_sizes_of_ones_own(server, walk):
    walk.open(f"{walk.base}/rigs/shapes")
    walk.see("shear bar")
    card = walk.until(lambda: [x for x in walk.all("main li") if "\nbar 80" in x.text])[0]
    next(b for b in card.find_elements("css selector", "button") if "sizes of my own" in b.text).click()
    walk.labelled("bar 80 × 10 × 4: width").send_keys("12,5")
    walk.see("bar 80 × 10 × 4, width 12.5")
    walk.labelled("bar 80 × 10 × 4: number").send_keys("7")
    link = walk.until(lambda: [a for a in card.find_elements("css selector", "a") if "size=width%3D12.5&number=7" in a.get_attribute("href")])[0]
    solid = trimesh.load(io.BytesIO(urllib.request.urlopen(link.get_attribute("href").replace("solid.3mf", "solid.stl")).read()), file_type="stl")
    assert sorted(solid.extents)[1:] == pytest.approx([12.5, 80], abs=0.01)
    walk.labelled("bar 80 × 10 × 4: width").send_keys(Keys.CONTROL, "a")
    walk.labelled("bar 80 × 10 × 4: width").send_keys("5000")
    walk.see("it must lie between 0 and 1000 mm")
    assert not [a for a in card.find_elements("css selector", "a") if "STL" in a.text], "what cannot be is not offered"
    assert walk.axe() == []
