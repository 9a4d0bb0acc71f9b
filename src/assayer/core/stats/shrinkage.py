"""Shrinkage and contour offset from features of known size (METHODS 10)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from assayer.core.errors import EntryError
from assayer.core.stats.groups import t_quantile

SIDES = {"outer": 1.0, "inner": -1.0, "centre": 0.0, "centres": 0.0}
"""How often the contour offset enters, twice, by the kind of feature."""

_MOST = 0.1
"""A shrinkage beyond this is a slip of a reading."""


@dataclass(frozen=True, slots=True)
class Shrinkage:
    """Shares and mm; half widths of the 95 % intervals are None where nothing is left to tell them by.

    `offset` of the contour per surface: with one kind of feature it includes the zero error of the calliper.
    """

    shrinkage: float
    shrinkage_half: float | None
    offset: float
    offset_half: float | None
    with_zero_error: bool

    @property
    def scale(self) -> float:
        """By which the model is to be enlarged."""
        return 1 / (1 - self.shrinkage)


def fit_shrinkage(nominal: Sequence[float], measured: Sequence[float], features: Sequence[str]) -> Shrinkage:
    """Joint least squares: measured = (1 − s)·nominal + 2·o·k.

    Parameters
    ----------
    nominal, measured : sequence of float, mm
    features : sequence of str
        "outer" (k = 1), "inner" (−1) or "centres" (0).

    Raises
    ------
    EntryError
        If sizes and kinds do not tell shrinkage and offset apart, or a reading is a slip.
    """
    if not len(nominal) == len(measured) == len(features):
        raise EntryError("each feature needs its nominal size, its reading and its kind", "measured")
    if len(nominal) < 2:
        raise EntryError("two features of different size at least: from one, shrinkage and offset cannot be told apart", "nominal")
    x, y = np.array(nominal, float), np.array(measured, float)
    for i, (n, m) in enumerate(zip(nominal, measured, strict=True), 1):
        if abs(m - n) > max(_MOST * n, 1.0):
            raise EntryError(f"feature {i}: {m:g} mm measured where {n:g} mm are nominal: is the decimal point right?", "measured", i)
    k = np.array([SIDES[f] for f in features])
    design = np.column_stack([x, k])
    if not k.any():
        design = design[:, :1]
    if np.linalg.matrix_rank(design) < design.shape[1]:
        raise EntryError("all features are of one size: measure one that is longer or shorter as well", "nominal")
    solution, *_ = np.linalg.lstsq(design, y, rcond=None)
    left = len(y) - design.shape[1]
    halves: list[float | None] = [None, None]
    if left > 0:
        variance = float(((y - design @ solution) ** 2).sum()) / left
        spread = np.sqrt(variance * np.diag(np.linalg.inv(design.T @ design)))
        halves = [t_quantile(0.975, left) * float(s) for s in spread]
    has_offset = design.shape[1] == 2
    return Shrinkage(
        shrinkage=float(1 - solution[0]),
        shrinkage_half=halves[0],
        offset=float(solution[1]) / 2 if has_offset else 0.0,
        offset_half=halves[1] / 2 if has_offset and halves[1] is not None else None,
        with_zero_error=len(set(features)) == 1 and has_offset,
    )
