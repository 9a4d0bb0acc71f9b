"""Values and lists as a person writes them."""

from __future__ import annotations

from collections.abc import Sequence

Value = float | str | bool


def value_words(value: Value, unit: str) -> str:
    """A value with its unit; yes or no of a flag."""
    if isinstance(value, bool):
        return "yes" if value else "no"
    return value if isinstance(value, str) else f"{value:g} {unit}".rstrip()


def and_words(words: Sequence[str]) -> str:
    """ "a, b and c"; nothing of nothing."""
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} and {words[-1]}" if words else ""


def counted(n: int, noun: str, plural: str = "") -> str:
    """A number with its noun: "1 specimen", "2 specimens"; `plural` where it is not made with an s."""
    return f"{n} {noun if n == 1 else plural or f'{noun}s'}"


def in_text(label: str) -> str:
    """A label within a sentence: only its first letter is made small, so that proper names stay as they are."""
    return label[:1].lower() + label[1:]
