"""Words as moves: what the printer's head does, with modes, units and offsets worked out.

Taken are G0 to G3, G4, G20, G21, G28, G90 to G92, M82, M83, M104, M106, M107, M109, M140, M141, M190, M191, M204,
M220, M221 and T; any other command is kept and counted.
"""

from __future__ import annotations

from dataclasses import dataclass, field, fields
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from assayer.core.errors import FileError
from assayer.core.gcode.words import Floats, Ints, Remarks, Words

INCH = 25.4
DEFAULT_FEED = 25.0
"""mm/s, until a file names a speed."""

MOST = 1e5
"""mm; a move beyond this is no print."""

_AXES = "XYZE"


def _code(letter: str, number: float) -> int:
    """A command as one whole number: tenths, since some have them."""
    return (ord(letter) << 20) + round(number * 10)


_G, _M, _T = _code("G", 0), _code("M", 0), _code("T", 0)
_MOVES = np.array([_code("G", n) for n in (0, 1, 2, 3)])
_ARCS = np.array([_code("G", n) for n in (2, 3)])
_SET = _code("G", 92)
_HOME = _code("G", 28)
_MODES = {
    _code("G", 20): "inch",
    _code("G", 21): "millimetre",
    _code("G", 90): "absolute",
    _code("G", 91): "relative",
    _code("M", 82): "e absolute",
    _code("M", 83): "e relative",
}
_DWELL = _code("G", 4)
_STOPS = np.array([_DWELL, _HOME, *(_code("M", n) for n in (0, 1, 109, 190, 191, 400, 600))])
_FAN_ON, _FAN_OFF, _RATE, _SPEED_SHARE, _FLOW_SHARE = (_code("M", n) for n in (106, 107, 204, 220, 221))
_HEATERS = {
    "nozzle": (_code("M", 104), _code("M", 109)),
    "bed": (_code("M", 140), _code("M", 190)),
    "chamber": (_code("M", 141), _code("M", 191)),
}
_KNOWN = np.array([*_MOVES, *_STOPS, *_MODES, _SET, _FAN_ON, _FAN_OFF, _RATE, _SPEED_SHARE, _FLOW_SHARE, *sum(_HEATERS.values(), ())])


@dataclass(frozen=True, slots=True)
class Moves:
    """Moves in order, one row each; mm, mm/s, mm/s², °C.

    `dx dy dz de` what each axis goes, `x y z` where it ends, `length` along the path, `into` and `out` the direction at
    its start and end (rows × 3; zero for one of the filament alone), `turn` the radius of an arc (∞: straight),
    `feed` the speed asked for, `acceleration`, `stop` whether the head stands still before it, `dwell` s waited before,
    `tool`, `fan` 0 … 1, `nozzle`, `bed` and `chamber` as set (NaN: not yet), `line` in the file from 1.
    """

    line: Ints
    dx: Floats
    dy: Floats
    dz: Floats
    de: Floats
    x: Floats
    y: Floats
    z: Floats
    length: Floats
    into: Floats
    out: Floats
    turn: Floats
    sweep: Floats
    feed: Floats
    acceleration: Floats
    stop: NDArray[np.bool_]
    dwell: Floats
    tool: Ints
    fan: Floats
    nozzle: Floats
    bed: Floats
    chamber: Floats

    def __len__(self) -> int:
        return len(self.line)

    def rows(self, which: slice | Ints | NDArray[np.bool_]) -> Moves:
        return Moves(*(getattr(self, f.name)[which] for f in fields(self)))

    @staticmethod
    def together(parts: list[Moves]) -> Moves:
        return parts[0] if len(parts) == 1 else Moves(*(np.concatenate([getattr(p, f.name) for p in parts]) for f in fields(Moves)))

    @property
    def laying(self) -> NDArray[np.bool_]:
        """Moves that lay a bead: across the bed, with filament."""
        found: NDArray[np.bool_] = (self.de > 0) & ((self.dx != 0) | (self.dy != 0) | (self.sweep != 0))
        return found


@dataclass(slots=True)
class Head:
    """The state of the printer between blocks of a file."""

    acceleration: float = 1000.0
    travel_acceleration: float | None = None
    """mm/s², until the file names them."""
    count: list[float] = field(default_factory=lambda: [0.0, 0.0, 0.0, 0.0])
    """Where each axis stands as the file counts, mm."""
    place: list[float] = field(default_factory=lambda: [0.0, 0.0, 0.0])
    """Where the head stands, whatever the count was set to, mm."""
    relative: bool = False
    e_relative: bool = False
    unit: float = 1.0
    feed: float = DEFAULT_FEED
    speed_share: float = 1.0
    flow_share: float = 1.0
    tool: int = 0
    fan: float = 0.0
    heat: dict[str, float] = field(default_factory=lambda: dict.fromkeys(_HEATERS, np.nan))
    stops: int = 0
    """Stops that the next move comes after."""
    dwell: float = 0.0
    line: int = 0
    """Lines read so far."""

    def take(self, words: Words, remarks: Remarks) -> list[Moves]:
        """The moves of the next block, a part for each stretch of one mode; the state goes on to its end."""
        rows = _Rows.of_words(words)
        _note(rows, self.line, remarks)
        changing = np.isin(rows.command, [*_MODES, _HOME]) | (rows.command >= _T)
        cuts = sorted({0, *np.flatnonzero(changing).tolist(), len(rows)})
        found = [self._stretch(rows.part(start, end), self.line + start + 1) for start, end in pairwise(cuts)]
        self.line += words.rows
        return [m for m in found if len(m)]

    def _change(self, rows: _Rows) -> None:
        """What the first row of a stretch changes."""
        code = int(rows.command[0])
        match _MODES.get(code):
            case "inch":
                self.unit = INCH
            case "millimetre":
                self.unit = 1.0
            case "absolute" | "relative" as which:
                self.relative = self.e_relative = which == "relative"
            case "e absolute" | "e relative" as which:
                self.e_relative = which == "e relative"
        if code >= _T and code - _T != self.tool * 10:
            self.tool = (code - _T) // 10
            self.stops += 1
        if code == _HOME:
            named = [a for a in range(3) if not np.isnan(rows[_AXES[a]][0])] or range(3)
            for axis in named:
                self.count[axis] = self.place[axis] = 0.0

    def _stretch(self, rows: _Rows, first_line: int) -> Moves:
        """Moves between two changes of mode, all at once."""
        self._change(rows)
        moving = np.isin(rows.command, _MOVES)
        gone = [self._axis(a, rows, moving) for a in range(4)]
        place = [self.place[a] + np.cumsum(gone[a]) for a in range(3)]
        self.place = [float(p[-1]) for p in place]
        self.feed, feed = _held(np.where(moving, rows["F"], np.nan) * self.unit / 60, self.feed)
        self.speed_share, speed_share = _held(rows.said(_SPEED_SHARE, "S") / 100, self.speed_share)
        self.flow_share, flow_share = _held(rows.said(_FLOW_SHARE, "S") / 100, self.flow_share)
        laying_rate, travel_rate = self._rates(rows)
        self.fan, fan = _held(_fan(rows), self.fan)
        heat = {}
        for name, commands in _HEATERS.items():
            self.heat[name], heat[name] = _held(rows.heat(commands), self.heat[name])
        arcs = np.isin(rows.command, _ARCS)
        taken = np.flatnonzero(moving & (arcs | (gone[0] != 0) | (gone[1] != 0) | (gone[2] != 0) | (gone[3] != 0)))
        stops, dwell = self._waits(rows, taken)
        dx, dy, dz, de = (axis[taken] for axis in gone)
        de = de * flow_share[taken]
        path = _path(rows.at(taken), arcs[taken], np.column_stack([dx, dy, dz]), de, self.unit)
        return Moves(
            line=first_line + taken,
            dx=dx,
            dy=dy,
            dz=dz,
            de=de,
            x=place[0][taken],
            y=place[1][taken],
            z=place[2][taken],
            length=path.length,
            into=path.into,
            out=path.out,
            turn=path.turn,
            sweep=path.sweep,
            feed=np.maximum(feed[taken] * speed_share[taken], 1e-3),
            acceleration=np.where(de > 0, laying_rate[taken], travel_rate[taken]),
            stop=stops,
            dwell=dwell,
            tool=np.full(taken.size, self.tool),
            fan=fan[taken],
            nozzle=heat["nozzle"][taken],
            bed=heat["bed"][taken],
            chamber=heat["chamber"][taken],
        )

    def _axis(self, axis: int, rows: _Rows, moving: NDArray[np.bool_]) -> Floats:
        """How far an axis goes in each row, mm; the count goes on."""
        said = rows[_AXES[axis]] * self.unit
        setting = rows.command == _SET
        relative = self.e_relative if axis == 3 else self.relative
        # set without naming an axis: all count from nought
        sets = np.where(setting & rows.bare, 0.0, np.where(setting, said, np.nan))
        if relative:
            gone = np.where(moving & ~np.isnan(said), said, 0.0)
            anew = np.flatnonzero(~np.isnan(sets))
            last = int(anew[-1]) if anew.size else -1
            self.count[axis] = (float(sets[last]) if anew.size else self.count[axis]) + float(gone[last + 1 :].sum())
            return gone
        before = self.count[axis]
        self.count[axis], counted = _held(np.where(moving, said, sets), before)
        gone = np.diff(counted, prepend=before)
        gone[~moving] = 0.0
        return gone

    def _rates(self, rows: _Rows) -> tuple[Floats, Floats]:
        """Acceleration of laying and of travel in each row, mm/s²."""
        both = rows.said(_RATE, "S") * self.unit
        self.acceleration, laying = _held(np.where(np.isnan(both), rows.said(_RATE, "P") * self.unit, both), self.acceleration)
        own = self.travel_acceleration if self.travel_acceleration is not None else np.nan
        last, travel = _held(np.where(np.isnan(both), rows.said(_RATE, "T") * self.unit, both), own)
        self.travel_acceleration = None if np.isnan(last) else last
        return np.maximum(laying, 1.0), np.maximum(np.where(np.isnan(travel), laying, travel), 1.0)

    def _waits(self, rows: _Rows, taken: Ints) -> tuple[NDArray[np.bool_], Floats]:
        """Whether the head stands before each move taken, and for how long it was told to wait, s."""
        waiting = np.where(rows.command == _DWELL, np.where(np.isnan(rows["P"]), np.nan_to_num(rows["S"]), rows["P"] / 1000), 0.0)
        stops = self.stops + np.cumsum(np.isin(rows.command, _STOPS))
        waits = self.dwell + np.cumsum(waiting)
        self.stops = int(stops[-1] - stops[taken[-1]]) if taken.size else int(stops[-1])
        self.dwell = float(waits[-1] - waits[taken[-1]]) if taken.size else float(waits[-1])
        return np.diff(stops[taken], prepend=0) > 0, np.diff(waits[taken], prepend=0.0)


@dataclass(frozen=True, slots=True)
class _Rows:
    """Lines of a block: the command of each (−1: none) and what it says by letter (NaN: nothing)."""

    command: Ints
    said_by: dict[str, Floats]

    @staticmethod
    def of_words(words: Words) -> _Rows:
        command = np.full(words.rows, -1, np.int64)
        first = np.ones(words.row.size, np.bool_)
        first[1:] = words.row[1:] != words.row[:-1]
        begins = first & np.isin(words.letter, [ord(c) for c in "GMT"])
        command[words.row[first]] = -2
        command[words.row[begins]] = (words.letter[begins].astype(np.int64) << 20) + np.rint(np.minimum(words.value[begins], 1e4) * 10).astype(np.int64)
        said = {}
        for letter in "XYZEFIJRSPT":
            values = np.full(words.rows, np.nan)
            of_letter = (words.letter == ord(letter)) & ~begins
            values[words.row[of_letter]] = words.value[of_letter]
            said[letter] = values
        return _Rows(command, said)

    def __len__(self) -> int:
        return len(self.command)

    def __getitem__(self, letter: str) -> Floats:
        return self.said_by[letter]

    def part(self, start: int, end: int) -> _Rows:
        return self.at(slice(start, end))

    def at(self, which: slice | Ints) -> _Rows:
        return _Rows(self.command[which], {letter: values[which] for letter, values in self.said_by.items()})

    def said(self, command: int, letter: str) -> Floats:
        return np.where(self.command == command, self.said_by[letter], np.nan)

    def heat(self, commands: tuple[int, ...]) -> Floats:
        """°C asked for: S, or R where it may also cool down to it."""
        asked = np.where(np.isnan(self["S"]), self["R"], self["S"])
        return np.where(np.isin(self.command, commands), asked, np.nan)

    @property
    def bare(self) -> NDArray[np.bool_]:
        """Rows that name no axis."""
        x, y, z, e = (np.isnan(self[a]) for a in _AXES)
        return x & y & z & e


def _note(rows: _Rows, before: int, remarks: Remarks) -> None:
    unknown = (rows.command >= 0) & (rows.command < _T) & ~np.isin(rows.command, _KNOWN)
    for code, times in zip(*np.unique(rows.command[unknown], return_counts=True), strict=True):
        remarks.keep(f"{'M' if code >= _M else 'G'}{(int(code) % (1 << 20)) / 10:g}", int(times))
    for row in np.flatnonzero(rows.command == -2).tolist():
        remarks.add(before + row + 1, "a line without a command (G, M or T): it is passed over")
    for letter in _AXES:
        wild = np.isin(rows.command, _MOVES) & (np.abs(rows[letter]) > MOST)
        for row in np.flatnonzero(wild)[:1].tolist():
            raise FileError(f"{letter}{rows[letter][row]:g} is beyond any printer: is this the file that was meant?", line=before + row + 1)


def _held(said: Floats, before: float) -> tuple[float, Floats]:
    """Each row's value, held until another is said; the last one, too."""
    at = np.maximum.accumulate(np.where(np.isnan(said), -1, np.arange(said.size)))
    held = np.where(at < 0, before, said[at])
    return float(held[-1]), held


def _fan(rows: _Rows) -> Floats:
    """Share of the part-cooling fan said in each row, 0 … 1; another fan's is passed over."""
    of_part = np.isnan(rows["P"]) | (rows["P"] == 0)
    on = np.where(np.isnan(rows["S"]), 1.0, np.clip(rows["S"] / 255, 0, 1))
    return np.where((rows.command == _FAN_ON) & of_part, on, np.where((rows.command == _FAN_OFF) & of_part, 0.0, np.nan))


@dataclass(frozen=True, slots=True)
class _Path:
    length: Floats
    into: Floats
    out: Floats
    turn: Floats
    sweep: Floats


def _path(rows: _Rows, arcs: NDArray[np.bool_], gone: Floats, de: Floats, unit: float) -> _Path:
    """Length and directions of moves; straight ones at once, arcs apart."""
    length = np.sqrt((gone**2).sum(axis=1))
    across = length > 0
    into = np.divide(gone, length[:, None], out=np.zeros_like(gone), where=across[:, None])
    out = into.copy()
    turn, sweep = np.full(length.size, np.inf), np.zeros(length.size)
    at = np.flatnonzero(arcs)
    if at.size:
        of = rows.at(at)
        clockwise = of.command == _ARCS[0]
        centre = _centres(of, gone[at, :2], clockwise, unit)
        radius = np.hypot(centre[:, 0], centre[:, 1])
        start, end = -centre, gone[at, :2] - centre
        angle = np.arctan2(start[:, 0] * end[:, 1] - start[:, 1] * end[:, 0], (start * end).sum(axis=1))
        # from where it starts to where it ends in its own sense; back to its start is a full turn
        angle = np.where(clockwise, -np.mod(-angle, 2 * np.pi), np.mod(angle, 2 * np.pi))
        angle = np.where(np.abs(angle) < 1e-9, np.where(clockwise, -2 * np.pi, 2 * np.pi), angle)
        sense = np.where(clockwise, -1.0, 1.0)
        for directions, arm in ((into, start), (out, end)):
            size = np.maximum(np.hypot(arm[:, 0], arm[:, 1]), 1e-12)
            directions[at] = np.column_stack([-arm[:, 1] / size * sense, arm[:, 0] / size * sense, np.zeros(at.size)])
        length[at] = np.hypot(radius * np.abs(angle), gone[at, 2])
        turn[at], sweep[at] = radius, angle
    return _Path(np.where(length > 0, length, np.abs(de)), into, out, turn, sweep)


def _centres(rows: _Rows, gone: Floats, clockwise: NDArray[np.bool_], unit: float) -> Floats:
    """Centres of arcs, from where each starts, mm: by I and J, or by R (negative: the longer way round)."""
    by_offset = np.column_stack([np.nan_to_num(rows["I"]), np.nan_to_num(rows["J"])]) * unit
    radius = rows["R"] * unit
    chord = np.hypot(gone[:, 0], gone[:, 1])
    rise = np.sqrt(np.maximum(np.nan_to_num(radius) ** 2 - chord**2 / 4, 0))
    side = np.where(clockwise, -1.0, 1.0) * np.where(np.nan_to_num(radius) < 0, -1.0, 1.0)
    normal = np.column_stack([-gone[:, 1], gone[:, 0]]) / np.maximum(chord, 1e-12)[:, None]
    by_radius = gone / 2 + normal * (rise * side)[:, None]
    return np.where(np.isnan(radius)[:, None], by_offset, by_radius)
