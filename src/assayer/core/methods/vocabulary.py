"""Words that methods, services and pages share; declared once, sent to the browser."""

from __future__ import annotations

from enum import StrEnum


class Bound(StrEnum):
    """How a value stands to the true one."""

    EXACT = "exact"
    AT_LEAST = "at_least"
    AT_MOST = "at_most"

    @property
    def mirrored(self) -> Bound:
        """Of what falls as the bounded value rises."""
        return {Bound.AT_LEAST: Bound.AT_MOST, Bound.AT_MOST: Bound.AT_LEAST}.get(self, self)


class Validity(StrEnum):
    """Whether a run counts (METHODS 0)."""

    COUNTS = "counts"
    AT_LEAST = "at_least"
    AT_MOST = "at_most"
    LEFT_OUT = "left_out"


class Orientation(StrEnum):
    """How a specimen lay on the bed."""

    FLAT = "flat"
    ON_EDGE = "on edge"
    UPRIGHT = "upright"


class SubjectKind(StrEnum):
    """What a run is of."""

    SPECIMEN = "specimen"
    BATCH = "batch"
    TRIAL = "trial"
    BAND = "band"
    ARM = "arm"


class Sign(StrEnum):
    """Which values a field may take."""

    ABOVE_ZERO = "above zero"
    ZERO_ALLOWED = "zero allowed"
    EITHER = "either"


class StepKind(StrEnum):
    """The few kinds of step that capture is built from; the front end has one part for each."""

    SECTION = "section"
    PEAK = "peak"
    RECORDING = "recording"
    TIMED_LOADS = "timed loads"
    ROUNDS = "rounds"
    RAMP = "ramp"
    SWING = "swing"
    CORNERS = "corners"
    FEATURES = "features"
    BEFORE_AFTER = "before and after"
    WEIGHING = "weighing"
    TWIST = "twist"
    USE = "use"
    GRADES = "grades"
    ORDER = "order"
    PLAIN = "plain"


OTHER = "other"
LEFT_OUT_REASONS = ("void or defect", "slipped", "misprinted", "damaged in handling", "instrument fault", OTHER)
"""Why a run may be left out; what is none of the others is kept as "other: …"."""
