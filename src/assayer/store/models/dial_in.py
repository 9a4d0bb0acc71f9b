"""The dial-in: nozzles and bed surfaces, trails of trials with their grades, G-code files, calibrations, current sheets."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import CheckConstraint, ForeignKey, String, Text, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from assayer.store.models.base import ID, Base
from assayer.store.models.printing import Printer, SettingsSheet
from assayer.store.models.stock import Material


class Nozzle(Base):
    """A nozzle; on a printer, or in the drawer."""

    __tablename__ = "nozzles"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    name: Mapped[str] = mapped_column(String(80), unique=True)
    diameter: Mapped[float]
    material: Mapped[str] = mapped_column(String(80), default="")
    hardened: Mapped[bool]
    printer_id: Mapped[str | None] = mapped_column(ForeignKey("printers.id"), index=True)
    retired_at: Mapped[datetime | None]
    created_at: Mapped[datetime]
    revision: Mapped[int] = mapped_column(default=1)
    withdrawn_at: Mapped[datetime | None]
    """Entered by mistake."""
    __table_args__ = (CheckConstraint("diameter > 0", name="diameter"),)


class BedSurface(Base):
    """A surface that is printed on; on a printer, or put aside."""

    __tablename__ = "bed_surfaces"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    name: Mapped[str] = mapped_column(String(80), unique=True)
    note: Mapped[str] = mapped_column(String(200), default="")
    printer_id: Mapped[str | None] = mapped_column(ForeignKey("printers.id"), index=True)
    retired_at: Mapped[datetime | None]
    created_at: Mapped[datetime]
    revision: Mapped[int] = mapped_column(default=1)
    withdrawn_at: Mapped[datetime | None]


class PrinterChange(Base):
    """Something about a printer that changed on a day: a nozzle, a surface, its frame, a filter, a repair."""

    __tablename__ = "printer_changes"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    printer_id: Mapped[str] = mapped_column(ForeignKey("printers.id"), index=True)
    at: Mapped[datetime]
    kind: Mapped[str] = mapped_column(String(20))
    text: Mapped[str] = mapped_column(String(200))
    nozzle_id: Mapped[str | None] = mapped_column(ForeignKey("nozzles.id"))
    bed_surface_id: Mapped[str | None] = mapped_column(ForeignKey("bed_surfaces.id"))
    entered_at: Mapped[datetime]
    zone: Mapped[str] = mapped_column(String(64))
    who: Mapped[str] = mapped_column(String(80))
    retracted_at: Mapped[datetime | None]
    own: Mapped[str] = mapped_column(String(200), default="", server_default="")
    """What was said beside what is on it now; `text` tells both."""
    retires: Mapped[bool] = mapped_column(default=False, server_default="0")
    """The nozzle or surface that was on it before is worn or ruined."""
    stood: Mapped[dict[str, Any]] = mapped_column(default=dict, server_default="{}")
    """The printer's own facts of nozzle and bed surface when it was entered: they hold again where nothing named is left on it."""
    revision: Mapped[int] = mapped_column(default=1, server_default="1")


class Trail(Base):
    """The search for settings of one material on one printer, for one purpose."""

    __tablename__ = "trails"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    material_id: Mapped[str] = mapped_column(ForeignKey("materials.id"), index=True)
    printer_id: Mapped[str] = mapped_column(ForeignKey("printers.id"), index=True)
    nozzle_id: Mapped[str | None] = mapped_column(ForeignKey("nozzles.id"))
    purpose: Mapped[str] = mapped_column(String(80))
    part: Mapped[str] = mapped_column(String(80))
    created_at: Mapped[datetime]
    zone: Mapped[str] = mapped_column(String(64))
    revision: Mapped[int] = mapped_column(default=1)
    put_away_at: Mapped[datetime | None]
    material: Mapped[Material] = relationship()
    printer: Mapped[Printer] = relationship()
    nozzle: Mapped[Nozzle | None] = relationship()


class Trial(Base):
    """One print of a trail, planned or printed; with a series it is a tower of bands. °C, min, g, mm."""

    __tablename__ = "trials"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    trail_id: Mapped[str] = mapped_column(ForeignKey("trails.id"), index=True)
    number: Mapped[int]
    parent_id: Mapped[str | None] = mapped_column(ForeignKey("trials.id"))
    sheet_id: Mapped[str] = mapped_column(ForeignKey("settings_sheets.id"))
    part: Mapped[str] = mapped_column(String(80))
    series: Mapped[dict[str, Any] | None]
    control_material_id: Mapped[str | None] = mapped_column(ForeignKey("materials.id"))
    spool_id: Mapped[str | None] = mapped_column(ForeignKey("spools.id"), index=True)
    nozzle_id: Mapped[str | None] = mapped_column(ForeignKey("nozzles.id"), index=True)
    printed_at: Mapped[datetime | None]
    zone: Mapped[str] = mapped_column(String(64))
    who: Mapped[str] = mapped_column(String(80))
    outcome: Mapped[str] = mapped_column(String(10))
    failed_at: Mapped[float | None]
    failed_band: Mapped[int | None]
    minutes: Mapped[float | None]
    room: Mapped[float | None]
    humidity: Mapped[float | None]
    total_mass: Mapped[float | None]
    brim_mass: Mapped[float | None]
    support_mass: Mapped[float | None]
    lift: Mapped[float | None]
    symptoms: Mapped[list[Any]]
    tested: Mapped[str] = mapped_column(String(4), default="")
    removal: Mapped[str] = mapped_column(String(20), default="")
    bond: Mapped[str] = mapped_column(String(20), default="")
    while_running: Mapped[list[Any]]
    note: Mapped[str] = mapped_column(Text, default="")
    decision: Mapped[str] = mapped_column(String(10), default="")
    entered_at: Mapped[datetime]
    revision: Mapped[int] = mapped_column(default=1)
    retracted_at: Mapped[datetime | None]
    sheet: Mapped[SettingsSheet] = relationship()
    __table_args__ = (
        UniqueConstraint("trail_id", "number"),
        CheckConstraint("outcome IN ('planned', 'good', 'poor', 'failed', 'stopped')", name="outcome"),
        CheckConstraint("failed_at BETWEEN 0 AND 100", name="failed_at"),
        CheckConstraint("decision IN ('', 'keep', 'drop', 'try next')", name="decision"),
    )


class TrialFilament(Base):
    """A filament that a trial took beside others: mass in the part and in its purge, g."""

    __tablename__ = "trial_filaments"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    trial_id: Mapped[str] = mapped_column(ForeignKey("trials.id"), index=True)
    position: Mapped[int]
    material_id: Mapped[str] = mapped_column(ForeignKey("materials.id"))
    spool_id: Mapped[str | None] = mapped_column(ForeignKey("spools.id"))
    part_mass: Mapped[float | None]
    purge_mass: Mapped[float | None]
    material: Mapped[Material] = relationship()
    __table_args__ = (UniqueConstraint("trial_id", "position"),)


class TrialGrade(Base):
    """A grader's grade of one trait of a trial or of one of its bands; None: no difference seen. The latest counts."""

    __tablename__ = "trial_grades"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    trial_id: Mapped[str] = mapped_column(ForeignKey("trials.id"), index=True)
    band: Mapped[int | None]
    trait: Mapped[str] = mapped_column(String(20))
    grader: Mapped[str] = mapped_column(String(80))
    distance: Mapped[str] = mapped_column(String(4))
    grade: Mapped[float | None]
    angle: Mapped[float | None]
    at: Mapped[datetime]
    entered_at: Mapped[datetime]
    retracted_at: Mapped[datetime | None]
    __table_args__ = (
        CheckConstraint("grade BETWEEN 0 AND 4", name="grade"),
        CheckConstraint("distance IN ('near', 'far')", name="distance"),
    )


class GcodeFile(Base):
    """A file made for printing, with what its inspection found."""

    __tablename__ = "gcode_files"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    name: Mapped[str] = mapped_column(String(200))
    sha256: Mapped[str] = mapped_column(String(64))
    size: Mapped[int]
    trail_id: Mapped[str | None] = mapped_column(ForeignKey("trails.id"), index=True)
    trial_id: Mapped[str | None] = mapped_column(ForeignKey("trials.id"), index=True)
    plate_id: Mapped[str | None] = mapped_column(ForeignKey("plates.id"), index=True)
    found: Mapped[dict[str, Any]]
    added_at: Mapped[datetime]
    zone: Mapped[str] = mapped_column(String(64))
    who: Mapped[str] = mapped_column(String(80))
    retracted_at: Mapped[datetime | None]


class DialCalibration(Base):
    """A flow, a pressure advance or a shrinkage measured for a material, a nozzle and a printer: what was, what is now."""

    __tablename__ = "dial_calibrations"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    kind: Mapped[str] = mapped_column(String(20))
    trail_id: Mapped[str] = mapped_column(ForeignKey("trails.id"), index=True)
    spool_id: Mapped[str | None] = mapped_column(ForeignKey("spools.id"))
    nozzle_id: Mapped[str | None] = mapped_column(ForeignKey("nozzles.id"))
    before_sheet_id: Mapped[str] = mapped_column(ForeignKey("settings_sheets.id"))
    sheet_id: Mapped[str] = mapped_column(ForeignKey("settings_sheets.id"))
    entered: Mapped[dict[str, Any]]
    before: Mapped[float | None]
    after: Mapped[float]
    at: Mapped[datetime]
    entered_at: Mapped[datetime]
    zone: Mapped[str] = mapped_column(String(64))
    who: Mapped[str] = mapped_column(String(80))
    retracted_at: Mapped[datetime | None]


class CurrentSheet(Base):
    """The sheet that a material is printed with on a printer for a purpose, since a trial was accepted; the latest counts."""

    __tablename__ = "current_sheets"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    material_id: Mapped[str] = mapped_column(ForeignKey("materials.id"), index=True)
    printer_id: Mapped[str] = mapped_column(ForeignKey("printers.id"))
    purpose: Mapped[str] = mapped_column(String(80))
    sheet_id: Mapped[str] = mapped_column(ForeignKey("settings_sheets.id"))
    trial_id: Mapped[str | None] = mapped_column(ForeignKey("trials.id"))
    accepted_at: Mapped[datetime]
    zone: Mapped[str] = mapped_column(String(64))
    who: Mapped[str] = mapped_column(String(80))
    retracted_at: Mapped[datetime | None]
    sheet: Mapped[SettingsSheet] = relationship()
