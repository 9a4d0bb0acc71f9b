"""What the checks at intake mean: fit, dry first, or reject, each with its reasons."""

from __future__ import annotations

from dataclasses import dataclass
from enum import IntEnum

from assayer.core.filament.diameter import TOLERANCE, DiameterSummary
from assayer.core.filament.moisture import thirst

UNDER_FILLED = 0.03
"""Share below the label that is worth a complaint."""

OVAL = 0.03
"""mean |a − b| of pairs / mean, above which feeding and flow suffer."""


class Weight(IntEnum):
    """What a reason leads to, by rising severity."""

    NOTE = 0
    DRY_FIRST = 1
    REJECT = 2


WORDS = {Weight.NOTE: "fit", Weight.DRY_FIRST: "dry first", Weight.REJECT: "reject"}


@dataclass(frozen=True, slots=True)
class Findings:
    """What was found; None or an empty word where it was not looked at. Masses in g, lengths in mm.

    Attributes
    ----------
    seal : 'intact', 'open' or 'none'
    desiccant : 'dry', 'wet' or 'none'
        By its indicator.
    winding : 'even', 'loose' or 'crossed'
    snap, snap_known_good : 'bends' or 'snaps'
        Raw strand bent sharply by hand, and the same with a strand known to be good.
    popping : 'none', 'some' or 'much'
        Noise at the first extrusion.
    """

    polymer: str
    label: float | None = None
    net: float | None = None
    seal: str = ""
    desiccant: str = ""
    winding: str = ""
    snap: str = ""
    snap_known_good: str = ""
    popping: str = ""
    diameters: DiameterSummary | None = None
    nominal: float = 1.75
    tolerance: float | None = None


@dataclass(frozen=True, slots=True)
class Reason:
    """One finding that matters, what it leads to, and the field it came from."""

    field: str
    text: str
    leads_to: Weight

    @property
    def words(self) -> str:
        """What it leads to: "note", or a decision."""
        return "note" if self.leads_to is Weight.NOTE else WORDS[self.leads_to]


@dataclass(frozen=True, slots=True)
class IntakeDecision:
    word: str
    reasons: list[Reason]


def judge(found: Findings) -> IntakeDecision:
    """The proposed decision: the severest of the reasons, all of which are given."""
    reasons = [*_mass(found), *_package(found), *_strand(found), *_diameters(found)]
    worst = max((r.leads_to for r in reasons), default=Weight.NOTE)
    return IntakeDecision(WORDS[worst], sorted(reasons, key=lambda r: -r.leads_to))


def _mass(f: Findings) -> list[Reason]:
    if f.net is None or f.label is None or f.net >= (1 - UNDER_FILLED) * f.label:
        return []
    short = f.label - f.net
    return [Reason("gross", f"under-filled: {f.net:.0f} g of {f.label:g} g, {short:.0f} g ({short / f.label:.1%}) short: tell the maker", Weight.NOTE)]


def _package(f: Findings) -> list[Reason]:
    reasons = []
    wants_nothing = thirst(f.polymer) == "not"
    if f.seal in ("open", "none") and not wants_nothing:
        what = "the bag was open" if f.seal == "open" else "it came without a sealed bag"
        reasons.append(Reason("seal", f"{what}: it took up water for an unknown time", Weight.DRY_FIRST))
    if f.desiccant == "wet" and not wants_nothing:
        reasons.append(Reason("desiccant", "the desiccant shows wet", Weight.DRY_FIRST))
    if thirst(f.polymer) == "fast":
        reasons.append(Reason("polymer", f"{f.polymer} takes up water within hours: dry it even out of a sealed bag", Weight.DRY_FIRST))
    if f.winding == "crossed":
        reasons.append(Reason("winding", "turns cross one another: the strand will catch in mid-print; rewind it or send it back", Weight.REJECT))
    if f.winding == "loose":
        reasons.append(Reason("winding", "loosely wound: keep the strand under tension", Weight.NOTE))
    return reasons


def _strand(f: Findings) -> list[Reason]:
    reasons = []
    if f.snap == "snaps":
        if f.snap_known_good == "bends":
            reasons.append(Reason("snap", "the strand snaps where a good one bends: wet or aged", Weight.DRY_FIRST))
        elif f.snap_known_good == "snaps":
            reasons.append(Reason("snap", "the strand snaps, but so does a good one: that is its nature", Weight.NOTE))
        else:
            reasons.append(Reason("snap", "the strand snaps: bend one that is known to be good beside it to tell what it means", Weight.NOTE))
    if f.popping in ("some", "much"):
        reasons.append(
            Reason("popping", f"{'some' if f.popping == 'some' else 'much'} popping at the first extrusion: water boils in the nozzle", Weight.DRY_FIRST)
        )
    return reasons


def _diameters(f: Findings) -> list[Reason]:
    d = f.diameters
    if d is None:
        return []
    tolerance = f.tolerance if f.tolerance is not None else TOLERANCE
    span = f"{f.nominal:g} ± {tolerance:g} mm"
    reasons = []
    furthest = max(d.maximum - f.nominal, f.nominal - d.minimum)
    if furthest > 2 * tolerance + 1e-9:
        worst = d.maximum if d.maximum - f.nominal >= f.nominal - d.minimum else d.minimum
        reasons.append(Reason("diameters", f"{worst:.3f} mm is more than twice the tolerance away from {f.nominal:g} mm: it may jam or starve", Weight.REJECT))
    elif d.outside:
        reasons.append(Reason("diameters", f"{d.outside} of {d.n} readings outside {span}", Weight.NOTE))
    if abs(d.mean - f.nominal) > tolerance + 1e-9:
        reasons.append(Reason("diameters", f"mean {d.mean:.3f} mm is outside {span}: set the flow to {d.flow_factor:.3f}", Weight.NOTE))
    if d.ovality is not None and d.ovality > OVAL:
        reasons.append(Reason("diameters", f"oval by {d.ovality:.1%} of its diameter", Weight.REJECT if d.ovality > 2 * OVAL else Weight.NOTE))
    return reasons
