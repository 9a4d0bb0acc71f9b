"""Tests that a lab defines itself, version by version."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import JSON, String, UniqueConstraint
from sqlalchemy.orm import Mapped, mapped_column

from assayer.store.models.base import ID, Base


class OwnMethodVersion(Base):
    """One version of a test that the lab defined; versions of one test share `family`, and are never changed.

    `definition` as it was written; `method` is how tests and rigs name it.
    """

    __tablename__ = "own_method_versions"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    family: Mapped[str] = mapped_column(ID, index=True)
    number: Mapped[int]
    method: Mapped[str] = mapped_column(String(40), unique=True)
    label: Mapped[str] = mapped_column(String(80))
    definition: Mapped[dict[str, Any]] = mapped_column(JSON)
    added_at: Mapped[datetime]
    zone: Mapped[str] = mapped_column(String(64))
    who: Mapped[str] = mapped_column(String(80))
    withdrawn_at: Mapped[datetime | None]
    revision: Mapped[int] = mapped_column(default=1)
    __table_args__ = (UniqueConstraint("family", "number"),)
