"""The step in which readings are taken, carried through to every result on one path (METHODS 0 and 13)."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Callable, Iterator
from dataclasses import replace

from assayer.core.errors import EntryError
from assayer.core.methods.inputs import Inputs
from assayer.core.methods.results import Reduction


def with_reading_steps(reduce: Callable[[Inputs], Reduction], inputs: Inputs, reduction: Reduction) -> Reduction:
    """A reduction whose results have the step that follows from those of the readings.

    Parameters
    ----------
    reduce : callable
        The rule of the method.
    inputs : Inputs
        What it was reduced from; `steps` by field, in base units.
    reduction : Reduction
        A step that the method itself gives a result stands (a ladder of weights, a ramp looked at in steps); of a
        recording it is that of the recorded channel, to which those of the entries are added.

    Notes
    -----
    Each reading is off by as much as half its step, independently of the others: r² = Σ (f(x + r_i) − f(x))². The run is
    reduced once for each reading; beside a recording, which takes long to reduce, once for each field, whose n readings
    go into their mean: by 1/√n.
    """
    squares: dict[str, float] = defaultdict(float)
    for moved, share in _moved(inputs):
        try:
            changed = reduce(moved)
        except EntryError:
            continue
        values = {r.key: r.value for r in changed.results}
        for result in reduction.results:
            if result.key in values:
                squares[result.key] += share * (values[result.key] - result.value) ** 2
    results = []
    for result in reduction.results:
        own = result.reading_step
        step = own if own and inputs.recording is None else math.hypot(own, math.sqrt(squares[result.key]))
        results.append(replace(result, reading_step=step))
    return replace(reduction, results=results)


def _moved(inputs: Inputs) -> Iterator[tuple[Inputs, float]]:
    """The inputs with one reading off by its step, and the share of its square that counts."""
    if inputs.recording is not None:
        for name in dict.fromkeys(e.field for e in inputs.entries):
            step, count = inputs.step(name), sum(e.field == name for e in inputs.entries)
            if step:
                entries = [replace(e, value=e.value + step) if e.field == name else e for e in inputs.entries]
                yield replace(inputs, entries=entries), 1 / count
        return
    for at, entry in enumerate(inputs.entries):
        step = inputs.step(entry.field)
        if step:
            yield replace(inputs, entries=[replace(e, value=e.value + step) if i == at else e for i, e in enumerate(inputs.entries)]), 1.0
