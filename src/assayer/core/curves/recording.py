"""A recorded test as named channels in base units."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from assayer.core.errors import EntryError

Floats = NDArray[np.float64]

CHANNELS: Mapping[str, str] = {
    "force": "force", "torque": "torque", "temperature": "temperature", "travel": "length", "angle": "angle", "strain": "strain", "time": "time",
}  # fmt: skip
"""Channels that a file may hold, each with its dimension; `travel` is the crosshead's (or how far a bar sank), `strain` an extensometer's."""


@dataclass(frozen=True, slots=True)
class Recording:
    """One recording, row by row.

    Attributes
    ----------
    channels : mapping of name to ndarray, shape (n,)
        In the base unit of the channel's dimension: force N, travel mm, strain mm/mm, time s.
    lines : ndarray of int, shape (n,), or None
        Line of the file each row came from, so that a remark can name it; None: row i is `first_line` + i.
    warnings : list of str
        What was noticed on reading.
    """

    channels: Mapping[str, Floats]
    lines: NDArray[np.int64] | None = None
    first_line: int = 1
    warnings: list[str] = field(default_factory=list)

    def __post_init__(self) -> None:
        first = next(iter(self.channels.items()), None)
        if first is None or first[1].size < 5:
            raise EntryError(f"a recording needs at least 5 rows, but has {0 if first is None else first[1].size}", "curve")
        for name, values in self.channels.items():
            if values.shape != first[1].shape:
                raise EntryError(f"{name} must have as many rows as {first[0]} ({first[1].size}), but has {values.size}", name)

    @classmethod
    def of(
        cls,
        lines: NDArray[np.int64] | None = None,
        first_line: int = 1,
        warnings: list[str] | None = None,
        **channels: Floats | None,
    ) -> Recording:
        """A recording of the channels that are given; None leaves a channel out."""
        return cls({name: values for name, values in channels.items() if values is not None}, lines, first_line, warnings or [])

    @property
    def rows(self) -> int:
        return next(iter(self.channels.values())).size

    def get(self, name: str) -> Floats | None:
        """A channel, or None where it was not recorded."""
        return self.channels.get(name)

    def need(self, name: str) -> Floats:
        """A channel that the reduction cannot do without.

        Raises
        ------
        EntryError
            If it was not recorded; names the channels there are.
        """
        found = self.channels.get(name)
        if found is None:
            raise EntryError(f"the recording has no {name}: it holds {', '.join(self.channels)}", "curve")
        return found

    def scaled(self, factors: Mapping[str, float]) -> Recording:
        """The recording with calibrations applied, channel by channel."""
        if all(factors.get(name, 1.0) == 1.0 for name in self.channels):
            return self
        return replace(self, channels={name: values * factors.get(name, 1.0) for name, values in self.channels.items()})

    def line(self, row: int) -> int:
        """The line of the file that `row` (from 0) came from."""
        return int(self.lines[row]) if self.lines is not None else self.first_line + row


def median(values: Floats) -> float:
    """The median of at least one value, as `numpy.median` has it; much quicker on short arrays, of which a reduction asks for several."""
    half = values.size // 2
    parted = values.copy()
    if values.size % 2:
        parted.partition(half)
        return float(parted[half])
    parted.partition((half - 1, half))
    return float((parted[half - 1] + parted[half]) / 2)


def white_noise(values: Floats) -> float:
    """Standard deviation of the noise of a smooth signal, from its second differences.

    A straight slope has none, so load coming on does not count as noise; the median keeps out steps.
    """
    if values.size < 5:
        return 0.0
    return 1.4826 * median(np.abs(values[2:] - 2 * values[1:-1] + values[:-2])) / math.sqrt(6.0)
