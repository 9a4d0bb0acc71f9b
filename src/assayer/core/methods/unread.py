"""Missing parts of a run that is about to end: weights not loaded, readings that are due, a ramp without an event."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from assayer.core.methods.base import Method
from assayer.core.methods.inputs import Inputs
from assayer.core.methods.results import Reduction
from assayer.core.methods.steps import RampStep, RoundsStep, Step, TimedLoadsStep
from assayer.core.methods.vocabulary import Bound
from assayer.core.plan.due import set_time


@dataclass(frozen=True, slots=True)
class Unread:
    """A missing part, as text ("1 of 4 weights"), and the field it belongs to."""

    field: str
    words: str


def unread(method: Method, inputs: Inputs, reduction: Reduction | None) -> Unread | None:
    """The first missing part of a run; None if it is complete, or if its outcome explains why it ended early.

    Parameters
    ----------
    inputs : Inputs
        All that was captured of the run, with its outcome.
    reduction : Reduction or None
        What it gives; None where that is not known.
    """
    if inputs.outcome is not None and method.outcome(inputs.outcome).early:
        return None
    for step in method.steps:
        missing = _of_step(method, step, inputs, reduction)
        if missing is not None:
            return missing
    return None


def _of_step(method: Method, step: Step, inputs: Inputs, reduction: Reduction | None) -> Unread | None:
    if isinstance(step, TimedLoadsStep):
        return _weights(step, inputs, _listed(method, inputs, step.ladder), _listed(method, inputs, step.times))
    if isinstance(step, RoundsStep) and not step.optional:
        return _due(step, inputs, _listed(method, inputs, step.due))
    if isinstance(step, RampStep):
        return _ramp(method, step, reduction)
    return None


def _listed(method: Method, inputs: Inputs, name: str) -> Sequence[float]:
    protocol: Any = inputs.protocol if inputs.protocol is not None else method.protocol()
    return tuple(getattr(protocol, name))


def _weights(step: TimedLoadsStep, inputs: Inputs, ladder: Sequence[float], times: Sequence[float]) -> Unread | None:
    field = next(f for f in step.fields if f.by_load)
    read = [sum(e.load == load for e in inputs.timed(field.name)) for load in ladder]
    loaded = sum(n > 0 for n in read)
    if loaded < len(ladder):
        return Unread(field.name, f"{loaded} of {len(ladder)} weights")
    short = next(((load, n) for load, n in zip(ladder, read, strict=True) if n < len(times)), None)
    return None if short is None else Unread(field.name, f"{short[1]} of {len(times)} readings under {short[0]:g} N")


def _due(step: RoundsStep, inputs: Inputs, due: Sequence[float]) -> Unread | None:
    field = step.fields[0]
    times = [e.after or 0.0 for e in inputs.timed(field.name)]
    # one missed in between is no reason to go on, nor is a last one that was late
    if any(t >= due[-1] or set_time(t, due) == due[-1] for t in times):
        return None
    return Unread(field.name, f"{len({set_time(t, due) for t in times} & set(due))} of {len(due)} readings that are due")


def _ramp(method: Method, step: RampStep, reduction: Reduction | None) -> Unread | None:
    main = None if reduction is None else reduction.get(method.main)
    if main is None or main.bound is not Bound.AT_LEAST:
        return None
    return Unread(step.fields[-1].name, f"nothing seen up to {main.value:.3g} °C")
