"""What is told of printers, nozzles and bed surfaces."""

from __future__ import annotations

from datetime import datetime

from assayer.services.views import RecordEntry, View


class NozzleView(View):
    """A nozzle; `abrasive` g of abrasive filament printed through it in trials."""

    id: str
    name: str
    diameter: float
    material: str
    hardened: bool
    printer_id: str | None
    retired_at: datetime | None
    abrasive: float
    revision: int


class BedSurfaceView(View):
    id: str
    name: str
    note: str
    printer_id: str | None
    retired_at: datetime | None
    revision: int


class PrinterChangeView(View):
    id: str
    at: datetime
    kind: str
    text: str
    who: str
    nozzle_id: str | None
    bed_surface_id: str | None
    own: str
    """What was said beside what is on it now."""
    retires: bool
    revision: int


class HardwareRecord(View):
    """Who changed what of a printer, a nozzle or a bed surface; the earliest first."""

    items: list[RecordEntry]


class HardwarePrinter(View):
    id: str
    name: str
    facts: str
    nozzle_id: str | None
    bed_surface_id: str | None
    changes: list[PrinterChangeView]


class HardwareView(View):
    printers: list[HardwarePrinter]
    nozzles: list[NozzleView]
    bed_surfaces: list[BedSurfaceView]
