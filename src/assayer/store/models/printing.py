"""Printers, settings sheets, variants, batches and the specimens printed."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import ForeignKey, Index, String, UniqueConstraint, text
from sqlalchemy.orm import Mapped, mapped_column, relationship

from assayer.store.models.base import ID, Base
from assayer.store.models.stock import Material


class Printer(Base):
    """A printer as it stands; mm and °C."""

    __tablename__ = "printers"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    name: Mapped[str] = mapped_column(String(80), unique=True)
    nozzle: Mapped[float | None]
    hardened: Mapped[bool | None]
    enclosed: Mapped[bool | None]
    bed_surface: Mapped[str] = mapped_column(String(80), default="")
    strand: Mapped[float | None]
    nozzle_hottest: Mapped[float | None]
    bed_hottest: Mapped[float | None]
    chamber_hottest: Mapped[float | None]
    created_at: Mapped[datetime]
    revision: Mapped[int] = mapped_column(default=1)
    extraction: Mapped[bool | None]
    holder: Mapped[float | None]
    drives_rims: Mapped[bool | None]
    takes_refills: Mapped[bool | None]
    loads_itself: Mapped[bool | None]
    build_x: Mapped[float | None]
    build_y: Mapped[float | None]
    build_z: Mapped[float | None]
    acceleration: Mapped[float | None]
    filtered: Mapped[bool | None]
    feeder: Mapped[str] = mapped_column(String(80), default="", server_default="")
    margin: Mapped[float | None]
    """mm along the edges of the bed where nothing is laid."""
    keep_out: Mapped[list[Any]] = mapped_column(default=list, server_default="[]")
    """Rectangles of the bed where nothing is laid, as [x0, y0, x1, y1] in mm from its front left corner."""
    clearance: Mapped[float | None]
    """mm that the print head needs around a finished piece."""
    passes_over: Mapped[float | None]
    """mm that a finished piece may be high for what carries the head to pass over it."""


class SettingsSheet(Base):
    """Print settings; immutable once used, a change makes a child."""

    __tablename__ = "settings_sheets"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    name: Mapped[str] = mapped_column(String(120))
    values: Mapped[dict[str, Any]]
    parent_id: Mapped[str | None] = mapped_column(ForeignKey("settings_sheets.id"))
    created_at: Mapped[datetime]
    extras: Mapped[list[Any]] = mapped_column(default=list, server_default="[]")
    prepared_with: Mapped[str] = mapped_column(String(80), default="", server_default="")


class Variant(Base):
    """Material + settings sheet + treatment; lives across studies."""

    __tablename__ = "variants"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    material_id: Mapped[str] = mapped_column(ForeignKey("materials.id"), index=True)
    sheet_id: Mapped[str] = mapped_column(ForeignKey("settings_sheets.id"))
    treatment: Mapped[str] = mapped_column(String(120), default="")
    material: Mapped[Material] = relationship()
    sheet: Mapped[SettingsSheet] = relationship()
    __table_args__ = (UniqueConstraint("material_id", "sheet_id", "treatment"),)


class Batch(Base):
    """One print job of one variant."""

    __tablename__ = "batches"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    variant_id: Mapped[str] = mapped_column(ForeignKey("variants.id"), index=True)
    printed_at: Mapped[datetime]
    zone: Mapped[str] = mapped_column(String(64))
    spool_id: Mapped[str | None] = mapped_column(ForeignKey("spools.id"), index=True)
    printer_id: Mapped[str | None] = mapped_column(ForeignKey("printers.id"))
    nozzle: Mapped[str] = mapped_column(String(80), default="", server_default="")
    minutes: Mapped[float | None]
    room: Mapped[float | None]
    """°C while it printed."""
    plate_id: Mapped[str | None] = mapped_column(ForeignKey("plates.id"), index=True)


class Specimen(Base):
    """A printed piece: batch × position. It has a shape, not a method; it may fill a slot, after others that were left out."""

    __tablename__ = "specimens"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    code: Mapped[str] = mapped_column(String(6), unique=True)
    batch_id: Mapped[str] = mapped_column(ForeignKey("batches.id"))
    position: Mapped[int]
    shape: Mapped[str] = mapped_column(String(40))
    orientation: Mapped[str] = mapped_column(String(20))
    slot_id: Mapped[str | None] = mapped_column(ForeignKey("slots.id"), index=True)
    outcome: Mapped[str] = mapped_column(String(20), default="good", server_default="good")
    """How it came off the plate: what is not good is not tested, and its replicate is printed again."""
    fault: Mapped[str] = mapped_column(String(120), default="", server_default="")
    planned_slot_id: Mapped[str | None] = mapped_column(ForeignKey("slots.id"))
    """The replicate it was printed for, where it came off the plate so that it cannot fill it."""
    spare_test_id: Mapped[str | None] = mapped_column(ForeignKey("tests.id"))
    """The test that it was printed for as a spare; it may fill a replicate of it later."""
    treated_at: Mapped[datetime | None]
    """When it had had the treatment of its variant, where there is one."""
    batch: Mapped[Batch] = relationship()
    __table_args__ = (
        UniqueConstraint("batch_id", "position"),
        Index("ix_specimens_planned_slot_id", "planned_slot_id", sqlite_where=text("planned_slot_id IS NOT NULL")),
    )


class Plate(Base):
    """What is to be printed together: specimens of one arm, each at its place; printed once it has a batch."""

    __tablename__ = "plates"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    study_id: Mapped[str] = mapped_column(ForeignKey("studies.id"), index=True)
    arm_id: Mapped[str] = mapped_column(ForeignKey("arms.id"))
    printer_id: Mapped[str] = mapped_column(ForeignKey("printers.id"))
    number: Mapped[int]
    """Its place in the order of printing."""
    part: Mapped[int]
    """Which batch of its arm, from 1."""
    one_by_one: Mapped[bool]
    brim: Mapped[float]
    bed: Mapped[dict[str, Any]]
    """Width, depth, margin and what was kept free when it was laid out, mm."""
    layout: Mapped[str] = mapped_column(String(32))
    """Plates with the same one are printed from the same file."""
    laid_at: Mapped[datetime]
    __table_args__ = (UniqueConstraint("study_id", "number"),)


class PlatePlace(Base):
    """One place of a plate: what lies there. Without a slot it is a spare."""

    __tablename__ = "plate_places"
    plate_id: Mapped[str] = mapped_column(ForeignKey("plates.id"), primary_key=True)
    position: Mapped[int] = mapped_column(primary_key=True)
    test_id: Mapped[str] = mapped_column(ForeignKey("tests.id"))
    slot_id: Mapped[str | None] = mapped_column(ForeignKey("slots.id"), index=True)
    x: Mapped[float]
    y: Mapped[float]
    turned: Mapped[bool]
    code: Mapped[str | None] = mapped_column(String(8), index=True)
    """The code that its specimen will have, where it is sunk into it."""
