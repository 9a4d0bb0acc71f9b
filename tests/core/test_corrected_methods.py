"""Creep, bending, torsion, impact, heat, warp, hardness, density and exposure: what METHODS 4 to 11 say, each against figures found another way."""

import math

import numpy as np
import pytest

from assayer.core.curves.recording import Recording
from assayer.core.errors import EntryError
from assayer.core.methods import REGISTRY
from assayer.core.methods.creep import MINUTE
from assayer.core.methods.exposure import ExposureProtocol
from assayer.core.methods.hardness import HardnessProtocol
from assayer.core.methods.inputs import Entry, Inputs
from assayer.core.methods.results import unlike_starts
from assayer.core.methods.vocabulary import Bound
from assayer.core.quantities.water import density_of_water
from assayer.core.shapes import SHAPES
from assayer.core.stats.groups import summarise
from assayer.core.stats.ratios import ratio_of_means

from .test_further_methods import inputs, ramp, reduce, value

DAY, HOUR = 86400.0, 3600.0

# ---- creep ---------------------------------------------------------------------------------------


def creep(times, values):
    return REGISTRY["creep"].reduced(Inputs([Entry("gap", v, i, after=t) for i, (t, v) in enumerate(zip(times, values, strict=True))]))


def test_creep_from_one_minute_of_the_example():
    """METHODS 6: creep at 100 h 0.36722 ± 0.01562 from the first reading, 0.42670 from 1 min on."""
    days = np.array([0.02, 0.8, 1.7, 2.6, 4.2, 6.1])
    found = creep(days * DAY, [1.013, 1.207, 1.268, 1.318, 1.383, 1.436])
    at, of = found.get("creep_at_horizon"), found.get("creep_from_1_min")
    assert (round(at.value, 5), round((at.interval.high - at.interval.low) / 2, 5)) == (0.36722, 0.01562)
    assert of.value == pytest.approx(0.42670, abs=5e-6)
    assert found.get("first_read_after").value == pytest.approx(0.02 * DAY)


def test_creep_under_one_law_is_the_same_whenever_it_was_first_read():
    law = lambda t: 0.91813 + 0.30315 * (np.asarray(t) / DAY) ** 0.29535  # noqa: E731
    found = []
    for first in (MINUTE, 10 * MINUTE, HOUR):
        times = np.array([first, *(t for t in (HOUR, 3 * HOUR, 10 * HOUR, 30 * HOUR, 100 * HOUR) if t > first), 120 * HOUR])
        found.append(creep(times, law(times)))
    assert [round(value(f, "creep_at_horizon"), 3) for f in found] == [0.427, 0.392, 0.343], "they count from different readings"
    true = law(100 * HOUR) - law(MINUTE)
    assert [value(f, "creep_from_1_min") for f in found] == [pytest.approx(true, rel=1e-5)] * 3


def test_what_broke_before_the_horizon_crept_at_least_as_far_from_one_minute_on():
    times = [MINUTE, 10 * MINUTE, HOUR, 4 * HOUR, 10 * HOUR, 24 * HOUR]
    law = [0.9 + 0.3 * (t / DAY) ** 0.3 for t in times]
    found = REGISTRY["creep"].reduced(Inputs([Entry("gap", v, i, after=t) for i, (t, v) in enumerate(zip(times, law, strict=True))], outcome="broke"))
    at = found.get("creep_from_1_min")
    assert (at.value, at.bound) == (pytest.approx(law[-1] - law[0], rel=1e-6), Bound.AT_LEAST)


def test_the_change_of_the_fitted_law_has_the_interval_of_that_function():
    """By the delta method with a numerical gradient of d(end) − d(start)."""
    rng = np.random.default_rng(5)
    times = np.array([MINUTE, HOUR, 4 * HOUR, 10 * HOUR, 24 * HOUR, 60 * HOUR, 110 * HOUR])
    from scipy import stats

    from assayer.core.stats.findley import fit_findley

    fit = fit_findley((times / DAY).tolist(), (0.9 + 0.3 * (times / DAY) ** 0.3 + rng.normal(0, 0.004, times.size)).tolist())
    change = lambda p: p[1] * ((100 / 24) ** p[2] - (1 / 1440) ** p[2])  # noqa: E731
    at = np.array([fit.d0, fit.a, fit.n])
    gradient = np.array([(change(at + h) - change(at - h)) / 2e-6 for h in 1e-6 * np.eye(3)])
    half = stats.t.ppf(0.975, times.size - 3) * math.sqrt(gradient @ fit.covariance @ gradient)
    found = fit.change(1 / 1440, 100 / 24)
    assert ((found.high + found.low) / 2, (found.high - found.low) / 2) == (pytest.approx(change(at)), pytest.approx(half, rel=1e-4))


def test_starts_are_unlike_beyond_a_factor_of_two():
    assert [unlike_starts(s) for s in ([], [60.0], [60.0, 120.0], [60.0, 121.0, 70.0])] == [False, False, False, True]


# ---- bending -------------------------------------------------------------------------------------


def test_one_load_is_no_strength_and_bending_on_makes_no_bound():
    told = {"width": 10.0, "thickness": 4.0, "span": 64.0}
    once = reduce("bending", told | {"load": 90.0, "deflection": 2.0})
    assert (once.get("flexural_strength"), any("not a strength" in w for w in once.warnings)) == (None, True)
    whole = reduce("bending", told | {"peak_force": 120.0, "load": 90.0, "deflection": 2.0})
    assert value(whole, "flexural_strength") == pytest.approx(value(once, "flexural_stress") * 4 / 3)
    bounds = {outcome: REGISTRY["bending"].bound_of(whole.get("flexural_strength"), outcome, "counts") for outcome in ("broke", "bent", "slid")}
    assert bounds == {"broke": Bound.EXACT, "bent": Bound.EXACT, "slid": Bound.AT_LEAST}
    assert value(reduce("bending", told | {"peak_force": 90.0, "load": 90.0}), "flexural_strength") == pytest.approx(value(once, "flexural_stress"))
    with pytest.raises(EntryError, match="above the greatest") as error:
        reduce("bending", told | {"peak_force": 80.0, "load": 90.0})
    assert error.value.field == "load"
    with pytest.raises(EntryError, match="drop the recorded curve"):
        reduce("bending", {"width": 10.0, "thickness": 4.0, "span": 64.0})


@pytest.mark.parametrize(("compliance", "said"), [(None, "not known"), (0.0, None), (2e-4, None)])
def test_a_flexural_modulus_from_travel_says_what_the_machine_leaves_open(compliance, said):
    """A bar of 2400 MPa, bent on a machine of 2e-4 mm/N until the force was still rising at 120 N."""
    force = np.concatenate([np.zeros(20), np.linspace(0, 120, 600)])
    give = 64**3 / (4 * 10 * 4**3 * 2400)
    travel = np.concatenate([np.linspace(-0.05, 0, 20), np.linspace(0, 120, 600) * (give + 2e-4)])
    entries = [Entry("width", 10.0), Entry("thickness", 4.0), Entry("span", 64.0)]
    found = REGISTRY["bending"].reduced(Inputs(entries, recording=Recording.of(force=force, travel=travel), compliance=compliance, compliance_uncertainty=1e-5))
    modulus = found.get("flexural_modulus")
    assert modulus.value == pytest.approx(2400 if compliance else 2400 / (1 + 2e-4 / give), rel=1e-3)
    uncertain = [w for w in modulus.warnings if "from the compliance alone" in w]
    assert [w for w in modulus.warnings if said and said in w] != [] if said else len(uncertain) == 1
    if uncertain:
        moved = modulus.value**2 * 4 * 10 * 4**3 / 64**3 * 1e-5
        assert float(uncertain[0].split()[2]) == pytest.approx(moved, rel=0.05)
    at = found.get("strain_at_flexural_strength")
    assert (at.bound, any("tenth of the span" in w for w in found.warnings)) == (Bound.AT_LEAST, 6 * 4 * 120 * give / 64**2 > 6 * 4 * 6.4 / 64**2)


# ---- torsion -------------------------------------------------------------------------------------


def twisted(modulus=800.0, own=0.0, yields=math.inf, length=32.0, d=8.0):
    """Torque in N·m over the angle between the keys in degrees, of a rod that is elastic until its surface yields at `yields` MPa, and perfectly plastic then.

    T = T_u·(1 − (θ_y/θ)³/4) beyond, T_u = 4/3 of the torque at which it begins to yield. The rig turns by `own` rad/(N·m).
    """
    stiffness = modulus * math.pi * d**4 / 32 / length / 1e3
    theta = np.linspace(1e-9, 1.2, 1200)
    at_yield = yields * math.pi * d**3 / 16e3
    limit = at_yield / stiffness
    torque = np.where(theta <= limit, stiffness * theta, 4 / 3 * at_yield * (1 - (limit / theta) ** 3 / 4)) if math.isfinite(yields) else stiffness * theta
    angle = np.degrees(theta + own * torque)
    return Recording.of(angle=np.append(angle, angle[-1] + np.arange(1, 20)), torque=np.append(torque, np.zeros(19)))


def test_torsion_stresses_are_bounds_and_the_nominal_strength_is_none():
    found = reduce("torsion", {"diameter": 8.0, "greatest_torque": 2.18}, outcome="not broken")
    method = REGISTRY["torsion"]
    shown = {r.quantity: (round(r.value, 3), r.bound) for r in method.with_bounds(found, "not broken").results}
    assert shown["shear_stress_elastic"] == (21.685, Bound.AT_MOST)
    assert shown["shear_stress_plastic"] == (16.264, Bound.AT_LEAST)
    assert shown["nominal_shear_strength"] == (21.685, Bound.AT_LEAST), "it was not broken"
    assert found.get("nominal_shear_strength").bound is Bound.EXACT


@pytest.mark.parametrize("own", [None, 0.05])
def test_the_rigs_own_twist_is_subtracted(own):
    told = {"diameter": 8.0} | ({} if own is None else {"rig_twist": own})
    found = REGISTRY["torsion"].reduce(inputs(told, recording=twisted(own=own or 0.0)))
    modulus = found.get("shear_modulus")
    assert modulus.value == pytest.approx(800.0, rel=0.01)
    assert value(found, "angle_at_break") == pytest.approx(math.degrees(1.2), rel=0.01)
    assert (modulus.warnings == []) == (own is not None), "a twist that is not known is said"
    ignored = REGISTRY["torsion"].reduce(inputs({"diameter": 8.0}, recording=twisted(own=0.05)))
    assert value(ignored, "shear_modulus") < 0.9 * 800.0


@pytest.mark.parametrize("yields", [20.0, 60.0])
def test_the_stress_from_the_curve_is_the_yield_stress_of_a_perfectly_plastic_rod(yields):
    found = REGISTRY["torsion"].reduce(inputs({"diameter": 8.0}, recording=twisted(yields=yields)))
    assert value(found, "shear_stress_curve") == pytest.approx(yields, rel=0.01)
    assert value(found, "shear_stress_plastic") <= yields * 1.001 < value(found, "shear_stress_elastic")


def test_the_stress_from_the_curve_of_an_elastic_rod_is_the_elastic_one():
    found = REGISTRY["torsion"].reduce(inputs({"diameter": 8.0}, recording=twisted()))
    assert value(found, "shear_stress_curve") == pytest.approx(value(found, "shear_stress_elastic"), rel=0.01)


# ---- impact --------------------------------------------------------------------------------------

BAR = {"width_under_notch": 8.0, "thickness": 4.0, "notch_machined": 1.0}
SWING = BAR | {"hammer_mass": 0.75, "radius": 0.31, "release_angle": 120.0, "rise_angle": 90.0, "span": 62.0}


@pytest.mark.parametrize(
    ("method", "changed", "words"),
    [
        ("impact", {}, None),  # √(2 · 9.80665 · 0.31 · 1.5) = 3.02 m/s, asked for 2.9
        ("impact", {"release_angle": 135.0}, "strikes at 3.22 m/s"),
        ("impact", {"hammer_mass": 2.0}, "asks for 3.8 m/s"),  # 9.1 J
        ("impact", {"span": 62.6}, "62 to 62.5 mm"),
        ("impact", {"span": 61.9}, "62 to 62.5 mm"),
        ("impact-izod", {}, "asks for 3.5 m/s"),
        ("impact-izod", {"radius": 0.4}, None),  # 3.43 m/s
        ("impact-d256", {"radius": 0.4}, None),
    ],
)
def test_speed_and_span_are_checked_by_each_standard(method, changed, words):
    told = SWING | changed
    if method != "impact":
        del told["span"]
    remarks = reduce(method, told).warnings
    assert (remarks == []) if words is None else any(words in w for w in remarks)


def test_what_of_the_swing_and_the_notch_is_not_recorded_is_said():
    remarks = " · ".join(reduce("impact", {"width_under_notch": 8.0, "thickness": 4.0, "energy": 0.5}).warnings)
    assert all(words in remarks for words in ("striking speed is not known", "span is not recorded", "printed or machined is not recorded"))


def test_the_loss_of_a_whole_swing_is_scaled_only_where_the_rig_says_so():
    """METHODS 7: (α + β)/(2α), here (120 + 90)/240."""
    told = SWING | {"loss": 0.08}
    plain, scaled = (value(reduce("impact", told | more), "net_energy") for more in ({}, {"loss_of_whole_swing": 1.0}))
    assert scaled - plain == pytest.approx(0.08 * (1 - 210 / 240))
    heights = BAR | {"hammer_mass": 0.75, "release_height": 0.31 * 1.5, "rise_height": 0.31, "loss": 0.08, "loss_of_whole_swing": 1.0, "span": 62.0}
    assert value(reduce("impact", heights | {"radius": 0.31}), "net_energy") == pytest.approx(scaled)
    without = reduce("impact", heights)
    assert value(without, "net_energy") == pytest.approx(plain)
    assert any("radius of the pendulum is needed" in w for w in without.warnings)


# ---- heat ----------------------------------------------------------------------------------------

HELD = {"width": 10, "thickness": 4, "span": 64, "heating_rate": 120, "zeroed_after": 5, "liquid_bath": 1}
PAIRS = [(25, 0.0), (52, 0.21), (60, 0.42)]


@pytest.mark.parametrize(
    ("changed", "words"),
    [
        ({}, None),
        ({"span": 62.9}, "a span of 62.9 mm"),
        ({"heating_rate": 131}, "heated by 131 K/h"),
        ({"heating_rate": 110}, None),
        ({"zeroed_after": 2}, "zero read 2 min"),
        ({"width": 4, "thickness": 10}, "on its edge"),
        ({"width": 10.3}, "10.3 × 4 mm"),
        ({"liquid_bath": 0}, "not said to be in a liquid bath"),
    ],
)
def test_a_deflection_temperature_is_checked_against_its_standard(changed, words):
    remarks = reduce("deflection-temperature", HELD | changed | ramp(PAIRS)).warnings
    remarks = [w for w in remarks if "was not reached" not in w]
    assert (remarks == []) if words is None else any(words in w for w in remarks)


def test_the_rate_of_a_recorded_ramp_is_that_of_its_times():
    time = np.arange(0, 3600, 10.0)
    told = {name: v for name, v in HELD.items() if name != "heating_rate"}
    for rate, said in ((120.0, False), (150.0, True)):
        warm = 25 + rate * time / 3600
        recording = Recording.of(temperature=warm, travel=np.linspace(0, 0.5, time.size), time=time)
        remarks = REGISTRY["deflection-temperature"].reduce(inputs(told, recording=recording)).warnings
        assert any("heated by 150 K/h" in w for w in remarks) == said
        with_a_typed_one = REGISTRY["deflection-temperature"].reduce(inputs(told | {"heating_rate": 120}, recording=recording)).warnings
        assert any("heated by 150 K/h" in w for w in with_a_typed_one) == said, "what was recorded goes before what was typed"
        assert not any("not recorded" in w for w in remarks)


# ---- warp, hardness, density ---------------------------------------------------------------------


def test_a_frame_that_bows_into_a_bowl_is_as_curved_as_the_sphere_it_lies_on():
    radius, side = 2903.0, 120.0
    lift = radius - math.sqrt(radius**2 - side**2 / 2)
    found = REGISTRY["warp"].reduce(inputs({"corners": [lift] * 4}, shape=SHAPES["warp-frame"]))
    assert value(found, "curvature") == pytest.approx(1 / radius, rel=1e-3)


@pytest.mark.parametrize(
    ("scale", "indents", "quantity", "words"),
    [
        ("D", 60.0, "shore_d", None),
        ("D", 19.9, "shore_d", "use type A"),
        ("D", 20.0, "shore_d", None),
        ("A", 60.0, "shore_a", None),
        ("A", 90.1, "shore_a", "use type D"),
        ("A", 90.0, "shore_a", None),
    ],
)
def test_hardness_is_of_one_type_or_the_other(scale, indents, quantity, words):
    found = reduce("hardness", {"indents": [indents] * 5}, protocol=HardnessProtocol(scale), shape=SHAPES["hardness-block"])
    assert [(r.quantity, r.unit) for r in found.results] == [(quantity, f"Shore {scale}")]
    assert REGISTRY["hardness"].main_of(HardnessProtocol(scale)) == quantity
    assert (found.warnings == []) if words is None else any(words in w for w in found.warnings)


def test_a_thin_specimen_and_an_unknown_type_are_said():
    thin = reduce("hardness", {"indents": [60.0] * 5}, shape=SHAPES["hardness-block"].resized({"thickness": 3.9}))
    assert any("3.9 mm thick" in w for w in thin.warnings)
    with pytest.raises(EntryError, match="one of D, A") as error:
        HardnessProtocol.read({"scale": "C"}, "Hardness")
    assert error.value.field == "scale"


def test_the_density_of_water_follows_from_its_temperature():
    """METHODS 11: 0.99820 at 20 °C, 0.99754 at 23 °C."""
    assert [round(density_of_water(t), 5) for t in (20.0, 23.0)] == [0.99820, 0.99754]
    weighed = {"mass_in_air": 2.3141, "mass_in_liquid": 0.4102}
    warm, cool = (value(reduce("immersion-density", weighed | {"water_temperature": t}), "density") for t in (30.0, 10.0))
    assert warm / cool == pytest.approx(density_of_water(30) / density_of_water(10))
    assert reduce("immersion-density", weighed | {"water_temperature": 23.0}).warnings == []
    on_a_rig = reduce("immersion-density", weighed | {"water_temperature": 23.0}, geometry={"liquid_density": 0.789})
    assert value(on_a_rig, "density") == pytest.approx(2.3141 * 0.99754 / 1.9039, rel=1e-5), "what was read goes before the rig"
    for wrong, words in (({"water_temperature": 41.0}, "between 0 and 40"), ({"water_temperature": 20.0, "liquid_density": 0.8}, "give either")):
        with pytest.raises(EntryError, match=words) as error:
            reduce("immersion-density", weighed | wrong)
        assert error.value.field == "water_temperature"


# ---- exposure ------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("medium", "after"),
    [("liquid", "ISO 175"), ("water", "ISO 62"), ("damp heat", "own method"), ("light", "own method"), ("weather", "own method"), ("not said", "own method")],
)
def test_each_medium_is_a_procedure_of_its_own_and_only_liquids_and_water_follow_a_standard(medium, after):
    exposure = REGISTRY["exposure"]
    protocol = ExposureProtocol.read({"medium": medium}, "Exposure")
    assert exposure.after_of(protocol) == after
    found = exposure.reduce(Inputs([Entry("mass", 4.0, 0, after=0.0), Entry("mass", 4.1, 1, after=DAY)], protocol=protocol))
    assert found.procedure_version == exposure.procedure_of(protocol) == ("exposure-1" if medium == "not said" else f"exposure-1, {medium}")
    assert any("dried at 50 °C" in w for w in found.warnings) == (medium == "water")


def test_a_concentration_or_a_volume_that_cannot_be_is_refused():
    for wrong in ({"concentration": 101.0}, {"volume": -1.0}):
        with pytest.raises(EntryError) as error:
            ExposureProtocol.read(wrong, "Exposure")
        assert error.value.field == next(iter(wrong))


def test_retention_example():
    """METHODS 11; the second, of two treatments against one control, needs no control."""
    exposed, control = (summarise(v) for v in ([33.4, 31.9, 34.8, 32.2, 33.9], [41.2, 42.6, 40.1, 43.0, 41.7]))
    found = ratio_of_means(exposed, control)
    assert f"{found.ratio:.5f} {found.ci95.low:.5f} {found.ci95.high:.5f} {found.df:.4f}" == "0.79674 0.75980 0.83548 7.4831"
    other = ratio_of_means(summarise([36.9, 36.2, 37.8, 37.1, 36.0]), exposed)
    assert f"{other.ratio:.5f} {other.ci95.low:.5f} {other.ci95.high:.5f} {other.df:.4f}" == "1.10710 1.05869 1.15773 6.1824"
