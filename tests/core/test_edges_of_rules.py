"""Rules held at their edges and by second computations: ids, areas of drawn shapes, dates, masses, flows."""

from datetime import UTC, date, datetime, timedelta
from types import SimpleNamespace

import numpy as np
import pytest

from assayer.core import ids
from assayer.core.filament.bead import volumetric_flow
from assayer.core.filament.fit import Filament, Hardware, Settings, abrasive, check_fit
from assayer.core.filament.mass import question_gross, question_net
from assayer.core.filament.window import Window
from assayer.core.quantities.slips import question_order, question_past
from assayer.core.shapes.frames import CREEP_FRAME

NOW = datetime(2026, 11, 23, 10, tzinfo=UTC)


@pytest.mark.parametrize("ones", [True, False])
def test_an_id_has_its_instant_its_kind_and_74_bits_of_chance_and_nothing_else(ones, monkeypatch):
    """RFC 9562, 5.7: 48 bits of milliseconds, version 7, 12 bits, variant 10, 62 bits."""

    def bits(n):
        return (1 << n) - 1 if ones else 0

    def expected(at):
        chance = bits(12), bits(62)
        return f"{round(at.timestamp() * 1000):048b}" + "0111" + f"{chance[0]:012b}" + "10" + f"{chance[1]:062b}"

    monkeypatch.setattr(ids.secrets, "randbits", bits)
    for at in (NOW, NOW + timedelta(milliseconds=437), datetime(1970, 1, 1, tzinfo=UTC), datetime(9000, 1, 1, tzinfo=UTC)):
        for made in (ids.uuid7(at, SimpleNamespace(getrandbits=bits)), ids.uuid7(at)):
            assert f"{made.int:0128b}" == expected(at)


def test_chance_fills_all_of_its_bits():
    rng = np.random.default_rng(1)
    drawn = SimpleNamespace(getrandbits=lambda n: int.from_bytes(rng.bytes(16)) & ((1 << n) - 1))
    seen = np.mean([[int(b) for b in f"{ids.uuid7(NOW, drawn).int:0128b}"] for _ in range(600)], axis=0)
    moving = [i for i, share in enumerate(seen) if 0 < share < 1]
    assert moving == [*range(52, 64), *range(66, 128)]


def test_the_volume_of_the_creep_frame_is_that_of_its_outline():
    """The C as a polygon, by the shoelace formula, less two round holes."""
    f = CREEP_FRAME
    high, out = f.opening + 2 * f.width, f.width + f.reach
    outline = np.array(
        [(0, 0), (out, 0), (out, f.width), (f.width, f.width), (f.width, f.width + f.opening), (out, f.width + f.opening), (out, high), (0, high)]
    )
    x, y = outline.T
    area = abs(np.dot(x, np.roll(y, -1)) - np.dot(y, np.roll(x, -1))) / 2
    # two lugs, 4 mm along the limb, bring the gauge faces from 30 mm to 20 mm
    area += 4 * (30 - 20)
    assert f.volume == pytest.approx((area - 2 * np.pi * f.pin_hole**2 / 4) * f.thickness / 1000)
    # and with limbs of another size, so that no number stands in for another
    other = type(f)("c", "c", 5, 3, 21, 17, 18, 4)
    assert other.volume == pytest.approx(((21 + 10) * 5 + 2 * 17 * 5 + 4 * 3 - 2 * np.pi * 4) * 3 / 1000)


def test_a_day_to_come_is_asked_about_with_the_day_that_was_likely_meant():
    def asked(at, now=NOW):
        found = question_past("started_at", at, now, "started at")
        return None if found is None else (found.text, found.likely)

    # an instant has two minutes for clocks that differ, a day one for zones
    assert asked(NOW + timedelta(minutes=2)) is None
    assert asked(NOW + timedelta(minutes=2, seconds=1)) is not None
    assert asked(date(2026, 11, 24)) is None
    # of today the hour is said, of other days the day
    assert asked(NOW + timedelta(hours=3))[0].startswith("started at 2026-11-23 13:00 lies in the future")
    assert asked(NOW + timedelta(days=3))[0].startswith("started at 2026-11-26 lies in the future")
    assert asked(date(2026, 11, 25))[0].startswith("started at 2026-11-25 lies in the future")
    # day and month exchanged, up to the twelfth; else the year before
    assert asked(date(2027, 12, 5), datetime(2027, 5, 30, tzinfo=UTC))[1] == "2027-05-12"
    assert asked(date(2026, 12, 12))[1] == "2025-12-12"
    assert asked(date(2026, 12, 13))[1] == "2025-12-13"
    # the 29th of February becomes the 28th of the year before, the 28th stays, in other months the 29th stays
    assert asked(date(2028, 2, 29), datetime(2028, 2, 1, tzinfo=UTC))[1] == "2027-02-28"
    assert asked(date(2026, 12, 29))[1] == "2025-12-29"
    # what has been longer ago than a year and a month was not meant either
    assert asked(date(2028, 12, 30))[1] is None


def test_an_end_before_its_start_says_minutes_below_two_hours():
    start = NOW
    for minutes, words in ((1, "1 min"), (61, "61 min"), (119, "119 min"), (120, "2 h"), (180, "3 h")):
        assert f"ends {words} before" in question_order("ended_at", start, start - timedelta(minutes=minutes), "drying").text


def test_a_gross_mass_ten_times_too_large_is_asked_with_the_tenth():
    assert question_net(1080 + 212, 212, 1000) is None, "8 % above the label is believed"
    asked = [question_gross(gross, 212, 1000, held) for gross, held in ((212, None), (213, None), (752, 752), (964, 752), (914, 752), (2200, None))]
    assert [None if q is None else q.likely for q in asked] == ["424", None, "964", None, None, "220"]
    assert question_gross(752, None, 1000, 752) is None, "without the empty spool nothing can be said"
    assert question_net(1081 + 212, 212, 1000).likely == "1212"
    # a tenth of it is right as long as that is above nothing and not above the label
    tenth = question_net(12920, 212, 1000)
    assert (tenth.likely, tenth.key) == ("1292", "gross=12920-212")
    assert "net 12708 g is 1171% above the label: was 1292 g meant?" in tenth.text
    assert question_net(12930, 212, 1000).likely is None
    assert question_net(2120, 212, 1000).likely is None, "a tenth of it would be an empty spool"
    assert question_net(1599 + 212, 212, 1000).likely == "1212"
    assert question_net(1601 + 212, 212, 1000).likely is None
    missing = question_net(1212, None, 1000)
    assert (missing.key, missing.likely) == ("gross=1212-0", "212")
    assert "likely about 212 g" in missing.text


def fit_of(settings, hardware=None, **window):
    """What is missed, by its rule, and what could not be checked."""
    report = check_fit(Filament("Clearwater", "PETG", None, 1.75, Window(**window)), hardware or Hardware(name="Jack"), settings)
    return {m.rule: m.text for m in report.misses}, report.unchecked


def test_the_flow_may_reach_the_limit_and_says_how_slow_is_slow_enough():
    bead = {"line_width": 0.5, "layer_height": 0.2}
    a_second = volumetric_flow(0.5, 0.2, 1)
    limit = 12 / a_second
    for speed, missed in ((limit, False), (limit * 1.0001, True)):
        assert ("flow" in fit_of(Settings(speed=speed, **bead), flow_max=12)[0]) is missed
    slow = fit_of(Settings(speed=200, **bead), flow_max=12)[0]["flow"]
    assert slow.endswith(f": at most {limit:.0f} mm/s with this bead")
    # a flow that is set itself is not slowed by the speed; without a bead nothing is known
    assert fit_of(Settings(speed=150, flow=15, **bead), flow_max=12)[0]["flow"].endswith("limit of 12 mm³/s")
    assert fit_of(Settings(flow=15), flow_max=12)[0]["flow"].endswith("limit of 12 mm³/s")
    for missing in ("speed", "line_width", "layer_height"):
        given = {"speed": 150, **bead} | {missing: None}
        assert "volumetric flow (limit 12 mm³/s)" in fit_of(Settings(**given), flow_max=12)[1], missing
    assert f"volumetric flow {150 * a_second:.1f} mm³/s: the maker gives no limit" in fit_of(Settings(speed=150, **bead))[1]


def test_a_set_temperature_is_held_against_the_window_and_the_printer():
    jack = Hardware(name="Jack", nozzle_hottest=260, bed_hottest=80, chamber_hottest=50)
    assert fit_of(Settings(nozzle_temperature=260), jack, nozzle_low=230, nozzle_high=260)[0].keys().isdisjoint({"nozzle", "nozzle limit"})
    hot = fit_of(Settings(nozzle_temperature=261), jack, nozzle_low=230, nozzle_high=260)[0]
    assert {"nozzle", "nozzle limit"} <= hot.keys()
    # nothing set: the least that the maker asks for must be reached; of the chamber it is said once
    assert "bed limit" in fit_of(Settings(), jack, bed_low=81, bed_high=90)[0]
    assert "bed limit" not in fit_of(Settings(), jack, bed_low=80, bed_high=90)[0]
    cold = fit_of(Settings(), jack, chamber_low=60, chamber_high=70)[0]
    assert "chamber" in cold
    assert "chamber limit" not in cold
    assert "chamber limit" in fit_of(Settings(chamber_temperature=60), jack, chamber_low=60, chamber_high=70)[0]
    assert "chamber" not in fit_of(Settings(), jack, chamber_low=50, chamber_high=70)[0]
    assert "chamber" not in fit_of(Settings(), Hardware(name="Jack"), chamber_low=60, chamber_high=70)[0]
    assert "print speed 80 mm/s: the maker gives no range" in fit_of(Settings(speed=80))[1]
    assert "print speed (wanted at most 60 mm/s)" in fit_of(Settings(), speed_high=60)[1]
    assert "speed" in fit_of(Settings(speed=61), speed_high=60)[0]


@pytest.mark.parametrize(
    ("filler", "wears"), [(None, False), ("carbon fibre", True), ("Carbon Fibre 15 %", True), ("glass fibre", True), ("wood", True), ("cork", False)]
)
def test_which_fillers_wear_brass(filler, wears):
    assert abrasive(filler) is wears
