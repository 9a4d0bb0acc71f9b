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


SLOW = """
const asked = window.fetch;
window.fetch = async (request, more) => {
  const told = await asked(request.clone?.() ?? request, more);
  if (request.url?.endsWith('/recomputing')) return new Response('{"done": 1200, "of": 2400}', { headers: { 'Content-Type': 'application/json' } });
  if (request.method === 'PATCH') await new Promise((on) => (window.goOn = on));
  return told;
};
"""


def test_how_far_a_long_correction_is_can_be_seen(server, walk):
    """What a busy server would do: its answers are held back here."""
    stand = next(r for r in server.get("/api/rigs")["items"] if r["name"] == "Two-support stand")
    slow = walk.driver.execute_cdp_cmd("Page.addScriptToEvaluateOnNewDocument", {"source": SLOW})
    walk.open(f"{walk.base}/rigs/{stand['rig_id']}")
    walk.driver.execute_cdp_cmd("Page.removeScriptToEvaluateOnNewDocument", slow)
    walk.click("correct deflection")
    factor = walk.field("factor")
    factor.send_keys(Keys.CONTROL, "a")
    factor.send_keys("1.02", Keys.ENTER)
    walk.see("1200 of 2400 runs reduced anew")
    bar = walk.find('[role="progressbar"]')
    assert (bar.get_attribute("aria-valuenow"), bar.get_attribute("aria-label")) == ("50", "runs reduced anew")
    assert walk.axe() == []
    assert not next(b for b in walk.all("form button") if "take it back" in b.text).is_enabled(), "one at a time"
    walk.driver.execute_script("window.goOn()")
    walk.see("runs moved")
    walk.gone("reduced anew")
    assert [c["factor"] for c in server.get(f"/api/rigs/{stand['rig_id']}")["calibrations"] if c["retracted_at"] is None] == [1.02]
