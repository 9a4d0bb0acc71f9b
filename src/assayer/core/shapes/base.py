"""What a specimen shape is (METHODS 14): named lengths in mm, a solid body, a volume, and the lengths that entries are held against."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Mapping
from dataclasses import dataclass, fields, replace
from math import isfinite
from typing import Any, Self

from assayer.core.errors import EntryError

LONGEST = 1000.0
"""mm; no length of a shape is greater."""


@dataclass(frozen=True, slots=True)
class NumberPlace:
    """Where a number may be sunk into the upper face without weakening: its middle, and the room there is, mm."""

    x: float
    y: float
    room: float
    tall: float


FEATURE_KINDS = ("outer", "inner", "centre")
"""Measured over the outside, inside a hole, between two middles (METHODS 10)."""


@dataclass(frozen=True, slots=True)
class Feature:
    """A feature of known size: its kind, its nominal length, and the ends of that length as the shape lies flat, mm."""

    kind: str
    nominal: float
    start: tuple[float, float] = (0.0, 0.0)
    end: tuple[float, float] = (0.0, 0.0)

    @property
    def name(self) -> str:
        """How readings name it: "outer 20"."""
        return f"{self.kind} {self.nominal:.10g}"

    @classmethod
    def parse(cls, name: str) -> Feature:
        """A feature by its name.

        Raises
        ------
        EntryError
            If the kind is unknown, or the length no length.
        """
        kind, _, size = name.partition(" ")
        try:
            nominal = float(size)
        except ValueError:
            nominal = 0.0
        if kind not in FEATURE_KINDS:
            raise EntryError(f"a feature is {', '.join(FEATURE_KINDS[:-1])} or {FEATURE_KINDS[-1]}, but got '{kind}'", "features")
        if not (isfinite(nominal) and 0 < nominal <= LONGEST):
            raise EntryError(f"the size of a feature must lie between 0 and {LONGEST:g} mm, but got '{size}'", "features")
        return cls(kind, nominal)


@dataclass(frozen=True, slots=True)
class Shape(ABC):
    """A specimen shape; every number of a family is a length in mm, angles aside.

    Attributes
    ----------
    name : str
        How it is kept.
    label : str
        How it is called.
    """

    name: str
    label: str

    @property
    @abstractmethod
    def family(self) -> str:
        """The file it belongs to; the front end has one drawing for each."""

    @property
    @abstractmethod
    def volume(self) -> float:
        """Volume of the solid body, cm³."""

    @abstractmethod
    def body(self) -> Any:
        """The body as it lies flat: along x, about x = y = 0, on z = 0, mm."""

    @property
    def dimensions(self) -> dict[str, float]:
        """Its lengths by name, mm; those that it does not have are left out."""
        own = {f.name: getattr(self, f.name) for f in fields(self)}
        return {name: float(value) for name, value in own.items() if isinstance(value, int | float) and not isinstance(value, bool)}

    @property
    def nominals(self) -> dict[str, float]:
        """The lengths that readings are held against: its own, and those that follow from them."""
        return self.dimensions

    @property
    def zones(self) -> dict[str, tuple[float, float]]:
        """Where its parts lie along it, by name, from 0 at either end to 0.5 in the middle; empty where it does not matter where it breaks."""
        return {}

    def zone_at(self, place: float) -> str | None:
        """The part in which a place lies, from 0 at one end to 1 at the other; None where it has no zones."""
        near = min(place, 1 - place)
        return next((name for name, (low, high) in self.zones.items() if low <= near <= high), None)

    @property
    def strain_lengths(self) -> dict[str, float]:
        """The lengths, mm, that travel is divided by: effective and between the grips; empty where it is not pulled."""
        return {}

    @property
    def gauge(self) -> float | None:
        """The length between the marks of its gauge section; None where it has none."""
        return None

    @property
    def flat_only(self) -> bool:
        """Whether it says nothing unless it is printed flat."""
        return False

    @property
    def features(self) -> tuple[Feature, ...]:
        """Its features of known size, in the order they are measured; most shapes have none but their section."""
        return ()

    @property
    def number_place(self) -> NumberPlace | None:
        """Where a number may stand; None where it would weaken."""
        return None

    def refusals(self) -> list[tuple[str, str]]:
        """Lengths that do not go together, as (which one, why)."""
        return []

    def resized(self, sizes: Mapping[str, float]) -> Self:
        """The same shape in other sizes, named after them.

        Raises
        ------
        EntryError
            If there is no such length, or the lengths do not go together.
        """
        if not sizes:
            return self
        own = self.dimensions
        for name, value in sizes.items():
            if name not in own:
                raise EntryError(f"the {self.label} has no '{name}': it has {', '.join(own)}", name)
            if not (isfinite(value) and 0 < value <= LONGEST):
                raise EntryError(f"{name} is {value:g} mm: it must lie between 0 and {LONGEST:g} mm", name)
        words = ", ".join(f"{name.replace('_', ' ')} {value:g}" for name, value in sizes.items())
        made = replace(self, label=f"{self.label}, {words}", **sizes)  # type: ignore[arg-type]
        wrong = made.refusals()
        if wrong:
            raise EntryError(wrong[0][1], wrong[0][0])
        return made
