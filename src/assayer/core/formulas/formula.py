"""A formula that was read and checked: its dimension, and its value for a set of readings."""

from __future__ import annotations

import math
import statistics
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction

from assayer.core.formulas.dimensions import NUMBER, UNITS, Dim, unit_named
from assayer.core.formulas.errors import FormulaError
from assayer.core.formulas.grammar import Binary, Call, Name, Negative, Node, Number, parse
from assayer.core.quantities.units import STANDARD_GRAVITY

Readings = Mapping[str, Sequence[float]]
"""By name, in coherent units; a name alone stands for the mean of its readings."""
_Value = Callable[[Readings], float]

CONSTANTS: Mapping[str, tuple[float, Dim]] = {
    "pi": (math.pi, NUMBER),
    "gravity": (STANDARD_GRAVITY * 1e3, UNITS["m/s²"][0]),
}
"""Known by name: π, and the standard acceleration of free fall."""

_OVER_READINGS: Mapping[str, Callable[[Sequence[float]], float]] = {
    "mean": statistics.fmean, "min": min, "max": max, "sum": math.fsum, "median": statistics.median,
    "first": lambda v: v[0], "last": lambda v: v[-1], "spread": lambda v: statistics.stdev(v) if len(v) > 1 else 0.0,
}  # fmt: skip
_OF_ANGLES = {"sin": math.sin, "cos": math.cos, "tan": math.tan}
_TO_ANGLES = {"asin": math.asin, "acos": math.acos, "atan": math.atan}
_OF_NUMBERS = {"exp": math.exp, "ln": math.log, "log10": math.log10}
FUNCTIONS = ("sqrt", "root", "abs", "count", *_OVER_READINGS, *_OF_ANGLES, *_TO_ANGLES, *_OF_NUMBERS)
"""`root(x; n)`; `min`, `max`, `mean`, `sum`, `median`, `first`, `last`, `spread` and `count` take a name, or several values."""


@dataclass(frozen=True, slots=True)
class Formula:
    """A checked formula.

    Attributes
    ----------
    text : str
    dim : Dim
    names : frozenset of str
        Readings and earlier results that it uses.
    """

    text: str
    dim: Dim
    names: frozenset[str]
    _value: _Value

    def value(self, readings: Readings) -> float:
        """Its value in coherent units.

        Parameters
        ----------
        readings : mapping of name to values
            At least one value of each name that it uses.

        Raises
        ------
        FormulaError
            Where it cannot be computed: a division by zero, a root of what is negative, a number beyond all bounds.
        """
        return self._value(readings)


def check_formula(text: str, names: Mapping[str, Dim]) -> Formula:
    """Read a formula and check names and dimensions; nothing is computed.

    Parameters
    ----------
    text : str
    names : mapping of name to Dim
        Readings and earlier results that it may use.

    Raises
    ------
    FormulaError
        Names the place: an unknown name, N added to mm, a root that leaves no whole dimension.
    """
    checker = _Checker(names)
    dim, value = checker.node(parse(text))
    return Formula(text, dim, frozenset(checker.used), value)


class _Checker:
    """Walks a tree once; of every node the dimension, and how its value is found."""

    def __init__(self, names: Mapping[str, Dim]) -> None:
        self.names = names
        self.used: set[str] = set()

    def node(self, node: Node) -> tuple[Dim, _Value]:
        if isinstance(node, Number):
            dim, factor = UNITS[node.unit] if node.unit is not None else (NUMBER, 1.0)
            value = node.value * factor
            return dim, lambda _: value
        if isinstance(node, Name):
            return self.name(node)
        if isinstance(node, Negative):
            dim, inner = self.node(node.of)
            return dim, lambda r: -inner(r)
        if isinstance(node, Call):
            return self.call(node)
        return self.binary(node)

    def name(self, node: Name) -> tuple[Dim, _Value]:
        name = node.name
        if name in self.names:
            self.used.add(name)
            return self.names[name], lambda r: _mean(r[name])
        if name in CONSTANTS:
            constant, dim = CONSTANTS[name]
            return dim, lambda _: constant
        raise FormulaError(self.unknown(name), node.start, node.end)

    def unknown(self, name: str) -> str:
        known = ", ".join((*self.names, *CONSTANTS))
        if name in FUNCTIONS:
            return f"'{name}' is a function: write {name}(…)"
        if unit_named(name) is not None:
            return f"'{name}' is a unit: it stands behind a number, such as 1 {name}"
        return f"there is no '{name}': there is {known}"

    def binary(self, node: Binary) -> tuple[Dim, _Value]:
        if node.operator == "^":
            return self.power(node)
        left, a = self.node(node.left)
        right, b = self.node(node.right)
        if node.operator in ("+", "-"):
            if left != right:
                way = "added to" if node.operator == "+" else "taken from"
                first, second = (right, left) if node.operator == "-" else (left, right)
                raise FormulaError(f"{first.words()} cannot be {way} {second.words()}", node.start, node.end)
            return left, _bounded(node, (lambda r: a(r) + b(r)) if node.operator == "+" else (lambda r: a(r) - b(r)))
        if node.operator == "*":
            return left * right, _bounded(node, lambda r: a(r) * b(r))

        def divided(r: Readings) -> float:
            below = b(r)
            if below == 0:
                raise FormulaError("this is 0, and nothing can be divided by it", node.right.start, node.right.end)
            return a(r) / below

        return left / right, _bounded(node, divided)

    def power(self, node: Binary) -> tuple[Dim, _Value]:
        base, a = self.node(node.left)
        exponent_dim, b = self.node(node.right)
        if not exponent_dim.none:
            raise FormulaError(f"an exponent is a plain number, not {exponent_dim.words()}", node.right.start, node.right.end)
        if not base.none:
            exponent = _constant(node.right)
            if exponent is None:
                raise FormulaError(f"the exponent of {base.words()} must be a number that stands there", node.right.start, node.right.end)
            base = _raised(base, exponent, node)

        def raised(r: Readings) -> float:
            below, above = a(r), b(r)
            try:
                found = below**above
            except ZeroDivisionError:
                raise FormulaError("0 cannot be raised to what is below 0", node.start, node.end) from None
            except OverflowError:
                raise FormulaError("this becomes too large", node.start, node.end) from None
            if isinstance(found, complex):
                raise FormulaError(f"{below:g} is negative: it has no power of {above:g}", node.start, node.end)
            return float(found)

        return base, _bounded(node, raised)

    def call(self, node: Call) -> tuple[Dim, _Value]:
        name = node.function
        if name in _OVER_READINGS or name == "count":
            return self.over(node)
        if name not in FUNCTIONS:
            raise FormulaError(f"there is no function '{name}': there is {', '.join(FUNCTIONS)}", node.start, node.start + len(name))
        wanted = 2 if name == "root" else 1
        if len(node.arguments) != wanted:
            raise FormulaError(f"{name} takes {wanted} {'value' if wanted == 1 else 'values'}, but has {len(node.arguments)}", node.start, node.end)
        dim, inner = self.node(node.arguments[0])
        if name == "abs":
            return dim, lambda r: abs(inner(r))
        if name in ("sqrt", "root"):
            return self.root(node, dim, inner)
        argument = node.arguments[0]
        if not dim.none:
            raise FormulaError(f"{name} takes a plain number or an angle, not {dim.words()}", argument.start, argument.end)
        plain = _OF_ANGLES.get(name) or _TO_ANGLES.get(name) or _OF_NUMBERS[name]

        def computed(r: Readings) -> float:
            of = inner(r)
            try:
                return plain(of)
            except (ValueError, OverflowError):
                raise FormulaError(f"{name} of {of:g} is no number", node.start, node.end) from None

        return NUMBER, _bounded(node, computed)

    def root(self, node: Call, dim: Dim, inner: _Value) -> tuple[Dim, _Value]:
        degree = Fraction(2)
        if node.function == "root":
            told = _constant(node.arguments[1])
            if told is None or told.denominator != 1 or not 2 <= told <= 12:
                raise FormulaError("the degree of a root is a whole number from 2 to 12", node.arguments[1].start, node.arguments[1].end)
            degree = told
        dim = _raised(dim, 1 / degree, node)

        def rooted(r: Readings) -> float:
            of = inner(r)
            if of < 0 and degree % 2 == 0:
                raise FormulaError(f"{of:g} is negative: it has no such root", node.start, node.end)
            return math.copysign(abs(of) ** (1 / float(degree)), of)

        return dim, _bounded(node, rooted)

    def over(self, node: Call) -> tuple[Dim, _Value]:
        """A function of all readings of a name, or of several values."""
        first = node.arguments[0]
        single = len(node.arguments) == 1 and isinstance(first, Name) and first.name in self.names
        parts = [self.node(a) for a in node.arguments]
        dim = parts[0][0]
        for (other, _), argument in zip(parts, node.arguments, strict=True):
            if other != dim:
                raise FormulaError(f"{other.words()} beside {dim.words()}: the values of {node.function} are alike", argument.start, argument.end)
        if single:
            assert isinstance(first, Name)
            name = first.name
            values: Callable[[Readings], Sequence[float]] = lambda r: r[name]  # noqa: E731
        else:
            found = [value for _, value in parts]
            values = lambda r: [v(r) for v in found]  # noqa: E731
        if node.function == "count":
            return NUMBER, lambda r: float(len(values(r)))
        apply = _OVER_READINGS[node.function]
        return dim, _bounded(node, lambda r: float(apply(values(r))))


def _mean(values: Sequence[float]) -> float:
    return values[0] if len(values) == 1 else math.fsum(values) / len(values)


def _bounded(node: Node, value: _Value) -> _Value:
    def computed(r: Readings) -> float:
        try:
            found = value(r)
        except OverflowError:
            found = math.inf
        if not math.isfinite(found):
            raise FormulaError("this becomes too large", node.start, node.end)
        return found

    return computed


def _constant(node: Node) -> Fraction | None:
    """A number as it stands in the text, with its sign, or one number over another; None for anything else."""
    if isinstance(node, Number) and node.unit is None:
        return Fraction(node.value).limit_denominator(1000)
    if isinstance(node, Negative):
        inner = _constant(node.of)
        return None if inner is None else -inner
    if isinstance(node, Binary) and node.operator == "/":
        above, below = _constant(node.left), _constant(node.right)
        return None if above is None or not below else above / below
    return None


def _raised(dim: Dim, exponent: Fraction, node: Node) -> Dim:
    if abs(exponent) > 12:
        raise FormulaError(f"{dim.words()} to the power of {exponent} is nothing that is measured", node.start, node.end)
    return dim**exponent
