"""The record of an object: its lines of the change log, in words."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime
from typing import cast

from sqlalchemy import Table, bindparam, func, select
from sqlalchemy.orm import Session

from assayer.services.unit import Facts
from assayer.services.views import ChangedValue, RecordEntry
from assayer.store.models import Change


def record_of(session: Session, entity_ids: Sequence[str], limit: int = 200) -> dict[str, list[RecordEntry]]:
    """The latest lines of each object's record, oldest first; one query however many they are."""
    rows = session.execute(_RECORD, {"ids": list(entity_ids), "most": limit}).all()
    found: dict[str, list[RecordEntry]] = {}
    for change in reversed(rows):
        found.setdefault(change.entity_id, []).append(entry_of(change.at, change.who, change.entity, change.action, change.before or {}, change.after or {}))
    return found


def before_change(session: Session, entity_id: str, name: str, value: str) -> dict[str, str]:
    """What an object was, in words, before the latest line of its record in which one of its facts became a value; empty where none did."""
    rows = session.execute(_RECORD, {"ids": [entity_id], "most": 500})
    before: Facts = next((row.before or {} for row in rows if (row.after or {}).get(name) == value and (row.before or {}).get(name) != value), {})
    return {fact: words for fact, words in before.items() if isinstance(words, str)}


def last_change(session: Session) -> int:
    """The number of the latest line of the change log: what was read under it holds until there is another."""
    return session.scalar(_LAST) or 0


_LINE = cast(Table, Change.__table__).c
_RECORD = (
    select(_LINE.entity_id, _LINE.at, _LINE.who, _LINE.entity, _LINE.action, _LINE.before, _LINE.after)
    .where(_LINE.entity_id.in_(bindparam("ids", expanding=True)))
    .order_by(_LINE.seq.desc())
    .limit(bindparam("most"))
)
"""Made once: it is asked with every entry."""
_LAST = select(func.max(_LINE.seq))


def entry_of(at: datetime, who: str, entity: str, action: str, before: Facts, after: Facts) -> RecordEntry:
    """One line of a record: what changed, by name."""
    changes = [
        ChangedValue(name=name, before=_words(before.get(name)), after=_words(after.get(name)))
        for name in dict.fromkeys((*before, *after))
        if before.get(name) != after.get(name)
    ]
    return RecordEntry(at=at, who=who, entity=entity, action=action, changes=changes)


def _words(value: object) -> str | None:
    if value is None or value == {} or value == []:
        return None
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, float):
        return f"{value:.6g}"
    if isinstance(value, list | tuple):
        return ", ".join(_words(v) or "–" for v in value)
    if isinstance(value, dict):
        return "; ".join(f"{k.replace('_', ' ')} {_words(v) or '–'}" for k, v in value.items())
    return str(value)
