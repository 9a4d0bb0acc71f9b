"""What a graded tower says for different uses of a material: windows of bands."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

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
    """From band to band, counted from 1, lower band first; None where no band will do or none differs."""

    reading: str
    first: int | None
    last: int | None
    words: str


def tower_windows(values: Sequence[float], unit: str, grades: Mapping[int, Mapping[str, float]], failed_band: int | None = None) -> list[TowerWindow]:
    """The windows of a tower; readings whose traits were not graded are left out.

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
    found = []
    for reading, traits in READINGS:
        scores = {}
        for band in range(1, last + 1):
            told = [grades[band][t] for t in traits if t in grades.get(band, {})]
            if told:
                scores[band] = min(told)
        if scores:
            found.append(_window(reading, scores, values, unit))
    return found


def _window(reading: str, scores: Mapping[int, float], values: Sequence[float], unit: str) -> TowerWindow:
    best = max(scores.values())
    if best < ENOUGH:
        return TowerWindow(reading, None, None, f"no band is good enough: the best has {best:g} of 4")
    if len(scores) > 1 and min(scores.values()) == best:
        return TowerWindow(reading, min(scores), max(scores), f"no difference seen: {best:g} of 4 in all bands")
    top = min(band for band, score in scores.items() if score == best)
    first = last = top
    while first - 1 in scores and scores[first - 1] >= best - NEAR:
        first -= 1
    while last + 1 in scores and scores[last + 1] >= best - NEAR:
        last += 1
    span = f"{values[first - 1]:g} {unit}" if first == last else f"{values[first - 1]:g} … {values[last - 1]:g} {unit}"
    return TowerWindow(reading, first, last, f"{span} ({best:g} of 4)")
