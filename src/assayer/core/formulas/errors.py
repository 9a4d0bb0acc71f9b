"""What is wrong with a formula, and where."""

from __future__ import annotations

from assayer.core.errors import EntryError


class FormulaError(EntryError):
    """A formula that cannot be read, checked or computed; `start` and `end` are the place in its text."""

    def __init__(self, message: str, start: int, end: int) -> None:
        super().__init__(message, "formula")
        self.start = start
        self.end = max(end, start)
