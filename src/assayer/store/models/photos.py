"""Photographs of any object: the picture itself lies beside the database, found by its hash."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import Index, String
from sqlalchemy.orm import Mapped, mapped_column

from assayer.store.models.base import ID, Base


class Photo(Base):
    """A photograph, upright and without location; `scale` in mm a pixel where a mark in it was measured."""

    __tablename__ = "photos"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    subject_kind: Mapped[str] = mapped_column(String(20))
    subject_id: Mapped[str] = mapped_column(ID)
    band: Mapped[int | None]
    sha256: Mapped[str] = mapped_column(String(64))
    thumb_sha256: Mapped[str] = mapped_column(String(64))
    media: Mapped[str] = mapped_column(String(40))
    width: Mapped[int]
    height: Mapped[int]
    caption: Mapped[str] = mapped_column(String(200), default="")
    scale: Mapped[float | None]
    added_at: Mapped[datetime]
    zone: Mapped[str] = mapped_column(String(64))
    who: Mapped[str] = mapped_column(String(80))
    revision: Mapped[int] = mapped_column(default=1)
    retracted_at: Mapped[datetime | None]
    __table_args__ = (Index("ix_photos_subject", "subject_kind", "subject_id"),)
