"""The moisture state of a spool at any moment, from where it lay and when it was dried.

No hygrometer sits in a spool: the state says what is known (dried when, how long, how stored since), and counts
the hours it lay open since. How long is too long depends on how fast the polymer takes up water; the classes
below are this project's own rule of thumb, and the drying sessions' moisture lost is the check on it.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum

DRY_BOX_LIMIT = 20.0
"""% relative humidity; a box with more counts as open storage."""

_FAST = ("PA", "PVA", "BVOH", "TPU", "TPE", "PEBA", "PC", "PPA", "PEI")
_SLOW = ("PLA", "PS", "HIPS", "PMMA")
_NOT = ("PP", "PE", "HDPE", "POM", "PVDF")
OPEN_HOURS = {"fast": 8.0, "medium": 168.0, "slow": 336.0}
"""h a spool may lie open after drying before it is to be dried again."""

ENOUGH = 0.9
"""Share of the maker's drying time that counts as dried."""

COOLER = 5.0
"""K below the maker's drying temperature that still counts."""


class Storage(StrEnum):
    SEALED = "sealed bag"
    DRY_BOX = "dry box"
    OPEN = "open"


@dataclass(frozen=True, slots=True)
class Stored:
    """Put somewhere; `humidity` in % as read there, later readings being events of their own."""

    at: datetime
    storage: Storage
    humidity: float | None = None


@dataclass(frozen=True, slots=True)
class Drying:
    """One session: °C, instants, `lost` as a share of the dry filament where it was weighed."""

    start: datetime
    end: datetime | None
    temperature: float
    due: datetime | None = None
    lost: float | None = None

    def hours(self, at: datetime) -> float:
        end = min(self.end, at) if self.end is not None else at
        return max(0.0, (end - self.start).total_seconds() / 3600)


@dataclass(frozen=True, slots=True)
class MoistureState:
    """What is known of a spool's moisture at one moment.

    Attributes
    ----------
    kind : 'drying', 'dried', 'as delivered' or 'open'
        'as delivered': in its sealed bag, never dried. 'open': opened, and never dried since.
    storage : Storage
        Where it lies at the moment.
    open_hours : float
        Hours open since the end of the last drying, or since it was first opened.
    dried : Drying or None
        The last drying that began before the moment.
    words : str
    """

    kind: str
    storage: Storage
    open_hours: float
    dried: Drying | None
    words: str


def thirst(polymer: str) -> str:
    """How fast a polymer takes up water: 'fast', 'medium', 'slow' or 'not'."""
    base = polymer.upper().split("-")[0].split(" ")[0].split("+")[0]
    letters = base.rstrip("0123456789")
    if base in _NOT or letters in _NOT:
        return "not"
    if base in _SLOW or letters in _SLOW:
        return "slow"
    if base in _FAST or letters in _FAST:
        return "fast"
    return "medium"


def open_limit(polymer: str) -> float | None:
    """Hours it may lie open after drying; None where it takes up no water to speak of."""
    return OPEN_HOURS.get(thirst(polymer))


def moisture_state(stored: Sequence[Stored], dryings: Iterable[Drying], at: datetime) -> MoistureState:
    """The state at one instant.

    Parameters
    ----------
    stored : sequence of Stored
        Where it lay, in order of time; before the first it is taken as sealed.
    dryings : iterable of Drying
    at : datetime
        What happens later is not looked at.
    """
    past = [s for s in stored if s.at <= at]
    storage = past[-1].storage if past else Storage.SEALED
    begun = sorted((d for d in dryings if d.start <= at), key=lambda d: d.start)
    last = begun[-1] if begun else None
    if last is not None and (last.end is None or last.end > at):
        return MoistureState("drying", storage, 0.0, last, _drying_words(last, at))
    since = last.end if last is not None else None
    hours = _open_hours(past, since, at)
    if last is not None and last.end is not None:
        where = f"open {_span(hours)}" if storage is Storage.OPEN else f"in {storage.value}"
        lain = f", {_span(hours)} of it open" if hours >= 1 and storage is not Storage.OPEN else ""
        words = f"dried {_span((at - last.end).total_seconds() / 3600)} ago ({last.hours(at):.0f} h at {last.temperature:g} °C), {where}{lain}"
        return MoistureState("dried", storage, hours, last, words)
    if hours == 0 and storage is Storage.SEALED:
        return MoistureState("as delivered", storage, 0.0, None, "sealed as delivered, never dried")
    words = f"{_span(hours)} open, never dried" if hours >= 1 else "just opened, never dried"
    return MoistureState("open", storage, hours, None, words)


def _open_hours(past: Sequence[Stored], since: datetime | None, at: datetime) -> float:
    hours = 0.0
    for i, event in enumerate(past):
        damp_box = event.storage is Storage.DRY_BOX and event.humidity is not None and event.humidity > DRY_BOX_LIMIT
        if event.storage is not Storage.OPEN and not damp_box:
            continue
        start = max(event.at, since) if since is not None else event.at
        end = past[i + 1].at if i + 1 < len(past) else at
        hours += max(0.0, (end - start).total_seconds() / 3600)
    return hours


def _drying_words(drying: Drying, at: datetime) -> str:
    if drying.due is None:
        return f"in the dryer at {drying.temperature:g} °C for {_span(drying.hours(at))}"
    left = (drying.due - at).total_seconds() / 3600
    ends = f"{_span(left)} left" if left > 0 else f"{_span(-left)} over its time"
    return f"in the dryer at {drying.temperature:g} °C, {ends}"


def _span(hours: float) -> str:
    if hours < 1:
        return f"{max(0, round(hours * 60))} min"
    return f"{hours:.0f} h" if hours < 48 else f"{hours / 24:.0f} days"
