"""Which of many backups are worth their room: dense where they are young, sparse where they are old."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Iterable
from datetime import datetime

_PERIODS: tuple[tuple[int, Callable[[datetime], Hashable]], ...] = (
    (7, lambda at: at.date()),
    (4, lambda at: at.isocalendar()[:2]),
    (12, lambda at: (at.year, at.month)),
)
"""How many days, ISO weeks and months keep their latest."""


def worth_keeping(made: Iterable[datetime], now: datetime) -> set[datetime]:
    """The instants whose backups stay: the latest of each of the last 7 days, 4 weeks and 12 months that have one.

    Days, weeks and months are those of the zone of `now`. Periods without a backup do not count, so that a notebook
    that is seldom opened keeps as many. What lies in the future stays: a clock that was set back throws nothing away.
    """
    newest_first = sorted(made, reverse=True)
    keep = {at for at in newest_first if at > now}
    for count, period in _PERIODS:
        latest: dict[Hashable, datetime] = {}
        for at in newest_first:
            if at <= now:
                latest.setdefault(period(at.astimezone(now.tzinfo)), at)
        keep.update(list(latest.values())[:count])
    return keep
