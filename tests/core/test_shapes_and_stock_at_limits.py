"""Sizes of shapes and figures of the stock at the very value at which a rule turns, and just beside it."""

import math
from datetime import UTC, datetime, timedelta

import pytest

from assayer.core.errors import EntryError
from assayer.core.filament.bead import bead_section, flow_by_mass, flow_by_wall
from assayer.core.filament.fit import Filament, Hardware, Settings, check_fit, question_drying
from assayer.core.filament.mass import net_mass, prices
from assayer.core.filament.moisture import Drying, Storage, Stored, moisture_state
from assayer.core.filament.window import Window
from assayer.core.quantities.slips import question_order
from assayer.core.shapes import SHAPES

BESIDE = 0.01
# shape, the length that is changed, the first value that is refused, and on which side the others lie
REFUSED = [
    ("notched-bar", "depth", 10.0, -1),
    ("heat-bar", "free", 80.0, -1),
    ("torsion-rod", "diameter", 13.0, -1),
    ("creep-frame", "pin_hole", 8.0, -1),
    ("creep-frame", "faces", 30.0, -1),
    ("warp-frame", "web", 60.0, -1),
    ("bracket", "thickness", 45.0, -1),
    ("bracket", "lever", 45.0, -1),
    ("d638-i", "end_width", 13.0, 1),
]
# … and the last value that is taken
TAKEN = [
    ("check-piece", "length", 36.0, -1),
    ("check-piece", "width", 24.0, -1),
    ("short-pull-bar", "gauge_length", 24.0, 1),
    ("short-pull-bar", "end_thickness", 4.0, -1),
    ("short-pull-bar", "pin_hole", 9.0, 1),
    ("notched-bar", "angle", 10.0, -1),
    ("notched-bar", "angle", 120.0, 1),
]


@pytest.mark.parametrize(("name", "length", "value", "side"), REFUSED)
def test_a_size_at_which_nothing_is_left_is_refused(name, length, value, side):
    more = {"reach": 60.0} if length == "pin_hole" and name == "creep-frame" else {}
    with pytest.raises(EntryError) as caught:
        SHAPES[name].resized({length: value, **more})
    assert caught.value.field == length
    assert SHAPES[name].resized({length: value + side * BESIDE, **more}).dimensions[length] == pytest.approx(value + side * BESIDE)


@pytest.mark.parametrize(("name", "length", "value", "side"), TAKEN)
def test_a_size_that_just_fits_is_taken(name, length, value, side):
    more = {"overall": 90.0} if length == "pin_hole" else {}
    assert SHAPES[name].resized({length: value, **more}).dimensions[length] == value
    with pytest.raises(EntryError) as caught:
        SHAPES[name].resized({length: value + side * BESIDE, **more})
    assert caught.value.field == length


def test_limbs_of_the_creep_frame_need_room_for_lug_and_pin():
    frame = SHAPES["creep-frame"]
    reach = next(r / 10 for r in range(60, 300) if _fits(frame, r / 10))
    assert not _fits(frame, reach - 0.1)
    # the lug is 4 mm along the limb, the pin its own width
    assert reach == pytest.approx(4 + 6 + 0.1)


def _fits(frame, reach):
    try:
        frame.resized({"reach": reach})
    except EntryError:
        return False
    return True


@pytest.mark.parametrize(
    ("name", "least"),
    [
        ("bar", {"width": 7.0, "thickness": 2.0}),
        ("notched-bar", {"width": 7.0, "thickness": 2.0}),
        ("warp-frame", {"web": 8.0, "thickness": 2.0}),
        ("d638-v", {"end_width": 8.0}),
    ],
)
def test_a_number_is_sunk_where_there_is_just_room_for_it(name, least):
    assert SHAPES[name].resized(least).number_place is not None
    for length, value in least.items():
        assert SHAPES[name].resized(least | {length: value - BESIDE}).number_place is None, length


def test_a_bead_as_wide_as_high_is_a_round_one():
    assert bead_section(0.4, 0.4) == pytest.approx(math.pi * 0.04)
    for width, height, field in ((0.39, 0.4, "line_width"), (0.4, 0.0, "layer_height")):
        with pytest.raises(EntryError) as caught:
            bead_section(width, height)
        assert caught.value.field == field
    for flow in (lambda: flow_by_mass(100, 1, 1.24, 0.0), lambda: flow_by_wall(100, 0.45, 0.0)):
        with pytest.raises(EntryError, match="above 0"):
            flow()


def test_a_spool_weighs_more_than_its_empty_body_which_may_weigh_nothing():
    assert net_mass(0.1, 0.0) == 0.1
    for gross, empty, field in ((0.0, 0.0, "gross"), (5.0, -0.1, "empty"), (212.0, 212.0, "gross")):
        with pytest.raises(EntryError) as caught:
            net_mass(gross, empty)
        assert caught.value.field == field
    with pytest.raises(EntryError):
        prices(20.0, 0.0, 1.24)


NOW = datetime(2026, 6, 15, 10, tzinfo=UTC)


def state(stored, dryings=(), at=NOW):
    return moisture_state([Stored(NOW - timedelta(hours=h), where, damp) for h, where, damp in stored], dryings, at)


def drying(start, end, due=None):
    return Drying(NOW - timedelta(hours=start), None if end is None else NOW - timedelta(hours=end), 65.0, None if due is None else NOW - timedelta(hours=due))


def test_what_happens_at_the_instant_itself_has_happened():
    assert state([(0, Storage.OPEN, None)]).storage is Storage.OPEN
    assert state([(0, Storage.OPEN, None)]).words == "just opened, never dried"
    assert state([], [drying(0, None)]).kind == "drying"
    assert state([], [drying(4, 0)]).kind == "dried"
    assert state([], [drying(4, -0.01)]).kind == "drying", "its end is still to come"


def test_hours_in_the_open_are_told_from_one_hour_on_and_days_from_two():
    for hours, words in ((0.99, "just opened, never dried"), (1, "1 h open, never dried"), (47.9, "48 h open, never dried"), (48, "2 days open, never dried")):
        assert state([(hours, Storage.OPEN, None)]).words == words
    dried = drying(30, 20)
    for hours, told in ((0.99, False), (1, True)):
        found = state([(10 + hours, Storage.OPEN, None), (10, Storage.SEALED, None)], [dried])
        assert (", 1 h of it open" in found.words) is told
        assert found.open_hours == pytest.approx(hours)


def test_a_dry_box_is_dry_up_to_its_limit():
    for damp, hours in ((20.0, 0.0), (20.1, 6.0), (None, 0.0)):
        assert state([(6, Storage.DRY_BOX, damp)], [drying(20, 10)]).open_hours == hours


def test_a_dryer_that_is_due_now_is_not_over_its_time_yet():
    assert state([], [drying(8, None, 0)]).words == "in the dryer at 65 °C, 0 min over its time"
    assert state([], [drying(8, None, -0.5)]).words == "in the dryer at 65 °C, 30 min left"
    assert state([], [drying(8, None, 1)]).words == "in the dryer at 65 °C, 1 h over its time"


def test_an_end_at_its_start_is_in_order():
    assert question_order("ended_at", NOW, NOW, "drying") is None
    assert question_order("ended_at", NOW, NOW - timedelta(minutes=1), "drying") is not None


def missed(filament=None, hardware=None, settings=None, **window):
    told = {"name": "Everyday", "polymer": "PLA", "filler": None, "diameter": 1.75, "window": Window(**window)} | (filament or {})
    report = check_fit(Filament(**told), Hardware(**{"name": "Jack"} | (hardware or {})), Settings(**(settings or {})))
    return {m.rule: m.level for m in report.misses}


@pytest.mark.parametrize(
    ("rule", "fits", "misses"),
    [
        ("nozzle size", ({}, {"nozzle": 0.6}, {}, {"nozzle_min": 0.6}), ({}, {"nozzle": 0.59}, {}, {"nozzle_min": 0.6})),
        ("nozzle size", ({"filler": "carbon fibre"}, {"nozzle": 0.4}, {}, {}), ({"filler": "carbon fibre"}, {"nozzle": 0.39}, {}, {})),
        ("strand diameter", ({}, {"strand": 1.94}, {}, {}), ({}, {"strand": 1.96}, {}, {})),
        ("spool bore", ({"bore": 52.1, "body": "plastic"}, {"holder": 52.0}, {}, {}), ({"bore": 52.0, "body": "plastic"}, {"holder": 52.0}, {}, {})),
        ("chamber", ({}, {"chamber_hottest": 50}, {}, {"chamber_low": 50}), ({}, {"chamber_hottest": 49}, {}, {"chamber_low": 50})),
        ("bed limit", ({}, {"bed_hottest": 90}, {"bed_temperature": 90}, {}), ({}, {"bed_hottest": 89}, {"bed_temperature": 90}, {})),
        ("flow", ({}, {}, {"flow": 12}, {"flow_max": 12}), ({}, {}, {"flow": 12.01}, {"flow_max": 12})),
        ("balance", ({"left": 105.0}, {}, {"mass": 100}, {}), ({"left": 104.9}, {}, {"mass": 100}, {})),
    ],
)
def test_a_print_fits_at_the_limit_and_misses_beside_it(rule, fits, misses):
    assert rule not in missed(*fits[:3], **fits[3])
    assert rule in missed(*misses[:3], **misses[3])


def test_too_little_is_more_than_hardly_enough():
    assert missed({"left": 100.0}, settings={"mass": 100})["balance"] == "should"
    assert missed({"left": 99.9}, settings={"mass": 100})["balance"] == "must"


@pytest.mark.parametrize(
    ("hours", "heat", "open_hours", "wet"),
    [(7.2, 65, 0, False), (7.1, 65, 0, True), (8, 60, 0, False), (8, 59.9, 0, True), (8, 65, 336, False), (8, 65, 336.1, True)],
)
def test_dried_enough_is_nine_tenths_of_the_time_five_degrees_cooler_and_not_open_too_long(hours, heat, open_hours, wet):
    """PLA takes up water slowly: two weeks open."""
    end = open_hours + 1
    last = Drying(NOW - timedelta(hours=end + hours), NOW - timedelta(hours=end), heat, None)
    stored = [Stored(NOW - timedelta(hours=open_hours), Storage.OPEN, None)] if open_hours else []
    moist = moisture_state(stored, [last], NOW)
    assert ("moisture" in missed({"moisture": moist}, dry_temperature=65, dry_time=8)) is wet


def test_a_spool_that_was_never_dried_may_lie_open_as_long_as_its_polymer_allows():
    for hours, wet in ((336, False), (336.1, True)):
        moist = moisture_state([Stored(NOW - timedelta(hours=hours), Storage.OPEN, None)], [], NOW)
        assert ("moisture" in missed({"moisture": moist})) is wet


def test_drying_at_the_limit_of_spool_or_maker_is_no_question():
    window = Window(dry_temperature=65, dry_limit=70)
    assert question_drying(70, window, 70, "Everyday") is None
    assert "turns may fuse" in question_drying(70.1, window, None, "Everyday")
    assert "warp and jam" in question_drying(70.1, window, 70, "Everyday")
