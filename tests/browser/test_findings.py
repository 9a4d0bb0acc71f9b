"""Findings of a test: the answer in words, another reference by touch and by key, the order of the arms, doubts, details."""

import pytest
from selenium.webdriver.common.keys import Keys

pytestmark = pytest.mark.browser


def rows(walk):
    """Names of the arms in the figure, from above."""
    return walk.driver.execute_script("return [...document.querySelectorAll('figure svg text[font-weight=\"650\"]')].map((t) => t.textContent)")


def test_another_reference_turns_everything_over(server, walk, tests_of_demo):
    study = server.get("/api/studies")["items"][0]["id"]
    walk.open(f"{walk.base}/studies/{study}/findings?test={tests_of_demo['flat']}")
    found = server.get(f"/api/tests/{tests_of_demo['flat']}/findings")
    walk.see(found["answer"][0]["text"])
    walk.see("against Tarn Clearwater")
    assert rows(walk)[0] == "Orrery Burden", "the best first"
    # by key: the name of another arm
    burden = next(a["arm"]["id"] for a in found["arms"] if a["name"] == "Orrery Burden")
    walk.labelled("Orrery Burden: compare the others with it").send_keys(Keys.ENTER)
    walk.see("against Orrery Burden")
    turned = server.get(f"/api/tests/{tests_of_demo['flat']}/findings?reference={burden}")
    walk.see(turned["answer"][0]["text"])
    assert f"reference={burden}" in walk.driver.current_url
    # it stays over another test, a reload and Back; the study's own is as it was
    walk.click("Layer adhesion, upright", "span")
    walk.until(lambda: tests_of_demo["upright"] in walk.driver.current_url)
    walk.see("against Orrery Burden")
    walk.driver.refresh()
    walk.see("against Orrery Burden")
    walk.driver.back()
    walk.until(lambda: tests_of_demo["flat"] in walk.driver.current_url)
    walk.see(turned["answer"][0]["text"])
    assert server.get(f"/api/studies/{study}")["reference_arm_id"] != burden
    assert walk.console() == []


def test_arms_are_sorted_and_grouped_and_doubts_lead_on(server, walk, tests_of_demo):
    study = server.get("/api/studies")["items"][0]["id"]
    walk.open(f"{walk.base}/studies/{study}/findings?test={tests_of_demo['flat']}")
    walk.see("In doubt")
    walk.find('input[aria-label="Order of the arms"]').click()
    walk.until(lambda: [o for o in walk.all("[role=option]") if o.text == "by polymer"])[0].click()
    walk.until(lambda: "order=polymer" in walk.driver.current_url)
    walk.until(
        lambda: {"PLA", "PETG", "ASA"} <= set(walk.driver.execute_script("return [...document.querySelectorAll('figure svg text')].map((t) => t.textContent)"))
    )
    walk.find('input[aria-label="Order of the arms"]').click()
    walk.until(lambda: [o for o in walk.all("[role=option]") if o.text == "as planned"])[0].click()
    walk.until(lambda: rows(walk)[0] == "Tarn Clearwater")
    # results of other studies, more on request, and those of a material that is no arm
    walk.see("From other studies")
    walk.click("Show", "button//*")
    walk.see("Show fewer from other studies")
    # pairs and scatter are there on request, arms by their names
    walk.click("All pairs", "summary")
    walk.see("Hollin Everyday − Tarn Clearwater")
    walk.click("Means, scatter and batches", "summary")
    walk.see("n 5 of 5")
    assert walk.axe() == []
    # a doubt about the plan leads there
    walk.click("see the plan", "a")
    walk.see("Detectable difference")


def test_all_tests_side_by_side_follow_the_reference_and_lead_to_each(server, walk, tests_of_demo):
    study = server.get("/api/studies")["items"][0]["id"]
    walk.open(f"{walk.base}/studies/{study}/findings")
    walk.click("Across tests", "span")
    walk.see("Against Tarn Clearwater, in every test")
    words = lambda: walk.find('section[aria-label="In words"]').text  # noqa: E731
    walk.until(lambda: "Hollin Everyday" in words() and "gains" in words())
    assert walk.axe() == []
    # an arm less is shown
    walk.click("Orrery Burden", "label//span")
    walk.until(lambda: "Orrery Burden" not in words())
    # against another arm, by the select; then by key to one of the tests, which keeps it
    walk.find('input[aria-haspopup="listbox"]').click()
    walk.until(lambda: [o for o in walk.all("[role=option]") if o.text == "Hollin Everyday"])[0].click()
    walk.see("Against Hollin Everyday, in every test")
    walk.until(lambda: "Tarn Clearwater\n" in words())
    walk.labelled("Layer adhesion, upright: its findings").send_keys(Keys.ENTER)
    walk.until(lambda: tests_of_demo["upright"] in walk.driver.current_url)
    walk.see("against Hollin Everyday")
    assert walk.console() == []
