"""What a reduction yields: quantities as they are declared, and typed results."""

from __future__ import annotations

from collections.abc import Mapping
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

    def plausible_for(self, polymer: str | None) -> tuple[float, float] | None:
        """The range for one polymer; the general one where the class is not known."""
        name = (polymer or "").upper()
        known = [k for k in self.of_polymer if name.startswith(k)]
        return self.of_polymer[max(known, key=len)] if known else self.plausible


def at_order(key: str) -> tuple[float, str]:
    """What keys of one quantity are sorted by: the load or time behind the "@", else the words there."""
    at = key.partition("@")[2]
    try:
        return float(at or 0.0), ""
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
    """The trait, where the quantity exists once a trait."""
    with_bound: int = 1

    @property
    def key(self) -> str:
        """Name with its load or time: "drift@80"."""
        if self.about is not None:
            return f"{self.quantity}@{self.about}"
        at = self.load if self.load is not None else self.after
        return self.quantity if at is None else f"{self.quantity}@{at:.10g}"

    def as_dict(self) -> dict[str, Any]:
        """The JSON of `assayer reduce`."""
        shown: dict[str, Any] = {"quantity": self.quantity, "value": self.value, "unit": self.unit, "bound": str(self.bound), "warnings": self.warnings}
        if self.load is not None:
            shown["load"] = self.load
        if self.after is not None:
            shown["after"] = self.after
        if self.about is not None:
            shown["trait"] = self.about
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
