"""Makers' statements: tied to a quantity where the words allow, and held against one another.

A statement is kept as it was said. Reading it is a proposal: what is not understood stays a plain statement.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from assayer.core.errors import EntryError
from assayer.core.filament.window import SPANS, Span, Window
from assayer.core.quantities.units import DENSITY, FLOW, LENGTH, SPEED, STRAIN, STRESS, TEMPERATURE, Dimension, normalise_unit

RELATIONS = ("value", "at least", "at most", "times", "more", "less", "none", "needed", "not needed", "plain")


@dataclass(frozen=True, slots=True)
class ClaimQuantity:
    """A quantity that claims are about; `dimension` None where the unit is taken as written."""

    name: str
    label: str
    dimension: Dimension | None
    words: tuple[str, ...]


# the longer words come first: "layer adhesion strength" is no tensile strength
QUANTITIES: tuple[ClaimQuantity, ...] = (
    ClaimQuantity(
        "layer_adhesion", "layer adhesion", STRESS,
        ("layer adhesion", "interlayer strength", "layer bonding", "layer strength", "z strength", "between the layers", "between layers"),
    ),
    ClaimQuantity("impact", "impact strength", None, ("impact strength", "impact resistance", "notched impact", "impact", "tougher", "toughness")),
    ClaimQuantity("bending_strength", "bending strength", STRESS, ("bending strength", "flexural strength")),
    ClaimQuantity("bending_modulus", "bending modulus", STRESS, ("bending modulus", "flexural modulus")),
    ClaimQuantity("strain_at_break", "strain at break", STRAIN, ("strain at break", "elongation at break", "elongation")),
    ClaimQuantity("strength", "tensile strength", STRESS, ("tensile strength", "strength at break", "strength", "stronger", "strong")),
    ClaimQuantity("apparent_modulus", "tensile modulus", STRESS, ("tensile modulus", "young's modulus", "e-modulus", "modulus", "stiffness", "stiffer")),
    ClaimQuantity("heat", "heat resistance", TEMPERATURE, ("heat deflection", "heat resistance", "heat resistant", "softening", "hdt", "vicat")),
    ClaimQuantity("creep", "creep", None, ("creep",)),
    ClaimQuantity("warp", "warp", LENGTH, ("warping", "warpage", "warp")),
    ClaimQuantity("stringing", "stringing", None, ("stringing", "strings")),
    ClaimQuantity("surface", "surface finish", None, ("surface finish", "layer lines", "surface")),
    ClaimQuantity("shrinkage", "shrinkage", STRAIN, ("shrinkage", "shrinking")),
    ClaimQuantity("density", "density", DENSITY, ("density",)),
    ClaimQuantity("nozzle", "nozzle temperature", TEMPERATURE, ("nozzle temperature", "extrusion temperature", "print temperature", "prints at")),
    ClaimQuantity("bed", "bed temperature", TEMPERATURE, ("bed temperature", "heated bed")),
    ClaimQuantity("chamber", "chamber temperature", TEMPERATURE, ("chamber temperature",)),
    ClaimQuantity("flow", "volumetric flow", FLOW, ("volumetric flow", "flow rate", "flow")),
    ClaimQuantity("speed", "print speed", SPEED, ("print speed", "speed", "prints up to", "fast")),
    ClaimQuantity("nozzle_size", "nozzle size", LENGTH, ("nozzle size", "nozzle of", "nozzles from")),
    ClaimQuantity("enclosure", "enclosure", None, ("enclosure", "enclosed", "open printer", "open frame", "open machines")),
    ClaimQuantity("hardened", "hardened nozzle", None, ("hardened", "brass nozzle", "any nozzle", "standard nozzle")),
    ClaimQuantity("drying", "drying", None, ("drying", "pre-dry", "dry before", "dried")),
)  # fmt: skip
_BY_NAME = {q.name: q for q in QUANTITIES}

_METHOD = re.compile(r"\b((?:DIN\s+EN\s+|DIN\s+|EN\s+)?(?:ISO|ASTM|DIN|EN|JIS)\s?[A-Z]?\s?\d[\d/-]*(?:\s?[A-Z]\b)?)")
_NUMBER = r"(\d+(?:[.,]\d+)?)"
_VALUE = re.compile(_NUMBER + r"\s*([%‰°µμA-Za-z][\w%/²³°·.^]*|%)?")
_TIMES = re.compile(
    r"\b(twice|double|half|thrice|" + _NUMBER + r"\s*(?:x|×|times)|(?:two|three|four|five|ten) times)\b\s*(?:the|as|more|of the)?", re.IGNORECASE
)
_MORE = re.compile(_NUMBER + r"\s*%\s*(more|higher|better|stronger|stiffer|less|lower|greater)", re.IGNORECASE)
_REFERENCE = re.compile(r"\b(?:of|than|as|over|compared (?:to|with)|vs\.?)\s+(?!the\s+(?:layer|strength|stiffness))(.+?)$", re.IGNORECASE)
_NONE = re.compile(r"\b(?:no|zero|without|free of|never|does not|doesn't|do not|will not|won't)\b|-free\b", re.IGNORECASE)
_COMPARED_TO = re.compile(
    r"\b(?:(more|higher|better|greater|stronger|stiffer|tougher|harder)|(less|lower|weaker|softer|fewer))\b.*?\bthan\s+(?![\d≥≤])(.+?)\s*$", re.IGNORECASE
)
_NEED_NOT = re.compile(
    r"\bno\b.*\b(?:needed|required|necessary)\b|\bno (?:enclosure|drying|hardened)|\bnot (?:needed|required|necessary)"
    r"|\bwithout (?:an? )?(?:enclosure|drying)|\bneeds? no\b",
    re.IGNORECASE,
)
_HARDWARE = ("enclosure", "hardened", "drying")
_OPEN = re.compile(r"\bopen (?:printer|frame|machine)|\bany nozzle|\b(?:brass|standard) nozzle", re.IGNORECASE)
_FACTORS = {"twice": 2.0, "double": 2.0, "half": 0.5, "thrice": 3.0, "two": 2.0, "three": 3.0, "four": 4.0, "five": 5.0, "ten": 10.0}


@dataclass(frozen=True, slots=True)
class Statement:
    """One statement as read; `value` in the base unit of its quantity where it has one, a factor for 'times'."""

    text: str
    quantity: str | None = None
    relation: str = "plain"
    value: float | None = None
    unit: str = ""
    reference: str = ""
    method: str = ""


def split_statements(text: str) -> list[str]:
    """Statements of one cell or paragraph: parted by semicolons and line ends, without "claims" and quotes."""
    parts = re.split(r"[;\n]+", text)
    cleaned = (re.sub(r"^\s*(?:the maker )?(?:claims|claim)\s*:?\s*", "", p, flags=re.IGNORECASE).strip().strip("\"'“”„«»").strip() for p in parts)
    return [p for p in cleaned if p]


def read_statement(text: str, about: str | None = None) -> Statement:
    """Tie a statement to a quantity where its words allow it.

    Parameters
    ----------
    text : str
    about : str, optional
        Name of the quantity that it is about, where a person says so; "" ties it to none.

    Raises
    ------
    EntryError
        If claims are not about such a quantity.
    """
    if about and about not in _BY_NAME:
        raise EntryError(f"claims are not about '{about}'", "quantity")
    method = _METHOD.search(text)
    words = _METHOD.sub(" ", text)
    plain = words.lower()
    quantity = next((q for q in QUANTITIES if any(w in plain for w in q.words)), None) if about is None else _BY_NAME.get(about)
    if quantity is None:
        return Statement(text, method=method[1] if method else "")
    base: dict[str, Any] = {"text": text, "quantity": quantity.name, "method": re.sub(r"\s+", " ", method[1]).strip() if method else ""}
    if quantity.name in _HARDWARE:
        need_not = bool(_NEED_NOT.search(plain) or _OPEN.search(plain))
        return Statement(**base, relation="not needed" if need_not else "needed")
    compared = _compared(words)
    if compared is not None:
        return Statement(**base, relation="times", value=compared[0], reference=compared[1])
    order = _COMPARED_TO.search(words)
    if order is not None:
        return Statement(**base, relation="more" if order[1] else "less", reference=order[3].strip(" .\"'“”"))
    found = _VALUE.search(_without_quantity_words(words, quantity))
    if found is not None:
        return _with_value(base, quantity, found, plain)
    if _NONE.search(plain):
        return Statement(**base, relation="none")
    return Statement(**base)


def _without_quantity_words(words: str, quantity: ClaimQuantity) -> str:
    for word in quantity.words:
        words = re.sub(re.escape(word), " ", words, flags=re.IGNORECASE)
    return words


def _with_value(base: dict[str, Any], quantity: ClaimQuantity, found: re.Match[str], plain: str) -> Statement:
    number = float(found[1].replace(",", "."))
    written = found[2] or ""
    value, unit = number, written
    if quantity.dimension is not None:
        known = quantity.dimension.units.get(normalise_unit(written))
        if known is None:
            # a number without its unit, or of something else, stays words: a unit is never guessed
            return Statement(**base)
        value, unit = number * known.factor + known.offset, quantity.dimension.base
    relation = (
        "at least" if re.search(r"at least|≥|>|more than|from\b", plain) else "at most" if re.search(r"at most|≤|<|up to|less than|below", plain) else "value"
    )
    return Statement(**base, relation=relation, value=value, unit=unit)


def _compared(words: str) -> tuple[float, str] | None:
    factor = None
    times, more = _TIMES.search(words), _MORE.search(words)
    if times is not None:
        first = times[1].lower().split()[0].rstrip("x×")
        factor = _FACTORS.get(first) or float((times[2] or first).replace(",", "."))
    elif more is not None:
        share = float(more[1].replace(",", ".")) / 100
        factor = 1 - share if more[2].lower() in ("less", "lower") else 1 + share
    if factor is None:
        return None
    rest = words[(times or more).end() :]  # type: ignore[union-attr]
    reference = _REFERENCE.search(rest)
    return factor, reference[1].strip(" .\"'“”") if reference else ""


@dataclass(frozen=True, slots=True)
class Contradiction:
    """Two statements of one maker that cannot both hold."""

    about: str
    first: str
    second: str

    @property
    def text(self) -> str:
        return f"{self.about}: “{self.first}” against “{self.second}”"


SAME_VALUE = 0.05
"""Share by which two values for one quantity may differ and still be the same statement, rounded."""


def contradictions(window: Window, density: float | None, statements: Sequence[Statement]) -> list[Contradiction]:
    """What the maker says twice and differently, in the window or among the statements."""
    found = [c for s in statements for c in _against_window(window, density, s)]
    for i, a in enumerate(statements):
        for b in statements[i + 1 :]:
            if a.quantity is not None and a.quantity == b.quantity and _differ(a, b):
                found.append(Contradiction(_BY_NAME[a.quantity].label, a.text, b.text))
    return found


def _differ(a: Statement, b: Statement) -> bool:
    if {a.relation, b.relation} == {"needed", "not needed"}:
        return True
    if a.relation != b.relation or a.relation not in ("value", "times") or a.value is None or b.value is None:
        return False
    # unlike methods and unlike references give unlike figures without any contradiction
    if a.relation == "value" and a.method and b.method and a.method != b.method:
        return False
    if a.relation == "times" and a.reference.casefold() != b.reference.casefold():
        return False
    return abs(a.value - b.value) > SAME_VALUE * max(abs(a.value), abs(b.value))


def _against_window(window: Window, density: float | None, s: Statement) -> list[Contradiction]:
    if s.relation in ("needed", "not needed"):
        said: dict[str, tuple[bool | None, str, str]] = {
            "enclosure": (window.enclosure, "enclosure needed", "no enclosure needed"),
            "hardened": (window.hardened, "hardened nozzle needed", "no hardened nozzle needed"),
            "drying": (window.dry_temperature is not None or None, f"drying at {window.dry_temperature or 0:g} °C", ""),
        }
        wanted, yes, no = said[s.quantity or ""]
        if wanted is not None and wanted != (s.relation == "needed"):
            return [Contradiction(_BY_NAME[s.quantity or ""].label, yes if wanted else no, s.text)]
        return []
    if s.value is None or s.relation not in ("value", "at least", "at most"):
        return []
    for name, label, unit in SPANS:
        span: Span = getattr(window, name)
        if s.quantity == name and span.known and not span.holds(s.value):
            return [Contradiction(label, f"{label} {span.words(unit)}", s.text)]
    if s.quantity == "flow" and window.flow_max is not None and s.value > window.flow_max:
        return [Contradiction("volumetric flow", f"flow limit {window.flow_max:g} mm³/s", s.text)]
    if s.quantity == "nozzle_size" and window.nozzle_min is not None and s.value < window.nozzle_min:
        return [Contradiction("nozzle size", f"least nozzle {window.nozzle_min:g} mm", s.text)]
    if s.quantity == "density" and density is not None and abs(s.value - density) > 0.02 * density:
        return [Contradiction("density", f"density {density:g} g/cm³", s.text)]
    return []
