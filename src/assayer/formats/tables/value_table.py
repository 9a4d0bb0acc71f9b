"""A table of values and groups, as `assayer compare` reads it: one header row, any usual delimiter."""

from __future__ import annotations

from pathlib import Path

from assayer.core.errors import EntryError, FileError
from assayer.core.quantities.units import parse_number
from assayer.formats.text import read_bytes, read_lines, split_row


def read_values(path: Path | str, value: str, group: str) -> tuple[list[float], list[str]]:
    """Read one column of values and one of group names.

    Parameters
    ----------
    value, group : str
        Headers of the two columns.

    Raises
    ------
    FileError
        If the file is no table, lacks a column, or a value is no number (names the line).
    """
    lines, _ = read_lines(read_bytes(path))
    start = next(i for i, line in enumerate(lines) if line.strip())
    delimiter = next((d for d in ("\t", ";", ",", "|") if len(split_row(lines[start], d)) > 1), " ")
    header = split_row(lines[start], delimiter)
    places = {}
    for name in (value, group):
        if header.count(name) != 1:
            raise FileError(f"there is no single column '{name}': the header has {', '.join(header)}", start + 1)
        places[name] = header.index(name)
    values: list[float] = []
    groups: list[str] = []
    for number, line in enumerate(lines[start + 1 :], start + 2):
        if not line.strip():
            continue
        cells = split_row(line, delimiter)
        if len(cells) <= max(places.values()):
            raise FileError(f"the row has {len(cells)} cells, but '{value}' and '{group}' need {max(places.values()) + 1}", number)
        if not cells[places[group]]:
            raise FileError(f"'{group}' is empty", number)
        try:
            values.append(parse_number(cells[places[value]]))
        except EntryError as error:
            raise FileError(f"'{value}': {error.message}", number) from None
        groups.append(cells[places[group]])
    if not values:
        raise FileError("the table has a header but no rows")
    return values, groups
