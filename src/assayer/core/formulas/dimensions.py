"""Dimensions of formulas: exponents of mass, length, time and temperature, and the units that have them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from fractions import Fraction
from functools import lru_cache

from assayer.core.quantities.units import DIMENSIONS, normalise_unit

_NAMES = ("mass", "length", "time", "temperature", "hardness")


@dataclass(frozen=True, slots=True)
class Dim:
    """Exponents of g, mm, s, K and Shore D."""

    powers: tuple[Fraction, ...] = (Fraction(0),) * len(_NAMES)

    def __mul__(self, other: Dim) -> Dim:
        return Dim(tuple(a + b for a, b in zip(self.powers, other.powers, strict=True)))

    def __truediv__(self, other: Dim) -> Dim:
        return Dim(tuple(a - b for a, b in zip(self.powers, other.powers, strict=True)))

    def __pow__(self, exponent: Fraction) -> Dim:
        return Dim(tuple(a * exponent for a in self.powers))

    @property
    def none(self) -> bool:
        return not any(self.powers)

    def words(self) -> str:
        """As one says it: "MPa" where a unit has it, else powers of base units."""
        if self.none:
            return "a plain number"
        named = next((symbol for symbol, (dim, _) in UNITS.items() if dim == self), None)
        if named is not None:
            return named
        symbols = ("g", "mm", "s", "K", "Shore D")
        return "·".join(s if p == 1 else f"{s}^{p}" for s, p in zip(symbols, self.powers, strict=True) if p)


def _dim(**powers: int) -> Dim:
    return Dim(tuple(Fraction(powers.get(name, 0)) for name in _NAMES))


NUMBER = Dim()
MASS, LENGTH, TIME, TEMPERATURE, HARDNESS = (_dim(**{name: 1}) for name in _NAMES)
FORCE = _dim(mass=1, length=1, time=-2)

# coherent units are g, mm, s, K: one newton is 10⁶ g·mm/s²
_BASES: Mapping[str, tuple[Dim, float]] = {
    "force": (FORCE, 1e6), "length": (LENGTH, 1.0), "time": (TIME, 1.0), "strain": (NUMBER, 1.0), "stress": (FORCE / LENGTH ** Fraction(2), 1e6),
    "temperature": (TEMPERATURE, 1.0), "temperature step": (TEMPERATURE, 1.0), "torque": (FORCE * LENGTH, 1e9), "energy": (FORCE * LENGTH, 1e9),
    "mass": (MASS, 1.0), "hammer mass": (MASS, 1e3), "pendulum length": (LENGTH, 1e3), "density": (MASS / LENGTH ** Fraction(3), 1e-3),
    "speed": (LENGTH / TIME, 1.0), "volumetric flow": (LENGTH ** Fraction(3) / TIME, 1.0), "angle": (NUMBER, 0.017453292519943295),
    "hardness": (HARDNESS, 1.0), "grade": (NUMBER, 1.0), "place": (NUMBER, 1.0), "number": (NUMBER, 1.0),
}  # fmt: skip
"""Of each dimension of readings: what it is, and how many coherent units one of its base units is."""

_MORE: Mapping[str, tuple[Dim, float]] = {
    "mm²": (LENGTH ** Fraction(2), 1.0), "cm²": (LENGTH ** Fraction(2), 100.0), "mm³": (LENGTH ** Fraction(3), 1.0), "cm³": (LENGTH ** Fraction(3), 1e3),
    "m²": (LENGTH ** Fraction(2), 1e6), "N/mm": (FORCE / LENGTH, 1e6), "N/g": (FORCE / MASS, 1e6), "N/h": (FORCE / TIME, 1e6 / 3600),
    "kJ/m²": (FORCE / LENGTH, 1e6), "J/m": (FORCE, 1e6), "1/mm": (NUMBER / LENGTH, 1.0), "mm/s²": (LENGTH / TIME ** Fraction(2), 1.0),
    "m/s²": (LENGTH / TIME ** Fraction(2), 1e3), "m/s": (LENGTH / TIME, 1e3), "Hz": (NUMBER / TIME, 1.0), "K/min": (TEMPERATURE / TIME, 1 / 60),
    "g/m²": (MASS / LENGTH ** Fraction(2), 1e-6), "N·mm²": (FORCE * LENGTH ** Fraction(2), 1e6), "mm⁴": (LENGTH ** Fraction(4), 1.0),
    "mm/N": (LENGTH / FORCE, 1e-6), "N/s": (FORCE / TIME, 1e6), "s/N": (TIME / FORCE, 1e-6),
    "mm/K": (LENGTH / TEMPERATURE, 1.0), "1/K": (NUMBER / TEMPERATURE, 1.0),
}  # fmt: skip


def _all_units() -> dict[str, tuple[Dim, float]]:
    found: dict[str, tuple[Dim, float]] = {}
    for name, dimension in DIMENSIONS.items():
        dim, factor = _BASES[name]
        for unit in dimension.units.values():
            if unit.offset == 0 or name == "temperature":
                found.setdefault(unit.symbol, (dim, factor * unit.factor))
    return found | {symbol: told for symbol, told in _MORE.items() if symbol not in found}


UNITS: Mapping[str, tuple[Dim, float]] = _all_units()
"""What a result may be given in, and what a number may carry: dimension, and coherent units in one of it."""
_SPELT = {normalise_unit(symbol): symbol for symbol in reversed(list(UNITS))} | {"nm": "N·m", "deg": "°", "mm2": "mm²", "mm3": "mm³"}


TEMPERATURES: Mapping[str, tuple[float, float]] = {u.symbol: (u.factor, u.offset) for u in DIMENSIONS["temperature"].units.values()} | {"K": (1.0, -273.15)}
"""Units that temperatures are given in: degrees of one of it, and where its zero lies, in °C."""


def in_unit(value: float, unit: str, is_temperature: bool = False) -> float:
    """A value in coherent units, given in another one; a temperature is counted from the zero of that unit."""
    if is_temperature:
        factor, offset = TEMPERATURES[unit]
        return (value - offset) / factor
    return value / UNITS[unit][1]


def in_coherent(value: float, unit: str, is_temperature: bool = False) -> float:
    """The other way round."""
    if is_temperature:
        factor, offset = TEMPERATURES[unit]
        return value * factor + offset
    return value * UNITS[unit][1]


@lru_cache(maxsize=512)
def unit_named(text: str) -> str | None:
    """The unit that is written so; None if there is none."""
    return text if text in UNITS else _SPELT.get(normalise_unit(text))


def of_dimension(name: str) -> tuple[Dim, float]:
    """The dimension of a reading by its name, and how many coherent units one of its base units is."""
    return _BASES[name]


def natural_unit(dim: Dim, is_temperature: bool = False) -> str:
    """The unit in which a result of a dimension is shown unless another is chosen: that of the readings where there is one."""
    if dim.none:
        return "1"
    if dim == TEMPERATURE:
        return "°C" if is_temperature else "K"
    for name in ("force", "length", "stress", "time", "temperature", "mass", "density", "energy", "speed", "hardness"):
        if _BASES[name][0] == dim:
            return DIMENSIONS[name].base
    return next((symbol for symbol, (own, _) in _MORE.items() if own == dim), "")
