"""Read the text files that rigs write: a table of time, travel, force and strain in some dialect.

Recognised: encoding (UTF-8, UTF-16, Windows-1252), delimiter, decimal mark, preamble, header and unit
rows, column roles and units. What is not certain is asked (`UnclearFileError`), never guessed; the answer
can be given as `columns` ("time:ms,travel:mm,force:gf") or kept as a `FileTemplate`.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from assayer.core.curves.recording import CHANNELS, Recording
from assayer.core.errors import FileError, FilePreview, TooLargeError
from assayer.formats.curves.column_words import PULL, ROLES
from assayer.formats.curves.columns import Column, FileTemplate, parse_columns, preview_of, recognise_columns
from assayer.formats.curves.table import MAX_ROWS, Table, find_table, read_numbers
from assayer.formats.text import MAX_BYTES as MAX_BYTES
from assayer.formats.text import read_bytes

_DAY = 86400.0


@dataclass(frozen=True, slots=True)
class CurveFile:
    """A file as understood.

    Attributes
    ----------
    recording : Recording
        In base units.
    columns : tuple of Column
    table : Table
        The lines that it was read from.
    """

    recording: Recording
    columns: tuple[Column, ...]
    table: Table = field(repr=False)

    @property
    def signature(self) -> str:
        """Of the header; what a template is found by."""
        return self.table.signature

    @property
    def preview(self) -> FilePreview:
        """Encoding, delimiter, decimal mark, header, columns and first rows, to be shown; made when somebody looks."""
        return preview_of(self.table, self.columns)

    def template(self) -> FileTemplate:
        return FileTemplate(self.signature, self.columns)


def read_curve_file(path: Path | str, columns: str | None = None, wanted: Sequence[str] = PULL) -> CurveFile:
    """Read a recording from a file on disk; see `read_curve`."""
    return read_curve(read_bytes(path), columns, wanted=wanted)


def read_curve(data: bytes, columns: str | None = None, template: FileTemplate | None = None, wanted: Sequence[str] = PULL) -> CurveFile:
    """Read a recording from the bytes of a file.

    Parameters
    ----------
    data : bytes
    columns : str, optional
        Role and unit of each column in order, "time:ms,travel:mm,force:gf"; "-" leaves one out.
    template : FileTemplate, optional
        Earlier answers; used if the file has the same header and number of columns.
    wanted : sequence of str
        Roles that the method reads: the first is needed, the second is asked for where a column may be it.

    Raises
    ------
    FileError
        If the file is empty, binary, too large, or holds no table of numbers.
    UnclearFileError
        If a role or a unit is not certain; it carries the questions and a preview.
    """
    table = find_table(data)
    if columns is not None:
        told = parse_columns(columns, table.width, wanted)
    elif template is not None and template.signature == table.signature:
        told = template.columns
    else:
        told = recognise_columns(table, wanted)
    values, rows, warnings = read_numbers(table)
    return CurveFile(_recording(values, rows, warnings, told, table), told, table)


def _recording(values: NDArray[np.float64], rows: NDArray[np.int64] | None, warnings: list[str], columns: tuple[Column, ...], table: Table) -> Recording:
    if values.shape[0] < 5:
        raise FileError(f"only {values.shape[0]} rows of numbers: a recording needs at least 5")
    if values.shape[0] > MAX_ROWS:
        raise TooLargeError(f"the file has more than {MAX_ROWS} rows: export fewer rows a second")
    found: dict[str, NDArray[np.float64]] = {}
    for i, (own, column) in enumerate(zip(np.ascontiguousarray(values.T), columns, strict=True)):
        if column.role != "skip":
            if i in table.clocks:
                own = _past_midnight(own)
            unit = ROLES[column.role].unit(column.unit or ROLES[column.role].base)
            found[column.role] = own if unit.factor == 1 and unit.offset == 0 else own * unit.factor + unit.offset
    ordered = {name: found[name] for name in (*CHANNELS, *found) if name in found}
    recording = Recording(ordered, lines=rows, first_line=table.first + 1, warnings=warnings)
    warnings.extend(_remarks_on_time(recording))
    return recording


def _past_midnight(clock: NDArray[np.float64]) -> NDArray[np.float64]:
    """Times of day that go on after midnight: a fall by more than half a day is the next day."""
    return clock + _DAY * np.concatenate(([0.0], np.cumsum(np.diff(clock) < -_DAY / 2)))


def _remarks_on_time(recording: Recording) -> list[str]:
    time = recording.get("time")
    if time is None:
        return []
    steps = time[1:] - time[:-1]
    if steps.min() > 0:
        return []
    backwards = np.flatnonzero(steps < 0)
    if backwards.size:
        row = int(backwards[0]) + 1
        line = recording.line(row)
        if time[row] - time[0] < 0.05 * (time[row - 1] - time[0]):
            raise FileError("the time starts again: two recordings seem to be in the file: drop it at “many files”, or save one a file", line)
        return [f"line {line}: the time runs backwards"]
    repeated = np.flatnonzero(steps == 0)
    if repeated.size:
        more = f" and {repeated.size - 1} more times" if repeated.size > 1 else ""
        return [f"line {recording.line(int(repeated[0]) + 1)}: the time stamp repeats the one before{more}"]
    return []
