"""A recorded test as columns in base units."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from assayer.core.errors import EntryError

Floats = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Recording:
    """One recording, row by row.

    Attributes
    ----------
    force : ndarray, shape (n,), N
    travel : ndarray, shape (n,), mm, or None
        Crosshead travel.
    strain : ndarray, shape (n,), mm/mm, or None
        From an extensometer.
    time : ndarray, shape (n,), s, or None
    lines : ndarray of int, shape (n,), or None
        Line of the file each row came from, so that a remark can name it; None: row i is `first_line` + i.
    warnings : list of str
        What was noticed on reading.
    """

    force: Floats
    travel: Floats | None = None
    strain: Floats | None = None
    time: Floats | None = None
    lines: NDArray[np.int64] | None = None
    first_line: int = 1
    warnings: list[str] = field(default_factory=list)

    def __post_init__(self) -> None:
        if self.force.size < 5:
            raise EntryError(f"a recording needs at least 5 rows, but has {self.force.size}", "curve")
        for name in ("travel", "strain", "time"):
            column = getattr(self, name)
            if column is not None and column.shape != self.force.shape:
                raise EntryError(f"{name} must have as many rows as force ({self.force.size}), but has {column.size}", name)

    def line(self, row: int) -> int:
        """The line of the file that `row` (from 0) came from."""
        return int(self.lines[row]) if self.lines is not None else self.first_line + row


def white_noise(values: Floats) -> float:
    """Standard deviation of the noise of a smooth signal, from its second differences.

    A straight slope has none, so load coming on does not count as noise; the median keeps out steps.
    """
    if values.size < 5:
        return 0.0
    return float(1.4826 * np.median(np.abs(values[2:] - 2 * values[1:-1] + values[:-2])) / np.sqrt(6.0))
