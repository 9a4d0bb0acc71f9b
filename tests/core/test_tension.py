"""Tension against METHODS 1, the recorded curves of known truth, and properties that any reduction must have."""

import json
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from assayer.core.curves.loading import ToeLine
from assayer.core.curves.recording import Recording
from assayer.core.curves.stiffness import find_modulus, find_yield
from assayer.core.curves.travel import TravelScale
from assayer.core.errors import EntryError
from assayer.core.methods.tension import Section, reduce_curve, reduce_peak
from assayer.core.methods.vocabulary import Bound
from assayer.core.quantities.units import FORCE, parse_quantity
from assayer.notebook import reduce_file

CURVES = Path(__file__).parents[1] / "data/curves"
TRUTH = json.loads((CURVES / "truth.json").read_text())
TOLERANCE = {"strength": 0.003, "apparent_modulus": 0.01, "strain_at_break": 0.005, "energy_to_break": 0.005}


def values(curve):
    return {r.quantity: r.value for r in curve.reduction.results}


def pull(strength=40.0, modulus=2000.0, draw=0.0, slack=0.01, head=20, tail=40, noise=0.0, step=1e-4, hardening=0.0, seed=1):
    """Stress and nominal strain of a made-up pull, 1 mm² and 1 mm long."""
    # long enough for a soft, strong material to reach its strength
    strain = np.arange(0, max(0.035, 2 * strength / modulus), step)
    stress = modulus * strain * (1 + (modulus * strain / (1.1 * strength)) ** 4) ** -0.25
    top = int(np.argmax(stress >= strength))
    strain, stress = strain[: top + 1], stress[: top + 1]
    if draw:
        more = np.arange(step, draw, step)
        after = strength * (0.85 + 0.15 * np.exp(-more / 0.01)) if not hardening else strength + hardening * more
        strain, stress = np.append(strain, strain[-1] + more), np.append(stress, after)
    before = np.arange(-head, 0) * step
    beyond = strain[-1] + np.arange(1, tail + 1) * step
    strain = np.concatenate([before, strain, beyond]) + slack
    stress = np.concatenate([np.zeros(head), stress, np.zeros(tail)])
    return strain, stress + noise * np.random.default_rng(seed).standard_normal(stress.size)


def reduced(strain, stress, **more):
    compliance = more.pop("compliance", None)
    return reduce_curve(Recording.of(force=stress * 16.0, travel=strain * 25.0), Section([4.0], [4.0]), TravelScale(25.0, compliance=compliance), **more)


# ---- worked examples and recorded curves ---------------------------------------------------------


def test_strength_from_a_peak():
    """METHODS 1: 58.4 kgf on 4.02 × 3.97 mm → 572.708 N → 35.885 MPa."""
    peak = parse_quantity("58,4 kgf", FORCE).value
    reduction = reduce_peak(Section([4.02], [3.97]), peak)
    assert round(peak, 3) == 572.708
    assert round(reduction.get("strength").value, 3) == 35.885


def test_modulus_and_offset_yield_of_a_bent_curve():
    """METHODS 1: σ = 2000ε(1 + (ε/0.02)⁴)^(−1/4), step 0.0001 → 1999.87, 31.424 MPa at ε 0.01771."""
    strain = np.arange(0, 0.03, 0.0001)
    stress = 2000 * strain * (1 + (strain / 0.02) ** 4) ** -0.25
    modulus = find_modulus(stress, strain, 0, strain.size - 1, ToeLine(2000.0, 0.0))
    assert round(modulus.value, 2) == 1999.87
    found = find_yield(stress, strain, 0, strain.size - 1, modulus.value)
    assert round(found.stress, 3) == 31.424
    assert round(found.strain, 5) == 0.01771
    assert found.offset


@pytest.mark.parametrize("name", sorted(TRUTH))
def test_recorded_curves_meet_their_truth_without_hints(name):
    truth = TRUTH[name]
    reduction = reduce_file(
        "tension",
        CURVES / name,
        width=truth["width_mm"],
        thickness=truth["thickness_mm"],
        gauge_length=truth["gauge_length_mm"],
        compliance=truth["machine_compliance_mm_per_N"],
    )
    expected = {
        "strength": truth["strength_MPa"],
        "apparent_modulus": truth["modulus_MPa"],
        "strain_at_break": truth["strain_at_break"],
        "energy_to_break": truth["energy_MJ_m3"],
    }
    for quantity, value in expected.items():
        assert reduction.get(quantity).value == pytest.approx(value, rel=TOLERANCE[quantity]), quantity
    assert reduction.get("modulus") is None, "a modulus from crosshead travel is only apparent"


# ---- properties ----------------------------------------------------------------------------------


@given(factor=st.floats(0.05, 50))
@settings(max_examples=15, deadline=None)
def test_scaling_the_force_scales_the_stress_and_nothing_else(factor):
    strain, stress = pull(draw=0.05, noise=0.02)
    once, more = values(reduced(strain, stress)), values(reduced(strain, stress * factor))
    for quantity in once:
        scales = 1.0 if "strain" in quantity else factor
        assert more[quantity] == pytest.approx(once[quantity] * scales, rel=1e-9), quantity


@given(slack=st.floats(0, 0.5), tare=st.floats(-30, 30), rows=st.integers(1, 300))
@settings(max_examples=25, deadline=None)
def test_slack_tare_and_rows_before_load_change_nothing(slack, tare, rows):
    plain = values(reduced(*pull(slack=0.0, head=1)))
    strain, stress = pull(slack=slack, head=rows)
    found = values(reduced(strain, stress + tare))
    for quantity in plain:
        assert found[quantity] == pytest.approx(plain[quantity], rel=1e-6), quantity


@given(seed=st.integers(0, 10_000), noise=st.floats(0.01, 0.1))
@settings(max_examples=20, deadline=None)
def test_noise_makes_no_false_yield(seed, noise):
    """A rising curve has its offset yield, a dropping one its maximum, whatever single readings do."""
    quiet = reduced(*pull(draw=0.05, hardening=120.0))
    rising = reduced(*pull(draw=0.05, hardening=120.0, noise=noise, seed=seed))
    assert (quiet.course.yield_point.offset, rising.course.yield_point.offset) == (True, True)
    # by the same line: the scatter of the modulus itself is not the yield's
    by_line = find_yield(rising.stress, rising.course.strain, rising.course.zero.load_on, rising.break_point.row, quiet.course.modulus.value)
    assert by_line.stress == pytest.approx(quiet.course.yield_point.stress, rel=0.02)
    dropping = reduced(*pull(draw=0.05, noise=noise, seed=seed)).course.yield_point
    assert not dropping.offset
    assert dropping.stress == pytest.approx(40.0, rel=0.015)


def test_where_the_travel_begins_does_not_matter():
    strain, stress = pull(draw=0.03)
    here, there = values(reduced(strain, stress)), values(reduced(strain + 0.4, stress))
    assert there == pytest.approx(here, rel=1e-6)
    preloaded = values(reduced(strain, stress + 3.0))
    assert preloaded["apparent_modulus"] == pytest.approx(here["apparent_modulus"], rel=1e-6)


def test_the_modulus_range_may_be_chosen():
    strain, stress = pull()
    chosen = reduced(strain, stress, modulus_range=(0.004, 0.008)).course.modulus
    assert chosen.range == (0.004, 0.008)
    assert chosen.value < reduced(strain, stress).course.modulus.value


# ---- odd recordings ------------------------------------------------------------------------------


def test_a_negative_force_in_tension_is_turned():
    strain, stress = pull(draw=0.03)
    turned = reduced(strain, -stress)
    assert values(turned) == pytest.approx(values(reduced(strain, stress)))
    assert any("sign was turned" in w for w in turned.reduction.warnings)


def test_a_pull_that_does_not_break_gives_bounds():
    strain, stress = pull(draw=0.05, tail=0)
    reduction = reduced(strain, stress).reduction
    assert reduction.get("strain_at_break").bound is Bound.AT_LEAST
    assert reduction.get("energy_to_break").bound is Bound.AT_LEAST
    assert reduction.get("strength").bound is Bound.EXACT, "the maximum was passed"
    rising = reduced(*pull(tail=0)).reduction
    assert rising.get("strength").bound is Bound.AT_LEAST, "it was still rising"


@pytest.mark.parametrize(("sunk", "bound"), [(0.002, Bound.AT_LEAST), (0.008, Bound.AT_LEAST), (0.013, Bound.EXACT)])
def test_a_maximum_counts_as_passed_once_the_force_sank_by_a_hundredth(sunk, bound):
    strain, stress = pull(tail=0)
    more = 40
    strain = np.append(strain, strain[-1] + 1e-4 * np.arange(1, more + 1))
    stress = np.append(stress, stress[-1] * (1 - sunk * np.arange(1, more + 1) / more))
    assert reduced(strain, stress).reduction.get("strength").bound is bound


def test_a_clipped_cell_gives_a_lower_bound_but_a_coarse_one_does_not():
    strain, stress = pull(draw=0.05, noise=0.02)
    clipped = reduced(strain, np.minimum(stress, 36.0)).reduction
    assert clipped.get("strength").bound is Bound.AT_LEAST
    assert any("overloaded" in w for w in clipped.warnings)
    coarse = reduced(strain, np.round(stress / 0.4) * 0.4).reduction
    assert coarse.get("strength").bound is Bound.EXACT
    assert coarse.get("strength").value == pytest.approx(40.0, abs=0.4)
    assert coarse.get("apparent_modulus").value == pytest.approx(2000, rel=0.03)


def test_slip_and_two_drops_are_named_with_their_line():
    strain, stress = pull(noise=0.01)
    slipping = stress.copy()
    slipping[100:104] -= 6.0
    warnings = reduced(strain, slipping).reduction.warnings
    (slip,) = [w for w in warnings if w.startswith("line ") and "slipped" in w]
    said = int(slip.split("drops by ")[1].split("%")[0])
    assert said == pytest.approx(6.0 / 40.0 * 100, abs=1.5), "in per cent of the peak"
    # an upright specimen: most layers go, the rest holds for a while, then it breaks
    two = pull(draw=0.02, tail=60)
    top = int(np.argmax(two[1]))
    second = np.where(np.arange(two[1].size) > top + 30, two[1] * 0.65, two[1])
    reduction = reduced(two[0], second).reduction
    assert any("broke in part" in w for w in reduction.warnings)
    assert reduction.get("strength").value == pytest.approx(40.0, rel=0.01)
    assert reduction.get("stress_at_break").value == pytest.approx(0.65 * 0.87 * 40.0, rel=0.05), "the second drop is the break"


def test_ten_hertz_sampling_still_gives_strength_and_strain():
    strain, stress = pull(step=1e-4, draw=0.0, tail=200)
    sparse = reduced(strain[::12], stress[::12])
    assert values(sparse)["strength"] == pytest.approx(40.0, rel=0.03)
    assert values(sparse)["strain_at_break"] == pytest.approx(values(reduced(strain, stress))["strain_at_break"], rel=0.06)


def test_force_alone_gives_strength_alone():
    _, stress = pull()
    reduction = reduce_curve(Recording.of(force=stress * 16), Section([4], [4]), TravelScale(25)).reduction
    assert [r.quantity for r in reduction.results] == ["strength", "stress_at_break", "peak_force"]
    assert "strength only" in " ".join(reduction.warnings)


def test_an_extensometer_gives_a_modulus_that_is_not_apparent():
    strain, stress = pull()
    reduction = reduce_curve(Recording.of(force=stress * 16, strain=strain), Section([4], [4]), TravelScale(25)).reduction
    assert reduction.get("modulus").value == pytest.approx(2000, rel=0.01)
    assert reduction.get("apparent_modulus") is None


@pytest.mark.parametrize(
    "wrong, words",
    [
        ({"widths": [0.0]}, "width must be greater than 0 mm, but got 0"),
        ({"thicknesses": [-4.0]}, "thickness must be greater than 0 mm, but got -4"),
        ({"widths": []}, "width: at least one reading is needed"),
        ({"gauge": 0.0}, "the gauge length must be greater than 0 mm"),
        ({"force": np.zeros(50)}, "carries no load"),
    ],
)
def test_impossible_inputs_are_refused_by_name(wrong, words):
    _, stress = pull()
    with pytest.raises(EntryError, match=words):
        reduce_curve(
            Recording.of(force=wrong.get("force", stress * 16), travel=np.linspace(0, 1, len(wrong.get("force", stress)))),
            Section(wrong.get("widths", [4.0]), wrong.get("thicknesses", [4.0])),
            TravelScale(wrong.get("gauge", 25.0)),
        )
