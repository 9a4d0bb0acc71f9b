"""What all tables are built on. Ids are UUIDv7 made by whoever makes the object, the browser included."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import JSON, MetaData, String
from sqlalchemy.orm import DeclarativeBase

from assayer.store.types import Instant


class Base(DeclarativeBase):
    metadata = MetaData(
        naming_convention={
            "ix": "ix_%(table_name)s_%(column_0_N_name)s",
            "uq": "uq_%(table_name)s_%(column_0_N_name)s",
            "ck": "ck_%(table_name)s_%(constraint_name)s",
            "fk": "fk_%(table_name)s_%(column_0_name)s",
            "pk": "pk_%(table_name)s",
        }
    )
    type_annotation_map = {datetime: Instant, dict[str, Any]: JSON, list[Any]: JSON}


ID = String(36)
