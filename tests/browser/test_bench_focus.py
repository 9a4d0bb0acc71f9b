"""On the bench the cursor is where the work goes on: after a reload, and after a file came or went; a doubt stands at its field."""

import pytest
from selenium.webdriver.common.keys import Keys

from ..services.test_bench_to_board import recording
from .test_captures import Hands

pytestmark = pytest.mark.browser


def at(walk):
    return walk.driver.switch_to.active_element.get_attribute("name")


def test_the_cursor_waits_at_the_first_empty_field(server, walk, tests_of_demo, tmp_path):
    walk.open(f"{walk.base}/bench?test={tests_of_demo['upright']}")
    walk.until(lambda: at(walk) == "width-0")
    hands = Hands(walk)
    hands.enter("5,01", "4,99")
    walk.press(Keys.ENTER)
    walk.until(lambda: at(walk) == "thickness-0")
    hands.enter("4,02")
    walk.driver.refresh()
    walk.until(lambda: at(walk) == "width-2", "a reload left the cursor elsewhere")
    assert walk.find('input[name="thickness-0"]').get_attribute("value") == "4,02"
    hands.enter("5,00")
    for _ in range(2):
        hands.enter("4,01")
    file = tmp_path / "pull.csv"
    file.write_bytes(recording(0.6))
    walk.find('input[type="file"]').send_keys(str(file))
    walk.see("pull.csv")
    walk.until(lambda: walk.driver.switch_to.active_element.tag_name in ("input", "button"), "after the file the cursor is nowhere")
    walk.click("remove", "button")
    walk.until(lambda: at(walk) == "peak_force-0", "after the file went the cursor is nowhere")
    walk.type_slowly("412")
    assert walk.find('input[name="peak_force-0"]').get_attribute("value") == "412"


def test_a_doubtful_reading_is_marked_at_its_field_and_arrow(server, walk, tests_of_demo):
    walk.open(f"{walk.base}/bench?test={tests_of_demo['upright']}")
    walk.until(lambda: at(walk) == "width-0")
    Hands(walk).enter("5,02", "5,61", "5,00")
    field = walk.until(lambda: walk.find("label[data-doubt]"))
    assert field.find_element("css selector", "input").get_attribute("name") == "width-1"
    assert "but the others are" in field.text
    assert len(walk.all("label[data-doubt]")) == 1
    strokes = [g.get_attribute("stroke") for g in walk.all('svg[role="img"] g[stroke^="var(--"]')]
    assert strokes.count("var(--caution)") == 1
    middle = walk.find('input[name="width-1"]')
    middle.send_keys(Keys.CONTROL, "a")
    middle.send_keys("5,01")
    walk.until(lambda: not walk.all("label[data-doubt]"))
