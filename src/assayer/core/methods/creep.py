"""Creep under constant load (METHODS 6, an own method): the gap of a loaded frame over days; times and fits by the rules of ISO 899-1."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import ClassVar

import numpy as np

from assayer.core.errors import EntryError
from assayer.core.methods.ambient import AMBIENT_RANGE
from assayer.core.methods.base import CurveView, Method, Outcome
from assayer.core.methods.inputs import Entry, Inputs, Settings, check_increasing, need, setting
from assayer.core.methods.results import QuantitySpec, Reduction, Result
from assayer.core.methods.steps import Field, PlainStep, RoundsStep
from assayer.core.methods.vocabulary import Bound, Orientation, Sign
from assayer.core.plan.due import set_time
from assayer.core.shapes.frames import CREEP_FRAME
from assayer.core.stats.findley import Findley, fit_findley
from assayer.core.stats.groups import Interval
from assayer.core.stats.verdicts import GoodSide

MINUTE = 60.0
HOUR = 3600.0
DAY = 86400.0
_FIT_READINGS = 5
_FIT_SPAN = 100.0
"""Last time over first, for the fit to be told apart from a straight line."""
_BEYOND = 2.0
"""The fit is not used beyond this many times the last reading."""

UNLOADED = Field("unloaded", "gap, unloaded", "length", needed=0, channel="gap", sign=Sign.EITHER)
GAP = Field("gap", "gap under load", "length", needed=0, usual=8, channel="gap", sign=Sign.EITHER, counts_from="load_on")
RECOVERY = Field("recovery", "gap after unloading", "length", needed=0, usual=3, channel="gap", sign=Sign.EITHER, counts_from="load_off")


@dataclass(frozen=True, slots=True)
class CreepProtocol(Settings):
    """What a lab sets: the load in N, the horizon in s, when readings are due in s after loading and after unloading."""

    load: float = setting(24.0, "load", "force")
    horizon: float = setting(100 * HOUR, "horizon", "time")
    due: tuple[float, ...] = setting(
        (MINUTE, 3 * MINUTE, 10 * MINUTE, 30 * MINUTE, HOUR, 3 * HOUR, 10 * HOUR, 30 * HOUR, 100 * HOUR), "read under load after", "time"
    )
    recovery_due: tuple[float, ...] = setting((0.1 * HOUR, HOUR, 10 * HOUR), "read after unloading", "time")

    def check(self) -> None:
        for name, label in (("load", "the load"), ("horizon", "the horizon")):
            value = getattr(self, name)
            if not (math.isfinite(value) and value > 0):
                raise EntryError(f"{label} must be greater than 0, but got {value:g}", name)
        check_increasing(self.due, "due", "reading times")
        check_increasing(self.recovery_due, "recovery_due", "reading times after unloading")


class _Creep(Method):
    protocol: ClassVar[type[Settings]] = CreepProtocol

    def reduce(self, inputs: Inputs) -> Reduction:
        protocol = inputs.protocol if isinstance(inputs.protocol, CreepProtocol) else CreepProtocol()
        unloaded = need(inputs, UNLOADED)
        gap = _loaded(inputs)
        warnings = _remarks(inputs.entries, gap)
        first, last = gap[0], gap[-1]
        results = [Result("first_read_after", first.after or 0.0, "s")]
        if unloaded:
            results.append(Result("deformation_on_loading", first.value - unloaded[-1], "mm"))
        at_horizon, fit, notes = creep_at(gap, protocol.horizon)
        if inputs.outcome == "broke" and (last.after or 0.0) < protocol.horizon:
            # it opened until it broke: the creep it would have had is at least what was read
            results.append(Result("creep_at_horizon", last.value - first.value, "mm", Bound.AT_LEAST, ["broke before the horizon"]))
            if fit is not None:
                results.append(Result("creep_from_1_min", last.value - fit.at(MINUTE / DAY), "mm", Bound.AT_LEAST, ["broke before the horizon"]))
            at_horizon, notes = None, []
        warnings += notes
        if at_horizon is not None:
            value, interval = at_horizon
            # readings still to come before the horizon may change it
            ahead = inputs.outcome is None and (last.after or 0.0) < protocol.horizon
            results.append(Result("creep_at_horizon", value, "mm", interval=interval, provisional=ahead))
            if fit is not None and interval is not None:
                change = fit.change(MINUTE / DAY, protocol.horizon / DAY)
                results.append(Result("creep_from_1_min", (change.low + change.high) / 2, "mm", interval=change, provisional=ahead))
        if fit is not None:
            results += [Result("findley_d0", fit.d0, "mm"), Result("findley_a", fit.a, "mm"), Result("findley_n", fit.n, "")]
        results += _recovered(inputs, unloaded, last)
        return self.made(results, warnings)

    def view(self, inputs: Inputs) -> CurveView | None:
        gap = _loaded(inputs)
        t = np.array([e.after or 0.0 for e in gap]) / HOUR
        d = np.array([e.value - gap[0].value for e in gap])
        marks: dict[str, tuple[float, ...]] = {}
        protocol = inputs.protocol if isinstance(inputs.protocol, CreepProtocol) else CreepProtocol()
        marks["horizon"] = (protocol.horizon / HOUR,)
        fit = _fit(gap)
        if fit is not None:
            marks["findley"] = (fit.d0 - gap[0].value, fit.a, fit.n)
        ambient = [v for e in gap if e.ambient is not None for v in ((e.after or 0.0) / HOUR, e.ambient)]
        if ambient:
            marks["ambient"] = tuple(ambient)
        return CurveView(t, d, "time under load", "h", "creep", "mm", marks, log_x=True, points=True)


def _loaded(inputs: Inputs) -> list[Entry]:
    gap = inputs.timed("gap")
    if not gap:
        raise EntryError("gap under load: at least one reading with its time is needed", "gap")
    if not (gap[0].after or 0.0) > 0:
        raise EntryError(f"the first reading under load needs its time after loading, above 0 s, but has {gap[0].after:g} s", "gap")
    return gap


def _fit(gap: Sequence[Entry]) -> Findley | None:
    """Findley's law where there are enough readings over a long enough time, and n is off its limits."""
    if len(gap) < _FIT_READINGS or (gap[-1].after or 0.0) < _FIT_SPAN * (gap[0].after or 0.0):
        return None
    fit = fit_findley([(e.after or 0.0) / DAY for e in gap], [e.value for e in gap])
    return None if fit.at_limit else fit


def creep_at(gap: Sequence[Entry], horizon: float) -> tuple[tuple[float, Interval | None] | None, Findley | None, list[str]]:
    """Creep at the horizon: d̂(horizon) − d1, with its 95 % prediction interval where it comes from the fit.

    Parameters
    ----------
    gap : sequence of Entry
        Readings under load in the order of their times (`after` in s, above 0); `value` in mm.
    horizon : float, s

    Returns
    -------
    (value, interval) or None, Findley or None, warnings
        None where the horizon lies beyond what the readings carry.
    """
    first, last = gap[0], gap[-1]
    reach = last.after or 0.0
    fit = _fit(gap)
    if fit is not None and horizon <= _BEYOND * reach:
        ends = fit.prediction(horizon / DAY)
        interval = Interval(ends.low - first.value, ends.high - first.value)
        return (fit.at(horizon / DAY) - first.value, interval), fit, []
    if horizon > reach:
        why = "no creep at the horizon: the last reading lies before it" + ("" if fit is None else ", by more than half")
        return None, fit, [why]
    log_t = np.log([e.after or 0.0 for e in gap])
    value = float(np.interp(math.log(horizon), log_t, [e.value for e in gap]))
    return (value - first.value, None), fit, ["creep at the horizon is interpolated: too few readings, or too short a time, for the fit"]


def _recovered(inputs: Inputs, unloaded: list[float], last: Entry) -> list[Result]:
    """Shares of the total deformation that came back, and that stays, at each reading after unloading.

    A reading in the window of a set time is that time's, so that specimens are compared at the same one;
    of several in one window the nearest counts.
    """
    recovery = inputs.timed("recovery")
    if not recovery or not unloaded:
        return []
    protocol = inputs.protocol if isinstance(inputs.protocol, CreepProtocol) else CreepProtocol()
    total = last.value - unloaded[-1]
    if total == 0:
        return []
    nearest: dict[float, Entry] = {}
    for entry in recovery:
        seconds = entry.after or 0.0
        after = set_time(seconds, protocol.recovery_due)
        if after not in nearest or abs(seconds - after) < abs((nearest[after].after or 0.0) - after):
            nearest[after] = entry
    results = []
    for after, entry in nearest.items():
        share = (last.value - entry.value) / total
        results.append(Result("recovered_share", share, "1", after=after))
        results.append(Result("remaining_share", 1 - share, "1", after=after))
    return results


def _remarks(entries: Sequence[Entry], gap: Sequence[Entry]) -> list[str]:
    remarks = []
    ambient = [e.ambient for e in entries if e.ambient is not None]
    if ambient and max(ambient) - min(ambient) > AMBIENT_RANGE:
        remarks.append(f"the room went from {min(ambient):g} to {max(ambient):g} °C: over {AMBIENT_RANGE:g} °C apart, so a comparison is marked")
    if any(b.value < a.value for a, b in pairwise(gap)):
        remarks.append("a later reading under load is smaller than the one before")
    return remarks


METHOD = _Creep(
    name="creep",
    label="Creep",
    after="own method",
    procedure_version="creep-1",
    reduction_version=2,
    orientations=(Orientation.FLAT, Orientation.ON_EDGE, Orientation.UPRIGHT),
    shapes=(CREEP_FRAME,),
    steps=(
        PlainStep("unloaded", "gap, before the weight", (UNLOADED,), optional=True),
        RoundsStep("loaded", "gap under the weight", (GAP,), due="due", begin="hang the weight: the clock runs from Enter", begun="The weight is on"),
        RoundsStep(
            "recovery",
            "gap after unloading",
            (RECOVERY,),
            optional=True,
            due="recovery_due",
            begin="take the weight off: recovery is read from Enter",
            begun="The weight is off",
        ),
    ),
    quantities=(
        QuantitySpec("deformation_on_loading", "deformation on loading", "mm", GoodSide.LOWER, plausible=(-0.05, 15.0)),
        QuantitySpec(
            "creep_at_horizon", "creep at the horizon", "mm", GoodSide.LOWER, plausible=(-0.05, 15.0), starts="first_read_after", else_by="creep_from_1_min"
        ),
        QuantitySpec("creep_from_1_min", "creep from 1 min to the horizon", "mm", GoodSide.LOWER, plausible=(-0.05, 15.0)),
        QuantitySpec("first_read_after", "first read after", "s", GoodSide.NONE),
        QuantitySpec("findley_d0", "Findley d0", "mm", GoodSide.NONE),
        QuantitySpec("findley_a", "Findley A", "mm", GoodSide.NONE),
        QuantitySpec("findley_n", "Findley n", "", GoodSide.NONE),
        QuantitySpec("recovered_share", "recovered share", "1", GoodSide.HIGHER, by="after"),
        QuantitySpec("remaining_share", "remaining share", "1", GoodSide.LOWER, by="after"),
    ),
    main="creep_at_horizon",
    typical_cv=0.10,
    minutes=6.0,
    outcomes=(
        Outcome("carried", "carried the load to the end"),
        Outcome("broke", "broke under the load", early=True),
        Outcome("came off", "came off the rack", early=True),
    ),
    measures="How far a frame goes on opening under a load that stays on it, and how much of that comes back.",
    formulas=("creep(t) = d(t) − d₁", "from 1 min: d̂(t) − d̂(1 min)", "d̂ = d₀ + A · tⁿ  (t in days)", "recovered = (d_last − d) / (d_last − d_unloaded)"),
)
