"""Several specimens in one file: a block or a few columns each, parted into files of one specimen.

*Blocks* stand below one another, each with the header anew or after lines of words. *Columns* stand beside one another:
the same roles again and again ("travel; force; travel; force"), or one travel that several forces share, each with the
code of its specimen. A part keeps the lines at which its rows stand, so that a remark names the line of the file.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from assayer.core.codes import parse_code
from assayer.core.errors import EntryError
from assayer.formats.curves.column_words import any_unit, read_header_cell
from assayer.formats.curves.table import is_number
from assayer.formats.text import read_lines, split_row

_ROWS = 5
"""A recording has at least so many rows."""
_HEAD = 60
"""Lines in which a head is looked for at once."""
_DELIMITERS = ("\t", ";", "|", ",")
_WORD = re.compile(r"[0-9A-Za-z]+")
_LETTERS = re.compile(r"[^\W\d_]{2}")
_NUMBERED = re.compile(r"\b(?:specimen|sample|probe|pr[uü]fling|test|run|eprouvette|éprouvette|muestra|provino|campione)\b\D{0,6}\d", re.IGNORECASE)


@dataclass(frozen=True, slots=True)
class FilePart:
    """What of a file is one specimen's: its code or number, and a file with its rows alone."""

    label: str
    data: bytes


def part_file(data: bytes) -> list[FilePart]:
    """The specimens of a file, in its order; empty where it is one specimen's, or cannot be told to be several.

    Raises
    ------
    FileError
        If there is nothing in it, it is too large, or it is no text.
    """
    lines, _ = read_lines(data)
    words = _worded(lines)
    return _blocks(lines, words) or _columns(lines, words)


def _worded(lines: Sequence[str]) -> list[int]:
    """Where lines of words stand. Below its head a recording seldom has letters at all, which is quickly seen."""
    rest = "\n".join(lines[_HEAD:])
    looked = len(lines) if rest.lower() != rest.upper() else _HEAD
    return [i for i, line in enumerate(lines[:looked]) if _LETTERS.search(line)]


def codes_in(text: str) -> list[str]:
    """The words of a text that are codes, with a right check character; "travel" would be one, but names a column."""
    codes = []
    for word in _WORD.findall(text):
        try:
            code = parse_code(word)
        except EntryError:
            continue
        if not read_header_cell(word, None).roles:
            codes.append(code)
    return codes


def _numeric(line: str) -> bool:
    return any(len(cells) > 1 and all(is_number(c) for c in cells) for cells in (split_row(line, d) for d in (*_DELIMITERS, " ") if d in line))


def _blocks(lines: Sequence[str], worded: Sequence[int]) -> list[FilePart]:
    """Stretches of rows of numbers, each under words of its own, with as many columns as the first."""
    words = [-1, *worded, len(lines)]
    stretches = [(a + 1, b) for a, b in pairwise(words) if any(line.strip() for line in lines[a + 1 : b])]
    if len(stretches) < 2:
        return []
    numeric = [[i for i in range(start, end) if _numeric(lines[i])] for start, end in stretches]
    found = [(own[0], own[-1]) for own in numeric if own]
    if len(found) < 2 or any(0 < len(own) < _ROWS for own in numeric):
        # a line that cannot be read within a recording makes no second one of it
        return []
    heads = [_head(lines, 0 if i == 0 else found[i - 1][1] + 1, start) for i, (start, _) in enumerate(found)]
    if not all(_is_header(own) or codes_in(" ".join(own)) or _NUMBERED.search(" ".join(own)) for own in heads[1:]):
        # a remark in the midst of a recording parts nothing
        return []
    parts = []
    for number, ((start, end), own) in enumerate(zip(found, heads, strict=True), 1):
        head = own if _is_header(own) else heads[0]
        label = next(iter(codes_in(" ".join(own))), str(number))
        parts.append(FilePart(label, "\n".join([*[""] * (start - len(head)), *head, *lines[start : end + 1]]).encode()))
    return parts


def _head(lines: Sequence[str], start: int, end: int) -> list[str]:
    return [line for line in lines[start:end] if line.strip()]


def _is_header(head: Sequence[str]) -> bool:
    """Whether it names columns, in its last line or above a line of units."""
    return any(read_header_cell(c, None).roles for line in head[-2:] for d in _DELIMITERS for c in split_row(line, d))


def _columns(lines: Sequence[str], worded: Sequence[int]) -> list[FilePart]:
    found = _header_of(lines, worded)
    if found is None:
        return []
    at, delimiter, cells = found
    below = split_row(lines[at + 1], delimiter) if at + 1 < len(lines) else []
    units = below if below and all(not c or any_unit(c.strip("[]()")) is not None for c in below) else []
    units = [*units, *[""] * (len(cells) - len(units))]
    roles = [next(iter(read_header_cell(_without(c), u or None).roles), "") for c, u in zip(cells, units, strict=True)]
    named = _named_above(lines[:at], delimiter, len(cells))
    groups, shared = _groups(roles, [codes_in(c) for c in cells], named)
    if len(groups) < 2:
        return []
    first = at + (2 if any(units) else 1)
    rows = [_cells(line, delimiter, len(cells)) for line in lines[first:]]
    parts = []
    for number, (label, own) in enumerate(groups, 1):
        taken = [*shared, *own]
        head = delimiter.join(f"{_without(cells[c])} [{units[c].strip('[]()')}]" if units[c] else _without(cells[c]) for c in taken)
        body = [delimiter.join(row[c] for c in taken) if all(row[c] for c in taken) else "" for row in rows]
        parts.append(FilePart(label or str(number), "\n".join([*[""] * (first - 1), head, *body]).encode()))
    return parts


def _header_of(lines: Sequence[str], worded: Sequence[int]) -> tuple[int, str, list[str]] | None:
    """The line that names the columns: where it stands, by what its cells are parted, the cells."""
    for i in worded:
        line = lines[i]
        for delimiter in _DELIMITERS:
            cells = [c.strip() for c in line.split(delimiter)] if delimiter in line else []
            while cells and not cells[-1]:
                cells.pop()
            if len(cells) > 2 and not any(is_number(c) for c in cells) and sum(bool(read_header_cell(_without(c), None).roles) for c in cells) >= 2:
                return i, delimiter, cells
    return None


def _cells(line: str, delimiter: str, width: int) -> list[str]:
    cells = [c.strip() for c in line.split(delimiter)]
    return [*cells, *[""] * (width - len(cells))][:width]


def _without(cell: str) -> str:
    """A header cell without the code or the number of its specimen."""
    codes = set(codes_in(cell))
    kept = _WORD.sub(lambda m: "" if codes.intersection(codes_in(m[0])) else m[0], cell)
    return re.sub(r"\s+", " ", re.sub(r"(?<=[^\W\d])[\s_.#-]*\d+(?=\s*(?:[\[(]|$))", "", kept)).strip(" _-:.#")


def _named_above(above: Sequence[str], delimiter: str, width: int) -> list[str]:
    """Codes in the line above the header, each good up to the next one."""
    line = next((line for line in reversed(above) if line.strip()), "")
    told, name = [], ""
    for cell in _cells(line, delimiter, width):
        name = next(iter(codes_in(cell)), name)
        told.append(name)
    return told if len(set(told) - {""}) > 1 else [""] * width


def _groups(roles: Sequence[str], codes: Sequence[Sequence[str]], named: Sequence[str]) -> tuple[list[tuple[str, list[int]]], list[int]]:
    """The columns of each specimen under its code (or nothing), and those that all share.

    A role that comes once is shared. Those that come again make a group each time; a single one that comes again does so
    only under codes of their own, since two forces may well be one specimen's.
    """
    counted = Counter(r for r in roles if r)
    again = [r for r, n in counted.items() if n > 1]
    if not again or len({counted[r] for r in again}) > 1:
        return [], []
    labels = [next(iter(codes[i]), "") or named[i] for i in range(len(roles))]
    groups: list[tuple[str, list[int]]] = []
    for k in range(counted[again[0]]):
        own = [[i for i, role in enumerate(roles) if role == r][k] for r in again]
        groups.append((next((labels[i] for i in own if labels[i]), ""), sorted(own)))
    told = [label for label, _ in groups]
    certain = all(told) and len(set(told)) == len(told)
    if not certain and (any(told) or len(again) < 2):
        return [], []
    return groups, [i for i, r in enumerate(roles) if r and counted[r] == 1]
