"""What a method is: steps, outcomes, quantities, shapes, and how its runs are reduced."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any, ClassVar

from assayer.core.curves.recording import Floats
from assayer.core.errors import EntryError
from assayer.core.methods.inputs import Inputs, Settings
from assayer.core.methods.reading_steps import with_reading_steps
from assayer.core.methods.results import QuantitySpec, Reduction, Result
from assayer.core.methods.steps import Along, Field, RoundsStep, Step
from assayer.core.methods.vocabulary import Bound, SubjectKind, Validity
from assayer.core.shapes.base import Shape


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
        Where along the specimen, from 0 to 1 and the same from the other end, on any shape.
    zone : str or None
        In which part of the specimen it is, as the shape declares them; this tells the place.
    """

    name: str
    label: str
    bounds: Mapping[str, Bound] = field(default_factory=dict)
    orientations: tuple[str, ...] = ()
    place: tuple[float, float] | None = None
    zone: str | None = None
    symbol: str | None = None
    """One letter that the trade writes for it."""
    apart: bool = False
    """Whether runs that ended so are never averaged with those that ended otherwise."""
    early: bool = False
    """Whether it ends a run before all was read that is planned."""

    def occurs(self, orientation: str) -> bool:
        return not self.orientations or orientation in self.orientations

    def place_on(self, shape: Shape | None) -> tuple[float, float] | None:
        """Where along a specimen of a shape it is; None where that does not tell it."""
        return self.place if self.zone is None or shape is None else shape.zones.get(self.zone, self.place)


@dataclass(frozen=True, slots=True)
class CurveView:
    """A reduced curve to be drawn: y over x, and marks at x positions or ranges (low, high).

    `log_x` tells that the curve is better read over the logarithm of x; `points`, that the values are
    single readings; `joined`, that a line goes from one to the next. A mark whose name begins with "line" is
    a straight one: x and y of its two ends.
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
    joined: bool = True


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
    own_parts: bool = False
    """Whether it is done on parts of one's own, beside its shapes."""
    measures: str = ""
    """What it measures, in a sentence, for its card."""
    typical_cv: float = 0.06
    """How far specimens of one arm usually scatter, as a share of the mean: assumed until it was seen here."""
    typical_batch_ratio: float = 0.5
    """How far print batches of one arm usually scatter, over the scatter within them: assumed until it was seen here."""
    minutes: float = 4.0
    """At the bench, for one specimen."""
    count: int = 5
    """How many specimens of each arm its standard asks for (METHODS 17); 5 where there is none."""
    formulas: tuple[str, ...] = ()
    """Its formulas in TeX-free plain notation, for its card."""
    outcome_field: str = ""
    """How the open format calls the letter of the outcome, where a method has one."""
    protocol: ClassVar[type[Settings]] = Settings
    options: ClassVar[type[Settings]] = Settings

    @abstractmethod
    def reduce(self, inputs: Inputs) -> Reduction:
        """Reduce one run; raises EntryError naming the field that is missing or wrong."""

    def reduced(self, inputs: Inputs) -> Reduction:
        """Reduce one run, with the reading step of every result."""
        return with_reading_steps(self.reduce, inputs, self.reduce(inputs))

    def view(self, inputs: Inputs) -> CurveView | None:
        """The reduced curve for drawing; None if the run has none."""
        return None

    def nominal(self, spec: Field, about: str | None) -> float | None:
        """The length that a reading of a field should be near, where what it is of tells that; mm."""
        return None

    def procedure_of(self, protocol: Settings) -> str:
        """The procedure version of a test as it is set; where the standard depends on what is set, so does the procedure."""
        return self.procedure_version

    def after_of(self, protocol: Settings) -> str:
        """The standard that a test follows as it is set."""
        return self.after

    def main_of(self, protocol: Settings) -> str:
        """The key of the quantity that verdicts rest on, as a test is set: "mass_change@604800"."""
        return self.main

    def graded_by(self, key: str) -> str:
        """The field whose readings are what each person gave, of a quantity that is graded; "" where its results are the grades."""
        return key.partition("@")[2]

    def along(self, protocol: Settings) -> Sequence[Along]:
        """What is read at the visits of a round beside the reading that is due, as a test is set."""
        return ()

    def label_for(self, orientation: str, protocol: Mapping[str, Any] | None = None) -> str:
        """How the test is called in one orientation, as a lab has set it."""
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
        found = self._by_name.get(name)
        if found is None:
            raise EntryError(f"{self.label} has no field '{name}'", name)
        return found

    @cached_property
    def _by_name(self) -> Mapping[str, Field]:
        named: dict[str, Field] = {}
        for own in self.fields():
            named.setdefault(own.name, own)
        return named

    def step_of(self, field_name: str) -> Step:
        """The step that a field belongs to."""
        self.field(field_name)
        return next(s for s in self.steps if any(f.name == field_name for f in s.fields))

    def quantity(self, key: str) -> QuantitySpec:
        """The declaration of one of its quantities; "drift@80" is drift at a load of 80 N, labelled so, "size_change@86400@length" that of the length.

        Raises
        ------
        EntryError
            If the method has no such quantity.
        """
        name, _, at = key.partition("@")
        found = next((q for q in self.quantities if q.name == name), None)
        if found is None or bool(at) != (found.by is not None):
            raise EntryError(f"{self.label} has no quantity '{key}'", "quantity")
        at, _, about = at.partition("@")
        return replace(found, label=" ".join(filter(None, (about, found.label, at_words(found.by, float(at)))))) if at else found

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

    @property
    def in_rounds(self) -> bool:
        """Whether it is read over days, on a rack or in a bath."""
        return any(isinstance(s, RoundsStep) for s in self.steps)

    def end_apart(self, outcome: str | None) -> str:
        """How a run ended, in words, where that keeps it from being averaged with others; else empty."""
        return next((o.label for o in self.outcomes if o.apart and o.name == outcome), "")

    def commonest_end(self, ends: Iterable[str]) -> str:
        """The way of ending, of those that are told apart, that most have; of several the one declared first."""
        counted = Counter(end for end in ends if end)
        return max((o.label for o in self.outcomes if o.apart and counted[o.label]), key=lambda label: counted[label], default="")

    def has_shape(self, name: str) -> bool:
        return any(s.name == name for s in self.shapes)

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

    def outcome_at(self, outcome: str | None, place: float | None, shape: Shape | None) -> str | None:
        """The outcome whose bounds hold: that of the part of the shape where it broke, if the place (0 to 1) was recorded; else the one that was said."""
        if outcome is None or place is None or shape is None:
            return outcome
        said, zone = self.outcome(outcome).zone, shape.zone_at(place)
        if said is None or zone is None or zone == said:
            return outcome
        return next((o.name for o in self.outcomes if o.zone == zone), outcome)

    def bound_of(self, result: Result, outcome: str | None, validity: str) -> Bound:
        """How one value of a run stands to the true one.

        The outcome bounds the quantities it names. A run that a person calls a bound, bounds what any
        outcome could bound (the main quantity where none does): a modulus read before the grip gave way is exact.
        """
        named = self.outcome(outcome).bounds.get(result.quantity) if outcome else None
        if validity in (Validity.AT_LEAST, Validity.AT_MOST):
            can_be = {name for o in self.outcomes for name in o.bounds} or {self.main}
            named = Bound(validity) if result.quantity in can_be else None
        elif validity != Validity.COUNTS:
            named = None
        if named is None or result.bound is not Bound.EXACT or result.with_bound == 0:
            return result.bound
        return named if result.with_bound > 0 else named.mirrored

    def with_bounds(self, reduction: Reduction, outcome: str | None, validity: str = Validity.COUNTS) -> Reduction:
        """A reduction with the bounds that the end of its run implies, as it is shown and stored."""
        return replace(reduction, results=[replace(r, bound=self.bound_of(r, outcome, validity)) for r in reduction.results])

    def made(self, results: list[Result], warnings: list[str] | None = None) -> Reduction:
        """A reduction of this method."""
        return Reduction(self.name, self.procedure_version, self.reduction_version, results, warnings or [])


def at_words(by: str | None, at: float) -> str:
    """A load in N, or a time in s, as it is said: "at 80 N", "after 7 days"."""
    if by == "load":
        return f"at {at:g} N"
    hours = at / 3600
    if hours >= 48 and (hours / 24).is_integer():
        return f"after {hours / 24:g} days"
    if hours >= 1 or at < 60:
        return f"after {hours:.3g} h" if hours >= 1 else f"after {at:.3g} s"
    return f"after {at / 60:.3g} min"
