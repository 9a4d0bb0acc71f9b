"""Many cells at once against one cell after another, and lines as they are cut against all of them."""

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from assayer.core.errors import FileError
from assayer.formats.curves.fixed_notation import read_fixed
from assayer.formats.curves.table import find_table, read_numbers
from assayer.formats.text import Lines, read_lines, split_row

DIGITS = st.text("0123456789", max_size=8)
CELLS = st.tuples(st.sampled_from(["", "-"]), DIGITS, DIGITS).filter(lambda c: 1 <= len(c[1] + c[2]) <= 15).map(lambda c: f"{c[0]}{c[1]}.{c[2]}")
SMALL = st.tuples(st.sampled_from(["", "-"]), st.text("0123456789", max_size=7), DIGITS).filter(lambda c: c[1] + c[2]).map(lambda c: f"{c[0]}{c[1]}.{c[2]}")


def rows_of(cells, width=3):
    return st.lists(st.lists(cells, min_size=width, max_size=width), min_size=1, max_size=12)


def read(rows, delimiter=";", point="."):
    text = "\n".join(delimiter.join(c.replace(".", point) for c in row) for row in rows)
    return read_fixed(text, len(rows), len(rows[0]), delimiter, point)


@given(rows_of(SMALL), st.sampled_from([(";", "."), (",", "."), ("\t", ","), (" ", "."), ("|", ",")]))
@settings(max_examples=200, deadline=None)
def test_each_cell_is_what_float_makes_of_it(rows, dialect):
    found = read(rows, *dialect)
    assert found is not None
    # to the last bit, a minus before zero included
    assert found.tobytes() == np.array([[float(c) for c in row] for row in rows]).tobytes()


@given(rows_of(CELLS, 1))
@settings(max_examples=100, deadline=None)
def test_long_cells_are_right_or_left_to_the_careful_way(rows):
    found = read(rows)
    longest = [max(len(part) for part in parts) for parts in zip(*(row[0].lstrip("-").split(".") for row in rows), strict=True)]
    assert (found is None) == (sum(longest) > 15)
    assert found is None or found[:, 0].tolist() == [float(row[0]) for row in rows]


@given(rows_of(st.one_of(SMALL, st.text("0123456789.-+e,; \n٣", max_size=6)), 2))
@settings(max_examples=400, deadline=None)
def test_anything_else_is_left_to_the_careful_way(rows):
    text = "\n".join(";".join(row) for row in rows)
    found = read_fixed(text, len(rows), 2, ";", ".")
    if found is not None:
        assert found.tolist() == [[float(c) for c in line.split(";")] for line in text.split("\n")]


@given(rows_of(SMALL), st.integers(0, 10_000), st.sampled_from("5.-+e,; \nx"))
@settings(max_examples=200, deadline=None)
def test_a_slip_in_a_file_is_read_as_before(rows, at, slip):
    """A character put anywhere among the rows: the quick way never tells other numbers than the line it stands in."""
    good = "\n".join(["Time (s);Travel (mm);Force (N)"] + ["1.5;2.5;3.5"] * 12)
    body = "\n".join(";".join(row) for row in rows)
    at %= len(body)
    text = f"{good}\n{body[:at]}{slip}{body[at + 1 :]}"
    table = find_table(text.encode())
    try:
        values, numbers, _ = read_numbers(table)
    except FileError:
        return
    if table.decimal != "." or table.delimiter != ";":
        return
    own = range(table.first, len(table.lines)) if numbers is None else [n - 1 for n in numbers]
    assert values.tolist() == [[float(c) for c in split_row(text.split("\n")[i], ";")] for i in own]


@given(st.text("ab\nü𝕏 ", max_size=40), st.data())
def test_lines_are_those_of_the_whole_text(text, data):
    lines, whole = Lines(text), text.split("\n")
    assert list(lines) == whole
    assert len(lines) == len(whole)
    bounds = st.none() | st.integers(-8, 8)
    part = slice(data.draw(bounds), data.draw(bounds), data.draw(st.sampled_from([None, 1, 2, 3, -1, -2])))
    assert lines[part] == whole[part]
    last = data.draw(st.integers(-len(whole), len(whole) - 1))
    assert lines[last] == whole[last]


@given(st.text("a \n\r\t", min_size=1, max_size=20).filter(str.strip))
def test_empty_lines_at_the_end_are_dropped(text):
    whole = text.replace("\r\n", "\n").replace("\r", "\n").split("\n")
    while not whole[-1].strip():
        whole.pop()
    assert list(read_lines(text.encode())[0]) == whole
