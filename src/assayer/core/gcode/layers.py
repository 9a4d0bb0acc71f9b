"""What a print does by layers: time, filament, speeds and flow with their spread, temperatures, travel."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np

from assayer.core.gcode.contour import crossing, outer_contour
from assayer.core.gcode.moves import Moves
from assayer.core.gcode.planner import Times
from assayer.core.gcode.words import Floats

JUMP = 0.25
"""A speed jumps where a bead is laid faster or slower than the one before it by more than this share."""

_SAME = 0.005
"""mm; beads nearer in height than this lie in one layer."""

_USUAL = 0.2
"""mm; height of a turn of a spiral whose layers were never told by a step."""


@dataclass(frozen=True, slots=True)
class Spread:
    """Values over time: means of moves, each with its speeding up and slowing down; `scatter` is their standard deviation.

    In 5 % of the time it is `low` or less; `high` is what is reached for a moment in all but 5 %.
    """

    low: float
    mean: float
    high: float
    scatter: float

    @property
    def relative(self) -> float:
        """Scatter over mean."""
        return self.scatter / self.mean if self.mean else 0.0


@dataclass(slots=True)
class Layer:
    """All beads at one height; mm, s, mm/s, mm³/s, °C, mm³."""

    z: float
    first_line: int
    seconds: float = 0.0
    laying_seconds: float = 0.0
    jumping_seconds: float = 0.0
    laid: float = 0.0
    """mm of bead."""
    filament: float = 0.0
    contour: float = 0.0
    """mm of outer contour."""
    contour_seconds: float = 0.0
    travel: float = 0.0
    crossing: float = 0.0
    """mm of travel that crosses the outer contour."""
    speed: Spread | None = None
    flow: Spread | None = None
    contour_speed: Spread | None = None
    fan: float = 0.0
    """Share, mean over the layer's time."""
    nozzle: float | None = None
    bed: float | None = None
    chamber: float | None = None


@dataclass(slots=True)
class Layers:
    """Takes timed moves in order and measures each layer as it is left.

    Parameters
    ----------
    section : float, mm²
        Cross-section of the strand.
    """

    section: float
    found: dict[int, Layer] = field(default_factory=dict)
    """By height, in steps of `_SAME`."""
    before: float = 0.0
    """s until the first bead."""
    filament: dict[int, float] = field(default_factory=dict)
    """mm by tool."""
    _waiting: list[tuple[Moves, Floats, Floats]] = field(default_factory=list)
    _rows: int = 0
    _z: float | None = None
    _plane: float | None = None
    _step: float = _USUAL

    MOST_ROWS = 150_000
    """Moves of one layer that are held at once."""

    def take(self, moves: Moves, times: Times) -> None:
        for tool in np.unique(moves.tool).tolist():
            self.filament[tool] = self.filament.get(tool, 0.0) + float(moves.de[moves.tool == tool].sum())
        seconds = times.seconds + moves.dwell
        start = 0
        for row, z in self._changes(moves):
            self._hold(moves.rows(slice(start, row)), seconds[start:row], times.peak[start:row])
            self._close()
            self._z, start = z, row
        self._hold(moves.rows(slice(start, len(moves))), seconds[start:], times.peak[start:])
        if self._rows > self.MOST_ROWS:
            self._close()

    def end(self) -> None:
        self._close()

    def _changes(self, moves: Moves) -> list[tuple[int, float]]:
        """Rows where a bead is laid in another layer than the last, with its height."""
        laying = np.flatnonzero(moves.laying)
        if not laying.size:
            return []
        heights = self._heights(moves.z[laying], moves.dz[laying])
        before = np.append(np.nan if self._z is None else self._z, heights[:-1])
        # written so that the very first counts as another
        new = ~(np.abs(heights - before) <= _SAME)
        return list(zip(laying[new].tolist(), heights[new].tolist(), strict=True))

    def _heights(self, z: Floats, rise: Floats) -> Floats:
        """Heights of the layers that beads belong to; those of a spiral that climbs all the time are counted by turns."""
        climbing = rise != 0
        plane = np.where(climbing, np.nan, z)
        at = np.maximum.accumulate(np.where(climbing, -1, np.arange(z.size)))
        held = np.where(at < 0, np.nan if self._plane is None else self._plane, plane[at])
        flat = plane[~climbing]
        if flat.size:
            steps = np.diff(flat, prepend=self._plane if self._plane is not None else flat[0])
            up = steps[(steps > _SAME) & (steps < 2)]
            self._step = float(up[-1]) if up.size else self._step
            self._plane = float(flat[-1])
        base = np.where(np.isnan(held), 0.0, held)
        turns = base + self._step * np.ceil((z - base) / self._step - 1e-6)
        return np.where(climbing, turns, z)

    def _hold(self, moves: Moves, seconds: Floats, peak: Floats) -> None:
        if len(moves):
            self._waiting.append((moves, seconds, peak))
            self._rows += len(moves)

    def _close(self) -> None:
        if not self._waiting:
            return
        moves = Moves.together([m for m, _, _ in self._waiting])
        seconds, peak = (np.concatenate([w[i] for w in self._waiting]) for i in (1, 2))
        self._waiting, self._rows = [], 0
        if self._z is None:
            self.before += float(seconds.sum())
            return
        layer = self.found.setdefault(round(self._z / _SAME), Layer(self._z, int(moves.line[0])))
        _measure(layer, moves, seconds, peak, self.section)


def _measure(layer: Layer, moves: Moves, seconds: Floats, peak: Floats, section: float) -> None:
    """Add what a visit to a layer did."""
    laying = moves.laying
    contour = outer_contour(moves)
    travel = (moves.de <= 0) & ((moves.dx != 0) | (moves.dy != 0))
    crosses = crossing(moves, contour)
    spent = np.maximum(seconds - moves.dwell, 1e-9)
    speed = moves.length / spent
    flow = moves.de * section / spent
    peak_flow = moves.de * section / np.maximum(moves.length, 1e-9) * peak
    whole, laid = float(seconds.sum()), float(seconds[laying].sum())
    share = whole / (layer.seconds + whole) if whole else 0.0
    layer.fan += (float((moves.fan * seconds).sum()) / whole - layer.fan) * share if whole else 0.0
    old, old_contour = layer.laying_seconds, layer.contour_seconds
    layer.seconds += whole
    layer.laying_seconds += laid
    layer.laid += float(moves.length[laying].sum())
    layer.filament += float(moves.de.sum())
    layer.travel += float(moves.length[travel].sum())
    layer.crossing += float(moves.length[crosses].sum())
    layer.contour += float(moves.length[contour].sum())
    layer.contour_seconds += float(seconds[contour].sum())
    layer.speed = _together(layer.speed, old, spread(speed[laying], peak[laying], seconds[laying]), laid)
    layer.flow = _together(layer.flow, old, spread(flow[laying], peak_flow[laying], seconds[laying]), laid)
    outer = spread(speed[contour], peak[contour], seconds[contour])
    layer.contour_speed = _together(layer.contour_speed, old_contour, outer, float(seconds[contour].sum()))
    layer.jumping_seconds += _jumping(moves.feed[laying], seconds[laying])
    for name in ("nozzle", "bed", "chamber"):
        # as its last bead was laid: what comes after is meant for the next layer
        said = getattr(moves, name)[laying]
        if said.size and not np.isnan(said[-1]):
            setattr(layer, name, float(said[-1]))


def _jumping(feed: Floats, seconds: Floats) -> float:
    """s in beads whose speed asked for is another than that of the bead before by more than `JUMP`."""
    if feed.size < 2:
        return 0.0
    jumps = np.abs(np.diff(feed)) > JUMP * np.maximum(feed[1:], feed[:-1])
    return float(seconds[1:][jumps].sum())


def spread(means: Floats, tops: Floats, weights: Floats) -> Spread | None:
    """The spread over moves that last for `weights`, by their means and by the highest each reaches."""
    total = float(weights.sum())
    if not means.size or total <= 0:
        return None
    mean = float((means * weights).sum()) / total
    scatter = float(np.sqrt(max(((means - mean) ** 2 * weights).sum() / total, 0.0)))
    return Spread(_passed(means, weights, 0.05), mean, _passed(tops, weights, 0.95), scatter)


def _passed(values: Floats, weights: Floats, share: float) -> float:
    """The value that is not passed in `share` of the time."""
    order = np.argsort(values)
    reached = np.cumsum(weights[order])
    return float(values[order[min(int(np.searchsorted(reached, share * reached[-1])), values.size - 1)]])


def _together(a: Spread | None, a_time: float, b: Spread | None, b_time: float) -> Spread | None:
    """The spread over two times; low and high are the outer ones of both."""
    if a is None or b is None:
        return a or b
    share = b_time / (a_time + b_time)
    mean = a.mean + (b.mean - a.mean) * share
    square = (a.scatter**2 + (a.mean - mean) ** 2) * (1 - share) + (b.scatter**2 + (b.mean - mean) ** 2) * share
    return Spread(min(a.low, b.low), mean, max(a.high, b.high), float(np.sqrt(square)))
