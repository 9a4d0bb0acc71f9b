"""A setting stepped through a sliced file: only lines put in, where the bands begin, and refused where they do not match."""

import difflib

import pytest

from assayer.core.errors import EntryError, FileError
from assayer.core.filament.fit import Hardware
from assayer.core.filament.window import Window
from assayer.core.gcode.inspection import inspect
from assayer.core.gcode.judging import against_series, against_sheet
from assayer.core.gcode.stepping import plan_steps, with_insertions
from assayer.core.settings.series import Series, check_series, make_series
from assayer.core.settings.sheet import Set, Sheet

from ..gcode_writer import Writer, tower

HEAT = Series("nozzle_temperature", 236, -4, 6, 7, 1.4)


def stepped(data, series):
    plan = plan_steps([data], series)
    return plan, b"".join(with_insertions([data], plan.insertions))


@pytest.mark.parametrize("ending", ["\n", "\r\n"])
def test_a_stepped_file_differs_by_inserted_lines_alone(ending):
    data = tower(ending=ending)
    plan, out = stepped(data, HEAT)
    changes = [line for line in difflib.ndiff(data.decode().splitlines(True), out.decode().splitlines(True)) if line[0] in "+-?"]
    # the second 236: the file itself sets 230 in its third layer
    assert changes == [f"+ M104 S{v}{ending}" for v in (236, 236, 232, 228, 224, 220, 216)]
    assert len(out) == len(data) + 7 * len(f"M104 S236{ending}")
    assert [b.layers for b in plan.bands] == [35] * 6
    assert (plan.layers, plan.height) == (217, pytest.approx(43.4))


def test_each_band_is_printed_at_its_value_and_the_end_is_left_alone():
    _, out = stepped(tower(), HEAT)
    found = inspect([out])
    for layer in found.layers:
        band = min(5, max(0, int((layer.z - 1.4 - 1e-6) // 7)))
        assert layer.nozzle == 236 - 4 * band, f"at {layer.z} mm"
    assert out.endswith(tower()[-30:])


def test_commands_stand_before_the_head_goes_up_to_the_band():
    _, out = stepped(tower(), HEAT)
    lines = out.decode().split("\n")
    at = lines.index("M104 S232")
    assert lines[at + 1].startswith("G1 Z8.6"), "the layer above 8.4 mm"


@pytest.mark.parametrize(
    ("series", "commands"),
    [
        (Series("fan", 0, 20, 6, 7, 1.4), ["M107", "M106 S51", "M106 S102", "M106 S153", "M106 S204", "M106 S255"]),
        (Series("bed_temperature", 60, 5, 6, 7, 1.4), [f"M140 S{v}" for v in (60, 65, 70, 75, 80, 85)]),
        (Series("speed", 50, 10, 6, 7, 1.4), [*(f"M220 S{v}" for v in (50, 60, 70, 80, 90, 100)), "M220 S100"]),
        (Series("flow", 94, 2, 6, 7, 1.4), [*(f"M221 S{v}" for v in (94, 96, 98, 100, 102, 104)), "M221 S100"]),
    ],
)
def test_what_is_stepped_by_which_command(series, commands):
    plan, _ = stepped(tower(), series)
    assert [i.text for i in plan.insertions] == commands
    assert [i.band for i in plan.insertions[:6]] == [1, 2, 3, 4, 5, 6]


@pytest.mark.parametrize("own", ["M104S210", "N10 M104 S210*3", "m104 s210", "M104 T0 S210 ; hotter", "M109S210", "  M104 S210"])
def test_a_files_own_command_is_found_however_it_is_spelt(own):
    data = tower().replace(b"G1 Z16.6", own.encode() + b"\nG1 Z16.6", 1)
    assert own.encode() in data
    plan, out = stepped(data, HEAT)
    lines = out.decode().split("\n")
    at = lines.index(own)
    assert lines[at + 1] == "M104 S228", "set back at once"
    assert {layer.nozzle for layer in inspect([out]).layers if 15.4 < layer.z < 22.3} == {228}
    assert sum("sets it otherwise" in i.why for i in plan.insertions) >= 1


def test_another_tool_s_fan_is_left_alone_in_every_spelling():
    fan = Series("fan", 0, 20, 6, 7, 1.4)
    for own, times in (("M106P1S128", 0), ("M106 S128 P2", 0), ("M106P0S128", 1), ("m106s128", 1)):
        data = tower().replace(b"G1 Z16.6", own.encode() + b"\nG1 Z16.6", 1)
        plan = plan_steps([data], fan)
        line = data.decode().split("\n").index(own) + 1
        assert sum(i.why == f"line {line} sets it otherwise" for i in plan.insertions) == times, own


def test_a_file_that_is_not_stepped_is_flagged_for_its_tower():
    plain, done = inspect([tower()]), inspect([stepped(tower(), HEAT)[1]])
    assert against_series(done, HEAT) == []
    (found,) = against_series(plain, HEAT)
    assert "not stepped as the tower is planned" in found.text
    flow = Series("flow", 94, 2, 6, 7, 1.4)
    assert "sets flow 0 times" in against_series(plain, flow)[0].text
    assert against_series(inspect([stepped(tower(), flow)[1]]), flow) == []


def test_a_fan_that_the_file_sets_again_is_set_back():
    data = tower(layers=20, height=0.5)
    lines = data.decode().split("\n")
    at = lines.index("G1 Z6.000000 F600.000")
    lines[at:at] = ["M106 P2 S9", "M106 S99"]
    plan, out = stepped("\n".join(lines).encode(), Series("fan", 20, 20, 2, 5))
    assert [(i.text, i.band) for i in plan.insertions] == [("M106 S51", 1), ("M106 S102", 2), ("M106 S102", 2)]
    assert {round(layer.fan * 255) for layer in inspect([out]).layers[12:]} == {102}
    assert "line" in plan.insertions[2].why


@pytest.mark.parametrize("ending", ["\n", "\r\n"])
@pytest.mark.parametrize("closed", [True, False])
def test_a_file_that_ends_laying_is_set_back_on_a_line_of_its_own(ending, closed):
    whole = tower(layers=20, height=0.5, ending=ending)
    laying = whole[: whole.index(b"M107")] if closed else whole[: whole.index(b"M107")].removesuffix(ending.encode())
    _, out = stepped(laying, Series("speed", 60, 20, 2, 5))
    first, *_, last = [line for line in out.split(ending.encode()) if line.startswith(b"M220")]
    assert (first, last) == (b"M220 S60", b"M220 S100")
    assert out.endswith(f"{ending}M220 S100{ending if closed else ''}".encode())
    assert ending.encode() * 2 not in out, "no empty line comes in"
    assert out.count(ending.encode()) == laying.count(ending.encode()) + 3


def test_retraction_is_stepped_only_where_the_printer_draws_back():
    series = Series("retraction", 0.5, 0.5, 6, 7, 1.4)
    with pytest.raises(FileError, match="G10"):
        plan_steps([tower()], series)
    plan, _ = stepped(tower().replace(b"M107", b"G10\nG11\nM107"), series)
    assert [i.text for i in plan.insertions][:2] == ["M207 S0.5", "M207 S1"]


@pytest.mark.parametrize(
    ("data", "series", "says"),
    [
        (tower(layers=180), HEAT, "36 mm high"),
        (tower(layers=240), HEAT, "48 mm high"),
        (tower(layers=20, height=2.2), Series("fan", 0, 20, 6, 3, 26), "fewer than 2 layers"),
        (tower(layers=10) + b"G1 Z0.2 F600\nG1 X50 Y50 F3000\nG1 X60 Y50 E1\n", Series("fan", 0, 50, 2, 2), "goes back down from 2 to 0.2"),
        (b"G90\nG1 X5\n", HEAT, "line 1"),
        (b"\0\1\2", HEAT, "line 1"),
    ],
)
def test_files_that_do_not_match_are_refused(data, series, says):
    with pytest.raises(FileError, match=says):
        plan_steps([data], series)


def test_no_layer_near_a_limit_is_refused():
    w = Writer()
    for z in (0.2, 0.4, 0.6, 0.8, 1.0, 4.0, 4.2, 4.4, 4.6, 4.8, 5.0, 5.2):
        w.go(z=z, feed=10)
        w.box(0, 0, 10, 10, 30)
    with pytest.raises(FileError, match=r"near 2.6 mm.*begins at"):
        plan_steps([w.bytes], Series("fan", 0, 100, 2, 2.6))


@pytest.mark.parametrize(
    ("series", "field"),
    [
        (Series("seam", 1, 1, 3, 7), "setting"),
        (Series("fan", 0, 30, 5, 7), "step"),
        (Series("fan", 0, 0, 5, 7), "step"),
        (Series("fan", 0, 10, 1, 7), "count"),
        (Series("fan", 0, 1, 41, 7), "count"),
        (Series("fan", 0, 10, 5, 1.9), "band_height"),
        (Series("fan", 0, 10, 5, 7, -1), "base_height"),
        (Series("nozzle_temperature", 270, 10, 4, 7), "start"),
    ],
)
def test_series_that_cannot_be(series, field):
    with pytest.raises(EntryError) as error:
        check_series(series, Window(), Hardware(nozzle_hottest=290))
    assert error.value.field == field


def test_a_series_is_told_by_its_bands_or_by_its_last_value():
    assert make_series("fan", 0, 20, None, 100, 7).values == [0, 20, 40, 60, 80, 100]
    assert make_series("nozzle_temperature", 236, -4, None, 216, 7, 1.4) == make_series("nozzle_temperature", 236, -4, 6, None, 7, 1.4) == HEAT
    assert make_series("fan", 0, 20, 6, 100, 7).count == 6
    assert make_series("fan", 0, 1, None, 40, 7).count == 41, "one too many is told by its count"
    for told, says, field in (
        ((0, 30, None, 100), "at 90 or 120, not at 100", "step"),
        ((236, 4, None, 216), "lead away", "step"),
        ((0, 0, None, 100), "a step of 0", "step"),
        ((0, 20, 5, 100), "are 6 bands, not 5", "count"),
        ((0, 20, None, None), "how many bands", "count"),
        ((0, 5e-324, None, 1), "more bands than", "step"),
        ((0, 1, None, 41), "more bands than", "step"),
    ):
        with pytest.raises(EntryError, match=says) as error:
            make_series("fan", *told, 7)
        assert error.value.field == field


def test_cautions_name_the_window_and_the_direction():
    window = Window(nozzle_low=220, nozzle_high=240)
    assert check_series(Series("nozzle_temperature", 240, -5, 5, 7), window, Hardware(nozzle_hottest=260)) == []
    (outside,) = check_series(HEAT, window)
    assert "216 °C" in outside.text
    (upwards,) = check_series(Series("nozzle_temperature", 220, 4, 6, 7), window)
    assert upwards.name == "direction"
    assert "clog" in upwards.text


def test_the_least_layer_time_and_the_first_layer_s_speed_are_held_against_the_sheet():
    found = inspect([tower()])
    first, shortest = found.layers[0], min(layer.seconds for layer in found.layers)

    def told(**values):
        return {f.about: f.layers for f in against_sheet(found, Sheet({n: Set(v) for n, v in values.items()}))}

    assert told(least_layer_time=shortest * 0.9, speed_first=first.speed.high) == {}
    slow = told(least_layer_time=shortest * 3)
    assert slow.keys() == {"least_layer_time"}
    assert told(speed_first=first.speed.high / 2) == {"speed_first": [(1, 1)]}
    assert told(speed_first=first.speed.high * 2) == {"speed_first": [(1, 1)]}
