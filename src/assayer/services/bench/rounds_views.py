"""What rounds over a rack answer."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from assayer.core.plan.due import DueState
from assayer.services.bench.views import QueueArm, QueueItem
from assayer.services.views import OutcomeView, View


class DueView(View):
    """One reading of a schedule: when it is due, and how it stands."""

    position: int
    at: datetime
    opens: datetime
    closes: datetime
    state: DueState


class CoursePoint(View):
    """A reading that was taken: s from its event, value in the unit the rack shows."""

    id: str
    position: int
    after: float | None
    value: float


class RackEvent(View):
    """What starts a clock at a place: what is done, and that it was done, in words."""

    name: str
    begin: str
    begun: str


class AlongView(View):
    """What is read at a visit beside the reading that is due; `about` null: it is the grade of the person at the place.

    `unit` and `decimals` as the rig shows it; `grades` tells what each one from 0 means, empty where it is measured.
    """

    field: str
    label: str
    about: str | None
    unit: str
    decimals: int
    grades: list[str]
    before: bool


class AlongRead(View):
    """Which of them were read already, and at which visit."""

    field: str
    about: str
    position: int


class RackMember(View):
    """What hangs on one place; `stage` tells what comes next for it."""

    run_id: str
    specimen_id: str | None
    code: str
    position: int
    test_id: str
    load: float
    stage: Literal["hung", "loaded", "recovering"]
    field: str
    words: str
    """What is read of it now."""
    before: str | None
    before_words: str
    """What is read before the first clock runs."""
    along: list[AlongView]
    along_read: list[AlongRead]
    next_event: RackEvent | None
    """What comes once nothing is left to be read; None: its end."""
    loaded_at: datetime | None
    unloaded_at: datetime | None
    due: list[DueView]
    unloaded: float | None
    course: list[CoursePoint]
    recovery: list[CoursePoint]
    outcomes: list[OutcomeView]
    arm: QueueArm | None


class RackWaiting(View):
    """Specimens of one test that wait to be hung."""

    test_id: str
    study: str
    label: str
    load: float
    items: list[QueueItem]


class RoomView(View):
    value: float
    at: datetime


class RackView(View):
    """A rack with what hangs on it, what is due, and the room; `weights` tells frames under load from what lies in a bath."""

    method: str
    weights: bool

    rig_id: str
    rig_version_id: str
    name: str
    places: int
    unit: str
    decimals: int
    step: float
    session_id: str | None
    now: datetime
    room: RoomView | None
    usual_room: float | None
    """Mean ambient of what the tests here had before, °C."""
    room_apart: float
    """How far from it the room may be before comparisons are marked, °C."""
    next_due: datetime | None
    state: Literal["empty", "ahead", "early", "due", "late"]
    members: list[RackMember]
    waiting: list[RackWaiting]


class RackItem(View):
    """A rack or a bath in the list; `weights` as in RackView."""

    weights: bool
    rig_id: str
    rig_version_id: str
    name: str
    places: int
    hanging: int
    state: Literal["empty", "ahead", "early", "due", "late"]
    next_due: datetime | None
    closes: datetime | None
    due: int
    since: datetime | None


class RackList(View):
    items: list[RackItem]
