"""What people decided on: doubts about results, and conversions between rigs. What they rest on follows from the results."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import JSON, CheckConstraint, ForeignKey, Index, String, Text, text
from sqlalchemy.orm import Mapped, mapped_column

from assayer.store.models.base import ID, Base


class DoubtDecision(Base):
    """A doubt settled by a note, or sent to be tested again; it holds for the evidence that it was made on."""

    __tablename__ = "doubt_decisions"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    study_id: Mapped[str] = mapped_column(ForeignKey("studies.id"), index=True)
    doubt: Mapped[str] = mapped_column(String(200))
    """Key of the doubt: its kind and what it is about."""
    evidence: Mapped[str] = mapped_column(Text)
    """The doubt in words when it was decided; other figures open it again."""
    kind: Mapped[str] = mapped_column(String(10))
    note: Mapped[str] = mapped_column(Text)
    slot_ids: Mapped[list[str]] = mapped_column(JSON, default=list)
    """Replicates that were added to test again."""
    decided_at: Mapped[datetime]
    zone: Mapped[str] = mapped_column(String(64))
    who: Mapped[str] = mapped_column(String(80))
    revision: Mapped[int] = mapped_column(default=1)
    retracted_at: Mapped[datetime | None]
    __table_args__ = (
        CheckConstraint("kind IN ('note', 'retest')", name="kind"),
        CheckConstraint("kind != 'note' OR note != ''", name="note"),
        # two people who decide on one doubt at once
        Index("uq_doubt_decisions", "study_id", "doubt", "evidence", unique=True, sqlite_where=text("retracted_at IS NULL")),
    )


class RigConversion(Base):
    """A line from the readings of one rig to those of another, accepted as it was then, for one quantity and one way of ending.

    `slope`, `intercept` with their standard errors and covariance, residual scatter `s` of `n` materials; it holds from `low` to `high`.
    """

    __tablename__ = "rig_conversions"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    from_version_id: Mapped[str] = mapped_column(ForeignKey("rig_versions.id"), index=True)
    to_version_id: Mapped[str] = mapped_column(ForeignKey("rig_versions.id"), index=True)
    method: Mapped[str] = mapped_column(String(40))
    orientation: Mapped[str] = mapped_column(String(20))
    shape: Mapped[str] = mapped_column(String(40))
    protocol: Mapped[str] = mapped_column(Text)
    """The conditions of the tests as JSON, its names sorted."""
    quantity: Mapped[str] = mapped_column(String(60))
    ended: Mapped[str] = mapped_column(String(80))
    slope: Mapped[float]
    intercept: Mapped[float]
    se_slope: Mapped[float]
    se_intercept: Mapped[float]
    covariance: Mapped[float]
    s: Mapped[float]
    n: Mapped[int]
    low: Mapped[float]
    high: Mapped[float]
    note: Mapped[str] = mapped_column(Text)
    accepted_at: Mapped[datetime]
    zone: Mapped[str] = mapped_column(String(64))
    who: Mapped[str] = mapped_column(String(80))
    revision: Mapped[int] = mapped_column(default=1)
    retracted_at: Mapped[datetime | None]
    __table_args__ = (
        CheckConstraint("low < high", name="range"),
        CheckConstraint("from_version_id != to_version_id", name="versions"),
        # of two people who accept one at once, one is told
        Index(
            "uq_rig_conversions", "from_version_id", "to_version_id", "method", "orientation", "shape", "protocol", "quantity", "ended", unique=True,
            sqlite_where=text("retracted_at IS NULL"),
        ),
    )  # fmt: skip
