"""Other units are chosen in one place; every figure, table and download follows, and nothing that is kept does."""

import csv
import io

import pytest
from selenium.webdriver.common.keys import Keys

from .test_edges import taken

pytestmark = pytest.mark.browser

PSI = 4.4482216152605 / 25.4**2
"""MPa of one psi: pound-force (N, exact) over a square inch (mm², exact)."""


def choose(walk, *units):
    """By keyboard: to the radio of each unit, and Space."""
    for unit in units:
        walk.driver.find_element("xpath", f"//label[normalize-space(.)='{unit}']/preceding-sibling::input").send_keys(Keys.SPACE)


def table(walk, label):
    walk.labelled(f"Download the {label}").click()
    return list(csv.DictReader(io.StringIO(taken(walk, ".csv")[1].decode())))


def test_units_are_switched_for_everything_shown_and_back(server, walk, tests_of_demo):
    study = server.get("/api/studies")["items"][0]["id"]
    test = tests_of_demo["flat"]
    kept = server.get(f"/api/tests/{test}/findings")
    walk.open(f"{walk.base}/studies")
    walk.press("/")
    walk.type_slowly("psi")
    walk.press(Keys.ENTER)
    walk.see("a pull bar's strength 45.7 MPa")
    choose(walk, "psi", "lbf", "in", "°F", "oz", "mm/min · cm³/min")
    walk.see("a pull bar's strength 6628 psi")
    walk.see("a nozzle 419 °F")
    walk.see("printing 3600 mm/min")
    # the figure, its table, its CSV
    walk.open(f"{walk.base}/studies/{study}/findings?test={test}")
    walk.see("strength, psi")
    walk.click("Means, scatter and batches", "summary")
    walk.see("mean, psi")
    rows = table(walk, "verdicts")
    assert {r["unit"] for r in rows} == {"psi"}
    assert [float(r["mean"]) for r in rows] == pytest.approx([a["group"]["mean"] / PSI for a in kept["arms"]])
    told = [(float(r["difference"]), a["verdict"]["difference"]) for r, a in zip(rows, kept["arms"], strict=True) if a["verdict"]]
    assert [t for t, _ in told] == pytest.approx([d / PSI for _, d in told])
    figure = walk.find("svg[role=group]")
    assert "psi" in figure.text
    assert "MPa" not in figure.text
    assert f"{kept['arms'][0]['group']['mean'] / PSI:.0f}"[:2] in figure.get_attribute("aria-label")
    walk.take_figure(0, "CSV of the numbers")
    dots = list(csv.DictReader(io.StringIO(taken(walk, ".csv")[1].decode())))
    assert {d["unit"] for d in dots} == {"psi"}
    elsewhere = {"other study": [v for e in kept["earlier"] for v in e["values"]], "reported": [e["mean"] for e in kept["earlier"] if e["reported"]]}
    specimens = [d["value"] for a in kept["arms"] for d in a["dots"]]
    assert sorted(float(d["value"]) for d in dots if d["state"] not in elsewhere) == pytest.approx(sorted(v / PSI for v in specimens))
    for state, values in elsewhere.items():
        assert sorted(float(d["value"]) for d in dots if d["state"] == state) == pytest.approx(sorted(v / PSI for v in values))
    # the curves over one another, points and axis
    walk.until(lambda: walk.all("figure canvas"))
    walk.take_figure(1, "CSV of the numbers")
    curves = list(csv.DictReader(io.StringIO(taken(walk, ".csv")[1].decode())))
    stress = next(k for k in curves[0] if k.endswith("psi"))
    assert 4000 < max(float(r[stress]) for r in curves) < 20000
    # the board, the ranking's limits, a material, a spool
    walk.open(f"{walk.base}/studies/{study}/board")
    walk.see("strength, psi")
    assert {"in", "lbf", "psi"} == {r["unit"] for r in table(walk, "board")}
    assert "MPa" not in walk.text()
    walk.open(f"{walk.base}/choose")
    walk.see("psi, all that is needed at")
    assert "MPa" not in walk.text()
    grey = next(m for m in server.get("/api/stock")["items"] if m["colour"] == "grey")
    walk.open(f"{walk.base}/stock/materials/{grey['id']}")
    walk.see("temperature, °F")
    window = server.get(f"/api/materials/{grey['id']}")["window"]
    assert f"{window['nozzle_low'] * 1.8 + 32:g}–{window['nozzle_high'] * 1.8 + 32:g} °F" in walk.text()
    walk.open(f"{walk.base}/stock/spools/{grey['spools'][0]['id']}")
    walk.see("filament left, oz")
    assert server.get(f"/api/tests/{test}/findings") == kept, "the data stay"
    # another tab follows, with what is typed in it
    field = walk.field("On the scales, g")
    field.send_keys("9,5")
    spool = walk.driver.current_window_handle
    walk.driver.switch_to.new_window("tab")
    walk.open(f"{walk.base}/units")
    walk.see("34.74 oz")
    choose(walk, "MPa", "N", "mm", "°C", "g", "mm/s · mm³/s")
    walk.see("a spool's filament 985 g")
    walk.driver.switch_to.window(spool)
    walk.see("filament left, g")
    assert walk.field("On the scales, g").get_attribute("value") == "9,5"
    assert walk.console() == []
