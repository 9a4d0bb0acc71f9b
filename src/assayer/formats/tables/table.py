"""A table as people keep it: a file or pasted spreadsheet cells, one header row, any usual delimiter."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence
from dataclasses import dataclass

from assayer.core.errors import FileError, TooLargeError

MAX_ROWS = 5000
_FORMULA = ("=", "+", "-", "@", "\t", "\r")


@dataclass(frozen=True, slots=True)
class TableRow:
    """One row: its number among the data rows (from 1), its line in the text (from 1), its cells by column."""

    number: int
    line: int
    cells: list[str]


@dataclass(frozen=True, slots=True)
class Table:
    header: list[str]
    rows: list[TableRow]
    delimiter: str


def read_table(text: str) -> Table:
    """Read delimited text; quoted cells may hold delimiters and line ends.

    Raises
    ------
    FileError
        If there is no header, no row, or a quote that is never closed.
    """
    text = text.lstrip("\ufeff").replace("\r\n", "\n").replace("\r", "\n")
    if not text.strip():
        raise FileError("there is nothing in it: paste the header row and the rows below it")
    first = next(line for line in text.split("\n") if line.strip())
    # tabs are what spreadsheets paste; a semicolon goes before a comma, which may be a decimal mark
    delimiter = next((d for d in ("\t", ";", ",", "|") if d in first), None)
    if delimiter is None:
        raise FileError("the first row has one cell only: it should be the header, with the cells parted by tabs, semicolons or commas", 1)
    reader = csv.reader(io.StringIO(text), delimiter=delimiter, strict=False)
    header: list[str] = []
    rows: list[TableRow] = []
    start = 1
    try:
        for cells in reader:
            line, start = start, reader.line_num + 1
            stripped = [unguarded(c.strip()) for c in cells]
            if not any(stripped):
                continue
            if not header:
                header = stripped
                continue
            rows.append(TableRow(len(rows) + 1, line, stripped))
            if len(rows) > MAX_ROWS:
                raise TooLargeError(f"more than {MAX_ROWS} rows: import them in parts")
    except csv.Error as error:
        raise FileError(f"the cells cannot be told apart: {error}", start) from None
    if not rows:
        raise FileError("there is a header but no row below it")
    return Table(header, rows, delimiter)


def unguarded(cell: str) -> str:
    """Take off the apostrophe that keeps a spreadsheet from reading a formula."""
    return cell[1:] if len(cell) > 1 and cell[0] == "'" and cell[1] in _FORMULA else cell


def guarded(cell: str) -> str:
    """Put an apostrophe before what a spreadsheet would take for a formula."""
    return f"'{cell}" if cell.startswith(_FORMULA) else cell


def write_table(header: Sequence[str], rows: Sequence[Sequence[str]]) -> str:
    """CSV with commas; cells that look like formulas are guarded."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(header)
    writer.writerows([guarded(c) for c in row] for row in rows)
    return out.getvalue()
