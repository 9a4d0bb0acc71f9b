"""What rigs show over time and against each other, as it is answered."""

from __future__ import annotations

from datetime import datetime

from assayer.core.stats.drift import DriftSignal
from assayer.services.stock.views import MaterialView
from assayer.services.views import Pair2, QuantityView, View


class DriftPoint(View):
    """The mean of the reference material in one study."""

    study_id: str
    study: str
    test_id: str
    on: str
    """The day of its last run."""
    n: int
    mean: float
    signal: DriftSignal | None


class DriftChart(View):
    """A quantity of the reference material over the studies, oldest first."""

    test: str
    orientation: str
    end: str
    """How it ended, where that is told apart; else empty."""
    quantity: QuantityView
    points: list[DriftPoint]
    centre: float | None
    """None before there are enough studies."""
    limits: Pair2 | None
    missing: int
    """Studies until there are limits."""


class RigDrift(View):
    material: MaterialView | None
    """The reference material; None where none is set."""
    charts: list[DriftChart]


class RigName(View):
    id: str
    """Of its newest version."""
    rig_id: str
    name: str


class RigMean(View):
    n: int
    mean: float
    ci95: Pair2 | None


class RigPair(View):
    """One material on both rigs; `name` tells it from others of its material."""

    material: MaterialView
    name: str
    one: RigMean
    other: RigMean
    difference: float
    """Other minus one."""


class RigLine(View):
    """Deming's line from the one rig to the other, in the quantity's unit, and where it holds."""

    slope: float
    intercept: float
    se_slope: float
    se_intercept: float
    covariance: float
    s: float
    n: int
    low: float
    high: float
    band: list[tuple[float, float, float, float]]
    """Points along it: x, predicted y, and its 95 % prediction interval."""


class ConversionView(View):
    """A line that somebody accepted, as it was then."""

    id: str
    slope: float
    intercept: float
    low: float
    high: float
    n: int
    note: str
    who: str
    accepted_at: datetime
    retracted: bool
    revision: int


class RigComparison(View):
    """One quantity, ended one way, measured alike on both rigs."""

    key: str
    test: str
    orientation: str
    quantity: QuantityView
    end: str
    """How the specimens broke, where that is told apart; else empty."""
    pairs: list[RigPair]
    agrees: bool | None
    """Whether the mean difference lies within the margin for certain (True), or beyond 0 for certain (False)."""
    mean_difference: float
    difference_ci95: Pair2 | None
    """Of the mean difference."""
    limits: Pair2 | None
    """Within which 95 % of differences lie."""
    margin: float | None
    """In the quantity's unit."""
    line: RigLine | None
    reason: str
    """Why nothing is converted; empty where a line may be accepted."""
    conversion: ConversionView | None


class RigsCompared(View):
    one: RigName
    other: RigName
    comparisons: list[RigComparison]
