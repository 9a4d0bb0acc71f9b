"""Columns of a table, as the commands on findings read them: one header row, any usual delimiter."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from assayer.core.errors import EntryError, FileError
from assayer.core.quantities.units import parse_number
from assayer.formats.text import read_bytes, read_lines, split_row


@dataclass(frozen=True, slots=True)
class Columns:
    """The columns that were asked for, by header, one cell a row."""

    numbers: dict[str, list[float]]
    texts: dict[str, list[str]]


def read_columns(path: Path | str, numbers: Sequence[str], texts: Sequence[str] = ()) -> Columns:
    """Read columns of numbers and columns of names.

    Parameters
    ----------
    numbers, texts : sequence of str
        Headers of the columns.

    Raises
    ------
    FileError
        If the file is not a table, lacks a column, or a cell is empty or not a number (names the line).
    """
    lines, _ = read_lines(read_bytes(path))
    start = next(i for i, line in enumerate(lines) if line.strip())
    delimiter = next((d for d in ("\t", ";", ",", "|") if len(split_row(lines[start], d)) > 1), " ")
    header = split_row(lines[start], delimiter)
    names = [*numbers, *texts]
    places = {}
    for name in names:
        if header.count(name) != 1:
            raise FileError(f"there is no single column '{name}': the header has {', '.join(header)}", start + 1)
        places[name] = header.index(name)
    read = Columns({name: [] for name in numbers}, {name: [] for name in texts})
    is_empty = True
    for number, line in enumerate(lines[start + 1 :], start + 2):
        if not line.strip():
            continue
        is_empty = False
        cells = split_row(line, delimiter)
        if len(cells) <= max(places.values()):
            columns = " and ".join(f"'{name}'" for name in names)
            raise FileError(f"the row has {len(cells)} cells, but {columns} need {max(places.values()) + 1}", number)
        for name in texts:
            if not cells[places[name]]:
                raise FileError(f"'{name}' is empty", number)
            read.texts[name].append(cells[places[name]])
        for name in numbers:
            try:
                read.numbers[name].append(parse_number(cells[places[name]]))
            except EntryError as error:
                raise FileError(f"'{name}': {error.message}", number) from None
    if is_empty:
        raise FileError("the table has a header but no rows")
    return read
