"""The exceptions that a person may cause, and what each carries.

    AssayerError                what was wrong, and what to do about it
    ├── EntryError              a value that was typed or sent: names the `field`
    │   ├── CodeError           a specimen code that cannot be right
    │   └── QuestionError       entries that are hardly meant as typed: carries the questions
    ├── FileError               a file that cannot be read: names the `line` where there is one
    │   ├── TooLargeError       more bytes or rows than are read
    │   └── UnclearFileError    readable, but not certain: carries the questions to ask
    ├── MissingError            the thing asked for does not exist
    ├── ConflictError           the change does not fit what is there: carries the current state
    │   └── StaleError          the edit was made against an older state than the current one
    └── DataFolderError         the data folder cannot be used

The outer layers turn these into HTTP answers or a line on stderr in one place each.
"""

from __future__ import annotations

from typing import Any


class AssayerError(ValueError):
    """Base of every error whose words are meant for the user."""


class EntryError(AssayerError):
    """A typed or sent value is wrong.

    Parameters
    ----------
    message : str
        What is wrong and what would be right.
    field : str, optional
        Name of the field, as the form or the API calls it.
    row : int, optional
        Row number, from 1, where the value came from a table.
    """

    def __init__(self, message: str, field: str | None = None, row: int | None = None) -> None:
        super().__init__(message)
        self.message = message
        self.field = field
        self.row = row


class CodeError(EntryError):
    """A human code with a wrong length, symbol or check character."""


class QuestionError(EntryError):
    """Entries that are hardly meant as they stand; nothing is kept until each is answered.

    Attributes
    ----------
    questions : list of dict
        One entry a question: ``{"key", "field", "row", "text", "likely", "may_confirm"}``; `likely` is what to
        type instead (or None), `may_confirm` tells whether the entry may stand once confirmed by its key.
    """

    def __init__(self, questions: list[dict[str, Any]]) -> None:
        first = questions[0]
        super().__init__("; ".join(q["text"] for q in questions), first["field"], first["row"])
        self.questions = questions


class FileError(AssayerError):
    """A file cannot be used; `line` counts from 1."""

    def __init__(self, message: str, line: int | None = None) -> None:
        super().__init__(message if line is None else f"line {line}: {message}")
        self.message = message
        self.line = line


class UnclearFileError(FileError):
    """The file is readable, but something about it is not certain and has to be asked.

    Attributes
    ----------
    questions : list of dict
        One entry a question: ``{"about", "column", "text", "choices"}``.
    preview : dict
        What was understood so far (delimiter, decimal mark, header, first rows).
    """

    def __init__(self, message: str, questions: list[dict[str, Any]], preview: dict[str, Any]) -> None:
        super().__init__(message)
        self.questions = questions
        self.preview = preview


class MissingError(AssayerError):
    """The thing asked for does not exist."""


class ConflictError(AssayerError):
    """The change does not fit what is there already."""

    def __init__(self, message: str, current: Any = None) -> None:
        super().__init__(message)
        self.current = current


class StaleError(ConflictError):
    """The edit was made against a state that is no longer current."""


class TooLargeError(FileError):
    """More bytes or rows than are read."""


class DataFolderError(AssayerError):
    """The data folder cannot be used (full disk, no permission, made by a newer version)."""
