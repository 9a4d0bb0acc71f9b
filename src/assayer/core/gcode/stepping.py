"""A setting stepped by height through a file that was made for printing: lines put in, all else left byte for byte."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field

import numpy as np

from assayer.core.errors import FileError
from assayer.core.gcode.inspection import Progress, whole_lines
from assayer.core.gcode.moves import Head, Moves
from assayer.core.gcode.words import Remarks, read_words, rows_of, rows_setting
from assayer.core.settings.series import Series

_SAME = 0.005
"""mm; as for layers."""

_LEAST_LAYERS = 2
"""Of a band."""


@dataclass(frozen=True, slots=True)
class Insertion:
    """A line put in before line `line` of the file, counted from 1: `band` from 1, and why it stands there."""

    line: int
    text: str
    band: int
    z: float
    why: str


@dataclass(frozen=True, slots=True)
class BandAt:
    """A band as it came out: its value, its layers, and from where to where they reach, mm."""

    number: int
    value: float
    first_layer: int
    layers: int
    low: float
    high: float


@dataclass(frozen=True, slots=True)
class Plan:
    """What is put into a file, and the bands that come of it."""

    insertions: list[Insertion]
    bands: list[BandAt]
    layers: int
    height: float


def command(series: Series, value: float) -> str:
    """The command that sets the printer to a value."""
    match series.setting:
        case "nozzle_temperature":
            return f"M104 S{value:g}"
        case "bed_temperature":
            return f"M140 S{value:g}"
        case "fan":
            return f"M106 S{round(value * 2.55)}" if value > 0 else "M107"
        case "speed":
            return f"M220 S{value:g}"
        case "flow":
            return f"M221 S{value:g}"
    return f"M207 S{value:g}"


_SHARES = ("speed", "flow")
"""Shares of what a file asks: they hold on after the print unless they are set back."""


@dataclass(slots=True)
class _Seen:
    """What the first reading of a file finds."""

    z: list[float] = field(default_factory=list)
    lines: list[int] = field(default_factory=list)
    """Line at which the head goes to each layer."""
    own: list[int] = field(default_factory=list)
    """Lines that set what is stepped."""
    last_laying: int = 0
    drawn_by_firmware: bool = False


def plan_steps(blocks: Iterable[bytes], series: Series, progress: Progress | None = None) -> Plan:
    """Where the commands of a series belong in a file.

    Parameters
    ----------
    blocks : iterable of bytes
    series : Series
    progress : callable, optional

    Raises
    ------
    FileError
        If layers and bands do not match, or the setting cannot be stepped in this file; says what would do.
    """
    seen = _look_through(blocks, series, progress)
    if not seen.z:
        raise FileError("nothing is laid in this file: there is no layer to step at", line=1)
    if series.setting == "retraction" and not seen.drawn_by_firmware:
        raise FileError("this file draws the filament back by its own moves: let the printer do it (G10, G11), then it can be stepped")
    tops = np.array(seen.z)
    _check_layers(tops, seen)
    first = _first_layers(tops, series)
    bands, found = [], []
    for number, (value, at) in enumerate(zip(series.values, first, strict=True), 1):
        end = first[number] if number < series.count else len(tops)
        low = 0.0 if at == 0 else float(tops[at - 1])
        bands.append(BandAt(number, value, at + 1, end - at, low, float(tops[end - 1])))
        begin = 0 if number == 1 else at
        line = seen.lines[begin]
        found.append(Insertion(line, command(series, value), number, low, f"band {number} begins"))
        upper = seen.lines[end] if number < series.count else seen.last_laying + 1
        again = [n for n in seen.own if line <= n < upper]
        found += [Insertion(n + 1, command(series, value), number, low, f"line {n} sets it otherwise") for n in again]
    if series.setting in _SHARES:
        found.append(Insertion(seen.last_laying + 1, command(series, 100), series.count, float(tops[-1]), "the tower is done"))
    return Plan(sorted(found, key=lambda i: i.line), bands, len(tops), float(tops[-1]))


def _look_through(blocks: Iterable[bytes], series: Series, progress: Progress | None) -> _Seen:
    head, remarks, seen = Head(), Remarks(), _Seen()
    size, climbed = 0, 0
    for block in whole_lines(blocks):
        if b"\0" in block:
            raise FileError("this is no G-code: it holds bytes that no text has", line=head.line + 1)
        first = head.line + 1
        words = read_words(block, first, remarks)
        seen.own += (first + rows_setting(words, series.setting)).tolist()
        seen.drawn_by_firmware |= bool(rows_of(words, "G", (10,)).size)
        for moves in head.take(words, remarks):
            climbed = _layers_of(moves, seen, climbed)
        size += len(block)
        if progress is not None:
            progress(size)
    return seen


def _layers_of(moves: Moves, seen: _Seen, climbed: int) -> int:
    """Note each new layer, with the line on which the head went up to it; yields the last such line."""
    rises = np.flatnonzero(moves.dz != 0)
    laying = np.flatnonzero(moves.laying)
    if laying.size:
        z = moves.z[laying]
        before = np.append(seen.z[-1] if seen.z else np.nan, z[:-1])
        for i in np.flatnonzero(~(np.abs(z - before) <= _SAME)).tolist():
            row = laying[i]
            at = int(np.searchsorted(rises, row, side="right")) - 1
            up = int(moves.line[rises[at]]) if at >= 0 else climbed or int(moves.line[row])
            seen.z.append(float(z[i]))
            seen.lines.append(max(up, seen.last_laying + 1) if seen.last_laying else up)
            seen.last_laying = max(seen.last_laying, int(moves.line[laying[i - 1]]) if i else 0)
        seen.last_laying = int(moves.line[laying[-1]])
    return int(moves.line[rises[-1]]) if rises.size else climbed


def _check_layers(tops: np.ndarray, seen: _Seen) -> None:
    down = np.flatnonzero(np.diff(tops) < -_SAME)
    if down.size:
        at = int(down[0]) + 1
        text = f"the head goes back down from {tops[at - 1]:g} to {tops[at]:g} mm to lay more: a tower is printed layer upon layer"
        raise FileError(text, line=seen.lines[at])


def _first_layers(tops: np.ndarray, series: Series) -> list[int]:
    """Index of the first layer of each band; the base belongs to the first."""
    heights = np.diff(tops, prepend=0.0)
    usual = float(np.median(heights))
    off = float(tops[-1]) - series.height
    if abs(off) > series.band_height / 2:
        raise FileError(
            f"the file is {tops[-1]:g} mm high, and {series.count} bands of {series.band_height:g} mm on a base of {series.base_height:g} mm "
            f"are {series.height:g} mm: band height, number of bands or base are others than those of this file"
        )
    if series.band_height < _LEAST_LAYERS * usual:
        raise FileError(f"a band of {series.band_height:g} mm has fewer than {_LEAST_LAYERS} layers of {usual:g} mm")
    bottoms = np.insert(tops[:-1], 0, 0.0)
    first = []
    for number in range(series.count):
        limit = series.base_height + number * series.band_height
        at = int(np.argmin(np.abs(bottoms - limit)))
        if abs(float(bottoms[at]) - limit) > usual / 2 + 1e-6:
            raise FileError(f"no layer begins near {limit:g} mm, where band {number + 1} would: the nearest begins at {bottoms[at]:g} mm")
        first.append(at)
    return first


def with_insertions(blocks: Iterable[bytes], insertions: Sequence[Insertion]) -> Iterator[bytes]:
    """The file with lines put in; they end as its own lines do. Nothing else is touched."""
    waiting = list(insertions)
    line, ending, open_end = 1, b"\n", False
    for block in whole_lines(blocks):
        if line == 1:
            at = block.find(b"\n")
            ending = b"\r\n" if at > 0 and block[at - 1 : at] == b"\r" else b"\n"
        open_end = not block.endswith(b"\n")
        count = block.count(b"\n") + open_end
        if not waiting or waiting[0].line >= line + count:
            yield block
        else:
            yield b"".join(_filled(_kept(block), line, waiting, ending))
        line += count
    for left in waiting:
        yield ending + left.text.encode() if open_end else left.text.encode() + ending


def _kept(block: bytes) -> list[bytes]:
    """Lines with their ends; only the line feed ends one."""
    lines = block.split(b"\n")
    return [piece + b"\n" for piece in lines[:-1]] + ([lines[-1]] if lines[-1] else [])


def _filled(lines: list[bytes], first: int, waiting: list[Insertion], ending: bytes) -> Iterator[bytes]:
    for number, line in enumerate(lines, first):
        while waiting and waiting[0].line == number:
            yield waiting.pop(0).text.encode() + ending
        yield line
