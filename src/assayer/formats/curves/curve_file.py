"""Read the text files that rigs write: a table of time, travel, force and strain in some dialect.

Recognised: encoding (UTF-8, UTF-16, Windows-1252), delimiter, decimal mark, preamble, header and unit
rows, column roles and units. What is not certain is asked (`UnclearFileError`), never guessed; the answer
can be given as `columns` ("time:ms,travel:mm,force:gf") or kept as a `FileTemplate`.
"""

from __future__ import annotations

import itertools
import re
from collections import Counter
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from assayer.core.curves.recording import CHANNELS, Recording
from assayer.core.errors import EntryError, FileColumn, FileError, FilePreview, FileQuestion, TooLargeError, UnclearFileError
from assayer.formats.curves.column_words import ROLES, HeaderCell, any_unit, read_header_cell, unit_in_preamble
from assayer.formats.text import MAX_BYTES as MAX_BYTES
from assayer.formats.text import read_bytes, read_lines, split_row

MAX_ROWS = 2_000_000
_CHUNK = 200_000
_HEAD = 400
"""Preamble and header are looked for in this many lines."""

_NUMBER = re.compile(r"[+-]?(?:\d+(?:[.,]\d*)?|[.,]\d+)(?:[eE][+-]?\d+)?\Z")
_CLOCK = re.compile(r"(\d{1,3}):([0-5]\d)(?::([0-5]\d(?:[.,]\d+)?))?\Z")
_GROUPED = re.compile(r"[+-]?\d{1,3}(?:\.\d{3})+,\d+\Z|[+-]?\d{1,3}(?:,\d{3})+\.\d+\Z")
_DELIMITERS = ("\t", ";", "|", ",", " ")
_DELIMITER_NAMES = {"\t": "tab", ";": "semicolon", "|": "bar", ",": "comma", " ": "space", "": "none"}


@dataclass(frozen=True, slots=True)
class Column:
    """What a column is: its role ("time", "travel", "force", "strain" or "skip") and its unit."""

    role: str
    unit: str | None = None


@dataclass(frozen=True, slots=True)
class FileTemplate:
    """The answers for one rig's files, used again wherever header and number of columns are the same."""

    signature: str
    columns: tuple[Column, ...]

    def as_dict(self) -> dict[str, Any]:
        return {"signature": self.signature, "columns": [{"role": c.role, "unit": c.unit} for c in self.columns]}

    @classmethod
    def from_dict(cls, data: dict[str, Any]) -> FileTemplate:
        return cls(data["signature"], tuple(Column(c["role"], c.get("unit")) for c in data["columns"]))


@dataclass(frozen=True, slots=True)
class CurveFile:
    """A file as understood.

    Attributes
    ----------
    recording : Recording
        In base units.
    columns : tuple of Column
    signature : str
        Of the header; what a template is found by.
    preview : FilePreview
        Encoding, delimiter, decimal mark, header, columns and first rows, to be shown.
    """

    recording: Recording
    columns: tuple[Column, ...]
    signature: str
    preview: FilePreview

    def template(self) -> FileTemplate:
        return FileTemplate(self.signature, self.columns)


@dataclass(slots=True)
class _Table:
    """The numeric block of a file and what stands above it."""

    encoding: str
    delimiter: str
    decimal: str
    lines: list[str]
    first: int
    """Index of the first row of numbers."""
    width: int
    header: list[str] = field(default_factory=list)
    units: list[str | None] = field(default_factory=list)
    preamble: list[str] = field(default_factory=list)

    @property
    def signature(self) -> str:
        return f"{self.width}|" + "|".join(self.header)


def read_curve_file(path: Path | str, columns: str | None = None) -> CurveFile:
    """Read a recording from a file on disk; see `read_curve`."""
    return read_curve(read_bytes(path), columns)


def read_curve(data: bytes, columns: str | None = None, template: FileTemplate | None = None) -> CurveFile:
    """Read a recording from the bytes of a file.

    Parameters
    ----------
    data : bytes
    columns : str, optional
        Role and unit of each column in order, "time:ms,travel:mm,force:gf"; "-" leaves one out.
    template : FileTemplate, optional
        Earlier answers; used if the file has the same header and number of columns.

    Raises
    ------
    FileError
        If the file is empty, binary, too large, or holds no table of numbers.
    UnclearFileError
        If a role or a unit is not certain; it carries the questions and a preview.
    """
    table = _find_table(data)
    if columns is not None:
        told = _parse_columns(columns, table.width)
    elif template is not None and template.signature == table.signature:
        told = template.columns
    else:
        told = _recognise_columns(table)
    values, rows, warnings = _read_numbers(table)
    preview = _preview(table, told)
    return CurveFile(_recording(values, rows, warnings, told, table), told, table.signature, preview)


# ---- lines to a table -----------------------------------------------------------------------------


def _find_table(data: bytes) -> _Table:
    lines, encoding = read_lines(data)
    if len(lines) > MAX_ROWS + _HEAD:
        raise TooLargeError(f"the file has {len(lines):,} rows; at most {MAX_ROWS:,} are read".replace(",", " "))
    delimiter, width = _find_delimiter(lines)
    first = _first_row(lines, delimiter, width)
    table = _Table(encoding, delimiter, ".", lines, first, width)
    _read_header(table)
    _settle_comma(table)
    return table


def _is_number(cell: str) -> bool:
    return _NUMBER.match(cell) is not None or _CLOCK.match(cell) is not None


def _find_delimiter(lines: list[str]) -> tuple[str, int]:
    """The delimiter under which most lines are rows of numbers, and the number of columns."""
    filled = [line for line in lines if line.strip()] if len(lines) < _HEAD else lines
    sample = [line for line in filled[:: max(1, len(filled) // 14)] if line.strip()]
    present = "".join(sample)
    best: tuple[int, int, str, int] | None = None
    for rank, delimiter in enumerate((*(d for d in _DELIMITERS if d in present), "")):
        widths = Counter(len(cells) for cells in (split_row(line, delimiter) for line in sample) if all(_is_number(c) for c in cells))
        if delimiter:
            widths.pop(1, None)
        if not widths:
            continue
        width, count = widths.most_common(1)[0]
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


def _first_row(lines: list[str], delimiter: str, width: int) -> int:
    for i, line in enumerate(lines):
        cells = split_row(line, delimiter)
        if len(cells) == width and all(_is_number(c) for c in cells):
            return i
    raise FileError("no table of numbers found: the file needs rows of force, travel or time")


def _read_header(table: _Table) -> None:
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


def _settle_comma(table: _Table) -> None:
    """Tell a decimal comma from a comma between columns; the number of header cells decides."""
    sample = table.lines[table.first : table.first + 200]
    text = "".join(sample)
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


# ---- columns --------------------------------------------------------------------------------------


def _parse_columns(text: str, width: int) -> tuple[Column, ...]:
    columns: list[Column] = []
    for part in text.split(","):
        role, _, unit = part.strip().partition(":")
        role = role.strip().lower()
        if role in {"-", "skip", ""}:
            columns.append(Column("skip"))
            continue
        if role not in ROLES:
            raise EntryError(f"columns: '{role}' is no role: use {', '.join(ROLES)} or - for a column to leave out", "columns")
        try:
            symbol = ROLES[role].unit(unit.strip() or ROLES[role].base).symbol
        except EntryError as error:
            raise EntryError(f"columns: {error.message}", "columns") from None
        columns.append(Column(role, symbol))
    if len(columns) > width:
        raise EntryError(f"columns: {len(columns)} columns are named, but the file has {width}", "columns")
    roles = [c.role for c in columns if c.role != "skip"]
    if "force" not in roles:
        raise EntryError("columns: none of them is the force", "columns")
    if len(set(roles)) < len(roles):
        raise EntryError("columns: a role is named twice", "columns")
    return (*columns, *(Column("skip"),) * (width - len(columns)))


def _recognise_columns(table: _Table) -> tuple[Column, ...]:
    if len(table.header) != table.width:
        cells: list[HeaderCell] = [HeaderCell("", (), unit) for unit in table.units]
    else:
        cells = [read_header_cell(text, unit) for text, unit in zip(table.header, table.units, strict=True)]
    questions: list[FileQuestion] = []
    columns = [_recognise_column(i, cell, table, questions) for i, cell in enumerate(cells)]
    roles = [c.role for c in columns]
    if "force" not in roles and not any(q.about == "force" for q in questions):
        questions.insert(0, FileQuestion("force", None, "which column is the force", list(range(1, table.width + 1))))
    for role in ROLES:
        places = [i + 1 for i, r in enumerate(roles) if r == role]
        if len(places) > 1:
            questions.append(FileQuestion(role, None, f"columns {_listed(places)} all look like {role}: which one counts", places))
    unnamed = [i + 1 for i, (c, cell) in enumerate(zip(columns, cells, strict=True)) if c.role == "skip" and not cell.roles]
    if unnamed and not any(r in {"travel", "strain"} for r in roles):
        questions.append(
            FileQuestion(
                "travel",
                unnamed[0],
                f"whether column {_listed(unnamed)} is the travel" if len(unnamed) == 1 else f"which of columns {_listed(unnamed)} is the travel",
                unnamed,
            )
        )
    if questions:
        told = ",".join(_suggested(c, i, table.width) for i, c in enumerate(columns))
        what = "; ".join(dict.fromkeys(q.text for q in questions))
        raise UnclearFileError(f"cannot tell {what}: say it with --columns, for example --columns {told}", questions, _preview(table, tuple(columns)))
    return tuple(columns)


def _which_is_travel(unnamed: list[int]) -> str:
    return f"whether column {unnamed[0]} is the travel" if len(unnamed) == 1 else f"which of columns {_listed(unnamed)} is the travel"


def _listed(numbers: list[int]) -> str:
    return str(numbers[0]) if len(numbers) == 1 else ", ".join(map(str, numbers[:-1])) + f" and {numbers[-1]}"


def _suggested(column: Column, index: int, width: int) -> str:
    if column.role != "skip":
        return f"{column.role}:{column.unit or ROLES[column.role].base}"
    usual = {1: ["force:N"], 2: ["travel:mm", "force:N"]}.get(width, ["time:s", "travel:mm", "force:N"])
    return usual[index] if index < len(usual) else "-"


def _recognise_column(index: int, cell: HeaderCell, table: _Table, questions: list[FileQuestion]) -> Column:
    roles = [r for r in cell.roles if r != "other"]
    if "other" in cell.roles and not roles:
        return Column("skip")
    named = f"column {index + 1}" + (f" '{cell.text}'" if cell.text else "")
    if "travel_or_strain" in roles:
        roles.remove("travel_or_strain")
        if not roles:
            by_unit = [r for r in ("travel", "strain") if cell.unit is not None and _unit_of(r, cell.unit)]
            if not by_unit:
                questions.append(FileQuestion("travel", index + 1, f"the unit of {named}", ["mm", "%"]))
            return Column(by_unit[0], _unit_of(by_unit[0], cell.unit or "")) if by_unit else Column("skip")
    if len(roles) > 1 and cell.unit is not None:
        fitting = [r for r in roles if _unit_of(r, cell.unit)]
        roles = fitting or roles
    if len(roles) > 1:
        questions.append(FileQuestion("role", index + 1, f"whether {named} is {' or '.join(roles)}", roles))
        return Column("skip")
    if not roles:
        return Column("skip")
    role = roles[0]
    unit_text = cell.unit or unit_in_preamble(table.preamble, ROLES[role])
    if unit_text is None:
        if role == "time":
            # no result rests on the time, so it is not worth a question
            return Column("skip")
        questions.append(FileQuestion(role, index + 1, f"the unit of {named} ({role})", _symbols(role)))
        return Column(role)
    symbol = _unit_of(role, unit_text)
    if symbol is None:
        questions.append(FileQuestion(role, index + 1, f"{named}: '{unit_text}' is no unit of {ROLES[role].name}, so what it is", _symbols(role)))
        return Column("skip")
    return Column(role, symbol)


def _unit_of(role: str, text: str) -> str | None:
    try:
        return ROLES[role].unit(text).symbol
    except EntryError:
        return None


def _symbols(role: str) -> list[str]:
    return list(dict.fromkeys(u.symbol for u in ROLES[role].units.values()))


# ---- numbers --------------------------------------------------------------------------------------


def _read_numbers(table: _Table) -> tuple[NDArray[np.float64], NDArray[np.int64] | None, list[str]]:
    """Values, shape (rows, width), the line of each row (None: one after another), and warnings."""
    body = table.lines[table.first :]
    parts = []
    for start in range(0, len(body), _CHUNK):
        chunk = _read_regular(body[start : start + _CHUNK], table)
        if chunk is None:
            return _read_line_by_line(table)
        parts.append(chunk)
    values: NDArray[np.float64] = parts[0] if len(parts) == 1 else np.concatenate(parts)
    return values, None, []


def _read_regular(body: list[str], table: _Table) -> NDArray[np.float64] | None:
    """The quick way for rows that are all alike; None if anything is out of the ordinary."""
    if table.decimal == ",":
        if table.delimiter == ",":
            return None
        body = "\n".join(body).replace(",", ".").split("\n")
    try:
        # refuses rows of another width and cells that are no numbers; skips empty lines
        values = np.loadtxt(body, delimiter=None if table.delimiter in {"", " "} else table.delimiter, comments=None, ndmin=2)
    except ValueError:
        return None
    if values.shape != (len(body), table.width) or not np.isfinite(values.sum()):
        return None
    return values


def _read_line_by_line(table: _Table) -> tuple[NDArray[np.float64], NDArray[np.int64], list[str]]:
    """The careful way: every line that is no row of numbers is left out and named."""
    rows: list[list[float]] = []
    numbers: list[int] = []
    left_out: list[str] = []
    header = [c.lower() for c in table.header]
    for number, line in enumerate(itertools.islice(table.lines, table.first, None), table.first + 1):
        if not line.strip():
            continue
        cells = split_row(line, table.delimiter)
        grouped = next((c for c in cells if _GROUPED.match(c)), None)
        if grouped is not None:
            raise FileError(f"'{grouped}' has thousands separators: export without them", number)
        if header and [c.lower() for c in cells] == header:
            raise FileError("a second recording begins here: save one recording a file", number)
        if len(cells) == table.width and all(_is_number(c) for c in cells):
            rows.append([_to_float(c) for c in cells])
            numbers.append(number)
        else:
            shown = line.strip()[:40]
            what = "is an incomplete row" if all(_is_number(c) or not c for c in cells) else "is not a row of numbers"
            left_out.append(f"line {number}: '{shown}' {what}: left out")
    if not rows:
        raise FileError("no table of numbers found: the file needs rows of force, travel or time")
    if len(left_out) > max(20, len(rows) // 2):
        raise FileError(f"{len(left_out)} lines are no rows of numbers, {left_out[0]}")
    shown_warnings = left_out[:3] + ([f"{len(left_out) - 3} more lines left out"] if len(left_out) > 3 else [])
    return np.array(rows), np.array(numbers), shown_warnings


def _to_float(cell: str) -> float:
    clock = _CLOCK.match(cell)
    if clock is None:
        return float(cell.replace(",", "."))
    first, second, third = int(clock[1]), int(clock[2]), clock[3]
    return first * 60.0 + second if third is None else first * 3600.0 + second * 60.0 + float(third.replace(",", "."))


def _recording(values: NDArray[np.float64], rows: NDArray[np.int64] | None, warnings: list[str], columns: tuple[Column, ...], table: _Table) -> Recording:
    if values.shape[0] < 5:
        raise FileError(f"only {values.shape[0]} rows of numbers: a recording needs at least 5")
    if values.shape[0] > MAX_ROWS:
        raise TooLargeError(f"the file has more than {MAX_ROWS} rows: export fewer rows a second")
    found: dict[str, NDArray[np.float64]] = {}
    for i, column in enumerate(columns):
        if column.role != "skip":
            unit = ROLES[column.role].unit(column.unit or ROLES[column.role].base)
            found[column.role] = values[:, i] * unit.factor + unit.offset
    ordered = {name: found[name] for name in (*CHANNELS, *found) if name in found}
    recording = Recording(ordered, lines=rows, first_line=table.first + 1, warnings=warnings)
    warnings.extend(_remarks_on_time(recording))
    return recording


def _remarks_on_time(recording: Recording) -> list[str]:
    time = recording.get("time")
    if time is None:
        return []
    steps = np.diff(time)
    backwards = np.flatnonzero(steps < 0)
    if backwards.size:
        row = int(backwards[0]) + 1
        line = recording.line(row)
        if time[row] - time[0] < 0.05 * (time[row - 1] - time[0]):
            raise FileError("the time starts again: there seem to be two recordings in the file, save one a file", line)
        return [f"line {line}: the time runs backwards"]
    repeated = np.flatnonzero(steps == 0)
    if repeated.size:
        more = f" and {repeated.size - 1} more times" if repeated.size > 1 else ""
        return [f"line {recording.line(int(repeated[0]) + 1)}: the time stamp repeats the one before{more}"]
    return []


def _preview(table: _Table, columns: tuple[Column, ...]) -> FilePreview:
    return FilePreview(
        encoding=table.encoding,
        delimiter=_DELIMITER_NAMES[table.delimiter],
        decimal=table.decimal,
        first_line=table.first + 1,
        signature=table.signature,
        header=table.header if len(table.header) == table.width else [],
        columns=[FileColumn(i + 1, c.role, c.unit) for i, c in enumerate(columns)],
        rows=[split_row(line, table.delimiter) for line in table.lines[table.first : table.first + 5]],
    )
