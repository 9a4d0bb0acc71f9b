"""The table of numbers in a text file: encoding, delimiter, decimal mark, header, rows."""

from __future__ import annotations

import math
import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import UTC, datetime

import numpy as np
from numpy.typing import NDArray

from assayer.core.errors import FileError, TooLargeError
from assayer.formats.curves.column_words import any_unit, read_header_cell
from assayer.formats.curves.fixed_notation import read_fixed
from assayer.formats.text import Lines, read_lines, split_row

MAX_ROWS = 2_000_000
_CHUNK = 200_000
_HEAD = 400
"""Preamble and header are looked for in this many lines."""

_DIGITS = r"[+-]?(?:\d+(?:[.,]\d*)?|[.,]\d+)(?:[eE][+-]?\d+)?"
_NUMBER = re.compile(_DIGITS + r"\Z")
_CLOCK = re.compile(r"(\d{1,3}):([0-5]\d)(?::([0-5]\d(?:[.,]\d+)?))?\Z")
_STAMP = re.compile(r"(?:(\d{4})-(\d\d)-(\d\d)|(\d\d)\.(\d\d)\.(\d{4}))(?:[T ](\d\d):([0-5]\d)(?::([0-5]\d(?:[.,]\d+)?))?Z?)?\Z")
"""A date, or a date with its time of day, as loggers write it: years first, or days first with points."""
_GROUPED = re.compile(r"[+-]?\d{1,3}(?:\.\d{3})+,\d+\Z|[+-]?\d{1,3}(?:,\d{3})+\.\d+\Z")
_DELIMITERS = ("\t", ";", "|", ",", " ")
_PLAIN_ROWS = {d: re.compile(rf"{_DIGITS}(?:{re.escape(d)}{_DIGITS})+\Z") for d in ("\t", ";", "|")}
_PLAIN_ROWS[","] = re.compile(rf"{_DIGITS.replace('.,', '.')}(?:,{_DIGITS.replace('.,', '.')})+\Z")
"""Rows as most are, which one look tells; those that are padded or quoted are cut into cells."""
DELIMITER_NAMES = {"\t": "tab", ";": "semicolon", "|": "bar", ",": "comma", " ": "space", "": "none"}


@dataclass(slots=True)
class Table:
    """The numeric block of a file and what stands above it."""

    encoding: str
    delimiter: str
    decimal: str
    lines: Lines
    first: int
    """Index of the first row of numbers."""
    width: int
    header: list[str] = field(default_factory=list)
    units: list[str | None] = field(default_factory=list)
    preamble: list[str] = field(default_factory=list)
    clocks: tuple[int, ...] = ()
    """Columns, from 0, of times of day or of dates with them; their numbers are seconds."""

    @property
    def signature(self) -> str:
        return f"{self.width}|" + "|".join(self.header)


def find_table(data: bytes) -> Table:
    lines, encoding = read_lines(data)
    if len(lines) > MAX_ROWS + _HEAD:
        raise TooLargeError(f"the file has {len(lines):,} rows; at most {MAX_ROWS:,} are read".replace(",", " "))
    delimiter, width = _find_delimiter(lines)
    first = _first_row(lines, delimiter, width)
    table = Table(encoding, delimiter, ".", lines, first, width)
    _read_header(table)
    _settle_comma(table)
    table.clocks = tuple(i for i, cell in enumerate(split_row(lines[first], table.delimiter)) if is_clock(cell))
    return table


def is_number(cell: str) -> bool:
    return _NUMBER.match(cell) is not None or _CLOCK.match(cell) is not None or _STAMP.match(cell) is not None


def is_clock(cell: str) -> bool:
    """Whether a cell is a time of day, with its date or without."""
    stamp = _STAMP.match(cell)
    return _CLOCK.match(cell) is not None if stamp is None else stamp[7] is not None


def _width(line: str, delimiter: str) -> int:
    """How many numbers a line has; 0 if it is no row of numbers."""
    quick = _PLAIN_ROWS.get(delimiter)
    if quick is not None and quick.match(line):
        return line.count(delimiter) + 1
    cells = split_row(line, delimiter)
    return len(cells) if all(map(_NUMBER.match, cells)) or all(map(is_number, cells)) else 0


def _find_delimiter(lines: Sequence[str]) -> tuple[str, int]:
    """The delimiter under which most lines are rows of numbers, and the number of columns."""
    filled = [line for line in lines if line.strip()] if len(lines) < _HEAD else lines
    sample = [line for line in filled[:: max(1, len(filled) // 14)] if line.strip()]
    present = "".join(sample)
    best: tuple[int, int, str, int] | None = None
    for rank, delimiter in enumerate((*(d for d in _DELIMITERS if d in present), "")):
        widths = Counter(_width(line, delimiter) for line in sample)
        widths.pop(0, None)
        if delimiter:
            widths.pop(1, None)
        if not widths:
            continue
        width = max(widths, key=widths.__getitem__)
        count = widths[width]
        if best is None or count > best[0]:
            best = (count, -rank, delimiter, width)
        if count > 0.8 * len(sample) and delimiter not in {"", " "}:
            break
    if best is None or best[0] < max(2, len(sample) // 4):
        grouped = next((i for i, line in enumerate(lines, 1) if any(_GROUPED.match(c) for d in _DELIMITERS for c in split_row(line, d))), None)
        if grouped is not None:
            raise FileError("a number has thousands separators: export without them", grouped)
        raise FileError("no table of numbers found: the file needs rows of force, travel or time")
    return best[2], best[3]


def _first_row(lines: Sequence[str], delimiter: str, width: int) -> int:
    for i, line in enumerate(lines):
        if _width(line, delimiter) == width:
            return i
    raise FileError("no table of numbers found: the file needs rows of force, travel or time")


def _read_header(table: Table) -> None:
    above = [(i, table.lines[i]) for i in range(max(0, table.first - _HEAD), table.first) if table.lines[i].strip()]
    table.preamble = [line for _, line in above]
    rows = [split_row(line, table.delimiter) for _, line in above]
    units: list[str | None] = [None] * table.width
    if rows and len(rows[-1]) == table.width and all(any_unit(c.strip("[]()")) is not None or not c for c in rows[-1]):
        named = [c.strip("[]()") for c in rows.pop()]
        units = [c or None for c in named]
    table.units = units
    if rows and not rows[-1][0].startswith(("#", "//")):
        table.header = rows[-1]
    elif rows and len(rows[-1]) == table.width and rows[-1][0].startswith("#"):
        cells = [rows[-1][0].lstrip("# "), *rows[-1][1:]]
        if any(read_header_cell(c, None).roles for c in cells):
            table.header = cells


def _settle_comma(table: Table) -> None:
    """Tell a decimal comma from a comma between columns; the number of header cells decides."""
    text = table.lines.text(table.first, table.first + 200)
    commas, points = "," in text, "." in text
    if table.delimiter != ",":
        if commas:
            table.decimal = ","
        return
    if points or '"' in text:
        table.decimal = "," if not points else "."
        return
    header_cells = len(table.header)
    if table.width == 2 and header_cells == 1:
        table.delimiter, table.decimal, table.width = "", ",", 1
        table.units = [table.units[0]] if table.units else [None]
    elif header_cells != table.width:
        raise FileError(
            "commas separate the columns and may be the decimal mark as well: export with semicolons between columns, or with decimal points", table.first + 1
        )


def read_numbers(table: Table) -> tuple[NDArray[np.float64], NDArray[np.int64] | None, list[str]]:
    """Values, shape (rows, width), the line of each row (None: one after another), and warnings."""
    parts = []
    for start in range(table.first, len(table.lines), _CHUNK):
        chunk = _read_regular(start, min(start + _CHUNK, len(table.lines)), table)
        if chunk is None:
            return _read_line_by_line(table)
        parts.append(chunk)
    values: NDArray[np.float64] = parts[0] if len(parts) == 1 else np.concatenate(parts)
    return values, None, []


def _read_regular(start: int, stop: int, table: Table) -> NDArray[np.float64] | None:
    """The quick way for rows that are all alike; None if anything is out of the ordinary."""
    if table.decimal == table.delimiter:
        return None
    text = table.lines.text(start, stop)
    fixed = read_fixed(text, stop - start, table.width, table.delimiter, table.decimal)
    if fixed is not None:
        return fixed
    body = (text.replace(",", ".") if table.decimal == "," else text).split("\n")
    try:
        # refuses rows of another width and cells that are no numbers; skips empty lines
        values = np.loadtxt(body, delimiter=None if table.delimiter in {"", " "} else table.delimiter, comments=None, ndmin=2)
    except ValueError:
        return None
    if values.shape != (len(body), table.width) or not np.isfinite(values.sum()):
        return None
    return values


def _read_line_by_line(table: Table) -> tuple[NDArray[np.float64], NDArray[np.int64], list[str]]:
    """The careful way: every line that is no row of numbers is left out and named."""
    rows: list[list[float]] = []
    numbers: list[int] = []
    left_out: list[str] = []
    header = [c.lower() for c in table.header]
    for number, line in enumerate(table.lines[table.first :], table.first + 1):
        if not line.strip():
            continue
        cells = split_row(line, table.delimiter)
        grouped = next((c for c in cells if _GROUPED.match(c)), None)
        if grouped is not None:
            raise FileError(f"'{grouped}' has thousands separators: export without them", number)
        if header and [c.lower() for c in cells] == header:
            raise FileError("a second recording begins here: drop the file at “many files”, which parts it, or save one recording a file", number)
        values = [_to_float(c) for c in cells] if all(is_number(c) for c in cells) else []
        # digits may still be too large a number to be one
        if len(values) == table.width and np.isfinite(values).all():
            rows.append(values)
            numbers.append(number)
        else:
            shown = line.strip()[:40]
            what = "is an incomplete row" if all(is_number(c) or not c for c in cells) else "is not a row of numbers"
            left_out.append(f"line {number}: '{shown}' {what}: left out")
    if not rows:
        raise FileError("no table of numbers found: the file needs rows of force, travel or time")
    if len(left_out) > max(20, len(rows) // 2):
        raise FileError(f"{len(left_out)} lines are no rows of numbers, {left_out[0]}")
    shown_warnings = left_out[:3] + ([f"{len(left_out) - 3} more lines left out"] if len(left_out) > 3 else [])
    return np.array(rows), np.array(numbers), shown_warnings


def _to_float(cell: str) -> float:
    stamp = _STAMP.match(cell)
    if stamp is not None:
        return _seconds_of(stamp)
    clock = _CLOCK.match(cell)
    if clock is None:
        return float(cell.replace(",", "."))
    first, second, third = int(clock[1]), int(clock[2]), clock[3]
    return first * 60.0 + second if third is None else first * 3600.0 + second * 60.0 + float(third.replace(",", "."))


def _seconds_of(stamp: re.Match[str]) -> float:
    """Seconds of a date and time; only their differences are used, so that no zone is asked for."""
    year, month, day = (stamp[1], stamp[2], stamp[3]) if stamp[1] else (stamp[6], stamp[5], stamp[4])
    try:
        of_day = datetime(int(year), int(month), int(day), tzinfo=UTC).timestamp()
    except ValueError:
        return math.nan
    return of_day + int(stamp[7] or 0) * 3600.0 + int(stamp[8] or 0) * 60.0 + float((stamp[9] or "0").replace(",", "."))
