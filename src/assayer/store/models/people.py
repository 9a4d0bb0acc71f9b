"""People, preferences, the change log, and what was sent."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import String
from sqlalchemy.orm import Mapped, mapped_column

from assayer.store.models.base import ID, Base


class Person(Base):
    __tablename__ = "people"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    name: Mapped[str] = mapped_column(String(80), unique=True)


class Preference(Base):
    """A setting of this notebook."""

    __tablename__ = "preferences"
    key: Mapped[str] = mapped_column(String(40), primary_key=True)
    value: Mapped[str] = mapped_column(String(400))


class Change(Base):
    """Append-only: who, when, what, before, after."""

    __tablename__ = "changes"
    seq: Mapped[int] = mapped_column(primary_key=True, autoincrement=True)
    at: Mapped[datetime]
    zone: Mapped[str] = mapped_column(String(64))
    who: Mapped[str] = mapped_column(String(80))
    entity: Mapped[str] = mapped_column(String(40))
    entity_id: Mapped[str] = mapped_column(ID, index=True)
    action: Mapped[str] = mapped_column(String(40))
    before: Mapped[dict[str, Any] | None]
    after: Mapped[dict[str, Any] | None]


class Sent(Base):
    """A digest of what an object was made of: the same id again must come with the same."""

    __tablename__ = "sent"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    digest: Mapped[bytes]
