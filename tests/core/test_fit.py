"""Fit to print: every rule on both sides, and where each says it comes from."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta

import pytest

from assayer.core.filament.drying import ToDry, dry_together
from assayer.core.filament.fit import OWN, RULES, Filament, Hardware, Settings, check_fit, longest_drying, question_drying
from assayer.core.filament.moisture import Drying, Storage, Stored, moisture_state
from assayer.core.filament.window import Window

T0 = datetime(2026, 6, 1, 8, tzinfo=UTC)


def state(stored=(), dryings=(), hours=100.0):
    return moisture_state([Stored(T0 + timedelta(hours=at), *rest) for at, *rest in stored], [Drying(*d) for d in dryings], T0 + timedelta(hours=hours))


def dried(hours=8.0, heat=65.0, open_since=None, at=100.0):
    """Dried until hour 90, in a dry box unless it lay open since."""
    end = T0 + timedelta(hours=90)
    return state([(0, Storage.DRY_BOX)] + ([(open_since, Storage.OPEN)] if open_since else []), [(end - timedelta(hours=hours), end, heat)], at)


WINDOW = Window(
    nozzle_low=240, nozzle_high=265, bed_low=70, bed_high=85, chamber_low=50, chamber_high=70, speed_low=30, speed_high=120, flow_max=12,
    dry_temperature=65, dry_time=8, nozzle_min=0.4, hardened=True, enclosure=True, bed_surface="textured or glass", adhesive="glue stick", source="data sheet",
)  # fmt: skip
GOOD_F = Filament("Tarn Clearwater CF", "PETG", "carbon fibre", 1.75, WINDOW, dried(), "fit", 600, "plastic", 55.0, "straight")
GOOD_H = Hardware(0.4, True, True, "glass", 1.75, 300, 110, 70, True, 52.0, True, True, True, "Old Reliable")
GOOD_S = Settings(250, 80, 60, 60, 0.45, 0.2, None, "glue stick", 120)
MAKER = "maker's window for Tarn Clearwater CF (data sheet)"


def filament(**changes):
    return replace(GOOD_F, **changes), GOOD_H, GOOD_S


def window(**changes):
    return replace(GOOD_F, window=replace(WINDOW, **changes)), GOOD_H, GOOD_S


def hardware(**changes):
    return GOOD_F, replace(GOOD_H, **changes), GOOD_S


def settings(**changes):
    return GOOD_F, GOOD_H, replace(GOOD_S, **changes)


def test_a_good_plan_misses_nothing():
    report = check_fit(GOOD_F, GOOD_H, GOOD_S)
    assert (report.fit, report.misses, report.unchecked) == (True, [], [])


BARE = Window()
CASES = [
    # rule, the side that is missed, the side that is not, level, source, words
    ("intake", filament(decision=None), filament(decision="fit"), "should", OWN, "never checked"),
    ("intake", filament(decision="reject"), filament(decision="dry first"), "must", "intake record", "rejected"),
    ("hardened nozzle", hardware(hardened=False), hardware(hardened=True), "must", MAKER, "carbon fibre wears it"),
    ("hardened nozzle", (replace(GOOD_F, window=BARE), replace(GOOD_H, hardened=False), Settings()), (replace(GOOD_F, window=BARE, filler=None), replace(GOOD_H, hardened=False), Settings()), "must", OWN, "wears"),
    ("nozzle size", hardware(nozzle=0.39), hardware(nozzle=0.4), "must", MAKER, "0.39 mm, least 0.4 mm"),
    ("nozzle size", (replace(GOOD_F, window=BARE), replace(GOOD_H, nozzle=0.3), Settings()), (replace(GOOD_F, window=BARE, filler=None), replace(GOOD_H, nozzle=0.3), Settings()), "should", OWN, "may block"),
    ("strand diameter", hardware(strand=2.85), hardware(strand=1.75), "must", "printer", "feeds 2.85 mm"),
    ("enclosure", hardware(enclosed=False), (window(enclosure=False)[0], replace(GOOD_H, enclosed=False), GOOD_S), "must", MAKER, "no enclosure"),
    ("extraction", (window(fumes=True)[0], replace(GOOD_H, extraction=False), GOOD_S), window(fumes=True), "must", MAKER, "no extraction: fumes noted"),
    ("extraction", (window(fumes=True, dust=True)[0], replace(GOOD_H, extraction=False), GOOD_S), hardware(extraction=False), "must", MAKER, "no extraction: fumes and dust noted"),
    ("extraction", (window(fumes=False, dust=True)[0], replace(GOOD_H, extraction=False), GOOD_S), (window(fumes=False, dust=False)[0], replace(GOOD_H, extraction=False), GOOD_S), "must", MAKER, "no extraction: dust noted"),
    ("spool body", (replace(GOOD_F, body="refill"), replace(GOOD_H, takes_refills=False), GOOD_S), filament(body="refill"), "must", "spool", "Old Reliable has none"),
    ("spool body", filament(body="cardboard"), (replace(GOOD_F, body="cardboard"), replace(GOOD_H, drives_rims=False), GOOD_S), "should", OWN, "by its rims"),
    ("spool bore", filament(bore=52), filament(bore=52.5), "must", "spool", "bore of 52 mm does not go onto the holder of 52 mm"),
    ("spool bore", filament(bore=40), (replace(GOOD_F, bore=40, body="refill"), GOOD_H, GOOD_S), "must", "spool", "bore of 40 mm"),
    ("loose end", filament(loose_end="under a turn"), filament(loose_end="straight"), "must", "spool", "under another turn"),
    ("loose end", filament(loose_end="bent"), (replace(GOOD_F, loose_end="bent"), replace(GOOD_H, loads_itself=False), GOOD_S), "should", "spool", "cut it straight"),
    ("nozzle", settings(nozzle_temperature=239), settings(nozzle_temperature=240), "must", MAKER, "239 °C against 240–265 °C"),
    ("nozzle", settings(nozzle_temperature=266), settings(nozzle_temperature=265), "must", MAKER, "against"),
    ("bed", settings(bed_temperature=100), settings(bed_temperature=85), "must", MAKER, "bed temperature 100 °C against 70–85 °C"),
    ("chamber", settings(chamber_temperature=49), settings(chamber_temperature=50), "should", MAKER, "chamber temperature 49"),
    ("chamber", (GOOD_F, replace(GOOD_H, chamber_hottest=45), replace(GOOD_S, chamber_temperature=None)), (GOOD_F, replace(GOOD_H, chamber_hottest=50), replace(GOOD_S, chamber_temperature=None)), "should", MAKER, "reaches 45 °C"),
    ("speed", settings(speed=121, flow=5), settings(speed=120, flow=5), "should", MAKER, "121 mm/s against 30–120 mm/s"),
    ("nozzle limit", hardware(nozzle_hottest=249), hardware(nozzle_hottest=250), "must", "limit of Old Reliable", "reaches 249 °C"),
    ("nozzle limit", (GOOD_F, replace(GOOD_H, nozzle_hottest=239), replace(GOOD_S, nozzle_temperature=None)), (GOOD_F, replace(GOOD_H, nozzle_hottest=240), replace(GOOD_S, nozzle_temperature=None)), "must", MAKER, "240 °C is wanted"),
    ("bed limit", hardware(bed_hottest=79), hardware(bed_hottest=80), "must", "limit of Old Reliable", "reaches 79 °C"),
    ("chamber limit", hardware(chamber_hottest=59), hardware(chamber_hottest=60), "must", "limit of Old Reliable", "reaches 59 °C"),
    # 0.45 × 0.2 bead: 0.0814159 mm², so 12 mm³/s are reached at 147.39 mm/s
    ("flow", (window(speed_high=None)[0], GOOD_H, replace(GOOD_S, speed=147.5)), (window(speed_high=None)[0], GOOD_H, replace(GOOD_S, speed=147.3)), "must", MAKER, "at most 147 mm/s"),
    ("flow", settings(flow=12.1), settings(flow=12.0), "must", MAKER, "12.1 mm³/s above the limit of 12"),
    ("bed surface", hardware(bed_surface="smooth"), hardware(bed_surface="Glass"), "should", MAKER, "bed surface 'smooth'"),
    ("adhesive", settings(adhesive=""), settings(adhesive="thin glue stick"), "should", MAKER, "without glue stick"),
    ("balance", filament(left=119), filament(left=126), "must", "balance of the spool", "1 g short"),
    ("balance", filament(left=125), filament(left=126), "should", "balance of the spool", "hardly any reserve"),
    ("moisture", filament(moisture=state([(0, Storage.OPEN)], [(T0 + timedelta(hours=98), None, 65.0, T0 + timedelta(hours=106))])), filament(moisture=dried()), "must", "drying record", "6 h left"),
    ("moisture", filament(moisture=dried(hours=7.1)), filament(moisture=dried(hours=7.3)), "must", MAKER, "7.1 h of the 8 h"),
    ("moisture", filament(moisture=dried(heat=59)), filament(moisture=dried(heat=60)), "must", MAKER, "dried at 59 °C"),
    ("moisture", filament(moisture=dried(open_since=91, at=260)), filament(moisture=dried(open_since=91, at=258)), "must", OWN, "may lie open 7 days"),
    ("moisture", filament(moisture=state([(0, Storage.OPEN)])), filament(moisture=dried()), "must", MAKER, "65 °C for 8 h is asked for"),
    ("moisture", filament(moisture=state()), filament(moisture=dried()), "should", MAKER, "sealed as delivered"),
    ("moisture", filament(decision="dry first", moisture=state()), filament(decision="dry first", moisture=dried()), "must", "intake record", "'dry first' at intake"),
    ("moisture", filament(window=replace(WINDOW, dry_temperature=None, dry_time=None), moisture=state([(0, Storage.OPEN)], hours=169)), filament(window=replace(WINDOW, dry_temperature=None, dry_time=None), moisture=state([(0, Storage.OPEN)], hours=167)), "must", OWN, "PETG may lie open 7 days"),
]  # fmt: skip


@pytest.mark.parametrize(("rule", "missed", "fine", "level", "source", "words"), CASES)
def test_every_rule_on_both_sides(rule, missed, fine, level, source, words):
    found = [m for m in check_fit(*missed).misses if m.rule == rule]
    assert [(m.level, m.source) for m in found] == [(level, source)]
    assert words in found[0].text
    assert not [m for m in check_fit(*fine).misses if m.rule == rule and m.level == level]


def test_no_rule_is_left_untried():
    reached = set()
    for _, missed, *_ in CASES:
        reached |= {i for i, rule in enumerate(RULES) if getattr(rule(*missed), "rule", None)}
    assert reached == set(range(len(RULES)))


def test_what_is_not_known_is_said_and_not_passed():
    report = check_fit(replace(GOOD_F, left=None), Hardware(), Settings(mass=10))
    assert [m.rule for m in report.misses] == ["adhesive"], "what is not named is not on the plate"
    assert [u.split(" (")[0] for u in report.unchecked] == [
        "whether the nozzle is hardened", "the nozzle's size", "whether the printer is enclosed", "nozzle temperature", "bed temperature",
        "chamber temperature", "print speed", "whether the printer reaches nozzle temperature 240 °C: its limit is not known",
        "whether the printer reaches bed temperature 70 °C: its limit is not known",
        "whether the printer reaches chamber temperature 50 °C: its limit is not known", "volumetric flow", "whether the spool lasts for 10 g: weigh it",
    ]  # fmt: skip
    looked = replace(GOOD_F, window=replace(WINDOW, dust=True), bore=None)
    assert check_fit(looked, replace(GOOD_H, extraction=None), GOOD_S).unchecked == [
        "whether extraction is there: dust noted",
        "whether the spool goes onto the holder of 52 mm: its bore is not measured",
    ]
    for body, words in (
        ("refill", "whether there is a body for a refill"),
        ("cardboard", "whether Old Reliable turns the spool by its rims, which are of cardboard"),
    ):
        assert check_fit(replace(GOOD_F, body=body), replace(GOOD_H, takes_refills=None, drives_rims=None), GOOD_S).unchecked == [words]
    unknown = check_fit(replace(GOOD_F, window=BARE, filler=None), GOOD_H, GOOD_S).unchecked
    assert any("the maker gives no range" in u for u in unknown)
    assert any("the maker gives no limit" in u for u in unknown)


def test_musts_come_first():
    report = check_fit(replace(GOOD_F, decision=None, left=10), GOOD_H, GOOD_S)
    assert [m.level for m in report.misses] == ["must", "should"]
    assert not report.fit


def test_drying_too_hot():
    assert question_drying(65, WINDOW, 70, "it") is None
    assert "maker's 65 °C" in question_drying(66, WINDOW, 70, "it")
    assert "spool of it bears (60 °C)" in question_drying(61, WINDOW, 60, "it")
    assert question_drying(70, replace(WINDOW, dry_limit=70), 70, "it") is None


@pytest.mark.parametrize(
    ("temperature", "window", "spool", "polymer", "words"),
    [
        (60, BARE, None, "", None),
        (61, BARE, None, "", "nothing is known of how hot it may be dried"),
        (70, WINDOW, None, "PETG", "hotter than the maker's"),
        (65, WINDOW, None, "PETG", "nobody said what the spool of it bears"),
        (60, WINDOW, None, "PETG", None),
        (50, BARE, 80, "PLA", None),
        (51, BARE, 80, "PLA", "softens from 55 °C"),
        (90, BARE, 100, "PAHT-CF", None),
        (91, BARE, 100, "PAHT-CF", "PA is generally dried at 80 to 90 °C"),
    ],
)
def test_drying_is_asked_about_where_a_limit_is_not_known(temperature, window, spool, polymer, words):
    found = question_drying(temperature, window, spool, "it", polymer)
    assert found is None if words is None else words in found


@pytest.mark.parametrize(
    ("names", "temperature", "why"),
    [
        (("PLA",), 50, ""),
        (("PLA", "PAHT-CF"), None, "50 to 90 °C: dry them apart"),
        (("PA6", "PC"), None, "90 to 110 °C: dry them apart"),
        (("TPU95A", "PLA"), 50, ""),
        (("PLA", "mystery"), None, "nothing is known of how mystery is dried"),
    ],
)
def test_no_temperature_is_proposed_for_a_group_with_an_unknown_or_unlike_member(names, temperature, why):
    found = dry_together([ToDry(name, BARE, None, name) for name in names])
    assert found.temperature == temperature
    assert why in found.why_none
    assert bool(found.why_none) == (temperature is None)
    makers = dry_together([ToDry("PA", replace(BARE, dry_temperature=80.0, dry_time=12.0), None, "PA6"), ToDry("other", BARE, None, "PP")])
    assert (makers.temperature, makers.general) == (None, ("other",))


def test_drying_far_longer_than_asked_for_is_hardly_meant():
    assert [longest_drying(w, p) for w, p in ((replace(BARE, dry_time=8.0), "PLA"), (BARE, "PA"), (BARE, "mystery"))] == [24.0, 36.0, None]
