"""Rules that stand in tables or at an edge, each by a second writing, a reference value or its two sides."""

import math
from itertools import combinations
from types import SimpleNamespace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from statsmodels.stats.proportion import proportion_confint

from assayer.core.advice.rules import RULES
from assayer.core.curves.breaking import _spread
from assayer.core.curves.recording import median
from assayer.core.curves.remarks import sudden_drops
from assayer.core.errors import EntryError
from assayer.core.gcode.inspection import inspect
from assayer.core.gcode.layers import _together, spread
from assayer.core.gcode.words import Remarks, read_words
from assayer.core.plan.designs import Factor, fractional_factorial
from assayer.core.settings.beginnings import general_sheet
from assayer.core.settings.sheet import Schedule, Set, Sheet, check_sheet
from assayer.core.shapes import SHAPES
from assayer.core.shapes.relief import figures
from assayer.core.stats.shares import wilson
from assayer.core.stats.shrinkage import fit_shrinkage
from assayer.services.gcode.inspections import inspection_view

from ..gcode_writer import tower


@pytest.mark.parametrize(("successes", "of"), [(0, 4), (8, 10), (1, 12), (5, 5), (137, 400), (3, 7)])
def test_wilsons_interval_is_that_of_a_second_program(successes, of):
    found = wilson(successes, of)
    low, high = proportion_confint(successes, of, method="wilson")
    assert (found.share, found.low, found.high) == (successes / of, pytest.approx(low, abs=1e-12), pytest.approx(high, abs=1e-12))


speeds = st.lists(st.tuples(st.floats(1, 300), st.floats(0.01, 30)), min_size=1, max_size=12)


@settings(max_examples=80, deadline=None)
@given(speeds, speeds)
def test_the_spread_of_two_stretches_is_that_of_both_together(first, second):
    a, b, both = (np.array(part, dtype=float) for part in (first, second, first + second))
    found = _together(spread(a[:, 0], a[:, 0], a[:, 1]), a[:, 1].sum(), spread(b[:, 0], b[:, 0], b[:, 1]), b[:, 1].sum())
    whole = spread(both[:, 0], both[:, 0], both[:, 1])
    assert (found.mean, found.scatter) == (pytest.approx(whole.mean), pytest.approx(whole.scatter, abs=1e-5))
    assert found.low == min(spread(a[:, 0], a[:, 0], a[:, 1]).low, spread(b[:, 0], b[:, 0], b[:, 1]).low)
    assert _together(None, 0, whole, 1) is whole


def test_what_is_usual_whatever_the_material():
    told = {name: held.value for name, held in general_sheet(0.4).values.items()}
    assert told == {
        "layer_height": 0.2, "layer_height_first": 0.2, "line_width": 0.44, "flow": 100, "perimeters": 3, "top_layers": 5, "bottom_layers": 4,
        "infill": 20, "supports": "none", "speed_outer": 30, "speed_inner": 45, "speed_infill": 50, "speed_travel": 120, "speed_first": 20,
        "acceleration": 1000, "retraction": 1, "retraction_speed": 30, "least_layer_time": 10, "fan": 30, "fan_first": 0, "brim": 0,
    }  # fmt: skip
    assert general_sheet(0.6).values["line_width"].value == 0.66


def test_steps_of_the_advice_go_the_way_that_mends():
    """A second writing of the signs: heat and speed where a symptom asks for them, and sizes that a print can show."""
    for rule in RULES:
        if rule.step is None:
            continue
        least, most = {
            "nozzle_temperature": (5, 10),
            "bed_temperature": (5, 10),
            "chamber_temperature": (5, 15),
            "fan": (10, 30),
            "fan_overhang": (10, 30),
        }.get(rule.setting, (0, math.inf))
        assert least <= abs(rule.step) <= most, rule
    towards = {(r.symptom, r.setting): r.step > 0 for r in RULES if r.step is not None}
    assert towards["supports hold", "nozzle_temperature"] is False
    assert towards["supports hold", "fan_overhang"] is True
    assert towards["popping", "nozzle_temperature"] is False


FRACTIONS = [(3, 1), (4, 1), (5, 1), (5, 2), (6, 1), (6, 2), (6, 3), (7, 2), (7, 3), (7, 4), (8, 3), (8, 4)]
RESOLUTION = {(3, 1): 3, (4, 1): 4, (5, 1): 5, (5, 2): 3, (6, 1): 6, (6, 2): 4, (6, 3): 3, (7, 2): 4, (7, 3): 4, (7, 4): 3, (8, 3): 4, (8, 4): 4}
"""Of the tabled designs of highest resolution: no main effect is mixed with one of fewer than so many factors less one."""


@pytest.mark.parametrize("fraction", FRACTIONS)
def test_every_fraction_is_orthogonal_and_of_the_highest_resolution(fraction):
    k, halvings = fraction
    design = fractional_factorial([Factor(f"f{i}", (-1, 1)) for i in range(k)], halvings)
    runs = np.array(design.runs)
    assert runs.shape == (2 ** (k - halvings), k)
    assert np.array_equal(runs.T @ runs, len(runs) * np.eye(k))
    # the shortest product of columns that is constant
    words = [size for size in range(1, k + 1) for cols in combinations(range(k), size) if abs(runs[:, cols].prod(axis=1).sum()) == len(runs)]
    assert min(words) == RESOLUTION[fraction]


def test_no_other_fraction_is_offered():
    with pytest.raises(EntryError):
        fractional_factorial([Factor(f"f{i}", (-1, 1)) for i in range(4)], 2)


def test_a_size_that_is_off_by_more_than_a_tenth_is_a_slip():
    sizes = ["outer", "outer"]
    assert fit_shrinkage([20, 80], [18.01, 72.2], sizes).shrinkage > 0.09
    with pytest.raises(EntryError, match=r"feature 2: 71\.9 mm measured where 80 mm are nominal"):
        fit_shrinkage([20, 80], [18.5, 71.9], sizes)
    # a small one may be off by a millimetre
    assert fit_shrinkage([5, 80], [4.01, 79.2], sizes)
    with pytest.raises(EntryError, match="feature 1"):
        fit_shrinkage([5, 80], [3.99, 79.2], sizes)


def test_a_number_stands_at_the_end_of_a_bar_that_is_broad_and_thick_enough():
    for name in ("bar", "notched-bar"):
        bar = SHAPES[name]
        place = bar.number_place
        assert (place.x, place.y, place.room, place.tall) == (-bar.overall / 2 + 6, 0, 8, 5)
        assert bar.resized({"width": 7}).number_place.tall == 4
        assert bar.resized({"width": 6.9}).number_place is None
        assert bar.resized({"thickness": 1.9}).number_place is None
        assert bar.resized({"thickness": 2}).number_place is not None


@pytest.mark.parametrize(
    ("sizes", "has_place"), [({"web": 8}, True), ({"web": 7.9}, False), ({"web": 8, "thickness": 2}, True), ({"web": 8, "thickness": 1.9}, False)]
)
def test_a_number_stands_on_a_frame_whose_side_is_broad_and_thick_enough(sizes, has_place):
    place = SHAPES["warp-frame"].resized(sizes).number_place
    assert (place is not None) is has_place


def test_a_pull_bar_needs_ends_beside_its_fillets():
    """From the geometry: half the rise of a fillet of radius r over a rise h lies √(2rh − h²) along the bar."""
    bar = next(s for s in SHAPES.values() if s.label.startswith("short pull bar"))
    rise = max(bar.end_width - bar.width, bar.end_thickness - bar.thickness) / 2
    least = bar.parallel + 2 * (math.sqrt(2 * bar.radius * rise - rise**2) + bar.pin_hole + 2)
    assert bar.resized({"overall": least + 0.01}).overall == pytest.approx(least + 0.01)
    with pytest.raises(EntryError, match="leaves no ends beside 24 mm"):
        bar.resized({"overall": least - 0.01})
    assert bar.resized({"pin_hole": bar.end_width - 3, "overall": 90})
    with pytest.raises(EntryError, match="leaves too little of ends"):
        bar.resized({"pin_hole": bar.end_width - 2.9, "overall": 90})
    plain = next(s for s in SHAPES.values() if s.family == "pull bar" and not s.pin_hole)
    assert plain.number_place.x == -plain.overall / 2 + 5
    assert plain.resized({"end_width": 7.9, "width": 3}).number_place is None
    assert plain.resized({"end_width": 8, "width": 3}).number_place.tall == 5


def test_a_robust_scatter_is_that_of_the_deviations():
    """1.4826 times the median deviation from the median: of 10, 11, 12, 19 about 11.5 that is 1.4826 · 1."""
    for values, expected in (([10.0, 11.0, 12.0, 19.0], 1.4826), ([-5.0, -5.0, -5.0], 0), ([3.0], 0), ([1.0, 2.0, 3.0, 4.0, 90.0], 1.4826)):
        assert median(np.array(values)) == np.median(values)
        assert _spread(np.array(values), median(np.array(values))) == pytest.approx(expected)


def test_of_many_drops_three_are_named_and_the_others_counted():
    teeth = np.concatenate([np.linspace(i * 100, i * 100 + 150, 30) for i in range(1, 7)])
    lines = SimpleNamespace(line=lambda row: row + 2)
    told = sudden_drops(lines, teeth, 0, teeth.size - 1, 0.0)
    assert len(told) == 4
    assert told[-1] == "2 more sudden drops of force"
    four = teeth[: 5 * 30]
    assert sudden_drops(lines, four, 0, four.size - 1, 0.0)[-1] == "1 more sudden drops of force"
    three = teeth[: 4 * 30]
    assert len(sudden_drops(lines, three, 0, three.size - 1, 0.0)) == 3


def test_strokes_of_a_figure_are_a_fifth_of_its_width_and_never_too_thin_to_print():
    assert [min(s.wide, s.tall) for s in figures("8", 20, 10)] == pytest.approx([0.2 * 5.5] * 7)
    assert [min(s.wide, s.tall) for s in figures("8", 20, 4)] == pytest.approx([0.6] * 7)
    # in a narrow room the figures are narrow, and so are their strokes
    narrow = figures("88", 8, 10)
    assert max(s.x + s.wide for s in narrow) <= 8 + 1e-9
    assert min(s.x for s in narrow) >= -1e-9


def test_a_notch_is_neither_needle_nor_plate():
    bar = SHAPES["notched-bar"]
    assert bar.resized({"angle": 10}).dimensions["angle"] == 10
    assert bar.resized({"angle": 120}).dimensions["angle"] == 120
    for angle in (9.9, 120.1):
        with pytest.raises(EntryError, match="between 10° and 120°"):
            bar.resized({"angle": angle})


def test_a_schedule_that_goes_the_wrong_way_is_told_by_its_way():
    falls = Sheet({"nozzle_temperature": Set(230, schedule=Schedule(step=-5, every=10, end=240))})
    rises = Sheet({"nozzle_temperature": Set(230, schedule=Schedule(step=5, every=10, end=220))})
    for told, way in ((falls, "falls"), (rises, "rises")):
        with pytest.raises(EntryError, match=f"{way} from 230: it can never reach"):
            check_sheet(told)


def test_the_spread_over_a_print_is_that_over_its_layers_by_their_time():
    found = inspect([tower(layers=20, feed=lambda n: 20 + n)])
    told = [(layer.speed, layer.laying_seconds) for layer in found.layers if layer.speed is not None]
    times = np.array([t for _, t in told])
    means = np.array([s.mean for s, _ in told])
    whole = found.over_layers("speed")
    assert whole.mean == pytest.approx(np.average(means, weights=times))
    within = np.average([s.scatter**2 for s, _ in told], weights=times)
    assert whole.scatter == pytest.approx(math.sqrt(within + np.average((means - whole.mean) ** 2, weights=times)))
    view = inspection_view(found)
    assert view.preparing_s + view.first_layer_s + view.rest_s == pytest.approx(view.time_s, abs=0.05)


def test_what_is_no_gcode_is_told_with_its_line():
    remarks = Remarks()
    read = read_words(b"G1 X1\n???\n%%start\nG1 X2\n", 5, remarks)
    assert read.row.tolist() == [0, 0, 3, 3]
    assert [(r.line, r.text) for r in remarks.told] == [(6, "'???' is no G-code"), (7, "'%%start' is no G-code")]


@pytest.mark.parametrize("line", ["g1x10y2", "G1  X10\tY2  ", "N7 G1 X10 Y2*93", "G1 X 10 Y2", "G1 X10 Y2 ; on"])
def test_one_move_is_the_same_however_it_is_written(line):
    remarks = Remarks()
    read = read_words(line.encode() + b"\nG1 X3\n", 1, remarks)
    if remarks.told:
        # what cannot be read is said, and the line is passed over
        assert line in ("G1 X 10 Y2")
        assert (read.row.tolist(), remarks.told[0].line) == ([1, 1], 1)
    else:
        assert [(int(r), chr(c), v) for r, c, v in zip(read.row, read.letter, read.value, strict=True)] == [
            (0, "G", 1), (0, "X", 10), (0, "Y", 2), (1, "G", 1), (1, "X", 3)
        ]  # fmt: skip
