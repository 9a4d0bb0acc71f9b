"""What a specimen shape is (METHODS 14): named lengths in mm, a volume, and the lengths that entries are held against."""

from __future__ import annotations

from abc import ABC, abstractmethod
from dataclasses import dataclass, fields


@dataclass(frozen=True, slots=True)
class Shape(ABC):
    """A specimen shape; every number of a family is a length in mm.

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

    @property
    def dimensions(self) -> dict[str, float]:
        """Its lengths by name, mm; those that it does not have are left out."""
        own = {f.name: getattr(self, f.name) for f in fields(self)}
        return {name: float(value) for name, value in own.items() if isinstance(value, int | float) and not isinstance(value, bool)}
