"""What happens at the edges: a refused entry, two stations, figures taken along, a shared queue."""

import csv
import io
import json
import time
from xml.etree import ElementTree

import pytest
from selenium.webdriver.common.keys import Keys

from ..api.test_durability import entry, post
from .test_slice import code_at_hand, fill_by_keyboard, runs_of, waiting

pytestmark = pytest.mark.browser


def somebody_else_pulls(server, test, item):
    rig = next(r["id"] for r in server.get("/api/rigs")["items"] if r["calibrated_at"] and "tension" in r["methods"])
    assert post(server, "/api/runs", entry(test, item, rig, "777"))[0] == 201


def test_a_refused_entry_stays_in_the_browser_with_its_reason(server, walk, tests_of_demo):
    test = tests_of_demo["upright"]
    item = waiting(server, test)[0]
    walk.open(f"{walk.base}/bench?test={test}")
    walk.see("random order")
    fill_by_keyboard(walk, "471")
    walk.see("Accept, next")
    somebody_else_pulls(server, test, item)
    walk.press(Keys.ENTER)
    walk.see("1 refused")
    walk.driver.refresh()
    walk.click("1 refused")
    walk.see(f"specimen {item['code']} was tested already by somebody")
    # what was typed, by whom, and the ways on
    walk.see("Ilse")
    assert walk.field("peak force").get_attribute("value") == "471"
    standing = [reading["raw"] for r in runs_of(server, item["specimen_id"]) for reading in r["readings"] if reading["field"] == "peak_force"]
    assert standing == ["777"], "the first entry stands"
    walk.click("Keep it here")
    walk.see("1 kept here")
    walk.click("Drop it")
    walk.gone("kept here")
    walk.click("Put back")
    walk.see("1 refused")
    walk.click("Drop it")
    walk.gone("1 refused")
    walk.see("They stay here for a week")


def test_a_failing_entry_holds_up_no_other_and_is_mended_on_its_page(server, walk, tests_of_demo):
    spools = [s for m in server.get("/api/stock")["items"] for s in m["spools"] if s["left"] and s["left"] > 100]
    spool = server.get(f"/api/spools/{spools[0]['id']}")
    item = waiting(server, tests_of_demo["upright"])[0]
    walk.open(f"{walk.base}/stock/spools/{spool['id']}")
    mass = walk.field("On the scales, g")
    server.kill()
    mass.send_keys("9999", Keys.ENTER, Keys.ENTER)
    walk.see("kept in this browser")
    walk.see("1 entry waits for the server")
    assert walk.field("On the scales, g").get_attribute("value") == ""
    # the closed window loses nothing; with the server back, the question comes that could not be asked before
    server.start()
    walk.open(f"{walk.base}/bench?test={tests_of_demo['upright']}")
    walk.see("1 refused")
    fill_by_keyboard(walk, "471")
    walk.see("Accept, next")
    walk.press(Keys.ENTER)
    walk.until(lambda: runs_of(server, item["specimen_id"]), "the entry at the bench waited behind the weighing")
    walk.click("1 refused")
    walk.see(spool["code"])
    walk.see("weighing")
    walk.see("above the label")
    field = walk.field("on the scales, g")
    assert field.get_attribute("value") == "9999"
    field.send_keys(Keys.CONTROL, "a")
    right = f"{(spool['empty'] or 0) + spool['left']:.0f}"
    field.send_keys(right, Keys.ENTER)
    walk.see("Nothing is kept here")
    walk.gone("1 refused")
    assert [w["raw"] for w in server.get(f"/api/spools/{spool['id']}")["weighings"]].count(right) == 1


def test_a_specimen_held_by_another_station_is_said_so(server, walk, tests_of_demo):
    test = tests_of_demo["upright"]
    first = waiting(server, test)[0]
    assert post(server, f"/api/specimens/{first['specimen_id']}/lease?station=other", {}, "PUT")[0] == 200
    walk.open(f"{walk.base}/bench?test={test}")
    walk.see("another station (other) is at this specimen")
    walk.press("n")
    walk.until(lambda: code_at_hand(walk) != first["code"])


def test_wrong_entries_are_named_and_not_accepted(server, walk, tests_of_demo):
    test = tests_of_demo["flat"]
    item = waiting(server, test)[0]
    walk.open(f"{walk.base}/bench?test={test}")
    walk.see("random order")
    fill_by_keyboard(walk, "11x0")
    walk.see("is not a unit of force")
    walk.press(Keys.ENTER)
    time.sleep(0.5)
    assert code_at_hand(walk) == item["code"]
    assert runs_of(server, item["specimen_id"]) == []
    field = walk.find('input[name="peak_force-0"]')
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys(Keys.DELETE)
    walk.type_slowly("114,2 kgf")
    walk.gone("is not a unit of force")
    walk.press(Keys.ENTER)
    walk.until(lambda: runs_of(server, item["specimen_id"]))
    raw = {r["field"]: r["raw"] for r in runs_of(server, item["specimen_id"])[0]["readings"]}
    assert raw["peak_force"] == "114,2 kgf", "kept as typed"


def taken(walk, suffix):
    """What a click saves, and off with it: the next one has its place."""
    made = walk.until(lambda: next((p for p in walk.downloads.glob(f"*{suffix}") if p.stat().st_size), None), f"no {suffix} was saved")
    data, name = made.read_bytes(), made.name
    made.unlink()
    return name, data


def of_figure_of_curves(server, test, root, words):
    """A legend names each arm that has a curve, and its lines differ in grey."""
    found = server.get(f"/api/tests/{test}/findings")
    recorded = [a["arm"] for a in found["arms"] if a["group"]]
    for arm in recorded:
        assert any(w.startswith(f"{arm['mark']} · {arm['material']['maker']} {arm['material']['product']}") for w in words), words
    dashes = {e.get("stroke-dasharray") for e in root.iter() if e.get("fill") == "none" and len(e.get("d", "")) > 40}
    assert len(dashes) >= len(recorded), dashes


def test_every_figure_goes_along_in_three_forms_with_what_it_is_about(server, walk, tests_of_demo):
    study = server.get("/api/studies")["items"][0]
    stock = {m["colour"]: m for m in server.get("/api/stock")["items"]}
    spool = server.get(f"/api/spools/{stock['natural']['spools'][0]['id']}")
    pages = {
        f"/studies/{study['id']}/findings?test={tests_of_demo['flat']}": (2, "study", study["title"]),
        f"/studies/{study['id']}/findings?test={tests_of_demo['creep']}": (2, "study", study["title"]),
        "/choose": (1, "study", study["title"]),
        f"/stock/spools/{spool['id']}": (3, "spool", spool["code"]),
        f"/stock/materials/{stock['grey']['id']}": (1, "material", stock["grey"]["product"]),
    }
    for path, (count, kind, about) in pages.items():
        walk.open(walk.base + path)
        walk.until(lambda count=count: len(walk.all("figcaption button[aria-haspopup=menu]")) == count, f"{path} has other figures")
        walk.until(lambda: walk.all("figure canvas, figure svg") and not walk.all("[aria-busy=true]"))
        begins = "-".join(w for w in "".join(c if c.isalnum() else " " for c in about.lower()).split())
        for figure in range(count):
            for item, suffix in (("CSV of the numbers", ".csv"), ("PNG, 1920", ".png"), ("SVG", ".svg")):
                walk.take_figure(figure, item)
                name, data = taken(walk, suffix)
                assert begins in name, name
                if suffix == ".csv":
                    rows = list(csv.reader(io.StringIO(data.decode())))
                    assert rows[0][0] == kind
                    assert {about in row[0] for row in rows[1:]} == {True}
                    assert {len(row) for row in rows} == {len(rows[0])}
                    if "findings" in path and figure == 1:
                        assert rows[0][1:5] == ["material", "mark", "specimen", "counts"]
                        assert all(row[1] and row[2] for row in rows[1:])
                elif suffix == ".png":
                    assert (int.from_bytes(data[16:20], "big"), int.from_bytes(data[20:24], "big")) == (1920, 1080)
                    assert len(data) > 15_000, "it shows nothing"
                else:
                    root = ElementTree.fromstring(data)
                    words = [t for e in root.iter() for t in (e.text or "").split("\n") if t]
                    assert any(about in w for w in words)
                    if "findings" in path and figure == 1:
                        of_figure_of_curves(server, path.rpartition("=")[2], root, words)
                    assert "var(--" not in data.decode()
    assert walk.console() == []


def test_tables_go_along_as_csv(server, walk, tests_of_demo):
    study = server.get("/api/studies")["items"][0]
    board = server.get(f"/api/studies/{study['id']}/board")
    test = tests_of_demo["flat"]
    findings = server.get(f"/api/tests/{test}/findings")
    walk.open(f"{walk.base}/studies/{study['id']}/findings?test={test}")
    walk.see("Welch's ANOVA")

    def rows(label):
        # a click that meets a page still moving while it is laid out goes beside: then one clicks again
        for _ in range(4):
            walk.labelled(f"Download the {label}").click()
            until = time.monotonic() + 15
            while time.monotonic() < until and not any(p.stat().st_size for p in walk.downloads.glob("*.csv")):
                time.sleep(0.05)
            if any(walk.downloads.glob("*.csv")):
                break
        return list(csv.DictReader(io.StringIO(taken(walk, ".csv")[1].decode())))

    walk.click("Means, scatter and batches", "summary")
    walk.click("All pairs", "summary")
    verdicts = rows("verdicts")
    assert [r["mark"] for r in verdicts] == [a["arm"]["mark"] for a in findings["arms"]]
    for row, arm in zip(verdicts, findings["arms"], strict=True):
        assert float(row["mean"]) == pytest.approx(arm["group"]["mean"])
        assert row["verdict"] == (arm["verdict"]["word"] if arm["verdict"] else "reference")
        assert (float(row["difference"]) if row["difference"] else None) == pytest.approx(arm["verdict"] and arm["verdict"]["difference"])
    pairs = rows("pairs")
    means = {
        f"{a['arm']['material']['maker']} {a['arm']['material']['product']}, {a['arm']['material']['colour']}": a["group"]["mean"] for a in findings["arms"]
    }
    assert [float(r["second_minus_first"]) for r in pairs] == pytest.approx([means[r["second"]] - means[r["first"]] for r in pairs])
    assert [float(r["p"]) for r in pairs] == pytest.approx([p["p"] for p in findings["pairs"]])
    assert [float(r["joint_ci95_low"]) for r in pairs] == pytest.approx([p["ci95"][0] for p in findings["pairs"]])
    walk.open(f"{walk.base}/studies/{study['id']}/board")
    walk.see("Layer adhesion")
    cells = [(c, cell) for c in board["columns"] for cell in c["cells"]]
    for row, (column, cell) in zip(rows("board"), cells, strict=True):
        assert (row["test"], int(row["tested"])) == (f"{column['label']}, {column['orientation']}", cell["tested"])
        group = cell["group"] or {"at_least": 0, "at_most": 0}
        assert (int(row["at_least"]), int(row["at_most"])) == (group["at_least"], group["at_most"])
        assert row["mean_bound"] == (
            "at least" if group["at_least"] and not group["at_most"] else "at most" if group["at_most"] and not group["at_least"] else ""
        )
        percent = 100 if column["unit"] == "1" else 1
        assert (float(row["mean"]) if row["mean"] else None) == pytest.approx(cell["group"] and cell["group"]["mean"] * percent)
    walk.open(walk.base + "/choose")
    walk.see("A rank is shared")
    walk.take_figure(0, "CSV of the numbers")
    ranked = list(csv.DictReader(io.StringIO(taken(walk, ".csv")[1].decode())))
    ranking = server.get(f"/api/purposes/{server.get('/api/purposes')['items'][0]['id']}/ranking")["ranked"]
    criteria = server.get(f"/api/purposes/{server.get('/api/purposes')['items'][0]['id']}")["criteria"]
    weights = [float(v) for k, v in ranked[0].items() if k.endswith(": weight, %")]
    assert (len(weights), sum(weights)) == (len(criteria), pytest.approx(100))
    for row, told in zip(ranked, ranking, strict=True):
        for c in criteria:
            name = f"{c['label']} {c['orientation']}"
            assert row[f"{name}: bound"] == told["bounds"].get(c["id"], "").replace("_", " ")
            assert row[f"{name}: requirement"] == (told["requirements"].get(c["id"], "") if c["required"] is not None else "")
        shown = [float(v) for k, v in row.items() if k.startswith("not distinguishable from rank") and v]
        assert shown == pytest.approx(told["rank_probabilities"])


def test_another_reference_is_taken_on_the_board(server, walk):
    study = server.get("/api/studies")["items"][0]["id"]
    walk.open(f"{walk.base}/studies/{study}/board")
    walk.see("Layer adhesion")
    # the table may still move while its figures come in
    walk.until(lambda: walk.find('[data-at="1-1"]').click() or "better than Ts" in walk.text())
    walk.click("Take as reference")
    walk.until(lambda: server.get(f"/api/studies/{study}")["reference_arm_id"] == server.get(f"/api/studies/{study}")["arms"][1]["id"])
    walk.until(lambda: walk.find('[data-at="0-1"]').click() or "worse than Ha" in walk.text())
    board = server.get(f"/api/studies/{study}/board")
    assert json.dumps(board["columns"][1]["cells"][1]["verdict"]) == "null"


def test_a_backup_is_made_by_keyboard_and_everything_is_looked_through(server, walk):
    walk.open(f"{walk.base}/")
    walk.driver.execute_script("document.querySelector('header button:last-of-type').focus()")
    walk.press(Keys.ENTER)
    walk.see("backups and check")

    def at_the_entry():
        walk.press(Keys.ARROW_DOWN)
        return walk.driver.switch_to.active_element.text == "backups and check"

    walk.until(at_the_entry)
    walk.press(Keys.ENTER)
    walk.see("There is no backup yet")
    walk.driver.find_element("xpath", "//button[contains(., 'Make a backup now')]").send_keys(Keys.ENTER)
    walk.see("and stood its check")
    walk.see("The last good backup was made just now")
    walk.see("by hand")
    walk.press(Keys.TAB)
    walk.press(Keys.ENTER)
    walk.see("all is whole")
    made = server.get("/api/safekeeping")["backups"]
    assert walk.find("a[download]").get_attribute("download") == made[0]["name"]
