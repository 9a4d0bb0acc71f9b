"""Plans, means, ranks and advice where a rule says "more than" or "at least": the limit itself, and just beside it."""

import math
from dataclasses import replace

import pytest

from assayer.core.advice.next_steps import moved
from assayer.core.advice.rules import RULES
from assayer.core.advice.towers import ENOUGH, NEAR, _window
from assayer.core.errors import EntryError
from assayer.core.filament.claims import Statement, contradictions
from assayer.core.filament.diameter import DiameterSummary
from assayer.core.filament.fit import Filament, Hardware, Settings, _lie, _strand
from assayer.core.filament.intake import OVAL, Findings, Weight, _diameters
from assayer.core.filament.window import Span, Window
from assayer.core.formulas.errors import FormulaError
from assayer.core.formulas.grammar import LONGEST, parse
from assayer.core.methods.results import Bound
from assayer.core.plan import designs
from assayer.core.plan.fairness import shortcomings
from assayer.core.plan.study_plan import StudiedFactor
from assayer.core.ranking.estimates import Criterion, Estimate, Requirement
from assayer.core.ranking.ranking import _near_enough
from assayer.core.settings.declared import setting
from assayer.core.settings.limits import flow_warnings, within
from assayer.core.settings.sheet import Schedule, Set, Sheet, check_sheet
from assayer.core.shapes.gauges import CHECK_PIECE
from assayer.core.stats.grades import compare_grades, kendall_w
from assayer.core.stats.outliers import OutlierHint
from assayer.core.stats.shrinkage import fit_shrinkage
from assayer.core.stats.weibull import fit_weibull

from .test_fairness import BOTH, DAY_A, DAY_B, A, B, at, on, plan


def names(told):
    return [u.name for u in shortcomings(told)]


def test_a_window_holds_what_is_printed_at_its_ends():
    for window, wrong in (((230, 240), False), ((220, 230), False), ((231, 240), True), ((220, 229), True)):
        told = plan(A, replace(B, window={"nozzle_temperature": window}))
        assert bool(names(told)) is wrong, window


def test_rooms_four_degrees_apart_are_alike():
    def of(cold):
        return plan(on(A, replace(DAY_A, ambient=20), replace(DAY_B, ambient=20)), on(B, replace(DAY_A, ambient=cold), replace(DAY_B, ambient=cold)))

    assert "room differs" not in names(of(16))
    assert "room differs" in names(of(15.9))


def test_one_arm_differs_from_nothing_and_one_replicate_asks_for_no_second_batch():
    for factor in (StudiedFactor.MATERIAL, StudiedFactor.SETTING, StudiedFactor.TREATMENT):
        alone = names(plan(replace(A, treatment="annealed"), factor=factor))
        assert not {"nothing differs", "no control", "setting differs"} & set(alone), alone
    single = plan(on(A, BOTH[0]), on(B, BOTH[0]), replicates={"tension, flat": 1})
    assert "one batch" not in names(single)
    assert "one batch" in names(plan(on(A, BOTH[0]), on(B, BOTH[0]), replicates={"tension, flat": 2}))


def test_four_values_are_named_and_of_five_one_is_counted():
    labels = {"brim": ("brim", "mm")}
    four, five = ([replace(at(A, brim=float(i)), name=f"A{i}") for i in range(n)] for n in (4, 5))
    assert shortcomings(plan(*four, labels=labels))[0].text.endswith("3 mm (A3)")
    assert shortcomings(plan(*five, labels=labels))[0].text.endswith("3 mm (A3); and 1 more")


def test_a_composite_of_nothing_is_refused_by_its_settings():
    for wrong in ([], [designs.Factor("fan", (0.0, 50.0))] * 2):
        with pytest.raises(EntryError) as error:
            designs.central_composite(wrong)
        assert error.value.field == "factors"


def test_a_span_of_one_value_has_no_inside():
    assert within(70, Span(70, 70)) is None
    assert within(70, Span(60, 80)) == 0.5
    assert within(70, Span(None, 80)) is None


def test_a_flow_at_the_limit_is_no_warning():
    # a bead 0.2 mm high and as wide has the area of a circle
    sheet = Sheet({"line_width": Set(0.2), "layer_height": Set(0.2), "speed_infill": Set(100.0)})
    flow = math.pi * 0.1**2 * 100
    assert flow_warnings(sheet, Window(flow_max=flow)) == []
    assert len(flow_warnings(sheet, Window(flow_max=flow * 0.999))) == 1


def test_a_schedule_moves_every_layer_or_every_so_many():
    for every, refused in ((1, False), (0, True)):
        held = {"nozzle_temperature": Set(230.0, schedule=Schedule(1.0, every, 240.0))}
        if refused:
            with pytest.raises(EntryError, match="every so many layers"):
                check_sheet(Sheet(held))
        else:
            check_sheet(Sheet(held))


def test_a_moved_value_is_rounded_by_its_size():
    rule = replace(next(r for r in RULES if r.factor is not None), step=None, to=None)
    spec = setting("speed_infill")
    assert moved(spec, replace(rule, factor=1.0), 5.4) == 5
    assert moved(spec, replace(rule, factor=1.0), 5.6) == 6
    small = replace(setting("layer_height"), low=0.0, high=9.0)
    assert moved(small, replace(rule, factor=1.0), 4.996) == 5.0
    assert moved(small, replace(rule, factor=1.0), 4.126) == 4.13


def test_a_window_of_a_tower_begins_at_enough_and_holds_what_is_half_a_grade_below():
    values = [10.0, 20.0, 30.0, 40.0]
    assert _window("load", {1: ENOUGH}, values, "mm/s").first == 1
    assert _window("load", {1: ENOUGH - 0.5}, values, "mm/s").first is None
    best = 3.5
    found = _window("load", {1: best - NEAR, 2: best, 3: best - NEAR, 4: best - NEAR - 0.5}, values, "mm/s")
    assert (found.first, found.last) == (1, 3)
    assert "no difference" not in _window("load", {2: 3.0}, values, "mm/s").words
    assert "no difference" in _window("load", {2: 3.0, 3: 3.0}, values, "mm/s").words


def test_statements_a_twentieth_apart_are_one():
    def told(a, b):
        return len(contradictions(Window(), None, [Statement("a", "strength", "value", a), Statement("b", "strength", "value", b)]))

    assert (told(100.0, 95.0), told(100.0, 94.9)) == (0, 1)
    assert contradictions(Window(), 100.0, [Statement("x", "density", "value", 102.0)]) == []
    assert len(contradictions(Window(), 100.0, [Statement("x", "density", "value", 102.1)])) == 1


def test_a_strand_a_fifth_of_a_millimetre_off_does_not_feed():
    def misses(strand):
        return _strand(Filament("F", "PLA", "", 0.2, Window()), Hardware(name="P", strand=strand), Settings())

    assert misses(0.4) is not None
    assert misses(0.39) is None
    assert (_lie(47.5), _lie(48.0)) == ("47.5 h", "2 days")


def test_a_strand_is_oval_beyond_the_limit_and_refused_beyond_twice_it():
    def weights(ovality):
        d = DiameterSummary(4, 1.75, 0.0, 1.75, 1.75, ovality, 1.0, 0)
        return [r.leads_to for r in _diameters(Findings("PLA", nominal=1.75, diameters=d))]

    assert weights(OVAL) == []
    assert weights(1.01 * OVAL) == [Weight.NOTE]
    assert weights(2 * OVAL) == [Weight.NOTE]
    assert weights(2.01 * OVAL) == [Weight.REJECT]


def test_a_formula_has_at_most_its_length():
    parse("1".ljust(LONGEST))
    with pytest.raises(FormulaError, match=f"at most {LONGEST} characters"):
        parse("1".ljust(LONGEST + 1))


def test_as_near_as_is_required_is_near_enough():
    criterion = Criterion("size", 0.0, 20.0, required=20.5, near=True)

    def of(low, high, bound=Bound.EXACT):
        return _near_enough(criterion, Estimate(20.0, 0.1, 4.0, bound=bound), (low, high))

    assert of(19.5, 20.5) is Requirement.PASS
    assert of(19.4, 20.5) is of(19.5, 20.6) is Requirement.UNDECIDED
    assert of(18.0, 19.5) is of(20.5, 22.0) is Requirement.UNDECIDED, "the end of the interval is still near enough"
    assert of(18.0, 19.4) is of(20.6, 22.0) is Requirement.FAIL
    assert of(19.5, 20.0, Bound.AT_LEAST) is of(20.0, 20.5, Bound.AT_MOST) is Requirement.UNDECIDED
    # at what is wanted itself a lower bound can only lead away from it
    assert not criterion.may_improve(Estimate(20.0, 0.1, 4.0, bound=Bound.AT_LEAST))
    assert criterion.may_improve(Estimate(19.9, 0.1, 4.0, bound=Bound.AT_LEAST))


def test_two_orders_are_compared_and_two_sums_are_a_distribution():
    assert kendall_w([[1, 2], [2, 1]]) == 0
    assert kendall_w([[1, 2], [1, 2]]) == 1
    assert compare_grades({"a": [4]}, {"a": [1]}).p == pytest.approx(1.0), "either of two is as far off"


def test_what_is_as_far_off_as_chance_allows_does_not_stand_out():
    assert not OutlierHint(0, 1.9, 1.9).stands_out
    assert OutlierHint(0, 1.91, 1.9).stands_out


def test_a_reading_a_tenth_off_is_no_slip():
    fit_shrinkage([5.0, 20.0, 100.0], [6.0, 20.0, 110.0], ["outer"] * 3)
    for wrong in ([6.1, 20.0, 100.0], [5.0, 20.0, 110.1]):
        with pytest.raises(EntryError, match="decimal point"):
            fit_shrinkage([5.0, 20.0, 100.0], wrong, ["outer"] * 3)


def test_values_that_are_all_one_tell_no_spread_even_with_a_bound_there():
    for bounds in ((), (40.0,), (39.0,)):
        with pytest.raises(EntryError, match="all values are one"):
            fit_weibull([40.0] * 4, bounds)
    for wrong in ([0.0, 40.0, 41.0, 42.0], [-1.0, 40.0, 41.0, 42.0]):
        with pytest.raises(EntryError, match="above 0"):
            fit_weibull(wrong)


def test_a_check_piece_names_the_side_that_is_too_small():
    assert [replace(CHECK_PIECE, length=a, width=b).refusals()[:1] for a, b in ((36, 24),)] == [[]]
    assert replace(CHECK_PIECE, length=36, width=23.9).refusals()[0][0] == "width"
    assert replace(CHECK_PIECE, length=35.9, width=24).refusals()[0][0] == "length"
