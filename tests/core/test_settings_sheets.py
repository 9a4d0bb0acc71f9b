"""Settings sheets: what they may say, how two differ, and what stands against them."""

import pytest

from assayer.core.errors import EntryError
from assayer.core.filament.fit import Hardware
from assayer.core.filament.window import Window
from assayer.core.settings.beginnings import general_sheet, maker_sheet
from assayer.core.settings.declared import SETTINGS, Group, Kind
from assayer.core.settings.limits import warnings, within
from assayer.core.settings.sheet import Extra, Region, Schedule, Set, Sheet, Source, changed, check_sheet, differences


def sheet(**values):
    return Sheet({name: value if isinstance(value, Set) else Set(value) for name, value in values.items()})


def test_every_setting_has_its_place_unit_and_bounds():
    assert len({s.name for s in SETTINGS}) == len(SETTINGS) == len({s.label for s in SETTINGS})
    assert {s.group for s in SETTINGS} == set(Group)
    for s in SETTINGS:
        assert s.label[0].islower() or s.label[0] == "a"
        if s.kind is Kind.NUMBER:
            assert s.low < s.high
            assert s.unit or s.whole
        assert (s.kind is Kind.CHOICE) == bool(s.choices)


@pytest.mark.parametrize(
    ("given", "field"),
    [
        (sheet(nozzle_temperature=2350), "nozzle_temperature"),
        (sheet(nozzle_temperature="hot"), "nozzle_temperature"),
        (sheet(nozzle_temperature=True), "nozzle_temperature"),
        (sheet(perimeters=2.5), "perimeters"),
        (sheet(seam="left"), "seam"),
        (sheet(spiral_wall="yes"), "spiral_wall"),
        (sheet(adhesive="  "), "adhesive"),
        (sheet(glow=5), "glow"),
        (sheet(bed_temperature=Set(80.0, schedule=Schedule(-1, 3, 90))), "bed_temperature"),
        (sheet(bed_temperature=Set(80.0, schedule=Schedule(0, 3, 70))), "bed_temperature"),
        (sheet(bed_temperature=Set(80.0, schedule=Schedule(-1, 0, 70))), "bed_temperature"),
        (sheet(bed_temperature=Set(80.0, schedule=Schedule(-1, 3, -5))), "bed_temperature"),
        (sheet(door=Set("open", schedule=Schedule(-1, 3, 70))), "door"),
        (sheet(fan=Set(20.0, regions=(Region("the hook", 150.0),))), "fan"),
        (Sheet(extras=(Extra("lamp", 3), Extra("Lamp", 4))), "extras"),
        (Sheet(extras=(Extra("flow", 3),)), "extras"),
    ],
)
def test_what_cannot_be_set_is_refused_by_its_name(given, field):
    with pytest.raises(EntryError) as error:
        check_sheet(given)
    assert error.value.field == field


def test_what_starts_a_material_can_be_set():
    window = Window(nozzle_low=220, nozzle_high=250, bed_low=80, flow_max=9, speed_high=60, bed_surface="taped", enclosure=True, source="leaflet")
    made = maker_sheet(window, 0.6)
    check_sheet(made)
    check_sheet(general_sheet(None))
    said = {name: held.value for name, held in made.values.items() if held.source is Source.MAKER}
    assert said["nozzle_temperature"] == said["nozzle_temperature_first"] == 235
    assert (said["bed_temperature"], said["flow_limit"], said["speed_outer"], said["door"], said["bed_surface"]) == (80, 9, 60, "closed", "taped")
    assert (made.number("layer_height"), made.number("line_width")) == (0.3, 0.66)


def test_a_schedule_moves_every_few_layers_to_its_end():
    falling = Schedule(-1, 3, 70)
    assert [falling.at(72, n) for n in (1, 3, 4, 6, 7, 100)] == [72, 72, 71, 71, 70, 70]
    assert Schedule(2, 1, 55).at(50, 9) == 55


def test_two_sheets_show_only_what_differs():
    a = Sheet({"nozzle_temperature": Set(230.0, Source.MAKER), "fan": Set(20.0), "seam": Set("aligned")}, (Extra("lamp", 3, "W"),), "own writer 1")
    assert differences(a, Sheet({**a.values, "fan": Set(20.0, Source.GENERAL)}, a.extras, a.prepared_with)) == [], "where it came from is no difference"
    b = Sheet({"nozzle_temperature": Set(225.0), "fan": Set(20.0, schedule=Schedule(5, 10, 60)), "brim": Set(4.0)}, (Extra("lamp", 5, "W"),), "own writer 2")
    found = {d.name: d for d in differences(a, b)}
    assert list(found) == ["nozzle_temperature", "seam", "fan", "brim", "lamp", "prepared_with"]
    assert found["nozzle_temperature"].step == -5
    assert found["seam"].after is None
    assert found["seam"].step is None
    assert found["brim"].before is None
    assert found["lamp"].step == 2
    assert found["lamp"].unit == "W"
    assert [d.name for d in differences(a, changed(a, "brim", 6.0))] == ["brim"]


def test_warnings_give_the_figures():
    window = Window(nozzle_low=220, nozzle_high=240, bed_high=90, flow_max=8, source="leaflet")
    hardware = Hardware(nozzle=0.4, nozzle_hottest=250, bed_hottest=100, name="Warm Box")
    fine = sheet(nozzle_temperature=240, bed_temperature=90, layer_height=0.32, line_width=0.8, speed_outer=20, flow_limit=8)
    assert warnings(fine, window, hardware) == []
    bad = sheet(
        nozzle_temperature=255,
        bed_temperature=Set(85.0, schedule=Schedule(1, 2, 95)),
        layer_height=0.33,
        line_width=0.81,
        speed_outer=20,
        speed_infill=120,
        flow_limit=9,
    )
    found = [(w.name, w.text) for w in warnings(bad, window, hardware)]
    assert [name for name, _ in found] == [
        "nozzle_temperature",
        "bed_temperature",
        "flow_limit",
        "nozzle_temperature",
        "layer_height",
        "line_width",
        "speed_infill",
    ]
    assert "95 °C" in found[1][1]
    assert "Warm Box has at most 250 °C" in found[3][1]
    # the bead of METHODS 11: (w − h)·h + π(h/2)², times 120 mm/s; the maker's limit is the tighter one
    flow = ((0.81 - 0.33) * 0.33 + 3.14159265 * 0.165**2) * 120
    assert f"wants {flow:.1f} mm³/s: maker's window is 8 mm³/s" in found[6][1]
    assert f"at {120 * 8 / flow:.0f} mm/s" in found[6][1]
    assert warnings(sheet(line_width=0.2, layer_height=0.3, speed_outer=10, flow_limit=5), Window(), Hardware())[0].name == "line_width"
    assert (
        "wants 9.8 mm³/s: the sheet's limit is 9.7"
        in warnings(sheet(line_width=0.45, layer_height=0.2, speed_outer=120, flow_limit=9.7), window=Window(), hardware=Hardware())[0].text
    )
    assert not warnings(sheet(line_width=0.45, layer_height=0.2, speed_outer=120, flow_limit=9.7, flow=90), Window(), Hardware())


def test_how_far_a_value_stands_inside_a_window():
    from assayer.core.filament.window import Span

    assert within(230, Span(220, 240)) == 0.5
    assert within(245, Span(220, 240)) == 1.25
    assert within(230, Span(220)) is None
