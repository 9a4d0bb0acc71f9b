"""From the text of a formula to a tree: numbers, names, functions; every node knows its place in the text."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Literal

from assayer.core.formulas.dimensions import UNITS, unit_named
from assayer.core.formulas.errors import FormulaError

LONGEST = 1000
"""Characters."""
DEEPEST = 40
"""Brackets and signs within one another."""

_TOKEN = re.compile(
    r"\s*(?:(?P<number>(?:[0-9]+(?:[.,][0-9]*)?|[.,][0-9]+)(?:[eE][+\-]?[0-9]+)?)|(?P<name>[A-Za-z_][A-Za-z0-9_]*)|(?P<mark>\*\*|[-+−*·×/÷^()²³;]))"
)
_UNIT = re.compile(r"\s*(?P<unit>" + "|".join(re.escape(u) for u in sorted(UNITS, key=len, reverse=True) if u != "1") + r")(?![A-Za-z0-9_²³(])")
"""Right behind a number; one that is written with others, such as m/s², is taken whole."""


@dataclass(frozen=True, slots=True)
class Token:
    kind: Literal["number", "unit", "name", "mark", "end"]
    text: str
    start: int
    end: int


@dataclass(frozen=True, slots=True)
class Number:
    value: float
    unit: str | None
    start: int
    end: int
    comma: bool = False
    """Whether it was written with a decimal comma, which between the values of a function may have been meant to part two."""


@dataclass(frozen=True, slots=True)
class Name:
    name: str
    start: int
    end: int


@dataclass(frozen=True, slots=True)
class Call:
    function: str
    arguments: tuple[Node, ...]
    start: int
    end: int


@dataclass(frozen=True, slots=True)
class Negative:
    of: Node
    start: int
    end: int


@dataclass(frozen=True, slots=True)
class Binary:
    operator: Literal["+", "-", "*", "/", "^"]
    left: Node
    right: Node
    start: int
    end: int


Node = Number | Name | Call | Negative | Binary
_SAME = {"−": "-", "·": "*", "×": "*", "÷": "/", "**": "^"}


def tokens(text: str) -> list[Token]:
    """The words of a formula.

    Raises
    ------
    FormulaError
        At the first character that belongs to none.
    """
    if len(text) > LONGEST:
        raise FormulaError(f"a formula has at most {LONGEST} characters", LONGEST, len(text))
    found: list[Token] = []
    at, end = 0, len(text.rstrip())
    while at < end:
        match = _TOKEN.match(text, at)
        if match is None or match.end() == at:
            start = at + len(text[at:]) - len(text[at:].lstrip())
            raise FormulaError(f"'{text[start]}' has no meaning here", start, start + 1)
        if match["number"] is not None:
            found.append(Token("number", match["number"], match.start("number"), match.end("number")))
            unit = _UNIT.match(text, match.end())
            if unit is not None:
                found.append(Token("unit", unit["unit"], unit.start("unit"), unit.end("unit")))
                match = unit
        elif match["name"] is not None:
            found.append(Token("name", match["name"], match.start("name"), match.end("name")))
        else:
            found.append(Token("mark", match["mark"], match.start("mark"), match.end("mark")))
        at = match.end()
    found.append(Token("end", "", end, end))
    return found


def parse(text: str) -> Node:
    """The tree of a formula.

    Raises
    ------
    FormulaError
        Names the place where it stops making sense.
    """
    return _Parser(tokens(text)).whole()


class _Parser:
    def __init__(self, words: list[Token]) -> None:
        self.words = words
        self.at = 0
        self.depth = 0

    @property
    def next(self) -> Token:
        return self.words[self.at]

    def take(self) -> Token:
        token = self.words[self.at]
        self.at += 1
        return token

    def is_mark(self, *marks: str) -> bool:
        return self.next.kind == "mark" and _SAME.get(self.next.text, self.next.text) in marks

    def whole(self) -> Node:
        if self.next.kind == "end":
            raise FormulaError("write a formula", 0, 0)
        node = self.sum()
        found = self.next
        if found.text:
            hint = ": arguments are parted by ';'" if found.text == ";" else ": an operator is missing before it" if found.kind != "mark" else ""
            raise FormulaError(f"'{found.text}' is not expected here{hint}", found.start, found.end)
        return node

    def sum(self) -> Node:
        self.depth += 1
        if self.depth > DEEPEST:
            raise FormulaError(f"more than {DEEPEST} brackets within one another", self.next.start, self.next.end)
        node = self.product()
        while self.is_mark("+", "-"):
            operator = _SAME.get(self.take().text, self.words[self.at - 1].text)
            right = self.product()
            node = Binary("+" if operator == "+" else "-", node, right, node.start, right.end)
        self.depth -= 1
        return node

    def product(self) -> Node:
        node = self.signed()
        while self.is_mark("*", "/"):
            text = self.take().text
            right = self.signed()
            node = Binary("*" if _SAME.get(text, text) == "*" else "/", node, right, node.start, right.end)
        return node

    def signed(self) -> Node:
        if not self.is_mark("+", "-"):
            return self.power()
        self.depth += 1
        if self.depth > DEEPEST:
            raise FormulaError(f"more than {DEEPEST} signs within one another", self.next.start, self.next.end)
        sign = self.take()
        node = self.signed()
        self.depth -= 1
        return node if sign.text == "+" else Negative(node, sign.start, node.end)

    def power(self) -> Node:
        node = self.atom()
        if self.is_mark("^"):
            self.take()
            exponent = self.signed()
            return Binary("^", node, exponent, node.start, exponent.end)
        if self.is_mark("²", "³"):
            mark = self.take()
            return Binary("^", node, Number(2.0 if mark.text == "²" else 3.0, None, mark.start, mark.end), node.start, mark.end)
        return node

    def atom(self) -> Node:
        token = self.take()
        if token.kind == "number":
            return self.number(token)
        if token.kind == "name":
            if self.is_mark("("):
                return self.call(token)
            return Name(token.text, token.start, token.end)
        if token.text == "(":
            node = self.sum()
            self.close(token)
            return node
        what = "the formula ends here, but something is missing" if token.kind == "end" else f"'{token.text}' is not expected here: a number, a name or '(' is"
        raise FormulaError(what, token.start, token.end)

    def number(self, token: Token) -> Node:
        value = float(token.text.replace(",", "."))
        if value == float("inf"):
            raise FormulaError("this number is too large", token.start, token.end)
        if self.next.kind not in ("name", "unit"):
            return Number(value, None, token.start, token.end, "," in token.text)
        unit = self.next
        symbol = unit_named(unit.text)
        # another spelling of a unit stands as a name; with a bracket behind it, it is a function
        if symbol is None or (unit.kind == "name" and self.words[self.at + 1].text == "("):
            raise FormulaError(f"'{unit.text}' is no unit; to multiply, write * before it", unit.start, unit.end)
        self.take()
        return Number(value, symbol, token.start, unit.end, "," in token.text)

    def call(self, name: Token) -> Node:
        opening = self.take()
        arguments = [self.sum()]
        while self.is_mark(";"):
            self.take()
            arguments.append(self.sum())
        end = self.close(opening)
        return Call(name.text, tuple(arguments), name.start, end)

    def close(self, opening: Token) -> int:
        if not self.is_mark(")"):
            found = self.next
            what = "the formula ends here" if found.kind == "end" else f"'{found.text}' stands here"
            place = (opening.start, opening.end) if found.kind == "end" else (found.start, found.end)
            raise FormulaError(f"a ')' is missing: {what}", *place)
        return self.take().end
