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
        └── DamagedError        what lies in it cannot be read through

The outer layers turn these into HTTP answers or a line on stderr in one place each.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
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


@dataclass(frozen=True, slots=True)
class Question:
    """One question about one entry.

    Attributes
    ----------
    key : str
        Names the entry and its value: a confirmation holds for this value only.
    field : str
    text : str
        What is odd, and what is asked.
    likely : str or None
        What to enter instead, as it would be typed.
    may_confirm : bool
        Whether the entry may stand as it is.
    row : int or None
    confirm : str or None
        What letting it stand is called; None: it is right as entered.
    """

    key: str
    field: str
    text: str
    likely: str | None = None
    may_confirm: bool = True
    row: int | None = None
    confirm: str | None = None


class QuestionError(EntryError):
    """Entries that are hardly meant as they stand; nothing is kept until each of `questions` is answered."""

    def __init__(self, questions: Sequence[Question]) -> None:
        first = questions[0]
        super().__init__("; ".join(q.text for q in questions), first.field, first.row)
        self.questions = list(questions)


class FileError(AssayerError):
    """A file cannot be used; `line` counts from 1."""

    def __init__(self, message: str, line: int | None = None) -> None:
        super().__init__(message if line is None else f"line {line}: {message}")
        self.message = message
        self.line = line


@dataclass(frozen=True, slots=True)
class FileQuestion:
    """What is not certain about a file: a role or a unit, of which column (from 1), and what it may be."""

    about: str
    column: int | None
    text: str
    choices: Sequence[str | int]


@dataclass(frozen=True, slots=True)
class FileColumn:
    """A column as understood: its place from 1, its role ("skip" leaves it out), its unit."""

    index: int
    role: str
    unit: str | None


@dataclass(frozen=True, slots=True)
class FilePreview:
    """What was understood of a file, and its first rows, to be shown."""

    encoding: str
    delimiter: str
    decimal: str
    first_line: int
    signature: str
    header: Sequence[str]
    columns: Sequence[FileColumn]
    rows: Sequence[Sequence[str]]


class UnclearFileError(FileError):
    """The file is readable, but something about it is not certain and has to be asked."""

    def __init__(self, message: str, questions: Sequence[FileQuestion], preview: FilePreview) -> None:
        super().__init__(message)
        self.questions = list(questions)
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


class DamagedError(DataFolderError):
    """The data are damaged or incomplete; nothing is written into them."""
