"""Whether settings change together over the arms of a plan, so that their effects cannot be told apart."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from assayer.core.quantities.words import Value

Floats = NDArray[np.float64]
Settings = Mapping[str, Value]
"""The settings of one arm."""

TIED = 0.9
"""Share of a setting's variation; what others explain beyond that cannot be told apart by a few arms."""


def explained_share(sheets: Sequence[Settings], name: str, others: Sequence[str]) -> float:
    """The share of one setting's variation that the others tell by straight lines (R²): 1 where it cannot be parted from them."""
    response, predictors = _columns(sheets, name), np.column_stack([np.ones(len(sheets)), *(_columns(sheets, n) for n in others)])
    about = response - response.mean(axis=0)
    rest = about - predictors @ np.linalg.lstsq(predictors, about, rcond=None)[0]
    return 1 - float((rest**2).sum() / (about**2).sum())


def determines(sheets: Sequence[Settings], name: str, other: str) -> bool:
    """Whether another setting is a function of this one: each of its levels goes with one level of the other, though not along a straight line.

    Where every arm has a level of its own that is true of any two settings: then only a curve (a quadratic) ties them.
    """
    levels: dict[Value | None, set[Value | None]] = {}
    for sheet in sheets:
        levels.setdefault(sheet.get(name), set()).add(sheet.get(other))
    if len(levels) < 2 or any(len(others) > 1 for others in levels.values()):
        return False
    if len(levels) < len(sheets):
        return True
    own, function = _columns(sheets, name), _columns(sheets, other)
    if own.shape[1] > 1 or function.shape[1] > 1:
        return False
    centred = own - own.mean()
    about = function - function.mean()
    predictors = np.hstack([np.ones_like(own), centred, centred**2])
    rest = about - predictors @ np.linalg.lstsq(predictors, about, rcond=None)[0]
    return 1 - float((rest**2).sum() / (about**2).sum()) > TIED


def _columns(sheets: Sequence[Settings], name: str) -> Floats:
    """A setting as numbers: itself, or one column for each of its words."""
    values = [sheet.get(name) for sheet in sheets]
    if all(isinstance(v, float | int) and not isinstance(v, bool) for v in values):
        return np.array(values, dtype=np.float64)[:, None]
    return np.array([[float(v == word) for word in dict.fromkeys(values)] for v in values])
