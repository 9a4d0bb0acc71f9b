"""What the maker says a filament wants: ranges, limits and hardware."""

from __future__ import annotations

from dataclasses import dataclass, fields
from typing import Any

from assayer.core.errors import EntryError


@dataclass(frozen=True, slots=True)
class Span:
    """A range from low to high; one of them may be open."""

    low: float | None = None
    high: float | None = None

    @property
    def known(self) -> bool:
        return self.low is not None or self.high is not None

    def holds(self, value: float) -> bool:
        """Whether `value` lies within; the limits belong to it."""
        return (self.low is None or value >= self.low) and (self.high is None or value <= self.high)

    def words(self, unit: str) -> str:
        """As a person writes it: "70–85 °C", "at least 50 °C"."""
        if self.low is not None and self.high is not None:
            return f"{self.low:g}–{self.high:g} {unit}" if self.low != self.high else f"{self.low:g} {unit}"
        return f"at least {self.low:g} {unit}" if self.low is not None else f"at most {self.high:g} {unit}"


@dataclass(frozen=True, slots=True)
class Window:
    """The maker's window. Temperatures in °C, speed in mm/s, flow in mm³/s, lengths in mm, drying time in h.

    None means the maker does not say; False means the maker says it is not needed.
    """

    nozzle_low: float | None = None
    nozzle_high: float | None = None
    bed_low: float | None = None
    bed_high: float | None = None
    chamber_low: float | None = None
    chamber_high: float | None = None
    speed_low: float | None = None
    speed_high: float | None = None
    flow_max: float | None = None
    dry_temperature: float | None = None
    dry_time: float | None = None
    dry_limit: float | None = None
    nozzle_min: float | None = None
    hardened: bool | None = None
    enclosure: bool | None = None
    bed_surface: str = ""
    adhesive: str = ""
    tolerance: float | None = None
    source: str = ""
    fumes: bool | None = None
    dust: bool | None = None
    """Whether fumes or dust are noted, on the label or by whoever printed it."""

    @property
    def nozzle(self) -> Span:
        return Span(self.nozzle_low, self.nozzle_high)

    @property
    def bed(self) -> Span:
        return Span(self.bed_low, self.bed_high)

    @property
    def chamber(self) -> Span:
        return Span(self.chamber_low, self.chamber_high)

    @property
    def speed(self) -> Span:
        return Span(self.speed_low, self.speed_high)

    @property
    def hottest_drying(self) -> float | None:
        """°C; the maker's limit, or the recommended drying temperature where no limit is given."""
        return self.dry_limit if self.dry_limit is not None else self.dry_temperature

    def as_dict(self) -> dict[str, Any]:
        return {f.name: getattr(self, f.name) for f in fields(self)}


SPANS: tuple[tuple[str, str, str], ...] = (
    ("nozzle", "nozzle temperature", "°C"),
    ("bed", "bed temperature", "°C"),
    ("chamber", "chamber temperature", "°C"),
    ("speed", "print speed", "mm/s"),
)


def check_window(window: Window) -> None:
    """Refuse what no maker can mean.

    Raises
    ------
    EntryError
        Names the field: a range upside down, a limit that is not positive, a drying limit below the recommended drying.
    """
    for name, label, unit in SPANS:
        span: Span = getattr(window, name)
        if span.low is not None and span.high is not None and span.low > span.high:
            raise EntryError(f"{label} {span.words(unit)} is upside down: was {Span(span.high, span.low).words(unit)} meant?", f"{name}_low")
    for name in ("flow_max", "dry_time", "nozzle_min", "tolerance"):
        value = getattr(window, name)
        if value is not None and value <= 0:
            raise EntryError(f"{value:g}: it must be above 0", name)
    if window.dry_limit is not None and window.dry_temperature is not None and window.dry_limit < window.dry_temperature:
        raise EntryError(f"the limit {window.dry_limit:g} °C is below the recommended {window.dry_temperature:g} °C", "dry_limit")


PLAUSIBLE: dict[str, tuple[float, float, str, str]] = {
    "nozzle_low": (120, 500, "nozzle temperature", "°C"),
    "nozzle_high": (120, 500, "nozzle temperature", "°C"),
    "bed_low": (10, 220, "bed temperature", "°C"),
    "bed_high": (10, 220, "bed temperature", "°C"),
    "chamber_low": (10, 260, "chamber temperature", "°C"),
    "chamber_high": (10, 260, "chamber temperature", "°C"),
    "speed_low": (5, 700, "print speed", "mm/s"),
    "speed_high": (5, 700, "print speed", "mm/s"),
    "flow_max": (1.5, 120, "flow limit", "mm³/s"),
    "dry_temperature": (30, 200, "drying temperature", "°C"),
    "dry_limit": (30, 200, "drying limit", "°C"),
    "dry_time": (0.5, 100, "drying time", "h"),
    "nozzle_min": (0.1, 2, "least nozzle", "mm"),
    "tolerance": (0.005, 0.3, "diameter tolerance", "mm"),
}
"""Range within which an entry is believed: low, high, words, unit."""
