"""What is declared as a number, against where it comes from: METHODS 14 for shapes, the definitions of units, the ranges entries are believed in."""

import math
from dataclasses import replace
from importlib import import_module
from importlib.util import find_spec, module_from_spec

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from assayer.core.errors import EntryError
from assayer.core.methods import REGISTRY, method
from assayer.core.methods.creep import CreepProtocol
from assayer.core.quantities.shown import CHOICES
from assayer.core.quantities.slips import likely_number, question_number
from assayer.core.quantities.units import DIMENSIONS, LENGTH, TEMPERATURE, parse_quantity, read_display
from assayer.core.shapes.pull_bars import PULL_BARS


def fresh(module):
    """The tables of a module, made anew: a table is made when it is imported, before any test could be said to have read it."""
    import_module(f"assayer.core.{module}")
    spec = find_spec(f"assayer.core.{module}")
    made = module_from_spec(spec)
    spec.loader.exec_module(made)
    return made


# METHODS 14: width, thickness, gauge, overall, parallel, ends, radius; between the grips, outer radius
SHAPES = {
    "dumb-bell-1a": (10, 4, 75, 170, 80, 20, 24, 115, 0),
    "dumb-bell-1ba": (5, 4, 25, 75, 30, 10, 30, 58, 0),
    "d638-i": (13, 3.2, 50, 165, 57, 19, 76, 115, 0),
    "d638-iv": (6, 3.2, 25, 115, 33, 19, 14, 65, 25),
    "d638-v": (3.18, 3.2, 7.62, 63.5, 9.53, 9.53, 12.7, 25.4, 0),
    "short-pull-bar": (5, 4, 20, 70, 24, 12, 12, 56, 0),
    "short-pull-bar-4": (4, 4, 20, 70, 24, 12, 12, 56, 0),
}


def test_pull_bars_have_the_lengths_of_their_standards():
    names = ("width", "thickness", "gauge_length", "overall", "parallel", "end_width", "radius", "outer_radius")
    made = {s.name: s for s in fresh("shapes.pull_bars").PULL_BARS}
    found = {name: [s.dimensions[n] for n in names] for name, s in made.items()}
    assert {name: (*lengths[:-1], made[name].grip_distance, lengths[-1]) for name, lengths in found.items()} == SHAPES
    for name, shape in made.items():
        assert shape.family == "pull bar"
        assert (shape.dimensions.get("end_thickness"), shape.dimensions["pin_hole"]) == ((8, 6) if name.startswith("short") else (None, 0))


@pytest.mark.parametrize("shape", PULL_BARS, ids=lambda s: s.name)
def test_the_volume_of_a_pull_bar_is_that_of_its_slices(shape):
    """The sections of the solid itself, every 0.05 mm, with the holes in it."""
    _, areas = sections(shape, shape.overall / 2)
    assert shape.volume == pytest.approx(2 * 0.05 * areas.sum() / 1e3, rel=3e-4)


# METHODS 14; the former short pull bar is not in it
EFFECTIVE = {"dumb-bell-1a": 106.1, "dumb-bell-1ba": 50.92, "d638-i": 104.9, "d638-iv": 52.6, "d638-v": 20.78, "short-pull-bar": 36.95}


@pytest.mark.parametrize("shape", PULL_BARS, ids=lambda s: s.name)
def test_the_effective_length_is_the_integral_over_the_solids_own_sections(shape):
    """∫ A0/A dx between the grips; between pins, the holes left in."""
    whole = replace(shape, pin_hole=0.0, grips_apart=shape.grip_distance)
    _, areas = sections(whole, shape.grip_distance / 2)
    summed = 2 * 0.05 * (shape.width * shape.thickness / areas).sum()
    # half a step too much or too little where the grips do not lie on a step
    assert shape.effective_length == pytest.approx(summed, abs=0.06)
    if shape.name in EFFECTIVE:
        assert shape.effective_length == pytest.approx(EFFECTIVE[shape.name], rel=6e-4)


def sections(shape, half):
    """Positions and areas of the solid's sections from its middle to `half`, in the middle of steps of 0.05 mm."""
    lying = shape.body().rotate([0, -90, 0])
    x = np.arange(0.025, half, 0.05)
    return x, np.array([lying.slice(float(at)).area() for at in x])


def test_bars_blocks_and_frames():
    bars, frames = fresh("shapes.bars"), fresh("shapes.frames")
    BAR, SHEAR_BAR, HARDNESS_BLOCK, CREEP_FRAME = bars.BAR, bars.SHEAR_BAR, bars.HARDNESS_BLOCK, frames.CREEP_FRAME
    assert (BAR.overall, BAR.width, BAR.thickness, BAR.volume) == (80, 10, 4, pytest.approx(3.2))
    assert (SHEAR_BAR.overall, SHEAR_BAR.width, SHEAR_BAR.thickness, SHEAR_BAR.volume) == (42, 5, 5, pytest.approx(1.05))
    assert (HARDNESS_BLOCK.overall, HARDNESS_BLOCK.width, HARDNESS_BLOCK.thickness, HARDNESS_BLOCK.volume) == (40, 40, 6, pytest.approx(9.6))
    c = CREEP_FRAME
    assert (c.width, c.thickness, c.opening, c.faces, c.pin_hole) == (8, 6, 30, 20, 6)
    assert c.volume == pytest.approx((46 * 8 + 2 * 30 * 8 + 4 * 10 - 2 * math.pi * 9) * 6 / 1e3)
    assert [s.family for s in (BAR, HARDNESS_BLOCK, c)] == ["bar", "block", "creep frame"]
    assert (BAR.name, BAR.label) == ("bar", "bar 80 × 10 × 4")
    lengths = {
        s.name: tuple(s.dimensions.values())
        for s in (*vars(bars).values(), *vars(frames).values(), *vars(fresh("shapes.rods")).values())
        if hasattr(s, "volume") and not isinstance(s, type)
    }
    # METHODS 14
    assert lengths == {
        "bar": (80, 10, 4), "notched-bar": (80, 10, 4, 2, 45, 0.25), "shear-bar": (42, 5, 5), "heat-bar": (80, 10, 4, 60), "hardness-block": (40, 40, 6),
        "warp-rail": (180, 12, 3), "immersion-coupon": (60, 60, 1), "creep-frame": (8, 6, 30, 30, 20, 6), "warp-frame": (120, 3, 12), "bracket": (45, 20, 5, 32),
        "torsion-rod": (8, 32, 13, 14),
    }  # fmt: skip


def test_a_tenth_matters_unless_a_method_says_otherwise():
    """METHODS 1: a share of the reference, in words; what has no ratio scale has a margin in its own unit."""
    results, derived = fresh("methods.results"), fresh("methods.derived")
    plain = results.QuantitySpec("q", "q", "N", results.GoodSide.HIGHER).margin
    assert (plain.value, plain.relative) == (0.10, True)
    assert {(d.margin.value, d.margin.relative) for d in vars(derived).values() if isinstance(d, derived.Derived)} == {(0.10, True)}
    own = {(m.name, q.name): (q.margin.value, q.margin.relative) for m in REGISTRY.values() for q in m.quantities if q.margin != plain}
    assert own == {
        ("stepped-bending", "drift"): (2.0, False), ("hardness", "shore_d"): (3.0, False), ("hardness", "shore_a"): (3.0, False),
        ("functional-part", "residual_deflection"): (0.2, False),
        # METHODS 0: °C by 5 K; what has no ratio scale in its own unit
        ("heat-ramp", "sag_onset"): (5.0, False), ("heat-ramp", "total_failure"): (5.0, False), ("deflection-temperature", "deflection_temperature"): (5.0, False),
        ("warp", "mean_lift"): (0.2, False), ("warp", "greatest_lift"): (0.3, False), ("warp", "curvature"): (2e-5, False),
        ("dimensions", "shrinkage"): (0.001, False), ("dimensions", "contour_offset"): (0.05, False), ("dimensions", "mean_deviation"): (0.05, False),
        ("immersion-density", "density"): (0.02, True), ("immersion-density", "void_share"): (0.01, False),
        ("exposure", "mass_change"): (0.2, False), ("exposure", "size_change"): (0.2, False),
    }  # fmt: skip


POUND = 0.45359237 * 9.80665
UNITS = {
    "force": {"N": 1, "kN": 1000, "daN": 10, "mN": 0.001, "kgf": 9.80665, "gf": 0.00980665, "lbf": POUND, "ozf": POUND / 16},
    "length": {"mm": 1, "1/100 mm": 0.01, "µm": 0.001, "cm": 10, "m": 1000, "in": 25.4, "mil": 0.0254},
    "time": {"s": 1, "ms": 0.001, "min": 60, "h": 3600, "d": 86400},
    "strain": {"1": 1, "%": 0.01, "‰": 0.001, "µε": 1e-6},
    "stress": {"MPa": 1, "kPa": 0.001, "GPa": 1000, "psi": POUND / 645.16, "ksi": 1000 * POUND / 645.16, "kgf/cm²": 0.0980665},
    "torque": {"N·m": 1, "kgf·cm": 0.0980665, "lbf·in": POUND * 0.0254},
    "energy": {"J": 1, "mJ": 0.001, "kgf·m": 9.80665, "ft·lbf": 0.3048 * POUND},
    "mass": {"g": 1, "kg": 1000, "mg": 0.001, "lb": 453.59237, "oz": 453.59237 / 16},
    "hammer mass": {"kg": 1, "g": 0.001, "lb": 0.45359237},
    "pendulum length": {"m": 1, "mm": 0.001, "cm": 0.01, "in": 0.0254},
    "temperature step": {"K": 1, "°F": 5 / 9},
    "density": {"g/cm³": 1, "kg/m³": 0.001},
    "grade": {"grade": 1},
    "place": {"place": 1},
    "speed": {"mm/s": 1, "mm/min": 1 / 60, "m/min": 1000 / 60, "cm/s": 10},
    "volumetric flow": {"mm³/s": 1, "mm³/min": 1 / 60, "cm³/min": 1000 / 60},
    "angle": {"°": 1, "rad": 180 / math.pi},
    "hardness": {"Shore D": 1},
    "number": {"1": 1},
    "temperature": {"°C": 1, "°F": 5 / 9, "K": 1},
}


@pytest.mark.parametrize("name", sorted(DIMENSIONS))
def test_units_are_what_they_are_defined_as(name):
    dimension = fresh("quantities.units").DIMENSIONS[name]
    shown = {u.symbol: u.factor for u in dimension.units.values()}
    assert shown == {symbol: pytest.approx(factor, rel=1e-12) for symbol, factor in UNITS[name].items()}
    assert dimension.unit(dimension.base).factor == 1


@pytest.mark.parametrize("text, celsius", [("32 °F", 0), ("212 F", 100), ("-40 °F", -40), ("273.15 K", 0), ("0 K", -273.15), ("21", 21)])
def test_temperatures_have_their_zero(text, celsius):
    assert parse_quantity(text, TEMPERATURE).value == pytest.approx(celsius, abs=1e-9)


@pytest.mark.parametrize(
    "spelling, dimension, symbol",
    [("hundredths", "length", "1/100 mm"), ("INCH", "length", "in"), ("thou", "length", "mil"), ("Kg", "force", "kgf"), ("lbs", "force", "lbf"), ("N/mm^2", "stress", "MPa"), ("[kgf]", "force", "kgf"), ("seconds", "time", "s"), ("μm", "length", "µm"), ("N*m", "torque", "N·m"), ("g/cc", "density", "g/cm³"), ("deg", "angle", "°"), ("mN", "force", "mN"), ("MN", "force", None)],
)  # fmt: skip
def test_units_are_known_as_they_are_written(spelling, dimension, symbol):
    if symbol is None:
        with pytest.raises(EntryError, match="is not a unit of"):
            DIMENSIONS[dimension].unit(spelling)
    else:
        assert DIMENSIONS[dimension].unit(spelling).symbol == symbol


@pytest.mark.parametrize(
    "text, unit, decimals, expected",
    [
        ("2047", "mm", 2, 20.47),
        ("20.47", "mm", 2, 20.47),
        ("2047 mm", "mm", 2, 2047),
        ("-15", "mm", 2, -0.15),
        ("2047", "mm", 0, 2047),
        ("806", "in", 3, 0.806 * 25.4),
        (" 7 ", "mm", 1, 0.7),
    ],
)
def test_digits_alone_have_the_displays_decimals(text, unit, decimals, expected):
    found = read_display(text, LENGTH, unit, decimals)
    assert found.value == pytest.approx(expected)
    assert found.raw == text


def test_implied_decimals_leave_the_offset_of_a_unit_alone():
    assert read_display("685", TEMPERATURE, "°F", 1).value == pytest.approx((68.5 - 32) / 1.8)


# ---- slips ---------------------------------------------------------------------------------------


@pytest.mark.parametrize(
    "value, low, high, meant",
    [
        (402, 3.2, 4.8, 4.02),
        (1753, 1.6, 1.9, 1.753),
        (0.004, 3.2, 4.8, 4.0),
        (40.2, 3.2, 4.8, 4.02),
        (7, 3.2, 4.8, None),
        (0.75, 700, 800, 750),
        (0.41, 3.2, 4.8, 4.1),
    ],
)
def test_a_slipped_mark_is_found(value, low, high, meant):
    found = likely_number(value, low, high)
    assert found == (None if meant is None else pytest.approx(meant))


@given(st.floats(1, 9.9), st.sampled_from([10, 100, 1000]))
def test_whatever_was_meant_within_a_narrow_range_is_found_again(meant, factor):
    meant = round(meant, 3)
    assert likely_number(meant * factor, 0.9 * meant, 1.1 * meant) == pytest.approx(meant, rel=1e-6)


def test_the_question_has_a_key_of_its_value_and_is_not_asked_at_the_ends():
    assert question_number("w", 3.2, 3.2, 4.8, "width", "mm") is None
    assert question_number("w", 4.8, 3.2, 4.8, "width", "mm") is None
    asked = question_number("w", 402, 3.2, 4.8, "width", "mm", row=2)
    assert (asked.key, asked.likely, asked.row, asked.may_confirm) == ("w[2]=402", "4.02", 2, True)
    odd = question_number("w", 7, 3.2, 4.8, "width", "mm")
    assert (odd.key, odd.likely) == ("w=7", None)
    assert "outside 3.2 … 4.8 mm" in odd.text


def test_what_may_be_shown_is_what_entries_are_read_with():
    """Shown value = base value × factor + offset, by the definitions of the units; the base units stand first, each in one choice."""
    pound, inch, ounce = 4.4482216152605, 25.4, 28.349523125
    shown = {(u.base, u.unit): u for c in CHOICES for option in c.options for u in option}
    factors = {
        ("MPa", "psi"): inch**2 / pound, ("MPa", "ksi"): inch**2 / pound / 1e3, ("N", "kgf"): 1 / 9.80665, ("N", "lbf"): 1 / pound, ("mm", "in"): 1 / inch,
        ("g", "oz"): 1 / ounce, ("mm/s", "mm/min"): 60, ("mm³/s", "cm³/min"): 0.06, ("°C", "°F"): 1.8,
    }  # fmt: skip
    bases = [u.base for c in CHOICES for u in c.options[0]]
    assert {(b, b) for b in bases} | set(factors) == set(shown)
    assert len(set(bases)) == len(bases)
    for key, unit in shown.items():
        assert unit.factor == pytest.approx(factors.get(key, 1.0), rel=1e-12)
        assert unit.offset == pytest.approx(32 if key == ("°C", "°F") else 0, abs=1e-12)
    assert all([u.base for u in option] == [u.base for u in c.options[0]] for c in CHOICES for option in c.options)


def test_where_a_bar_broke_follows_from_its_shape():
    """Shares of its length, 0.5 the middle: 80 of 170 mm are parallel in a 1A bar, 30 of 75 in a 1BA; its grips are 58 apart, its fillets 12.0 long."""
    found = {name: {o.name: o.place_on({s.name: s for s in PULL_BARS}[name]) for o in method("tension").outcomes} for name in ("dumb-bell-1a", "dumb-bell-1ba")}
    assert found["dumb-bell-1a"]["gauge"] == pytest.approx((45 / 170, 0.5))
    assert found["dumb-bell-1ba"]["one layer"] == pytest.approx((22.5 / 75, 0.5))
    assert found["dumb-bell-1ba"]["outside gauge"] == pytest.approx(((37.5 - 15 - 11.98957) / 75, 22.5 / 75))
    assert found["dumb-bell-1ba"]["grip"] == pytest.approx((0, (37.5 - 15 - 11.98957) / 75))


# ---- what methods are delivered with -------------------------------------------------------------


def test_protocols_as_delivered_are_those_of_the_methods():
    """METHODS 5: 20, 40, 80, 120 N, 5, 20, 80 s; METHODS 6: 100 h, recovery after 0.1, 1, 10 h."""
    stepped = fresh("methods.stepped_bending").SteppedProtocol()
    assert (stepped.ladder, stepped.times) == ((20, 40, 80, 120), (5, 20, 80))
    creep = fresh("methods.creep").CreepProtocol()
    assert (creep.horizon, creep.recovery_due) == (360_000, (360, 3600, 36000))
    assert creep.due == tuple(60 * minutes for minutes in (1, 3, 10, 30, 60, 180, 600, 1800, 6000))
    assert creep.load == 24.0
    day = 86400
    assert fresh("methods.exposure").ExposureProtocol().due == (day, 4 * day, 7 * day, 14 * day, 28 * day)
    assert fresh("methods.torsion").TorsionProtocol().set_angle == 45
    assert fresh("methods.deflection_temperature").DeflectionProtocol().stress == 0.45
    assert fresh("methods.warp").WarpProtocol().one_end_held is False


@pytest.mark.parametrize(
    "name, after, main, orientations, shapes",
    [
        ("tension", "ISO 527-1", "strength", ("flat", "on edge", "upright"), 7),
        ("stepped-bending", "own method", "load_carried", ("flat", "on edge", "upright"), 1),
        ("creep", "own method", "creep_at_horizon", ("flat", "on edge", "upright"), 1),
        ("shear", "own method", "shear_strength", ("flat", "on edge", "upright"), 1),
        ("hardness", "ISO 868", "shore_d", ("flat",), 1),
        ("functional-part", "own method", "peak_force", ("flat", "on edge", "upright"), 1),
        ("torsion", "own method", "nominal_shear_strength", ("flat", "on edge", "upright"), 1),
        ("bending", "ISO 178", "flexural_strength", ("flat", "on edge", "upright"), 1),
        ("impact", "ISO 179-1", "impact_strength", ("flat", "on edge", "upright"), 1),
        ("impact-izod", "ISO 180", "impact_strength", ("flat", "on edge", "upright"), 1),
        ("impact-d256", "ASTM D256", "energy_per_notch_length", ("flat", "on edge", "upright"), 1),
        ("heat-ramp", "own method", "sag_onset", ("flat", "on edge", "upright"), 1),
        ("deflection-temperature", "ISO 75", "deflection_temperature", ("flat", "on edge", "upright"), 1),
        ("warp", "own method", "mean_lift", ("flat",), 2),
        ("dimensions", "own method", "shrinkage", ("flat",), 2),
        ("immersion-density", "ISO 1183-1", "density", ("flat", "on edge", "upright"), 3),
        ("exposure", "own method", "mass_change", ("flat", "on edge", "upright"), 9),
        ("graded", "own method", "median", ("flat", "on edge", "upright"), 5),
    ],
)
def test_methods_say_what_they_are_after(name, after, main, orientations, shapes):
    found = method(name)
    assert (found.after, found.main, found.orientations, len(found.shapes)) == (after, main, orientations, shapes)
    assert set(REGISTRY) == {
        "tension", "bending", "stepped-bending", "creep", "impact", "impact-izod", "impact-d256", "shear", "torsion", "hardness", "heat-ramp", "deflection-temperature", "warp", "dimensions",
        "immersion-density", "exposure", "functional-part", "graded",
    }  # fmt: skip


@pytest.mark.parametrize(
    "name, quantity, side",
    [
        ("tension", "strength", "higher"), ("tension", "strain_at_break", "higher"), ("tension", "peak_force", "none"), ("creep", "creep_at_horizon", "lower"),
        ("creep", "recovered_share@360", "higher"), ("creep", "remaining_share@360", "lower"), ("stepped-bending", "load_carried", "higher"),
        ("stepped-bending", "drift@20", "lower"), ("stepped-bending", "modulus@40", "higher"), ("hardness", "shore_d", "none"), ("shear", "shear_strength", "higher"),
        ("torsion", "shear_modulus", "higher"), ("torsion", "greatest_torque", "none"), ("bending", "stress_at_3_5", "higher"), ("impact", "impact_strength", "higher"),
        ("impact", "net_energy", "none"), ("heat-ramp", "sag_onset", "higher"), ("deflection-temperature", "load", "none"), ("warp", "curvature", "lower"),
        ("dimensions", "contour_offset", "near"), ("immersion-density", "void_share", "lower"), ("exposure", "mass_change@86400", "none"),
        ("exposure", "size_change@86400", "near"),
    ],
)  # fmt: skip
def test_quantities_know_their_good_side(name, quantity, side):
    assert method(name).quantity(quantity).good_side == side


@pytest.mark.parametrize(
    "polymer, expected",
    [
        ("PLA", (15.0, 110.0)),
        ("pla+", (15.0, 110.0)),
        ("PETG-CF", (8.0, 100.0)),
        ("PET", (8.0, 130.0)),
        ("PA6-GF", (8.0, 180.0)),
        ("unknown", (1.0, 400.0)),
        (None, (1.0, 400.0)),
    ],
)
def test_what_a_polymer_can_bear_is_asked_by_its_longest_name(polymer, expected):
    assert method("tension").quantity("strength").plausible_for(polymer) == expected


def test_a_field_refuses_the_sign_it_does_not_allow():
    width = method("tension").field("width")
    with pytest.raises(EntryError, match="width must be greater than 0, but got 0"):
        width.check(0.0, "0")
    width.check(1e-9)
    gap = method("creep").field("gap")
    gap.check(-1.0)
    assert gap.timed
    assert not width.timed
    with pytest.raises(EntryError, match="Tension has no field 'gap'"):
        method("tension").step_of("gap")
    assert method("tension").step_of("peak_force").name == "peak"


def test_unknown_names_are_refused_with_those_there_are():
    for call, words in (
        (lambda: method("pull"), "choose one of tension"),
        (lambda: method("tension").shape("bar"), "has no shape 'bar'"),
        (lambda: method("tension").outcome("burst"), "choose one of gauge"),
        (lambda: CreepProtocol.read({"weight": 3}, "Creep"), "Creep has no 'weight': it has load, horizon"),
    ):
        with pytest.raises(EntryError, match=words):
            call()
