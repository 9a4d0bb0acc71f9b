"""A formula that was read and checked: its dimension, and its value for a set of readings."""

from __future__ import annotations

import math
import statistics
from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction

from assayer.core.formulas.dimensions import NUMBER, TEMPERATURE, TEMPERATURES, UNITS, Dim, in_coherent, unit_named
from assayer.core.formulas.errors import FormulaError
from assayer.core.formulas.grammar import Binary, Call, Name, Negative, Node, Number, parse
from assayer.core.quantities.units import STANDARD_GRAVITY

DEEPEST_TREE = 100
"""Operations within one another, such as the factors of a product."""
Readings = Mapping[str, Sequence[float]]
"""By name, in coherent units; a name alone stands for the mean of its readings."""
_Value = Callable[[Readings], float]

CONSTANTS: Mapping[str, tuple[float, Dim]] = {
    "pi": (math.pi, NUMBER),
    "gravity": (STANDARD_GRAVITY * 1e3, UNITS["m/s²"][0]),
    "absolute_zero": (-273.15, TEMPERATURE),
}
"""Known by name: π, the standard acceleration of free fall, and the temperature that kelvins are counted from."""

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
    is_temperature : bool
        Whether it gives a temperature, which other units count from another zero; else, if at all, a difference of two.
    """

    text: str
    dim: Dim
    names: frozenset[str]
    is_temperature: bool
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


@dataclass(frozen=True, slots=True)
class _Term:
    """A part of a formula: its dimension and how its value is found.

    `points` counts the temperatures in it that have a zero of their own: 1 for a temperature, 0 for a difference of two;
    1 again for the mean of two. Only those two mean something in another unit.
    """

    dim: Dim
    value: _Value
    points: Fraction = Fraction(0)


def check_formula(text: str, names: Mapping[str, Dim], temperatures: Collection[str] = ()) -> Formula:
    """Read a formula and check names and dimensions; nothing is computed.

    Parameters
    ----------
    text : str
    names : mapping of name to Dim
        Readings and earlier results that it may use.
    temperatures : collection of str
        Those of them that are temperatures, not differences of temperatures.

    Raises
    ------
    FormulaError
        Names the place: an unknown name, N added to mm, a root that leaves no whole dimension, two temperatures added.
    """
    checker = _Checker(names, temperatures)
    tree = parse(text)
    if _depth(tree) > DEEPEST_TREE:
        raise FormulaError(f"more than {DEEPEST_TREE} operations within one another: make earlier results of its parts", tree.start, tree.end)
    term = checker.node(tree)
    if term.points not in (0, 1):
        raise FormulaError("temperatures cannot be added: subtract one from the other, or take their mean", tree.start, tree.end)
    return Formula(text, term.dim, frozenset(checker.used), term.points == 1, term.value)


class _Checker:
    """Walks a tree once; of every node the dimension, and how its value is found."""

    def __init__(self, names: Mapping[str, Dim], temperatures: Collection[str]) -> None:
        self.names = names
        self.temperatures = temperatures
        self.used: set[str] = set()

    def node(self, node: Node) -> _Term:
        if isinstance(node, Number):
            return _literal(node)
        if isinstance(node, Name):
            return self.name(node)
        if isinstance(node, Negative):
            inner = self.node(node.of)
            return _Term(inner.dim, lambda r: -inner.value(r), -inner.points)
        if isinstance(node, Call):
            return self.call(node)
        return self.binary(node)

    def difference(self, node: Node) -> _Term:
        """A node that is no temperature: what has a zero of its own has no product, power or root."""
        term = self.node(node)
        if term.points:
            raise FormulaError("a temperature has no product or power: take a difference, such as t - absolute_zero", node.start, node.end)
        return term

    def name(self, node: Name) -> _Term:
        name = node.name
        if name in self.names:
            self.used.add(name)
            return _Term(self.names[name], lambda r: _mean(r[name]), Fraction(int(name in self.temperatures)))
        if name in CONSTANTS:
            constant, dim = CONSTANTS[name]
            return _Term(dim, lambda _: constant, Fraction(int(dim == TEMPERATURE)))
        raise FormulaError(self.unknown(name), node.start, node.end)

    def unknown(self, name: str) -> str:
        known = ", ".join((*self.names, *CONSTANTS))
        if name in FUNCTIONS:
            return f"'{name}' is a function: write {name}(…)"
        if unit_named(name) is not None:
            return f"'{name}' is a unit: it stands behind a number, such as 1 {name}"
        return f"there is no '{name}': there is {known}"

    def binary(self, node: Binary) -> _Term:
        if node.operator == "^":
            return self.power(node)
        if node.operator in ("+", "-"):
            return self.sum(node)
        if node.operator == "*":
            return self.product(node)
        below = self.difference(node.right)
        factor = _constant(node.right)
        above = self.node(node.left) if factor else self.difference(node.left)

        def divided(r: Readings) -> float:
            divisor = below.value(r)
            if divisor == 0:
                raise FormulaError("this is 0, and nothing can be divided by it", node.right.start, node.right.end)
            return above.value(r) / divisor

        return _Term(above.dim / below.dim, _bounded(node, divided), above.points / (factor or 1))

    def sum(self, node: Binary) -> _Term:
        """A chain of additions and subtractions, from left to right."""
        links, first = _links(node)
        term = self.node(first)
        dim, points = term.dim, term.points
        signed = [(1, term.value)]
        for link in links:
            right = self.node(link.right)
            sign = 1 if link.operator == "+" else -1
            if right.dim != dim:
                one, other = (dim, right.dim) if sign > 0 else (right.dim, dim)
                raise FormulaError(f"{one.words()} cannot be {'added to' if sign > 0 else 'taken from'} {other.words()}", link.start, link.end)
            points += sign * right.points
            signed.append((sign, right.value))

        def added(r: Readings) -> float:
            total = 0.0
            for sign, value in signed:
                total += sign * value(r)
            return total

        return _Term(dim, _bounded(node, added), points)

    def product(self, node: Binary) -> _Term:
        # a multiple of a temperature may be a part of a mean
        by = {True: _constant(node.right), False: _constant(node.left)}
        left = self.node(node.left) if by[True] is not None else self.difference(node.left)
        right = self.node(node.right) if by[False] is not None else self.difference(node.right)
        points = left.points * (by[True] or 0) + right.points * (by[False] or 0)
        return _Term(left.dim * right.dim, _bounded(node, lambda r: left.value(r) * right.value(r)), points)

    def power(self, node: Binary) -> _Term:
        base, exponent = self.difference(node.left), self.difference(node.right)
        if not exponent.dim.none:
            raise FormulaError(f"an exponent is a plain number, not {exponent.dim.words()}", node.right.start, node.right.end)
        dim = base.dim
        if not dim.none:
            constant = _constant(node.right)
            if constant is None:
                raise FormulaError(f"the exponent of {dim.words()} must be a number that stands there", node.right.start, node.right.end)
            dim = _raised(dim, constant, node)

        def raised(r: Readings) -> float:
            below, above = base.value(r), exponent.value(r)
            try:
                found = below**above
            except ZeroDivisionError:
                raise FormulaError("0 cannot be raised to what is below 0", node.start, node.end) from None
            except OverflowError:
                raise FormulaError("this becomes too large", node.start, node.end) from None
            if isinstance(found, complex):
                raise FormulaError(f"{below:g} is negative: it has no power of {above:g}", node.start, node.end)
            return float(found)

        return _Term(dim, _bounded(node, raised))

    def call(self, node: Call) -> _Term:
        name = node.function
        if name in _OVER_READINGS or name == "count":
            return self.over(node)
        if name not in FUNCTIONS:
            raise FormulaError(f"there is no function '{name}': there is {', '.join(FUNCTIONS)}", node.start, node.start + len(name))
        wanted = 2 if name == "root" else 1
        if len(node.arguments) != wanted:
            raise FormulaError(f"{name} takes {wanted} {'value' if wanted == 1 else 'values'}, but has {len(node.arguments)}", node.start, node.end)
        inner = self.difference(node.arguments[0])
        if name == "abs":
            return _Term(inner.dim, lambda r: abs(inner.value(r)))
        if name in ("sqrt", "root"):
            return self.root(node, inner)
        argument = node.arguments[0]
        if not inner.dim.none:
            raise FormulaError(f"{name} takes a plain number or an angle, not {inner.dim.words()}", argument.start, argument.end)
        plain = _OF_ANGLES.get(name) or _TO_ANGLES.get(name) or _OF_NUMBERS[name]

        def computed(r: Readings) -> float:
            of = inner.value(r)
            try:
                return plain(of)
            except (ValueError, OverflowError):
                raise FormulaError(f"{name} of {of:g} is not a number", node.start, node.end) from None

        return _Term(NUMBER, _bounded(node, computed))

    def root(self, node: Call, inner: _Term) -> _Term:
        degree = Fraction(2)
        if node.function == "root":
            constant = _constant(node.arguments[1])
            if constant is None or constant.denominator != 1 or not 2 <= constant <= 12:
                raise FormulaError("the degree of a root is a whole number from 2 to 12", node.arguments[1].start, node.arguments[1].end)
            degree = constant
        dim = _raised(inner.dim, 1 / degree, node)

        def rooted(r: Readings) -> float:
            of = inner.value(r)
            if of < 0 and degree % 2 == 0:
                raise FormulaError(f"{of:g} is negative: it has no such root", node.start, node.end)
            return math.copysign(abs(of) ** (1 / float(degree)), of)

        return _Term(dim, _bounded(node, rooted))

    def over(self, node: Call) -> _Term:
        """A function of all readings of a name, or of several values."""
        for argument in node.arguments:
            if isinstance(argument, Number) and argument.comma:
                raise FormulaError("is this one number or two? write a point in a number, and ';' between two", argument.start, argument.end)
        first = node.arguments[0]
        single = len(node.arguments) == 1 and isinstance(first, Name) and first.name in self.names
        parts = [self.node(a) for a in node.arguments]
        dim, points = parts[0].dim, parts[0].points
        for other, argument in zip(parts, node.arguments, strict=True):
            if (other.dim, other.points) != (dim, points):
                raise FormulaError(f"{other.dim.words()} beside {dim.words()}: the values of {node.function} are alike", argument.start, argument.end)
        if single:
            assert isinstance(first, Name)
            name = first.name
            values: Callable[[Readings], Sequence[float]] = lambda r: r[name]  # noqa: E731
        else:
            values = lambda r: [p.value(r) for p in parts]  # noqa: E731
        if node.function == "count":
            return _Term(NUMBER, lambda r: float(len(values(r))))
        if node.function == "sum" and points:
            raise FormulaError("temperatures cannot be added: take their mean", node.start, node.end)
        apply = _OVER_READINGS[node.function]
        return _Term(dim, _bounded(node, lambda r: float(apply(values(r)))), Fraction(0) if node.function == "spread" else points)


def _links(node: Node) -> tuple[list[Binary], Node]:
    """The additions and subtractions of a chain, from the left, and the node that it begins with."""
    links = []
    while isinstance(node, Binary) and node.operator in ("+", "-"):
        links.append(node)
        node = node.left
    return links[::-1], node


def _depth(tree: Node) -> int:
    """How many operations lie within one another; a chain of additions is one."""
    deepest, open_nodes = 0, [(tree, 1)]
    while open_nodes:
        node, depth = open_nodes.pop()
        deepest = max(deepest, depth)
        if isinstance(node, Binary) and node.operator in ("+", "-"):
            links, first = _links(node)
            open_nodes += [(part, depth + 1) for part in (first, *(link.right for link in links))]
        elif isinstance(node, Binary):
            open_nodes += [(node.left, depth + 1), (node.right, depth + 1)]
        elif isinstance(node, Negative):
            open_nodes.append((node.of, depth + 1))
        elif isinstance(node, Call):
            open_nodes += [(a, depth + 1) for a in node.arguments]
    return deepest


def _literal(node: Number) -> _Term:
    """A number with its unit; one in °C or °F is a temperature, one in K a difference."""
    if node.unit is None:
        return _Term(NUMBER, lambda _: node.value)
    dim, factor = UNITS[node.unit]
    if node.unit in TEMPERATURES and node.unit != "K":
        point = in_coherent(node.value, node.unit, is_temperature=True)
        return _Term(dim, lambda _: point, Fraction(1))
    return _Term(dim, lambda _: node.value * factor)


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
