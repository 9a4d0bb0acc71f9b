"""What a reduction yields: quantities as they are declared, and typed results."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from assayer.core.methods.vocabulary import Bound
from assayer.core.stats.groups import Interval
from assayer.core.stats.verdicts import GoodSide, Margin


@dataclass(frozen=True, slots=True)
class QuantitySpec:
    """A quantity that a method yields.

    Attributes
    ----------
    name, label, unit : str
    good_side : GoodSide
    ratio_scale : bool
        Whether percentages of it make sense.
    plausible : (low, high) or None
        Outside this range, in `unit`, the bench asks whether the entry is right.
    of_polymer : mapping of polymer class to (low, high)
        Narrower ranges, by what the polymer class can be (the longest name that the polymer begins with).
    margin : Margin
        Smallest difference that matters, unless a test sets another.
    by : str or None
        "load" (N), "after" (s) or "trait" where the quantity exists once a load, a time or a trait.
    target : float
        What its values should be near, where the good side is NEAR.
    graded : bool
        Whether its values are grades: compared by their ranks, without margin and without equivalence.
    placed : bool
        Whether it is a mean place in the orders of several people, whose agreement is told.
    starts : str
        The quantity that tells when it begins to count, such as the time of the first reading; values whose starts differ by more than
        a factor of 2 are not comparable; "" where it always counts from the same.
    else_by : str
        The quantity that is compared instead where the starts differ.
    of_piece : bool
        Whether it is the mass of one piece: how many a spool gives, and what one costs, follows from it.
    """

    name: str
    label: str
    unit: str
    good_side: GoodSide
    ratio_scale: bool = True
    plausible: tuple[float, float] | None = None
    of_polymer: Mapping[str, tuple[float, float]] = field(default_factory=dict)
    margin: Margin = field(default_factory=lambda: Margin(0.10))
    of_piece: bool = False
    by: str | None = None
    target: float = 0.0
    graded: bool = False
    placed: bool = False
    starts: str = ""
    else_by: str = ""

    def plausible_for(self, polymer: str | None) -> tuple[float, float] | None:
        """The range for one polymer; the general one where the class is not known."""
        name = (polymer or "").upper()
        known = [k for k in self.of_polymer if name.startswith(k)]
        return self.of_polymer[max(known, key=len)] if known else self.plausible


_APART = 2.0
"""Factor by which the times may differ from which quantities begin to count (METHODS 6)."""


def unlike_starts(starts: Sequence[float]) -> bool:
    """Whether values begin to count at times, in s, that differ by more than a factor of 2."""
    return bool(starts) and max(starts) > _APART * min(starts)


def at_order(key: str) -> tuple[float, str]:
    """What keys of one quantity are sorted by: the load or time behind the "@", then the words there."""
    at, _, about = key.partition("@")[2].partition("@")
    try:
        return float(at or 0.0), about
    except ValueError:
        return 0.0, at


@dataclass(frozen=True, slots=True)
class Result:
    """One derived value with its unit and what is to be said about it.

    Attributes
    ----------
    load : float or None, N
    after : float or None, s
        Where the quantity exists once a load or a time.
    interval : Interval or None
        95 % interval, where one run alone yields one.
    reading_step : float
        The step of the readings, carried through to the quantity; s² of a group is at least r²/12.
    provisional : bool
        Whether readings still to come may change it; it does not count yet.
    with_bound : int
        Whether it rises (1) or falls (−1) as the reading that a bound is of rises; 0: it does not depend on it.
    """

    quantity: str
    value: float
    unit: str
    bound: Bound = Bound.EXACT
    warnings: list[str] = field(default_factory=list)
    load: float | None = None
    after: float | None = None
    interval: Interval | None = None
    reading_step: float = 0.0
    provisional: bool = False
    about: str | None = None
    """The trait, or with a time the dimension, where the quantity exists once for each."""
    with_bound: int = 1

    @property
    def key(self) -> str:
        """Name with its load or time, and what it is of: "drift@80", "size_change@86400@length"."""
        at = self.load if self.load is not None else self.after
        parts = [self.quantity, *([] if at is None else [f"{at:.10g}"]), *([] if self.about is None else [self.about])]
        return "@".join(parts)

    def as_dict(self) -> dict[str, Any]:
        """The JSON of `assayer reduce`."""
        shown: dict[str, Any] = {"quantity": self.quantity, "value": self.value, "unit": self.unit, "bound": str(self.bound), "warnings": self.warnings}
        if self.load is not None:
            shown["load"] = self.load
        if self.after is not None:
            shown["after"] = self.after
        if self.about is not None:
            shown["trait" if self.after is None else "of"] = self.about
        if self.interval is not None:
            shown["interval"] = [self.interval.low, self.interval.high]
        return shown


@dataclass(frozen=True, slots=True)
class Reduction:
    """All that a reduction yields.

    `procedure_version` decides comparability; `reduction_version` names our code.
    """

    method: str
    procedure_version: str
    reduction_version: int
    results: list[Result]
    warnings: list[str] = field(default_factory=list)

    def get(self, key: str) -> Result | None:
        """The result of one quantity ("strength", "drift@80"), or None."""
        return next((r for r in self.results if r.key == key), None)

    def as_dict(self) -> dict[str, Any]:
        """The JSON of `assayer reduce`."""
        return {
            "method": self.method,
            "procedure_version": self.procedure_version,
            "reduction_version": self.reduction_version,
            "results": [r.as_dict() for r in self.results],
            "warnings": self.warnings,
        }
