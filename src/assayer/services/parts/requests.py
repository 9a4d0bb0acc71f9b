"""What the use cases of parts are told."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from assayer.services.requests import Id, Name, Real, Request, Words

DrawnIn = Literal["mm", "cm", "m", "in"]
PlaceKind = Literal["grade", "measure", "load"]
SeenFrom = Literal["top", "front", "side"]

_Along = Annotated[Real, Field(ge=-1000, le=1000)]


class PlaceIn(Request):
    """A place on a part, at (u, v) in mm of a view: across from its middle, and up from its middle or, seen from the front or side, from the bed.

    `nominal` in mm where it is measured.
    """

    id: Id
    kind: PlaceKind
    label: Name
    view: SeenFrom
    u: _Along
    v: _Along
    nominal: Annotated[Real, Field(gt=0, le=1000)] | None = None


class PartEdit(Request):
    """What is changed of a part; places are given whole, in their order."""

    name: Name | None = None
    note: Words | None = None
    places: Annotated[list[PlaceIn], Field(max_length=40)] | None = None
