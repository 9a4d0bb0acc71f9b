"""What somebody wants to look at again: a follow-up on any object."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import Index, String
from sqlalchemy.orm import Mapped, mapped_column

from assayer.store.models.base import ID, Base


class FollowUp(Base):
    """Set by hand on an object, for a day; `due_on` as the calendar of `zone` has it, `done_at` when it was looked at."""

    __tablename__ = "follow_ups"
    id: Mapped[str] = mapped_column(ID, primary_key=True)
    object_kind: Mapped[str] = mapped_column(String(20))
    object_id: Mapped[str] = mapped_column(ID)
    text: Mapped[str] = mapped_column(String(200))
    due_on: Mapped[str] = mapped_column(String(10))
    done_at: Mapped[datetime | None]
    set_at: Mapped[datetime]
    zone: Mapped[str] = mapped_column(String(64))
    who: Mapped[str] = mapped_column(String(80))
    revision: Mapped[int] = mapped_column(default=1)
    retracted_at: Mapped[datetime | None]
    __table_args__ = (Index("ix_follow_ups_object", "object_kind", "object_id"), Index("ix_follow_ups_due_on", "due_on"))
