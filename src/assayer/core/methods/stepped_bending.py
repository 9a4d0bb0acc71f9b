"""Three-point bending by dead weights, one by one (METHODS 5, after ISO 178): stiffness, drift, the load carried steadily."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import ClassVar

import numpy as np

from assayer.core.errors import EntryError
from assayer.core.methods.base import CurveView, Method, Outcome
from assayer.core.methods.inputs import Entry, Inputs, Settings, check_increasing, need, setting
from assayer.core.methods.results import QuantitySpec, Reduction, Result
from assayer.core.methods.sections import Section
from assayer.core.methods.spans import SPAN, deflected_far, flexural_stress, odd_span
from assayer.core.methods.steps import Field, SectionStep, TimedLoadsStep
from assayer.core.methods.vocabulary import Bound, Orientation, Sign
from assayer.core.shapes.bars import BAR
from assayer.core.stats.verdicts import GoodSide, Margin

_CLEAR = 10.0
"""No drift where the first reading is below this many reading steps."""
_STEADY = 2.0
"""A load is no longer carried steadily once the drift is this many times that of the load before."""
_RISE = 3.0
"""… and the deflection grew by at least this many reading steps."""

WIDTH = Field("width", "width", "length", usual=3, channel="length", nominal="width")
THICKNESS = Field("thickness", "thickness", "length", usual=3, channel="length", nominal="thickness")
DEFLECTION = Field("deflection", "deflection", "length", usual=12, channel="deflection", sign=Sign.EITHER, counts_from="load_on", by_load=True)
RESIDUAL = Field("residual", "deflection left after unloading", "length", needed=0, channel="deflection", sign=Sign.EITHER)


@dataclass(frozen=True, slots=True)
class SteppedProtocol(Settings):
    """What a lab sets: the ladder of loads in N, and when each is read in s after it was put on."""

    ladder: tuple[float, ...] = setting((20.0, 40.0, 80.0, 120.0), "weights, one by one", "force")
    times: tuple[float, ...] = setting((5.0, 20.0, 80.0), "read after", "time")

    def check(self) -> None:
        check_increasing(self.ladder, "ladder", "loads")
        check_increasing(self.times, "times", "reading times")


@dataclass(frozen=True, slots=True)
class LoadStep:
    """What was read at one load: N, mm at the middle time, drift in %, growth in mm, slope in mm a decade of time."""

    load: float
    middle: float
    drift: float | None
    rise: float
    slope: float | None


class _SteppedBending(Method):
    protocol: ClassVar[type[Settings]] = SteppedProtocol

    def reduce(self, inputs: Inputs) -> Reduction:
        section = Section(need(inputs, WIDTH), need(inputs, THICKNESS))
        span = need(inputs, SPAN)[-1]
        step = inputs.step("deflection")
        steps = load_steps(inputs.timed("deflection"), step, inputs.protocol if isinstance(inputs.protocol, SteppedProtocol) else None)
        warnings = [*odd_span(span, section.thickness), *deflected_far(max(s.middle for s in steps), span)]
        results: list[Result] = []
        for s in steps:
            results.append(Result("deflection", s.middle, "mm", load=s.load))
            results.append(Result("stress", flexural_stress(s.load, section, span), "MPa", load=s.load))
            if s.drift is not None:
                results.append(Result("drift", s.drift, "%", load=s.load))
            if s.slope is not None:
                results.append(Result("growth", s.slope, "mm", load=s.load))
        for before, s in pairwise(steps):
            if s.middle > before.middle:
                # ISO 178, 9.2: E = ΔF·L³ / (4·b·h³·Δs)
                stiffness = (s.load - before.load) / (s.middle - before.middle)
                results.append(Result("modulus", stiffness * span**3 / (4 * section.width * section.thickness**3), "MPa", load=s.load))
        results += _carried(steps, step, inputs.outcome)
        residual = need(inputs, RESIDUAL)
        if residual:
            results.append(Result("residual_deflection", residual[-1], "mm"))
        return self.made(results, warnings)

    def view(self, inputs: Inputs) -> CurveView | None:
        steps = load_steps(inputs.timed("deflection"), inputs.step("deflection"), inputs.protocol if isinstance(inputs.protocol, SteppedProtocol) else None)
        marks: dict[str, tuple[float, ...]] = {}
        for s in steps:
            own = [e for e in inputs.timed("deflection") if e.load == s.load]
            marks[f"readings@{s.load:g}"] = tuple(v for e in own for v in (e.value, e.after or 0.0))
        carried = next((r for r in _carried(steps, inputs.step("deflection"), inputs.outcome)), None)
        if carried is not None:
            marks["carried"] = (carried.value,)
        x = np.array([0.0, *(s.middle for s in steps)])
        return CurveView(x, np.array([0.0, *(s.load for s in steps)]), "deflection", "mm", "load", "N", marks, points=True)


def load_steps(readings: Sequence[Entry], step: float, protocol: SteppedProtocol | None) -> list[LoadStep]:
    """What each load says, in the order of the loads.

    Parameters
    ----------
    readings : sequence of Entry
        Deflections in mm from the unloaded zero, each with its load in N and its time in s after that load came on.
    step : float, mm
        In which deflections are read.
    protocol : SteppedProtocol or None
        With it the middle time is the lab's; a reading that was late is brought to it on the logarithm of
        time. Without it the middle reading stands.

    Raises
    ------
    EntryError
        If there is no reading, or one without its load.
    """
    if not readings:
        raise EntryError("deflection: at least one reading under load is needed", "deflection")
    by_load: dict[float, list[Entry]] = {}
    for entry in readings:
        if entry.load is None or not entry.load > 0:
            raise EntryError("deflection: each reading needs its load, greater than 0 N", "deflection")
        if not (entry.after or 0.0) > 0:
            raise EntryError("deflection: each reading needs its time after the load came on, above 0 s", "deflection")
        by_load.setdefault(entry.load, []).append(entry)
    return [_one_load(load, by_load[load], step, protocol) for load in sorted(by_load)]


def _one_load(load: float, own: list[Entry], step: float, protocol: SteppedProtocol | None) -> LoadStep:
    times = [e.after or 0.0 for e in own]
    values = [e.value for e in own]
    middle = values[len(values) // 2]
    if protocol is not None and len(own) > 1:
        wanted = protocol.times[len(protocol.times) // 2]
        if times[0] <= wanted <= times[-1]:
            middle = float(np.interp(math.log(wanted), np.log(times), values))
    first, last = values[0], values[-1]
    rise = last - first
    drift = 100 * rise / first if len(own) > 1 and first > 0 and first >= _CLEAR * step else None
    slope = float(np.polyfit(np.log10(times), values, 1)[0]) if len(own) > 1 and times[-1] > times[0] else None
    return LoadStep(load, middle, drift, rise, slope)


def _carried(steps: Sequence[LoadStep], step: float, outcome: str | None) -> list[Result]:
    """The greatest load before the drift at least doubles; all steady: at least the greatest.

    A bar that broke carried the load before at the most that was held to its last reading.
    """
    spacing = max((b.load - a.load for a, b in pairwise(steps)), default=0.0)
    for before, s in pairwise(steps):
        grown = before.drift is not None and s.drift is not None and s.drift >= _STEADY * before.drift
        if grown and s.rise >= _RISE * step:
            note = f"the drift grew from {before.drift:.2g} % at {before.load:g} N to {s.drift:.2g} % at {s.load:g} N"
            return [Result("load_carried", before.load, "N", warnings=[note], reading_step=spacing)]
    broke = outcome == "broke"
    return [Result("load_carried", steps[-1].load, "N", Bound.EXACT if broke else Bound.AT_LEAST, reading_step=spacing)]


METHOD = _SteppedBending(
    name="stepped-bending",
    label="Stepped bending",
    after="own method",
    procedure_version="stepped-bending-1",
    reduction_version=1,
    orientations=(Orientation.FLAT, Orientation.ON_EDGE, Orientation.UPRIGHT),
    shapes=(BAR,),
    steps=(
        SectionStep("section", "dimensions", (WIDTH, THICKNESS, SPAN)),
        TimedLoadsStep("loads", "weights one by one", (DEFLECTION, RESIDUAL)),
    ),
    quantities=(
        QuantitySpec("load_carried", "load carried steadily", "N", GoodSide.HIGHER, plausible=(0.5, 2000.0)),
        QuantitySpec("deflection", "deflection", "mm", GoodSide.LOWER, plausible=(0.001, 40.0), by="load"),
        QuantitySpec("stress", "stress", "MPa", GoodSide.NONE, by="load"),
        QuantitySpec("drift", "drift", "%", GoodSide.LOWER, ratio_scale=False, plausible=(-10.0, 200.0), margin=Margin(2.0, relative=False), by="load"),
        QuantitySpec("growth", "growth a decade of time", "mm", GoodSide.LOWER, by="load"),
        QuantitySpec("modulus", "modulus by steps", "MPa", GoodSide.HIGHER, plausible=(5.0, 60000.0), by="load"),
        QuantitySpec("residual_deflection", "residual deflection", "mm", GoodSide.LOWER, plausible=(-0.2, 30.0)),
    ),
    main="load_carried",
    typical_cv=0.08,
    minutes=12.0,
    outcomes=(
        Outcome("held", "held every weight"),
        Outcome("broke", "broke under the last weight", early=True),
        Outcome("slid", "slid off the supports", early=True),
    ),
    measures="How far a bar on two supports bends under one weight after another, how it goes on bending, and what stays.",
    formulas=("E = ΔF · L³ / (4 · b · h³ · Δs)", "drift = 100 · (s_last − s_first) / s_first", "σ = 3 · F · L / (2 · b · h²)"),
)
