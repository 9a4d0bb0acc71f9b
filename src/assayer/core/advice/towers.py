"""What a graded tower says for different uses of a material: windows of bands."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from itertools import groupby

from assayer.core.methods.traits import trait

READINGS: tuple[tuple[str, tuple[str, ...]], ...] = (
    ("load", ("layers",)),
    ("long bridges", ("bridging",)),
    ("looks", ("surface", "stringing")),
    ("fine detail", ("fine_detail", "stringing")),
)
"""What a tower is read for, and the traits that count for it: the lowest of them holds."""

ENOUGH = 2.0
"""A grade below this is good for nothing."""

NEAR = 0.5
"""Bands whose grade is this near to the best belong to the window."""


@dataclass(frozen=True, slots=True)
class TowerWindow:
    """From band to band, counted from 1, lower band first; None where no band will do, or a trait was not graded."""

    reading: str
    first: int | None
    last: int | None
    words: str


def tower_windows(values: Sequence[float], unit: str, grades: Mapping[int, Mapping[str, float]], failed_band: int | None = None) -> list[TowerWindow]:
    """The windows of a tower; readings of which no trait was graded are left out.

    Parameters
    ----------
    values : sequence of float
        Of the bands from the bed upwards.
    unit : str
    grades : mapping
        By band (from 1) and trait; what counts of several graders.
    failed_band : int, optional
        The band that failed: it and those above say nothing.
    """
    last = len(values) if failed_band is None else failed_band - 1
    bands = range(1, last + 1)
    windows = []
    for reading, traits in READINGS:
        graded = [t for t in traits if any(t in grades.get(band, {}) for band in bands)]
        if not graded:
            continue
        scores = {band: min(grades[band][t] for t in traits) for band in bands if all(t in grades.get(band, {}) for t in traits)}
        if scores:
            windows.append(_window(reading, scores, values, unit))
        else:
            # a trait that nobody graded is no sign that it is good
            missing = [t for t in traits if t not in graded] or list(traits)
            windows.append(TowerWindow(reading, None, None, f"not graded: {', '.join(_label(t) for t in missing)}"))
    return windows


def _label(name: str) -> str:
    named = trait(name)
    return named.label if named is not None else name


def _window(reading: str, scores: Mapping[int, float], values: Sequence[float], unit: str) -> TowerWindow:
    best = max(scores.values())
    if best < ENOUGH:
        return TowerWindow(reading, None, None, f"no band is good enough: the best has {best:g} of 4")
    if len(scores) > 1 and min(scores.values()) == best:
        return TowerWindow(reading, min(scores), max(scores), f"no difference seen: {best:g} of 4 in all bands")
    near = [band for band, score in sorted(scores.items()) if score >= max(best - NEAR, ENOUGH)]
    # consecutive bands have one difference to their place in the list
    runs = [[band for _, band in run] for _, run in groupby(enumerate(near), lambda pair: pair[1] - pair[0])]
    window = max((run for run in runs if any(scores[band] == best for band in run)), key=len)
    first, last = window[0], window[-1]
    span = f"{values[first - 1]:g} {unit}" if first == last else f"{values[first - 1]:g} … {values[last - 1]:g} {unit}"
    return TowerWindow(reading, first, last, f"{span} ({best:g} of 4)")
