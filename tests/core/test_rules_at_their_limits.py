"""Where a rule says "more than" or "at least", the limit itself; and what a rule leaves out."""

import math

import numpy as np
import pytest

from assayer.core.advice.next_steps import _same
from assayer.core.advice.rules import RULES
from assayer.core.curves.compliance import machine_compliance
from assayer.core.curves.recording import Recording
from assayer.core.curves.remarks import clipped
from assayer.core.errors import EntryError
from assayer.core.filament.claims import Statement, contradictions
from assayer.core.filament.mass import pieces_of
from assayer.core.filament.window import Span, Window
from assayer.core.formulas.errors import FormulaError
from assayer.core.formulas.grammar import parse
from assayer.core.gcode.inspection import Inspection, inspect
from assayer.core.gcode.judging import against_sheet
from assayer.core.gcode.layers import Layer, Spread
from assayer.core.methods import REGISTRY
from assayer.core.methods.inputs import Entry, Inputs
from assayer.core.methods.onset import passed_for_good
from assayer.core.settings.sheet import Difference, Schedule, Set, Sheet, check_sheet
from assayer.core.shapes.pull_bars import PULL_BARS
from assayer.core.stats.groups import Interval, summarise
from assayer.core.stats.ratios import ratio_of_means
from assayer.core.stats.verdicts import LARGE, MAYBE_SMALL, Verdict, VerdictWord, _nearer


@pytest.mark.parametrize(
    ("span", "words"), [(Span(70, 85), "70–85 °C"), (Span(70, 70), "70 °C"), (Span(50, None), "at least 50 °C"), (Span(None, 90), "at most 90 °C")]
)
def test_a_span_is_written_as_a_person_writes_it(span, words):
    assert span.words("°C") == words
    assert all(span.holds(edge) for edge in (span.low, span.high) if edge is not None)


def test_a_statement_at_the_limit_contradicts_nothing_and_one_beyond_it_does():
    window = Window(flow_max=12, nozzle_min=0.4, speed_high=80)
    for quantity, at, beyond in (("flow", 12, 12.1), ("nozzle_size", 0.4, 0.39), ("speed", 80, 81)):
        assert contradictions(window, None, [Statement("so", quantity, "value", at)]) == []
        assert len(contradictions(window, None, [Statement("so", quantity, "value", beyond)])) == 1, quantity
        assert contradictions(window, None, [Statement("so", quantity, "times", beyond)]) == [], "a factor is no value"
    # 2 % of what is kept is what prints of two decimals differ by
    assert contradictions(Window(), 1.0, [Statement("so", "density", "value", 1.0199)]) == []
    assert len(contradictions(Window(), 1.0, [Statement("so", "density", "value", 0.97)])) == 1
    # drying is contradicted by "no drying needed" alone, since nothing is known where no temperature is given
    dry = Window(dry_temperature=65)
    assert [c.first for c in contradictions(dry, None, [Statement("no", "drying", "not needed")])] == ["drying at 65 °C"]
    assert contradictions(Window(), None, [Statement("no", "drying", "not needed")]) == []


def rigid(force, travel):
    return Recording({"force": np.asarray(force, float), "travel": np.asarray(travel, float)})


def test_five_rows_under_load_tell_a_compliance_and_four_do_not():
    load = np.array([0, 25, 40, 55, 70, 90, 100.0])
    assert machine_compliance(rigid(load, load * 0.002)).value == pytest.approx(0.002)
    assert machine_compliance(rigid(-load, -load * 0.002)).rows == 5
    with pytest.raises(EntryError, match="too few rows"):
        machine_compliance(rigid(load[[0, 1, 2, 4, 5, 6]], load[[0, 1, 2, 4, 5, 6]] * 0.002))
    with pytest.raises(EntryError, match="too few rows"):
        machine_compliance(rigid(np.zeros(30), np.arange(30.0)))
    with pytest.raises(EntryError, match="exchanged"):
        machine_compliance(rigid(load, [0, 1, 2, 1, 2, 1.0, 1]))


def test_a_top_of_eight_equal_rows_is_a_signal_that_was_cut_off():
    for length, cut in ((7, False), (8, True)):
        assert clipped(np.array([500.0] * length + [200, 100])) is cut, "from its first row on"
    # after a step of one row it takes ten times as long as the step, after one of three thirty
    for length, below, cut in ((9, 1, False), (10, 1, True), (29, 3, False), (30, 3, True)):
        assert clipped(np.array([0, 100] + [300] * below + [500] * length + [200.0])) is cut, (length, below)


def layers(*speeds):
    return [Layer(0.2 * (i + 1), i + 1, contour_speed=None if s is None else Spread(s[0], s[0], s[1], 0.0), contour_seconds=1.0) for i, s in enumerate(speeds)]


def speed_findings(*speeds):
    found = Inspection(layers((30, 30), *speeds), 0, {0: 10.0}, 2.4, 10, 100)
    return [f.text for f in against_sheet(found, Sheet({"speed_outer": Set(100.0)})) if f.about == "speed_outer"]


def test_the_outer_contour_may_be_a_fifth_slower_and_a_twentieth_faster_than_the_sheet():
    assert speed_findings((80, 105), None) == []
    assert [("79" in t, "average" in t) for t in speed_findings((79, 100), (90, 100))] == [(True, True)]
    assert [("106" in t, "up to" in t) for t in speed_findings((90, 106), (95, 100))] == [(True, True)]


def test_layers_of_which_nothing_is_known_have_no_spread_and_others_are_weighted_by_time():
    def over(*told):
        found = Inspection([Layer(0.2, 1, speed=s, laying_seconds=t) for s, t in told], 0, {}, 2.4, 1, 1)
        return found.over_layers("speed")

    assert over((None, 5.0)) is None
    assert over((Spread(1, 2, 3, 0), 0.0)) is None
    both = over((Spread(10, 20, 30, 0), 1.0), (Spread(40, 60, 90, 0), 3.0), (None, 9.0))
    # by hand: (20 · 1 + 60 · 3) / 4, and √((30² · 1 + 10² · 3) / 4)
    assert (both.low, both.mean, both.high, both.scatter) == (10, 50, 90, pytest.approx(300**0.5))


def test_what_is_no_gcode_is_remarked_and_a_macro_is_kept():
    found = inspect([b"G1 X10 E1 F1200\n?? oil\nPURGE_NOW A=1\nG1 X20 E1\n"])
    assert [(r.line, "is no G-code" in r.text) for r in found.remarks] == [(2, True)]
    assert found.unknown == {"PURGE_NOW": 1}


def test_a_change_of_tool_is_where_the_filament_is_counted_anew():
    found = inspect([b"M83\nT0\nG1 X10 E1 F1200\nT1\nG1 X20 E2\nG1 X30 E2\nT0\nG1 X40 E4\n"])
    assert found.filament == {0: pytest.approx(5.0), 1: pytest.approx(4.0)}


def test_a_schedule_may_end_where_it_begins_and_moves_numbers_alone():
    check_sheet(Sheet({"nozzle_temperature": Set(230.0, schedule=Schedule(5, 3, 230))}))
    with pytest.raises(EntryError, match="no number"):
        check_sheet(Sheet({"infill_pattern": Set("lines", schedule=Schedule(1, 1, 2))}))
    with pytest.raises(EntryError, match="every so many layers"):
        check_sheet(Sheet({"nozzle_temperature": Set(230.0, schedule=Schedule(5, 0, 240))}))


def test_a_rule_without_a_way_was_followed_where_the_value_is_the_same():
    rule = next(r for r in RULES if not r.way)
    way = next(r for r in RULES if r.way)
    assert _same(rule, Difference(rule.setting, Set("a"), Set("b"), "", ""), "b")
    assert not _same(rule, Difference(rule.setting, Set("b"), Set("a"), "", ""), "b")
    assert not _same(rule, Difference(rule.setting, Set("b"), None, "", ""), "b")
    assert _same(way, Difference(way.setting, Set(10.0), Set(10.0 + way.way), "", ""), 0.0)
    assert not _same(way, Difference(way.setting, Set(10.0), Set(10.0 - way.way), "", ""), 0.0)


def test_a_bar_may_hang_down_at_the_temperature_at_which_it_began_to_sag():
    def seen(**values):
        return REGISTRY["heat-ramp"].reduce(Inputs([Entry(name, value) for name, value in values.items()]))

    found = seen(noticed_at=62.0, noticed_step=4.0, failed_at=60.0)
    assert [(r.key, r.value) for r in found.results] == [("sag_onset", 60.0), ("total_failure", 60.0)]
    with pytest.raises(EntryError, match="before it began to sag"):
        seen(noticed_at=62.0, noticed_step=4.0, failed_at=59.9)


def test_what_never_stays_above_before_the_end_is_not_passed_for_good():
    x = np.array([10.0, 20.0, 30.0])
    assert passed_for_good(x, np.array([-1.0, 1.0, 0.0])) is None, "it ends at the limit, not above it"
    assert passed_for_good(x, np.array([-1.0, 0.0, 2.0])) == 20.0
    assert passed_for_good(x, np.array([-1.0, 1.0, 2.0])) == 15.0
    assert passed_for_good(x, np.array([1.0, 1.0, 2.0])) == 10.0


def test_a_ratio_has_an_interval_as_long_as_one_of_the_two_scatters():
    still, moving = summarise([5.0, 5.0, 5.0]), summarise([10.0, 11.0, 12.0])
    assert ratio_of_means(still, still).ci95 is None
    for one, other in ((still, moving), (moving, still)):
        found = ratio_of_means(one, other)
        # only one of them scatters: its own degrees of freedom, and its variance alone
        assert (found.df, found.log_se) == (pytest.approx(2.0), pytest.approx((1 / 3 / 11**2) ** 0.5))


def test_as_far_on_the_other_side_needs_more_than_the_interval():
    def nearer(reference, group, half):
        return _nearer(Verdict("g", 0.0, Interval(-half, half), None, VerdictWord.UNDECIDED, 0.5), reference, group)

    assert nearer(-1.0, 1.0, 1.99).notes == ["off to the other side of the target, about as far"]
    assert nearer(-1.0, 1.0, 2.0).notes == []
    assert nearer(1.0, 1.0, 0.1).notes == []
    assert nearer(3.0, 1.0, 2.0).word is VerdictWord.UNDECIDED
    assert (nearer(3.0, 1.0, 1.99).word, nearer(3.0, 1.0, 1.99).notes) == (VerdictWord.BETTER, [MAYBE_SMALL])
    assert nearer(3.0, 1.0, 1.5).notes == [LARGE]


def test_a_fillet_of_a_quarter_turn_is_still_one():
    """Ends that are wider by twice the radius: the fillet takes just the radius of the length; any more, and there is none."""
    bar = PULL_BARS[0]
    assert not bar.resized({"end_width": bar.width + 2 * bar.radius, "overall": 400.0}).refusals()
    with pytest.raises(EntryError, match="leaves no ends"):
        bar.resized({"end_width": bar.width + 2 * bar.radius + 0.1, "overall": 400.0})


def test_a_number_takes_the_unit_behind_it_and_nothing_else():
    assert parse("2 mm").unit is not None
    for text in ("2 N", "2 MPa", "2 min"):
        assert parse(text).unit is not None
    for text in ("2 min(3, 4)", "2 frobs", "2 width"):
        with pytest.raises(FormulaError, match="write \\* before it"):
            parse(text)


def test_a_spool_gives_whole_pieces():
    assert [pieces_of(net, 8.2, None).count for net in (8.19, 8.2, 81.99, 82.0)] == [0, 1, 9, 10]
    assert pieces_of(750.0, 8.2, 24.6).cost == pytest.approx(24.6 * 8.2 / 750)
    for net, piece in ((0.0, 8.2), (750.0, 0.0), (math.nan, 1.0)):
        with pytest.raises(EntryError, match="must weigh something"):
            pieces_of(net, piece, None)
