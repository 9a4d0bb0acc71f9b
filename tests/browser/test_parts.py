"""Parts of one's own walked through: taken in, marked by touch and by keyboard, planned, and codes sunk into a plate."""

import io
import urllib.request

import pytest
import trimesh
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from .test_plates import a_sweep

pytestmark = pytest.mark.browser


def value(walk, label):
    return walk.labelled(label).get_attribute("value")


def choose(walk, label, words):
    """One of a short list: opened, then touched."""
    walk.labelled(label).click()
    walk.until(lambda: [o for o in walk.all("[role=option]") if o.is_displayed() and o.text == words])[0].click()


def part_called(server, name):
    return next(p for p in server.get("/api/parts")["items"] if p["name"] == name)


def test_a_part_is_taken_in_marked_and_chosen_as_the_shape_of_a_test(server, walk, tmp_path):
    # drawn in inches, saved without saying so
    path = tmp_path / "gate_latch.stl"
    trimesh.creation.box((1.2, 0.6, 0.25)).export(path)
    walk.open(f"{walk.base}/rigs/shapes")
    walk.click("Parts of your own")
    walk.see("Lid clamp")
    chooser = walk.driver.find_element("css selector", 'input[type="file"]')
    chooser.send_keys(str(path))
    walk.see("gate_latch.stl: read in mm, the part is 1.2 mm long: if it was drawn in cm or in, say so")
    choose(walk, "Drawn in", "drawn in in")
    # the same file is read once more
    walk.see("30.48 mm × 15.24 mm × 6.35 mm")
    assert walk.find("h1").text == "gate latch"
    # by keyboard alone
    walk.click("Add a place in the middle")
    name = walk.labelled("Place 1: name")
    name.send_keys(Keys.CONTROL, "a")
    name.send_keys("bolt")
    across = walk.labelled("Place 1: across, mm")
    across.send_keys(Keys.CONTROL, "a")
    across.send_keys("4,5x")
    keep = walk.until(lambda: [b for b in walk.all("button") if b.text == "Keep it"])[0]
    assert not keep.is_enabled(), "that is no number"
    across.send_keys(Keys.BACKSPACE)
    walk.labelled("Place 1: should measure, mm").send_keys("6")
    # by touch, where it is loaded: a quarter from the left, at the middle of its height
    walk.click("load", "span")
    front = walk.find('rect[data-view="front"]')
    ActionChains(walk.driver).move_to_element_with_offset(front, -front.size["width"] // 4, 0).click().perform()
    walk.until(lambda: value(walk, "Place 2: name") == "load")
    assert (abs(float(value(walk, "Place 2: across, mm")) + 7.6), abs(float(value(walk, "Place 2: up, mm")) - 3.2)) < (0.4, 0.4)
    # what is said waits over a reload
    walk.driver.refresh()
    walk.see("not kept yet")
    assert (value(walk, "Place 1: name"), value(walk, "Place 1: across, mm")) == ("bolt", "4,5")
    walk.labelled("Place 1: name").send_keys(Keys.ENTER)
    walk.gone("not kept yet")
    kept = part_called(server, "gate latch")
    bolt, load = kept["places"]
    assert (bolt["kind"], bolt["label"], bolt["view"], bolt["u"], bolt["nominal"]) == ("measure", "bolt", "top", 4.5, 6)
    assert (load["kind"], load["view"]) == ("load", "front")
    # somebody else is faster: neither is lost, and one chooses
    walk.labelled("Place 1: name").send_keys("s")
    request = urllib.request.Request(
        f"{server.url}/api/parts/{kept['id']}",
        b'{"note": "for the east hives"}',
        {"Content-Type": "application/json", "If-Match": f'"{kept["revision"]}"'},
        method="PATCH",
    )
    urllib.request.urlopen(request).close()
    walk.labelled("Place 1: name").send_keys(Keys.ENTER)
    walk.see("Somebody else changed this part meanwhile")
    assert value(walk, "Place 1: name") == "bolts"
    walk.click("Leave it as it was")
    walk.until(
        lambda: walk.field("Note").get_attribute("value") == "for the east hives" or "for the east hives" in walk.find("textarea").get_attribute("value")
    )
    assert value(walk, "Place 1: name") == "bolt"
    solid = urllib.request.urlopen(f"{server.url}/api/parts/{kept['id']}/solid.stl?orientation=on%20edge").read()
    assert trimesh.load(io.BytesIO(solid), file_type="stl").extents.tolist() == pytest.approx([30.48, 6.35, 15.24], abs=1e-3)
    walk.open(f"{walk.base}/studies/new")
    walk.field("What is it called?").send_keys("Latches")
    walk.until(lambda: [b for b in walk.all("button") if "Everyday" in b.text])[0].click()
    for chosen in ("Tension, flat", "Tension, upright", "Part in use, flat"):
        walk.labelled(chosen).click()
    choose(walk, "Shape of Part in use", "gate latch")
    walk.click("Make the study")
    walk.see("lie on no plate")
    study = next(s for s in server.get("/api/studies")["items"] if s["title"] == "Latches")
    (test,) = server.get(f"/api/studies/{study['id']}")["tests"]
    assert (test["method"], test["shape"]["label"]) == ("functional-part", "gate latch")


def test_a_part_that_is_no_part_is_refused_by_name(server, walk, tmp_path):
    wrong = tmp_path / "open.stl"
    cube = trimesh.creation.box((10, 10, 10))
    trimesh.Trimesh(cube.vertices, cube.faces[:-1]).export(wrong)
    walk.open(f"{walk.base}/rigs/parts")
    walk.see("Lid clamp")
    walk.driver.find_element("css selector", 'input[type="file"]').send_keys(str(wrong))
    walk.see("open.stl: the surface is not closed: 3 edges belong to other than two triangles")
    assert [p["name"] for p in server.get("/api/parts")["items"]] == ["Lid clamp"]
    # taken out of the list, and in again
    walk.click("Lid clamp")
    walk.click("take it out of the list")
    walk.see("Taken out of the list")
    assert server.get("/api/parts")["items"] == []
    walk.click("Take it in again")
    walk.gone("Taken out of the list")
    assert part_called(server, "Lid clamp")["places"]


def test_codes_are_sunk_into_the_pieces_of_one_plate(server, walk):
    roomy = a_sweep(server, "dumb-bell-1a")
    walk.open(f"{walk.base}/studies/{roomy['id']}/print")
    walk.click("Lay them out")
    walk.click("with their codes in relief")
    walk.see("sunk into them: ")
    plates = server.get(f"/api/studies/{roomy['id']}/plates")
    first = plates["plates"][0]
    codes = [p["code"] for x in plates["layouts"] if x["key"] == first["layout"] for p in x["pieces"]]
    walk.see(", ".join(codes))
    assert [p["layout"] for p in plates["plates"]].count(first["layout"]) == 1, "its file is no other's"
    walk.click("This plate is printed")
    walk.see("3 plates wait")
    batch = server.get(f"/api/studies/{roomy['id']}/batches")["items"][0]
    assert [s["code"] for s in batch["specimens"]] == codes
    study = a_sweep(server)
    walk.open(f"{walk.base}/studies/{study['id']}/print")
    walk.click("Lay them out")
    walk.see("4 plates wait")
    assert "codes in relief" not in walk.text(), "no short pull bar has room for one"
    # when it came off is said where it is not now
    off = walk.field("came off")
    walk.driver.execute_script(
        "const set = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value').set; set.call(arguments[0], '2026-01-05T10:30'); arguments[0].dispatchEvent(new Event('input', {bubbles: true}))",
        off,
    )
    walk.field("took").send_keys("0:50", Keys.ENTER)
    walk.see("5 Jan, 09:40–10:30")
    walk.see("took 50 min")
    assert server.get(f"/api/studies/{study['id']}/batches")["items"][0]["printed_at"].startswith("2026-01-05T")
