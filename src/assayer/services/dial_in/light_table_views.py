"""Photographs as they lie on the light table."""

from __future__ import annotations

from assayer.services.dial_in.views import DifferenceView
from assayer.services.photos.views import PhotoView
from assayer.services.views import View


class PhotoOnTable(View):
    """A photograph with what it shows; `changes` from the trial that its own started from."""

    photo: PhotoView
    what: str
    changes: list[DifferenceView]
    material: str


class LightTableView(View):
    items: list[PhotoOnTable]
