"""What was typed into a form and not sent yet outlives Back, Forward and a reload, and is sent once."""

import pytest
from selenium.webdriver.common.keys import Keys

pytestmark = pytest.mark.browser

AGAIN = "Unsaved input restored."


def values(walk, *labels):
    return [walk.field(label).get_attribute("value") for label in labels]


def test_a_material_half_typed_stands_after_back_forward_and_reload(server, walk):
    walk.open(f"{walk.base}/stock")
    walk.see("New material")
    walk.open(f"{walk.base}/stock/new")
    labels = ("Maker", "Product", "Base polymer")
    for label, text in zip(labels, ("Orrin", "Glass Clear", "PETG"), strict=True):
        walk.field(label).send_keys(text)
    walk.driver.back()
    walk.see("New material")
    walk.driver.forward()
    walk.see(AGAIN)
    assert values(walk, *labels) == ["Orrin", "Glass Clear", "PETG"]
    walk.driver.refresh()
    walk.see(AGAIN)
    assert values(walk, *labels) == ["Orrin", "Glass Clear", "PETG"]
    walk.field("Colour").send_keys("clear")
    walk.click("Register")
    walk.until(lambda: "/stock/new" not in walk.driver.current_url)
    assert [m["product"] for m in server.get("/api/materials")["items"] if m["maker"] == "Orrin"] == ["Glass Clear"]
    walk.open(f"{walk.base}/stock/new")
    assert values(walk, *labels) == ["", "", ""]
    assert AGAIN not in walk.text()


def test_a_printer_and_a_study_half_typed_stand_after_a_reload(server, walk):
    walk.open(f"{walk.base}/dial-in/hardware")
    walk.click("Add a printer")
    walk.field("Name").send_keys("Loft frame")
    walk.driver.refresh()
    walk.see(AGAIN)
    assert values(walk, "Name") == ["Loft frame"]
    walk.click("Discard it")
    walk.gone(AGAIN)
    assert values(walk, "Name") == [""]
    walk.open(f"{walk.base}/studies/new")
    walk.field("What is it called?").send_keys("Winter panes")
    walk.driver.refresh()
    walk.see(AGAIN)
    assert values(walk, "What is it called?") == ["Winter panes"]


def test_spools_half_dried_keep_what_was_typed_for_them_alone(server, walk):
    codes = [s["code"] for p in server.get("/api/places")["items"] if p["storage"] == "dry box" for s in p["spools"]][:2]

    def choose(code):
        walk.until(lambda: [b for b in walk.all("button") if code in b.text])[0].click()

    walk.open(f"{walk.base}/stock/drying")
    choose(codes[0])
    walk.labelled(f"Mass before of {codes[0]}, g").send_keys("812,4")
    walk.driver.refresh()
    choose(codes[1])
    assert walk.labelled(f"Mass before of {codes[1]}, g").get_attribute("value") == ""
    choose(codes[1])
    choose(codes[0])
    assert walk.labelled(f"Mass before of {codes[0]}, g").get_attribute("value") == "812,4"


def test_one_enter_picks_and_goes_on_and_what_names_nothing_is_refused_at_its_field(server, walk):
    walk.open(f"{walk.base}/stock/intake")
    field = walk.field("Material")
    walk.until(lambda: walk.driver.switch_to.active_element == field)
    walk.type_slowly("zebra wood")
    walk.press(Keys.ENTER)
    walk.see("“zebra wood”: not in stock: add it first")
    assert walk.driver.switch_to.active_element == field
    walk.press(Keys.TAB)
    walk.see("“zebra wood”: not in stock: add it first")
    assert field.get_attribute("value") == "zebra wood"
    field.send_keys(Keys.CONTROL, "a")
    field.send_keys("Pliant")
    walk.until(lambda: [o for o in walk.all("[role=option]") if o.is_displayed()])
    walk.press(Keys.ENTER)
    walk.until(lambda: walk.driver.switch_to.active_element == walk.field("Lot"), "one Enter did not go on")
    assert field.get_attribute("value").startswith("Stell Pliant")
    # in a form of its own the next field has the cursor, and nothing is sent
    walk.open(f"{walk.base}/dial-in")
    walk.click("Begin a trail")
    field = walk.field("Material")
    field.send_keys("Pliant")
    walk.until(lambda: [o for o in walk.all("[role=option]") if o.is_displayed()])
    walk.press(Keys.ENTER)
    walk.until(lambda: walk.driver.switch_to.active_element == walk.field("Printer"), "one Enter did not go on")
