"""Windows of graded towers: the longest run of the best, nothing below 2, and what was not graded."""

import pytest

from assayer.core.advice.towers import tower_windows

VALUES = [200.0, 205.0, 210.0, 215.0, 220.0, 225.0]


def layers(*grades, failed=None):
    by_band = {i: {"layers": g} for i, g in enumerate(grades, 1) if g is not None}
    (window,) = [w for w in tower_windows(VALUES, "°C", by_band, failed) if w.reading == "load"]
    return window.first, window.last, window.words


@pytest.mark.parametrize(
    "grades, first, last",
    [
        ((4, 2, 4, 4, 4, 1), 3, 5), ((4, 4, 1, 4, 1, 1), 1, 2), ((4, 3, 3, 4, 4, 3), 4, 5), ((3.5, 4, 3.5, 3, 3, 3), 1, 3), ((2, 1.5, 1.5, 1, 0, 0), 1, 1),
        ((4, None, 4, 4, 1, 1), 3, 4),
    ],
)  # fmt: skip
def test_the_longest_run_of_the_best_bands_is_the_window(grades, first, last):
    assert layers(*grades)[:2] == (first, last)


def test_no_band_below_two_and_none_from_the_failure_on():
    assert layers(1.5, 1, 1, 0, 0, 0) == (None, None, "no band is good enough: the best has 1.5 of 4")
    assert layers(2, 3, 4, 4, 4, 4, failed=4)[:2] == (3, 3)
    assert layers(3, 3, 3, 3, 3, 3)[2] == "no difference seen: 3 of 4 in all bands"


def test_a_trait_that_nobody_graded_is_not_a_good_one():
    grades = {i: {"stringing": 4} for i in range(1, 7)}
    found = {w.reading: (w.first, w.words) for w in tower_windows(VALUES, "°C", grades)}
    assert found == {"looks": (None, "not graded: surface finish"), "fine detail": (None, "not graded: fine detail")}
    grades = {i: {"stringing": 4, "surface": 3} if i < 4 else {"stringing": 4} for i in range(1, 7)}
    assert next(w for w in tower_windows(VALUES, "°C", grades) if w.reading == "looks").last == 3, "only bands that have both"
