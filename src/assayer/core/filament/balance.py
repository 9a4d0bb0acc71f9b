"""How much filament a spool still holds: debited by prints, corrected by weighing."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

RESERVE = 0.05
"""Share of what a job needs that should be left over: purge lines and the tail on the hub."""


@dataclass(frozen=True, slots=True)
class Weighing:
    """Spool with filament on the scales: instant, gross g."""

    at: datetime
    gross: float


@dataclass(frozen=True, slots=True)
class Debit:
    """A print: instant, filament taken in g."""

    at: datetime
    mass: float


@dataclass(frozen=True, slots=True)
class Balance:
    """Filament left, g.

    Attributes
    ----------
    left : float
        May fall below 0: the prints took more than the book says was there, so it is to be weighed.
    weighed_at : datetime or None
    debited : float
        Taken by prints since that weighing.
    """

    left: float
    weighed_at: datetime | None
    debited: float


@dataclass(frozen=True, slots=True)
class Point:
    """One step of the book: instant, g left after it, what happened, and by how much a weighing corrected the book."""

    at: datetime
    left: float
    event: str
    correction: float | None = None


def balance(weighings: Sequence[Weighing], debits: Sequence[Debit], empty: float | None, label: float | None, at: datetime) -> Balance | None:
    """Filament left at an instant; None where neither a weighing with the empty mass nor a label tells.

    Parameters
    ----------
    empty : float or None, g
        Of the bare spool; without it weighings tell nothing.
    label : float or None, g
        Net mass as sold, believed until the first weighing.
    """
    points = history(weighings, debits, empty, label, at)
    if not points:
        return None
    weighed = [p.at for p in points if p.event == "weighed"]
    since = weighed[-1] if weighed else None
    return Balance(points[-1].left, since, sum(d.mass for d in debits if d.at <= at and (since is None or d.at > since)))


def history(weighings: Sequence[Weighing], debits: Sequence[Debit], empty: float | None, label: float | None, at: datetime) -> list[Point]:
    """Every step of the book up to an instant, in order; weighings before prints of the same instant."""
    events: list[tuple[datetime, int, float]] = [(w.at, 0, w.gross) for w in weighings if empty is not None and w.at <= at]
    events += [(d.at, 1, d.mass) for d in debits if d.at <= at]
    events.sort(key=lambda e: e[:2])
    points: list[Point] = []
    left = label
    for when, kind, mass in events:
        if kind == 0 and empty is not None:
            now = mass - empty
            points.append(Point(when, now, "weighed", None if left is None else now - left))
            left = now
        elif left is not None:
            left -= mass
            points.append(Point(when, left, "printed"))
    if not points and label is not None:
        points.append(Point(at, label, "label"))
    return points
