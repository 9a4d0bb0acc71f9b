"""Sag in an oven ramp under a small load (METHODS 8): seen by eye, or from a series of temperature and sag.

What was seen by eye may come with the oven's course: temperatures over time, typed or written by a logger.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from types import MappingProxyType

import numpy as np

from assayer.core.curves.recording import Floats
from assayer.core.errors import EntryError
from assayer.core.methods.base import CurveView, Method, Outcome
from assayer.core.methods.inputs import Inputs, need
from assayer.core.methods.onset import Onset, find_onset, passed_for_good
from assayer.core.methods.results import QuantitySpec, Reduction, Result
from assayer.core.methods.series import SAG, TEMPERATURE, series_of
from assayer.core.methods.steps import Field, RampStep
from assayer.core.methods.vocabulary import Bound, Orientation, Sign
from assayer.core.shapes.bars import HEAT_BAR
from assayer.core.stats.verdicts import GoodSide, Margin

NOTICED_AT = Field("noticed_at", "sag seen at", "temperature", needed=0, channel="temperature", sign=Sign.EITHER)
NOTICED_STEP = Field("noticed_step", "looked every", "temperature step", needed=0, usual=0, from_rig="noticed_step")
FAILED_AT = Field("failed_at", "hung down at", "temperature", needed=0, channel="temperature", sign=Sign.EITHER)
RATE = Field("rate", "heated by, K/min", "number", needed=0, usual=0, from_rig="rate")
COURSE = Field("course", "the oven showed", "temperature", needed=0, usual=0, channel="temperature", sign=Sign.EITHER, counts_from="exposed")
_OFF = 0.25
"""How far the oven's own rate may lie from the one that was set, as a share, before it is said."""

_STOOD = MappingProxyType({"sag_onset": Bound.AT_LEAST, "total_failure": Bound.AT_LEAST})


def _series(inputs: Inputs) -> tuple[Sequence[float], Sequence[float]] | None:
    """Temperature and sag; a logger's file has no sag."""
    logged = inputs.recording is not None and inputs.recording.get("travel") is None
    return series_of(replace(inputs, recording=None) if logged else inputs)


def course_of(inputs: Inputs) -> tuple[Floats, Floats] | None:
    """What the oven showed over time: s and °C; None where nobody wrote it down.

    Raises
    ------
    EntryError
        If a logger's file has no times.
    """
    if inputs.recording is not None:
        return None if inputs.recording.get("travel") is not None else (inputs.recording.need("time"), inputs.recording.need("temperature"))
    typed = inputs.timed(COURSE.name)
    if len(typed) < 2:
        return None
    return np.array([e.after for e in typed], float), np.array([e.value for e in typed], float)


def _about_rate(course: tuple[Floats, Floats], told: float) -> list[str]:
    """Whether the oven heated as it was set to, over the time that was looked at."""
    minutes, temperature = course[0] / 60, course[1]
    if not np.ptp(minutes) > 0:
        return []
    rate = float(np.polyfit(minutes, temperature, 1)[0])
    return [f"the oven heated by {rate:.2g} K/min, not by {told:g}"] if abs(rate - told) > _OFF * abs(told) else []


class _HeatRamp(Method):
    def reduce(self, inputs: Inputs) -> Reduction:
        series = _series(inputs)
        noticed, every = need(inputs, NOTICED_AT), need(inputs, NOTICED_STEP)
        warnings: list[str] = []
        results: list[Result] = []
        if series is not None:
            temperature, sag = series
            onset = find_onset(temperature, sag)
            if onset.at is None:
                results.append(Result("sag_onset", float(np.max(temperature)), "°C", Bound.AT_LEAST))
                warnings.append("no sag up to the end of the ramp")
            else:
                # between two readings the onset is known by interpolation only
                results.append(Result("sag_onset", onset.at, "°C"))
        elif noticed:
            step = every[-1] if every else inputs.step("noticed_at")
            # seen first at the end of a step: it began half a step before, on the average
            results.append(Result("sag_onset", noticed[-1] - step / 2, "°C", reading_step=step))
            if not every:
                warnings.append("how often one looked is not said: the onset is taken for exact, although it lay before")
        else:
            raise EntryError("enter the temperature at which it was seen to sag, or the readings of the ramp", "noticed_at")
        failed = need(inputs, FAILED_AT)
        if failed:
            if failed[-1] < results[0].value:
                raise EntryError(f"it cannot hang down at {failed[-1]:g} °C, before it began to sag ({results[0].value:.3g} °C)", "failed_at")
            results.append(Result("total_failure", failed[-1], "°C", reading_step=every[-1] if every else inputs.step("failed_at")))
        course, told = course_of(inputs), need(inputs, RATE)
        if course is not None and told:
            warnings += _about_rate(course, told[-1])
        return self.made(results, warnings)

    def view(self, inputs: Inputs) -> CurveView | None:
        series = _series(inputs)
        if series is None:
            return _course_view(inputs)
        temperature, sag = series
        onset: Onset = find_onset(temperature, sag)
        ends = float(min(temperature)), float(max(temperature))
        marks: dict[str, tuple[float, ...]] = {"line baseline": tuple(v for t in ends for v in (t, onset.intercept + onset.slope * t))}
        if onset.at is not None:
            marks["onset"] = (onset.at, onset.intercept + onset.slope * onset.at + onset.rise)
        return CurveView(np.asarray(temperature), np.asarray(sag), "temperature", "°C", "sag", "mm", marks, points=len(temperature) < 80)


def _course_view(inputs: Inputs) -> CurveView | None:
    """The oven over time, and on it where something was seen."""
    course = course_of(inputs)
    if course is None:
        return None
    minutes, temperature = course[0] / 60, course[1]
    marks: dict[str, tuple[float, ...]] = {}
    for name, seen in (("sag seen", inputs.values(NOTICED_AT.name)), ("hung down", inputs.values(FAILED_AT.name))):
        at = passed_for_good(minutes, np.maximum.accumulate(temperature) - seen[-1] + 1e-9) if seen else None
        if at is not None:
            marks[name] = (at, seen[-1])
    return CurveView(minutes, temperature, "time", "min", "temperature", "°C", marks, points=inputs.recording is None)


METHOD = _HeatRamp(
    name="heat-ramp",
    label="Heat ramp",
    after="own method",
    procedure_version="heat-ramp-1",
    reduction_version=1,
    orientations=(Orientation.FLAT, Orientation.ON_EDGE, Orientation.UPRIGHT),
    shapes=(HEAT_BAR,),
    steps=(RampStep("ramp", "in the oven", (NOTICED_AT, FAILED_AT, NOTICED_STEP, RATE, COURSE, TEMPERATURE, SAG)),),
    quantities=(
        QuantitySpec("sag_onset", "onset of sag", "°C", GoodSide.HIGHER, ratio_scale=False, plausible=(25.0, 300.0), margin=Margin(5.0, relative=False)),
        QuantitySpec("total_failure", "hung down", "°C", GoodSide.HIGHER, ratio_scale=False, plausible=(25.0, 320.0), margin=Margin(5.0, relative=False)),
    ),
    main="sag_onset",
    typical_cv=0.03,
    minutes=3.0,
    outcomes=(
        Outcome("sagged", "sagged"),
        Outcome("curled", "curled or twisted instead"),
        Outcome("stood", "stood to the end of the ramp", _STOOD, early=True),
    ),
    measures="The temperature at which a bar held at one end begins to hang under a small ring, in an oven that gets slowly warmer.",
    formulas=("onset: baseline of the first 10 K + max(5 · scatter, 0.1 mm), passed for good", "by eye: T_seen − step / 2"),
)
