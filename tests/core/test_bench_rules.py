"""Stepped bending, shear, hardness, ratios: METHODS 2, 3, 5 and 11 at their edges, by second computations."""

from datetime import UTC, datetime

import numpy as np
import pytest

from assayer.core.errors import EntryError
from assayer.core.methods import REGISTRY
from assayer.core.methods.derived import LAYER_RATIO, TestFacts, bound_of_ratio
from assayer.core.methods.inputs import Entry, Inputs
from assayer.core.methods.stepped_bending import SteppedProtocol
from assayer.core.methods.vocabulary import Bound
from assayer.core.stats.verdicts import GroupBounds

DAY, HOUR = 86400.0, 3600.0
START = datetime(2026, 6, 1, 8, 0, tzinfo=UTC)


def reduce(name, entries, **more):
    return REGISTRY[name].reduced(Inputs(entries, **more))


# ---- stepped bending -----------------------------------------------------------------------------


@pytest.mark.parametrize(("span", "told"), [(59.0, True), (60.0, False), (64.0, False), (68.0, False), (69.0, True)])
def test_a_span_beyond_16_times_the_thickness_give_or_take_one_is_told(span, told):
    warnings = stepped(at(20, 0.300, 0.310, 0.320), (20.0,), span=span).warnings
    assert any(f"the span is {span / 4:.1f} times the thickness" in w for w in warnings) == told


def stepped(rows, ladder=(20.0, 40.0, 80.0), outcome=None, step=0.01, residual=None, width=10.0, thickness=4.0, span=64.0):
    entries = [Entry("width", width), Entry("thickness", thickness)]
    entries += [Entry("deflection", s, i, after=t, load=f) for i, (f, t, s) in enumerate(rows)]
    if residual is not None:
        entries.append(Entry("residual", residual))
    return reduce("stepped-bending", entries, geometry={"span": span}, outcome=outcome, steps={"deflection": step}, protocol=SteppedProtocol(ladder=ladder))


def at(load, first, middle, last):
    return [(load, 5.0, first), (load, 20.0, middle), (load, 80.0, last)]


def test_each_quantity_of_a_step_by_hand():
    """b 10, h 4, L 64: σ = 3FL/(2bh²) = 0.6 F; E = ΔF·64³/(4·10·64·Δs); growth on log10 of time, four to one."""
    found = stepped(at(20, 0.300, 0.310, 0.320) + at(40, 0.620, 0.640, 0.664), (20.0, 40.0), residual=0.05)
    assert found.get("deflection@40").value == 0.640
    assert found.get("stress@40").value == pytest.approx(24.0)
    assert found.get("drift@20").value == pytest.approx(100 * 0.02 / 0.30)
    assert found.get("modulus@40").value == pytest.approx(20 * 64**3 / (4 * 10 * 64 * 0.33))
    assert found.get("modulus@20") is None, "from successive loads, not from none"
    assert found.get("growth@40").value == pytest.approx(np.polyfit(np.log10([5, 20, 80]), [0.620, 0.640, 0.664], 1)[0])
    assert found.get("residual_deflection").value == 0.05


@pytest.mark.parametrize("step, there", [(0.030, True), (0.0301, False), (0.0, True)])
def test_no_drift_where_the_first_reading_is_below_ten_steps(step, there):
    found = stepped(at(20, 0.300, 0.310, 0.320), (20.0,), step=step)
    assert (found.get("drift@20") is not None) == there


@pytest.mark.parametrize("last, expected, bound", [(0.743, 40.0, Bound.AT_LEAST), (0.746, 20.0, Bound.EXACT)])
def test_a_load_is_steady_until_the_drift_doubles(last, expected, bound):
    """10 % at 20 N; from 0.62 mm at 40 N, 20 % is 0.744 mm."""
    found = stepped(at(20, 0.300, 0.310, 0.330) + at(40, 0.62, 0.65, last), (20.0, 40.0), outcome="held", step=0.001).get("load_carried")
    assert (found.value, found.bound) == (expected, bound)
    assert bool(found.warnings) == (bound is Bound.EXACT)
    assert found.reading_step == 20.0, "the step of the ladder"


def test_a_bar_that_broke_carried_what_it_was_read_under_to_the_last():
    found = stepped(at(20, 0.300, 0.310, 0.320) + at(40, 0.62, 0.64, 0.66), (20.0, 40.0, 80.0), outcome="broke").get("load_carried")
    assert (found.value, found.bound) == (40.0, Bound.EXACT)


def test_a_late_reading_is_brought_to_the_middle_time_on_the_logarithm_of_time():
    """Read after 5, 40 and 80 s: at 20 s it stood at 0.3 + 0.03·ln 4/ln 8."""
    rows = [(20.0, 5.0, 0.300), (20.0, 40.0, 0.330), (20.0, 80.0, 0.335)]
    assert stepped(rows, (20.0,)).get("deflection@20").value == pytest.approx(0.300 + 0.030 * np.log(4) / np.log(8))
    never = [(20.0, 30.0, 0.330), (20.0, 80.0, 0.335)]
    assert stepped(never, (20.0,)).get("deflection@20").value == 0.335, "not beyond what was read: the middle reading stands"


@pytest.mark.parametrize(
    "row, words", [((None, 5.0, 0.3), "each reading needs its load"), ((0.0, 5.0, 0.3), "each reading needs its load"), ((20.0, 0.0, 0.3), "above 0 s")]
)
def test_a_deflection_without_load_or_time_is_refused(row, words):
    with pytest.raises(EntryError, match=words) as refused:
        stepped([row], (20.0,))
    assert refused.value.field == "deflection"


def test_a_rise_within_three_steps_is_no_proof():
    """Drift doubles, but from 2.00 to 2.05 mm at a step of 0.02 is less than 3 r."""
    rows = at(20, 1.000, 1.005, 1.010) + at(40, 2.00, 2.03, 2.05)
    assert stepped(rows, (20.0, 40.0), outcome="held", step=0.02).get("load_carried").bound is Bound.AT_LEAST
    assert stepped(rows, (20.0, 40.0), outcome="held", step=0.01).get("load_carried").value == 20.0
    # 0.05 mm is 3.1 steps of 0.016 mm, and 2.9 of 0.017 mm
    found = [stepped(rows, (20.0, 40.0), outcome="held", step=step).get("load_carried").bound for step in (0.016, 0.017)]
    assert found == [Bound.EXACT, Bound.AT_LEAST]


def test_a_span_that_is_none_of_the_standard_and_a_large_deflection_are_remarked():
    usual = stepped(at(20, 0.30, 0.31, 0.32), (20.0,)).warnings
    assert not any("span" in w for w in usual)
    assert any("span" in w for w in stepped(at(20, 0.30, 0.31, 0.32), (20.0,), span=56.0).warnings)
    assert any("a tenth of the span" in w for w in stepped(at(20, 6.3, 6.45, 6.5), (20.0,)).warnings)
    assert not any("a tenth of the span" in w for w in stepped(at(20, 6.2, 6.3, 6.35), (20.0,)).warnings)


@pytest.mark.parametrize(
    "wrong, field", [({"ladder": (40.0, 20.0)}, "ladder"), ({"ladder": ()}, "ladder"), ({"times": (5.0, 5.0)}, "times"), ({"times": (0.0, 5.0)}, "times")]
)
def test_a_ladder_and_its_times_rise(wrong, field):
    with pytest.raises(EntryError) as refused:
        SteppedProtocol.read(wrong, "Stepped bending")
    assert refused.value.field == field


# ---- shear, hardness, ratios ---------------------------------------------------------------------


def test_shear_of_round_and_rectangular_sections_single_and_double():
    """METHODS 3: 63 kgf, two of 5 × 5 mm → 12.356 MPa; 640 N, one Ø 5.5 mm → 26.938 MPa."""
    two = [Entry("width", 5.0), Entry("thickness", 5.0), Entry("peak_force", 63 * 9.80665)]
    assert reduce("shear", two).get("shear_strength").value == pytest.approx(12.356, abs=5e-4), "two sections unless the rig says one"
    one = [Entry("diameter", 5.5), Entry("sections", 1.0), Entry("peak_force", 640.0)]
    assert reduce("shear", one).get("shear_strength").value == pytest.approx(26.938, abs=5e-4)
    from_rig = reduce("shear", two, geometry={"sections": 1.0}).get("shear_strength").value
    assert from_rig == pytest.approx(2 * 12.356, abs=1e-3)
    stepped_rig = reduce("shear", two, steps={"peak_force": 5.0})
    assert stepped_rig.get("shear_strength").reading_step == pytest.approx(5.0 / 50)
    with pytest.raises(EntryError, match="one or two sections"):
        reduce("shear", [*two, Entry("sections", 3.0)])
    with pytest.raises(EntryError, match="either a diameter or width and thickness"):
        reduce("shear", [*two, Entry("diameter", 5.0)])


@pytest.mark.parametrize("outcome, bound", [("sheared", Bound.EXACT), ("bent", Bound.AT_LEAST), ("not sheared", Bound.AT_LEAST), (None, Bound.EXACT)])
def test_what_was_not_cut_through_bounds_its_strength(outcome, bound):
    method = REGISTRY["shear"]
    result = reduce("shear", [Entry("width", 5.0), Entry("thickness", 5.0), Entry("peak_force", 600.0)]).get("shear_strength")
    assert method.bound_of(result, outcome, "counts") is bound


def test_hardness_is_the_mean_of_its_indents_and_says_what_is_odd():
    found = reduce("hardness", [Entry("indents", v, i) for i, v in enumerate((70, 72, 71, 73, 74))], steps={"indents": 0.5})
    assert (found.get("shore_d").value, found.get("shore_d").reading_step, found.warnings) == (72.0, pytest.approx(0.5 / 5**0.5), [])
    above = reduce("hardness", [Entry("indents", v, i) for i, v in enumerate((100, 100.5, 99, 98, 97))])
    assert any("above 100" in w for w in above.warnings)
    assert not any("above 100" in w for w in reduce("hardness", [Entry("indents", 100.0, i) for i in range(5)]).warnings)


def facts(**more):
    return TestFacts(**{"method": "tension", "orientation": "upright", "shape": "s", "protocol": "p"} | more)


def test_a_layer_ratio_pairs_what_differs_in_orientation_alone():
    flat = facts(orientation="flat")
    assert LAYER_RATIO.pairs(facts(), flat)
    assert not LAYER_RATIO.pairs(flat, facts())
    for other in ({"shape": "t"}, {"protocol": "q"}, {"method": "shear"}, {"orientation": "on edge"}):
        assert not LAYER_RATIO.pairs(facts(), facts(**{"orientation": "flat"} | other)), other
    assert not LAYER_RATIO.pairs(facts(method="shear"), facts(method="shear", orientation="flat"))


@pytest.mark.parametrize(
    "above, below, expected",
    [
        (GroupBounds(), GroupBounds(), Bound.EXACT),
        (GroupBounds(at_least=1), GroupBounds(), Bound.AT_LEAST),
        (GroupBounds(), GroupBounds(at_least=2), Bound.AT_MOST),
        (GroupBounds(at_most=1), GroupBounds(), Bound.AT_MOST),
        (GroupBounds(), GroupBounds(at_most=1), Bound.AT_LEAST),
        (GroupBounds(at_least=1), GroupBounds(at_least=1), Bound.EXACT),
        (GroupBounds(at_least=1), GroupBounds(at_most=1), Bound.AT_LEAST),
    ],
)
def test_bounds_on_either_side_of_a_ratio_make_it_one(above, below, expected):
    assert bound_of_ratio(above, below) is expected


@pytest.mark.parametrize(
    "outcome, validity, modulus, strength",
    [
        (None, "counts", Bound.EXACT, Bound.EXACT),
        ("gauge", "counts", Bound.EXACT, Bound.EXACT),
        ("grip", "counts", Bound.EXACT, Bound.AT_LEAST),
        ("outside gauge", "counts", Bound.EXACT, Bound.AT_LEAST),
        (None, "at_least", Bound.EXACT, Bound.AT_LEAST),
        (None, "at_most", Bound.EXACT, Bound.AT_MOST),
        ("grip", "left_out", Bound.EXACT, Bound.EXACT),
    ],
)
def test_an_outcome_bounds_what_it_names_and_a_persons_word_what_any_could(outcome, validity, modulus, strength):
    from assayer.core.methods.results import Result

    method = REGISTRY["tension"]
    assert method.bound_of(Result("apparent_modulus", 2000, "MPa"), outcome, validity) is modulus
    assert method.bound_of(Result("strength", 40, "MPa"), outcome, validity) is strength
    already = Result("strength", 40, "MPa", Bound.AT_LEAST)
    assert method.bound_of(already, "gauge", "counts") is Bound.AT_LEAST, "what the curve bounds, no outcome makes exact"


def test_quantities_by_load_and_time_are_labelled_so_and_no_other_key_is_known():
    bending, creep_method = REGISTRY["stepped-bending"], REGISTRY["creep"]
    assert bending.quantity("drift@80").label == "drift at 80 N"
    assert creep_method.quantity("recovered_share@360").label == "recovered share after 6 min"
    assert creep_method.quantity("recovered_share@60").label == "recovered share after 1 min"
    for wrong in ("drift", "load_carried@80", "nothing"):
        with pytest.raises(EntryError, match="has no quantity"):
            bending.quantity(wrong)
