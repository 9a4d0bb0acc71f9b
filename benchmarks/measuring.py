"""How speed is measured and told."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable


def timed(*functions: Callable[[], object], repeat: int = 15) -> list[float]:
    """Median seconds of each function, taken in turn."""
    for f in functions:
        f()
    taken: list[list[float]] = [[] for _ in functions]
    for _ in range(repeat):
        for i, f in enumerate(functions):
            start = time.perf_counter()
            f()
            taken[i].append(time.perf_counter() - start)
    return [statistics.median(t) for t in taken]


def report(what: str, got: float, bound: float, unit: str, note: str = "") -> None:
    print(f"{'ok  ' if got <= bound else 'MISS'} {what:66} {got:9.3f} {unit:6} (bound {bound:g}) {note}", flush=True)
