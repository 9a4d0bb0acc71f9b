"""What methods ask for beside their readings: how a notch was made, the bar that a compliance was read on, a type of durometer; and recomputing on the day sheet."""

import sqlite3

import numpy as np
import pytest
from selenium.webdriver.common.keys import Keys

from .test_captures import begin, gates, kept  # noqa: F401

pytestmark = pytest.mark.browser


def test_how_a_notch_was_made_is_told_beside_the_drawing_and_stays_after_a_reload(server, walk, gates):  # noqa: F811
    first, hands = begin(walk, server, gates, "impact")
    walk.find("button[aria-haspopup='dialog']").click()
    walk.find('select[name="notch_machined-0"]').send_keys("no")
    radius = walk.find('input[name="notch_radius-0"]')
    radius.send_keys("0,25")
    radius.send_keys(Keys.ESCAPE)
    walk.see("notch machined: no, radius of the notch: 0,25 mm")
    walk.driver.refresh()
    walk.see("notch machined: no, radius of the notch: 0,25 mm")
    walk.find('input[name="width_under_notch-0"]').click()
    hands.enter("7.98", "4.02", "118.5")
    hands.press("c")
    hands.press(Keys.ENTER)
    run, _ = kept(walk, server, first)
    told = {r["field"]: r["value"] for r in run["readings"]}
    assert (told["notch_machined"], told["notch_radius"]) == (0, 0.25)
    assert not any("notch was printed or machined" in r for r in run["remarks"])


def test_the_give_of_the_bar_is_subtracted_on_the_rigs_page(server, walk, tmp_path):
    rig = next(r for r in server.get("/api/rigs")["items"] if r["name"] == "Pull frame 2 kN")
    force = np.linspace(0, 1500, 400)
    steel = 100 / (64.5 * 210_000)
    file = tmp_path / "rigid.csv"
    file.write_text("Travel (mm),Force (N)\n" + "\n".join(f"{f * (4e-4 + steel):.7f},{f:.3f}" for f in force))
    walk.open(f"{walk.base}/rigs/{rig['rig_id']}")
    walk.see("± 0.010 (standard uncertainty)")
    walk.field("bar between grips, mm").send_keys("100")
    walk.find('section[aria-label="Machine compliance"] input[type=file]').send_keys(str(file))
    walk.see("length, section and modulus are numbers above 0")
    walk.field("its section, mm²").send_keys("64,5")
    walk.find('section[aria-label="Machine compliance"] input[type=file]').send_keys(str(file))
    walk.see("of the bar itself subtracted")
    walk.click("Use it for this rig")
    walk.until(lambda: next(r for r in server.get("/api/rigs")["items"] if r["id"] == rig["id"])["compliance"] == pytest.approx(4e-4, rel=1e-3))


def test_results_of_earlier_rules_are_recomputed_on_the_day_sheet(own_demo, server, walk, tests_of_demo):
    with sqlite3.connect(own_demo / "assayer.db", timeout=10) as book:
        book.execute(
            "UPDATE results SET reduction_version = 3, value = value * 2 WHERE test_id = ? AND quantity = 'apparent_modulus'", (tests_of_demo["flat"],)
        )
        runs = book.execute("SELECT count(DISTINCT run_id) FROM results WHERE reduction_version = 3 AND test_id = ?", (tests_of_demo["flat"],)).fetchone()[0]
    walk.open(f"{walk.base}/")
    walk.see(f"{runs} runs were computed by earlier rules")
    walk.click("Recompute and list what changes")
    walk.see(f"{runs} values of")
    walk.see("apparent modulus")
    walk.open(f"{walk.base}/")
    walk.see("Due")
    assert "earlier rules" not in walk.text()
