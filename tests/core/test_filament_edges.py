"""Where the stock's rules turn: hours, shares and words just on either side of each limit."""

from datetime import UTC, datetime, timedelta

import pytest

from assayer.core.errors import EntryError
from assayer.core.filament.balance import RESERVE, Debit, Weighing, balance, history
from assayer.core.filament.bead import bead_section, flow_by_mass, flow_by_wall
from assayer.core.filament.claims import contradictions, read_statement
from assayer.core.filament.diameter import summarise_diameters
from assayer.core.filament.fit import check_fit
from assayer.core.filament.intake import Findings, Weight, judge
from assayer.core.filament.mass import moisture_lost, net_mass, prices, question_net
from assayer.core.filament.moisture import COOLER, DRY_BOX_LIMIT, ENOUGH, OPEN_HOURS, Drying, Storage, Stored, moisture_state, thirst
from assayer.core.filament.window import Window, check_window

from .test_fit import GOOD_F, GOOD_H, GOOD_S, replace, state

T0 = datetime(2026, 6, 1, 8, tzinfo=UTC)


def h(hours):
    return T0 + timedelta(hours=hours)


# ---- moisture ------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    "stored, dryings, at, words, hours",
    [
        ([], [], 50, "sealed as delivered, never dried", 0),
        ([(0, "open")], [], 0.5, "just opened, never dried", 0.5),
        ([(0, "open")], [], 0.999, "just opened, never dried", 0.999),
        ([(0, "open")], [], 1, "1 h open, never dried", 1),
        ([(0, "open")], [], 47.4, "47 h open, never dried", 47.4),
        ([(0, "open")], [], 48, "2 days open, never dried", 48),
        ([(0, "open")], [(60, 68)], 80, "dried 12 h ago (8 h at 65 °C), open 12 h", 12),
        ([(0, "open"), (68, "dry box")], [(60, 68)], 80, "dried 12 h ago (8 h at 65 °C), in dry box", 0),
        ([(0, "open"), (70, "dry box")], [(60, 68)], 80, "dried 12 h ago (8 h at 65 °C), in dry box, 2 h of it open", 2),
        ([(0, "open"), (68.9, "sealed bag")], [(60, 68)], 80, "dried 12 h ago (8 h at 65 °C), in sealed bag", 0.9),
        ([(0, "open"), (69, "sealed bag")], [(60, 68)], 80, "dried 12 h ago (8 h at 65 °C), in sealed bag, 1 h of it open", 1),
        ([(0, "open")], [(60, 68)], 68.25, "dried 15 min ago (8 h at 65 °C), open 15 min", 0.25),
        ([(0, "sealed bag")], [], 50, "sealed as delivered, never dried", 0),
        ([(0, "open"), (3, "sealed bag")], [], 50, "3 h open, never dried", 3),
    ],
)
def test_the_state_is_said_in_hours_and_from_two_days_in_days(stored, dryings, at, words, hours):
    found = moisture_state([Stored(h(t), Storage(s)) for t, s in stored], [Drying(h(a), h(b), 65) for a, b in dryings], h(at))
    assert found.words == words
    assert found.open_hours == pytest.approx(hours)


@pytest.mark.parametrize(
    "due, at, words",
    [
        (8, 3, "in the dryer at 65 °C, 5 h left"),
        (8, 8, "in the dryer at 65 °C, 0 min over its time"),
        (8, 8.5, "in the dryer at 65 °C, 30 min over its time"),
        (None, 3, "in the dryer at 65 °C for 3 h"),
    ],
)
def test_a_running_dryer_says_what_is_left_of_its_time(due, at, words):
    found = moisture_state([], [Drying(h(0), None, 65, None if due is None else h(due))], h(at))
    assert (found.kind, found.words) == ("drying", words)


def test_what_ends_later_still_runs_and_what_begins_later_is_not_looked_at():
    assert moisture_state([], [Drying(h(0), h(8), 65)], h(7.9)).kind == "drying"
    assert moisture_state([], [Drying(h(0), h(8), 65)], h(8)).kind == "dried"
    assert moisture_state([], [Drying(h(5), h(8), 65)], h(4)).kind == "as delivered"
    two = moisture_state([], [Drying(h(20), h(28), 70), Drying(h(0), h(8), 65)], h(30))
    assert two.dried.temperature == 70, "the last that began"


@pytest.mark.parametrize("humidity, hours", [(DRY_BOX_LIMIT, 0), (DRY_BOX_LIMIT + 0.1, 10), (None, 0)])
def test_a_damp_box_is_as_good_as_open(humidity, hours):
    assert moisture_state([Stored(h(0), Storage.DRY_BOX, humidity)], [], h(10)).open_hours == hours


@pytest.mark.parametrize(
    "polymer, how",
    [
        ("PA6-GF", "fast"),
        ("pa", "fast"),
        ("PA12", "fast"),
        ("TPU 95A", "fast"),
        ("PC", "fast"),
        ("PLA+", "slow"),
        ("HIPS", "slow"),
        ("PP", "not"),
        ("POM", "not"),
        ("PETG", "medium"),
        ("ASA", "medium"),
    ],
)
def test_polymers_are_thirsty_by_their_family(polymer, how):
    assert thirst(polymer) == how
    assert OPEN_HOURS == {"fast": 8.0, "medium": 168.0, "slow": 336.0}
    assert (ENOUGH, COOLER, RESERVE) == (0.9, 5.0, 0.05)


@pytest.mark.parametrize(
    "polymer, hours, words", [("PA6", 9, "PA6 may lie open 8 h"), ("PLA", 337, "PLA may lie open 14 days"), ("PETG", 169, "PETG may lie open 7 days")]
)
def test_how_long_it_may_lie_is_said_in_hours_or_days(polymer, hours, words):
    bare = Window()
    lain = state([(0, Storage.OPEN)], hours=hours)
    found = check_fit(replace(GOOD_F, polymer=polymer, window=bare, moisture=lain), GOOD_H, GOOD_S)
    assert any(words in m.text for m in found.misses if m.rule == "moisture")
    fresh = state([(0, Storage.OPEN)], hours=1)
    assert not any("may lie open" in m.text for m in check_fit(replace(GOOD_F, polymer=polymer, window=bare, moisture=fresh), GOOD_H, GOOD_S).misses)


# ---- intake --------------------------------------------------------------------------------------


def reasons(polymer="PETG", **found):
    decision = judge(Findings(polymer, **found))
    return decision.word, [(r.field, r.words) for r in decision.reasons]


@pytest.mark.parametrize(
    "found, word, expected",
    [
        ({}, "fit", []),
        ({"label": 1000, "net": 970}, "fit", []),
        ({"label": 1000, "net": 969.9}, "fit", [("gross", "note")]),
        ({"seal": "intact", "desiccant": "dry", "winding": "even", "popping": "none"}, "fit", []),
        ({"seal": "open"}, "dry first", [("seal", "dry first")]),
        ({"seal": "none"}, "dry first", [("seal", "dry first")]),
        ({"desiccant": "wet"}, "dry first", [("desiccant", "dry first")]),
        ({"winding": "loose"}, "fit", [("winding", "note")]),
        ({"winding": "crossed"}, "reject", [("winding", "reject")]),
        ({"snap": "snaps", "snap_known_good": "bends"}, "dry first", [("snap", "dry first")]),
        ({"snap": "snaps", "snap_known_good": "snaps"}, "fit", [("snap", "note")]),
        ({"snap": "snaps"}, "fit", [("snap", "note")]),
        ({"snap": "bends", "snap_known_good": "snaps"}, "fit", []),
        ({"popping": "some"}, "dry first", [("popping", "dry first")]),
        ({"popping": "much", "winding": "crossed", "label": 1000, "net": 900}, "reject", [("winding", "reject"), ("popping", "dry first"), ("gross", "note")]),
    ],
)
def test_each_finding_leads_to_what_it_means_the_gravest_first(found, word, expected):
    assert reasons(**found) == (word, expected)


def test_what_takes_up_no_water_is_not_dried_and_what_is_thirsty_always_is():
    assert reasons("PP", seal="open", desiccant="wet") == ("fit", [])
    assert reasons("PA6", seal="intact") == ("dry first", [("polymer", "dry first")])
    assert [int(w) for w in (Weight.NOTE, Weight.DRY_FIRST, Weight.REJECT)] == [0, 1, 2]


@pytest.mark.parametrize(
    "diameters, tolerance, word, words",
    [
        ([1.75, 1.80], None, "fit", None),
        ([1.75, 1.80, 1.801], None, "fit", "1 of 3 readings outside 1.75 ± 0.05 mm"),
        ([1.75, 1.85], None, "fit", "1 of 2 readings outside"),
        ([1.75, 1.851], None, "reject", "1.851 mm is more than twice the tolerance"),
        ([1.75, 1.649], None, "reject", "1.649 mm is more than twice the tolerance"),
        ([1.75, 1.78], 0.02, "fit", "1 of 2 readings outside 1.75 ± 0.02 mm"),
        ([1.81, 1.81], None, "fit", "mean 1.810 mm is outside 1.75 ± 0.05 mm: set the flow to 0.935"),
        ([1.72, 1.78], None, "fit", "oval by 3.4%"),
        ([1.69, 1.80], 0.1, "reject", "oval by 6.3%"),
    ],
)
def test_a_strand_is_judged_by_its_furthest_reading_its_mean_and_its_ovality(diameters, tolerance, word, words):
    summary = summarise_diameters(diameters, 1.75, tolerance or 0.05)
    decision = judge(Findings("PETG", diameters=summary, tolerance=tolerance))
    assert decision.word == word
    said = " | ".join(r.text for r in decision.reasons)
    assert words in said if words else said == ""


def test_a_diameter_that_cannot_be_is_named_with_its_place():
    with pytest.raises(EntryError, match="no diameter was read"):
        summarise_diameters([], 1.75)
    with pytest.raises(EntryError, match="a diameter is above 0") as refused:
        summarise_diameters([1.75, 0.0], 1.75)
    assert refused.value.row == 2
    assert summarise_diameters([1.70, 1.80, 1.75], 1.75).ovality == pytest.approx(0.1 / 1.75), "the last one has no partner"


# ---- masses, beads, windows ----------------------------------------------------------------------


@pytest.mark.parametrize("gross, empty, words", [(0, 0, "weighs more than nothing"), (10, -1, "cannot be below 0"), (200, 200, "were the two exchanged")])
def test_masses_that_cannot_be(gross, empty, words):
    with pytest.raises(EntryError, match=words):
        net_mass(gross, empty)
    assert net_mass(10, 0) == 10


@pytest.mark.parametrize(
    "gross, empty, label, likely",
    [(1294, 214, 1000, None), (1295, 214, 1000, "1214"), (1214, None, 1000, "214"), (12140, 214, 1000, "1214"), (2000, 214, 1000, None)],
)
def test_more_than_the_label_is_asked_about_with_what_was_likely_meant(gross, empty, label, likely):
    """Up to 8 % over is believed."""
    asked = question_net(gross, empty, label)
    if gross == 1294:
        assert asked is None
    else:
        assert asked.likely == likely
        assert asked.field == ("empty" if empty is None else "gross")


def test_prices_and_losses_need_something_to_be_of():
    assert prices(20, 800, 1.25).per_kg == 25
    assert prices(20, 800, 1.25).per_cm3 == pytest.approx(0.03125)
    with pytest.raises(EntryError, match="net mass 0 g"):
        prices(20, 0, None)
    with pytest.raises(EntryError, match="check both"):
        moisture_lost(1000, 212, 212)


@pytest.mark.parametrize("width, height, words", [(0.4, 0.0, "layer height 0 mm"), (0.19, 0.2, "below the layer height")])
def test_beads_that_cannot_be_laid(width, height, words):
    with pytest.raises(EntryError, match=words):
        bead_section(width, height)
    assert bead_section(0.2, 0.2) == pytest.approx(3.14159265 * 0.01)
    for call in (lambda: flow_by_mass(1, 1, 1, 0), lambda: flow_by_wall(1, 0.4, 0)):
        with pytest.raises(EntryError, match="it must be above 0"):
            call()


@pytest.mark.parametrize(
    "window, field",
    [
        ({"nozzle_low": 240, "nozzle_high": 230}, "nozzle"),
        ({"flow_max": 0}, "flow_max"),
        ({"dry_time": -1}, "dry_time"),
        ({"dry_limit": 60, "dry_temperature": 65}, "dry_limit"),
        ({"tolerance": 0}, "tolerance"),
    ],
)
def test_a_window_that_cannot_be_names_its_field(window, field):
    with pytest.raises(EntryError) as refused:
        check_window(Window(**window))
    assert refused.value.field.startswith(field)
    check_window(Window(nozzle_low=230, nozzle_high=230, dry_limit=65, dry_temperature=65))


def test_the_book_of_a_spool_at_equal_instants():
    """A weighing and a print of one instant: weighed first; debits of that instant count since it."""
    weighed, used = [Weighing(h(5), 1000)], [Debit(h(5), 30), Debit(h(6), 20)]
    assert [p.left for p in history(weighed, used, 200, None, h(6))] == [800, 770, 750]
    now = balance(weighed, used, 200, None, h(6))
    assert (now.left, now.weighed_at) == (750, h(5))
    assert balance(weighed, used, 200, None, h(5)).left == 770
    assert balance(weighed, used, 200, 900, h(4)).left == 900
    assert balance([], [Debit(h(1), 5)], None, None, h(2)) is None
    assert [p.event for p in history([], [], None, 750, h(1))] == ["label"]


@pytest.mark.parametrize("other", ["three times the tensile strength of our Hearth", "high tensile strength", "tensile strength 51 MPa"])
def test_statements_of_unlike_kinds_about_one_quantity_contradict_nothing(other):
    assert contradictions(Window(), None, [read_statement("tensile strength 50 MPa"), read_statement(other)]) == []
    assert len(contradictions(Window(), None, [read_statement("tensile strength 50 MPa"), read_statement("tensile strength 70 MPa")])) == 1


@pytest.mark.parametrize("told, apart", [("density 1.26 g/cm³", 0), ("density 1.28 g/cm³", 1), ("density 1.22 g/cm³", 0), ("density 1.20 g/cm³", 1)])
def test_a_density_more_than_two_per_cent_off_contradicts(told, apart):
    """Of 1.24 g/cm³: 1.6 % either side is rounding, 3.2 % is not."""
    assert len(contradictions(Window(), 1.24, [read_statement(told)])) == apart


def test_a_nozzle_of_just_the_least_size_will_do():
    window = replace(GOOD_F.window, nozzle_min=0.6)

    def misses(nozzle):
        return {m.rule for m in check_fit(replace(GOOD_F, window=window), replace(GOOD_H, nozzle=nozzle), GOOD_S).misses}

    assert "nozzle size" not in misses(0.6)
    assert "nozzle size" not in misses(0.8)
    assert "nozzle size" in misses(0.59)


@pytest.mark.parametrize("hours, missed", [(168.0, False), (168.01, True)])
def test_it_may_lie_open_for_just_its_limit(hours, missed):
    lain = state([(0, Storage.OPEN)], hours=hours)
    found = check_fit(replace(GOOD_F, polymer="PETG", window=Window(), moisture=lain), GOOD_H, GOOD_S)
    assert any(m.rule == "moisture" for m in found.misses) is missed
