"""What plans of studies answer: what they lack, what they can detect and what they take."""

from __future__ import annotations

from assayer.services.views import View


class ShortcomingView(View):
    """One thing that a plan lacks: what it costs the conclusion, and how to fix it."""

    name: str
    blocking: bool
    text: str
    costs: str
    fix: str


class ProblemView(View):
    """What prevents an answer, in words."""

    text: str
    arm_ids: list[str]
    """The arms whose verdict against the reference it affects: it belongs next to each of these."""


class FairnessView(View):
    study_id: str
    revision: int
    printed: bool
    """Whether it was looked at as printed, or as planned."""
    items: list[ShortcomingView]


class BatchOption(View):
    """How many specimens of each detect the target, printed in so many batches of each; null: more than 50.

    In one batch it is detected in these prints: scatter between batches is in no interval.
    """

    batches: int
    needed: int | None


class PowerRow(View):
    """What specimens of one test can detect. Shares of the mean; `detectable[i]` is what i + 2 of each detect, null where there are more batches."""

    test_id: str
    label: str
    orientation: str
    replicates: int
    cv: float
    scatter_specimens: int
    """Specimens that the scatter was observed on; 0: it is assumed."""
    margin: float | None
    target: float | None
    """The difference to be detected: its own, or the margin where none is set."""
    target_set: bool
    needed: int | None
    """Of each, for the target, in the batches that are planned; null: more than 50."""
    by_batches: list[BatchOption]
    detectable: list[float | None]
    batch_ratio: float
    """Scatter between batches over that within them."""
    batch_df: int
    """Degrees of freedom between batches that the ratio was observed on; 0: it is assumed."""
    minutes: float
    volume_each: float
    """cm³ of one specimen."""
    mass_each: list[float | None]
    """Of one specimen, g, arm by arm; null where the density is not known."""
    places: int | None
    """On all racks that do it; null where specimens are not left on one."""
    days_each: float
    """How long one stays there."""


class SpoolNeed(View):
    """What an arm still takes of filament, beside what is left."""

    arm_id: str
    mark: str
    volume: float
    """cm³"""
    mass: float | None
    left: float | None
    price: float | None


class PowerView(View):
    study_id: str
    revision: int
    comparisons: int
    """With the reference; the intervals of all hold together."""
    batches: int
    """In which each arm is printed."""
    rows: list[PowerRow]
    needs: list[SpoolNeed]
    rate: float
    """mm³/s that print hours are reckoned with."""
    rate_files: int
    """How many files of its plates say so; 0: a usual one."""


class DesignView(View):
    """Runs as values of each setting, in the order asked; each once, since replicates are planned with the tests."""

    runs: list[list[float]]
    aliases: list[str]
    """Effects that share one contrast: 'fan = nozzle × flow'."""
