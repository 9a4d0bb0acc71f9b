"""The special functions of SciPy, fetched when one is first used: importing them takes longer than all else at a start."""

from __future__ import annotations

from typing import Any


def __getattr__(name: str) -> Any:
    from scipy import special

    return getattr(special, name)
