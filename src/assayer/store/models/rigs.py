"""Rigs: their versions, channels, calibrations and file templates."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import JSON, CheckConstraint, ForeignKey, String, Text, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from assayer.store.models.base import ID, Base


class Rig(Base):
    """An instrument or a bench; `methods` are those it serves. The reference material is tested in every study, to see the rig drift."""

    __tablename__ = "rigs"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    code: Mapped[str] = mapped_column(String(6), unique=True)
    name: Mapped[str] = mapped_column(String(80))
    methods: Mapped[list[Any]] = mapped_column(JSON)
    reference_material_id: Mapped[str | None] = mapped_column(ForeignKey("materials.id"))


class RigVersion(Base):
    """A rig's geometry and what its displays show, from one day on.

    `compliance` in mm/N (None: not known) with its standard uncertainty, `geometry` by name in mm (span, arm …), `places` of a rack.
    """

    __tablename__ = "rig_versions"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    rig_id: Mapped[str] = mapped_column(ForeignKey("rigs.id"), index=True)
    number: Mapped[int]
    valid_from: Mapped[datetime]
    compliance: Mapped[float | None]
    compliance_uncertainty: Mapped[float | None]
    geometry: Mapped[dict[str, Any]] = mapped_column(default=dict)
    places: Mapped[int] = mapped_column(default=1)
    note: Mapped[str] = mapped_column(Text, default="")
    revision: Mapped[int] = mapped_column(default=1)
    rig: Mapped[Rig] = relationship()
    channels: Mapped[list[RigChannel]] = relationship(order_by="RigChannel.position", back_populates="version")
    __table_args__ = (
        UniqueConstraint("rig_id", "number"),
        CheckConstraint("compliance >= 0", name="compliance"),
        CheckConstraint("compliance_uncertainty >= 0", name="compliance_uncertainty"),
        CheckConstraint("places BETWEEN 1 AND 99", name="places"),
    )


class RigChannel(Base):
    """What one display shows: its unit, implied decimals ("2047" is 20.47), reading step and range in that unit."""

    __tablename__ = "rig_channels"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    rig_version_id: Mapped[str] = mapped_column(ForeignKey("rig_versions.id"))
    name: Mapped[str] = mapped_column(String(40))
    dimension: Mapped[str] = mapped_column(String(40))
    unit: Mapped[str] = mapped_column(String(12))
    decimals: Mapped[int] = mapped_column(default=0)
    step: Mapped[float]
    low: Mapped[float | None]
    high: Mapped[float | None]
    position: Mapped[int]
    version: Mapped[RigVersion] = relationship(back_populates="channels")
    __table_args__ = (
        UniqueConstraint("rig_version_id", "name"),
        CheckConstraint("decimals BETWEEN 0 AND 6", name="decimals"),
        CheckConstraint("step > 0", name="step"),
        CheckConstraint("low < high", name="range"),
    )


class Calibration(Base):
    """A factor on a channel, valid from one instant to another, to be done again by `due_at`."""

    __tablename__ = "calibrations"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    rig_version_id: Mapped[str] = mapped_column(ForeignKey("rig_versions.id"), index=True)
    channel: Mapped[str] = mapped_column(String(40))
    factor: Mapped[float]
    valid_from: Mapped[datetime]
    valid_to: Mapped[datetime | None]
    due_at: Mapped[datetime | None]
    note: Mapped[str] = mapped_column(String(200), default="")
    revision: Mapped[int] = mapped_column(default=1)
    retracted_at: Mapped[datetime | None]
    __table_args__ = (CheckConstraint("factor > 0", name="factor"), CheckConstraint("valid_to > valid_from", name="span"))


class RigFileTemplate(Base):
    """Answers about a rig's files, found by the signature of their header."""

    __tablename__ = "file_templates"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    rig_version_id: Mapped[str] = mapped_column(ForeignKey("rig_versions.id"))
    signature: Mapped[str] = mapped_column(Text)
    columns: Mapped[list[Any]]
    __table_args__ = (UniqueConstraint("rig_version_id", "signature"),)


class LabMargin(Base):
    """The smallest difference of a quantity that matters to this lab, absolute or as a share of the reference's mean."""

    __tablename__ = "lab_margins"
    method: Mapped[str] = mapped_column(String(40), primary_key=True)
    quantity: Mapped[str] = mapped_column(String(60), primary_key=True)
    value: Mapped[float]
    relative: Mapped[bool]
    who: Mapped[str] = mapped_column(String(80))
    set_at: Mapped[datetime]
    zone: Mapped[str] = mapped_column(String(64))
    __table_args__ = (CheckConstraint("value > 0", name="value"),)
