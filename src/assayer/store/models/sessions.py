"""Devices that hold several members for a time."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import CheckConstraint, ForeignKey, Index, String, Text, text
from sqlalchemy.orm import Mapped, mapped_column, relationship

from assayer.store.models.base import ID, Base
from assayer.store.models.stock import Spool


class DeviceSession(Base):
    """A run of a device with several members; as yet drying."""

    __tablename__ = "sessions"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    kind: Mapped[str] = mapped_column(String(20))
    device: Mapped[str] = mapped_column(String(80))
    temperature: Mapped[float]
    started_at: Mapped[datetime]
    due_at: Mapped[datetime]
    ended_at: Mapped[datetime | None]
    zone: Mapped[str] = mapped_column(String(64))
    who: Mapped[str] = mapped_column(String(80))
    note: Mapped[str] = mapped_column(Text, default="")
    retracted_at: Mapped[datetime | None]
    revision: Mapped[int] = mapped_column(default=1)
    members: Mapped[list[SessionMember]] = relationship(order_by="SessionMember.position")
    __table_args__ = (
        CheckConstraint("kind IN ('drying')", name="kind"),
        CheckConstraint("due_at > started_at", name="due"),
        CheckConstraint("ended_at >= started_at", name="ended"),
        Index("ix_sessions_running", "kind", sqlite_where=text("ended_at IS NULL AND retracted_at IS NULL")),
    )


class SessionMember(Base):
    __tablename__ = "session_members"
    session_id: Mapped[str] = mapped_column(ForeignKey("sessions.id"), primary_key=True)
    spool_id: Mapped[str] = mapped_column(ForeignKey("spools.id"), primary_key=True, index=True)
    position: Mapped[int]
    spool: Mapped[Spool] = relationship()
