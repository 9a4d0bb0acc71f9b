"""A table of values, groups and batches, as `assayer compare` reads it: one header row, any usual delimiter."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from assayer.core.errors import EntryError, FileError
from assayer.core.quantities.units import parse_number
from assayer.formats.text import read_bytes, read_lines, split_row


@dataclass(frozen=True, slots=True)
class ValueTable:
    """One value a row, with its group and, where the table was read with a batch column, its batch."""

    values: list[float]
    groups: list[str]
    batches: list[str] | None


def read_values(path: Path | str, value: str, group: str, batch: str | None = None) -> ValueTable:
    """Read one column of values, one of group names and, if named, one of batches.

    Parameters
    ----------
    value, group, batch : str
        Headers of the columns.

    Raises
    ------
    FileError
        If the file is not a table, lacks a column, or a value is not a number (names the line).
    """
    lines, _ = read_lines(read_bytes(path))
    start = next(i for i, line in enumerate(lines) if line.strip())
    delimiter = next((d for d in ("\t", ";", ",", "|") if len(split_row(lines[start], d)) > 1), " ")
    header = split_row(lines[start], delimiter)
    names = [value, group] if batch is None else [value, group, batch]
    places = {}
    for name in names:
        if header.count(name) != 1:
            raise FileError(f"there is no single column '{name}': the header has {', '.join(header)}", start + 1)
        places[name] = header.index(name)
    table = ValueTable([], [], None if batch is None else [])
    for number, line in enumerate(lines[start + 1 :], start + 2):
        if not line.strip():
            continue
        cells = split_row(line, delimiter)
        if len(cells) <= max(places.values()):
            columns = " and ".join(f"'{name}'" for name in names)
            raise FileError(f"the row has {len(cells)} cells, but {columns} need {max(places.values()) + 1}", number)
        for name in names[1:]:
            if not cells[places[name]]:
                raise FileError(f"'{name}' is empty", number)
        try:
            table.values.append(parse_number(cells[places[value]]))
        except EntryError as error:
            raise FileError(f"'{value}': {error.message}", number) from None
        table.groups.append(cells[places[group]])
        if table.batches is not None and batch is not None:
            table.batches.append(cells[places[batch]])
    if not table.values:
        raise FileError("the table has a header but no rows")
    return table
