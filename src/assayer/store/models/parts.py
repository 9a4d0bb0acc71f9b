"""Parts of one's own: a solid from a file, and the places on it."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import ForeignKey, LargeBinary, String, Text
from sqlalchemy.orm import Mapped, mapped_column, relationship

from assayer.store.models.base import ID, Base


class Part(Base):
    """A part as it lies flat; mm and cm³. The file itself lies beside the database, found by its hash."""

    __tablename__ = "parts"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    name: Mapped[str] = mapped_column(String(80))
    note: Mapped[str] = mapped_column(Text, default="")
    file_name: Mapped[str] = mapped_column(String(200))
    sha256: Mapped[str] = mapped_column(String(64))
    unit: Mapped[str] = mapped_column(String(2))
    objects: Mapped[int]
    length: Mapped[float]
    width: Mapped[float]
    height: Mapped[float]
    volume: Mapped[float]
    triangles: Mapped[int]
    views: Mapped[dict[str, Any]]
    """Closed outlines by view: 'top', 'front', 'side'."""
    standings: Mapped[list[Any]]
    solid: Mapped[bytes] = mapped_column(LargeBinary, deferred=True)
    added_at: Mapped[datetime]
    zone: Mapped[str] = mapped_column(String(64))
    who: Mapped[str] = mapped_column(String(80))
    revision: Mapped[int] = mapped_column(default=1)
    retracted_at: Mapped[datetime | None]
    places: Mapped[list[PartPlace]] = relationship(back_populates="part", order_by="PartPlace.position")


class PartPlace(Base):
    """Where a part is graded, measured or loaded: at (u, v) in mm of one of its views, as their outlines have them."""

    __tablename__ = "part_places"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    part_id: Mapped[str] = mapped_column(ForeignKey("parts.id"), index=True)
    position: Mapped[int]
    kind: Mapped[str] = mapped_column(String(10))
    label: Mapped[str] = mapped_column(String(80))
    view: Mapped[str] = mapped_column(String(10))
    u: Mapped[float]
    v: Mapped[float]
    nominal: Mapped[float | None]
    part: Mapped[Part] = relationship(back_populates="places")
