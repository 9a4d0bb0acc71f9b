"""The tower that is proposed: inside what maker and printer allow, around the value in use, temperatures from hot to cold."""

import pytest

from assayer.core.errors import EntryError
from assayer.core.filament.fit import Hardware
from assayer.core.filament.window import Window
from assayer.core.settings.proposal import propose_series
from assayer.core.settings.series import STEPPED, check_series


def values(name, current, window=None, hardware=None):
    window, hardware = window or Window(), hardware or Hardware()
    series = propose_series(name, current, window, hardware)
    assert all(w.name in ("file", "direction") for w in check_series(series, window, hardware)), "what is proposed raises no caution of a window"
    return series.values


def test_a_temperature_tower_lies_in_the_makers_window_around_the_value_in_use():
    window = Window(nozzle_low=215, nozzle_high=235)
    assert values("nozzle_temperature", 225, window) == [235, 230, 225, 220, 215]
    assert values("nozzle_temperature", 228, window) == [233, 228, 223, 218]
    assert values("nozzle_temperature", 250, window) == [235, 230, 225, 220, 215], "a value outside is brought to the window's edge"
    assert values("nozzle_temperature", None, window) == [235, 230, 225, 220, 215], "without a value, around the middle"


def test_the_printer_and_the_setting_itself_bound_it_too():
    assert values("nozzle_temperature", 255, Window(nozzle_low=240, nozzle_high=280), Hardware(nozzle_hottest=260)) == [260, 255, 250, 245, 240]
    assert values("fan", 10) == [10, 30, 50, 70, 90], "a fan goes from 0 to 100 %"
    assert values("retraction", 0.8) == [0.2, 0.4, 0.6, 0.8, 1.0, 1.2]
    assert values("speed", 100) == [60, 80, 100, 120, 140]


def test_a_wide_window_gives_no_more_bands_than_can_be_judged():
    assert values("nozzle_temperature", 230, Window(nozzle_low=190, nozzle_high=280)) == [240, 235, 230, 225, 220, 215]


def test_a_window_narrower_than_a_step_is_halved():
    assert values("nozzle_temperature", 220, Window(nozzle_low=219, nozzle_high=223)) == [222, 220]
    assert values("nozzle_temperature", None, Window(nozzle_low=219, nozzle_high=223)) == [223, 221, 219]


def test_a_bed_has_five_bands_and_a_window_with_one_end_says_nothing_of_its_middle():
    assert values("bed_temperature", 70, Window(bed_low=55, bed_high=90)) == [80, 75, 70, 65, 60]
    assert values("nozzle_temperature", None, Window(nozzle_low=235)) == [260, 255, 250, 245, 240, 235]


@pytest.mark.parametrize("name", STEPPED)
def test_with_nothing_known_every_proposal_can_be_printed(name):
    assert 2 <= len(values(name, None)) <= 6


def test_what_cannot_be_stepped_is_refused():
    with pytest.raises(EntryError, match="cannot be stepped"):
        propose_series("layer_height", 0.2, Window(), Hardware())


def test_a_retraction_tower_says_before_it_is_planned_which_files_it_needs():
    series = propose_series("retraction", 0.8, Window(), Hardware())
    assert ["G10" in w.text and "moves of the extruder" in w.text for w in check_series(series)] == [True]
    assert check_series(propose_series("fan", 40, Window(), Hardware())) == []
