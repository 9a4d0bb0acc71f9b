"""What a method is: steps, outcomes, quantities with their good side, options, and typed results."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, fields, replace
from itertools import pairwise
from typing import Any, ClassVar

import numpy as np

from assayer.core.curves.recording import Floats, Recording
from assayer.core.errors import EntryError
from assayer.core.methods.steps import Field, Step
from assayer.core.methods.vocabulary import Bound, SubjectKind, Validity
from assayer.core.shapes.base import Shape
from assayer.core.stats.groups import Interval
from assayer.core.stats.verdicts import GoodSide, Margin


@dataclass(frozen=True, slots=True)
class Outcome:
    """How a run ended.

    Attributes
    ----------
    name, label : str
    bounds : mapping of quantity to Bound
        Which values it makes bounds of the true ones; the others stay exact.
    orientations : tuple of str
        In which it can occur; empty: in all.
    place : (low, high) or None
        Where on the drawing, along the specimen from 0 to 1 and the same from the other end.
    """

    name: str
    label: str
    bounds: Mapping[str, Bound] = field(default_factory=dict)
    orientations: tuple[str, ...] = ()
    place: tuple[float, float] | None = None

    def occurs(self, orientation: str) -> bool:
        return not self.orientations or orientation in self.orientations


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
        "load" (N) or "after" (s) where the quantity exists once a load or a time.
    """

    name: str
    label: str
    unit: str
    good_side: GoodSide
    ratio_scale: bool = True
    plausible: tuple[float, float] | None = None
    of_polymer: Mapping[str, tuple[float, float]] = field(default_factory=dict)
    margin: Margin = field(default_factory=lambda: Margin(0.10))
    by: str | None = None

    def plausible_for(self, polymer: str | None) -> tuple[float, float] | None:
        """The range for one polymer; the general one where the class is not known."""
        name = (polymer or "").upper()
        known = [k for k in self.of_polymer if name.startswith(k)]
        return self.of_polymer[max(known, key=len)] if known else self.plausible


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

    @property
    def key(self) -> str:
        """Name with its load or time: "drift@80"."""
        at = self.load if self.load is not None else self.after
        return self.quantity if at is None else f"{self.quantity}@{at:.10g}"

    def as_dict(self) -> dict[str, Any]:
        """The JSON of `assayer reduce`."""
        shown: dict[str, Any] = {"quantity": self.quantity, "value": self.value, "unit": self.unit, "bound": str(self.bound), "warnings": self.warnings}
        if self.load is not None:
            shown["load"] = self.load
        if self.after is not None:
            shown["after"] = self.after
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


@dataclass(frozen=True, slots=True)
class Entry:
    """One reading: of which field, at which place, when and under which load.

    `after` in s from the event that the field counts from; `load` in N; `ambient` in °C.
    """

    field: str
    value: float
    position: int = 0
    after: float | None = None
    load: float | None = None
    ambient: float | None = None


@dataclass(frozen=True, slots=True)
class Settings:
    """Base of protocols (what a lab sets for a test) and options (what a user sets on a run)."""

    @classmethod
    def read(cls, values: Mapping[str, Any], what: str) -> Any:
        """Settings with the given values.

        Raises
        ------
        EntryError
            If a name is unknown, or a value is of another kind than its default; names it.
        """
        known = {f.name: f for f in fields(cls)}
        read: dict[str, Any] = {}
        for name, value in values.items():
            if name not in known:
                raise EntryError(f"{what} has no '{name}'" + (f": it has {', '.join(known)}" if known else ""), name)
            read[name] = tuple(float(v) for v in value) if isinstance(value, list | tuple) else value
        made = cls(**read)
        made.check()
        return made

    def check(self) -> None:
        """Refuse values that cannot be; names the field."""

    def as_dict(self) -> dict[str, Any]:
        found = {f.name: getattr(self, f.name) for f in fields(self)}
        return {name: list(value) if isinstance(value, tuple) else value for name, value in found.items() if value is not None}


def check_increasing(values: Sequence[float], name: str, label: str) -> None:
    """Refuse a ladder or a set of times that does not rise from above 0."""
    if not values:
        raise EntryError(f"{label}: at least one is needed", name)
    if not all(np.isfinite(v) and v > 0 for v in values) or any(b <= a for a, b in pairwise(values)):
        raise EntryError(f"{label} must rise and be greater than 0, but got {', '.join(f'{v:g}' for v in values)}", name)


@dataclass(frozen=True, slots=True)
class Inputs:
    """What was captured of one run, in base units and calibrated, ready to be reduced.

    Attributes
    ----------
    entries : sequence of Entry
    shape : Shape or None
    outcome : str or None
    recording : Recording or None
    compliance : float, mm/N
        Of the rig.
    geometry : mapping of name to float
        Of the rig, such as its span in mm.
    steps : mapping of field to float
        The step in which the rig shows a field, in base units.
    protocol, options : Settings or None
        None: as delivered.
    """

    entries: Sequence[Entry]
    shape: Shape | None = None
    outcome: str | None = None
    recording: Recording | None = None
    compliance: float = 0.0
    geometry: Mapping[str, float] = field(default_factory=dict)
    steps: Mapping[str, float] = field(default_factory=dict)
    protocol: Settings | None = None
    options: Settings | None = None

    def values(self, name: str) -> list[float]:
        """The readings of a field in the order of their places."""
        return [e.value for e in sorted((e for e in self.entries if e.field == name), key=lambda e: e.position)]

    def timed(self, name: str) -> list[Entry]:
        """The readings of a timed field that have a time, in the order of their times."""
        return sorted((e for e in self.entries if e.field == name and e.after is not None), key=lambda e: e.after or 0.0)

    def step(self, name: str) -> float:
        """The reading step of a field; 0 where it is not known."""
        return self.steps.get(name, 0.0)


@dataclass(frozen=True, slots=True)
class CurveView:
    """A reduced curve to be drawn: y over x, and marks at x positions or ranges (low, high).

    `log_x` tells that the curve is better read over the logarithm of x; `points`, that the values are
    single readings.
    """

    x: Floats
    y: Floats
    x_label: str
    x_unit: str
    y_label: str
    y_unit: str
    marks: Mapping[str, tuple[float, ...]]
    log_x: bool = False
    points: bool = False


@dataclass(frozen=True)
class Method(ABC):
    """A test method as the registry knows it; all that differs from method to method is declared here.

    `main` is the quantity that verdicts rest on. `needs_shape` is False where a run may have none.
    """

    name: str
    label: str
    after: str
    procedure_version: str
    reduction_version: int
    orientations: tuple[str, ...]
    shapes: tuple[Shape, ...]
    steps: tuple[Step, ...]
    quantities: tuple[QuantitySpec, ...]
    main: str
    outcomes: tuple[Outcome, ...] = ()
    subject: SubjectKind = SubjectKind.SPECIMEN
    measures: str = ""
    """What it measures, in a sentence, for its card."""
    formulas: tuple[str, ...] = ()
    """Its formulas in TeX-free plain notation, for its card."""
    protocol: ClassVar[type[Settings]] = Settings
    options: ClassVar[type[Settings]] = Settings

    @abstractmethod
    def reduce(self, inputs: Inputs) -> Reduction:
        """Reduce one run; raises EntryError naming the field that is missing or wrong."""

    def view(self, inputs: Inputs) -> CurveView | None:
        """The reduced curve for drawing; None if the run has none."""
        return None

    def label_for(self, orientation: str) -> str:
        """How the test is called in one orientation."""
        return self.label

    def fields(self) -> Iterator[Field]:
        """All its fields, in the order of the steps."""
        for step in self.steps:
            yield from step.fields

    def field(self, name: str) -> Field:
        """One of its fields.

        Raises
        ------
        EntryError
            If the method has no such field.
        """
        found = next((f for f in self.fields() if f.name == name), None)
        if found is None:
            raise EntryError(f"{self.label} has no field '{name}'", name)
        return found

    def step_of(self, field_name: str) -> Step:
        """The step that a field belongs to."""
        self.field(field_name)
        return next(s for s in self.steps if any(f.name == field_name for f in s.fields))

    def quantity(self, key: str) -> QuantitySpec:
        """The declaration of one of its quantities; "drift@80" is drift at a load of 80 N, labelled so.

        Raises
        ------
        EntryError
            If the method has no such quantity.
        """
        name, _, at = key.partition("@")
        found = next((q for q in self.quantities if q.name == name), None)
        if found is None or bool(at) != (found.by is not None):
            raise EntryError(f"{self.label} has no quantity '{key}'", "quantity")
        return replace(found, label=f"{found.label} {_at_words(found.by, float(at))}") if at else found

    def outcome(self, name: str) -> Outcome:
        """One of its outcomes.

        Raises
        ------
        EntryError
            If the method has no such outcome.
        """
        found = next((o for o in self.outcomes if o.name == name), None)
        if found is None:
            raise EntryError(f"{self.label} has no outcome '{name}': choose one of {', '.join(o.name for o in self.outcomes)}", "outcome")
        return found

    def shape(self, name: str) -> Shape:
        """One of its shapes by name.

        Raises
        ------
        EntryError
            If the method has no such shape.
        """
        found = next((s for s in self.shapes if s.name == name), None)
        if found is None:
            raise EntryError(f"{self.label} has no shape '{name}': choose one of {', '.join(s.name for s in self.shapes)}", "shape")
        return found

    def bound_of(self, result: Result, outcome: str | None, validity: str) -> Bound:
        """How one value of a run stands to the true one.

        The outcome bounds the quantities it names. A run that a person calls a bound, bounds what any
        outcome could bound (the main quantity where none does): a modulus read before the grip gave way is exact.
        """
        named = self.outcome(outcome).bounds.get(result.quantity) if outcome else None
        if validity in (Validity.AT_LEAST, Validity.AT_MOST):
            can_be = {name for o in self.outcomes for name in o.bounds} or {self.main}
            if result.quantity not in can_be:
                return result.bound
            return Bound(validity) if result.bound is Bound.EXACT else result.bound
        if named is not None and result.bound is Bound.EXACT and validity == Validity.COUNTS:
            return named
        return result.bound

    def made(self, results: list[Result], warnings: list[str] | None = None) -> Reduction:
        """A reduction of this method."""
        return Reduction(self.name, self.procedure_version, self.reduction_version, results, warnings or [])


def need(inputs: Inputs, spec: Field) -> list[float]:
    """The readings of a field, checked; its default, or the rig's geometry, where none was entered.

    Raises
    ------
    EntryError
        If fewer than are needed were entered, or a value is not finite or of the wrong sign; names the field.
    """
    values = inputs.values(spec.name)
    if not values and spec.from_rig is not None and spec.from_rig in inputs.geometry:
        values = [inputs.geometry[spec.from_rig]]
    if not values and spec.default is not None:
        return [spec.default]
    if len(values) < spec.needed:
        count = "at least one reading is" if spec.needed == 1 else f"at least {spec.needed} readings are"
        raise EntryError(f"{spec.label}: {count} needed", spec.name)
    for value in values:
        if not np.isfinite(value):
            raise EntryError(f"{spec.label} must be a finite number, but got {value:g}", spec.name)
        spec.check(value)
    return values


def _at_words(by: str | None, at: float) -> str:
    if by == "load":
        return f"at {at:g} N"
    hours = at / 3600
    return f"after {hours:g} h" if hours >= 0.1 else f"after {at:g} s"
