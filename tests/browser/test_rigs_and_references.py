"""Rigs against each other, a reference of an earlier study, one curve of each arm, a claim put right, a margin of one's own: by keyboard where there is one."""

from .walk import Keys


def study_of(server, title):
    return next(s["id"] for s in server.get("/api/studies")["items"] if s["title"] == title)


def rig_of(server, name):
    return next(r["rig_id"] for r in server.get("/api/rigs")["items"] if r["name"] == name)


def test_the_drift_of_a_rig_and_a_conversion_taken_back_and_accepted(server, walk):
    walk.open(f"{server.url}/rigs/{rig_of(server, 'Pull frame 2 kN')}")
    assert walk.find("svg[aria-label*='from study to study']")
    large, small = rig_of(server, "Pendulum with a digital dial"), rig_of(server, "Pendulum on the doorpost")
    walk.open(f"{server.url}/rigs/{large}")
    walk.click("Pendulum on the doorpost", "a")
    walk.see("The two agree")
    walk.see("The two do not agree")
    walk.see("Not convertible here: a line needs 5 materials")
    walk.click("Take back")
    note = walk.labelled("Note on the conversion")
    note.send_keys("six brittle ones")
    note.send_keys(Keys.ENTER, Keys.ENTER)
    walk.see("six brittle ones.")
    accepted = [c["conversion"] for c in server.get(f"/api/rigs/{large}/against/{small}")["comparisons"]]
    assert [c["note"] for c in accepted if c] == ["six brittle ones"]


def test_an_arm_of_an_earlier_study_as_reference(server, walk):
    study = study_of(server, "Jack frame against pull frame")
    (test,) = server.get(f"/api/studies/{study}")["tests"]
    walk.open(f"{server.url}/studies/{study}/findings?test={test['id']}")
    walk.see("From other studies")
    row = walk.find("[role=button][aria-label$='compare the arms with it']")
    row.send_keys(Keys.ENTER)
    walk.see("Compared with an arm of another study")
    walk.see(" old")
    walk.click("Make it the study’s reference")
    walk.gone("Make it the study’s reference")
    kept = server.get(f"/api/studies/{study}")
    assert kept["reference_arm_id"] not in {a["id"] for a in kept["arms"]}
    # what everybody sees then, also without the address
    walk.open(f"{server.url}/studies/{study}/findings?test={test['id']}")
    walk.see("Compared with an arm of another study")
    walk.open(f"{server.url}/studies/{study}/board")
    walk.see("Everyday")
    assert not walk.console()


def test_one_curve_of_each_arm_its_specimen_and_the_spread(server, walk, tests_of_demo):
    study = study_of(server, "Frame hangers for summer hives")
    walk.open(f"{server.url}/studies/{study}/findings?test={tests_of_demo['flat']}")
    walk.click("one of each")
    walk.see("nearest to its median")
    walk.click("Weibull plot")
    assert "shape" in walk.find("svg[aria-label^='Weibull plot of']").get_attribute("aria-label")
    walk.find("button[aria-label^='Enlarge Fenwick Outdoor']").send_keys(Keys.ENTER)
    walk.see("Outdoor, after the test")
    walk.click("Its readings")
    walk.find("[aria-label='Close the specimen']")
    assert not walk.console()


def test_a_claim_put_right_and_a_margin_of_ones_own(server, walk):
    material = next(m["id"] for m in server.get("/api/stock")["items"] if (m["product"], m["colour"]) == ("Clearwater", "smoke"))
    walk.open(f"{server.url}/stock/materials/{material}")
    walk.see("Claimed and measured")
    walk.find("button[aria-label^='tensile strength: correct']").send_keys(Keys.ENTER)
    walk.find("select[aria-label^='What “tensile strength 55']").send_keys("layer adhesion", Keys.ENTER)
    claim = walk.until(lambda: next((c for c in server.get(f"/api/materials/{material}")["claims"] if c["quantity"] == "layer_adhesion"), None))
    assert claim["value"] == 55
    walk.open(f"{server.url}/methods/tension")
    walk.find("[aria-label='Set the margin of strength']").send_keys(Keys.ENTER)
    field = walk.find("[aria-label='Margin of strength']")
    field.clear()
    field.send_keys("7,5", Keys.ENTER)
    walk.see("7.5 % of it")
    walk.see("your own; the method’s is 10 % of it")
    assert server.get("/api/margins")["items"][0]["value"] == 0.075
