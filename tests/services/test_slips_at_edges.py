"""What is asked and remarked about a reading, at the edges of the rules, on rigs made for it."""

from dataclasses import replace
from datetime import UTC, datetime, timedelta
from types import SimpleNamespace

import pytest
from pydantic import TypeAdapter, ValidationError

from assayer.core.methods import method
from assayer.core.methods.inputs import Entry, Inputs
from assayer.core.quantities.units import DIMENSIONS
from assayer.services.bench import checks
from assayer.services.bench.reductions import Typed
from assayer.services.requests import Instant, Moment, Raw
from assayer.services.rigs.calibrations import RigReader

AT = datetime(2026, 6, 1, 8, tzinfo=UTC)
CREEP, TENSION = method("creep"), method("tension")


def channel(dimension, unit, **more):
    base = {"name": dimension, "dimension": dimension, "unit": unit, "decimals": 0, "step": 1.0, "low": None, "high": None}
    return SimpleNamespace(**base | more)


def calibration(of, factor, begins, ends=None, due=None, retracted=None):
    return SimpleNamespace(channel=of, factor=factor, valid_from=begins, valid_to=ends, due_at=due, retracted_at=retracted)


def rig(*channels, calibrations=()):
    return RigReader(SimpleNamespace(channels=list(channels), rig=SimpleNamespace(name="Pull frame")), list(calibrations))


def typed(field, value, position=0, **more):
    base = {"happened_at": AT, "calibrated_at": AT, "ambient": None, "load": None, "after": None, "rig": rig()}
    return Typed(field, position, value, **base | more)


# what a rig says of a reading


@pytest.mark.parametrize(("shown", "said"), [(10, ""), (9.99, "coarse"), (500, ""), (500.1, "above the 500 N"), (-1, "below the 0 N"), (0, "coarse")])
def test_a_reading_at_the_ends_of_what_a_rig_shows(shown, said):
    force = TENSION.field("peak_force")
    marks = rig(channel("force", "N", low=0.0, high=500.0)).marks(force, shown, AT)
    assert (said in " ".join(marks)) if said else marks == []


def test_the_ends_are_in_the_unit_that_the_rig_shows():
    """Of 100 kgf: 980.665 N are at the end, and the step of 0.1 kgf makes 0.98 N ten steps."""
    force = TENSION.field("peak_force")
    factor = DIMENSIONS["force"].unit("kgf").factor
    shows = rig(channel("force", "kgf", low=None, high=100.0, step=0.1))
    assert shows.step(force) == pytest.approx(0.1 * factor)
    assert shows.marks(force, 100 * factor, AT) == []
    assert "load when it broke 101 kgf is above the 100 kgf that Pull frame reads to" in shows.marks(force, 101 * factor, AT)
    assert "coarse" in shows.marks(force, 0.99 * factor, AT)[0]
    assert shows.marks(force, 1.01 * factor, AT) == []
    # a rig that does not show it says nothing about it
    assert rig().marks(force, 1e9, AT) == []
    assert rig().step(force) == 0
    assert rig().factor_of(force, AT) == 1


def test_the_calibration_of_the_instant_applies_from_its_first_to_before_its_last():
    force = TENSION.field("peak_force")
    day = timedelta(days=1)
    held = rig(
        channel("force", "N"),
        calibrations=[
            calibration("force", 1.1, AT, AT + 10 * day, due=AT + 5 * day),
            calibration("force", 1.2, AT + 10 * day),
            calibration("force", 9.0, AT, retracted=AT),
            calibration("travel", 7.0, AT - day),
        ],
    )
    for after, factor in ((-0.001, 1.0), (0, 1.1), (9.999, 1.1), (10, 1.2), (99, 1.2)):
        assert held.factor_of(force, AT + after * day) == factor, after
    # due: from then on it is remarked, not at that very instant
    assert held.marks(force, 100, AT + 5 * day) == []
    assert held.marks(force, 100, AT + 5 * day + timedelta(seconds=1)) == ["load when it broke: the calibration of force was due on 2026-06-06"]


# a course


@pytest.mark.parametrize(
    ("value", "falling", "said", "likely"),
    [
        # 1 then 1.5 so far, steps of 1/64: it may grow by 0.5, and run back by three steps
        (2.0, False, None, None),
        (2.01, False, "jumps", None),
        (15.5, False, "jumps", "1.55"),
        (1.5 - 3 / 64, False, None, None),
        (1.5 - 4 / 64, False, "runs backwards", None),
        (0.151, False, "runs backwards", "1.51"),
        (1.5, False, None, None),
        # falling, the other way round
        (1.0, True, None, None),
        (0.99, True, "jumps", None),
        (1.5 + 3 / 64, True, None, None),
        (1.5 + 4 / 64, True, "runs backwards", None),
        (14.5, True, "runs backwards", "1.45"),
    ],
)
def test_a_course_may_run_on_by_what_it_did_and_back_by_three_steps(value, falling, said, likely):
    asked = checks._odd(typed("gap", value), [1.0, 1.5], 1 / 64, checks._BACK_STEPS / 64, "opening", "mm", falling=falling)
    assert (asked is not None) is (said is not None)
    if asked is not None:
        assert f"opening {value:g} mm {said}: it was 1.5 mm before" in asked.text
        assert asked.likely == likely
        assert asked.text.endswith(f"Was {likely} mm meant?" if likely else "Is it right?")


def test_the_room_of_a_short_course_is_twenty_steps_or_a_twentieth():
    def odd(value, before, step):
        return checks._odd(typed("gap", value), before, step, checks._BACK_STEPS * step, "opening", "mm", falling=False) is not None

    assert [odd(v, [0.1], 0.01) for v in (0.3, 0.301)] == [False, True], "20 steps"
    assert [odd(v, [10.0], 0.01) for v in (10.5, 10.51)] == [False, True], "5 % of where it is"


# a result


@pytest.mark.parametrize(("factor", "power"), [(10, 1), (100, 2), (0.1, -1), (1000, 3), (0.01, -2)])
def test_a_load_whose_decimal_mark_slipped_is_asked_with_the_one_that_makes_sense(factor, power):
    right = 900.0
    entries = [Entry("width", 5.0, i) for i in range(3)] + [Entry("thickness", 4.0, i) for i in range(3)]
    inputs = Inputs([*entries, Entry("peak_force", right * factor)], shape=TENSION.shapes[0], outcome=TENSION.outcomes[0].name)
    reduction = TENSION.reduce(inputs)
    new = [typed("width", 5.0), typed("peak_force", right * factor)]
    span = (40.0, 50.0)
    t, value = checks._slipped(TENSION, inputs, new, "strength", span)
    assert (t.field, value) == ("peak_force", pytest.approx(right))
    assert reduction.get("strength").value == pytest.approx(45 * factor)
    # what no moved mark explains has no likely meaning
    assert checks._slipped(TENSION, replace(inputs, entries=[*entries, Entry("peak_force", 3 * right)]), new, "strength", (44.9, 45.1)) is None


# instants and texts


@pytest.mark.parametrize(("kind", "first", "last"), [(Instant, 1900, 2199), (Moment, 2000, 2200)])
def test_the_years_that_are_meant(kind, first, last):
    adapter = TypeAdapter(kind)
    for year in (first, last):
        assert adapter.validate_python(datetime(year, 6, 1, tzinfo=UTC)).year == year
    for year in (first - 1, last + 1):
        with pytest.raises(ValidationError):
            adapter.validate_python(datetime(year, 6, 1, tzinfo=UTC))


@pytest.mark.parametrize(
    ("text", "fine"),
    [("\x1f", False), (" a", True), ("a\ud7ff", True), ("a\ud800", False), ("\ue000a", True), ("a\u200b", True), ("\u200b\u2060", False)],
)
def test_which_characters_may_stand(text, fine):
    adapter = TypeAdapter(Raw)
    try:
        adapter.validate_python(text)
    except (ValidationError, UnicodeError):
        assert not fine
    else:
        assert fine
