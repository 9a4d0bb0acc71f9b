"""Random order, seeded and reproducible."""

from __future__ import annotations

import hashlib
from collections.abc import Iterable


def random_order(ids: Iterable[str], seed: int) -> list[str]:
    """The ids in random order: the same ids and seed give the same order, however they came.

    Each id draws its place by itself, so that one that is added (a reprint) leaves the order of the others.
    """
    return sorted(ids, key=lambda key: hashlib.sha256(f"{seed}:{key}".encode()).digest())
