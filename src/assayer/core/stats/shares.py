"""A share of successes with its interval."""

from __future__ import annotations

import math
from dataclasses import dataclass

_Z95 = 1.959963984540054
"""Two-sided 95 % point of the normal distribution."""


@dataclass(frozen=True, slots=True)
class Share:
    """A share and its 95 % interval."""

    share: float
    low: float
    high: float


def wilson(successes: int, of: int) -> Share:
    """Wilson's score interval (METHODS 12).

    Parameters
    ----------
    successes, of : int
        At least one of them tried.
    """
    p, z2 = successes / of, _Z95**2
    middle = (p + z2 / (2 * of)) / (1 + z2 / of)
    half = _Z95 * math.sqrt(p * (1 - p) / of + z2 / (4 * of * of)) / (1 + z2 / of)
    return Share(p, max(0.0, middle - half), min(1.0, middle + half))
