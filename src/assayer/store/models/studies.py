"""Studies: arms, tests, slots."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import JSON, CheckConstraint, ForeignKey, String, Text, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from assayer.store.models.base import ID, Base
from assayer.store.models.printing import Variant


class Study(Base):
    __tablename__ = "studies"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    title: Mapped[str] = mapped_column(String(160))
    question: Mapped[str] = mapped_column(Text)
    studied_factor: Mapped[str] = mapped_column(String(40))
    seed: Mapped[int]
    reference_arm_id: Mapped[str | None] = mapped_column(ID)
    revision: Mapped[int] = mapped_column(default=1)
    created_at: Mapped[datetime]
    zone: Mapped[str] = mapped_column(String(64))
    put_away_at: Mapped[datetime | None]
    """Out of the way: no longer in lists of what is to be done, still found and open."""
    bounds_in: Mapped[bool] = mapped_column(default=False)
    """Whether means include lower bounds, by a Weibull fit with right-censoring."""
    batches: Mapped[int] = mapped_column(default=2, server_default="2")
    """Print batches that each arm is planned in."""
    each_at_best: Mapped[bool] = mapped_column(default=False, server_default="0")
    """Of materials: each printed as suits it, so that settings which belong to a material may differ."""
    crosses_materials: Mapped[bool] = mapped_column(default=False, server_default="0")
    """Of what is not a material: whether every material has every level of it."""
    studied_settings: Mapped[list[str]] = mapped_column(JSON, default=list, server_default="[]")
    started_at: Mapped[datetime | None]
    """From then on the plan is frozen: what changes is an amendment with a reason."""
    wanted_by: Mapped[datetime | None]
    """When its answer is needed; what is not tested by then is late."""


class Amendment(Base):
    """A change of a plan after its study was started."""

    __tablename__ = "amendments"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    study_id: Mapped[str] = mapped_column(ForeignKey("studies.id"), index=True)
    at: Mapped[datetime]
    zone: Mapped[str] = mapped_column(String(64))
    who: Mapped[str] = mapped_column(String(80))
    what: Mapped[str] = mapped_column(Text)
    reason: Mapped[str] = mapped_column(Text)


class Arm(Base):
    """A study's pointer to a variant."""

    __tablename__ = "arms"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    study_id: Mapped[str] = mapped_column(ForeignKey("studies.id"))
    variant_id: Mapped[str] = mapped_column(ForeignKey("variants.id"), index=True)
    mark: Mapped[str] = mapped_column(String(2))
    position: Mapped[int]
    spool_id: Mapped[str | None] = mapped_column(ForeignKey("spools.id"))
    """Which spool it is planned to be printed from; batches say which it was."""
    printer_id: Mapped[str | None] = mapped_column(ForeignKey("printers.id"))
    """Where printers are studied: the one it is printed on."""
    rig_id: Mapped[str | None] = mapped_column(ForeignKey("rigs.id"))
    """Where rigs are studied: the one it is tested on."""
    variant: Mapped[Variant] = relationship()
    __table_args__ = (UniqueConstraint("study_id", "mark"),)


class Test(Base):
    """Method + orientation + shape + replicates within a study."""

    __tablename__ = "tests"
    __test__ = False
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    study_id: Mapped[str] = mapped_column(ForeignKey("studies.id"), index=True)
    method: Mapped[str] = mapped_column(String(40))
    procedure_version: Mapped[str] = mapped_column(String(40))
    orientation: Mapped[str] = mapped_column(String(20))
    shape: Mapped[str] = mapped_column(String(40))
    protocol: Mapped[dict[str, Any]] = mapped_column(default=dict)
    """What the lab sets for it, as the method declares; empty: as delivered."""
    replicates: Mapped[int]
    spares: Mapped[int] = mapped_column(default=0)
    margin_value: Mapped[float]
    margin_relative: Mapped[bool]
    target: Mapped[float | None]
    """The difference to be detected, as a share of the reference mean; None: the margin."""
    position: Mapped[int]
    revision: Mapped[int] = mapped_column(default=1)
    """Of its data: raised by whatever changes its evidence, which is cached by it."""
    __table_args__ = (
        CheckConstraint("replicates BETWEEN 1 AND 50", name="replicates"),
        CheckConstraint("spares BETWEEN 0 AND 50", name="spares"),
        CheckConstraint("margin_value > 0", name="margin"),
    )


class Slot(Base):
    """One planned replicate."""

    __tablename__ = "slots"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    arm_id: Mapped[str] = mapped_column(ForeignKey("arms.id"))
    test_id: Mapped[str] = mapped_column(ForeignKey("tests.id"), index=True)
    number: Mapped[int]
    __table_args__ = (UniqueConstraint("arm_id", "test_id", "number"),)
