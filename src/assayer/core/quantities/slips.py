"""Entries that are hardly meant as typed: what was likely meant, to be asked, never to be assumed."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import date, datetime, timedelta

from assayer.core.errors import Question as Question
from assayer.core.errors import QuestionError
from assayer.core.quantities.units import FLOW, SPEED, Unit

CONFUSED: dict[str, tuple[Unit, ...]] = {"mm/s": (SPEED.unit("mm/min"),), "mm³/s": (FLOW.unit("cm³/min"), FLOW.unit("mm³/min"))}
"""What is asked in one unit, and was perhaps read off in one of these."""


def ask(questions: Iterable[Question | None], confirmed: Iterable[str] = ()) -> None:
    """Raise what is open of the questions.

    Raises
    ------
    QuestionError
        If a question is neither confirmed nor None.
    """
    settled = set(confirmed)
    still_open = [q for q in questions if q is not None and not (q.may_confirm and q.key in settled)]
    if still_open:
        raise QuestionError(still_open)


def likely_number(value: float, low: float, high: float) -> float | None:
    """The number with its decimal mark moved so that it falls within low … high; None if there is no such.

    Examples
    --------
    >>> likely_number(1753, 1.6, 1.9)
    1.753
    """
    # too small by a thousand is the likeliest of the small ones: kg for g, or a mark between thousands
    for power in (1, 2, 3, -3, -1, -2):
        moved = value / 10**power
        if low <= moved <= high:
            return float(f"{moved:.10g}")
    return None


def question_number(field: str, value: float, low: float, high: float, what: str, unit: str, row: int | None = None) -> Question | None:
    """Ask about a number outside low … high, with the likely meaning if another unit or a slipped decimal mark explains it."""
    if low <= value <= high:
        return None
    key = f"{field}{'' if row is None else f'[{row}]'}={value:.10g}"
    for other in CONFUSED.get(unit, ()):
        likely = value * other.factor
        if low <= likely <= high:
            return Question(
                key, field, f"{what} {value:g} {unit}: was {value:g} {other.symbol} meant, which is {likely:.4g} {unit}?", f"{likely:.4g}", True, row
            )
    meant = likely_number(value, low, high)
    if meant is not None:
        return Question(key, field, f"{what} {value:g} {unit}: was {meant:g} {unit} meant?", f"{meant:g}", True, row)
    return Question(key, field, f"{what} {value:g} {unit} lies outside {low:g} … {high:g} {unit}: is it right?", None, True, row)


def question_past(field: str, at: datetime | date, now: datetime, what: str) -> Question | None:
    """A date in the future cannot have happened: ask for day and month exchanged, or the year before.

    An instant may lie two minutes ahead (clocks of browsers differ).
    """
    ahead = at > now + timedelta(minutes=2) if isinstance(at, datetime) else at > now.date() + timedelta(days=1)
    if not ahead:
        return None
    shown = at.date() if isinstance(at, datetime) else at
    meant = _past_reading(shown, now.date())
    asks = f": was {meant.isoformat()} meant?" if meant else ": enter a day that has been"
    when = f"{at:%Y-%m-%d %H:%M}" if isinstance(at, datetime) and shown == now.date() else shown.isoformat()
    return Question(f"{field}={at.isoformat()}", field, f"{what} {when} lies in the future{asks}", meant.isoformat() if meant else None, False)


def _past_reading(day: date, today: date) -> date | None:
    candidates = []
    if day.day <= 12:
        candidates.append(date(day.year, day.day, day.month))
    # the 29th of February has no year before
    candidates.append(date(day.year - 1, day.month, min(day.day, 28) if day.month == 2 else day.day))
    return next((c for c in candidates if today - timedelta(days=400) <= c <= today), None)


def question_order(field: str, start: datetime, end: datetime, what: str) -> Question | None:
    """An end before its start: ask for the next day (a night has passed), or for both exchanged."""
    if end >= start:
        return None
    next_day = end + timedelta(days=1)
    if next_day >= start:
        text = f"{what} ends {_minutes(start - end)} before it starts: was the next day meant, {next_day:%Y-%m-%d %H:%M}?"
        return Question(f"{field}={end.isoformat()}", field, text, next_day.isoformat(), False)
    text = f"{what} ends on {end:%Y-%m-%d %H:%M}, before its start on {start:%Y-%m-%d %H:%M}: were the two exchanged?"
    return Question(f"{field}={end.isoformat()}", field, text, None, False)


def _minutes(span: timedelta) -> str:
    minutes = round(span.total_seconds() / 60)
    return f"{minutes} min" if minutes < 120 else f"{minutes / 60:.0f} h"
