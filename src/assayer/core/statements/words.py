"""The words that sentences about materials use: properties, comparisons, factors."""

from __future__ import annotations

import re
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Property:
    """A property that words name; `labels` occur in the names of its quantities.

    `higher` and `lower` are comparatives and superlatives that say which way a material differs; `verbs` name the
    property without saying which way ("creeps").
    """

    name: str
    labels: tuple[str, ...]
    nouns: tuple[str, ...]
    higher: tuple[str, ...] = ()
    lower: tuple[str, ...] = ()
    verbs: tuple[str, ...] = ()


# what is more special comes first: "stronger between the layers" is no tensile strength
PROPERTIES: tuple[Property, ...] = (
    Property(
        "layer adhesion",
        ("layer adhesion", "layer strength"),
        ("layer adhesion", "interlayer strength", "layer strength", "layer bonding", "between the layers", "between layers", "upright"),
    ),
    Property("layer ratio", ("layer ratio",), ("layer ratio",)),
    Property("bending modulus", ("bending modulus", "flexural modulus"), ("bending modulus", "flexural modulus")),
    Property("bending strength", ("bending strength", "flexural strength"), ("bending strength", "flexural strength")),
    Property(
        "impact strength",
        ("impact",),
        ("impact strength", "impact resistance", "notched impact", "impact", "toughness"),
        ("tougher", "toughest", "tough"),
        ("more brittle", "most brittle", "brittle"),
    ),
    Property(
        "strain at break",
        ("strain at break", "elongation"),
        ("strain at break", "elongation at break", "elongation"),
        ("more ductile", "most ductile", "ductile"),
        (),
        ("stretches", "stretch", "elongates"),
    ),
    Property(
        "stiffness",
        ("modulus", "stiffness"),
        ("tensile modulus", "young's modulus", "modulus", "stiffness"),
        ("stiffer", "stiffest", "stiff"),
        ("more flexible", "most flexible", "flexible"),
    ),
    Property("creep", ("creep",), ("creep",), (), (), ("creeps", "creep", "crept")),
    Property(
        "heat resistance",
        ("heat", "sag", "deflection temperature", "softening"),
        ("heat resistance", "heat deflection", "deflection temperature", "sag temperature", "softening temperature", "first sag"),
        ("more heat resistant", "most heat resistant", "heat resistant"),
        (),
        ("sags", "softens"),
    ),
    Property("warp", ("warp", "lift"), ("warping", "warpage", "warp", "corner lift"), (), ("flatter", "flattest"), ("warps", "warp", "lifts", "warped")),
    Property("shrinkage", ("shrink",), ("shrinkage",), (), (), ("shrinks", "shrink")),
    Property("hardness", ("hardness",), ("hardness",), ("harder", "hardest"), ("softer", "softest")),
    Property("density", ("density",), ("density",), ("denser", "densest", "heavier", "heaviest"), ("lighter", "lightest")),
    Property(
        "price",
        ("price", "cost"),
        ("price", "cost"),
        ("more expensive", "most expensive", "dearer", "dearest"),
        ("cheaper", "cheapest", "cheap"),
        ("costs", "cost"),
    ),
    Property(
        "print time",
        ("print time",),
        ("print time", "printing time"),
        ("slower to print", "slowest to print"),
        ("faster to print", "fastest to print", "quicker to print"),
    ),
    Property(
        "strength",
        ("strength",),
        ("tensile strength", "strength"),
        ("stronger", "strongest", "strong"),
        ("weaker", "weakest", "weak"),
        ("bears", "bore", "withstands", "withstood", "holds", "held", "reached", "reaches", "breaks at", "broke at"),
    ),
)

_STRENGTH = PROPERTIES[-1]
HIGHER = ("more", "higher", "greater", "larger", "most", "highest", "greatest", "largest")
LOWER = ("less", "lower", "smaller", "fewer", "least", "lowest", "smallest")
BETTER = ("better", "best", "superior")
WORSE = ("worse", "worst", "poorer", "poorest", "inferior")
SUPERLATIVES = re.compile(
    r"\b(?:most|least|best|worst|highest|lowest|greatest|smallest|largest|poorest|strongest|weakest|stiffest|toughest|hardest|softest|cheapest|dearest|"
    r"densest|heaviest|lightest|flattest|fastest|slowest)\b"
)
COMPARATIVES = re.compile(
    r"\b(?:more|less|better|worse|higher|lower|greater|smaller|larger|stronger|weaker|stiffer|tougher|harder|softer|cheaper|dearer|denser|heavier|"
    r"lighter|flatter|faster|slower|superior|inferior|beats|outperforms|exceeds|surpasses)\b"
)
ABOUT = re.compile(r"\b(?:about|almost|nearly|roughly|around|approximately|some|close to|just (?:over|under)|circa|ca\.|more or less)\s*$|[~≈]\s*$")
NEGATED = re.compile(r"\b(?:does not|doesn't|do not|did not|didn't|no|never|without|free of|not)\b|-free\b")
COMPARED_FIRST = re.compile(r"\b(?:than|compared (?:with|to)|relative to|against|versus|unlike)(?:\s+(?:the|that of))*\s*$")

_COUNTS = {"two": 2.0, "three": 3.0, "four": 4.0, "five": 5.0, "six": 6.0, "seven": 7.0, "eight": 8.0, "nine": 9.0, "ten": 10.0}
_PARTS = {"half": 1 / 2, "third": 1 / 3, "quarter": 1 / 4, "fifth": 1 / 5, "tenth": 1 / 10}
_NUMBER = r"(\d+(?:[.,]\d+)?)"
_FACTOR = re.compile(
    rf"\b(?:(?P<twice>twice|double|thrice|triple)|(?P<count>{'|'.join(_COUNTS)})[ -]?(?:times|fold)"
    rf"|(?P<many>one|a|{'|'.join(_COUNTS)})?[ -]?(?P<part>half|third|quarter|fifth|tenth)s?\b(?= (?:as|of|the|that|less|more|lower|higher)))"
    rf"|{_NUMBER.replace('(', '(?P<times>', 1)}\s*(?:×|x\b|times\b|-?fold\b)"
)


_PART_MORE = re.compile(rf"\b(?P<many>a|one|{'|'.join(_COUNTS)}) (?P<part>{'|'.join(_PARTS)})s? (?=more|less|better|worse|\w+er\b)")


def part_in(plain: str) -> tuple[float, int, int] | None:
    """A difference stated as a part ("a fifth stronger"), in percent, and where it is written."""
    match = _PART_MORE.search(plain)
    return None if match is None else (100 * _COUNTS.get(match["many"], 1.0) * _PARTS[match["part"]], match.start(), match.end())


def factor_in(plain: str) -> tuple[float, int, int] | None:
    """A factor that a sentence states ("twice", "half as", "1.5 times"), and where it is written."""
    match = _FACTOR.search(plain)
    if match is None:
        return None
    if match["twice"]:
        value = 3.0 if match["twice"] in ("thrice", "triple") else 2.0
    elif match["count"]:
        value = _COUNTS[match["count"]]
    elif match["part"]:
        value = _COUNTS.get(match["many"] or "", 1.0) * _PARTS[match["part"]]
    else:
        value = float(match["times"].replace(",", "."))
    return value, match.start(), match.end()


def property_in(plain: str) -> Property | None:
    """The property that a sentence names, by its nouns before its adjectives and verbs."""
    for words in ("nouns", "adjectives", "verbs"):
        for prop in PROPERTIES:
            named = prop.nouns if words == "nouns" else (*prop.higher, *prop.lower) if words == "adjectives" else prop.verbs
            if any(re.search(rf"\b{re.escape(w)}\b", plain) for w in named):
                return prop
    return None


def direction_in(plain: str, prop: Property, higher_is_better: bool) -> int:
    """+1 where a sentence says that the first material has more of a property, −1 where less, 0 where it does not say."""
    if any(re.search(rf"\b(?:less|not as|not so|least) {re.escape(w)}\b", plain) for w in prop.higher):
        return -1
    good = 1 if higher_is_better else -1
    # "the weakest between the layers" says with words of strength what it means of layer adhesion
    usual = ((prop.higher, 1), (prop.lower, -1), (_STRENGTH.higher, 1), (_STRENGTH.lower, -1), (HIGHER, 1), (LOWER, -1), (BETTER, good), (WORSE, -good))
    for words, sign in usual:
        if any(re.search(rf"\b{re.escape(w)}\b", plain) for w in words):
            return sign
    if re.search(r"\b(?:beats|outperforms|exceeds|surpasses)\b", plain):
        return good
    return 0
