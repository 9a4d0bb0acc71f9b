"""Fit to print: what a spool, a printer and settings miss of what they need of one another.

One list of rules; each yields at most one miss and names its source: the maker's window, the printer's own
limits, the record of the spool, or a rule of this project.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

from assayer.core.filament.balance import RESERVE
from assayer.core.filament.bead import volumetric_flow
from assayer.core.filament.moisture import COOLER, ENOUGH, MoistureState, Storage, open_limit, thirst
from assayer.core.filament.polymers import card_of
from assayer.core.filament.window import SPANS, Span, Window

_CAREFUL = 60.0
"""°C above which drying is asked about where a limit is not known (PROCESS 1)."""

ABRASIVE = ("carbon", "glass", "basalt", "aramid", "metal", "steel", "bronze", "copper", "ceramic", "mineral", "glow", "stone", "wood")
"""Words in a filler's name that wear a brass nozzle."""

FILLED_NOZZLE = 0.4
"""mm; below this fibres and particles block a nozzle."""

OWN = "rule of this notebook"


@dataclass(frozen=True, slots=True)
class Hardware:
    """A printer as it stands; temperatures in °C, lengths in mm. None: not known."""

    nozzle: float | None = None
    hardened: bool | None = None
    enclosed: bool | None = None
    bed_surface: str = ""
    strand: float | None = None
    nozzle_hottest: float | None = None
    bed_hottest: float | None = None
    chamber_hottest: float | None = None
    extraction: bool | None = None
    holder: float | None = None
    """Thickness of what the spool turns on."""
    drives_rims: bool | None = None
    """The feeder turns a spool by its rims."""
    takes_refills: bool | None = None
    """A body for bare coils is at hand."""
    loads_itself: bool | None = None
    """The feeder takes the loose end up by itself."""
    name: str = "the printer"


@dataclass(frozen=True, slots=True)
class Settings:
    """Print settings; °C, mm, mm/s, mm³/s. None: not said. `flow` goes before width × height × speed."""

    nozzle_temperature: float | None = None
    bed_temperature: float | None = None
    chamber_temperature: float | None = None
    speed: float | None = None
    line_width: float | None = None
    layer_height: float | None = None
    flow: float | None = None
    adhesive: str = ""
    mass: float | None = None
    """g of filament the job takes."""

    @property
    def volumetric_flow(self) -> float | None:
        if self.flow is not None:
            return self.flow
        if self.speed is None or self.line_width is None or self.layer_height is None:
            return None
        return volumetric_flow(self.line_width, self.layer_height, self.speed)


@dataclass(frozen=True, slots=True)
class Filament:
    """The material and the spool at the moment of the check."""

    name: str
    polymer: str
    filler: str | None
    diameter: float
    window: Window
    moisture: MoistureState | None = None
    decision: str | None = None
    """Of the intake, overridden or not; None where there was none."""
    left: float | None = None
    body: str = ""
    """'plastic', 'cardboard' or 'refill' (a coil without a body); empty where it was not looked at, as are the two below."""
    bore: float | None = None
    loose_end: str = ""

    @property
    def maker_says(self) -> str:
        return f"maker's window for {self.name}" + (f" ({self.window.source})" if self.window.source else "")


@dataclass(frozen=True, slots=True)
class Miss:
    """One thing missed: `level` is 'must' (do not print) or 'should' (print knowingly)."""

    rule: str
    level: str
    text: str
    source: str


@dataclass(frozen=True, slots=True)
class FitReport:
    """What is missed, and what could not be checked for want of a statement."""

    misses: list[Miss] = field(default_factory=list)
    unchecked: list[str] = field(default_factory=list)

    @property
    def fit(self) -> bool:
        return not any(m.level == "must" for m in self.misses)


Rule = Callable[[Filament, Hardware, Settings], "Miss | str | None"]
"""Yields a miss, or the words for what could not be checked, or None when all is well."""


def check_fit(filament: Filament, hardware: Hardware, settings: Settings) -> FitReport:
    """Apply every rule; what must be changed comes first."""
    found = [rule(filament, hardware, settings) for rule in RULES]
    misses = sorted((m for m in found if isinstance(m, Miss)), key=lambda m: m.level)
    return FitReport(misses, [u for u in found if isinstance(u, str)])


def abrasive(filler: str | None) -> bool:
    """Whether the filler wears a brass nozzle."""
    return filler is not None and any(word in filler.lower() for word in ABRASIVE)


def _hardened(f: Filament, h: Hardware, _s: Settings) -> Miss | str | None:
    if f.window.hardened is None and not abrasive(f.filler):
        return None
    if f.window.hardened is False:
        return None
    if h.hardened is None:
        return "whether the nozzle is hardened"
    if h.hardened:
        return None
    source = f.maker_says if f.window.hardened else OWN
    return Miss("hardened nozzle", "must", f"the nozzle is not hardened: {f.filler or f.name} wears it out while it prints", source)


def _nozzle_size(f: Filament, h: Hardware, _s: Settings) -> Miss | str | None:
    least, source, level = f.window.nozzle_min, f.maker_says, "must"
    if least is None and f.filler:
        least, source, level = FILLED_NOZZLE, OWN, "should"
    if least is None:
        return None
    if h.nozzle is None:
        return f"the nozzle's size (least {least:g} mm)"
    if h.nozzle >= least - 1e-9:
        return None
    return Miss("nozzle size", level, f"nozzle {h.nozzle:g} mm, least {least:g} mm: it may block", source)


def _strand(f: Filament, h: Hardware, _s: Settings) -> Miss | None:
    if h.strand is None or abs(h.strand - f.diameter) < 0.2:
        return None
    return Miss("strand diameter", "must", f"{h.name} feeds {h.strand:g} mm, the filament has {f.diameter:g} mm", "printer")


def _enclosure(f: Filament, h: Hardware, _s: Settings) -> Miss | str | None:
    if not f.window.enclosure:
        return None
    if h.enclosed is None:
        return "whether the printer is enclosed"
    return None if h.enclosed else Miss("enclosure", "must", "no enclosure: it is asked for", f.maker_says)


def _extraction(f: Filament, h: Hardware, _s: Settings) -> Miss | str | None:
    noted = " and ".join(word for word, given in (("fumes", f.window.fumes), ("dust", f.window.dust)) if given)
    if not noted:
        return None
    if h.extraction is None:
        return f"whether extraction is there: {noted} noted"
    return None if h.extraction else Miss("extraction", "must", f"no extraction: {noted} noted", f.maker_says)


def _body(f: Filament, h: Hardware, _s: Settings) -> Miss | str | None:
    if f.body == "refill":
        if h.takes_refills is None:
            return "whether there is a body for a refill"
        return None if h.takes_refills else Miss("spool body", "must", f"a refill has no body of its own, and {h.name} has none for it", "spool")
    if f.body == "cardboard":
        if h.drives_rims is None:
            return f"whether {h.name} turns the spool by its rims, which are of cardboard"
        text = f"{h.name} turns the spool by its rims: cardboard slips and sheds dust, put rings on it or hang it up"
        return Miss("spool body", "should", text, OWN) if h.drives_rims else None
    return None


def _bore(f: Filament, h: Hardware, _s: Settings) -> Miss | str | None:
    # a coil turns on the body that it is put on
    if h.holder is None or f.body == "refill":
        return None
    if f.bore is None:
        return f"whether the spool goes onto the holder of {h.holder:g} mm: its bore is not measured"
    if f.bore > h.holder:
        return None
    return Miss("spool bore", "must", f"the spool's bore of {f.bore:g} mm does not go onto the holder of {h.holder:g} mm", "spool")


def _loose_end(f: Filament, h: Hardware, _s: Settings) -> Miss | None:
    if f.loose_end == "under a turn":
        return Miss("loose end", "must", "the loose end lies under another turn: free it, or the strand catches in mid-print", "spool")
    if f.loose_end == "bent" and h.loads_itself:
        return Miss("loose end", "should", f"the loose end is bent: {h.name} takes it up by itself, cut it straight first", "spool")
    return None


def _temperature(name: str, label: str, unit: str) -> Rule:
    def rule(f: Filament, h: Hardware, s: Settings) -> Miss | str | None:
        span: Span = getattr(f.window, name)
        value = s.speed if name == "speed" else getattr(s, f"{name}_temperature")
        if value is None:
            if name == "chamber" and span.low is not None and h.chamber_hottest is not None and h.chamber_hottest < span.low:
                return Miss("chamber", "should", f"{h.name} reaches {h.chamber_hottest:g} °C in the chamber, wanted {span.words(unit)}", f.maker_says)
            return f"{label} (wanted {span.words(unit)})" if span.known else None
        if not span.known:
            return f"{label} {value:g} {unit}: the maker gives no range"
        if span.holds(value):
            return None
        level = "should" if name in ("speed", "chamber") else "must"
        return Miss(name, level, f"{label} {value:g} {unit} against {span.words(unit)}", f.maker_says)

    return rule


def _printer_reaches(name: str, label: str) -> Rule:
    def rule(f: Filament, h: Hardware, s: Settings) -> Miss | str | None:
        hottest = getattr(h, f"{name}_hottest")
        span: Span = getattr(f.window, name)
        value = getattr(s, f"{name}_temperature")
        wanted = value if value is not None else span.low
        if wanted is None or (hottest is not None and wanted <= hottest):
            return None
        if hottest is None:
            return f"whether {h.name} reaches {label} {wanted:g} °C: its limit is not known"
        # without a set value the chamber rule above has said it
        if name == "chamber" and value is None:
            return None
        source = f"limit of {h.name}" if value is not None else f.maker_says
        return Miss(f"{name} limit", "must", f"{label} {wanted:g} °C is wanted, {h.name} reaches {hottest:g} °C", source)

    return rule


def _flow(f: Filament, _h: Hardware, s: Settings) -> Miss | str | None:
    limit, flow = f.window.flow_max, s.volumetric_flow
    if limit is None:
        return None if flow is None else f"volumetric flow {flow:.1f} mm³/s: the maker gives no limit"
    if flow is None:
        return f"volumetric flow (limit {limit:g} mm³/s)"
    if flow <= limit + 1e-9:
        return None
    slower = "" if s.speed is None or s.flow is not None else f": at most {s.speed * limit / flow:.0f} mm/s with this bead"
    return Miss("flow", "must", f"volumetric flow {flow:.1f} mm³/s above the limit of {limit:g} mm³/s{slower}", f.maker_says)


def _bed_surface(f: Filament, h: Hardware, _s: Settings) -> Miss | None:
    if not f.window.bed_surface or not h.bed_surface or h.bed_surface.casefold() in f.window.bed_surface.casefold():
        return None
    return Miss("bed surface", "should", f"bed surface '{h.bed_surface}', wanted: {f.window.bed_surface}", f.maker_says)


def _adhesive(f: Filament, _h: Hardware, s: Settings) -> Miss | None:
    wanted = f.window.adhesive
    if not wanted or wanted.casefold() in ("none", "no") or wanted.casefold() in s.adhesive.casefold():
        return None
    return Miss("adhesive", "should", f"without {wanted} on the bed surface", f.maker_says)


def _decision(f: Filament, _h: Hardware, _s: Settings) -> Miss | None:
    if f.decision is None:
        return Miss("intake", "should", "the spool was never checked at intake", OWN)
    if f.decision == "reject":
        return Miss("intake", "must", "the spool was rejected at intake", "intake record")
    return None


def _dry(f: Filament, _h: Hardware, _s: Settings) -> Miss | None:
    state = f.moisture
    if state is None:
        return None
    if state.kind == "drying":
        return Miss("moisture", "must", f"the spool is {state.words}", "drying record")
    if state.kind == "dried" and state.dried is not None and state.dried.end is not None:
        return _dried_enough(f, state)
    if f.decision == "dry first":
        return Miss("moisture", "must", f"not dried: 'dry first' at intake ({state.words})", "intake record")
    if f.window.dry_temperature is not None:
        asked = f"{f.window.dry_temperature:g} °C" + (f" for {f.window.dry_time:g} h" if f.window.dry_time else "")
        level = "should" if state.storage is Storage.SEALED or thirst(f.polymer) == "slow" else "must"
        return Miss("moisture", level, f"not dried ({state.words}): {asked} is asked for", f.maker_says)
    limit = open_limit(f.polymer)
    if limit is not None and state.open_hours > limit:
        return Miss("moisture", "must", f"not dried: {state.words}, {f.polymer} may lie open {_lie(limit)}", OWN)
    return None


def _dried_enough(f: Filament, state: MoistureState) -> Miss | None:
    drying = state.dried
    if drying is None or drying.end is None:
        return None
    hours = drying.hours(drying.end)
    wanted_time, wanted_heat = f.window.dry_time, f.window.dry_temperature
    if wanted_time is not None and hours < ENOUGH * wanted_time:
        return Miss("moisture", "must", f"dried for {hours:.1f} h of the {wanted_time:g} h asked for", f.maker_says)
    if wanted_heat is not None and drying.temperature < wanted_heat - COOLER:
        return Miss("moisture", "must", f"dried at {drying.temperature:g} °C, {wanted_heat:g} °C is asked for", f.maker_says)
    limit = open_limit(f.polymer)
    if limit is not None and state.open_hours > limit:
        return Miss("moisture", "must", f"{state.words}: {f.polymer} may lie open {_lie(limit)}", OWN)
    return None


def _lie(hours: float) -> str:
    return f"{hours:g} h" if hours < 48 else f"{hours / 24:g} days"


def _lasts(f: Filament, _h: Hardware, s: Settings) -> Miss | str | None:
    if s.mass is None:
        return None
    if f.left is None:
        return f"whether the spool lasts for {s.mass:.0f} g: weigh it"
    if f.left < s.mass:
        return Miss("balance", "must", f"{f.left:.0f} g left, {s.mass:.0f} g wanted: {s.mass - f.left:.0f} g short", "balance of the spool")
    if f.left < (1 + RESERVE) * s.mass:
        return Miss("balance", "should", f"{f.left:.0f} g left for {s.mass:.0f} g: hardly any reserve, weigh it first", "balance of the spool")
    return None


def question_drying(temperature: float, window: Window, spool_limit: float | None, name: str, polymer: str = "") -> str | None:
    """What is wrong with drying so hot, or None: above a limit of the maker, of the spool's body or of the polymer, or above 60 °C where one is unknown."""
    limit, card = window.hottest_drying, card_of(polymer)
    if spool_limit is not None and temperature > spool_limit:
        return f"{temperature:g} °C is hotter than the spool of {name} bears ({spool_limit:g} °C): it may warp and jam"
    if limit is not None and temperature > limit:
        return f"{temperature:g} °C is hotter than the maker's {limit:g} °C for {name}: turns may fuse"
    usual = window.dry_temperature if window.dry_temperature is not None else None if card is None else card.dry_high
    if usual is None and temperature > _CAREFUL:
        return f"nothing is known of how hot {name} may be dried, and {temperature:g} °C is above {_CAREFUL:g} °C"
    if window.dry_temperature is None and card is not None and temperature > card.dry_high:
        soft = "" if card.softens is None else f", and it softens from {card.softens:g} °C"
        return f"{temperature:g} °C for {name}: {card.name} is generally dried at {card.dry_low:g} to {card.dry_high:g} °C{soft}"
    if spool_limit is None and temperature > _CAREFUL:
        bears = "plastic ones soften from 50 °C, cardboard from 70 °C"
        return f"nobody said what the spool of {name} bears, and {temperature:g} °C is above {_CAREFUL:g} °C: {bears}"
    return None


def longest_drying(window: Window, polymer: str = "") -> float | None:
    """Hours above which drying is hardly meant: three times what the maker, or the polymer in general, asks for. A short one adds to others."""
    card = card_of(polymer)
    asked = window.dry_time if window.dry_time is not None else card.dry_hours[1] if card is not None else None
    return None if asked is None else 3 * asked


RULES: tuple[Rule, ...] = (
    _decision,
    _dry,
    _hardened,
    _nozzle_size,
    _strand,
    _enclosure,
    _extraction,
    _body,
    _bore,
    _loose_end,
    *(_temperature(*span) for span in SPANS),
    _printer_reaches("nozzle", "nozzle temperature"),
    _printer_reaches("bed", "bed temperature"),
    _printer_reaches("chamber", "chamber temperature"),
    _flow,
    _bed_surface,
    _adhesive,
    _lasts,
)
