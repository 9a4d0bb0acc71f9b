"""Devices that hold several members for a time: dryers, ovens, baths, racks with places."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import CheckConstraint, ForeignKey, Index, String, Text, text
from sqlalchemy.orm import Mapped, mapped_column, relationship

from assayer.store.models.base import ID, Base


class DeviceSession(Base):
    """A device in use, with members of any kind; °C. A rack or an oven is a rig, a dryer only has a name; an oven holds specimens of one test."""

    __tablename__ = "sessions"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    kind: Mapped[str] = mapped_column(String(20))
    device: Mapped[str] = mapped_column(String(80))
    rig_version_id: Mapped[str | None] = mapped_column(ForeignKey("rig_versions.id"), index=True)
    test_id: Mapped[str | None] = mapped_column(ForeignKey("tests.id"), index=True)
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
        CheckConstraint("kind IN ('drying', 'rack', 'oven')", name="kind"),
        CheckConstraint("kind != 'drying' OR (temperature IS NOT NULL AND due_at IS NOT NULL)", name="drying"),
        CheckConstraint("kind != 'oven' OR (rig_version_id IS NOT NULL AND test_id IS NOT NULL)", name="oven"),
        CheckConstraint("due_at > started_at", name="due"),
        CheckConstraint("ended_at >= started_at", name="ended"),
        Index("ix_sessions_running", "kind", sqlite_where=text("ended_at IS NULL AND retracted_at IS NULL")),
    )


class SessionMember(Base):
    """What is in it: a spool, a run, a batch; `position` is its place, from 0. `run_id` is of the run that a specimen becomes."""

    __tablename__ = "session_members"
    session_id: Mapped[str] = mapped_column(ForeignKey("sessions.id"), primary_key=True)
    member_kind: Mapped[str] = mapped_column(String(10), primary_key=True)
    member_id: Mapped[str] = mapped_column(ID, primary_key=True)
    position: Mapped[int]
    run_id: Mapped[str | None] = mapped_column(ID)
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


class OvenNote(Base):
    """Something noted at an oven, in the order in which it arrived; append-only, what was wrong is taken back by a note of its own.

    `raw` is a number as typed, or the name of an outcome. What is seen while only a logger knows the temperature has none.
    """

    __tablename__ = "oven_notes"
    seq: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    id: Mapped[str] = mapped_column(ID, unique=True)
    session_id: Mapped[str] = mapped_column(ForeignKey("sessions.id"), index=True)
    what: Mapped[str] = mapped_column(String(10))
    specimen_id: Mapped[str | None] = mapped_column(ForeignKey("specimens.id"))
    field: Mapped[str | None] = mapped_column(String(40))
    raw: Mapped[str] = mapped_column(String(80))
    note_id: Mapped[str | None] = mapped_column(ForeignKey("oven_notes.id"))
    at: Mapped[datetime]
    entered_at: Mapped[datetime]
    zone: Mapped[str] = mapped_column(String(64))
    entered_by: Mapped[str] = mapped_column(String(80))
    __table_args__ = (
        CheckConstraint("what IN ('shown', 'seen', 'ended', 'left', 'logger', 'step', 'taken back')", name="what"),
        CheckConstraint("(what IN ('seen', 'ended', 'left')) = (specimen_id IS NOT NULL)", name="specimen"),
        CheckConstraint("(what = 'seen') = (field IS NOT NULL)", name="field"),
        CheckConstraint("(what = 'taken back') = (note_id IS NOT NULL)", name="note"),
    )
