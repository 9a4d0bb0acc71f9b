"""What is said of backups and of the check."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from assayer.services.views import View


class BackupItem(View):
    name: str
    made_at: datetime
    size: int
    nightly: bool


class JobView(View):
    """What is being done, or how the last one ended."""

    kind: Literal["backup", "check"]
    what: str
    share: float
    state: Literal["running", "done", "failed"]
    words: str


class Safekeeping(View):
    folder: str
    same_disk: bool
    last_good: datetime | None
    stale: bool
    backups: list[BackupItem]
    job: JobView | None


class Fault(View):
    """Something that does not hold together: what is wrong, what is whole, what to do."""

    about: Literal["database", "references", "recordings", "results"]
    text: str
    advice: str


class CheckReport(View):
    faults: list[Fault]
    notes: list[str]
    rows: int
    recordings: int
    runs: int
