"""What is wrong with a field of a request, in the words of the trade: the checks of its type speak those of a program."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

_NUMBER, _WHOLE, _TEXT, _TIME, _DAY = "not a number", "not a whole number", "not text", "not a date and time", "not a date"

_REASONS = {
    "missing": "missing",
    "extra_forbidden": "not a known field",
    "string_too_long": "more than {max_length} characters: shorten it",
    "string_pattern_mismatch": "not in the expected format",
    "string_type": _TEXT,
    "string_unicode": _TEXT,
    "greater_than": "must be above {gt}",
    "greater_than_equal": "must be at least {ge}",
    "less_than": "must be below {lt}",
    "less_than_equal": "must be at most {le}",
    "finite_number": "not a finite number",
    "float_type": _NUMBER,
    "float_parsing": _NUMBER,
    "int_type": _WHOLE,
    "int_parsing": _WHOLE,
    "int_from_float": _WHOLE,
    "int_parsing_size": "too large a number",
    "bool_type": "neither yes nor no",
    "bool_parsing": "neither yes nor no",
    "literal_error": "must be {expected}",
    "enum": "must be {expected}",
    "too_long": "more than {max_length} entries",
    "list_type": "not a list",
    "datetime_type": _TIME,
    "datetime_parsing": _TIME,
    "datetime_from_date_parsing": _TIME,
    "timezone_aware": "needs its time zone",
    "date_type": _DAY,
    "date_parsing": _DAY,
    "date_from_datetime_parsing": _DAY,
    "json_invalid": "the request cannot be read",
}


def reason(error: Mapping[str, Any]) -> str:
    """Why a value was refused."""
    kind, context = str(error["type"]), error.get("ctx") or {}
    if kind == "value_error":
        return str(context["error"])
    if kind in ("string_too_short", "too_short"):
        least = context["min_length"]
        of = "characters" if kind == "string_too_short" else "entries"
        return "empty" if least == 1 else f"fewer than {least} {of}"
    words = _REASONS.get(kind)
    limits = {name: f"{limit:g}" if isinstance(limit, int | float) else limit for name, limit in context.items()}
    return words.format(**limits) if words else str(error["msg"])


def field_words(place: Sequence[str | int]) -> str:
    """Where it stands: the field, and which entry of a list, counted from 1."""
    words: list[str] = []
    for part in place[1:] or place:
        if isinstance(part, int) and words:
            words[-1] += f", entry {part + 1}"
        else:
            words.append(str(part).replace("_", " "))
    return ", ".join(words)
