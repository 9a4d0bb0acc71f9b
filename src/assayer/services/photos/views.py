"""What photographs answer."""

from __future__ import annotations

from datetime import datetime

from assayer.services.photos.requests import SubjectKind
from assayer.services.views import View


class PhotoView(View):
    """A photograph; its picture and its small copy have addresses of their own. `scale` in mm a pixel."""

    id: str
    subject_kind: SubjectKind
    subject_id: str
    band: int | None
    width: int
    height: int
    caption: str
    scale: float | None
    added_at: datetime
    who: str
    revision: int


class PhotoList(View):
    items: list[PhotoView]
