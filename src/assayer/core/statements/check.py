"""Statements in text held against the results they name: agrees, disagrees, undecided, not measured (METHODS 15)."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

from assayer.core.quantities.units import DENSITY, ENERGY, FORCE, HARDNESS, LENGTH, MASS, STRAIN, STRESS, TEMPERATURE, TIME, TORQUE, normalise_unit
from assayer.core.statements.words import (
    ABOUT,
    COMPARATIVES,
    COMPARED_FIRST,
    NEGATED,
    SUPERLATIVES,
    Property,
    direction_in,
    factor_in,
    part_in,
    property_in,
)
from assayer.core.stats.groups import Interval
from assayer.core.stats.verdicts import GoodSide

_DIMENSIONS = (STRESS, FORCE, LENGTH, MASS, TIME, TEMPERATURE, TORQUE, ENERGY, DENSITY, STRAIN, HARDNESS)
_NUMBER = r"(?<![\w.,])([+\-−]?\d+(?:[.,]\d+)?)"
_PERCENT = re.compile(_NUMBER + r"\s*(?:%|per ?cent\b)")
_VALUE = re.compile(_NUMBER + r"\s*(kJ/m²|kJ/m2|g/cm³|g/cm3|N/mm²|N/mm2|kgf/cm²|kg/cm²|Shore D|N·m|Nm|[°µ]?[A-Za-z€$]+(?:/[A-Za-z]+[²³23]?)?)?")
_SENTENCE = re.compile(r"[^.!?;\n]+(?:[.,]\d[^.!?;\n]*)*[.!?;]?")

WITHIN = 0.10
"""Share of a stated percentage or factor within which it agrees."""
POINT = 1.0
"""Percentage points within which a stated percentage agrees, whatever its size."""


class Kind(StrEnum):
    VALUE = "value"
    PERCENTAGE = "percentage"
    FACTOR = "factor"
    ORDER = "order"
    PROPERTY = "property"


class StatementVerdict(StrEnum):
    AGREES = "agrees"
    DISAGREES = "disagrees"
    UNDECIDED = "undecided"
    NOT_MEASURED = "not measured"


@dataclass(frozen=True, slots=True)
class MaterialResult:
    """A result that statements may name; `ci95` None where there is one value."""

    material: str
    quantity: str
    unit: str
    mean: float
    ci95: Interval | None
    better: GoodSide


@dataclass(frozen=True, slots=True)
class CheckedStatement:
    """A sentence with its verdict; `actual` is what was measured, with the likely slip."""

    text: str
    kind: Kind
    verdict: StatementVerdict
    actual: str = ""
    start: int = 0
    """Where the sentence begins in the text that it was found in."""


@dataclass(frozen=True, slots=True)
class _Sentence:
    """What a sentence names: its text in lower case, the material it is about and the one that is held against."""

    text: str
    plain: str
    subject: str | None
    other: str | None
    prop: Property | None
    results: Sequence[MaterialResult]

    def of(self, material: str | None) -> MaterialResult | None:
        """The material's result for the property, the most exactly named one first."""
        if self.prop is None:
            return None
        alike = [r for r in self.results if r.material == material and property_in(r.quantity.lower()) is self.prop]
        return max(alike, key=lambda r: len(r.quantity) if r.quantity.lower() in self.plain else 0, default=None)

    def said(self, kind: Kind, verdict: StatementVerdict, actual: str = "") -> CheckedStatement:
        return CheckedStatement(self.text, kind, verdict, actual)


def check_statement(text: str, results: Sequence[MaterialResult]) -> CheckedStatement:
    """Hold one sentence against the results.

    A percentage agrees within 10 % of itself or one point, whichever is more, a factor within 10 %, twice that after
    "about" or "almost"; a value agrees within its interval's half-width or its own rounding. An order whose 95 %
    intervals overlap is undecided.

    Parameters
    ----------
    text : str
        One sentence.
    results : sequence of MaterialResult
        What there is to hold it against.
    """
    sentence = _read(text, results)
    plain = sentence.plain
    percent, part, factor = _PERCENT.search(plain), part_in(plain), factor_in(plain)
    if percent is not None and (sentence.other is not None or COMPARATIVES.search(plain)):
        return _percentage(sentence, _number(percent[1]), f"{percent[1]} %", percent.span())
    if part is not None:
        return _percentage(sentence, part[0], f"{part[0]:.0f} %", part[1:])
    if factor is not None:
        return _factor(sentence, factor)
    if NEGATED.search(plain) and not COMPARATIVES.search(plain) and not SUPERLATIVES.search(plain):
        return _absence(sentence)
    value = _value_in(sentence)
    if value is not None:
        return _value(sentence, value)
    if COMPARATIVES.search(plain) or SUPERLATIVES.search(plain):
        return _order(sentence)
    return sentence.said(Kind.PROPERTY, StatementVerdict.NOT_MEASURED)


def check_text(text: str, results: Sequence[MaterialResult]) -> list[CheckedStatement]:
    """The statements of a longer text: sentences that name a material and say a number or an order about it."""
    checked = []
    for sentence in _SENTENCE.finditer(text):
        words = sentence[0].strip()
        read = _read(words, results)
        says = re.search(r"\d", words) or factor_in(read.plain) or COMPARATIVES.search(read.plain) or SUPERLATIVES.search(read.plain)
        if read.subject is not None and says:
            checked.append(replace(check_statement(words, results), start=sentence.start() + len(sentence[0]) - len(sentence[0].lstrip())))
    return checked


def _read(text: str, results: Sequence[MaterialResult]) -> _Sentence:
    plain = " ".join(text.replace("’", "'").lower().split())
    places, plain = _materials_in(plain, list(dict.fromkeys(r.material for r in results)))
    prop = property_in(plain)
    subject = other = None
    if places:
        subject = places[0][1]
        rest = [p for p in places[1:] if p[1] != subject]
        if rest:
            other = rest[0][1]
            if COMPARED_FIRST.search(plain[: places[0][0]]):
                subject, other = other, subject
        elif re.search(r"\b(?:than|as)\s*$", plain[: places[0][0]]):
            subject, other = None, subject
    return _Sentence(text, plain, subject, other, prop, results)


def _materials_in(plain: str, materials: Sequence[str]) -> tuple[list[tuple[int, str]], str]:
    """Where each material is named, in full or by a product name that only one has; and the text with those names made blank."""
    spellings = {m.lower(): m for m in materials}
    for material in materials:
        short = material.split(" ", 1)[-1].split(",")[0].lower()
        if len(short) > 3 and sum(short == m.split(" ", 1)[-1].split(",")[0].lower() for m in materials) == 1:
            spellings.setdefault(short, material)
    places = []
    for spelling in sorted(spellings, key=len, reverse=True):
        for mention in re.finditer(rf"(?<!\w){re.escape(spelling)}(?!\w)", plain):
            places.append((mention.start(), spellings[spelling]))
            plain = plain[: mention.start()] + "·" * len(spelling) + plain[mention.end() :]
    return sorted(places), plain


def _shown(value: float) -> str:
    """Three significant digits, without an exponent."""
    text = f"{value:#.3g}"
    return (f"{value:.0f}" if "e" in text else text).rstrip(".").replace("-", "−")


def _number(text: str) -> float:
    return float(text.replace(",", ".").replace("−", "-"))


def _slack(sentence: _Sentence, at: int) -> float:
    """2 after "about" or "almost", 1 otherwise."""
    return 2.0 if ABOUT.search(sentence.plain[:at]) else 1.0


def _percentage(sentence: _Sentence, stated: float, written: str, span: tuple[int, int]) -> CheckedStatement:
    a, b = sentence.of(sentence.subject), sentence.of(sentence.other)
    if a is None or b is None or b.mean == 0 or a.mean == 0:
        return sentence.said(Kind.PERCENTAGE, StatementVerdict.NOT_MEASURED, "" if sentence.other or not sentence.subject else "name what it is compared with")
    slack = _slack(sentence, span[0])

    def near(actual: float, said: float = stated) -> bool:
        return abs(actual - said) <= slack * max(WITHIN * abs(said), POINT)

    if re.match(r"\s*of\b", sentence.plain[span[1] :]):
        actual = 100 * a.mean / b.mean
        return sentence.said(Kind.PERCENTAGE, StatementVerdict.AGREES if near(actual) else StatementVerdict.DISAGREES, f"{actual:.1f} %")
    sign = direction_in(_around(sentence.plain, span), sentence.prop, b.better is not GoodSide.LOWER) if sentence.prop else 0
    actual = 100 * (a.mean - b.mean) / b.mean * (sign or 1)
    shown = f"{actual:.1f} %".replace("-", "−")
    if near(actual) or (sign == 0 and near(-actual)):
        return sentence.said(Kind.PERCENTAGE, StatementVerdict.AGREES, shown if sign or near(actual) else shown.lstrip("−"))
    other_base = 100 * (a.mean - b.mean) / a.mean * (sign or 1)
    if near(other_base):
        slip = f"{written} is of {sentence.subject}"
    elif near(actual + 100):
        slip = f"{written} is the whole, not the difference"
    elif any(near(actual, stated * shift) for shift in (0.1, 10)):
        slip = "a decimal point"
    elif near(-actual):
        slip = "the other way round"
    else:
        return sentence.said(Kind.PERCENTAGE, StatementVerdict.DISAGREES, shown)
    return sentence.said(Kind.PERCENTAGE, StatementVerdict.DISAGREES, f"{shown}: {slip}")


def _around(plain: str, span: tuple[int, int]) -> str:
    """The clause that a number stands in."""
    start = max(plain.rfind(mark, 0, span[0]) for mark in (", ", " and ", " but "))
    ends = [i for mark in (", ", " and ", " but ") if (i := plain.find(mark, span[1])) >= 0]
    clause = plain[max(start, 0) : min(ends, default=len(plain))]
    return clause if COMPARATIVES.search(clause) else plain


def _factor(sentence: _Sentence, stated: tuple[float, int, int]) -> CheckedStatement:
    value, start, _ = stated
    a, b = sentence.of(sentence.subject), sentence.of(sentence.other)
    if a is None or b is None or b.mean == 0 or a.mean == 0:
        return sentence.said(Kind.FACTOR, StatementVerdict.NOT_MEASURED, "" if sentence.other or not sentence.subject else "name what it is compared with")
    actual = a.mean / b.mean
    # "half as stiff" names a share of it; "twice weaker" means half
    is_less = sentence.prop is not None and value > 1 and direction_in(sentence.plain, sentence.prop, b.better is not GoodSide.LOWER) < 0
    said = 1 / value if is_less else value
    allowed = WITHIN * _slack(sentence, start)
    if abs(actual / said - 1) <= allowed:
        return sentence.said(Kind.FACTOR, StatementVerdict.AGREES, _shown(actual))
    slip = ": the other way round" if abs(actual * said - 1) <= allowed else ""
    return sentence.said(Kind.FACTOR, StatementVerdict.DISAGREES, _shown(actual) + slip)


def _value_in(sentence: _Sentence) -> re.Match[str] | None:
    """A number with a unit, read in the text as it was written."""
    for match in _VALUE.finditer(sentence.text.replace("’", "'")):
        if match[2] or any(r.unit in ("", "1") for r in sentence.results):
            return match
    return None


def _value(sentence: _Sentence, match: re.Match[str]) -> CheckedStatement:
    result = sentence.of(sentence.subject)
    if result is None:
        return sentence.said(Kind.VALUE, StatementVerdict.NOT_MEASURED)
    stated = _converted(_number(match[1]), match[2] or result.unit, result.unit)
    if stated is None:
        return sentence.said(Kind.VALUE, StatementVerdict.DISAGREES, f"the unit is {result.unit}")
    decimals = len(re.split(r"[.,]", match[1])[1]) if re.search(r"[.,]", match[1]) else 0
    rounding = 0.5 * 10**-decimals * _scale(match[2] or result.unit, result.unit)
    half = 0.0 if result.ci95 is None else (result.ci95.high - result.ci95.low) / 2
    allowed = max(half, rounding) * _slack(sentence, sentence.plain.find(match[1]))
    shown = f"{_shown(result.mean)} {result.unit}".strip()
    if abs(stated - result.mean) <= allowed:
        return sentence.said(Kind.VALUE, StatementVerdict.AGREES, shown)
    if abs(_number(match[1]) - result.mean) <= allowed:
        return sentence.said(Kind.VALUE, StatementVerdict.DISAGREES, f"the unit is {result.unit}")
    slip = ": a decimal point" if any(abs(stated * shift - result.mean) <= allowed for shift in (0.01, 0.1, 10, 100)) else ""
    return sentence.said(Kind.VALUE, StatementVerdict.DISAGREES, shown + slip)


def _converted(value: float, written: str, unit: str) -> float | None:
    """A value in another unit of the same dimension; None where there is none."""
    if normalise_unit(written) == normalise_unit(unit):
        return value
    for dimension in _DIMENSIONS:
        source, target = dimension.units.get(normalise_unit(written)), dimension.units.get(normalise_unit(unit))
        if source is not None and target is not None:
            return (value * source.factor + source.offset - target.offset) / target.factor
    return None


def _scale(written: str, unit: str) -> float:
    """How large a step of one in the written unit is in the other."""
    low, high = _converted(0.0, written, unit), _converted(1.0, written, unit)
    return 1.0 if low is None or high is None else abs(high - low)


def _absence(sentence: _Sentence) -> CheckedStatement:
    """ "Does not warp": held against 0 where the property was measured."""
    result = sentence.of(sentence.subject)
    if result is None or result.ci95 is None:
        return sentence.said(Kind.PROPERTY, StatementVerdict.NOT_MEASURED)
    shown = f"{_shown(result.mean)} {result.unit}".strip()
    return sentence.said(Kind.PROPERTY, StatementVerdict.DISAGREES if result.ci95.low > 0 else StatementVerdict.UNDECIDED, shown)


def _order(sentence: _Sentence) -> CheckedStatement:
    """Which of two has more, or that one has most of all."""
    a = sentence.of(sentence.subject)
    if a is None or sentence.prop is None:
        return sentence.said(Kind.ORDER, StatementVerdict.NOT_MEASURED)
    others = [sentence.of(m) for m in dict.fromkeys(r.material for r in sentence.results) if m != a.material and sentence.other in (None, m)]
    measured = [r for r in others if r is not None and r.unit == a.unit]
    sign = direction_in(sentence.plain, sentence.prop, a.better is not GoodSide.LOWER)
    is_superlative = SUPERLATIVES.search(sentence.plain) is not None
    if not measured or sign == 0 or (sentence.other is None and not is_superlative):
        return sentence.said(Kind.ORDER, StatementVerdict.NOT_MEASURED, "" if sentence.other or is_superlative else "name what it is compared with")
    ahead = [r for r in measured if sign * (r.mean - a.mean) > 0 and not _overlap(r, a)]
    if ahead:
        first = max(ahead, key=lambda r: sign * r.mean)
        return sentence.said(Kind.ORDER, StatementVerdict.DISAGREES, f"{first.material} {_shown(first.mean)}, {a.material} {_shown(a.mean)} {a.unit}".strip())
    if any(_overlap(r, a) for r in measured):
        return sentence.said(Kind.ORDER, StatementVerdict.UNDECIDED, "intervals overlap")
    nearest = max(measured, key=lambda r: sign * r.mean)
    return sentence.said(Kind.ORDER, StatementVerdict.AGREES, f"{_shown(a.mean)} against {_shown(nearest.mean)} {a.unit}".strip())


def _overlap(a: MaterialResult, b: MaterialResult) -> bool:
    """Whether two 95 % intervals overlap; a single value has none, and so cannot be ruled out."""
    if a.ci95 is None or b.ci95 is None:
        return True
    return a.ci95.low <= b.ci95.high and b.ci95.low <= a.ci95.high
