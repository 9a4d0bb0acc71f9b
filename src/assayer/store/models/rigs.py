"""Rigs, their versions, calibrations and file templates."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import CheckConstraint, ForeignKey, String, Text, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from assayer.store.models.base import ID, Base


class Rig(Base):
    __tablename__ = "rigs"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    code: Mapped[str] = mapped_column(String(6), unique=True)
    name: Mapped[str] = mapped_column(String(80))
    method: Mapped[str] = mapped_column(String(40))


class RigVersion(Base):
    """A rig's geometry and what its displays show, from one day on."""

    __tablename__ = "rig_versions"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    rig_id: Mapped[str] = mapped_column(ForeignKey("rigs.id"), index=True)
    number: Mapped[int]
    valid_from: Mapped[datetime]
    compliance: Mapped[float] = mapped_column(default=0.0)
    force_unit: Mapped[str] = mapped_column(String(12))
    force_step: Mapped[float]
    length_unit: Mapped[str] = mapped_column(String(12))
    length_step: Mapped[float]
    capacity: Mapped[float | None]
    rig: Mapped[Rig] = relationship()
    __table_args__ = (
        UniqueConstraint("rig_id", "number"),
        CheckConstraint("compliance >= 0", name="compliance"),
        CheckConstraint("force_step > 0 AND length_step > 0", name="steps"),
    )


class Calibration(Base):
    """A factor on a quantity, valid from one instant to another."""

    __tablename__ = "calibrations"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    rig_version_id: Mapped[str] = mapped_column(ForeignKey("rig_versions.id"), index=True)
    quantity: Mapped[str] = mapped_column(String(40))
    factor: Mapped[float]
    valid_from: Mapped[datetime]
    valid_to: Mapped[datetime | None]
    __table_args__ = (CheckConstraint("factor > 0", name="factor"),)


class RigFileTemplate(Base):
    """Answers about a rig's files, found by the signature of their header."""

    __tablename__ = "file_templates"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    rig_version_id: Mapped[str] = mapped_column(ForeignKey("rig_versions.id"))
    signature: Mapped[str] = mapped_column(Text)
    columns: Mapped[list[Any]]
    __table_args__ = (UniqueConstraint("rig_version_id", "signature"),)
