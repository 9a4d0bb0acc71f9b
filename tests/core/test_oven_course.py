"""What an oven showed over time beside what was seen by eye: the rate it heated by, and where on it something was seen."""

import numpy as np
import pytest

from assayer.core.curves.recording import Recording
from assayer.core.errors import EntryError
from assayer.core.methods import REGISTRY
from assayer.core.methods.heat_ramp import course_of
from assayer.core.methods.inputs import Entry, Inputs

HEAT = REGISTRY["heat-ramp"]
SEEN = [Entry("noticed_at", 64.0), Entry("noticed_step", 2.0), Entry("failed_at", 70.0)]


def typed(rate, minutes=20, start=40.0, every=2):
    return [Entry("course", start + rate * m, i, after=60.0 * m) for i, m in enumerate(range(0, minutes + 1, every))]


def logged(rate, minutes=20, start=40.0):
    t = np.arange(0, 60 * minutes + 1, 10.0)
    return Recording.of(time=t, temperature=start + rate * t / 60)


@pytest.mark.parametrize("told, said", [(2.0, False), (1.61, False), (1.59, True), (2.66, False), (2.68, True)])
def test_an_oven_that_heats_otherwise_than_it_was_set_to_is_pointed_out(told, said):
    """2 K a minute in truth; a quarter of what was set is allowed."""
    for inputs in (Inputs([*SEEN, Entry("rate", told), *typed(2.0)]), Inputs([*SEEN, Entry("rate", told)], recording=logged(2.0))):
        found = HEAT.reduce(inputs)
        assert [w for w in found.warnings if "heated" in w] == ([f"the oven heated by 2 K/min, not by {told:g}"] if said else [])
        assert (found.get("sag_onset").value, found.get("total_failure").value) == (63.0, 70.0), "the course moves no value"


def test_nothing_is_said_of_a_rate_that_nobody_set_or_that_cannot_be_told():
    assert not HEAT.reduce(Inputs([*SEEN, *typed(2.0)])).warnings
    at_once = [Entry("course", v, i, after=0.0) for i, v in enumerate((40.0, 60.0))]
    assert not HEAT.reduce(Inputs([*SEEN, Entry("rate", 2.0), *at_once])).warnings
    assert course_of(Inputs(typed(2.0)[:1])) is None, "one reading is no course"
    assert course_of(Inputs([Entry("course", 40.0, 0), Entry("course", 50.0, 1)])) is None, "without its times it is none either"


def test_what_was_seen_stands_where_the_oven_passed_it():
    for inputs in (Inputs([*SEEN, *typed(2.0)]), Inputs(SEEN, recording=logged(2.0))):
        view = HEAT.view(inputs)
        assert (view.x_label, view.x_unit, view.y_label, view.y_unit) == ("time", "min", "temperature", "°C")
        assert view.points is (inputs.recording is None)
        assert (view.x[-1], view.y[-1]) == (20.0, 80.0)
        assert {k: tuple(round(v, 6) for v in mark) for k, mark in view.marks.items()} == {"sag seen": (12.0, 64.0), "hung down": (15.0, 70.0)}
    # opened for a look it cooled down a little, and was warm enough only afterwards
    dip = [Entry("course", v, i, after=60.0 * i) for i, v in enumerate((40.0, 60.0, 50.0, 62.0, 66.0))]
    assert HEAT.view(Inputs([*SEEN[:2], *dip])).marks == {"sag seen": (pytest.approx(3.5), 64.0)}
    assert HEAT.view(Inputs([Entry("noticed_at", 90.0), *typed(2.0)])).marks == {}, "it never became so warm: no place on it"


def test_a_recording_with_a_sag_is_a_ramp_and_one_without_times_no_course():
    t = np.linspace(40, 80, 41)
    ramp = Recording.of(temperature=t, travel=np.where(t > 60, (t - 60) * 0.1, 0.0), time=60.0 * np.arange(41))
    assert course_of(Inputs([], recording=ramp)) is None
    assert HEAT.view(Inputs([], recording=ramp)).x_label == "temperature"
    with pytest.raises(EntryError, match="no time"):
        course_of(Inputs(SEEN, recording=Recording.of(temperature=t)))
    with pytest.raises(EntryError, match="seen to sag") as refused:
        HEAT.reduce(Inputs([], recording=logged(2.0)))
    assert refused.value.field == "noticed_at", "a logger sees no sag"
    with pytest.raises(EntryError, match="no travel"):
        REGISTRY["deflection-temperature"].reduce(Inputs([Entry("width", 10.0), Entry("thickness", 4.0), Entry("span", 64.0)], recording=logged(2.0)))
