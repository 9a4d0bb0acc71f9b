"""A doubt is settled or tested again, what is typed is held against the results, and a crossed study goes from its plan to the interaction."""

import pytest
from selenium.webdriver.common.keys import Keys

from ..support import new_id
from .test_plates import studied
from .test_slice import fill_by_keyboard, runs_of

pytestmark = pytest.mark.browser


def study_called(server, title):
    return next((s for s in server.get("/api/studies")["items"] if s["title"] == title), None)


def doubts_of(server, study):
    return server.get(f"/api/studies/{study}/doubts")["doubts"]


def waiting(server, test):
    return [i for i in server.get(f"/api/tests/{test}/queue")["items"] if i["state"] == "waiting"]


def item_of(walk, text):
    return walk.until(lambda: [li for li in walk.all("ul li") if text in li.text and "Settle" in li.text])[0]


def act(walk, text, action):
    """A button of the doubt that says so, by key."""
    walk.until(lambda: [b for b in item_of(walk, text).find_elements("css selector", "button") if b.text.startswith(action)])[0].send_keys(Keys.ENTER)


def print_next(walk):
    """Say that the next arm is printed; the list may just be drawn anew."""

    def pressed():
        next(b for b in walk.all('[aria-label="To print"] button') if b.is_enabled() and "rinted" in b.text).send_keys(Keys.ENTER)
        return True

    walk.until(pressed)


def test_a_doubt_goes_from_the_day_sheet_to_the_queue(server, walk):
    study = study_called(server, "Jack frame against pull frame")["id"]
    outlier = next(d for d in doubts_of(server, study) if d["kind"] == "outlier")
    test, before = outlier["test_id"], len(waiting(server, outlier["test_id"]))
    walk.open(walk.base + "/")
    walk.click("Doubts about results, in all studies", "a")
    odd = f"{outlier['specimens'][0]['code']} is an outlier"
    walk.see(odd)
    assert walk.axe() == []
    # a note needs words, and what was typed outlives a reload
    due = "was due on"
    act(walk, due, "Settle with a note")
    note = walk.labelled("Why it is settled")
    note.send_keys("the frame was checked with a weight: no change")
    walk.driver.refresh()
    walk.until(lambda: walk.labelled("Why it is settled").get_attribute("value").startswith("the frame was checked"))
    walk.until(lambda: [b for b in walk.all("form button") if b.text == "Settle" and b.is_enabled()])[0].send_keys(Keys.ENTER)
    walk.see("Settled: the frame was checked with a weight: no change (Ilse")
    # from the specimen's doubt to its findings, and there the retest
    act(walk, odd, "Look at")
    walk.until(lambda: f"test={test}" in walk.driver.current_url)
    walk.labelled("Close the specimen").click()
    walk.until(lambda: not walk.all('[aria-label="Close the specimen"]'))
    act(walk, odd, "Test 1 more")
    walk.see("Being tested again: 0 of 1 tested")
    # another arm may have an outlier by chance
    (now,) = [d for d in doubts_of(server, study) if d["key"] == outlier["key"]]
    assert (now["state"], now["decision"]["to_test"]) == ("retest", 1)
    # printed, it is in the queue
    walk.open(f"{walk.base}/studies/{study}/print")
    print_next(walk)
    walk.until(lambda: len(waiting(server, test)) == before + 1)
    walk.open(f"{walk.base}/bench?test={test}")
    walk.see(waiting(server, test)[0]["code"])
    assert walk.console() == []


def test_a_statement_is_contradicted_while_it_is_typed(server, walk):
    study = study_called(server, "Gates after a week in soda")["id"]
    walk.open(f"{walk.base}/studies/{study}/plan")
    label = "//label[starts-with(., 'Which question does it answer?')]/following::textarea[1]"
    field = walk.until(lambda: walk.driver.find_elements("xpath", label))[0]
    field.send_keys(" Orrery Burden is three times as strong as Tarn Clearwater.")
    walk.see("The results say otherwise: “Orrery Burden is three times as strong as Tarn Clearwater.”")
    assert walk.axe() == []
    # what is true is not remarked on
    field.send_keys(Keys.BACKSPACE * len("three times as strong as Tarn Clearwater."), "stronger than Tarn Clearwater.")
    walk.gone("The results say otherwise")
    assert field.get_attribute("value").endswith("stronger than Tarn Clearwater.")


def test_a_crossed_study_goes_from_its_plan_to_the_interaction(server, walk):
    walk.open(f"{walk.base}/studies/new")
    walk.field("What is it called?").send_keys("Soaked gates")
    studied(walk, "Treatments")
    for colour in ("amber", "ivory"):
        walk.until(lambda colour=colour: [b for b in walk.all("button[aria-pressed]") if colour in b.text])[0].send_keys(Keys.ENTER)
    walk.labelled("Treatment 1").send_keys("soaked 24 h in water")
    walk.labelled("Tension, upright").send_keys(Keys.ENTER)
    walk.field("Specimens of each").send_keys("2")
    walk.see("8 specimens")
    walk.until(lambda: [b for b in walk.all("button") if "Make the study" in b.text and b.is_enabled()])[0].send_keys(Keys.ENTER)
    study = server.get(f"/api/studies/{walk.until(lambda: study_called(server, 'Soaked gates'))['id']}")
    assert (study["crosses_materials"], len(study["arms"])) == (True, 4)
    assert [u["name"] for u in server.get(f"/api/studies/{study['id']}/fairness")["items"] if u["blocking"]] == []
    # printed on its page, arm by arm
    test = study["tests"][0]["id"]
    for printed in range(1, 5):
        print_next(walk)
        walk.until(lambda printed=printed: len(server.get(f"/api/tests/{test}/queue")["items"]) == 2 * printed)
    # the first one at the bench, the others as they were written down
    walk.open(f"{walk.base}/bench?test={test}")
    walk.see("random order")
    first = waiting(server, test)[0]["specimen_id"]
    fill_by_keyboard(walk, "1120 N")
    walk.press(Keys.ENTER)
    walk.until(lambda: len(waiting(server, test)) == 7)
    frame = runs_of(server, first)[0]["rig"]["id"]
    loads = {a["id"]: 1120 - 300 * (a["treatment"] != "") * (a["material"]["colour"] == "amber") for a in study["arms"]}
    for i, item in enumerate(waiting(server, test)):
        raw = {"width": "5.02", "thickness": "3.97", "peak_force": f"{loads[item['arm']['id']] + 4 * i} N"}
        readings = [{"id": new_id(), "field": field, "position": 0, "raw": value} for field, value in raw.items()]
        run = {
            "id": new_id(),
            "subject_id": item["specimen_id"],
            "test_id": test,
            "rig_version_id": frame,
            "happened_at": "2026-11-30T10:00:00Z",
            "readings": readings,
            "unchecked": True,
        }
        server.ask("/api/runs", run)
    walk.open(f"{walk.base}/studies/{study['id']}/findings")
    walk.see("Material and treatment together")
    walk.see("material × treatment")
    walk.until(lambda: len(walk.all('[aria-label="Effects"] li')) == 3)
    walk.click("over material", "button")
    walk.until(lambda: walk.all('figure svg[aria-label*="over material"]'))
    assert walk.axe() == []
    assert walk.console() == []
