"""When readings of an open run are due: each with its window, early, due or late."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from enum import StrEnum

_SHARE = 0.10
"""A reading may be off its time by this share of it; on the logarithm of time that is the same everywhere."""
_LEAST = timedelta(seconds=20)


class DueState(StrEnum):
    READ = "read"
    AHEAD = "ahead"
    EARLY = "early"
    DUE = "due"
    LATE = "late"
    MISSED = "missed"


@dataclass(frozen=True, slots=True)
class Due:
    """One reading: its place in the row, when it is due, and between which instants it is in time."""

    position: int
    at: datetime
    opens: datetime
    closes: datetime
    state: DueState


def set_time(seconds: float, times: Sequence[float]) -> float:
    """The time of the schedule whose window a reading falls into, s; its own where it is in none."""
    near = min(times, key=lambda t: abs(t - seconds), default=seconds)
    return near if abs(near - seconds) <= max(_LEAST.total_seconds(), _SHARE * near) else seconds


def due_readings(times: Sequence[float], start: datetime, read: Collection[int], now: datetime) -> list[Due]:
    """The readings of a schedule as they stand.

    Parameters
    ----------
    times : sequence of float, s
        Due times from `start`, rising.
    start : datetime
        The event they count from.
    read : collection of int
        Places that have been read.
    now : datetime

    Notes
    -----
    A window reaches 10 % of the time either way (at least 20 s), and no further than half way to its
    neighbours. A reading is *late* after its window until the window of the next one opens, then *missed*:
    no error, the curve goes on without it. *Early* is the same stretch before the window.
    """
    found = []
    for i, seconds in enumerate(times):
        at = start + timedelta(seconds=seconds)
        room = max(_LEAST, timedelta(seconds=_SHARE * seconds))
        opens, closes = at - room, at + room
        if i > 0:
            opens = max(opens, at - timedelta(seconds=(seconds - times[i - 1]) / 2))
        if i + 1 < len(times):
            closes = min(closes, at + timedelta(seconds=(times[i + 1] - seconds) / 2))
        opens = max(opens, start)
        found.append(Due(i, at, opens, closes, DueState.AHEAD))
    return [Due(d.position, d.at, d.opens, d.closes, _state(d, found, read, now)) for d in found]


def _state(due: Due, row: Sequence[Due], read: Collection[int], now: datetime) -> DueState:
    if due.position in read:
        return DueState.READ
    if due.opens <= now <= due.closes:
        return DueState.DUE
    if now < due.opens:
        near = due.opens - (due.closes - due.opens)
        return DueState.EARLY if now >= near else DueState.AHEAD
    after = row[due.position + 1] if due.position + 1 < len(row) else None
    passed = after is not None and (now >= after.opens or after.position in read)
    return DueState.MISSED if passed else DueState.LATE
