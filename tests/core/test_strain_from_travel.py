"""Strain from the travel of a crosshead, from an extensometer, and nominal strain (METHODS 1), on bars made up from their own solids."""

from dataclasses import replace

import numpy as np
import pytest

from assayer.core.curves.compliance import RigidBar, machine_compliance
from assayer.core.curves.maximum import strain_at_maximum
from assayer.core.curves.recording import Recording
from assayer.core.curves.travel import COMPLIANCE_UNKNOWN, TravelScale
from assayer.core.errors import EntryError
from assayer.core.methods import REGISTRY
from assayer.core.methods.inputs import Entry, Inputs
from assayer.core.methods.vocabulary import Bound, Validity
from assayer.core.shapes import SHAPES
from assayer.formats.curves.curve_file import read_curve_file

from .test_tables import sections
from .test_tension import CURVES, TRUTH, pull, reduced

TENSION = REGISTRY["tension"]
MODULUS, COMPLIANCE = 2000.0, 8e-4


def stretched(shape, strength=40.0, rows=4000):
    """Travel and force of an elastic bar of a shape on a machine that gives, summed over the sections of its solid; then it breaks."""
    _x, areas = sections(replace(shape, pin_hole=0.0, grips_apart=shape.grip_distance), shape.grip_distance / 2)
    stress = np.linspace(0, strength, rows)
    force = stress * shape.width * shape.thickness
    travel = force * (2 * 0.05 * np.sum(1 / areas) / MODULUS + COMPLIANCE)
    tail = travel[-1] + np.linspace(0.001, 0.05, 40)
    return Recording.of(force=np.concatenate([force, np.zeros(40)]), travel=np.concatenate([travel, tail]))


def tension(recording, shape, compliance=COMPLIANCE, uncertainty=0.0, **more):
    entries = [Entry("width", shape.width), Entry("thickness", shape.thickness), *(Entry(name, value) for name, value in more.items())]
    return TENSION.reduced(Inputs(entries, shape, recording=recording, compliance=compliance, compliance_uncertainty=uncertainty))


@pytest.mark.parametrize("name", ["dumb-bell-1ba", "dumb-bell-1a", "d638-iv", "short-pull-bar"])
def test_a_bar_of_known_modulus_on_a_machine_that_gives_is_found_from_travel(name):
    found = tension(stretched(SHAPES[name]), SHAPES[name])
    modulus = found.get("apparent_modulus")
    assert modulus.value == pytest.approx(MODULUS, rel=0.02)
    assert modulus.warnings == []
    assert found.get("strain_at_break").value == pytest.approx(40 / MODULUS, rel=0.02)
    wrong = tension(stretched(SHAPES[name]), SHAPES[name], gauge_length=SHAPES[name].gauge_length)
    assert wrong.get("apparent_modulus").value < 0.9 * MODULUS, "the gauge length alone makes it look soft"


def test_a_compliance_that_is_not_known_is_said_and_its_uncertainty_reaches_the_modulus():
    shape = SHAPES["dumb-bell-1ba"]
    unknown = tension(stretched(shape), shape, compliance=None).get("apparent_modulus")
    assert unknown.warnings == [COMPLIANCE_UNKNOWN]
    assert unknown.value < 0.7 * MODULUS
    assert tension(stretched(shape), shape, compliance=0.0).get("apparent_modulus").warnings == [], "a frame that was found not to give"
    (said,) = tension(stretched(shape), shape, uncertainty=1e-5).get("apparent_modulus").warnings
    moved = tension(stretched(shape), shape, compliance=COMPLIANCE + 1e-5).get("apparent_modulus").value - MODULUS
    assert float(said.split()[2]) == pytest.approx(moved, rel=0.1)


def test_nominal_strain_is_over_the_grips_and_a_length_by_hand_replaces_the_effective_one_only():
    shape = SHAPES["dumb-bell-1a"]
    recording = stretched(shape)
    travel = (recording.need("travel") - COMPLIANCE * recording.need("force"))[3999]
    plain, by_hand = tension(recording, shape), tension(recording, shape, gauge_length=50.0)
    assert plain.get("nominal_strain_at_break").value == pytest.approx(travel / 115, rel=1e-3)
    assert by_hand.get("nominal_strain_at_break").value == pytest.approx(plain.get("nominal_strain_at_break").value, rel=1e-6)
    assert by_hand.get("strain_at_break").value == pytest.approx(travel / 50, rel=1e-3)


def test_an_extensometer_and_the_travel_beside_it_keep_their_own_names():
    shape = SHAPES["dumb-bell-1ba"]
    made = stretched(shape)
    strain = made.need("force") / shape.width / shape.thickness / MODULUS
    both = tension(Recording.of(force=made.need("force"), travel=made.need("travel"), strain=1.1 * strain), shape)
    assert both.get("modulus").value == pytest.approx(MODULUS / 1.1, rel=1e-3)
    assert both.get("apparent_modulus").value == pytest.approx(MODULUS, rel=0.02)
    assert both.get("extensometer_strain_at_break").value == pytest.approx(1.1 * 40 / MODULUS, rel=1e-3)
    assert both.get("strain_at_break").value == pytest.approx(40 / MODULUS, rel=0.02)
    assert both.get("extensometer_energy_to_break").value == pytest.approx(1.1 * 40**2 / MODULUS / 2, rel=1e-3)
    alone = tension(Recording.of(force=made.need("force"), strain=strain), shape)
    assert {r.quantity for r in alone.results} == {
        "strength", "stress_at_break", "modulus", "extensometer_strain_at_strength", "extensometer_strain_at_break", "extensometer_energy_to_break", "peak_force",
    }  # fmt: skip


def test_the_two_kinds_of_yield_have_their_own_names_with_their_strains():
    strain, stress = pull(draw=0.05)
    top = reduced(strain, stress).reduction
    assert (top.get("yield_strength").value, top.get("strain_at_yield").value) == (pytest.approx(40.0, rel=1e-3), pytest.approx(0.029, abs=0.003))
    assert top.get("offset_yield_strength") is None
    shape = SHAPES["dumb-bell-1ba"]
    section = shape.width * shape.thickness
    on_a_bar = tension(Recording.of(force=stress * section, travel=strain * shape.effective_length), shape, compliance=0.0)
    assert on_a_bar.get("nominal_strain_at_yield").value == pytest.approx(on_a_bar.get("strain_at_yield").value * shape.effective_length / 58)
    rising = reduced(*pull(draw=0.05, hardening=120.0)).reduction
    at = rising.get("strain_at_offset_yield").value
    assert rising.get("offset_yield_strength").value == pytest.approx(rising.get("apparent_modulus").value * (at - 0.002), rel=1e-6)
    assert (rising.get("yield_strength"), rising.get("nominal_strain_at_yield")) == (None, None)


@pytest.mark.parametrize("name", sorted(TRUTH))
def test_the_strain_at_strength_is_that_of_the_flat_top(name):
    truth = TRUTH[name]
    told = {"width": truth["width_mm"], "thickness": truth["thickness_mm"], "gauge_length": truth["gauge_length_mm"]}
    entries = [Entry(field, value) for field, value in told.items()]
    recording = read_curve_file(str(CURVES / name), None).recording
    found = TENSION.reduced(Inputs(entries, recording=recording, compliance=truth["machine_compliance_mm_per_N"]))
    assert found.get("strain_at_strength").value == pytest.approx(truth["strain_at_strength"], rel=0.02)


@pytest.mark.parametrize("noise", [0.004, 0.04, 0.2])
def test_a_rounded_top_is_found_within_its_scatter(noise):
    """Parabolas that fall by 1 % at a fifth of their strain: the mean of many is at the vertex, and each is nearer to it than the highest row."""
    rng = np.random.default_rng(7)
    strain = np.arange(0, 0.03, 1e-4)
    found, highest = [], []
    for _ in range(60):
        stress = 40 * (1 - 0.25 * ((strain - 0.02) / 0.02) ** 2) + noise * rng.standard_normal(strain.size)
        found.append(strain_at_maximum(stress, strain, noise))
        highest.append(strain[stress.argmax()])
    assert np.mean(found) == pytest.approx(0.02, rel=0.01)
    assert np.std(found) < 0.5 * np.std(highest)


def test_a_break_at_the_top_is_the_last_row_and_a_sharp_top_where_it_is_first_reached():
    strain = np.linspace(0, 0.02, 201)
    assert strain_at_maximum(2000 * strain, strain, 0.0) == pytest.approx(0.02)
    kinked = np.where(strain < 0.01, 2000 * strain, 20 - 100 * (strain - 0.01))
    assert strain_at_maximum(kinked, strain, 0.0) == pytest.approx(0.01)
    assert strain_at_maximum(kinked, strain, 0.05) == pytest.approx(0.01 - 0.1 / 2000, abs=1e-6)


# ---- the compliance of the machine ---------------------------------------------------------------


def test_the_give_of_the_steel_bar_is_subtracted():
    """Steel, 100 mm of 8 × 8 mm: 100 / (210000 · 64) = 7.44e-6 mm/N beside 5e-5 of the machine."""
    force = np.concatenate([np.zeros(10), np.linspace(0, 4000, 300)])
    bar = RigidBar(100.0, 64.0, 210_000.0)
    assert bar.compliance == pytest.approx(7.4405e-6, rel=1e-4)
    found = machine_compliance(Recording.of(force=force, travel=force * (5e-5 + bar.compliance)), bar)
    assert found.value == pytest.approx(5e-5, rel=1e-9)
    assert (found.of_bar, found.warnings) == (bar.compliance, [])
    with pytest.raises(EntryError, match="more than was read") as error:
        machine_compliance(Recording.of(force=force, travel=force * 5e-6), bar)
    assert error.value.field == "bar_length"
    with pytest.raises(EntryError, match="area of the bar must be greater than 0"):
        RigidBar(100.0, 0.0, 210_000.0)


def test_a_line_that_bends_is_less_certain_than_its_rows_scatter():
    force = np.linspace(0, 500, 2000)
    bent = machine_compliance(Recording.of(force=force, travel=4e-4 * force + 0.02 * (force / 500) ** 2))
    slopes = [4e-4 + 0.02 * 2 * f / 500**2 for f in (147, 241, 334, 428)]
    assert bent.uncertainty == pytest.approx(np.std(slopes, ddof=1) / 2, rel=0.02)


@pytest.mark.parametrize("wrong", [{"effective_length": 0.0}, {"grip_distance": -1.0}, {"compliance_uncertainty": -1e-6}])
def test_a_length_or_an_uncertainty_that_cannot_be_is_refused_by_name(wrong):
    with pytest.raises(EntryError, match="must") as error:
        TravelScale(**({"effective_length": 50.0} | wrong))
    assert error.value.field in {*wrong, "gauge_length"}


# ---- where it broke ------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("said", "place", "bound"),
    [
        ("outside gauge", None, Bound.AT_LEAST),
        ("outside gauge", 0.30, Bound.EXACT),  # a 1A bar is parallel from 0.265 on
        ("outside gauge", 0.735, Bound.EXACT),
        ("gauge", 0.25, Bound.AT_LEAST),
        ("gauge", 0.5, Bound.EXACT),
        ("grip", 0.9, Bound.AT_LEAST),
    ],
)
def test_a_break_anywhere_in_the_parallel_part_counts(said, place, bound):
    shape = SHAPES["dumb-bell-1a"]
    strength = tension(stretched(shape), shape).get("strength")
    assert TENSION.bound_of(strength, TENSION.outcome_at(said, place, shape), Validity.COUNTS) is bound
