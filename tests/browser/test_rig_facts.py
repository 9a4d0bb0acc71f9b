"""What a rig is, beside its displays, set on its page: a pendulum's hammer, in the units of each; a new version keeps it."""

import pytest
from selenium.webdriver.common.keys import Keys

pytestmark = pytest.mark.browser

FACTS = {"mass of the hammer": 0.75, "radius to its centre of mass": 0.31, "let go at": 130.0, "loss of an empty swing": 0.02}


def test_a_pendulum_is_set_up_and_changed_on_the_page(server, walk):
    def pendulums():
        return [r for r in server.get("/api/rigs")["items"] if r["name"] == "Pendulum on the gate"]

    walk.open(f"{walk.base}/rigs/new?method=impact")
    walk.field("Name of the rig").send_keys("Pendulum on the gate")
    walk.see("mass of the hammer, kg")
    walk.see("let go at, °")
    for label, value in FACTS.items():
        walk.field(label).send_keys(str(value).replace(".", ","))
    # it has a scale of degrees alone
    for shown in ("height", "energy"):
        walk.labelled(f"{shown} is not on this rig").click()
    walk.see("Not on this rig:")
    walk.click("Add the rig")
    (made,) = walk.until(pendulums, "the rig was not added")
    told = {"hammer_mass": 0.75, "radius": 0.31, "release_angle": 130.0, "loss": 0.02}
    assert (made["geometry"], [c["name"] for c in made["channels"]]) == (told, ["length", "angle"])
    walk.open(f"{walk.base}/rigs/{made['rig_id']}")
    walk.see("mass of the hammer 0.75 kg")
    walk.click("It has changed …")
    mass = walk.field("mass of the hammer")
    mass.send_keys(Keys.CONTROL, "a")
    mass.send_keys("0.8")
    walk.click("It is so from now on")
    walk.see("mass of the hammer 0.8 kg")
    (changed,) = pendulums()
    assert (changed["version"], changed["geometry"]) == (2, told | {"hammer_mass": 0.8})
