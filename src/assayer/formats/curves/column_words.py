"""The words by which columns of a recording are known, in the languages of the rigs we have met.

Words are compared without accents and in lower case. A long stem may stand inside a compound
("Traversenweg", "Standardkraft"); a short word must stand alone.
"""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache

from assayer.core.curves.recording import CHANNELS
from assayer.core.errors import EntryError
from assayer.core.quantities.units import DIMENSIONS, STRESS, Dimension, Unit, normalise_unit

ROLES: Mapping[str, Dimension] = {name: DIMENSIONS[CHANNELS[name]] for name in ("time", "travel", "force", "strain", "torque", "angle", "temperature")}
PULL = ("force", "travel", "strain", "time")
"""What a file is read for unless a rig does something else: the first is needed, the second is asked for where a column may be it."""

LOG = ("temperature", "time")
"""What a thermometer's logger writes."""

_STEMS: Mapping[str, tuple[str, ...]] = {
    "time": ("time", "zeit", "elapsed", "temps", "tiempo", "tempo", "tijd", "czas", "vrijeme", "dauer", "durat"),
    "travel": (
        "travel", "position", "displac", "crosshead", "stroke", "traverse", "verfahrweg", "standardweg", "prufweg", "maschinenweg", "deplac",
        "course", "desplaz", "recorrido", "corsa", "spostam", "verplaats", "przemieszcz", "posun", "forskyd", "forflytt",
        "durchbieg", "absenk", "deflect", "fleche",
    ),
    "force": ("force", "kraft", "fuerza", "carga", "effort", "charge", "forza", "carico", "kracht", "belasting", "zatizeni", "obciazen"),
    "strain": ("strain", "extensomet", "ausdehnungsmess"),
    "torque": ("torque", "drehmoment", "moment", "couple", "momento", "coppia", "koppel"),
    "angle": ("angle", "winkel", "angulo", "angolo", "hoek", "rotation", "verdreh", "twist"),
    "temperature": ("temperatur",),
    "stretch": ("extension", "elongat", "dehnung", "verlanger", "deformat", "deformac", "allungam", "alargam", "allong", "uitrek", "wydluz"),
    "other": ("stress", "spannung", "contrainte", "esfuerzo", "sforzo", "spanning", "voltage", "humid", "speed", "geschwind", "marker"),
}  # fmt: skip
_WORDS: Mapping[str, tuple[str, ...]] = {
    "time": ("t",),
    # symbols of the standards: L, ΔL or s for a length
    "torque": ("m", "mt"),
    "angle": ("θ", "phi", "φ"),
    "temperature": ("temp", "t", "ϑ"),
    "travel": ("sag", "pos", "weg", "hub", "vei", "vag", "droga", "l", "δl", "dl", "s", "δs", "ds"),
    "force": ("f", "load", "last", "sila", "voima"),
    "strain": ("rek", "eps", "epsilon", "ε"),
    "other": ("no", "nr", "index", "point", "cycle", "row", "sample", "#", "id", "date", "datum", "fecha", "σ", "sigma", "v"),
}
_SPLIT = re.compile(r"[\s_,;:/=-]+")
_BRACKETS = re.compile(r"[\[(]([^\])]*)[\])]")
_UNIT_NOTE = re.compile(r"\b(?:units?|einheit|unite|unidad|unita|eenheid)\b\s*[:=;]?\s*(\S+)", re.IGNORECASE)


@dataclass(frozen=True, slots=True)
class HeaderCell:
    """What one header cell says: the roles it may have, and the unit it names (as written)."""

    text: str
    roles: tuple[str, ...]
    unit: str | None


def plain(text: str) -> str:
    """Lower case without accents."""
    return "".join(c for c in unicodedata.normalize("NFKD", text.lower()) if not unicodedata.combining(c))


@lru_cache(maxsize=512)
def read_header_cell(text: str, unit_below: str | None) -> HeaderCell:
    """Read a header cell; `unit_below` is the cell of a unit row, if there is one."""
    bracketed = _BRACKETS.search(text)
    unit = unit_below or (bracketed[1].strip() if bracketed else None)
    name = _BRACKETS.sub(" ", text)
    tokens = [t for t in _SPLIT.split(name.strip()) if t]
    if unit is None and len(tokens) > 1 and any_unit(tokens[-1]) is not None:
        unit = tokens[-1]
        tokens = tokens[:-1]
    words = [plain(t).rstrip(".") for t in tokens]
    roles: list[str] = []
    for role, stems in _STEMS.items():
        if any(stem in word for word in words for stem in stems) or any(word in _WORDS.get(role, ()) for word in words):
            roles.append(role)
    if "strain" in roles and "stretch" in roles:
        roles.remove("stretch")
    if not roles and any(word in _WORDS["other"] for word in words):
        roles.append("other")
    # a word for being drawn out means travel or strain: its unit tells which
    if "stretch" in roles and "travel" in roles:
        roles.remove("stretch")
    return HeaderCell(text, tuple("travel_or_strain" if r == "stretch" else r for r in roles), unit or None)


@lru_cache(maxsize=512)
def any_unit(text: str) -> Unit | None:
    """The unit written as `text`, of whichever dimension a recording may hold."""
    for dimension in (*ROLES.values(), STRESS):
        found = dimension.units.get(normalise_unit(text))
        if found is not None:
            return found
    return None


def unit_in_preamble(lines: list[str], dimension: Dimension) -> str | None:
    """A unit of `dimension` that the preamble declares for the whole file ("# unit kgf")."""
    for line in lines:
        for match in _UNIT_NOTE.finditer(plain(line)):
            try:
                return dimension.unit(match[1].strip(";,")).symbol
            except EntryError:
                continue
    return None
