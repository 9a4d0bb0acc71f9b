"""Quantities derived from two means, on one path: of two tests of one arm, or of an arm and its control; compared as logs (METHODS 2, 11)."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

from assayer.core.errors import EntryError
from assayer.core.methods.vocabulary import Bound, Orientation
from assayer.core.stats.groups import GroupSummary
from assayer.core.stats.ratios import RatioOfMeans, ratio_of_means
from assayer.core.stats.verdicts import GoodSide, GroupBounds, Margin


@dataclass(frozen=True, slots=True)
class TestFacts:
    """What decides whether two tests of an arm belong together."""

    __test__ = False
    method: str
    orientation: str
    shape: str
    protocol: str = ""


@dataclass(frozen=True, slots=True)
class Derived:
    """A ratio of two means of one quantity; it belongs to the test above the line.

    Attributes
    ----------
    method, quantity : str
        Of both tests.
    above, below : predicates on TestFacts
        Which test stands above the line and which below; in all else the two must be equal.
    of_controls : bool
        Below the line stands, in the same test, what was not treated; `method` and `quantity` are any test's and its main one.
    """

    name: str
    label: str
    method: str
    quantity: str
    above: Callable[[TestFacts], bool]
    below: Callable[[TestFacts], bool]
    good_side: GoodSide = GoodSide.HIGHER
    unit: str = "1"
    margin: Margin = field(default_factory=lambda: Margin(0.10))
    of_controls: bool = False

    def pairs(self, above: TestFacts, below: TestFacts) -> bool:
        """Whether these two tests make the ratio."""
        alike = (above.method, above.shape, above.protocol) == (below.method, below.shape, below.protocol)
        return not self.of_controls and alike and above.method == self.method and self.above(above) and self.below(below)

    def ratio(self, above: GroupSummary, below: GroupSummary, denominator: str = "") -> RatioOfMeans | None:
        """The ratio with its interval on the log scale; None where a mean is not above 0. `denominator` names the mean below the line."""
        try:
            return ratio_of_means(above, below, denominator)
        except EntryError:
            return None


def bound_of_mean(bounds: GroupBounds) -> Bound:
    """How a mean, with bounds treated as exact, stands to the true one; exact too where bounds pull it both ways."""
    if (bounds.at_least > 0) == (bounds.at_most > 0):
        return Bound.EXACT
    return Bound.AT_LEAST if bounds.at_least else Bound.AT_MOST


def bound_of_ratio(above: GroupBounds, below: GroupBounds) -> Bound:
    """A lower bound above the line makes the ratio at least, one below it at most; both ways: it may lie anywhere, and its own value is shown."""
    may_rise = above.at_least > 0 or below.at_most > 0
    may_fall = above.at_most > 0 or below.at_least > 0
    if may_rise == may_fall:
        return Bound.EXACT
    return Bound.AT_LEAST if may_rise else Bound.AT_MOST


LAYER_RATIO = Derived(
    name="layer_ratio",
    label="layer ratio",
    method="tension",
    quantity="strength",
    above=lambda t: t.orientation == Orientation.UPRIGHT,
    below=lambda t: t.orientation == Orientation.FLAT,
)
"""Mean upright / mean flat strength of the same material, settings and section; ratios are compared with the margin ln 1.10."""

RETENTION = Derived(name="retention", label="retention", method="", quantity="", above=lambda t: True, below=lambda t: True, of_controls=True)
"""Mean after a treatment / mean of the same material and settings without it, in one test (METHODS 11): a ratio of two arms."""

DERIVED: dict[str, Derived] = {d.name: d for d in (LAYER_RATIO, RETENTION)}
