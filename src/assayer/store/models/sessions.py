"""Devices that hold several members for a time: dryers, ovens, baths, racks with places."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import CheckConstraint, ForeignKey, Index, String, Text, text
from sqlalchemy.orm import Mapped, mapped_column, relationship

from assayer.store.models.base import ID, Base


class DeviceSession(Base):
    """A device in use, with members of any kind; °C. A rack is a rig, a dryer only has a name."""

    __tablename__ = "sessions"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    kind: Mapped[str] = mapped_column(String(20))
    device: Mapped[str] = mapped_column(String(80))
    rig_version_id: Mapped[str | None] = mapped_column(ForeignKey("rig_versions.id"), index=True)
    temperature: Mapped[float | None]
    started_at: Mapped[datetime]
    due_at: Mapped[datetime | None]
    ended_at: Mapped[datetime | None]
    zone: Mapped[str] = mapped_column(String(64))
    who: Mapped[str] = mapped_column(String(80))
    note: Mapped[str] = mapped_column(Text, default="")
    retracted_at: Mapped[datetime | None]
    revision: Mapped[int] = mapped_column(default=1)
    members: Mapped[list[SessionMember]] = relationship(order_by="SessionMember.position")
    __table_args__ = (
        CheckConstraint("kind IN ('drying', 'rack')", name="kind"),
        CheckConstraint("kind != 'drying' OR (temperature IS NOT NULL AND due_at IS NOT NULL)", name="drying"),
        CheckConstraint("due_at > started_at", name="due"),
        CheckConstraint("ended_at >= started_at", name="ended"),
        Index("ix_sessions_running", "kind", sqlite_where=text("ended_at IS NULL AND retracted_at IS NULL")),
    )


class SessionMember(Base):
    """What is in it: a spool, a run, a batch; `position` is its place, from 0."""

    __tablename__ = "session_members"
    session_id: Mapped[str] = mapped_column(ForeignKey("sessions.id"), primary_key=True)
    member_kind: Mapped[str] = mapped_column(String(10), primary_key=True)
    member_id: Mapped[str] = mapped_column(ID, primary_key=True)
    position: Mapped[int]
    __table_args__ = (
        CheckConstraint("member_kind IN ('spool', 'run', 'batch', 'specimen')", name="member_kind"),
        Index("ix_session_members_member", "member_kind", "member_id"),
    )


class SessionReading(Base):
    """A reading of the session itself, such as the room once a round; append-only, a correction supersedes."""

    __tablename__ = "session_readings"
    seq: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    id: Mapped[str] = mapped_column(ID, unique=True)
    session_id: Mapped[str] = mapped_column(ForeignKey("sessions.id"), index=True)
    field: Mapped[str] = mapped_column(String(40))
    happened_at: Mapped[datetime]
    entered_at: Mapped[datetime]
    zone: Mapped[str] = mapped_column(String(64))
    raw: Mapped[str] = mapped_column(String(80))
    value: Mapped[float]
    unit: Mapped[str] = mapped_column(String(12))
    entered_by: Mapped[str] = mapped_column(String(80))
    supersedes_id: Mapped[str | None] = mapped_column(ForeignKey("session_readings.id"), unique=True)
    reason: Mapped[str | None] = mapped_column(String(200))
    __table_args__ = (CheckConstraint("supersedes_id IS NULL OR reason IS NOT NULL", name="correction"),)
