"""Sag in an oven ramp under a small load (METHODS 8): seen by eye, or from a series of temperature and sag."""

from __future__ import annotations

from types import MappingProxyType

import numpy as np

from assayer.core.errors import EntryError
from assayer.core.methods.base import CurveView, Method, Outcome
from assayer.core.methods.inputs import Inputs, need
from assayer.core.methods.onset import Onset, find_onset
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

_STOOD = MappingProxyType({"sag_onset": Bound.AT_LEAST, "total_failure": Bound.AT_LEAST})


class _HeatRamp(Method):
    def reduce(self, inputs: Inputs) -> Reduction:
        series = series_of(inputs)
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
        return self.made(results, warnings)

    def view(self, inputs: Inputs) -> CurveView | None:
        series = series_of(inputs)
        if series is None:
            return None
        temperature, sag = series
        onset: Onset = find_onset(temperature, sag)
        ends = float(min(temperature)), float(max(temperature))
        marks: dict[str, tuple[float, ...]] = {"line baseline": tuple(v for t in ends for v in (t, onset.intercept + onset.slope * t))}
        if onset.at is not None:
            marks["onset"] = (onset.at, onset.intercept + onset.slope * onset.at + onset.rise)
        return CurveView(np.asarray(temperature), np.asarray(sag), "temperature", "°C", "sag", "mm", marks, points=len(temperature) < 80)


METHOD = _HeatRamp(
    name="heat-ramp",
    label="Heat ramp",
    after="own method",
    procedure_version="heat-ramp-1",
    reduction_version=1,
    orientations=(Orientation.FLAT, Orientation.ON_EDGE, Orientation.UPRIGHT),
    shapes=(HEAT_BAR,),
    steps=(RampStep("ramp", "in the oven", (NOTICED_AT, FAILED_AT, NOTICED_STEP, RATE, TEMPERATURE, SAG)),),
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
        Outcome("stood", "stood to the end of the ramp", _STOOD),
    ),
    measures="The temperature at which a bar held at one end begins to hang under a small ring, in an oven that gets slowly warmer.",
    formulas=("onset: baseline of the first 10 K + max(5 · scatter, 0.1 mm), passed for good", "by eye: T_seen − step / 2"),
)
