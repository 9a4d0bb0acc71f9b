"""What the use cases of parts answer with."""

from __future__ import annotations

from datetime import datetime

from assayer.services.parts.requests import PlaceKind, SeenFrom
from assayer.services.views import Pair2, StandingView, View


class PartPlaceView(View):
    """A place on a part: mm of a view, as the outlines have them."""

    id: str
    kind: PlaceKind
    label: str
    view: SeenFrom
    u: float
    v: float
    nominal: float | None


class PartViews(View):
    """Closed outlines, mm, holes among them: from above (x, y), from the front (x, z), from the side (y, z)."""

    top: list[list[Pair2]]
    front: list[list[Pair2]]
    side: list[list[Pair2]]


class PartView(View):
    """A part of one's own; lengths in mm, volume in cm³."""

    id: str
    name: str
    note: str
    file_name: str
    unit: str
    objects: int
    length: float
    width: float
    height: float
    volume: float
    triangles: int
    views: PartViews
    standings: list[StandingView]
    places: list[PartPlaceView]
    tests: int
    """In how many tests of studies it is the shape."""
    who: str
    added_at: datetime
    revision: int
    retracted: bool


class PartList(View):
    items: list[PartView]
