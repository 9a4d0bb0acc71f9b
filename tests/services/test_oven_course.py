"""What an oven showed goes along with each run: a logger's file, or what was typed."""

import json
import struct

import pytest

from assayer.core.errors import FileError
from assayer.services.bench import curves, recompute
from assayer.services.rigs.requests import NewCalibration

from ..support import ACTOR, AT, channel, new_id, reading
from .test_further_bench import DAY, Hall


def head_of(packed):
    """The JSON head of curves as they are sent; the first one."""
    return json.loads(packed[4 : 4 + struct.unpack("<I", packed[:4])[0]])["curves"][0]


def test_a_logger_s_file_belongs_to_each_run_and_is_calibrated_like_what_is_typed(workspace):
    """What the logger wrote goes along as a recording of its own for each; calibrating the thermometer moves it and what was seen alike."""
    shown = [channel("temperature", "°C", 0.1, dimension="temperature", low=-10, high=300)]
    hall = Hall(workspace, "heat-ramp", shown, geometry={"noticed_step": 2, "rate": 3})
    text = "Time;Temperature (°C)\n" + "\n".join(f"14:{m:02}:00;{40 + 2 * m}" for m in range(20))
    bare = "\n".join(line.split(";")[1] for line in text.split("\n"))
    with pytest.raises(FileError, match="has no times"):
        curves.take_in(workspace, ACTOR, new_id(), hall.own_rig.id, "t.csv", bare.encode(), None, True)
    ids = [new_id(), new_id()]
    for key in ids:
        kept, fresh = curves.take_in(workspace, ACTOR, key, hall.own_rig.id, "oven.csv", text.encode(), None, True)
        assert (kept.columns, kept.rows, fresh) == (["temperature", "time"], 20, True)
    assert curves.take_in(workspace, ACTOR, ids[0], hall.own_rig.id, "oven.csv", text.encode(), None, True)[1] is False
    told = [hall.enter([reading("noticed_at", seen)], curve_id=key, outcome="sagged", unchecked=True) for key, seen in zip(ids, ("62", "70"), strict=True)]
    assert [r.results[0].value for r in told] == [61.0, 69.0]
    assert all(any("the oven heated by 2 K/min, not by 3" in w for w in (*r.remarks, *r.results[0].warnings)) for r in told)
    drawn = head_of(curves.run_curve(workspace, told[1].id))
    assert (drawn["x_label"], drawn["marks"]) == ("time", {"sag seen": [pytest.approx(15.0), 70.0]})
    raw = head_of(curves.raw_curve(workspace, ids[0]))
    assert (raw["x_label"], raw["x_unit"], raw["y_label"], raw["y_unit"]) == ("time", "s", "temperature", "°C")
    fix = NewCalibration(id=new_id(), channel="temperature", factor=1.05, valid_from=AT - DAY, due_at=AT + DAY, note="ice and steam")
    recompute.calibrate(workspace, ACTOR, hall.own_rig.id, fix)
    again = head_of(curves.run_curve(workspace, told[1].id))
    # both by the same factor: it stands at the same moment, higher
    assert again["marks"]["sag seen"] == [pytest.approx(15.0), pytest.approx(70 * 1.05)]


def test_what_was_typed_of_the_oven_is_no_course_to_be_asked_about(workspace):
    """It may be opened and cool down; what is kept beside what was seen stands in the order of the method."""
    shown = [channel("temperature", "°C", 0.1, dimension="temperature", low=-10, high=300)]
    hall = Hall(workspace, "heat-ramp", shown, geometry={"noticed_step": 2})
    course = [reading("course", raw, i, after=60.0 * i) for i, raw in enumerate(("60", "75", "52", "76"))]
    told = hall.enter([*course, reading("noticed_at", "76")], outcome="sagged")
    assert [r.field for r in told.readings] == ["noticed_at", *["course"] * 4]
    assert head_of(curves.run_curve(workspace, told.id))["points"] == 4
