"""When a reading is due, which backups stay, how many bands there are: at the very value at which the rule turns."""

from datetime import UTC, datetime, timedelta

import pytest

from assayer.core.errors import EntryError
from assayer.core.plan.due import due_readings, set_time
from assayer.core.plan.retention import worth_keeping
from assayer.core.settings.series import MOST_BANDS, Series, check_series, make_series

START = datetime(2026, 6, 15, 10, tzinfo=UTC)
TIMES = [600.0, 3600.0, 36000.0]


def states(seconds, read=()):
    return [d.state.value for d in due_readings(TIMES, START, read, START + timedelta(seconds=seconds))]


def test_a_window_holds_both_its_ends_and_what_is_beside_them_is_early_or_late():
    """An hour after, it is due from 10 % before to 10 % after: 3240 s to 3960 s; early as long again before."""
    told = {s: states(s, [0])[1] for s in (2519.9, 2520, 3239.9, 3240, 3960, 3960.1)}
    assert told == {2519.9: "ahead", 2520: "early", 3239.9: "early", 3240: "due", 3960: "due", 3960.1: "late"}


def test_what_is_late_is_missed_the_instant_the_next_one_opens_or_was_read():
    opens = 36000 * 0.9
    assert [states(s, [0])[1] for s in (opens - 0.1, opens)] == ["late", "missed"]
    assert states(opens - 0.1, [0, 2])[1] == "missed"
    assert states(10**7, [0, 1])[2] == "late", "the last one is never missed"


def test_windows_of_neighbours_meet_half_way_and_none_opens_before_its_start():
    close = due_readings([60.0, 90.0], START, [], START)
    assert [(d.opens, d.closes) for d in close] == [
        (START + timedelta(seconds=40), START + timedelta(seconds=75)), (START + timedelta(seconds=75), START + timedelta(seconds=110))
    ]  # fmt: skip
    assert due_readings([10.0], START, [], START)[0].opens == START


def test_a_reading_at_the_edge_of_a_window_takes_its_time():
    assert [set_time(s, TIMES) for s in (3960.0, 3960.1, 580.0, 660.0, 660.1)] == [3600.0, 3960.1, 600.0, 600.0, 660.1]


def test_a_backup_made_this_instant_is_of_the_past():
    now = datetime(2026, 6, 15, 10, tzinfo=UTC)
    made = {now, now - timedelta(hours=1), now + timedelta(seconds=1)}
    assert worth_keeping(made, now) == {now, now + timedelta(seconds=1)}, "of one day the latest stays; what is to come stays anyhow"


def test_a_series_has_from_two_to_forty_bands_of_two_millimetres_at_least():
    assert make_series("fan", 0, 2, None, 2.0 * (MOST_BANDS - 1), 5).count == MOST_BANDS
    assert check_series(Series("fan", 0, 2, 2, 2.0, 0.0)) == []
    assert check_series(Series("fan", 0, 2, MOST_BANDS, 2.0, 0.0)) == []
    for wrong, field in (
        (Series("fan", 0, 2, 1, 2.0, 0.0), "count"), (Series("fan", 0, 2, MOST_BANDS + 1, 2.0, 0.0), "count"), (Series("fan", 0, 2, 2, 1.99, 0.0), "band_height"),
        (Series("fan", 0, 2, 2, 2.0, -0.01), "base_height"), (Series("fan", 0, 0, 2, 2.0, 0.0), "step"), (Series("fan", 0, 101, 2, 2.0, 0.0), "step"),
    ):  # fmt: skip
        with pytest.raises(EntryError) as caught:
            check_series(wrong)
        assert caught.value.field == field
    assert check_series(Series("fan", 0, 100, 2, 2.0, 0.0)) == [], "100 % is a fan's greatest"
