"""What a method is: step kinds, quantities with their good side, and typed results."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any

from assayer.core.curves.recording import Floats, Recording
from assayer.core.errors import EntryError
from assayer.core.stats.verdicts import GoodSide, Margin


class Bound(StrEnum):
    """How a value stands to the true one."""

    EXACT = "exact"
    AT_LEAST = "at_least"
    AT_MOST = "at_most"


class StepKind(StrEnum):
    """The few kinds of step that capture is built from; the front end has one part for each."""

    SECTION = "section dimensions"
    PEAK = "peak"
    CURVE = "recorded curve"


@dataclass(frozen=True, slots=True)
class Step:
    """One step of a method: what is entered there.

    `fields` maps a field's name to (label, dimension, how many readings are usual).
    """

    kind: StepKind
    fields: Mapping[str, tuple[str, str, int]]
    optional: bool = False


@dataclass(frozen=True, slots=True)
class QuantitySpec:
    """A quantity that a method yields.

    Attributes
    ----------
    unit : str
    good_side : GoodSide
    ratio_scale : bool
        Whether percentages of it make sense.
    plausible : (low, high)
        Outside this range, in `unit`, the bench asks whether the entry is right.
    """

    name: str
    label: str
    unit: str
    good_side: GoodSide
    ratio_scale: bool = True
    plausible: tuple[float, float] | None = None
    margin: Margin = field(default_factory=lambda: Margin(0.10))


@dataclass(frozen=True, slots=True)
class Shape:
    """A specimen shape (METHODS 14); lengths in mm."""

    name: str
    label: str
    width: float
    thickness: float
    gauge_length: float
    overall: float
    parallel: float
    end_width: float
    radius: float
    end_thickness: float | None = None
    """Where the ends are thicker than the section."""
    pin_hole: float = 0.0
    """Diameter of a hole through each end."""


@dataclass(frozen=True, slots=True)
class Result:
    """One derived value with its unit and what is to be said about it."""

    quantity: str
    value: float
    unit: str
    bound: Bound = Bound.EXACT
    warnings: list[str] = field(default_factory=list)

    def as_dict(self) -> dict[str, Any]:
        return {"quantity": self.quantity, "value": self.value, "unit": self.unit, "bound": str(self.bound), "warnings": self.warnings}


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

    def get(self, quantity: str) -> Result | None:
        """The result of one quantity, or None."""
        return next((r for r in self.results if r.quantity == quantity), None)

    def as_dict(self) -> dict[str, Any]:
        return {
            "method": self.method,
            "procedure_version": self.procedure_version,
            "reduction_version": self.reduction_version,
            "results": [r.as_dict() for r in self.results],
            "warnings": self.warnings,
        }


@dataclass(frozen=True, slots=True)
class Inputs:
    """What was captured of one run, in base units, ready to be reduced.

    Attributes
    ----------
    fields : mapping of field name to its readings
    recording : Recording or None
    shape : Shape
    compliance : float, mm/N
        Of the rig.
    options : mapping
        Choices the user made on this run, such as the window of the modulus.
    """

    fields: Mapping[str, Sequence[float]]
    shape: Shape
    recording: Recording | None = None
    compliance: float = 0.0
    options: Mapping[str, Any] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class CurveView:
    """A reduced curve to be drawn: y over x, and marks at x positions or windows (low, high)."""

    x: Floats
    y: Floats
    x_label: str
    x_unit: str
    y_label: str
    y_unit: str
    marks: Mapping[str, tuple[float, ...]]


@dataclass(frozen=True)
class Method(ABC):
    """A test method as the registry knows it.

    `main` is the quantity that verdicts rest on; `fractures` are the answers to "where did it break",
    each with the bound that it makes of the value.
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
    fractures: Mapping[str, tuple[str, Bound]]

    @abstractmethod
    def reduce(self, inputs: Inputs) -> Reduction:
        """Reduce one run; raises EntryError naming the field that is missing or wrong."""

    @abstractmethod
    def view(self, inputs: Inputs) -> CurveView | None:
        """The reduced curve for drawing; None if the run has none."""

    def label_for(self, orientation: str) -> str:
        """How the test is called in one orientation."""
        return self.label

    def quantity(self, name: str) -> QuantitySpec:
        """The declaration of one of its quantities."""
        return next(q for q in self.quantities if q.name == name)

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

    def dimension(self, field_name: str) -> str:
        """The dimension of one of its fields.

        Raises
        ------
        EntryError
            If the method has no such field.
        """
        for step in self.steps:
            if field_name in step.fields:
                return step.fields[field_name][1]
        raise EntryError(f"{self.label} has no field '{field_name}'", field_name)
