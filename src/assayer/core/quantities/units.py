"""Quantities with units, and forgiving reading of what people and rigs write.

A general unit library is not used here: its registry takes longer to load than the whole budget of
``import assayer``, and a bench needs units such as "a gauge that shows hundredths of a millimetre".
"""

from __future__ import annotations

import math
import re
from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import lru_cache
from types import MappingProxyType

from assayer.core.errors import EntryError

STANDARD_GRAVITY = 9.80665
"""m/s², exact by definition; 1 kgf = 9.80665 N."""

_POUND_FORCE = 4.4482216152605
"""N, exact: 0.45359237 kg times standard gravity."""

_INCH = 25.4


@dataclass(frozen=True, slots=True)
class Unit:
    """One unit of a dimension: ``base value = shown value × factor + offset``."""

    symbol: str
    factor: float
    offset: float = 0.0


@dataclass(frozen=True, slots=True)
class Dimension:
    """What kind of quantity a number is; `base` is the unit all computing is done in."""

    name: str
    base: str
    units: Mapping[str, Unit]

    def unit(self, symbol: str) -> Unit:
        """The unit written as `symbol`.

        Raises
        ------
        EntryError
            If the symbol is no unit of this dimension; the message lists those that are.
        """
        found = self.units.get(normalise_unit(symbol))
        if found is None:
            known = ", ".join(dict.fromkeys(u.symbol for u in self.units.values()))
            raise EntryError(f"'{symbol}' is not a unit of {self.name}: use one of {known}")
        return found


@lru_cache(maxsize=1024)
def normalise_unit(text: str) -> str:
    """One spelling for the many ways a unit is written: case of letters is kept only where it matters."""
    squeezed = re.sub(r"\s+", "", text).strip("[]()").replace("μ", "µ").replace("*", "·").replace("^2", "²").replace("^3", "³")
    if squeezed in {"M", "mN", "MN"}:
        return squeezed
    return squeezed.lower()


def _dimension(name: str, base: str, *entries: tuple[str, float] | tuple[str, float, tuple[str, ...]]) -> Dimension:
    units: dict[str, Unit] = {}
    for entry in entries:
        symbol, factor = entry[0], entry[1]
        unit = Unit(symbol, factor)
        for spelling in (symbol, *(entry[2] if len(entry) == 3 else ())):
            units[normalise_unit(spelling)] = unit
    return Dimension(name, base, MappingProxyType(units))


_KGF = STANDARD_GRAVITY
FORCE = _dimension(
    "force",
    "N",
    ("N", 1.0, ("newton", "newtons")),
    ("kN", 1e3),
    ("daN", 10.0),
    ("mN", 1e-3),
    ("kgf", _KGF, ("kg", "kp", "kilogram-force")),
    ("gf", _KGF / 1e3, ("g", "gram-force")),
    ("lbf", _POUND_FORCE, ("lb", "lbs")),
    ("ozf", _POUND_FORCE / 16, ("oz",)),
)
LENGTH = _dimension(
    "length",
    "mm",
    ("mm", 1.0, ("millimetre", "millimeter")),
    ("1/100 mm", 0.01, ("0.01mm", "0,01mm", "hundredths", "/100mm")),
    ("µm", 1e-3, ("um", "micron")),
    ("cm", 10.0),
    ("m", 1e3),
    ("in", _INCH, ('"', "inch", "inches")),
    ("mil", _INCH / 1e3, ("thou",)),
)
TIME = _dimension(
    "time",
    "s",
    ("s", 1.0, ("sec", "secs", "second", "seconds", "sek", "seg")),
    ("ms", 1e-3, ("msec",)),
    ("min", 60.0, ("minute", "minutes", "minuten")),
    ("h", 3600.0, ("hr", "hour", "hours", "std")),
    ("d", 86400.0, ("day", "days")),
)
STRAIN = _dimension(
    "strain", "1", ("1", 1.0, ("mm/mm", "in/in", "m/m", "-")), ("%", 0.01, ("pct", "percent")), ("‰", 1e-3), ("µε", 1e-6, ("ue", "ustrain", "µstrain"))
)
STRESS = _dimension(
    "stress",
    "MPa",
    ("MPa", 1.0, ("n/mm²", "n/mm2")),
    ("kPa", 1e-3),
    ("GPa", 1e3),
    ("psi", _POUND_FORCE / _INCH**2, ("lbf/in²",)),
    ("ksi", 1e3 * _POUND_FORCE / _INCH**2),
    ("kgf/cm²", _KGF / 100, ("kg/cm2", "kg/cm²", "kgf/cm2")),
)
TEMPERATURE = Dimension(
    "temperature",
    "°C",
    MappingProxyType(
        {
            **dict.fromkeys(("°c", "c", "degc"), Unit("°C", 1.0)),
            **dict.fromkeys(("°f", "f", "degf"), Unit("°F", 5 / 9, -160 / 9)),
            "k": Unit("K", 1.0, -273.15),
        }
    ),
)
TORQUE = _dimension(
    "torque",
    "N·m",
    ("N·m", 1.0, ("nm", "n.m")),
    ("kgf·cm", _KGF / 100, ("kg·cm", "kgfcm", "kgcm")),
    ("lbf·in", _POUND_FORCE * _INCH / 1e3, ("lbfin", "in·lbf", "lb·in")),
)
ENERGY = _dimension("energy", "J", ("J", 1.0), ("mJ", 1e-3), ("kgf·m", _KGF, ("kgfm", "kg·m")), ("ft·lbf", 0.3048 * _POUND_FORCE, ("ftlbf",)))
MASS = _dimension(
    "mass", "g", ("g", 1.0, ("gram", "grams")), ("kg", 1e3, ("kilogram",)), ("mg", 1e-3), ("lb", 453.59237, ("lbs", "pound")), ("oz", 28.349523125)
)
HAMMER_MASS = _dimension("hammer mass", "kg", ("kg", 1.0, ("kilogram",)), ("g", 1e-3, ("gram", "grams")), ("lb", 0.45359237, ("lbs", "pound")))
PENDULUM_LENGTH = _dimension("pendulum length", "m", ("m", 1.0), ("mm", 1e-3), ("cm", 1e-2), ("in", 0.0254, ("inch",)))
TEMPERATURE_STEP = _dimension("temperature step", "K", ("K", 1.0, ("°c", "c", "degc")), ("°F", 5 / 9, ("f", "degf")))
DENSITY = _dimension("density", "g/cm³", ("g/cm³", 1.0, ("g/cm3", "g/cc", "g/ml", "kg/l", "kg/dm³")), ("kg/m³", 1e-3, ("kg/m3",)))
SPEED = _dimension("speed", "mm/s", ("mm/s", 1.0), ("mm/min", 1 / 60), ("m/min", 1e3 / 60), ("cm/s", 10.0))
FLOW = _dimension("volumetric flow", "mm³/s", ("mm³/s", 1.0, ("mm3/s",)), ("mm³/min", 1 / 60, ("mm3/min",)), ("cm³/min", 1e3 / 60, ("cm3/min", "ml/min")))
ANGLE = _dimension("angle", "°", ("°", 1.0, ("deg", "degrees", "degree")), ("rad", 180 / math.pi))
HARDNESS = _dimension("hardness", "Shore D", ("Shore D", 1.0, ("shd", "d")))
GRADE = _dimension("grade", "grade", ("grade", 1.0, ("step", "steps")))
PLACE = _dimension("place", "place", ("place", 1.0, ("places",)))
NUMBER = _dimension("number", "1", ("1", 1.0, ("-",)))

DIMENSIONS: Mapping[str, Dimension] = MappingProxyType(
    {
        d.name: d
        for d in (
            FORCE,
            LENGTH,
            TIME,
            STRAIN,
            STRESS,
            TEMPERATURE,
            TORQUE,
            ENERGY,
            MASS,
            HAMMER_MASS,
            PENDULUM_LENGTH,
            TEMPERATURE_STEP,
            DENSITY,
            SPEED,
            FLOW,
            ANGLE,
            HARDNESS,
            GRADE,
            PLACE,
            NUMBER,
        )
    }
)


@dataclass(frozen=True, slots=True)
class Quantity:
    """A number as it was written and as it is computed with.

    Attributes
    ----------
    value : float
        In the base unit of its dimension.
    unit : str
        The unit as entered.
    raw : str
        The text as typed, kept for the record.
    """

    value: float
    unit: str
    raw: str
    dimension: str


_NUMBER = re.compile(r"\s*([+\-−]?\s*(?:\d+(?:[.,]\d*)?|[.,]\d+)(?:[eE][+-]?\d+)?)\s*(.*?)\s*$", re.DOTALL)
_GROUPED = re.compile(r"\s*[+-]?\d+(?:[.,'’\s]\d+){2,}|\s*\d+['’\s]\d")


def parse_number(text: str, field: str | None = None) -> float:
    """Read a bare number with either decimal mark; "1,234" is 1.234.

    Raises
    ------
    EntryError
        If the text is empty, no number, or holds thousands separators.
    """
    number, rest = _split_number(text, field)
    if rest:
        raise EntryError(f"'{text.strip()}' is not a plain number: leave out '{rest}'", field)
    return number


def parse_quantity(text: str, dimension: Dimension, default_unit: str | None = None, field: str | None = None) -> Quantity:
    """Read a number with an optional unit, as typed: "12,5 kgf", "4.02 mm", "402 1/100 mm".

    Parameters
    ----------
    text : str
        What was typed or scanned.
    dimension : Dimension
        What it must be.
    default_unit : str, optional
        Unit assumed where none is written (what the rig shows); the base unit if left out.
    field : str, optional
        Name carried by the error.

    Raises
    ------
    EntryError
        If it is no number, has thousands separators, or a unit of another dimension.
    """
    number, rest = _split_number(text, field)
    try:
        unit = dimension.unit(rest or default_unit or dimension.base)
    except EntryError as error:
        raise EntryError(error.message, field) from None
    return Quantity(number * unit.factor + unit.offset, unit.symbol, text, dimension.name)


def read_display(text: str, dimension: Dimension, unit: str, decimals: int = 0, field: str | None = None) -> Quantity:
    """Read what a rig's display shows: a bare whole number has `decimals` implied decimals, so 2047 is 20.47 mm.

    A decimal mark or a unit in the text says that it was meant as written.

    Parameters
    ----------
    text : str
    dimension : Dimension
    unit : str
        What the display shows.
    decimals : int
        Digits behind the point that the display does not show (or the person does not type).
    field : str, optional
        Name carried by errors.
    """
    bare = re.fullmatch(r"\s*[+\-−]?\s*\d+\s*", text)
    if decimals and bare:
        shown = parse_quantity(text, dimension, unit, field)
        offset = dimension.unit(unit).offset
        return replace(shown, value=(shown.value - offset) / 10**decimals + offset)
    return parse_quantity(text, dimension, unit, field)


def _split_number(text: str, field: str | None) -> tuple[float, str]:
    stripped = text.strip()
    if not stripped:
        raise EntryError("nothing entered: type a number", field)
    hundredths = re.match(r"(.*?)(1/100\s*mm)$", stripped)
    head, unit_tail = (hundredths[1], hundredths[2]) if hundredths and hundredths[1].strip() else (stripped, "")
    if _GROUPED.match(head):
        raise EntryError(f"'{stripped}' looks like a number with thousands separators: write it with one decimal mark only", field)
    match = _NUMBER.match(head)
    if match is None:
        raise EntryError(f"'{_shorten(stripped)}' is not a number", field)
    number = float(match[1].replace(",", ".").replace("−", "-").replace(" ", ""))
    if not math.isfinite(number):
        raise EntryError(f"'{_shorten(stripped)}' is not a finite number", field)
    return number, match[2] + unit_tail


def _shorten(text: str) -> str:
    return text if len(text) <= 40 else text[:39] + "…"
