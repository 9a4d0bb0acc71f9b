"""What is never offered: warm air to what softens in it, a door to an open printer, a limit that nobody knows passed over."""

import pytest

from assayer.core.advice.next_steps import Known, State, candidates
from assayer.core.advice.rules import symptom
from assayer.core.advice.trials import Trial
from assayer.core.filament.fit import Filament, Hardware, Settings, check_fit
from assayer.core.filament.window import Window
from assayer.core.methods.traits import TRAITS
from assayer.core.settings.beginnings import maker_sheet
from assayer.core.settings.limits import warnings
from assayer.core.settings.sheet import Set, Sheet

SHEET = Sheet({"door": Set("open"), "chamber_temperature": Set(40.0), "nozzle_temperature": Set(240.0)})


def offered(polymer, **more):
    known = Known(polymer=polymer, **more)
    found = candidates(symptom("lifting corners"), Trial(1, None, SHEET, outcome="poor"), known)
    return {c.rule.setting: (c.state, c.against) for c in found}


BOX = Hardware(name="Warm Box", enclosed=True, chamber_hottest=60, nozzle_hottest=300, bed_hottest=120)


@pytest.mark.parametrize("polymer", ["PLA", "PETG", "TPU95A"])
def test_no_warm_air_for_what_softens_in_it(polymer):
    found = offered(polymer, hardware=BOX)
    assert {found[name][0] for name in ("door", "chamber_temperature")} == {State.UNFIT}
    assert "printed cool and open" in found["door"][1]


def test_warm_air_is_offered_where_polymer_and_printer_allow_it():
    found = offered("ASA", hardware=BOX)
    assert [found[name] for name in ("door", "chamber_temperature")] == [(State.OPEN, ""), (State.OPEN, "")]
    # the maker goes before what is generally known
    assert offered("PLA", hardware=BOX, window=Window(enclosure=True))["door"][0] is State.OPEN


def test_an_open_printer_is_offered_no_door_and_no_chamber():
    found = offered("ASA", hardware=Hardware(name="Bench One", enclosed=False, chamber_hottest=60))
    assert {found[name][0] for name in ("door", "chamber_temperature")} == {State.BEYOND}


def test_what_is_not_known_of_a_printer_is_said_beside_the_offer():
    found = offered("ASA", hardware=Hardware(name="Attic"))
    assert found["door"] == (State.OPEN, "whether Attic is enclosed is not known")
    assert found["chamber_temperature"] == (State.OPEN, "whether Attic reaches it is not known")


def test_a_first_sheet_for_an_open_printer_has_no_door_and_no_chamber():
    window = Window(chamber_low=50, chamber_high=70, enclosure=True)
    sheets = {enclosed: maker_sheet(window, 0.4, enclosed).values for enclosed in (True, False, None)}
    assert {e: ("door" in s, "chamber_temperature" in s) for e, s in sheets.items()} == {True: (True, True), False: (False, False), None: (True, True)}


def test_a_limit_that_is_not_known_is_listed_as_not_checked():
    filament = Filament("Everyday", "ASA", None, 1.75, Window(nozzle_low=240, nozzle_high=260, source="leaflet"))
    told = check_fit(filament, Hardware(name="Attic", bed_hottest=90), Settings(nozzle_temperature=250, bed_temperature=100))
    assert "whether Attic reaches nozzle temperature 250 °C: its limit is not known" in told.unchecked
    assert [m.rule for m in told.misses if m.rule.endswith("limit")] == ["bed limit"]
    assert not any("whether Attic" in u for u in check_fit(filament, Hardware(name="Attic", nozzle_hottest=260), Settings(nozzle_temperature=250)).unchecked)


def test_a_sheet_for_a_printer_of_unknown_limits_says_what_was_not_checked():
    texts = [w.text for w in warnings(SHEET, Window(), Hardware(name="Attic", nozzle_hottest=260))]
    assert texts == ["what Attic reaches is not known: chamber not checked"]
    assert warnings(SHEET, Window(), BOX) == []


def test_odour_is_graded_with_a_warning_and_nothing_else_is():
    assert [t.name for t in TRAITS if t.caution] == ["odour"]
    assert "Never sniff at the nozzle" in next(t.caution for t in TRAITS if t.name == "odour")
