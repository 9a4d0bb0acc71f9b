"""A whole file inspected as it streams by: what it lays, how fast, how evenly, and how long it takes."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass, field

import numpy as np

from assayer.core.errors import FileError
from assayer.core.gcode.layers import Layer, Layers, Spread
from assayer.core.gcode.moves import Head, Moves
from assayer.core.gcode.planner import AHEAD, Times, plan
from assayer.core.gcode.words import SETTING_COMMANDS, Remark, Remarks, read_words, rows_setting

BLOCK = 1 << 20
"""Bytes read at once."""

Progress = Callable[[int], None]
"""Told how many bytes were read; may raise to cancel."""


@dataclass(frozen=True, slots=True)
class Machine:
    """What the printer does where a file does not say; mm/s², mm/s, mm."""

    acceleration: float = 1000.0
    corner: float = 5.0
    """Speed at a right-angled corner."""
    strand: float = 1.75
    """Diameter of the filament."""


@dataclass(frozen=True, slots=True)
class Inspection:
    """What a file does. s, mm, mm³, mm/s, mm³/s."""

    layers: list[Layer]
    preparing: float
    """s until the first bead; heating up is not in it, since a file does not say how long it takes."""
    filament: dict[int, float]
    """mm by tool, that is drawn back taken off."""
    section: float
    lines: int
    size: int
    remarks: list[Remark] = field(default_factory=list)
    remark_count: int = 0
    unknown: dict[str, int] = field(default_factory=dict)
    """Commands that were kept without acting on them, by how often."""
    sets: dict[str, int] = field(default_factory=dict)
    """How often the file sets what a tower can step, by setting."""

    @property
    def seconds(self) -> float:
        return self.preparing + sum(layer.seconds for layer in self.layers)

    @property
    def first_layer(self) -> float:
        return self.layers[0].seconds if self.layers else 0.0

    @property
    def volume(self) -> float:
        return sum(self.filament.values()) * self.section

    @property
    def travel(self) -> float:
        return sum(layer.travel for layer in self.layers)

    @property
    def crossing(self) -> float:
        return sum(layer.crossing for layer in self.layers)

    def over_layers(self, name: str, times: str = "laying_seconds") -> Spread | None:
        """Spread of `name` over the whole print, weighted by time; low and high are those of single layers."""
        told = [(s, getattr(layer, times)) for layer in self.layers if (s := getattr(layer, name)) is not None]
        total = sum(t for _, t in told)
        if not told or total <= 0:
            return None
        mean = sum(s.mean * t for s, t in told) / total
        square = sum((s.scatter**2 + (s.mean - mean) ** 2) * t for s, t in told) / total
        return Spread(min(s.low for s, _ in told), mean, max(s.high for s, _ in told), math.sqrt(square))

    @property
    def jumping(self) -> float:
        """Share of the time of laying in which the speed jumps."""
        laying = sum(layer.laying_seconds for layer in self.layers)
        return sum(layer.jumping_seconds for layer in self.layers) / laying if laying else 0.0


def inspect(blocks: Iterable[bytes], machine: Machine | None = None, progress: Progress | None = None) -> Inspection:
    """Inspect a file.

    Parameters
    ----------
    blocks : iterable of bytes
        The file in pieces of any size.
    machine : Machine, optional
        What the printer does where the file does not say.
    progress : callable, optional
        Told the bytes read so far.

    Raises
    ------
    FileError
        If it is no G-code, or lays no bead; names the line.
    """
    machine = machine or Machine()
    remarks, head = Remarks(), Head(acceleration=machine.acceleration)
    layers = Layers(math.pi * (machine.strand / 2) ** 2)
    pending, entry, size = [], 0.0, 0
    sets = dict.fromkeys(SETTING_COMMANDS, 0)
    for block in whole_lines(blocks):
        _check(block, head.line + 1)
        words = read_words(block, head.line + 1, remarks)
        for name in sets:
            sets[name] += rows_setting(words, name).size
        pending += head.take(words, remarks)
        size += len(block)
        if progress is not None:
            progress(size)
        if sum(len(m) for m in pending) > 2 * AHEAD:
            pending, entry = _settle(pending, entry, machine.corner, layers, AHEAD)
    if pending:
        _settle(pending, entry, machine.corner, layers, 0)
    layers.end()
    if not layers.found:
        raise FileError(
            "nothing is laid in this file: no move draws filament across the bed" + _first(remarks), line=remarks.told[0].line if remarks.told else 1
        )
    found = sorted(layers.found.values(), key=lambda layer: layer.z)
    told = (remarks.told, remarks.count, remarks.unknown)
    return Inspection(found, layers.before, layers.filament, layers.section, head.line, size, *told, sets)


def _settle(pending: list[Moves], entry: float, corner: float, layers: Layers, ahead: int) -> tuple[list[Moves], float]:
    """Hand on what is certain; the last moves wait for what follows them."""
    moves = Moves.together(pending)
    times, squares = plan(moves, corner, entry)
    certain = len(moves) - ahead
    layers.take(moves.rows(slice(0, certain)), Times(times.seconds[:certain], times.peak[:certain]))
    return [moves.rows(slice(certain, None))], float(squares[certain])


def whole_lines(blocks: Iterable[bytes]) -> Iterator[bytes]:
    """Blocks cut at the ends of lines; each of about `BLOCK` bytes, the last one as it is."""
    held: list[bytes] = []
    size = 0
    for block in blocks:
        held.append(block)
        size += len(block)
        if size < BLOCK:
            continue
        whole = b"".join(held)
        cut = whole.rfind(b"\n") + 1
        held, size = [whole[cut:]], len(whole) - cut
        if size > BLOCK:
            raise FileError("a line without an end: this is no G-code")
        if cut:
            yield whole[:cut]
    last = b"".join(held)
    if last:
        yield last


def _check(block: bytes, line: int) -> None:
    """Refuse what is no text, before it is read as one."""
    if b"\0" in block:
        at = block.index(b"\0")
        raise FileError("this is no G-code: it holds bytes that no text has", line=line + block.count(b"\n", 0, at))
    if line == 1:
        start = np.frombuffer(block[:4096], np.uint8)
        if start.size and float(np.mean((start < 9) | ((start > 13) & (start < 32)) | (start > 126))) > 0.3:
            raise FileError("this is no G-code: its first lines are no text", line=1)


def _first(remarks: Remarks) -> str:
    return f" ({remarks.told[0].text})" if remarks.told else ""
