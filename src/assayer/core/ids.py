"""UUIDv7 (RFC 9562): sorted by time of making, made by whoever makes the thing."""

from __future__ import annotations

import random
import secrets
from datetime import datetime
from uuid import UUID


def uuid7(at: datetime, rng: random.Random | None = None) -> UUID:
    """A new id for the instant `at`; `rng` makes it reproducible for seeded demo data."""
    bits = rng.getrandbits(74) if rng is not None else secrets.randbits(74)
    milliseconds = int(at.timestamp() * 1000)
    value = (milliseconds & ((1 << 48) - 1)) << 80 | 0x7 << 76 | (bits >> 62) << 64 | 0b10 << 62 | bits & ((1 << 62) - 1)
    return UUID(int=value)
