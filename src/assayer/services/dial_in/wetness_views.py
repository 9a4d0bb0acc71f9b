"""What is answered of wetness that was found late; the first page tells of it, and needs no more of the dial-in."""

from __future__ import annotations

from datetime import datetime

from assayer.services.views import View


class WetView(View):
    """A spool found wet late: by which trial, since when it is no longer known dry, what was printed from it since."""

    spool_id: str
    code: str
    trial_id: str
    trial_number: int
    known_dry: datetime | None
    batches: int
    trials: list[str]
    words: str
