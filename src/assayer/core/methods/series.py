"""A temperature and how far a bar went down at it: typed pairs, or a recording (METHODS 8)."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from assayer.core.errors import EntryError
from assayer.core.methods.inputs import Inputs
from assayer.core.methods.steps import Field
from assayer.core.methods.vocabulary import Sign

TEMPERATURE = Field("ramp_temperature", "temperature", "temperature", needed=0, usual=0, channel="temperature", sign=Sign.EITHER)
SAG = Field("ramp_sag", "sag at it", "length", needed=0, usual=0, channel="deflection", sign=Sign.EITHER)
LEAST = 2


def series_of(inputs: Inputs) -> tuple[Sequence[float], Sequence[float]] | None:
    """Temperatures in °C and sags in mm, in the order they were read; None where there are none.

    Raises
    ------
    EntryError
        If a pair is not whole, or there is only one.
    """
    if inputs.recording is not None:
        temperature, sag = inputs.recording.need("temperature"), inputs.recording.need("travel")
        if abs(float(sag.min() - sag[0])) > abs(float(sag.max() - sag[0])):
            sag = -sag
        return temperature.tolist(), (sag - sag[0]).tolist()
    temperatures, sags = inputs.values(TEMPERATURE.name), inputs.values(SAG.name)
    if not temperatures and not sags:
        return None
    pairs = inputs.pairs(TEMPERATURE.name, SAG.name)
    if len(pairs) != len(temperatures) or len(pairs) != len(sags):
        raise EntryError("each reading of the ramp has a temperature and a sag", SAG.name if len(sags) < len(temperatures) else TEMPERATURE.name)
    if len(pairs) < LEAST:
        raise EntryError("one reading is no ramp: enter at least two", SAG.name)
    if not np.all(np.isfinite(np.asarray(pairs))):
        raise EntryError("a reading of the ramp is no finite number", SAG.name)
    return [t for t, _ in pairs], [s for _, s in pairs]
