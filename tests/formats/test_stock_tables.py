"""Lists of materials in the dialects people keep them in, and every kind of cell that cannot be right."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from assayer.core.errors import FileError
from assayer.formats.tables.stock_tables import CLAIM_COLUMNS, MATERIAL_COLUMNS, REPORTED_COLUMNS, Answer, find_columns, parse_rows
from assayer.formats.tables.table import read_table, write_table

BASE = {"Maker": "Stell", "Product": "Pliant", "Polymer": "PP", "Colour": "white"}


def parsed(cells, delimiter="\t", columns=MATERIAL_COLUMNS, answers=()):
    whole = BASE | cells
    table = read_table(delimiter.join(whole) + "\n" + delimiter.join(whole.values()))
    return parse_rows(table, columns, list(answers))[0]


@pytest.mark.parametrize(
    ("header", "cell", "values"),
    [
        ("Ø mm", "1,75", {"diameter": 1.75}),
        ("Diameter", "0.069 in", {"diameter": pytest.approx(1.7526)}),
        ("Density [g/cm³]", "1.24", {"density": 1.24}),
        ("Dichte", "1240 kg/m³", {"density": pytest.approx(1.24)}),
        ("Price", "24,90 €", {"price": 24.9, "currency": "€"}),
        ("Price", "EUR 24.90", {"price": 24.9, "currency": "EUR"}),
        ("Price", "31", {"price": 31, "currency": ""}),
        ("Net g", "0.75 kg", {"net_mass": 750}),
        ("Nozzle °C", "195–225", {"nozzle_low": 195, "nozzle_high": 225}),
        ("Nozzle °C", "195-225 °C", {"nozzle_low": 195, "nozzle_high": 225}),
        ("Nozzle temperature", "383 °F to 437 °F", {"nozzle_low": pytest.approx(195), "nozzle_high": pytest.approx(225)}),
        ("Bed", "60", {"bed_low": 60, "bed_high": 60}),
        ("Bed", "60 … 80", {"bed_low": 60, "bed_high": 80}),
        ("Dry", "65 °C 8 h", {"dry_temperature": 65, "dry_time": 8}),
        ("Dry", "65°C/480 min", {"dry_temperature": 65, "dry_time": 8}),
        ("Dry", "80", {"dry_temperature": 80}),
        ("Max flow", "12 mm³/s", {"flow_max": 12}),
        ("Speed", "40–150", {"speed_low": 40, "speed_high": 150}),
        ("Hardened", "Ja", {"hardened": True}),
        ("Enclosure", "no", {"enclosure": False}),
        ("Obtained", "sample", {"obtained": "sent free"}),
        ("Hex", "d9962b", {"hex": "#D9962B"}),
        ("Filler %", "15 %", {"filler_share": 15}),
    ],
)
def test_cells_as_people_write_them(header, cell, values):
    row = parsed({header: cell})
    assert (row.errors, row.questions) == ([], [])
    assert {k: row.values[k] for k in values} == values


@pytest.mark.parametrize(
    ("header", "cell", "words"),
    [
        ("Density", "1.2.4", "thousands separators"),
        ("Density", "heavy", "not a number"),
        ("Density", "1.24 MPa", "not a unit of density"),
        ("Nozzle °C", "290–270", "was 270–290 meant"),
        ("Nozzle °C", "hot", "not a number"),
        ("Filler %", "0", "not between 0 and 100"),
        ("Hardened", "perhaps", "neither yes nor no"),
        ("Hex", "brown", "#RRGGBB"),
        ("Dry", "over night", "65 °C 8 h"),
        ("Obtained", "stolen", "bought, sent free or own"),
        ("Bed surface", "x" * 81, "at most 80"),
        ("Colour", "", "Colour is empty"),
    ],
)
def test_cells_that_cannot_be_right_are_named(header, cell, words):
    row = parsed({header: cell})
    assert [words in e.text for e in row.errors] == [True]


@pytest.mark.parametrize(
    ("header", "cell", "likely"), [("Density", "124", "1.24"), ("Net g", "1.000", "1000"), ("Ø mm", "175", "1.75"), ("Nozzle °C", "21–22", "210–220")]
)
def test_slipped_decimal_marks_are_questions_until_answered(header, cell, likely):
    row = parsed({header: cell})
    assert row.errors == []
    question = row.questions[0]
    assert question.question.likely == likely
    assert parsed({header: cell}, answers=[Answer(1, question.question.field, cell)]).questions == [], "said to be right"


@pytest.mark.parametrize(
    ("header", "cell", "likely", "changed"),
    [
        ("Speed", "2400–3600", "40–60", 2),
        ("Speed", "40–3600", "40–60", 1),
        ("Speed", "3600", "60", 2),
        ("Nozzle °C", "215–2250", "215–225", 1),
        ("Dry", "650 °C 8 h", "65 °C 8 h", 1),
        ("Dry", "8 h 650 °C", "65 °C 8 h", 1),
        ("Price", "24900 €", "249 €", 1),
        ("Nozzle °C", "215–9", None, 0),
        ("Dry", "65 °C 5000 h", "65 °C 50 h", 1),
        ("Dry", "0.01 °C 8 h", None, 1),
    ],
)
def test_the_likely_meaning_of_a_cell_is_the_whole_cell(header, cell, likely, changed):
    """An answer takes the place of the cell: what was not asked about must be in it, as it was."""
    row = parsed({header: cell})
    assert len(row.questions) == bool(changed), "one question a cell"
    if not changed:
        return
    (found,) = row.questions
    assert found.question.likely == likely
    if likely is not None:
        told = parsed({header: cell}, answers=[Answer(1, found.question.field, likely)])
        assert (told.questions, told.errors) == ([], [])
        assert set(told.values) == set(row.values)
        assert sum(told.values[k] != v for k, v in row.values.items()) == changed


@pytest.mark.parametrize("delimiter", ["\t", ";", ",", "|"])
def test_every_delimiter_and_quoted_cells(delimiter):
    text = delimiter.join(["Maker", "Product", "Claim"]) + "\r\n" + delimiter.join(["Tarn", '"Clear;water, ""CF"""', '"no warping,\nfor sure"'])
    table = read_table("\ufeff" + text + "\r\n\r\n")
    assert table.rows[0].cells == ["Tarn", 'Clear;water, "CF"', "no warping,\nfor sure"]
    assert find_columns(table, CLAIM_COLUMNS)[1] == []


def test_a_cell_too_many_is_told_with_its_line():
    table = read_table("Maker;Product;Claim\n\nTarn;Clearwater;stiff; light")
    row = parse_rows(table, CLAIM_COLUMNS, [])[0]
    assert row.line in (2, 3)
    assert "4 cells, the header 3" in row.errors[0].text
    with pytest.raises(FileError, match="nothing in it"):
        read_table(" \n ")


def test_reported_results_need_a_number():
    table = read_table("Maker;Product;Colour;Quantity;Value;Unit;n\nTarn;Clearwater;smoke;strength;about 40;MPa;5")
    assert [e.field for e in parse_rows(table, REPORTED_COLUMNS, [])[0].errors] == ["value"]


cells = st.text(st.characters(exclude_categories=("Cs", "Cc")), max_size=20).map(str.strip)


@given(st.lists(st.tuples(cells, cells, cells).filter(any), min_size=1, max_size=8))
def test_what_is_written_is_read_again(rows):
    table = read_table(write_table(["a", "b", "c"], rows))
    # an apostrophe of ours before a formula goes again; one that was there before a formula cannot be told from it
    plain = [[c[1:] if len(c) > 1 and c[0] == "'" and c[1] in "=+-@" else c for c in row] for row in rows]
    assert [r.cells for r in table.rows] == plain
