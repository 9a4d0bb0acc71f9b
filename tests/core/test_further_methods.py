"""Torsion, bending, impact, heat, warp, dimensions, density and exposure: the examples of METHODS, their bounds and their refusals."""

import math

import numpy as np
import pytest
import statsmodels.api as sm

from assayer.core.curves.recording import Recording
from assayer.core.errors import EntryError
from assayer.core.methods import REGISTRY
from assayer.core.methods.deflection_temperature import DeflectionProtocol
from assayer.core.methods.exposure import ExposureProtocol
from assayer.core.methods.inputs import Entry, Inputs
from assayer.core.methods.onset import find_onset
from assayer.core.methods.torsion import TorsionProtocol
from assayer.core.methods.vocabulary import Bound
from assayer.core.methods.warp import WarpProtocol
from assayer.core.shapes import SHAPES
from assayer.core.shapes.base import Feature

DAY = 86400.0


def inputs(values, **more):
    """Entries by field: a number, several of them, or a mapping of what they are of."""
    entries = []
    for name, given in values.items():
        if isinstance(given, dict):
            entries += [Entry(name, v, i, about=about) for about, own in given.items() for i, v in enumerate(np.atleast_1d(own).tolist())]
        else:
            entries += [Entry(name, v, i) for i, v in enumerate(np.atleast_1d(given).tolist())]
    return Inputs(entries, **more)


def reduce(method, values, **more):
    return REGISTRY[method].reduced(inputs(values, **more))


def value(found, key):
    return found.get(key).value


def ramp(pairs, **more):
    return {"ramp_temperature": [t for t, _ in pairs], "ramp_sag": [s for _, s in pairs], **more}


# ---- the examples of METHODS ---------------------------------------------------------------------


def test_bending_example():
    found = reduce("bending", {"width": 10.05, "thickness": 4.02, "span": 64, "load": 49.03, "deflection": 2.31})
    assert value(found, "flexural_stress") == pytest.approx(28.981, abs=5e-4)
    assert value(found, "flexural_strain") == pytest.approx(0.013603, abs=5e-7)


def test_impact_examples():
    told = {"hammer_mass": 0.65, "width_under_notch": 8.0, "thickness": 4.05}
    by_angle = reduce("impact", told | {"radius": 0.29, "release_angle": 128, "rise_angle": 112.5, "loss": 0.018, "span": 62, "notch_machined": 1})
    assert value(by_angle, "net_energy") == pytest.approx(0.41267, abs=5e-6)
    assert value(by_angle, "impact_strength") == pytest.approx(12.7368, abs=5e-5)
    assert value(by_angle, "hammer_share") == pytest.approx(0.1382, abs=5e-5)
    assert by_angle.warnings == []
    by_height = reduce("impact", told | {"release_height": 0.468, "rise_height": 0.351})
    assert value(by_height, "net_energy") == pytest.approx(0.74580, abs=5e-6)
    assert value(by_height, "impact_strength") == pytest.approx(23.018, abs=5e-4)


def test_heat_examples():
    warm, sag = range(40, 61, 2), (0, 0.004, 0.003, 0.008, 0.009, 0.012, 0.020, 0.048, 0.110, 0.240, 0.520)
    assert value(reduce("heat-ramp", ramp(list(zip(warm, sag, strict=True)))), "sag_onset") == pytest.approx(56.134, abs=5e-4)
    told = ramp([(52, 0.210), (54, 0.268), (56, 0.335), (58, 0.420)], width=10, thickness=4, span=64)
    found = reduce("deflection-temperature", told)
    assert value(found, "deflection_temperature") == pytest.approx(56.149, abs=5e-4)
    assert value(found, "standard_deflection") == pytest.approx(0.341, abs=5e-4)
    assert value(found, "load") == pytest.approx(0.75, abs=5e-4)
    assert value(reduce("deflection-temperature", told, protocol=DeflectionProtocol(1.8)), "load") == pytest.approx(3.0, abs=5e-3)


def test_warp_example():
    found = reduce("warp", {"corners": 0.62, "length": 120})
    assert value(found, "curvature") == pytest.approx(3.444e-4, rel=2e-4)
    assert 1e-3 / value(found, "curvature") == pytest.approx(2.903, abs=5e-4)
    held = reduce("warp", {"corners": 0.62, "length": 120}, protocol=WarpProtocol(one_end_held=True))
    assert value(held, "curvature") == pytest.approx(value(found, "curvature") / 4)


SIZES = [(20, 1, 19.97), (40, 1, 39.84), (80, 1, 79.60), (120, 1, 119.35), (10, 1, 10.05), (30, 1, 29.91), (6, -1, 5.86), (12, -1, 11.83), (24, -1, 23.78)]


def test_dimensions_example_and_statsmodels():
    told = {"measured": {f"{'outer' if k > 0 else 'inner'} {n}": m for n, k, m in SIZES}}
    found = reduce("dimensions", told)
    assert value(found, "shrinkage") == pytest.approx(0.006169, abs=5e-7)
    assert 2 * value(found, "contour_offset") == pytest.approx(0.093511, abs=5e-7)
    fit = sm.OLS([m for *_, m in SIZES], [[n, k] for n, k, _ in SIZES]).fit()
    ends = fit.conf_int(0.05)
    shrinkage, offset = found.get("shrinkage"), found.get("contour_offset")
    assert (shrinkage.interval.low, shrinkage.interval.high) == (pytest.approx(1 - ends[0][1], rel=1e-9), pytest.approx(1 - ends[0][0], rel=1e-9))
    assert (2 * offset.interval.low, 2 * offset.interval.high) == (pytest.approx(ends[1][0], rel=1e-9), pytest.approx(ends[1][1], rel=1e-9))
    assert value(found, "scale_advice") == pytest.approx(1 / 0.993831, abs=5e-6)


def test_density_example():
    found = reduce("immersion-density", {"mass_in_air": 2.3141, "mass_in_liquid": 0.4102, "liquid_density": 0.9982, "solid_density": 1.24})
    assert value(found, "density") == pytest.approx(1.21326, abs=5e-6)
    assert (value(found, "void_share"), found.get("void_share").bound) == (pytest.approx(0.02156, abs=5e-6), Bound.AT_LEAST)


def weighed(*pairs, before=None, field="mass", about=None):
    entries = [Entry(field, v, i, after=t, about=about) for i, (t, v) in enumerate(pairs)]
    return [*entries, *([Entry("mass_before", before)] if before is not None else [])]


def test_exposure_example():
    found = REGISTRY["exposure"].reduce(Inputs(weighed((0.0, 4.2210), (DAY, 4.2671))))
    assert value(found, f"mass_change@{DAY:.0f}") == pytest.approx(1.0922, abs=5e-5)


# ---- rules beyond the examples -------------------------------------------------------------------


def test_a_rod_that_broke_before_the_set_angle_has_no_torque_there():
    early = reduce("torsion", {"diameter": 8.0, "greatest_torque": 0.945, "angle_at_break": 38})
    assert early.get("torque_at_set_angle") is None
    assert any("before the set angle of 45°" in w for w in early.warnings)
    assert reduce("torsion", {"diameter": 8.0, "greatest_torque": 0.9, "angle_at_break": 38}, protocol=TorsionProtocol(30.0)).warnings == []
    with pytest.raises(EntryError, match="broke at 38°") as error:
        reduce("torsion", {"diameter": 8.0, "greatest_torque": 1.2, "torque_at_set_angle": 0.9, "angle_at_break": 38})
    assert error.value.field == "torque_at_set_angle"
    with pytest.raises(EntryError, match="above the greatest"):
        reduce("torsion", {"diameter": 8.0, "greatest_torque": 0.9, "torque_at_set_angle": 1.2})
    bound = REGISTRY["torsion"].bound_of
    assert bound(early.get("greatest_torque"), "not broken", "counts") is Bound.AT_LEAST
    assert bound(early.get("greatest_torque"), "twisted off", "counts") is Bound.EXACT


def twist(g=900.0, flow=30.0, ends=140.0, drop=True, slack=4.0, length=32.0, diameter=8.0, noise=0.0, sign=1.0):
    """A recorded twist: slack, then τ = G·γ bent over to a greatest stress, then a drop."""
    rng = np.random.default_rng(4)
    angle = np.arange(0, ends, 0.2)
    gamma = np.clip(np.radians(angle - slack) * diameter / (2 * length), 0, None)
    tau = g * gamma / (1 + (g * gamma / flow) ** 4) ** 0.25
    torque = tau * math.pi * diameter**3 / 16e3 + noise * rng.standard_normal(angle.size)
    if drop:
        torque[-40:] = 0.02
    return Recording.of(torque=sign * torque, angle=angle)


@pytest.mark.parametrize("sign", [1.0, -1.0])
def test_a_recorded_twist_gives_modulus_torques_and_its_end(sign):
    found = REGISTRY["torsion"].reduce(inputs({"diameter": 8.0}, recording=twist(sign=sign), shape=SHAPES["torsion-rod"]))
    assert value(found, "shear_modulus") == pytest.approx(900, rel=0.01)
    assert value(found, "shear_stress_elastic") == pytest.approx(30, rel=0.02)
    assert value(found, "angle_at_break") == pytest.approx(140 - 4 - 8, abs=0.6)
    gamma = math.radians(45) * 8 / 64
    expected = 900 * gamma / (1 + (900 * gamma / 30) ** 4) ** 0.25 * math.pi * 512 / 16e3
    assert value(found, "torque_at_set_angle") == pytest.approx(expected, rel=0.01)
    going = REGISTRY["torsion"].reduce(inputs({"diameter": 8.0}, recording=twist(drop=False, ends=60.0)))
    assert going.get("angle_at_break").bound is Bound.AT_LEAST
    assert any("not broken" in w for w in going.warnings)
    short = REGISTRY["torsion"].reduce(inputs({"diameter": 8.0}, recording=twist(ends=45.0)))
    assert short.get("torque_at_set_angle") is None
    assert any("no torque there" in w for w in short.warnings)
    with pytest.raises(EntryError, match="carries no torque"):
        REGISTRY["torsion"].reduce(inputs({"diameter": 8.0}, recording=Recording.of(torque=np.zeros(50), angle=np.arange(50.0))))


def bend(modulus=2400.0, top=80.0, until=8.0, b=10.0, h=4.0, span=64.0, drop=True):
    travel = np.arange(0, until, 0.01)
    strain = np.clip(6 * h * (travel - 0.2) / span**2, 0, None)
    stress = modulus * strain / (1 + (modulus * strain / top) ** 4) ** 0.25
    force = stress * 2 * b * h**2 / (3 * span)
    if drop:
        force[-30:] = 0.05
    return Recording.of(force=force, travel=travel)


def test_a_recorded_bend_gives_strength_modulus_and_the_stress_at_its_strain():
    told = {"width": 10.0, "thickness": 4.0, "span": 64.0}
    found = REGISTRY["bending"].reduce(inputs(told, recording=bend()))
    assert value(found, "flexural_modulus") == pytest.approx(2400, rel=0.01)

    def stress(strain):
        return 2400 * strain / (1 + (2400 * strain / 80) ** 4) ** 0.25

    assert value(found, "flexural_strength") == pytest.approx(stress(6 * 4 * 7.49 / 64**2), rel=0.005)
    assert value(found, "stress_at_3_5") == pytest.approx(stress(0.035), rel=0.01)
    assert any("tenth of the span" in w for w in found.warnings)
    short = REGISTRY["bending"].reduce(inputs(told, recording=bend(until=5.0)))
    assert short.get("stress_at_3_5") is None
    assert any("3.5 % was not reached" in w for w in short.warnings)
    soft = REGISTRY["bending"].reduce(inputs(told, recording=bend(until=5.0), compliance=0.01))
    assert value(soft, "flexural_modulus") > 1.05 * value(short, "flexural_modulus")
    going = REGISTRY["bending"].reduce(inputs(told, recording=bend(until=3.0, drop=False, top=500.0)))
    assert going.get("flexural_strength").bound is Bound.AT_LEAST
    assert any("16 ± 1" in w for w in reduce("bending", told | {"span": 50.0, "load": 40.0}).warnings)


IMPACT = {"width_under_notch": 8.0, "thickness": 4.0, "hammer_mass": 0.75, "radius": 0.31, "release_angle": 130.0}


@pytest.mark.parametrize(
    "told, field, words",
    [
        ({"rise_angle": 100.0, "energy": 0.4}, "energy", "give one of them"),
        ({"rise_angle": 140.0}, "rise_angle", "higher than it was let go"),
        ({"rise_height": 0.3}, "release_height", "needed"),
        ({"rise_height": 0.6, "release_height": 0.5}, "rise_height", "higher than it was let go"),
        ({}, "rise_angle", "how far the hammer rose"),
        ({"rise_angle": 129.9, "loss": 0.1}, "energy", "no energy is left"),
    ],
)
def test_a_swing_that_cannot_be_is_refused_by_its_field(told, field, words):
    with pytest.raises(EntryError, match=words) as error:
        reduce("impact", IMPACT | told)
    assert error.value.field == field


def test_a_hammer_out_of_its_range_is_told_and_a_loss_is_taken_off_once():
    heavy = reduce("impact", IMPACT | {"rise_angle": 125.0})
    assert any("too heavy" in w for w in heavy.warnings)
    light = reduce("impact", IMPACT | {"rise_angle": 20.0})
    assert any("too light" in w for w in light.warnings)
    shown = {"width_under_notch": 8.0, "thickness": 4.0, "energy": 0.5, "loss": 0.02}
    assert value(reduce("impact", shown), "net_energy") == pytest.approx(0.48)
    assert value(reduce("impact", shown | {"loss_subtracted": 1.0}), "net_energy") == pytest.approx(0.5)
    assert reduce("impact", shown).get("hammer_share") is None
    angle = reduce("impact", IMPACT | {"rise_angle": 100.0}, steps={"rise_angle": 0.5}).get("net_energy")
    apart = [value(reduce("impact", IMPACT | {"rise_angle": a}), "net_energy") for a in (99.75, 100.25)]
    assert angle.reading_step == pytest.approx(apart[0] - apart[1], rel=2e-3)
    method = REGISTRY["impact"]
    assert method.bound_of(heavy.get("impact_strength"), "none", "counts") is Bound.AT_LEAST
    assert [o.symbol for o in method.outcomes] == ["C", "H", "P", "N"]


def test_onset_on_noisy_ramps_is_found_within_a_degree():
    """|error| < 1 °C at 0.02 mm noise, logged every 6 s at 0.5 K/min, against the place where the true sag passes the same rise."""
    worst = 0.0
    for seed in range(200):
        rng = np.random.default_rng(seed)
        start = rng.uniform(25, 40)
        at = start + rng.uniform(20, 40)
        warm = np.arange(start, at + 25, 0.05)
        true = 0.0008 * (warm - start) + 0.01 * np.clip(warm - at, 0, None) ** 2
        found = find_onset(warm.tolist(), (true + 0.02 * rng.standard_normal(warm.size)).tolist())
        exact = float(np.interp(found.rise, 0.01 * np.clip(warm - at, 0, None) ** 2, warm))
        worst = max(worst, abs(found.at - exact))
    assert worst < 1.0, worst


def test_a_ramp_without_sag_is_a_bound_and_a_short_baseline_is_refused():
    flat = ramp([(30.0 + i, 0.001 * (i % 2)) for i in range(40)])
    found = reduce("heat-ramp", flat).get("sag_onset")
    assert (found.bound, found.value) == (Bound.AT_LEAST, 69.0)
    with pytest.raises(EntryError, match="baseline needs at least 5"):
        reduce("heat-ramp", ramp([(30, 0), (38, 0), (46, 1)]))
    with pytest.raises(EntryError, match="a temperature and a sag"):
        reduce("heat-ramp", {"ramp_temperature": [30, 32], "ramp_sag": [0.1]})
    seen = reduce("heat-ramp", {"noticed_at": 70.0, "noticed_step": 4.0, "failed_at": 80.0})
    assert (value(seen, "sag_onset"), seen.get("sag_onset").reading_step, value(seen, "total_failure")) == (68.0, 4.0, 80.0)
    with pytest.raises(EntryError, match="before it began"):
        reduce("heat-ramp", {"noticed_at": 70.0, "failed_at": 60.0})
    assert any("how often one looked" in w for w in reduce("heat-ramp", {"noticed_at": 70.0}).warnings)


def test_a_ramp_is_drawn_with_its_baseline_and_its_onset():
    pairs = [(30.0 + 2 * i, 0.01 + 0.002 * (2 * i) + (0.05 * max(0, i - 12) ** 2)) for i in range(18)]
    view = REGISTRY["heat-ramp"].view(inputs(ramp(pairs)))
    x0, y0, x1, y1 = view.marks["line baseline"]
    assert (x0, y0, x1, y1) == (30.0, pytest.approx(0.01), 64.0, pytest.approx(0.01 + 0.002 * 34))
    at, sag = view.marks["onset"]
    assert sag == pytest.approx(0.01 + 0.002 * (at - 30) + 0.1)
    assert view.points
    assert REGISTRY["heat-ramp"].view(Inputs([Entry("noticed_at", 60.0)])) is None
    many = [(30.0 + 0.1 * i, 0.0) for i in range(90)]
    assert not REGISTRY["heat-ramp"].view(inputs(ramp(many))).points
    assert REGISTRY["heat-ramp"].view(inputs(ramp(many[:79]))).points


def test_a_recorded_ramp_reads_as_the_same_pairs_and_runs_either_way():
    warm = np.arange(30.0, 80.0, 1.0)
    sag = 0.3 + np.clip(warm - 60, 0, None) ** 2 * 0.01
    typed = value(reduce("heat-ramp", ramp(list(zip(warm.tolist(), (sag - sag[0]).tolist(), strict=True)))), "sag_onset")
    for travel in (sag, -sag):
        recorded = REGISTRY["heat-ramp"].reduce(Inputs([], recording=Recording.of(temperature=warm, travel=travel)))
        assert value(recorded, "sag_onset") == pytest.approx(typed, abs=1e-9)


def test_a_deflection_temperature_not_passed_is_a_bound():
    told = {"width": 10, "thickness": 4, "span": 64}
    found = reduce("deflection-temperature", told | ramp([(30, 0.1), (60, 0.2)]))
    assert (found.get("deflection_temperature").bound, value(found, "deflection_temperature")) == (Bound.AT_LEAST, 60)
    assert any("begun at 30 °C" in w for w in found.warnings)
    assert not any("begun" in w for w in reduce("deflection-temperature", told | ramp([(27, 0.1), (60, 0.5)])).warnings)
    with pytest.raises(EntryError, match="beyond the standard deflection"):
        reduce("deflection-temperature", told | ramp([(30, 0.5), (60, 0.6)]))


def test_warp_up_and_down_the_length_of_the_shape_and_twist():
    found = REGISTRY["warp"].reduce(inputs({"corners": [0.3, 0.1, -0.6, 0.2]}, shape=SHAPES["warp-rail"]))
    assert value(found, "mean_lift") == pytest.approx(0.0)
    assert value(found, "greatest_lift") == pytest.approx(-0.6)
    assert any("twisted" in w for w in found.warnings)
    frame = REGISTRY["warp"].reduce(inputs({"corners": [0.5] * 4}, shape=SHAPES["warp-frame"]))
    assert value(frame, "curvature") == pytest.approx(4 * 0.5 / 120**2)
    with pytest.raises(EntryError, match="length"):
        reduce("warp", {"corners": [0.5]})


def test_dimensions_of_one_kind_one_size_and_no_feature():
    outer = reduce("dimensions", {"measured": {"outer 20": [19.9, 19.92], "outer 40": 39.8, "outer 80": 79.6}})
    assert any("calliper's zero error" in w for w in outer.warnings)
    centres = reduce("dimensions", {"measured": {"centre 40": 39.84, "centre 80": 79.70}})
    assert centres.get("contour_offset") is None
    assert value(centres, "shrinkage") == pytest.approx(0.0038, abs=2e-4)
    alone = reduce("dimensions", {"measured": {"outer 20": 19.9}})
    assert alone.get("shrinkage") is None
    assert value(alone, "mean_deviation") == pytest.approx(-0.1)
    assert any("mean deviation only" in w for w in alone.warnings)
    slipped = reduce("dimensions", {"measured": {"outer 20": 19.9, "outer 40": 3.98}})
    assert slipped.get("shrinkage") is None
    assert any("decimal point" in w for w in slipped.warnings)
    with pytest.raises(EntryError, match="of which feature"):
        reduce("dimensions", {"measured": 19.9})
    with pytest.raises(EntryError, match="outer, inner or centre"):
        reduce("dimensions", {"measured": {"width 20": 19.9}})
    assert REGISTRY["dimensions"].nominal(REGISTRY["dimensions"].field("measured"), "inner 12") == 12


def test_the_features_of_the_gauge_are_those_of_the_methods_and_lie_on_it():
    gauge = SHAPES["dimension-gauge"]
    assert [f.name for f in gauge.features] == [
        *(f"outer {n}" for n in (10, 20, 30, 40, 80, 120)), "inner 6", "inner 12", "inner 24", "centre 40", "centre 80",
    ]  # fmt: skip
    for f in gauge.features:
        assert math.dist(f.start, f.end) == pytest.approx(f.nominal)
    low, high = gauge.body().bounding_box()[:3], gauge.body().bounding_box()[3:]
    assert all(low[i] - 1e-6 <= p[i] <= high[i] + 1e-6 for f in gauge.features for p in (f.start, f.end) for i in (0, 1))
    # each outer length ends at the outline on both sides
    for f in (f for f in gauge.features if f.kind == "outer"):
        from assayer.core.shapes.solids import box

        line = box((f.start[0] - 5, f.start[1] - 0.05, 1), (f.end[0] + 5, f.end[1] + 0.05, 2))
        cut = (gauge.body() ^ line).bounding_box()
        assert (cut[0], cut[3]) == (pytest.approx(f.start[0]), pytest.approx(f.end[0])), f.name
    assert Feature.parse("outer 12.5").nominal == 12.5
    for wrong in ("outer", "outer x", "outer -3", "outer 2000", "outer nan"):
        with pytest.raises(EntryError):
            Feature.parse(wrong)


def test_density_of_what_floats_is_denser_or_impossible():
    floats = reduce("immersion-density", {"mass_in_air": 2.0, "mass_in_liquid": -0.2})
    assert value(floats, "density") == pytest.approx(2 * 0.9982 / 2.2, rel=1e-5)
    assert any("taken as 20 °C" in w for w in floats.warnings)
    assert any("sinker" in w for w in floats.warnings)
    with pytest.raises(EntryError, match="more in the liquid") as error:
        reduce("immersion-density", {"mass_in_air": 2.0, "mass_in_liquid": 2.0})
    assert error.value.field == "mass_in_liquid"
    dense = reduce("immersion-density", {"mass_in_air": 2.0, "mass_in_liquid": 0.5, "solid_density": 1.2})
    assert any("denser than the solid" in w for w in dense.warnings)


def test_exposure_at_set_times_sizes_by_name_and_what_still_changes():
    entries = weighed((1.05 * DAY, 4.05), (4 * DAY, 4.10), (3.9 * DAY, 4.09), before=4.0)
    entries += [Entry("sizes_before", 60.0, about="length"), Entry("sizes_before", 1.0, about="thickness")]
    entries += [
        Entry("sizes", 60.3, 0, after=DAY, about="length"),
        Entry("sizes", 1.02, 1, after=DAY, about="thickness"),
        Entry("sizes", 9.0, 2, after=DAY, about="hole"),
    ]
    found = REGISTRY["exposure"].reduce(Inputs(entries))
    assert {r.key: round(r.value, 6) for r in found.results} == {"mass_change@86400": 1.25, "mass_change@345600": 2.5} | {
        "size_change@86400@length": 0.5,
        "size_change@86400@thickness": 2.0,
    }
    assert REGISTRY["exposure"].quantity("size_change@86400@length").label == "length size change after 24 h"
    assert not any("still changing" in w for w in found.warnings)
    rising = REGISTRY["exposure"].reduce(Inputs(weighed((DAY, 4.05), (4 * DAY, 4.10), before=4.0)))
    assert any("still changing" in w for w in rising.warnings)
    assert REGISTRY["exposure"].main_of(ExposureProtocol(due=(DAY, 3 * DAY))) == "mass_change@259200"
    assert REGISTRY["exposure"].quantity("mass_change@2419200").label == "mass change after 28 days"
    with pytest.raises(EntryError, match="a mass before"):
        REGISTRY["exposure"].reduce(Inputs(weighed((DAY, 4.05))))
    view = REGISTRY["exposure"].view(Inputs(weighed((DAY, 4.05), (4 * DAY, 4.10), before=4.0)))
    assert view.x.tolist() == [0.0, 1.0, 2.0]
    assert view.y.tolist() == pytest.approx([0.0, 1.25, 2.5])
