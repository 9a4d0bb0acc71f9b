"""G-code inspected: against an independent planner, hand-reckoned prints, and files as they come."""

import math
import random

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from assayer.core.errors import FileError
from assayer.core.gcode import inspection
from assayer.core.gcode.inspection import Machine, inspect
from assayer.core.gcode.judging import against_sheet, caps, compare, ranges, wall_scatter
from assayer.core.settings.sheet import Schedule, Set, Sheet

from ..gcode_writer import Writer, independent_time, tower

SECTION = math.pi * 1.75**2 / 4


def one(data, **machine):
    return inspect([data], Machine(**machine) if machine else None)


@pytest.mark.parametrize("seed", range(6))
def test_the_time_is_that_of_an_independent_planner(seed):
    rng = random.Random(seed)
    w, moves, at = Writer(), [], (0.0, 0.0, 0.0)
    for _ in range(400):
        step = 10 ** rng.uniform(-1.5, 1.5)
        angle = rng.uniform(0, 2 * math.pi)
        to = (at[0] + step * math.cos(angle), at[1] + step * math.sin(angle), at[2])
        speed = rng.choice((15, 40, 90, 200))
        w.go(*to, e=0.02, feed=speed)
        moves.append((to[0] - at[0], to[1] - at[1], 0.0, speed))
        at = to
    expected = independent_time(moves, corner=5.0, acceleration=1200.0)
    found = one(w.bytes, acceleration=1200.0)
    assert found.seconds == pytest.approx(expected, rel=0.002)


@pytest.mark.parametrize("ahead", [400, 30])
def test_neither_blocks_nor_a_shorter_look_ahead_change_what_is_found(monkeypatch, ahead):
    data = tower(layers=40)
    whole = inspect([data])
    monkeypatch.setattr(inspection, "BLOCK", 900)
    monkeypatch.setattr(inspection, "AHEAD", ahead)
    blocks = list(inspection.whole_lines(data[i : i + 333] for i in range(0, len(data), 333)))
    assert len(blocks) > 10
    assert b"".join(blocks) == data
    assert all(b.endswith(b"\n") for b in blocks)
    pieces = inspect(data[i : i + 333] for i in range(0, len(data), 333))
    assert pieces.seconds == pytest.approx(whole.seconds, rel=1e-6)
    assert [layer.z for layer in pieces.layers] == [layer.z for layer in whole.layers]
    assert [layer.contour for layer in pieces.layers] == [layer.contour for layer in whole.layers]
    assert pieces.filament == pytest.approx(whole.filament)
    assert pieces.lines == whole.lines == data.count(b"\n")


def test_layers_filament_flow_and_contour_of_a_tower():
    found = one(tower(layers=50))
    assert len(found.layers) == 50
    assert found.layers[-1].z == pytest.approx(10.0)
    # two outlines of 80 and 76 mm a layer at 0.03 mm of strand per mm
    assert found.filament == {0: pytest.approx(50 * (80 + 76) * 0.03)}
    assert found.volume == pytest.approx(50 * 156 * 0.03 * SECTION)
    layer = found.layers[10]
    assert layer.contour == pytest.approx(80), "the outer outline alone, though both are closed"
    assert layer.contour_speed.high == pytest.approx(30, rel=0.01)
    assert layer.contour_speed.high < layer.speed.high <= 40.001
    assert layer.flow.high == pytest.approx(40 * 0.03 * SECTION, rel=0.01)
    assert layer.laid == pytest.approx(156)
    assert (layer.nozzle, layer.fan) == (230, pytest.approx(51 / 255))
    assert found.layers[0].nozzle == 240
    assert 0 < found.preparing < 1
    assert found.seconds == pytest.approx(found.preparing + sum(x.seconds for x in found.layers))


@pytest.mark.parametrize(
    "more",
    [
        {"unit": 25.4},
        {"e_relative": False},
        {"relative": True},
        {"ending": "\r\n"},
    ],
)
def test_the_same_print_written_otherwise(more):
    plain, other = one(tower(layers=12)), one(tower(layers=12, **more))
    assert other.seconds == pytest.approx(plain.seconds, rel=1e-3)
    assert other.filament[0] == pytest.approx(plain.filament[0], rel=1e-4)
    assert [x.z for x in other.layers] == pytest.approx([x.z for x in plain.layers], abs=1e-3)
    assert other.layers[5].contour == pytest.approx(80, rel=1e-3)


@pytest.mark.parametrize(
    ("arc", "turn"),
    [
        ("G2 X10 Y10 I10 J0", 0.25),
        ("G3 X10 Y10 I10 J0", 0.75),
        ("G3 X10 Y10 I0 J10", 0.25),
        ("G2 X10 Y10 R10", 0.25),
        ("G3 X10 Y10 R-10", 0.75),
        ("G2 X0 Y0 I10 J0", 1),
    ],
)
def test_arcs_are_as_long_as_they_are(arc, turn):
    w = Writer()
    w.go(0, 0, 0.2, feed=20)
    w.say(f"{arc} E1 F1200")
    (layer,) = one(w.bytes).layers
    assert layer.laid == pytest.approx(turn * 2 * math.pi * 10)
    assert layer.speed.high == pytest.approx(20, rel=0.02)


def test_inches_hold_for_arcs_and_accelerations():
    plain, inches = Writer(), Writer(unit=25.4)
    for w, k in ((plain, 1), (inches, 25.4)):
        w.go(0, 0, 0.2, feed=20)
        w.say(f"M204 P{500 / k:.6f} T{300 / k:.6f}", f"G3 X{10 / k:.6f} Y{10 / k:.6f} I0 J{10 / k:.6f} E{1 / k:.6f} F{7200 / k:.4f}")
        w.say(f"G2 X{20 / k:.6f} Y{20 / k:.6f} R{10 / k:.6f} E{1 / k:.6f}", f"G1 X{80 / k:.6f} F{9000 / k:.4f}")
    assert one(inches.bytes).layers[0].laid == pytest.approx(10 * math.pi, rel=1e-4)
    assert one(inches.bytes).seconds == pytest.approx(one(plain.bytes).seconds, rel=1e-4)
    faster = plain.bytes.replace(b"P500", b"P5000"), plain.bytes.replace(b"T300", b"T3000")
    assert all(one(f).seconds < one(plain.bytes).seconds - 0.01 for f in faster)


@settings(max_examples=40, deadline=None)
@given(st.floats(-60, 60), st.floats(-60, 60), st.floats(0, 6.28), st.integers(5, 40))
def test_what_lies_within_an_outline_is_told_wherever_it_lies(x, y, turn, corners):
    """A polygon about (x, y), and squares inside it or beside it, within its bounds."""

    def at(r, angle):
        return x + r * math.cos(angle), y + r * math.sin(angle)

    for distance, inside in ((12.0, True), (27.5, False)):
        w = Writer()
        w.go(z=0.2, feed=10)
        w.go(*at(20, turn), feed=50)
        for i in range(1, corners + 1):
            w.go(*at(20, turn + 2 * math.pi * i / corners), e=0.3, feed=30)
        around = w.bytes
        # beside a corner of its bounds: outside, though the bounds hold it
        corner = at(distance, math.pi / 4 if not inside else turn)
        w.box(corner[0] - 1, corner[1] - 1, 2, 2, 30)
        (alone,), (layer,) = one(around).layers, one(w.bytes).layers
        assert layer.contour == pytest.approx(alone.contour + (0 if inside else 8), rel=1e-6)


def test_the_outer_contour_is_the_larger_one_whichever_is_laid_first():
    for boxes in ([(0, 20), (0.5, 19)], [(0.5, 19), (0, 20)]):
        w = Writer()
        w.go(z=0.2, feed=10)
        for at, side in boxes:
            w.box(at, at, side, side, 30)
        (layer,) = one(w.bytes).layers
        assert layer.contour == pytest.approx(80)


def test_an_outline_of_arcs_holds_what_is_printed_inside_it():
    w = Writer()
    w.go(0, 0, 0.2, feed=20)
    w.say("G3 X20 Y0 I10 J0 E1 F1200", "G3 X0 Y0 I-10 J0 E1")
    w.box(13, -4, 3, 8, 30)
    (layer,) = one(w.bytes).layers
    assert layer.contour == pytest.approx(2 * math.pi * 10), "by chords alone, the box would stick out"


def test_an_arc_is_no_faster_than_its_acceleration_turns_it():
    w = Writer()
    w.say("G1 Z0.2 F600", "G2 X0 Y0 I2 J0 E1 F12000")
    (layer,) = one(w.bytes, acceleration=500).layers
    assert layer.laid == pytest.approx(4 * math.pi)
    assert layer.speed.high <= math.sqrt(500 * 2) + 1e-6


def test_several_tools_each_take_their_own_filament():
    w = Writer()
    w.say("T0")
    w.go(z=0.2, feed=10)
    w.box(0, 0, 10, 10, 30)
    w.say("T1")
    w.box(20, 0, 20, 10, 30)
    w.say("T0", "G1 E-2 F1800")
    found = one(w.bytes)
    assert found.filament == {0: pytest.approx(40 * 0.03 - 2), 1: pytest.approx(60 * 0.03)}


def test_waits_shares_and_offsets_are_taken_into_account():
    w = Writer()
    w.go(0, 0, 0.2, feed=20)
    w.go(100, 0, e=3, feed=50)
    plain = one(w.bytes)
    w.say("G4 P2500", "G1 X100.001 E0.0001")
    assert one(w.bytes).seconds == pytest.approx(plain.seconds + 2.5, abs=0.05)
    halved = w.bytes.replace(b"G92 E0", b"G92 E0\nM220 S50\nM221 S120")
    assert one(halved).seconds > 1.5 * plain.seconds
    assert one(halved).filament[0] == pytest.approx(3.0001 * 1.2, rel=1e-4)
    moved = w.bytes.replace(b"G4 P2500", b"G92 X0 Y0\nG1 X50 Y0 E1\nG92 X100 Y0")
    assert one(moved).layers[0].laid == pytest.approx(150, abs=0.01)


def test_travel_across_the_contour_is_told_from_travel_inside():
    w = Writer()
    w.go(z=0.2, feed=10)
    w.box(0, 0, 20, 20, 30)
    w.go(10, 10, feed=100)
    w.go(12, 10, e=0.1, feed=30)
    w.go(40, 10, feed=100)
    w.go(42, 10, e=0.1, feed=30)
    (layer,) = one(w.bytes).layers
    assert layer.crossing == pytest.approx(28)
    assert layer.travel == pytest.approx(28 + math.hypot(10, 10))


def test_a_spiral_wall_has_a_layer_a_turn():
    w = Writer()
    for n in (1, 2):
        w.go(z=0.3 * n, feed=10)
        w.box(0, 0, 20, 20, 30)
    for turn in range(20):
        for quarter, (x, y) in enumerate(((20, 0), (20, 20), (0, 20), (0, 0)), 1):
            w.go(x, y, round(0.6 + 0.3 * (turn + quarter / 4), 4), e=0.6, feed=30)
    found = one(w.bytes)
    assert [layer.z for layer in found.layers] == pytest.approx([0.3 * n for n in range(1, 23)], abs=0.006)
    assert found.layers[12].laid == pytest.approx(80, rel=1e-3)


def test_jumps_of_speed_are_counted_by_time():
    w = Writer()
    w.go(z=0.2, feed=10)
    for i in range(10):
        w.go((i + 1) * 40, 0, e=1, feed=20 if i % 2 else 24)
    assert one(w.bytes).jumping == 0, "a fifth is no jump"
    w.go(440, 0, e=1, feed=60)
    jumped = one(w.bytes)
    assert 0.02 < jumped.jumping < 0.06


ODD = b"""; a comment (with brackets)
N10 G21*33
g90
M83
 G1 Z0.2 F600
G1X10Y0E1(in between)F1800
G1 X10 Y10 E.5
M117 Layer 5 of 9
START_PRINT BED=60
G29
G1 X1.2.3 Y4
G1 X Y5 E1
;
X5 Y5
G1 X0 Y10 E1"""


def test_odd_lines_are_read_or_named():
    found = one(ODD)
    assert found.layers[0].laid == pytest.approx(30)
    assert found.filament == {0: 2.5}
    assert {r.line for r in found.remarks} == {11, 12, 14}
    assert found.remark_count == 3
    assert found.unknown == {"M117": 1, "START_PRINT": 1, "G29": 1}
    assert found.lines == 15


def test_a_last_line_that_was_cut_is_named():
    whole = tower(layers=3)
    cut = whole[: whole.index(b"M107")] + b"G1 X5 Y"
    found = one(cut)
    assert [(r.line, "Y" in r.text) for r in found.remarks] == [(cut.count(b"\n") + 1, True)]
    assert len(found.layers) == 3


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (bytes(range(256)) * 40, "line 1"),
        (np.random.default_rng(5).integers(1, 256, 5000, np.uint8).tobytes(), "line 1"),
        (b"G21\nG90\nG1 X5 Y5 F100\n", "nothing is laid"),
        (b"", "nothing is laid"),
        (b"Dear all,\nthe file is attached.\n", "line 1"),
        (b"G90\nM83\nG1 X5 E1\nG1 X2000000 E1\n", "line 4"),
        (b"G1 X1" + b"1" * 3_000_000, "a line without an end"),
    ],
)
def test_what_is_no_print_is_refused_by_line(data, says):
    with pytest.raises(FileError, match=says):
        inspect(data[i : i + 4096] for i in range(0, len(data), 4096))


@settings(max_examples=60, deadline=None)
@given(st.binary(max_size=400))
def test_any_bytes_are_read_or_refused(data):
    w = Writer()
    w.go(z=0.2, feed=10)
    w.box(0, 0, 5, 5, 30)
    refused = None
    try:
        found = one(w.bytes + data)
    except FileError as error:
        refused = str(error)
    if refused is None:
        assert math.isfinite(found.seconds)
        assert found.seconds > 0
    else:
        assert "G-code" in refused or "beyond any printer" in refused


def test_progress_is_told_and_may_cancel():
    seen = []

    def stop(read):
        seen.append(read)
        if len(seen) == 2:
            raise KeyboardInterrupt

    data = tower(layers=800)
    with pytest.raises(KeyboardInterrupt):
        inspect((data for _ in range(40)), None, stop)
    assert 0 < seen[0] < seen[1] < 40 * len(data)


def sheet(**values):
    return Sheet({name: value if isinstance(value, Set) else Set(value) for name, value in values.items()})


def test_a_file_is_held_against_its_sheet():
    found = one(tower(layers=20))
    own = {"nozzle_temperature_first": 240, "fan": 20, "layer_height": 0.2, "speed_outer": 30, "flow_limit": 3}
    (second,) = against_sheet(found, sheet(nozzle_temperature=230, **own))
    assert (second.about, second.layers) == ("nozzle_temperature", [(2, 2)]), "the file goes on to the rest in the third layer"
    assert second.text == "the file sets the nozzle to 240 °C, the sheet to 230 °C"
    (heat,) = against_sheet(found, sheet(nozzle_temperature=230))
    assert heat.layers == [(1, 2)]
    assert "240" in heat.text
    (flow,) = against_sheet(found, sheet(flow_limit=2))
    assert flow.layers == [(1, 20)]
    assert f"{40 * 0.03 * SECTION:.1f}" in flow.text
    (fan,) = against_sheet(found, sheet(fan=10, fan_first=30))
    assert fan.layers == [(2, 20)]
    (height,) = against_sheet(found, sheet(layer_height=0.25))
    assert height.layers == [(2, 20)]
    falling = Set(230.0, schedule=Schedule(-1, 3, 225))
    (moving,) = against_sheet(found, sheet(nozzle_temperature=falling))
    assert moving.layers == [(1, 2), (4, 20)]
    assert moving.text == "the file sets the nozzle to 230 to 240 °C, the sheet to 225 to 230 °C"
    assert against_sheet(found, sheet(speed_outer=40))[0].layers == [(2, 20)]
    assert against_sheet(found, sheet(speed_outer=25))[0].text.startswith("the outer contour is laid at up to 30")


def test_bed_and_chamber_are_held_against_the_sheet_each_by_its_own():
    found = one(b"M140 S60\nM141 S45\n" + tower(layers=20))
    assert against_sheet(found, sheet(bed_temperature=60, chamber_temperature=45)) == []
    chamber, bed = sorted(against_sheet(found, sheet(bed_temperature=45, chamber_temperature=60)), key=lambda f: f.about, reverse=True)
    assert (chamber.about, chamber.text) == ("chamber_temperature", "the file sets the chamber to 45 °C, the sheet to 60 °C")
    assert (bed.about, bed.text) == ("bed_temperature", "the file sets the bed to 60 °C, the sheet to 45 °C")
    assert against_sheet(one(tower(layers=20)), sheet(chamber_temperature=60)) == [], "a file that sets no chamber says nothing of it"


def test_an_uneven_wall_is_told_with_the_cap_that_evens_it_and_its_cost():
    even, uneven = one(tower(layers=60)), one(tower(layers=60, feed=lambda n: 15 if n > 50 else 45))
    assert caps(even) == []
    assert wall_scatter(even) < 0.01
    wall, flow = caps(uneven)
    assert wall_scatter(uneven) > 0.2
    assert wall.value == pytest.approx(15, rel=0.02)
    # 49 layers of 80 mm, at 15 instead of about 45 mm/s (corners take some of it)
    assert wall.costs == pytest.approx(49 * 80 * (1 / 15 - 1 / 45), rel=0.05)
    assert flow.unit == "mm³/s"
    assert flow.costs > wall.costs
    # the flow of that wall, and the time that all beads then take: their volume over the flow
    rest = uneven.layers[1:]
    volumes = [layer.filament * math.pi / 4 * 1.75**2 for layer in rest]
    assert flow.value == pytest.approx(wall.value * sum(volumes) / sum(layer.laid for layer in rest))
    assert flow.costs == pytest.approx(sum(max(v / flow.value - layer.laying_seconds, 0) for v, layer in zip(volumes, rest, strict=True)))


def test_two_files_are_compared_height_by_height():
    rows = compare(one(tower(layers=5)), one(tower(layers=6, feed=20)))
    assert [r.z for r in rows] == pytest.approx([0.2, 0.4, 0.6, 0.8, 1.0, 1.2])
    assert rows[2].seconds[0] < rows[2].seconds[1]
    assert rows[-1].seconds[0] is None
    assert rows[-1].speed[1] is not None


def test_ranges():
    assert ranges([1, 2, 3, 7, 9, 10]) == [(1, 3), (7, 7), (9, 10)]
    assert ranges([]) == []
