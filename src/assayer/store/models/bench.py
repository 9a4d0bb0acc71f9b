"""Runs with their readings, curves and results. Readings and curves are only ever added; results can be made anew from them."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import CheckConstraint, ForeignKey, Index, LargeBinary, String, text
from sqlalchemy.orm import Mapped, mapped_column, relationship

from assayer.store.models.base import ID, Base
from assayer.store.models.printing import Specimen
from assayer.store.models.rigs import RigVersion


class Curve(Base):
    """A recorded curve as read, in base units; the file itself lies content-addressed beside the database.

    `lines` are those of the file that the rows came from, where rows were skipped.
    """

    __tablename__ = "curves"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    sha256: Mapped[str] = mapped_column(String(64), index=True)
    file_name: Mapped[str] = mapped_column(String(200))
    rows: Mapped[int]
    columns: Mapped[list[Any]]
    warnings: Mapped[list[Any]]
    data: Mapped[bytes] = mapped_column(LargeBinary, deferred=True)
    lines: Mapped[bytes | None] = mapped_column(LargeBinary, deferred=True)
    created_at: Mapped[datetime]


class Run(Base):
    """One subject tested by one procedure on one rig; open until its last step is done.

    The subject is a specimen, a batch, a trial, a tower band or an arm; `specimen_id` names it where it
    is a specimen.
    """

    __tablename__ = "runs"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    subject_kind: Mapped[str] = mapped_column(String(10))
    subject_id: Mapped[str] = mapped_column(ID)
    specimen_id: Mapped[str | None] = mapped_column(ForeignKey("specimens.id"))
    test_id: Mapped[str] = mapped_column(ForeignKey("tests.id"), index=True)
    procedure_version: Mapped[str] = mapped_column(String(40))
    rig_version_id: Mapped[str] = mapped_column(ForeignKey("rig_versions.id"), index=True)
    operator: Mapped[str] = mapped_column(String(80))
    happened_at: Mapped[datetime]
    zone: Mapped[str] = mapped_column(String(64))
    validity: Mapped[str] = mapped_column(String(10))
    validity_reason: Mapped[str | None] = mapped_column(String(200))
    validity_by: Mapped[str | None] = mapped_column(String(80))
    validity_at: Mapped[datetime | None]
    outcome: Mapped[str | None] = mapped_column(String(20))
    outcome_place: Mapped[float | None]
    options: Mapped[dict[str, Any]] = mapped_column(default=dict)
    curve_id: Mapped[str | None] = mapped_column(ForeignKey("curves.id"), unique=True)
    complete: Mapped[bool]
    """False while steps are still to come: a dimensions round, a rack under load."""
    remarks: Mapped[list[Any]] = mapped_column(default=list)
    retracted_at: Mapped[datetime | None]
    revision: Mapped[int] = mapped_column(default=1)
    specimen: Mapped[Specimen | None] = relationship()
    rig_version: Mapped[RigVersion] = relationship()
    readings: Mapped[list[Reading]] = relationship(order_by="Reading.seq", back_populates="run")
    __table_args__ = (
        CheckConstraint("validity IN ('counts', 'at_least', 'at_most', 'left_out')", name="validity"),
        CheckConstraint("validity != 'left_out' OR validity_reason IS NOT NULL", name="reason"),
        CheckConstraint("outcome_place IS NULL OR (outcome_place BETWEEN 0 AND 1)", name="outcome_place"),
        CheckConstraint("subject_kind IN ('specimen', 'batch', 'trial', 'band', 'arm')", name="subject_kind"),
        CheckConstraint("subject_kind != 'specimen' OR specimen_id = subject_id", name="specimen"),
        # the guard against two people testing one specimen
        Index("uq_runs_standing", "subject_kind", "subject_id", "test_id", unique=True, sqlite_where=text("retracted_at IS NULL")),
        Index("ix_runs_specimen_id", "specimen_id", "test_id"),
    )


class Reading(Base):
    """One append-only row: a correction is a new row that supersedes.

    `load` in N where the reading belongs to one; `after` in s where its time after the event was typed,
    otherwise it follows from the instants. An event (full load on, load off) is a reading too.
    """

    __tablename__ = "readings"
    seq: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    id: Mapped[str] = mapped_column(ID, unique=True, insert_sentinel=True)
    run_id: Mapped[str] = mapped_column(ForeignKey("runs.id"), index=True)
    step: Mapped[str] = mapped_column(String(40))
    field: Mapped[str] = mapped_column(String(40))
    position: Mapped[int]
    happened_at: Mapped[datetime]
    entered_at: Mapped[datetime]
    zone: Mapped[str] = mapped_column(String(64))
    raw: Mapped[str] = mapped_column(String(80))
    value: Mapped[float]
    unit: Mapped[str] = mapped_column(String(12))
    ambient_c: Mapped[float | None]
    load: Mapped[float | None]
    after: Mapped[float | None]
    about: Mapped[str | None] = mapped_column(String(80))
    """What of the specimen it is of: a feature, a named size, a grader."""
    rig_version_id: Mapped[str | None] = mapped_column(ForeignKey("rig_versions.id"))
    """Where it was read, if on another rig than the run's."""
    entered_by: Mapped[str] = mapped_column(String(80))
    supersedes_id: Mapped[str | None] = mapped_column(ForeignKey("readings.id"), unique=True)
    reason: Mapped[str | None] = mapped_column(String(200))
    retracted_at: Mapped[datetime | None]
    """A reading of an open round that was taken back; the row stays."""
    run: Mapped[Run] = relationship(back_populates="readings")
    __table_args__ = (CheckConstraint("supersedes_id IS NULL OR reason IS NOT NULL", name="correction"),)


class Result(Base):
    """A derived value, of a run's subject or (a ratio) of an arm. A cache: `assayer recompute` makes it anew.

    `quantity` carries its load or time ("drift@80").
    """

    __tablename__ = "results"
    seq: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    subject_kind: Mapped[str] = mapped_column(String(10))
    subject_id: Mapped[str] = mapped_column(ID)
    test_id: Mapped[str] = mapped_column(ForeignKey("tests.id"))
    run_id: Mapped[str | None] = mapped_column(ForeignKey("runs.id"), index=True)
    quantity: Mapped[str] = mapped_column(String(60))
    value: Mapped[float]
    unit: Mapped[str] = mapped_column(String(12))
    bound: Mapped[str] = mapped_column(String(10))
    warnings: Mapped[list[Any]]
    reduction_version: Mapped[int]
    log_se: Mapped[float | None]
    df: Mapped[float | None]
    interval_low: Mapped[float | None]
    interval_high: Mapped[float | None]
    reading_step: Mapped[float] = mapped_column(default=0.0)
    provisional: Mapped[bool] = mapped_column(default=False)
    __table_args__ = (
        CheckConstraint("subject_kind IN ('specimen', 'batch', 'trial', 'band', 'arm')", name="subject_kind"),
        CheckConstraint("bound IN ('exact', 'at_least', 'at_most')", name="bound"),
        Index("ix_results_test", "test_id", "quantity"),
        Index("ix_results_reduction", "test_id", "reduction_version"),
        Index("ix_results_subject", "subject_kind", "subject_id"),
    )


class Lease(Base):
    """A queue item is held by one station at a time, until it is accepted or the time runs out."""

    __tablename__ = "leases"
    specimen_id: Mapped[str] = mapped_column(ForeignKey("specimens.id"), primary_key=True)
    station: Mapped[str] = mapped_column(String(40))
    until: Mapped[datetime]
