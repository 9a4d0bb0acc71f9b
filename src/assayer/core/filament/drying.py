"""Several spools dried together: the coolest limit rules, and nothing is proposed where one of them is not known."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from assayer.core.filament.polymers import card_of
from assayer.core.filament.window import Window

_APART = 15.0
"""K: what asks for temperatures further apart is dried apart (PROCESS 1)."""
COOLER_THAN_SOFT = 10.0
"""K: nearer than this to where it softens, a temperature is asked about."""


@dataclass(frozen=True, slots=True)
class ToDry:
    """One spool that goes into a dryer: what a person calls it, the maker's window, what the spool's body bears in °C, and its polymer."""

    name: str
    window: Window
    spool_limit: float | None = None
    polymer: str = ""


@dataclass(frozen=True, slots=True)
class Together:
    """What suits all that go in.

    `temperature` in °C and `hours` are what is asked for, None where it is not known of all, or they are too far
    apart; `limit` in °C is the coolest one known and `rules` says whose it is; `unknown` says for whom no limit is
    known; `general` names those whose maker says nothing, so that the polymer's general figures stand; `why_none`
    says why no temperature is proposed.
    """

    temperature: float | None
    hours: float | None
    limit: float | None
    rules: str
    unknown: tuple[str, ...]
    general: tuple[str, ...] = ()
    why_none: str = ""


def dry_together(members: Sequence[ToDry]) -> Together:
    """How several spools are dried in one session.

    Each is dried as cool as the most delicate asks for and as long as the slowest, and never hotter than the coolest
    known limit, be it a maker's or a spool body's. Where the maker is silent, the polymer's general figures stand.

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
    unknown = tuple(whose for limit, whose in limits if limit is None)
    temperatures, hours, general, silent = [], [], [], []
    for m in members:
        card = card_of(m.polymer)
        by_card = m.window.dry_temperature is None
        if by_card and card is None:
            silent.append(m.name)
            continue
        temperatures.append(card.dry_high if by_card and card is not None else m.window.dry_temperature or 0.0)
        if by_card:
            general.append(m.name)
        time = m.window.dry_time if m.window.dry_time is not None else card.dry_hours[1] if card is not None else None
        hours += [] if time is None else [time]
    longest = max(hours, default=None)
    if silent:
        return Together(None, None, limit, rules, unknown, tuple(general), f"nothing is known of how {', '.join(silent)} is dried")
    if max(temperatures) - min(temperatures) > _APART:
        why = f"they ask for {min(temperatures):g} to {max(temperatures):g} °C: dry them apart"
        return Together(None, None, limit, rules, unknown, tuple(general), why)
    temperature = min([*temperatures, *([limit] if limit is not None else [])])
    return Together(temperature, longest, limit, rules, unknown, tuple(general))
