"""In which units a person may choose to see things; what is kept stays in base units."""

from __future__ import annotations

from dataclasses import dataclass

from assayer.core.quantities.units import FLOW, FORCE, LENGTH, MASS, SPEED, STRESS, TEMPERATURE, Dimension


@dataclass(frozen=True, slots=True)
class Shown:
    """One base unit as it is shown: ``shown value = base value × factor + offset``; differences take the factor alone."""

    base: str
    unit: str
    factor: float
    offset: float


@dataclass(frozen=True, slots=True)
class Choice:
    """What is chosen together.

    Attributes
    ----------
    name, label : str
    options : tuple of tuple of Shown
        The ways to show it, the base units first; each gives one unit for every base unit of the choice.
    """

    name: str
    label: str
    options: tuple[tuple[Shown, ...], ...]


def _shown(dimension: Dimension, symbol: str) -> Shown:
    unit = dimension.unit(symbol)
    return Shown(dimension.base, unit.symbol, 1 / unit.factor, -unit.offset / unit.factor)


def _choice(name: str, label: str, *options: tuple[tuple[Dimension, str], ...]) -> Choice:
    return Choice(name, label, tuple(tuple(_shown(d, symbol) for d, symbol in option) for option in options))


CHOICES: tuple[Choice, ...] = (
    _choice("stress", "stress and moduli", *(((STRESS, u),) for u in ("MPa", "psi", "ksi"))),
    _choice("force", "force", *(((FORCE, u),) for u in ("N", "kgf", "lbf"))),
    _choice("length", "length", *(((LENGTH, u),) for u in ("mm", "in"))),
    _choice("temperature", "temperature", *(((TEMPERATURE, u),) for u in ("°C", "°F"))),
    _choice("mass", "mass", *(((MASS, u),) for u in ("g", "oz"))),
    _choice("speed", "speed and flow", ((SPEED, "mm/s"), (FLOW, "mm³/s")), ((SPEED, "mm/min"), (FLOW, "cm³/min"))),
)
"""All choices; a base unit stands in one of them at most."""
