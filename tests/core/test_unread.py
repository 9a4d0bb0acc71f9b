"""What a run lacks when it is to be ended: weights, due readings and ramps are counted; an outcome that ends early asks nothing."""

import pytest

from assayer.core.methods import REGISTRY, method
from assayer.core.methods.inputs import Entry, Inputs
from assayer.core.methods.results import Reduction, Result
from assayer.core.methods.unread import unread
from assayer.core.methods.vocabulary import Bound

BENDING, CREEP = method("stepped-bending"), method("creep")
LADDER, TIMES = BENDING.protocol().ladder, BENDING.protocol().times


def words(tested, entries, outcome=None, reduction=None):
    found = unread(tested, Inputs(entries, outcome=outcome), reduction)
    return None if found is None else (found.field, found.words)


def under(loads, times=TIMES):
    return [Entry("deflection", 0.1, i, after=t, load=load) for load in loads for i, t in enumerate(times)]


def test_weights_that_were_not_hung_are_counted():
    assert words(BENDING, under(LADDER[:1])) == ("deflection", "1 of 4 weights")
    assert words(BENDING, under(LADDER[:3])) == ("deflection", "3 of 4 weights")
    assert words(BENDING, under(LADDER)) is None
    assert words(BENDING, under(LADDER[:3]) + under(LADDER[3:], TIMES[:2])) == ("deflection", "2 of 3 readings under 120 N")


def test_a_run_that_ended_early_is_asked_nothing_and_one_that_held_is():
    assert words(BENDING, under(LADDER[:1]), "broke") is None
    assert words(BENDING, under(LADDER[:1]), "slid") is None
    assert words(BENDING, under(LADDER[:1]), "held") == ("deflection", "1 of 4 weights")


def read_after(*seconds):
    return [Entry("gap", 1.0, i, after=s) for i, s in enumerate(seconds)]


def test_due_readings_are_counted_until_the_last_of_them():
    due = CREEP.protocol().due
    assert words(CREEP, read_after(*due[:3])) == ("gap", f"3 of {len(due)} readings that are due")
    assert words(CREEP, read_after(due[0], due[0] * 3, due[1])) == ("gap", f"2 of {len(due)} readings that are due"), "one between them is none of them"
    assert words(CREEP, read_after(due[0], due[-1])) is None, "one missed in between is no reason to go on"
    assert words(CREEP, read_after(due[0], due[-1] * 2)) is None, "nor is a last one that was late"
    assert words(CREEP, read_after(due[0]), "broke") is None


@pytest.mark.parametrize("name", ["heat-ramp", "deflection-temperature"])
def test_a_ramp_that_shows_nothing_is_asked_about_unless_it_is_said_to_have_been_stopped(name):
    ramp = method(name)
    early = next(o.name for o in ramp.outcomes if o.early)

    def made(bound):
        return Reduction(name, "p", 1, [Result(ramp.main, 82.0, "°C", bound)], [])

    assert words(ramp, [], reduction=made(Bound.AT_LEAST)) == (ramp.steps[-1].fields[-1].name, "nothing seen up to 82 °C")
    assert words(ramp, [], early, made(Bound.AT_LEAST)) is None
    assert words(ramp, [], reduction=made(Bound.EXACT)) is None
    assert words(ramp, []) is None


def test_what_is_read_at_once_lacks_nothing():
    known = {"stepped-bending", "creep", "exposure", "heat-ramp", "deflection-temperature"}
    assert [m.name for m in REGISTRY.values() if m.name not in known and unread(m, Inputs([]), None) is not None] == []
