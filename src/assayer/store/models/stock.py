"""Materials, spools, and what is known of them."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import CheckConstraint, ForeignKey, Index, String, Text, UniqueConstraint, text
from sqlalchemy.orm import Mapped, mapped_column, relationship

from assayer.store.models.base import ID, Base


class Material(Base):
    """One colour of one product; materials of the same maker and product are one product line.

    Lengths in mm, density in g/cm³, mass in g.
    """

    __tablename__ = "materials"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    maker: Mapped[str] = mapped_column(String(80))
    product: Mapped[str] = mapped_column(String(80))
    polymer: Mapped[str] = mapped_column(String(40))
    filler: Mapped[str | None] = mapped_column(String(40))
    filler_share: Mapped[float | None]
    colour: Mapped[str] = mapped_column(String(40))
    hex: Mapped[str] = mapped_column(String(7))
    mark: Mapped[str] = mapped_column(String(2))
    created_at: Mapped[datetime]
    diameter: Mapped[float] = mapped_column(default=1.75, server_default="1.75")
    density: Mapped[float | None]
    price: Mapped[float | None]
    currency: Mapped[str] = mapped_column(String(3), default="", server_default="")
    net_mass: Mapped[float | None]
    obtained: Mapped[str] = mapped_column(String(10), default="", server_default="")
    note: Mapped[str] = mapped_column(Text, default="", server_default="")
    revision: Mapped[int] = mapped_column(default=1, server_default="1")
    doubts: Mapped[int] = mapped_column(default=0, server_default="0")
    """How often the maker contradicts itself; derived, written with what it follows from."""
    withdrawn_on: Mapped[str | None] = mapped_column(String(10))
    """The day since when the maker no longer sells the product; alike for all its colours, as are the two below."""
    succeeds_id: Mapped[str | None] = mapped_column(ForeignKey("materials.id"))
    base_id: Mapped[str | None] = mapped_column(ForeignKey("materials.id"))
    """What a blend was derived from."""
    window: Mapped[MakerWindow | None] = relationship(lazy="select")
    __table_args__ = (
        Index("ix_materials_doubts", "doubts", sqlite_where=text("doubts > 0")),
        CheckConstraint("diameter > 0", name="diameter"),
        CheckConstraint("density IS NULL OR density > 0", name="density"),
        CheckConstraint("price IS NULL OR price >= 0", name="price"),
        CheckConstraint("net_mass IS NULL OR net_mass > 0", name="net_mass"),
        CheckConstraint("obtained IN ('', 'bought', 'sent free', 'own')", name="obtained"),
        CheckConstraint("filler_share IS NULL OR (filler_share > 0 AND filler_share < 100)", name="filler_share"),
        UniqueConstraint("maker", "product", "colour"),
    )


class MakerWindow(Base):
    """What the maker says the material wants; units as in core.filament.window."""

    __tablename__ = "maker_windows"
    material_id: Mapped[str] = mapped_column(ForeignKey("materials.id"), primary_key=True)
    nozzle_low: Mapped[float | None]
    nozzle_high: Mapped[float | None]
    bed_low: Mapped[float | None]
    bed_high: Mapped[float | None]
    chamber_low: Mapped[float | None]
    chamber_high: Mapped[float | None]
    speed_low: Mapped[float | None]
    speed_high: Mapped[float | None]
    flow_max: Mapped[float | None]
    dry_temperature: Mapped[float | None]
    dry_time: Mapped[float | None]
    dry_limit: Mapped[float | None]
    nozzle_min: Mapped[float | None]
    hardened: Mapped[bool | None]
    enclosure: Mapped[bool | None]
    bed_surface: Mapped[str] = mapped_column(String(80), default="")
    adhesive: Mapped[str] = mapped_column(String(80), default="")
    tolerance: Mapped[float | None]
    source: Mapped[str] = mapped_column(String(200), default="")
    fumes: Mapped[bool | None]
    dust: Mapped[bool | None]
    __table_args__ = (
        CheckConstraint("nozzle_low <= nozzle_high", name="nozzle"),
        CheckConstraint("bed_low <= bed_high", name="bed"),
        CheckConstraint("chamber_low <= chamber_high", name="chamber"),
        CheckConstraint("speed_low <= speed_high", name="speed"),
    )


class Claim(Base):
    """A statement of the maker, as said; tied to a quantity where its words allow."""

    __tablename__ = "claims"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    material_id: Mapped[str] = mapped_column(ForeignKey("materials.id"), index=True)
    text: Mapped[str] = mapped_column(String(400))
    quantity: Mapped[str | None] = mapped_column(String(40))
    relation: Mapped[str] = mapped_column(String(12))
    value: Mapped[float | None]
    unit: Mapped[str] = mapped_column(String(12))
    reference: Mapped[str] = mapped_column(String(120))
    method: Mapped[str] = mapped_column(String(80))
    source: Mapped[str] = mapped_column(String(200))
    entered_at: Mapped[datetime]
    entered_by: Mapped[str] = mapped_column(String(80))
    retracted_at: Mapped[datetime | None]


class ReportedResult(Base):
    """A figure of a lab's past or of somebody else: shown beside measured ones, never averaged with them."""

    __tablename__ = "reported_results"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    material_id: Mapped[str] = mapped_column(ForeignKey("materials.id"), index=True)
    quantity: Mapped[str] = mapped_column(String(80))
    value: Mapped[float]
    unit: Mapped[str] = mapped_column(String(12))
    n: Mapped[int | None]
    sd: Mapped[float | None]
    method: Mapped[str] = mapped_column(String(80))
    source: Mapped[str] = mapped_column(String(200))
    reported_on: Mapped[str] = mapped_column(String(20))
    entered_at: Mapped[datetime]
    entered_by: Mapped[str] = mapped_column(String(80))
    retracted_at: Mapped[datetime | None]


class Spool(Base):
    """One spool of a material. Masses in g, temperatures in °C; `decision` is that of its last intake."""

    __tablename__ = "spools"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    code: Mapped[str] = mapped_column(String(6), unique=True)
    material_id: Mapped[str] = mapped_column(ForeignKey("materials.id"), index=True)
    lot: Mapped[str] = mapped_column(String(80))
    received_on: Mapped[str] = mapped_column(String(10))
    label_net: Mapped[float | None]
    empty: Mapped[float | None]
    heat_limit: Mapped[float | None]
    decision: Mapped[str | None] = mapped_column(String(10))
    note: Mapped[str] = mapped_column(Text, default="")
    gone_at: Mapped[datetime | None]
    gone_why: Mapped[str | None] = mapped_column(String(80))
    created_at: Mapped[datetime]
    zone: Mapped[str] = mapped_column(String(64))
    revision: Mapped[int] = mapped_column(default=1)
    body: Mapped[str] = mapped_column(String(10), default="", server_default="")
    bore: Mapped[float | None]
    loose_end: Mapped[str] = mapped_column(String(12), default="", server_default="")
    material: Mapped[Material] = relationship()
    __table_args__ = (
        CheckConstraint("body IN ('', 'plastic', 'cardboard', 'refill')", name="body"),
        CheckConstraint("bore > 0", name="bore"),
        CheckConstraint("loose_end IN ('', 'straight', 'bent', 'under a turn')", name="loose_end"),
        CheckConstraint("decision IN ('fit', 'dry first', 'reject')", name="decision"),
        CheckConstraint("label_net > 0", name="label_net"),
        CheckConstraint("empty >= 0", name="empty"),
    )


class Intake(Base):
    """A check of a spool, as found; a later one is a new row."""

    __tablename__ = "intakes"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    spool_id: Mapped[str] = mapped_column(ForeignKey("spools.id"), index=True)
    happened_at: Mapped[datetime]
    zone: Mapped[str] = mapped_column(String(64))
    who: Mapped[str] = mapped_column(String(80))
    findings: Mapped[dict[str, Any]]
    reasons: Mapped[list[Any]]
    proposed: Mapped[str] = mapped_column(String(10))
    decision: Mapped[str] = mapped_column(String(10))
    note: Mapped[str] = mapped_column(Text)
    __table_args__ = (
        CheckConstraint("decision IN ('fit', 'dry first', 'reject')", name="decision"),
        CheckConstraint("decision = proposed OR note != ''", name="override"),
    )


class SpoolReading(Base):
    """One diameter reading, mm; append-only, in the order taken."""

    __tablename__ = "spool_readings"
    seq: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    intake_id: Mapped[str] = mapped_column(ForeignKey("intakes.id"))
    position: Mapped[int]
    raw: Mapped[str] = mapped_column(String(80))
    value: Mapped[float]
    entered_at: Mapped[datetime]
    __table_args__ = (UniqueConstraint("intake_id", "position"),)


class Weighing(Base):
    """A spool with its filament on the scales, g. `moment` tells before and after of a session."""

    __tablename__ = "weighings"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    spool_id: Mapped[str] = mapped_column(ForeignKey("spools.id"), index=True)
    at: Mapped[datetime]
    entered_at: Mapped[datetime]
    zone: Mapped[str] = mapped_column(String(64))
    who: Mapped[str] = mapped_column(String(80))
    raw: Mapped[str] = mapped_column(String(80))
    gross: Mapped[float]
    session_id: Mapped[str | None] = mapped_column(ForeignKey("sessions.id"), index=True)
    moment: Mapped[str] = mapped_column(String(10))
    retracted_at: Mapped[datetime | None]
    __table_args__ = (
        CheckConstraint("gross > 0", name="gross"),
        CheckConstraint("moment IN ('intake', 'check', 'before', 'after')", name="moment"),
    )


class FilamentUse(Base):
    """Filament that a print took from a spool, g."""

    __tablename__ = "filament_uses"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    spool_id: Mapped[str] = mapped_column(ForeignKey("spools.id"), index=True)
    batch_id: Mapped[str | None] = mapped_column(ForeignKey("batches.id"), index=True)
    at: Mapped[datetime]
    entered_at: Mapped[datetime]
    zone: Mapped[str] = mapped_column(String(64))
    who: Mapped[str] = mapped_column(String(80))
    mass: Mapped[float]
    what: Mapped[str] = mapped_column(String(200))
    retracted_at: Mapped[datetime | None]
    purge: Mapped[float] = mapped_column(default=0.0, server_default="0")
    """Of the mass, g that went into no part: purged, wiped, primed."""
    __table_args__ = (CheckConstraint("mass > 0", name="mass"),)


class StorageMove(Base):
    """A spool put somewhere, or the humidity read where it lies, %."""

    __tablename__ = "storage_moves"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    spool_id: Mapped[str] = mapped_column(ForeignKey("spools.id"), index=True)
    at: Mapped[datetime]
    entered_at: Mapped[datetime]
    zone: Mapped[str] = mapped_column(String(64))
    who: Mapped[str] = mapped_column(String(80))
    storage: Mapped[str] = mapped_column(String(12))
    place: Mapped[str] = mapped_column(String(80))
    humidity: Mapped[float | None]
    retracted_at: Mapped[datetime | None]
    __table_args__ = (
        CheckConstraint("storage IN ('sealed bag', 'dry box', 'open')", name="storage"),
        CheckConstraint("humidity BETWEEN 0 AND 100", name="humidity"),
    )
