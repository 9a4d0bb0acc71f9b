"""Lists in and out and the day sheet at their edges: what a row says of what is there, what goes out, what comes first."""

import csv
from datetime import date, timedelta

import pytest

from assayer.core.errors import ConflictError, EntryError
from assayer.core.filament.claims import contradictions, read_statement
from assayer.core.filament.window import Window
from assayer.core.quantities.units import LENGTH, normalise_unit, parse_quantity
from assayer.core.stats.groups import Interval
from assayer.services.day import sheet
from assayer.services.sessions import drying
from assayer.services.sessions.requests import MemberMass, NewDrying
from assayer.services.stock import intakes, lists
from assayer.services.stock.requests import ImportText, NewSpool, WindowIn

from ..conftest import NOW
from ..support import ACTOR, new_id
from .stockroom import add_petg, ago, spool_of

HEAD = "Maker,Product,Polymer,Colour,Filler,Share,Density,Nozzle °C,Bed °C,Hardened,Diameter,Price,Net g,Note"


def rows_of(workspace, *rows, head=HEAD, kind="materials"):
    return lists.preview_import(workspace, ImportText(kind=kind, text="\n".join([head, *rows])))


def test_a_row_says_in_words_in_what_it_differs_from_what_is_there(workspace):
    add_petg(workspace, colour="black", window=WindowIn(nozzle_high=260, hardened=True), density=1.29, price=None)
    preview = rows_of(workspace, "Tarn,Clearwater CF,PETG,black,carbon fibre,,1.3,230–260,,no,,,,")
    assert preview.rows[0].state == "gaps"
    words = preview.rows[0].there
    assert "None" not in words
    assert words == "fills nozzle low, left as it is: density 1.29 (row: 1.3), hardened yes (row: no)"
    same = rows_of(workspace, "Tarn,Clearwater CF,PETG,black,carbon fibre,,1.29,,,,,,,")
    assert same.rows[0].there == "in the stock already"
    # at most six differences are told
    many = rows_of(workspace, "Tarn,Clearwater CF,PP,black,glass fibre,,1.5,230–270,60–70,no,2.85,,,")
    assert many.rows[0].there.count("(row: ") == 6


def test_a_share_needs_its_filler_and_only_columns_of_the_table_are_shown(workspace):
    preview = rows_of(
        workspace, "Stell,Ballast,PP,grey,,15,,,,,,,,the maker claims: three times the impact strength of our Pliant", "Stell,Ballast,PP,red,talc,15,,,,,,,,"
    )
    assert [[(e.field, e.text) for e in r.errors] for r in preview.rows] == [[("filler", "a share needs the kind of filler")], []]
    shown = {c.field for c in preview.columns}
    assert {"maker", "product", "polymer", "colour", "filler", "density"} <= shown
    assert {"adhesive", "obtained", "flow_max"}.isdisjoint(shown), "columns that the list does not have"
    assert [[c.relation for c in r.claims] for r in preview.rows] == [["times"], []]


@pytest.mark.parametrize(
    ("window", "cells"),
    [
        ({"nozzle_low": 230, "nozzle_high": 260, "dry_temperature": 65, "dry_time": 8}, {"Nozzle °C": "230–260", "Dry": "65 °C 8 h"}),
        ({"nozzle_low": 230, "dry_temperature": 65}, {"Nozzle °C": "230", "Dry": "65 °C"}),
        ({"nozzle_high": 260, "dry_time": 8}, {"Nozzle °C": "260", "Dry": "8 h"}),
        ({}, {"Nozzle °C": "", "Dry": ""}),
    ],
)
def test_a_window_goes_out_as_far_as_it_is_known(workspace, window, cells):
    add_petg(workspace, window=WindowIn(**window))
    header, row = csv.reader(lists.export_table(workspace, "materials").splitlines())
    out = dict(zip(header, row, strict=True))
    assert {name: out[name] for name in cells} == cells


# the day sheet


def test_late_comes_before_due_before_running_before_doubt_and_what_ends_first_comes_first(workspace):
    def spool(colour):
        return spool_of(workspace, material_id=add_petg(workspace, colour=colour))

    def dry(page, device, start, hours):
        members = [MemberMass(spool_id=page.id, raw="")]
        drying.start_drying(workspace, ACTOR, NewDrying(id=new_id(), device=device, temperature=60, hours=hours, started_at=ago(start), members=members))

    dry(spool("black"), "late one", 20, 8)
    dry(spool("red"), "due one", 8.5, 8)
    dry(spool("blue"), "runs longer", 1, 8)
    dry(spool("green"), "runs shorter", 2, 4)
    intakes.add_spool(workspace, ACTOR, NewSpool(id=new_id(), material_id=add_petg(workspace, colour="white", filler=None), received_on=date(2026, 6, 15)))
    items = sheet.day_sheet(workspace).items
    assert [i.state for i in items] == sorted((i.state for i in items), key=["late", "due", "running", "doubt"].index)
    assert [i.title for i in items if i.kind == "dryer"] == ["late one", "due one", "runs shorter", "runs longer"]
    texts = {i.title: i.text for i in items if i.kind == "dryer"}
    assert texts["runs longer"].startswith("60 °C · ")
    assert texts["late one"].startswith("take out and weigh ")
    swatches = {i.title: [s.filled for s in i.swatches] for i in items}
    assert swatches["late one"] == [True], "carbon fibre"
    assert next(i.swatches[0].filled for i in items if i.kind == "intake") is False
    # what has no end of its own comes after what has one
    due = [i.until for i in items if i.state == "due"]
    assert due == sorted(due, key=lambda u: (u is None, u or NOW))


@pytest.mark.parametrize(
    ("left", "words"),
    [(-1, "0 min"), (119, "119 min"), (120, "2 h"), (47.9 * 60, "48 h"), (48 * 60, "2 days"), (300 * 1440, "300 days"), (2000 * 1440, "2000 days")],
)
def test_spans_of_the_sheet(left, words):
    assert sheet._span(timedelta(minutes=left)) == words


# intervals, units, claims


def test_an_interval_that_touches_is_not_inside_and_not_clear():
    one = Interval(-1.0, 2.0)
    assert one.inside(-1.5, 2.5)
    assert not one.inside(-1.0, 2.5)
    assert not one.inside(-1.5, 2.0)
    assert [Interval(*ends).clear_of_zero for ends in ((0, 1), (0.1, 1), (-1, 0), (-1, -0.1), (-1, 1))] == [False, True, False, True, False]


def test_what_is_no_number_is_shown_up_to_forty_signs():
    def told(text):
        with pytest.raises(EntryError) as caught:
            parse_quantity(text, LENGTH, field="x")
        return caught.value.message

    assert f"'{'a' * 40}' is not a number" in told("a" * 40)
    assert f"'{'a' * 39}…' is not a number" in told("a" * 41)


@pytest.mark.parametrize(("text", "unit"), [("mN", "mN"), ("MN", "MN"), (" [ kN ] ", "kn"), ("N/mm^2", "n/mm²"), ("M", "M"), ("μm", "µm")])
def test_units_keep_the_case_of_letters_only_where_it_matters(text, unit):
    assert normalise_unit(text) == unit


@pytest.mark.parametrize(("density", "contradicts"), [(1.29 * 1.019, False), (1.29 * 1.021, True), (1.29 * 0.981, False), (1.29 * 0.979, True)])
def test_a_claimed_density_may_lie_two_per_cent_off(density, contradicts):
    found = contradictions(Window(), 1.29, [read_statement(f"density {density:.4f} g/cm³")])
    assert bool(found) is contradicts


@pytest.mark.parametrize(
    ("error", "field"), [(ConflictError("taken meanwhile"), "row"), (EntryError("too dense", "density"), "density"), (EntryError("odd"), "row")]
)
def test_what_only_keeping_a_row_shows_stands_at_its_field_or_at_the_row(workspace, monkeypatch, error, field):
    def refused(*_args, **_more):
        raise error

    monkeypatch.setitem(lists._KEEP, "materials", refused)
    text = "Maker,Product,Polymer,Colour\nHollin,Everyday,PLA,teal"
    (row,) = lists.run_import(workspace, ACTOR, ImportText(kind="materials", text=text)).rows
    assert [(e.field, e.text) for e in row.errors] == [(field, str(error))]
