"""Doubts as they are answered, and what was decided on them."""

from __future__ import annotations

from datetime import datetime
from enum import StrEnum
from typing import Literal

from assayer.services.studies.views import StudyRef
from assayer.services.views import View


class DoubtKind(StrEnum):
    """What makes a result doubtful."""

    OUTLIER = "outlier"
    BOUND = "bound above a mean"
    ENDS = "mixed ways of breaking"
    HAMMER = "hammer out of range"
    CALIBRATION = "calibration overdue"
    ROOM = "room out of limits"
    CIRCUMSTANCES = "unlike circumstances"
    BATCH = "batch unlike the others"
    HISTORY = "unlike earlier results"
    COLOUR = "unlike another colour"
    BREAK_PLACE = "breaks at one place"
    CLAIM = "claim contradicted"
    DRIFT = "rig drifts"
    PROVISIONAL = "ranking on a provisional difference"


class DoubtSpecimen(View):
    run_id: str
    specimen_id: str | None
    code: str


class DecisionView(View):
    """A note that settles a doubt, or specimens that were added to test again."""

    id: str
    kind: Literal["note", "retest"]
    note: str
    who: str
    decided_at: datetime
    to_test: int
    """Specimens that were added."""
    tested: int
    """Of these."""
    revision: int


class DoubtView(View):
    """Something that someone should decide on."""

    key: str
    """Its kind and what it is about: what decisions refer to."""
    kind: DoubtKind
    text: str
    """The evidence."""
    remedy: str
    """What could settle it."""
    test_id: str | None
    """None where it is about all tests of the study."""
    test: str
    arm_ids: list[str]
    """Whose results are in doubt; empty: everything of the test, or of the study."""
    names: list[str]
    """Of these arms."""
    specimens: list[DoubtSpecimen]
    retest_arm_ids: list[str]
    """Of which further specimens would say more."""
    further: int
    """How many of each are proposed."""
    material_id: str | None
    rig_id: str | None
    spool_id: str | None
    """The spool to dry, where moisture may be the cause."""
    state: Literal["open", "retest", "settled"]
    """Being tested again, it is neither open nor settled; it is open again where it remains after that."""
    decision: DecisionView | None
    """The last one on this evidence."""


class DoubtsView(View):
    study: StudyRef
    doubts: list[DoubtView]
    """The open ones first."""
