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
