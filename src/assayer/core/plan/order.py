"""Random order, seeded and reproducible."""

from __future__ import annotations

import random
from collections.abc import Iterable


def random_order(ids: Iterable[str], seed: int) -> list[str]:
    """The ids in random order; the same ids and seed give the same order, however they came."""
    ordered = sorted(ids)
    random.Random(seed).shuffle(ordered)
    return ordered
