"""Mass and cost of filament (METHODS 11)."""

from __future__ import annotations

import math
from dataclasses import dataclass

from assayer.core.errors import EntryError
from assayer.core.quantities.slips import Question

_NEAR = 0.05
"""Share of the label by which a net mass may be below what the book holds before it is asked about."""
GROSS_FOR_NET = 1.08
"""Net mass above this share of the label is hardly true: no maker gives away so much."""


def net_mass(gross: float, empty: float) -> float:
    """Net = gross − empty, g.

    Raises
    ------
    EntryError
        If nothing would be left, or a mass is not positive.
    """
    if gross <= 0:
        raise EntryError(f"gross mass {gross:g} g: a spool weighs more than nothing", "gross")
    if empty < 0:
        raise EntryError(f"empty mass {empty:g} g cannot be below 0", "empty")
    if gross <= empty:
        raise EntryError(f"gross {gross:g} g is not above the empty spool's {empty:g} g: were the two exchanged?", "gross")
    return gross - empty


def question_net(gross: float, empty: float | None, label: float) -> Question | None:
    """Ask whether gross was taken for net, or a decimal mark or unit slipped, before a net mass is believed.

    Parameters
    ----------
    gross, label : float, g
    empty : float or None, g
        None where the empty spool's mass was not entered.
    """
    net = gross - (empty or 0.0)
    if net <= GROSS_FOR_NET * label:
        return None
    over = net / label - 1
    key = f"gross={gross:g}-{empty or 0:g}"
    if not empty:
        text = (
            f"{gross:g} g is {over:.0%} above the label's {label:g} g: is that the gross mass? Enter the empty spool's mass, likely about {gross - label:.0f} g"
        )
        return Question(key, "empty", text, f"{gross - label:.0f}")
    if 0 < (gross / 10 - empty) / label <= GROSS_FOR_NET:
        return Question(key, "gross", f"net {net:g} g is {over:.0%} above the label: was {gross / 10:g} g meant?", f"{gross / 10:g}")
    text = f"net {net:g} g is {over:.0%} above the label's {label:g} g: was the gross mass taken for the net, or is the empty spool heavier than {empty:g} g?"
    return Question(key, "gross", text, f"{label + empty:g}" if over < 0.6 else None)


def question_gross(gross: float, empty: float | None, label: float | None, held: float | None) -> Question | None:
    """Ask whether a net mass was typed for a gross one, before what a spool weighs is believed.

    Parameters
    ----------
    gross, label : float, g
    empty : float or None, g
        Of the empty spool, where it is known.
    held : float or None, g
        What the book holds, net.
    """
    if empty is None:
        return None
    key = f"gross={gross:g}-{empty:g}"
    if gross <= empty:
        text = f"{gross:g} g is no more than the empty spool's {empty:g} g: was the net mass typed for the gross one?"
        return Question(key, "gross", text, f"{gross + empty:g}")
    if held is not None and abs(gross - held) < abs(gross - empty - held) and gross - empty < held - _NEAR * (label or held):
        text = f"{gross:g} g leaves {gross - empty:.0f} g net, the book holds {held:.0f} g: was the net mass typed for the gross one?"
        return Question(key, "gross", text, f"{gross + empty:g}")
    return question_net(gross, empty, label) if label is not None else None


@dataclass(frozen=True, slots=True)
class Prices:
    """Price per kg and per cm³ (the latter None without a density), in the currency of the price."""

    per_kg: float
    per_cm3: float | None


def prices(price: float, net: float, density: float | None) -> Prices:
    """Price per mass and volume.

    Parameters
    ----------
    price : float
        Of one spool.
    net : float, g
    density : float or None, g/cm³
    """
    if net <= 0:
        raise EntryError(f"net mass {net:g} g: it must be above 0", "net_mass")
    per_kg = price / net * 1e3
    return Prices(per_kg, per_kg * density / 1e3 if density is not None else None)


def moisture_lost(before: float, after: float, empty: float) -> float:
    """Moisture lost on drying, as a share of the dry filament: (before − after)/(after − empty).

    Parameters
    ----------
    before, after, empty : float, g
        Spool with filament before and after drying; the bare spool.

    Raises
    ------
    EntryError
        If the empty spool would weigh as much as the full one.
    """
    if after <= empty:
        raise EntryError(f"after drying {after:g} g is not above the empty spool's {empty:g} g: check both", "after")
    return (before - after) / (after - empty)


def strand_length(mass: float, density: float, diameter: float) -> float:
    """Length in m of a strand of `mass` g, `density` g/cm³, `diameter` mm."""
    return mass / density / (math.pi * (diameter / 2) ** 2)


@dataclass(frozen=True, slots=True)
class Pieces:
    """What a spool gives of a part: whole pieces, and the filament of one in money (None without a price)."""

    count: int
    cost: float | None


def pieces_of(net: float, piece: float, price: float | None) -> Pieces:
    """Whole pieces of `piece` g from a spool of `net` g, and what the filament of one costs.

    Raises
    ------
    EntryError
        If a mass is not above 0.
    """
    if not net > 0 or not piece > 0:
        raise EntryError(f"a spool of {net:g} g and a piece of {piece:g} g: both must weigh something", "net_mass")
    return Pieces(math.floor(net / piece + 1e-9), None if price is None else price * piece / net)
