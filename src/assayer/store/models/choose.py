"""What materials are ranked for."""

from __future__ import annotations

from sqlalchemy import CheckConstraint, ForeignKey, String, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column, relationship

from assayer.store.models.base import ID, Base


class Purpose(Base):
    """A purpose that materials are ranked for."""

    __tablename__ = "purposes"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    study_id: Mapped[str] = mapped_column(ForeignKey("studies.id"), index=True)
    title: Mapped[str] = mapped_column(String(160))
    seed: Mapped[int]
    revision: Mapped[int] = mapped_column(default=1)
    criteria: Mapped[list[PurposeCriterion]] = relationship(order_by="PurposeCriterion.position", cascade="all, delete-orphan")


class PurposeCriterion(Base):
    __tablename__ = "purpose_criteria"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    purpose_id: Mapped[str] = mapped_column(ForeignKey("purposes.id"), index=True)
    test_id: Mapped[str] = mapped_column(ForeignKey("tests.id"))
    quantity: Mapped[str] = mapped_column(String(60))
    no_use: Mapped[float]
    all_needed: Mapped[float]
    required: Mapped[float | None]
    near: Mapped[bool] = mapped_column(default=False, server_default="0")
    weight: Mapped[float]
    position: Mapped[int]
    __table_args__ = (
        UniqueConstraint("purpose_id", "test_id", "quantity"),
        CheckConstraint("weight >= 0", name="weight"),
        CheckConstraint("no_use != all_needed", name="scale"),
    )
