"""The worked examples of METHODS 11, and what the stock's rules decide, each on both sides of its limit."""

import math
from datetime import UTC, date, datetime, timedelta

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from assayer.core.errors import EntryError, QuestionError
from assayer.core.filament.balance import Debit, Weighing, balance, history
from assayer.core.filament.bead import bead_section, flow_by_mass, flow_by_wall, volumetric_flow
from assayer.core.filament.claims import contradictions, read_statement, split_statements
from assayer.core.filament.diameter import question_diameter, summarise_diameters
from assayer.core.filament.intake import Findings, judge
from assayer.core.filament.mass import moisture_lost, net_mass, prices, question_net, strand_length
from assayer.core.filament.moisture import Drying, Storage, Stored, moisture_state, open_limit
from assayer.core.filament.window import Window, check_window
from assayer.core.methods import method
from assayer.core.quantities.slips import ask, likely_number, question_order, question_past

DIAMETERS = [1.742, 1.751, 1.738, 1.747, 1.755, 1.744, 1.739, 1.750, 1.746, 1.741]
T0 = datetime(2026, 6, 1, 8, tzinfo=UTC)


def h(hours):
    return T0 + timedelta(hours=hours)


# METHODS 11, to the digits shown


def test_mass_price_moisture():
    assert net_mass(1212, 212) == 1000
    found = prices(31.90, 750, 1.24)
    assert (round(found.per_kg, 3), round(found.per_cm3, 6)) == (42.533, 0.052741)
    assert prices(10, 500, None).per_cm3 is None
    assert round(100 * moisture_lost(1012.4, 1008.9, 212), 4) == 0.4392


def test_diameter():
    found = summarise_diameters(DIAMETERS, 1.75)
    assert f"{found.mean:.5f} {found.sd:.6f} {100 * found.ovality:.4f} {found.flow_factor:.6f}" == "1.74530 0.005539 0.5157 1.005393"
    assert summarise_diameters([1.70, 1.80, 1.69, 1.81], 1.75).outside == 2, "readings on the limit are inside"
    single = summarise_diameters([1.75], 1.75)
    assert (single.sd, single.ovality) == (None, None)


def test_bead_and_flow():
    assert round(volumetric_flow(0.45, 0.20, 120), 4) == 9.7699
    assert pytest.approx(10.8) == 0.45 * 0.20 * 120, "the plain product is larger"
    assert flow_by_mass(0.96, 10, 1.24, 12.4) == pytest.approx(0.96)
    assert flow_by_mass(1, 10, 1.24, 13.02) == pytest.approx(12.4 / 13.02)
    assert flow_by_wall(1, 0.45, 0.5) == pytest.approx(0.9)


def test_a_bead_is_a_stadium_and_a_strand_a_cylinder():
    # second computation: the section integrated over its height
    y = np.linspace(-0.1, 0.1, 200_001)
    assert bead_section(0.45, 0.2) == pytest.approx(float(np.trapezoid(0.25 + 2 * np.sqrt(np.maximum(0.01 - y**2, 0)), y)), rel=1e-6)
    assert strand_length(1000, 1.24, 1.75) == pytest.approx(335.3, abs=0.05), "m on a kilogram, as the trade knows it"


def test_volume_of_a_bar_by_a_second_way():
    # 1A: two end blocks, the parallel part, and the fillets as rectangles less the part of a circle beyond them
    shape = method("tension").shape("dumb-bell-1a")
    d, r = 5.0, 24.0
    run = math.sqrt(r**2 - (r - d) ** 2)
    under_arc = r * run - (r**2 / 2 * math.asin(run / r) + run / 2 * math.sqrt(r**2 - run**2))
    area = 10 * 80 + 20 * (170 - 80 - 2 * run) + 2 * (10 * run + 2 * under_arc)
    assert shape.volume == pytest.approx(area * 4 / 1e3, rel=1e-5)


@given(st.lists(st.floats(1.6, 1.9), min_size=2, max_size=40))
def test_diameters_scale(readings):
    a, b = summarise_diameters(readings, 1.75), summarise_diameters([2 * r for r in readings], 3.5, 0.1)
    assert b.mean == pytest.approx(2 * a.mean)
    assert b.ovality == pytest.approx(a.ovality, abs=1e-12)
    assert b.flow_factor == pytest.approx(a.flow_factor)


# entries that are hardly meant


def test_slips_are_asked_about_with_the_likely_meaning():
    assert question_diameter(1753, 1.75, 3).likely == "1.753"
    assert "reading 3 of the diameter, 1753 mm: was 1.753 mm meant?" in question_diameter(1753, 1.75, 3).text
    assert question_diameter(1.79, 1.75, 1) is None
    assert question_diameter(2.3, 1.75, 1).likely is None
    assert likely_number(12.7, 0.8, 2.5) == 1.27
    assert likely_number(0, 0.8, 2.5) is None
    now = datetime(2026, 11, 23, 10, tzinfo=UTC)
    assert question_past("received", date(2026, 11, 24), now, "received") is None, "another zone may be a day ahead"
    assert question_past("received", date(2026, 12, 3), now, "received").likely == "2026-03-12", "day and month exchanged"
    assert question_past("received", date(2026, 12, 28), now, "received").likely == "2025-12-28", "the year before"
    assert question_past("start", now + timedelta(minutes=1), now, "start") is None
    assert not question_past("start", now + timedelta(hours=1), now, "start").may_confirm
    overnight = question_order("end", h(14), h(0), "the session")
    assert overnight.likely == h(24).isoformat()
    assert "exchanged" in question_order("end", h(80), h(0), "the session").text
    assert question_order("end", h(0), h(0), "the session") is None


def test_gross_taken_for_net_is_asked():
    assert question_net(1212, 212, 1000) is None
    assert question_net(1290, 212, 1000) is None, "8 % above the label is still believed"
    missing = question_net(1212, None, 1000)
    assert (missing.field, missing.likely) == ("empty", "212")
    thirty = question_net(1512, 212, 1000)
    assert "30% above the label" in thirty.text
    assert thirty.likely == "1212"
    assert question_net(12120, 212, 1000).likely == "1212"
    with pytest.raises(QuestionError, match="30% above") as caught:
        ask([thirty])
    assert caught.value.questions[0].key == thirty.key
    ask([thirty], [thirty.key])
    with pytest.raises(QuestionError):
        ask([question_order("end", h(2), h(1), "the session")], ["end=" + h(1).isoformat()])


@pytest.mark.parametrize(
    ("call", "field", "words"),
    [
        (lambda: net_mass(200, 212), "gross", "exchanged"),
        (lambda: net_mass(0, 0), "gross", "more than nothing"),
        (lambda: moisture_lost(1000, 212, 212), "after", "empty spool"),
        (lambda: summarise_diameters([], 1.75), "diameters", "no diameter"),
        (lambda: summarise_diameters([1.75, 0], 1.75), "diameters", "above 0"),
        (lambda: bead_section(0.2, 0.3), "line_width", "below the layer height"),
        (lambda: check_window(Window(nozzle_low=290, nozzle_high=270)), "nozzle_low", "was 270–290 °C meant"),
        (lambda: check_window(Window(dry_temperature=70, dry_limit=60)), "dry_limit", "below the recommended"),
        (lambda: check_window(Window(flow_max=0)), "flow_max", "above 0"),
    ],
)
def test_errors_name_their_field(call, field, words):
    with pytest.raises(EntryError, match=words) as caught:
        call()
    assert caught.value.field == field


# intake


@pytest.mark.parametrize(
    ("clean", "found", "word", "says"),
    [
        ({"net": 970, "label": 1000}, {"net": 969, "label": 1000}, "fit", "under-filled: 969 g of 1000 g, 31 g (3.1%) short"),
        ({"seal": "intact"}, {"seal": "open"}, "dry first", "unknown time"),
        ({"desiccant": "dry"}, {"desiccant": "wet"}, "dry first", "desiccant"),
        ({"winding": "even"}, {"winding": "crossed"}, "reject", "cross"),
        ({"winding": "even"}, {"winding": "loose"}, "fit", "loosely"),
        ({"snap": "bends", "snap_known_good": "bends"}, {"snap": "snaps", "snap_known_good": "bends"}, "dry first", "a good one bends"),
        ({"snap": "bends"}, {"snap": "snaps", "snap_known_good": "snaps"}, "fit", "its nature"),
        ({"snap": "bends"}, {"snap": "snaps"}, "fit", "known to be good"),
        ({"popping": "none"}, {"popping": "some"}, "dry first", "some popping"),
        ({"popping": "none"}, {"popping": "much"}, "dry first", "much popping"),
        ({"polymer": "PETG"}, {"polymer": "PA6"}, "dry first", "within hours"),
        ({"diameters": [1.70, 1.80, 1.75, 1.75]}, {"diameters": [1.69, 1.76, 1.75, 1.75]}, "fit", "1 of 4 readings outside"),
        ({"diameters": [1.80] * 4}, {"diameters": [1.801] * 4}, "fit", "set the flow to"),
        ({"diameters": [1.85, 1.75] * 2}, {"diameters": [1.851, 1.75] * 2}, "reject", "twice the tolerance"),
        ({"diameters": [1.72, 1.77] * 5}, {"diameters": [1.72, 1.78] * 5}, "fit", "oval"),
    ],
)
def test_intake_reasons_on_both_sides(clean, found, word, says):
    def verdict(facts):
        facts = {"polymer": "PETG"} | facts
        if "diameters" in facts:
            facts["diameters"] = summarise_diameters(facts["diameters"], 1.75)
        return judge(Findings(**facts))

    assert not any(says in r.text for r in verdict(clean).reasons)
    assert verdict(found).word == word
    assert any(says in r.text for r in verdict(found).reasons)


def test_the_severest_reason_decides_and_all_are_given():
    found = judge(Findings("PETG", seal="open", winding="crossed", net=900, label=1000))
    assert (found.word, [r.field for r in found.reasons]) == ("reject", ["winding", "seal", "gross"])
    assert judge(Findings("PP", seal="open", desiccant="wet")).word == "fit", "polypropylene takes up no water"


# moisture and balance


def test_the_moisture_state_follows_from_the_record():
    opened = Stored(h(0), Storage.OPEN)
    dried = Drying(h(48), h(56), 65)
    box = Stored(h(56), Storage.DRY_BOX, 12)
    assert moisture_state([], [], h(5)).kind == "as delivered"
    assert moisture_state([opened], [], h(16 * 24)).words == "16 days open, never dried"
    running = moisture_state([opened], [Drying(h(48), None, 65, due=h(56))], h(50))
    assert (running.kind, running.words) == ("drying", "in the dryer at 65 °C, 6 h left")
    assert "2 h over its time" in moisture_state([opened], [Drying(h(48), None, 65, due=h(56))], h(58)).words
    fresh = moisture_state([opened, box], [dried], h(59))
    assert (fresh.kind, fresh.open_hours, fresh.words) == ("dried", 0, "dried 3 h ago (8 h at 65 °C), in dry box")
    # what comes later is not looked at, and the state is asked for any moment
    assert moisture_state([opened, box], [dried], h(50)).kind == "drying"
    assert moisture_state([opened, box], [dried], h(40)).open_hours == 40
    assert moisture_state([opened, box, Stored(h(57), Storage.OPEN)], [dried], h(77)).words == "dried 21 h ago (8 h at 65 °C), open 20 h"
    # a box that is damp is as good as open
    damp = moisture_state([opened, box, Stored(h(60), Storage.DRY_BOX, 35)], [dried], h(70))
    assert damp.open_hours == 10
    assert moisture_state([opened, Stored(h(60), Storage.DRY_BOX, 20)], [dried], h(70)).open_hours == 4, "20 % is dry, and the 4 h before were open"


def test_how_long_a_polymer_may_lie_open():
    assert [open_limit(p) for p in ("PA6", "PA12-CF", "TPU 95A", "PETG", "ASA", "PLA", "PP")] == [8, 8, 8, 168, 168, 336, None]


def test_prints_debit_and_weighing_corrects():
    weighings, debits = [Weighing(h(1), 1205), Weighing(h(30), 1090)], [Debit(h(2), 60), Debit(h(20), 45), Debit(h(31), 12.5)]
    assert balance([], [], 212, None, h(0)) is None
    assert balance([], [Debit(h(1), 30)], None, 1000, h(2)).left == 970, "the label is believed until it is weighed"
    now = balance(weighings, debits, 212, 1000, h(40))
    assert (now.left, now.weighed_at, now.debited) == (865.5, h(30), 12.5)
    steps = history(weighings, debits, 212, 1000, h(40))
    assert [p.left for p in steps] == [993, 933, 888, 878, 865.5]
    assert [p.correction for p in steps if p.event == "weighed"] == [-7, -10]
    assert balance(weighings, debits, 212, 1000, h(10)).left == 933
    assert balance([Weighing(h(1), 1205)], [], None, 1000, h(2)).left == 1000, "without the empty mass a weighing tells nothing"


# claims


@pytest.mark.parametrize(
    ("text", "quantity", "relation", "value", "reference", "standard"),
    [
        ("tensile strength 52 MPa, ISO 527", "strength", "value", 52, "", "ISO 527"),
        ("stiffness 4,2 GPa (ISO 527)", "apparent_modulus", "value", 4200, "", "ISO 527"),
        ("twice the layer adhesion of our Basic", "layer_adhesion", "times", 2, "our Basic", ""),
        ("30 % stronger than Hollin Everyday", "strength", "times", 1.3, "Hollin Everyday", ""),
        ("half the warp of Outdoor", "warp", "times", 0.5, "Outdoor", ""),
        ("four times the layer adhesion of Basic", "layer_adhesion", "times", 4, "Basic", ""),
        ("three times the layer adhesion of Basic", "layer_adhesion", "times", 3, "Basic", ""),
        ("five times the layer adhesion of Basic", "layer_adhesion", "times", 5, "Basic", ""),
        ("ten times the layer adhesion of Basic", "layer_adhesion", "times", 10, "Basic", ""),
        ("no warping", "warp", "none", None, "", ""),
        ("elongation at break 12 %", "strain_at_break", "value", 0.12, "", ""),
        ("prints up to 300 mm/s", "speed", "at most", 300, "", ""),
        ("heat deflection 98 °C (ISO 75-2 B)", "heat", "value", 98, "", "ISO 75-2 B"),
        ("open printers supported", "enclosure", "not needed", None, "", ""),
        ("needs a hardened nozzle", "hardened", "needed", None, "", ""),
        ("no drying needed", "drying", "not needed", None, "", ""),
        ("strength of 60 N", "strength", "plain", None, "", ""),
        ("tensile strength 52", "strength", "plain", None, "", ""),
        ("2.5 times stiffer than Basic", "apparent_modulus", "times", 2.5, "Basic", ""),
        ("20 % less warping than Outdoor", "warp", "times", 0.8, "Outdoor", ""),
        ("at least 45 MPa layer adhesion", "layer_adhesion", "at least", 45, "", ""),
        ("impact strength 8 kJ/m², ISO 180", "impact", "value", 8, "", "ISO 180"),
        ("smells of honey", None, "plain", None, "", ""),
        ("30 % stronger between the layers than Basic", "layer_adhesion", "times", 1.3, "Basic", ""),
        ("holds 25 MPa between the layers", "layer_adhesion", "value", 25, "", ""),
        ("stiffer than Hollin Everyday", "apparent_modulus", "more", None, "Hollin Everyday", ""),
        ("less warping than our Basic.", "warp", "less", None, "our Basic", ""),
        ("better impact resistance than ABS", "impact", "more", None, "ABS", ""),
        ("layer adhesion of more than 20 MPa", "layer_adhesion", "at least", 20, "", ""),
        ("two times stronger than Basic", "strength", "times", 2, "Basic", ""),
        ("does not warp", "warp", "none", None, "", ""),
        ("no stringing", "stringing", "none", None, "", ""),
    ],
)
def test_statements_are_tied_to_quantities(text, quantity, relation, value, reference, standard):
    found = read_statement(text)
    assert (found.text, found.quantity, found.relation, found.reference, found.method) == (text, quantity, relation, reference, standard)
    assert found.value == (None if value is None else pytest.approx(value))


@given(st.text(max_size=120))
def test_whatever_is_said_is_kept_as_said(text):
    """Reading a statement never fails and never alters it."""
    assert read_statement(text).text == text
    assert all(part and part in text for part in split_statements(text))


def test_statements_are_parted():
    assert split_statements('claims "twice the strength of our Basic"') == ["twice the strength of our Basic"]
    assert split_statements("stiffness 4,2 GPa (ISO 527); no warping") == ["stiffness 4,2 GPa (ISO 527)", "no warping"]


@pytest.mark.parametrize(
    ("window", "said", "fine"),
    [
        (Window(enclosure=True), ["open printers supported"], ["enclosure required"]),
        (Window(enclosure=False), ["enclosure required"], ["open frame is enough"]),
        (Window(hardened=True), ["brass nozzle is fine"], ["needs a hardened nozzle"]),
        (Window(dry_temperature=65), ["no drying needed"], ["dry before use, drying needed"]),
        (Window(bed_low=70, bed_high=85), ["bed temperature 100 °C"], ["bed temperature 80 °C"]),
        (Window(speed_high=200), ["prints up to 300 mm/s"], ["prints up to 200 mm/s"]),
        (Window(flow_max=12), ["flow 15 mm³/s"], ["flow 12 mm³/s"]),
        (Window(nozzle_min=0.6), ["nozzles from 0.4 mm"], ["nozzles from 0.6 mm"]),
        (Window(), ["density 1.40 g/cm³"], ["density 1.25 g/cm³"]),
        (Window(), ["tensile strength 52 MPa", "strength 60 MPa"], ["tensile strength 52 MPa (ISO 527)", "strength 60 MPa (ASTM D638)"]),
        (Window(), ["twice the stiffness of Basic", "3 times the stiffness of Basic"], ["twice the stiffness of Basic", "3 times the stiffness of Plus"]),
    ],
)
def test_contradictions_on_both_sides(window, said, fine):
    assert len(contradictions(window, 1.24, [read_statement(s) for s in said])) == 1
    assert contradictions(window, 1.24, [read_statement(s) for s in fine]) == []


@given(
    st.lists(st.tuples(st.integers(0, 300), st.sampled_from(list(Storage)), st.sampled_from([None, 12.0, 40.0])), max_size=8, unique_by=lambda m: m[0]),
    st.lists(st.integers(0, 280), max_size=3, unique=True),
)
def test_open_hours_agree_with_a_walk_hour_by_hour(moves, starts):
    """A second computation: every hour asked where the spool lay; sessions of 4 h that do not overlap."""
    moves = sorted(moves)
    starts = [s for i, s in enumerate(sorted(starts)) if i == 0 or s - sorted(starts)[i - 1] > 4]
    dryings = [Drying(h(s), h(s + 4), 65) for s in starts]
    found = moisture_state([Stored(h(at), storage, rh) for at, storage, rh in moves], dryings, h(310))
    dried = max((s + 4 for s in starts), default=None)
    hours = 0
    for hour in range(310):
        lying = [m for m in moves if m[0] <= hour]
        if lying and (dried is None or hour >= dried):
            _, storage, rh = lying[-1]
            hours += storage is Storage.OPEN or (storage is Storage.DRY_BOX and rh is not None and rh > 20)
    assert found.open_hours == pytest.approx(hours)
