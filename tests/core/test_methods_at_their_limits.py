"""Methods where a rule says "above" or "at least": the limit itself, and just beside it."""

import numpy as np
import pytest

from assayer.core.curves.recording import Recording
from assayer.core.errors import EntryError
from assayer.core.methods import REGISTRY
from assayer.core.methods.base import at_words
from assayer.core.methods.creep import CreepProtocol
from assayer.core.methods.deflection_temperature import deflection_for
from assayer.core.methods.inputs import Entry, Inputs
from assayer.core.methods.onset import find_onset
from assayer.core.methods.own import _outcome_name
from assayer.core.methods.results import Bound
from assayer.core.methods.sections import Section
from assayer.core.methods.spans import deflected_far
from assayer.core.methods.torsion import TorsionProtocol

from .test_further_methods import bend

DAY = 86400.0
SET = TorsionProtocol().set_angle


def run(method, told, timed=(), **more):
    """A reduction of readings by field; timed ones are (field, after, value, load)."""
    entries = [Entry(name, value, i) for name, values in told.items() for i, value in enumerate(values if isinstance(values, list) else [values])]
    entries += [Entry(name, value, i, after=after, load=load) for i, (name, after, value, load) in enumerate(timed)]
    return REGISTRY[method].reduce(Inputs(entries, **more))


def values(found):
    return {r.key: r.value for r in found.results}


def refused(method, told, timed=(), **more):
    with pytest.raises(EntryError) as error:
        run(method, told, timed, **more)
    return error.value.field


def test_times_are_told_in_days_from_two_days_on():
    assert [at_words("after", at) for at in (47 * 3600.0, 48 * 3600.0, 49 * 3600.0, 72 * 3600.0)] == [
        "after 47 h",
        "after 2 days",
        "after 49 h",
        "after 3 days",
    ]


def test_what_weighs_nothing_or_the_same_in_the_liquid_has_no_density():
    assert refused("immersion-density", {"mass_in_air": 2.0, "mass_in_liquid": 2.0}) == "mass_in_liquid"
    hangs = run("immersion-density", {"mass_in_air": 2.0, "mass_in_liquid": 0.0, "liquid_density": 1.0})
    assert (values(hangs)["density"], hangs.warnings) == (1.0, [])
    floats = run("immersion-density", {"mass_in_air": 2.0, "mass_in_liquid": -0.1, "liquid_density": 1.0})
    assert [w.startswith("lighter than the liquid") for w in floats.warnings] == [True]


def test_a_part_may_be_loaded_to_the_last_and_keep_all_it_gave():
    told = {"peak_force": 100.0, "load": 100.0, "deflection": 2.0, "residual": 2.0}
    assert values(run("functional-part", told)) == {"peak_force": 100, "stiffness": 50, "residual_deflection": 2}
    assert refused("functional-part", told | {"load": 100.1}) == "load"
    assert refused("functional-part", told | {"residual": 2.01}) == "residual"


def test_a_torque_at_the_set_angle_may_be_the_greatest_and_a_break_there_is_not_early():
    told = {"diameter": 8.0, "greatest_torque": 1.5, "torque_at_set_angle": 1.5, "angle_at_break": SET}
    found = run("torsion", told)
    assert values(found)["torque_at_set_angle"] == 1.5
    assert found.warnings == []
    assert refused("torsion", told | {"torque_at_set_angle": 1.51}) == "torque_at_set_angle"
    assert refused("torsion", told | {"angle_at_break": SET - 0.1}) == "torque_at_set_angle"


def test_a_hammer_rises_no_higher_than_it_was_let_go_and_something_must_be_left():
    swing = {"width_under_notch": 8.0, "thickness": 4.0, "hammer_mass": 1.0, "radius": 0.3, "release_angle": 150.0}
    assert refused("impact", swing | {"rise_angle": 150.0}) == "energy", "as high: nothing is left"
    assert refused("impact", swing | {"rise_angle": 150.1}) == "rise_angle"
    dropped = {"width_under_notch": 8.0, "thickness": 4.0, "hammer_mass": 1.0, "release_height": 0.5}
    assert refused("impact", dropped | {"rise_height": 0.5}) == "energy"
    assert refused("impact", dropped | {"rise_height": 0.51}) == "rise_height"
    for angle, field in ((180.0, "rise_angle"), (0.0, None)):
        told = swing | {"rise_angle": angle}
        if field:
            assert refused("impact", told) == field
        else:
            assert run("impact", told).results
    assert run("impact", swing | {"release_angle": 180.0, "rise_angle": 90.0}).results, "straight up is an angle"


def test_a_creep_that_broke_at_the_horizon_has_its_creep_and_one_before_a_bound():
    horizon = CreepProtocol().horizon

    def of(last):
        timed = [("gap", 60.0, 1.0, None), ("gap", 3600.0, 1.1, None), ("gap", last, 1.3, None)]
        found = run("creep", {}, timed, outcome="broke")
        return next((r for r in found.results if r.quantity == "creep_at_horizon"), None)

    assert of(horizon).bound is Bound.EXACT
    assert of(horizon - 1).bound is Bound.AT_LEAST


def test_of_two_readings_as_near_to_a_set_time_the_first_counts():
    due = CreepProtocol().recovery_due[1]
    timed = [("gap", 60.0, 1.0, None), ("gap", 3600.0, 2.0, None), ("recovery", due - 30, 1.4, None), ("recovery", due + 30, 1.2, None)]
    found = run("creep", {"unloaded": 0.5}, timed)
    assert values(found)[f"recovered_share@{due:g}"] == pytest.approx(0.6 / 1.5)
    weighed = [("mass", 7 * DAY - 600, 101.0, None), ("mass", 7 * DAY + 600, 102.0, None)]
    assert values(run("exposure", {"mass_before": 100.0}, weighed)) == {f"mass_change@{7 * DAY:g}": pytest.approx(1.0)}


def test_a_tenth_of_the_whole_change_is_still_and_more_is_not():
    def told(last_but_one):
        return run("exposure", {"mass_before": 100.0}, [("mass", DAY, last_but_one, None), ("mass", 7 * DAY, 200.0, None)]).warnings

    assert told(190.0) == []
    assert [w.startswith("still changing") for w in told(189.0)] == [True]
    assert refused("exposure", {"mass_before": 100.0}, [("mass", DAY, 0.0, None)]) == "mass"


def test_a_deflection_may_begin_at_the_standard_one():
    wanted = deflection_for(Section([10.0], [4.0]), 64.0)
    told = {"width": 10.0, "thickness": 4.0, "span": 64.0, "ramp_temperature": [25.0, 30.0, 40.0, 50.0, 60.0]}
    assert values(run("deflection-temperature", told | {"ramp_sag": [wanted, *[wanted + 0.1 * i for i in range(1, 5)]]}))["deflection_temperature"] == 25.0
    assert refused("deflection-temperature", told | {"ramp_sag": [wanted + 1e-9, *[wanted + 0.1 * i for i in range(1, 5)]]}) == "ramp_sag"


@pytest.mark.parametrize("method", ["heat-ramp", "deflection-temperature"])
def test_a_ramp_of_eighty_readings_is_drawn_as_a_line(method):
    def drawn(n):
        told = {"width": 10.0, "thickness": 4.0, "span": 64.0} if method == "deflection-temperature" else {"width": 10.0, "thickness": 4.0}
        told |= {"ramp_temperature": list(np.linspace(25, 90, n)), "ramp_sag": list(np.linspace(0, 0.2, n))}
        known = {f.name for f in REGISTRY[method].fields()}
        entries = [Entry(k, v, i) for k, own in told.items() if k in known for i, v in enumerate(own if isinstance(own, list) else [own])]
        return REGISTRY[method].view(Inputs(entries)).points

    assert (drawn(79), drawn(80)) == (True, False)


def test_a_baseline_of_five_readings_at_one_temperature_is_flat():
    onset = find_onset([30, 30, 30, 30, 30, 50, 60], [0.1, 0.12, 0.08, 0.1, 0.1, 0.1, 5.0])
    assert onset.slope == 0
    assert onset.intercept == pytest.approx(0.1)
    assert 50 < onset.at < 60
    with pytest.raises(EntryError, match="only 4 readings"):
        find_onset([30, 30, 30, 30, 50, 60], [0.1] * 6)
    assert find_onset([30, 32, 34, 36, 40, 60], [0.0] * 5 + [3.0]).at > 40, "10 °C above the start belong to the baseline"


def test_an_unpaired_ramp_names_what_is_missing():
    more_heat = {"ramp_temperature": [25.0, 30.0, 40.0], "ramp_sag": [0.0, 0.1]}
    more_sag = {"ramp_temperature": [25.0, 30.0], "ramp_sag": [0.0, 0.1, 0.2]}
    section = {"width": 10.0, "thickness": 4.0, "span": 64.0}
    assert refused("deflection-temperature", section | more_heat) == "ramp_sag"
    assert refused("deflection-temperature", section | more_sag) == "ramp_temperature"


def test_a_deflection_of_a_tenth_of_the_span_is_still_a_small_one():
    assert deflected_far(6.4, 64.0) == []
    assert len(deflected_far(6.41, 64.0)) == 1


def test_a_step_that_gave_way_no_further_has_no_modulus():
    def stepped(*rows):
        timed = [("deflection", after, value, load) for load, own in rows for after, value in own]
        return values(run("stepped-bending", {"width": 10.0, "thickness": 4.0, "span": 64.0}, timed))

    same = stepped((10.0, [(60.0, 1.0)]), (20.0, [(60.0, 1.0)]))
    further = stepped((10.0, [(60.0, 1.0)]), (20.0, [(60.0, 2.0)]))
    assert "modulus@20" not in same
    assert further["modulus@20"] == pytest.approx(10 * 64**3 / (4 * 10 * 4**3))
    # nothing to begin with, and one instant alone, tell neither drift nor growth
    still = stepped((10.0, [(60.0, 0.0), (60.0, 0.1)]))
    assert {"drift@10", "growth@10"}.isdisjoint(still)


def test_corners_within_a_step_of_flat_are_not_twisted():
    def warnings(*corners):
        return run("warp", {"corners": list(corners), "length": 100.0}, steps={"corners": 0.05}).warnings

    assert warnings(-0.05, 0.3, 0.2, 0.1) == []
    assert warnings(-0.3, 0.05, -0.2, -0.1) == []
    assert [w.startswith("some corners stand up") for w in warnings(-0.06, 0.06, 0.2, 0.1)] == [True]


def test_words_of_an_end_are_kept_up_to_twenty_letters():
    assert _outcome_name("a" * 20) == "a" * 20
    assert _outcome_name("a" * 12 + " " + "b" * 8) == "a" * 12, "a word is not cut through"
    assert _outcome_name("Came off (12)!") == "came off"
    assert _outcome_name("?!") == "other"


@pytest.mark.parametrize(("force", "travel"), [(-1, 1), (1, -1), (-1, -1)])
def test_signs_of_a_bend_are_turned_back_and_it_is_said(force, travel):
    section, straight = [Entry("width", 10.0), Entry("thickness", 4.0), Entry("span", 64.0)], bend()
    found = REGISTRY["bending"].reduce(Inputs(section, recording=straight))
    turned = Recording.of(force=force * straight.need("force"), travel=travel * straight.need("travel"))
    again = REGISTRY["bending"].reduce(Inputs(section, recording=turned))
    assert values(again) == pytest.approx(values(found))
    said = [name for name, sign in (("force", force), ("travel", travel)) if sign < 0]
    assert [w.split()[1] for w in again.warnings if "sign was turned" in w] == said


def test_sizes_and_grades_of_what_was_exposed_at_their_times():
    week = 7 * DAY
    entries = [
        Entry("mass_before", 100.0), Entry("mass", 101.0, 0, after=week),
        Entry("sizes_before", 60.0, about="length"), Entry("sizes_before", 1.0, about="thickness"),
        Entry("sizes", 60.6, 0, after=week, about="length"), Entry("sizes", 1.03, 0, after=week, about="thickness"),
        Entry("looks", 4, 0, after=DAY, about="Ilse"), Entry("looks", 3, 1, after=week, about="Ilse"), Entry("looks", 2, 1, after=week + 60, about="Tomas"),
        Entry("feel", 0, 1, after=week, about="Ilse"),
    ]  # fmt: skip
    found = REGISTRY["exposure"].reduce(Inputs(entries))
    assert values(found) == {
        f"mass_change@{week:g}": pytest.approx(1.0), f"size_change@{week:g}@length": pytest.approx(1.0),
        f"size_change@{week:g}@thickness": pytest.approx(3.0), f"looks@{DAY:g}": 4, f"looks@{week:g}": 2.5, f"feel@{week:g}": 0,
    }  # fmt: skip
    assert REGISTRY["exposure"].quantity(f"looks@{week:g}").label == "looks after 7 days"
    for wrong in (5.0, 2.5, -1.0):
        with pytest.raises(EntryError, match="whole step from 0 to 4") as error:
            REGISTRY["exposure"].reduce(Inputs([*entries[:2], Entry("distortion", wrong, 0, after=week, about="Ilse")]))
        assert error.value.field == "distortion"


def test_what_is_read_beside_the_mass_is_what_the_lab_has_set():
    exposure = REGISTRY["exposure"]

    def told(**settings):
        return [(b.field, b.about, len(b.grades), b.before) for b in exposure.along(exposure.protocol.read(settings, "x"))]

    assert told() == []
    before = [("sizes_before", n, 0, True) for n in ("length", "width", "thickness")]
    each = [("sizes", n, 0, False) for n in ("length", "width", "thickness")]
    assert told(sizes=1) == [*before, *each]
    assert told(looks=1) == [(n, None, 5, False) for n in ("looks", "feel", "distortion")]
    assert REGISTRY["creep"].along(REGISTRY["creep"].protocol()) == ()
