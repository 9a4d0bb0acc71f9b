"""What is generally known of a polymer: when it softens and how it is dried. The maker's own figures go before these (PROCESS 1)."""

from __future__ import annotations

import re
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class PolymerCard:
    """General trade figures of one polymer.

    Attributes
    ----------
    name : str
    softens : float or None, °C
        Where turns on a spool begin to soften: the lower end; None where that says nothing (a semi-crystalline polymer above its glass transition).
    dry_low, dry_high : float, °C
    dry_hours : (low, high), h
    keep_open : bool
        Whether it wants no warm chamber and no closed door.
    """

    name: str
    softens: float | None
    dry_low: float
    dry_high: float
    dry_hours: tuple[float, float]
    keep_open: bool = False


_STYRENIC = PolymerCard("ABS, ASA, HIPS", 95, 75, 80, (2, 4))
_CARDS: tuple[tuple[str, PolymerCard], ...] = (
    # what is written together is told before what it begins with; a blend is dried as cool as its cooler part
    (r"PC\W*PBT|PBT", PolymerCard("PC/PBT", None, 90, 100, (4, 8))),
    (r"PC\W*ABS|ABS\W*PC", _STYRENIC),
    (r"PETG|PET\b|COPOLYESTER|CPE", PolymerCard("PETG", 70, 60, 65, (4, 8), keep_open=True)),
    (r"H?T?PLA", PolymerCard("PLA", 55, 45, 50, (4, 8), keep_open=True)),
    (r"ABS|ASA|HIPS", _STYRENIC),
    (r"PAHT|COPA|PA\d*\b|NYLON|POLYAMIDE", PolymerCard("PA", None, 80, 90, (8, 12))),
    (r"TPU|TPE", PolymerCard("TPU", None, 50, 60, (4, 8), keep_open=True)),
    (r"PPS", PolymerCard("PPS", None, 100, 130, (3, 4))),
    (r"PP\b|POLYPROPYLENE", PolymerCard("PP", None, 50, 60, (4, 4))),
    (r"PC\b|POLYCARBONATE", PolymerCard("PC", 140, 90, 110, (4, 8))),
    (r"POM|ACETAL", PolymerCard("POM", None, 80, 80, (2, 4))),
)


def card_of(polymer: str) -> PolymerCard | None:
    """The card of a polymer by the name it goes by ("PAHT-CF", "TPU95A", "PC/PBT"); None where it is not known."""
    name = re.sub(r"\b(CF|GF|AF|KF)\W*", "", polymer.upper())
    return next((card for pattern, card in _CARDS if re.search(rf"(?<![A-Z])(?:{pattern})", name)), None)
