"""Strand diameter: mean, scatter, ovality, flow correction (METHODS 11)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from assayer.core.errors import EntryError
from assayer.core.quantities.slips import Question, question_number

WANTED = 10
"""Readings, in pairs at right angles, before the scatter says much."""

PLAUSIBLE = 0.12
"""Share of the nominal diameter beyond which a reading is asked about."""

TOLERANCE = 0.05
"""mm; what is taken where the maker names none."""


@dataclass(frozen=True, slots=True)
class DiameterSummary:
    """What readings of a strand say.

    Attributes
    ----------
    mean, minimum, maximum : float, mm
    sd : float or None, mm
        None for a single reading.
    ovality : float or None
        mean |a − b| of pairs at right angles / mean; None without a pair.
    flow_factor : float
        (nominal / mean)²: what to multiply the flow with.
    outside : int
        Readings outside nominal ± tolerance.
    """

    n: int
    mean: float
    sd: float | None
    minimum: float
    maximum: float
    ovality: float | None
    flow_factor: float
    outside: int


def summarise_diameters(readings: Sequence[float], nominal: float, tolerance: float = TOLERANCE) -> DiameterSummary:
    """Summarise readings taken in pairs at right angles; a last one without its partner counts for the mean only.

    Parameters
    ----------
    readings : sequence of float, mm
        In the order taken: the first two are a pair, and so on.
    nominal, tolerance : float, mm

    Raises
    ------
    EntryError
        If there is no reading, or one is not positive.
    """
    if not readings:
        raise EntryError("no diameter was read", "diameters")
    if min(readings) <= 0:
        raise EntryError("a diameter is above 0", "diameters", next(i for i, r in enumerate(readings, 1) if r <= 0))
    values = np.asarray(readings, dtype=float)
    mean = float(values.mean())
    pairs = values[: len(values) // 2 * 2].reshape(-1, 2)
    ovality = float(np.abs(pairs[:, 0] - pairs[:, 1]).mean() / mean) if len(pairs) else None
    # readings on the limit are inside: the last digit of a sum of decimals is not trusted
    outside = int((np.abs(values - nominal) > tolerance + 1e-9).sum())
    sd = float(values.std(ddof=1)) if len(values) > 1 else None
    return DiameterSummary(len(values), mean, sd, float(values.min()), float(values.max()), ovality, (nominal / mean) ** 2, outside)


def question_diameter(value: float, nominal: float, row: int) -> Question | None:
    """Ask about a reading far from nominal: "1753" is likely 1.753."""
    return question_number("diameters", value, (1 - PLAUSIBLE) * nominal, (1 + PLAUSIBLE) * nominal, f"reading {row} of the diameter,", "mm", row)
