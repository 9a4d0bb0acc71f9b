"""The reading step of every result follows from those of all readings it rests on (METHODS 0 and 13), by derivatives worked out by hand."""

import math

import pytest

from assayer.core.methods import REGISTRY
from assayer.core.methods.inputs import Entry, Inputs

DAY = 86400.0


def steps_of(method, entries, steps, **more):
    found = REGISTRY[method].reduced(Inputs(entries, steps=steps, **more))
    return {r.key: (r.value, r.reading_step) for r in found.results}


def test_strength_has_the_steps_of_both_dimensions_and_of_the_force():
    entries = [*(Entry("width", v, i) for i, v in enumerate((5.0, 5.0, 5.0))), *(Entry("thickness", v, i) for i, v in enumerate((4.0, 4.0, 4.0)))]
    found = steps_of("tension", [*entries, Entry("peak_force", 600.0)], {"width": 0.05, "thickness": 0.05, "peak_force": 2.0})
    # 30 MPa; the mean of three readings has a step of r/√3
    wanted = 30 * math.sqrt((0.05 / 5) ** 2 / 3 + (0.05 / 4) ** 2 / 3 + (2 / 600) ** 2)
    assert found["strength"] == (30.0, pytest.approx(wanted, rel=0.01))
    assert found["peak_force"] == (600.0, pytest.approx(2.0))


def test_a_change_of_mass_and_of_size_is_a_difference_of_two_readings():
    entries = [
        Entry("mass_before", 4.0), Entry("mass", 4.1, 0, after=7 * DAY), Entry("sizes_before", 60.0, 0, about="length"),
        Entry("sizes", 60.6, 0, after=7 * DAY, about="length"),
    ]  # fmt: skip
    found = steps_of("exposure", entries, {"mass": 0.01, "mass_before": 0.01, "sizes": 0.02, "sizes_before": 0.02})
    mass = next(v for k, v in found.items() if k.startswith("mass_change"))
    size = next(v for k, v in found.items() if k.startswith("size_change"))
    assert mass == (pytest.approx(2.5), pytest.approx(100 * 0.01 / 4 * math.hypot(1, 4.1 / 4), rel=0.01))
    assert size == (pytest.approx(1.0), pytest.approx(100 * 0.02 / 60 * math.hypot(1, 60.6 / 60), rel=0.01))


def test_stiffness_drift_growth_and_modulus_of_stepped_loads():
    rows = [(20.0, (5, 20, 80), (0.300, 0.310, 0.320)), (40.0, (5, 20, 80), (0.620, 0.640, 0.664))]
    entries = [
        Entry("width", 10.0),
        Entry("thickness", 4.0),
        *(Entry("deflection", v, i, t, load) for load, times, values in rows for i, (t, v) in enumerate(zip(times, values, strict=True))),
    ]
    found = steps_of("stepped-bending", entries, {"deflection": 0.01}, geometry={"span": 64.0})
    # drift = 100 (last − first)/first
    assert found["drift@20"][1] == pytest.approx(100 * 0.01 / 0.3 * math.hypot(1, 0.32 / 0.3), rel=0.05)
    # the slope over three points of log t at equal distance d: (last − first)/(2 d)
    assert found["growth@40"][1] == pytest.approx(0.01 * math.sqrt(2) / (2 * math.log10(4)), rel=1e-6)
    # the modulus rests on the difference of two deflections
    modulus, step = found["modulus@40"]
    assert step == pytest.approx(modulus * math.sqrt(2) * 0.01 / 0.33, rel=0.05)
    part = steps_of("functional-part", [Entry("peak_force", 200.0), Entry("load", 100.0), Entry("deflection", 2.5)], {"load": 1.0, "deflection": 0.05})
    assert part["stiffness"] == (40.0, pytest.approx(40 * math.hypot(1 / 100, 0.05 / 2.5), rel=0.03))


def test_shrinkage_has_the_steps_of_all_features_and_the_opening_those_of_two():
    features = ((20.0, 19.97), (40.0, 39.84), (80.0, 79.60), (120.0, 119.35))
    entries = [Entry("measured", m, i, about=f"centre {n:g}") for i, (n, m) in enumerate(features)]
    found = steps_of("dimensions", entries, {"measured": 0.01})
    # 1 − s = Σ n m/Σ n² where all are distances of centres
    assert found["shrinkage"][1] == pytest.approx(0.01 / math.sqrt(sum(n**2 for n, _ in features)), rel=1e-6)
    creep = steps_of("creep", [Entry("unloaded", 20.0), Entry("gap", 20.4, 0, 60.0), Entry("gap", 20.9, 1, DAY)], {"gap": 0.01, "unloaded": 0.01})
    assert creep["deformation_on_loading"] == (pytest.approx(0.4), pytest.approx(0.01 * math.sqrt(2)))


def test_a_step_that_the_method_gives_itself_stands():
    seen = steps_of("heat-ramp", [Entry("noticed_at", 70.0), Entry("noticed_step", 4.0)], {"noticed_at": 1.0})
    assert seen["sag_onset"] == (68.0, 4.0)
