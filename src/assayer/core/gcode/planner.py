"""The time a print takes: speeds at the junctions of moves, with look-ahead and acceleration limits.

Every move speeds up and slows down at its acceleration. At a junction the head keeps the speed that the corner
allows; standing still is always possible at the end of what is known, so speeds are limited backwards from there,
then forwards. Both passes are running minima of v² against the room that is left, so they are done for all moves
at once.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from assayer.core.gcode.moves import Moves
from assayer.core.gcode.words import Floats

AHEAD = 400
"""Moves held back at the end of a block, until what follows them is known."""


@dataclass(frozen=True, slots=True)
class Times:
    """For each move: s it takes, the highest speed it reaches, mm/s."""

    seconds: Floats
    peak: Floats


def junction_squares(moves: Moves, corner: float) -> Floats:
    """Highest v² at the start of each move, (mm/s)².

    At a corner the head is thought to pass on an arc that leaves it by δ and to keep to the acceleration there:
    v² = a·δ·s/(1 − s), s = sin of half the angle between the legs; δ follows from `corner`, the speed at a right
    angle. Straight on is free; a move of the filament alone, or after a stop, starts from standstill.

    Parameters
    ----------
    moves : Moves
    corner : float, mm/s
    """
    top = nominal_squares(moves)
    cosine = -(moves.out[:-1] * moves.into[1:]).sum(axis=1)
    half = np.sqrt(np.clip((1 - cosine) / 2, 0, 1))
    room = corner**2 * (np.sqrt(2) - 1)
    with np.errstate(divide="ignore"):
        allowed = np.where(half > 1 - 1e-9, np.inf, room * half / (1 - half))
    # without a direction: the filament alone
    alone = (moves.into == 0).all(axis=1)
    allowed[alone[:-1] | alone[1:] | moves.stop[1:]] = 0.0
    found = np.zeros(len(moves))
    found[1:] = np.minimum(allowed, np.minimum(top[:-1], top[1:]))
    return found


def nominal_squares(moves: Moves) -> Floats:
    """v² asked for, (mm/s)²; an arc only as fast as its acceleration turns it."""
    asked = moves.feed**2
    return np.where(np.isinf(moves.turn), asked, np.minimum(asked, moves.acceleration * np.where(np.isinf(moves.turn), 1.0, moves.turn)))


def plan(moves: Moves, corner: float, entry: float = 0.0) -> tuple[Times, Floats]:
    """Times of moves that end at standstill, and v² at the start of each, with that at the end after them.

    Parameters
    ----------
    moves : Moves
    corner : float, mm/s
        Speed at a right-angled corner.
    entry : float, (mm/s)²
        v² at which the first is entered, where moves went before.
    """
    top = nominal_squares(moves)
    joints = np.append(junction_squares(moves, corner), 0.0)
    joints[0] = entry
    room = np.insert(np.cumsum(2 * moves.acceleration * moves.length), 0, 0.0)
    back = np.minimum.accumulate((joints + room)[::-1])[::-1] - room
    squares = np.maximum(np.minimum.accumulate(back - room) + room, 0.0)
    first, last = squares[:-1], squares[1:]
    peak = np.minimum(top, (first + last) / 2 + moves.acceleration * moves.length)
    peak = np.maximum(peak, np.maximum(first, last))
    high = np.sqrt(np.maximum(peak, 1e-12))
    changing = (2 * high - np.sqrt(first) - np.sqrt(last)) / moves.acceleration
    steady = np.maximum(moves.length - (2 * peak - first - last) / (2 * moves.acceleration), 0.0) / high
    return Times(changing + steady, high), squares
