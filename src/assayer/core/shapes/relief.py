"""Figures drawn in bars, to be raised from a face or sunk into it."""

from __future__ import annotations

from dataclasses import dataclass

_SEGMENTS = {
    "0": "abcdef",
    "1": "bc",
    "2": "abged",
    "3": "abgcd",
    "4": "fgbc",
    "5": "afgcd",
    "6": "afgedc",
    "7": "abc",
    "8": "abcdefg",
    "9": "abcdfg",
    "-": "g",
}

_GAP = 0.8


@dataclass(frozen=True, slots=True)
class Stroke:
    """A bar of a figure, from its lower left corner, mm."""

    x: float
    y: float
    wide: float
    tall: float


def figures(label: str, room: float, tall: float) -> list[Stroke]:
    """The bars of a label in the middle of a room.

    Parameters
    ----------
    label : str
        Figures, a point, a minus; what else it holds is left blank.
    room, tall : float, mm
        How wide the room is, and how tall the figures.
    """
    count = sum(c != "." for c in label)
    wide = min(tall * 0.55, (room - _GAP * (count - 1)) / max(count, 1))
    bar = max(min(wide, tall) * 0.2, 0.6)
    x = (room - count * wide - _GAP * (count - 1)) / 2
    strokes = []
    for c in label:
        if c == ".":
            strokes.append(Stroke(x - 0.4 - bar / 2, 0.0, bar, bar))
            continue
        mid = (tall - bar) / 2
        places = {
            "a": (x, tall - bar, wide, bar),
            "b": (x + wide - bar, mid, bar, tall / 2 + bar / 2),
            "c": (x + wide - bar, 0.0, bar, tall / 2 + bar / 2),
            "d": (x, 0.0, wide, bar),
            "e": (x, 0.0, bar, tall / 2 + bar / 2),
            "f": (x, mid, bar, tall / 2 + bar / 2),
            "g": (x, mid, wide, bar),
        }
        strokes += [Stroke(*places[segment]) for segment in _SEGMENTS.get(c, "")]
        x += wide + _GAP
    return strokes


_ROWS = {
    "0": "75557", "1": "26227", "2": "71747", "3": "71317", "4": "55711", "5": "74717", "6": "74757", "7": "71222", "8": "75757", "9": "75711",
    "A": "25755", "B": "65656", "C": "74447", "D": "65556", "E": "74647", "F": "74644", "G": "34553", "H": "55755", "J": "11152", "K": "55655",
    "M": "57755", "N": "65555", "P": "75744", "Q": "75571", "R": "75765", "S": "34216", "T": "72222", "V": "55552", "W": "55775", "X": "55255",
    "Y": "55222", "Z": "71247",
}  # fmt: skip
"""Each symbol of a code in five rows of three cells, from the top: a row is the sum of 4, 2 and 1 for its cells from the left."""

_RUNS = {
    "1": [(2, 1)], "2": [(1, 1)], "3": [(1, 2)], "4": [(0, 1)], "5": [(0, 1), (2, 1)], "6": [(0, 2)], "7": [(0, 3)],
}  # fmt: skip
"""Filled cells of a row that lie together, as (first, how many)."""

_LAP = 0.02
"""mm by which cells reach over their edges: two that met in a corner only would leave an edge with four faces."""

LEAST_CELL = 0.45
"""mm; a finer one is lost in a line of a usual nozzle."""


def letters(code: str, room: float, tall: float) -> list[Stroke]:
    """A code in cells, in one line or two, whichever is larger, in the middle of a room; none where it would be too fine to print.

    Parameters
    ----------
    code : str
        Symbols of codes; what else it holds is left blank.
    room, tall : float, mm
    """
    half = (len(code) + 1) // 2
    ways = [(code,), (code[:half], code[half:])] if len(code) > 1 else [(code,)]
    cell, lines = max(((min(room / _cells(max(map(len, lines)), 3), tall / _cells(len(lines), 5)), lines) for lines in ways), key=lambda way: way[0])
    if cell < LEAST_CELL:
        return []
    strokes = []
    top = (tall + _cells(len(lines), 5) * cell) / 2
    for i, line in enumerate(lines):
        left = (room - _cells(len(line), 3) * cell) / 2
        for j, symbol in enumerate(line):
            for row, digit in enumerate(_ROWS.get(symbol, "")):
                y = top - (6 * i + row + 1) * cell
                for first, wide in _RUNS[digit]:
                    strokes.append(Stroke(left + (4 * j + first) * cell - _LAP, y - _LAP, wide * cell + 2 * _LAP, cell + 2 * _LAP))
    return strokes


def _cells(symbols: int, each: int) -> int:
    """How many cells symbols take with one between them."""
    return (each + 1) * symbols - 1
