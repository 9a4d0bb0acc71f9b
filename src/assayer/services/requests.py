"""What the requests of all areas are made of, checked on the way in."""

from __future__ import annotations

import unicodedata
from datetime import date, datetime
from typing import Annotated

from pydantic import AfterValidator, AwareDatetime, BaseModel, BeforeValidator, ConfigDict, Field, Strict, StringConstraints

Real = Annotated[float, Strict()]
Whole = Annotated[int, Strict()]
Flag = Annotated[bool, Strict()]
"""Numbers and flags as JSON has them: a number in quotes, or a yes where a number belongs, is a mistake of the sender."""

Id = Annotated[str, StringConstraints(pattern=r"^[0-9a-f]{8}-[0-9a-f]{4}-7[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$")]
"""UUIDv7, lower case."""


def printable(text: str) -> str:
    if any(ord(c) < 32 or 0xD800 <= ord(c) < 0xE000 for c in text):
        raise ValueError("control characters are not allowed")
    # zero-width characters and the like: a name of them alone is an empty one
    if text and all(unicodedata.category(c)[0] in "CZ" for c in text):
        raise ValueError("there is nothing in it that can be seen")
    return text


def _within_reason(at: datetime) -> datetime:
    if not 1900 <= at.year < 2200:
        raise ValueError("a date from 1900 to 2199 is meant")
    return at


def _written(value: object) -> object:
    if isinstance(value, int | float):
        raise ValueError("a date is written, such as 2026-05-01")
    return value


Day = Annotated[date, BeforeValidator(_written)]
"""A day as it is written; a plain number is none."""

Instant = Annotated[AwareDatetime, BeforeValidator(_written), AfterValidator(_within_reason)]
"""An instant with its zone, of a year that anybody lives in: at the ends of time zones cannot be reckoned."""


Name = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=80), AfterValidator(printable)]


Words = Annotated[str, StringConstraints(strip_whitespace=True, max_length=200), AfterValidator(printable)]


Zone = Annotated[str, StringConstraints(min_length=1, max_length=64, pattern=r"^[A-Za-z0-9_+/-]+$")]


class Request(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


Short = Annotated[str, StringConstraints(strip_whitespace=True, max_length=80), AfterValidator(printable)]


Text = Annotated[str, StringConstraints(strip_whitespace=True, max_length=2000)]


Raw = Annotated[str, StringConstraints(strip_whitespace=True, max_length=80), AfterValidator(printable)]
"""A number as typed, with its unit if one was typed."""


def _of_our_time(at: datetime) -> datetime:
    if not 2000 <= at.year <= 2200:
        raise ValueError("the year lies outside 2000 … 2200")
    return at


Moment = Annotated[AwareDatetime, BeforeValidator(_written), AfterValidator(_of_our_time)]


Confirmed = Annotated[
    list[Annotated[str, StringConstraints(max_length=120)]], Field(max_length=100, description="keys of questions that were answered: it stands as entered")
]


Positive = Annotated[Real, Field(gt=0, le=1e4)]
