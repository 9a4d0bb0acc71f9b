"""Several spools dried together: the coolest limit rules."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from assayer.core.filament.window import Window


@dataclass(frozen=True, slots=True)
class ToDry:
    """One spool that goes into a dryer: what a person calls it, the maker's window, and what the spool's body bears, °C."""

    name: str
    window: Window
    spool_limit: float | None = None


@dataclass(frozen=True, slots=True)
class Together:
    """What suits all that go in.

    `temperature` in °C and `hours` are what is asked for, None where no maker asks for any drying; `limit` in °C is
    the coolest one known and `rules` says whose it is; `unknown` says for whom no limit is known.
    """

    temperature: float | None
    hours: float | None
    limit: float | None
    rules: str
    unknown: tuple[str, ...]


def dry_together(members: Sequence[ToDry]) -> Together:
    """How several spools are dried in one session.

    Each is dried as cool as the most delicate asks for and as long as the slowest, and never hotter than the coolest
    known limit, be it a maker's or a spool body's.

    Parameters
    ----------
    members
        Those that go in together; at least one.

    Raises
    ------
    ValueError
        Nothing goes in.
    """
    if not members:
        raise ValueError("nothing goes in")
    limits = [(m.window.hottest_drying, f"the maker of {m.name}") for m in members] + [(m.spool_limit, f"the spool of {m.name}") for m in members]
    known = [(limit, whose) for limit, whose in limits if limit is not None]
    limit, rules = min(known, default=(None, ""), key=lambda k: k[0])
    asked = [m.window.dry_temperature for m in members if m.window.dry_temperature is not None]
    temperature = min([*asked, *([limit] if limit is not None else [])]) if asked else None
    hours = max((m.window.dry_time for m in members if m.window.dry_time is not None), default=None)
    unknown = tuple(whose for limit, whose in limits if limit is None)
    return Together(temperature, hours, limit, rules, unknown)
