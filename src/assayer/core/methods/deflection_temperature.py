"""Deflection temperature (METHODS 8, after ISO 75): the temperature at which a bar under a set stress has bent by a set strain."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from assayer.core.errors import EntryError
from assayer.core.methods.base import CurveView, Method, Outcome
from assayer.core.methods.inputs import Inputs, Settings, need, setting
from assayer.core.methods.onset import passed_for_good
from assayer.core.methods.results import QuantitySpec, Reduction, Result
from assayer.core.methods.sections import Section
from assayer.core.methods.series import SAG, TEMPERATURE, series_of
from assayer.core.methods.spans import SPAN
from assayer.core.methods.steps import Field, RampStep, SectionStep
from assayer.core.methods.vocabulary import Bound, Orientation, Sign
from assayer.core.shapes.bars import BAR
from assayer.core.stats.verdicts import GoodSide, Margin

STRAIN = 0.002
"""ISO 75-1: flexural strain at which the temperature is taken."""
WARMEST_START = 27.0
"""°C: ISO 75-1, 8.3."""
_STANDARD_SPAN = (63.0, 65.0)
"""mm: ISO 75-2, 64 ± 1 flatwise."""
_BAR, _BAR_OFF = (10.0, 4.0), 0.2
"""Width and thickness in mm: ISO 75-2, 6.1."""
_STANDARD_RATE = (110.0, 130.0)
"""K/h: ISO 75-1, 120 ± 10."""
_ZEROED_AFTER = 5.0
"""min after the load came on: ISO 75-1, 8.4."""

WIDTH = Field("width", "width", "length", usual=3, channel="length", nominal="width")
RATE = Field("heating_rate", "heated by, K/h", "number", needed=0, usual=0, from_rig="heating_rate")
ZEROED_AFTER = Field("zeroed_after", "zero read after the load came on, min", "number", needed=0, usual=0, from_rig="zeroed_after")
BATH = Field("liquid_bath", "in a liquid bath", "number", needed=0, usual=0, from_rig="liquid_bath", sign=Sign.ZERO_ALLOWED, yes_no=True)
THICKNESS = Field("thickness", "thickness", "length", usual=3, channel="length", nominal="thickness")


@dataclass(frozen=True, slots=True)
class DeflectionProtocol(Settings):
    """What a lab sets: the stress in MPa."""

    stress: float = setting(0.45, "stress", "stress")

    def check(self) -> None:
        if not (math.isfinite(self.stress) and 0 < self.stress <= 50):
            raise EntryError(f"the stress must lie above 0 and at most at 50 MPa, but got {self.stress:g}", "stress")


def load_for(stress: float, section: Section, span: float) -> float:
    """F = 2σbh²/(3L), rod and gauge included; MPa and mm to N."""
    return 2 * stress * section.width * section.thickness**2 / (3 * span)


def deflection_for(section: Section, span: float) -> float:
    """s = εL²/(6h) at ε = 0.002, mm."""
    return STRAIN * span**2 / (6 * section.thickness)


class _DeflectionTemperature(Method):
    protocol: ClassVar[type[Settings]] = DeflectionProtocol

    def reduce(self, inputs: Inputs) -> Reduction:
        protocol = inputs.protocol if isinstance(inputs.protocol, DeflectionProtocol) else DeflectionProtocol()
        section, span = Section(need(inputs, WIDTH), need(inputs, THICKNESS)), need(inputs, SPAN)[-1]
        results = [Result("load", load_for(protocol.stress, section, span), "N"), Result("standard_deflection", deflection_for(section, span), "mm")]
        series = series_of(inputs)
        if series is None:
            raise EntryError("enter temperature and deflection of the ramp", SAG.name)
        temperature, sag = np.maximum.accumulate(np.asarray(series[0], float)), np.asarray(series[1], float)
        wanted = deflection_for(section, span)
        if sag[0] > wanted:
            raise EntryError(f"the first reading ({sag[0]:g} mm) is beyond the standard deflection of {wanted:.3f} mm: count from its zero", SAG.name)
        at = passed_for_good(temperature, sag - wanted)
        found = Result("deflection_temperature", float(temperature[-1]), "°C", Bound.AT_LEAST) if at is None else Result("deflection_temperature", at, "°C")
        warnings = _off_standard(inputs, section, span, float(temperature[0]))
        if at is None:
            warnings.append(f"a deflection of {wanted:.3f} mm was not reached")
        return self.made([found, *results], warnings)

    def view(self, inputs: Inputs) -> CurveView | None:
        series = series_of(inputs)
        if series is None:
            return None
        section = Section(need(inputs, WIDTH), need(inputs, THICKNESS))
        wanted = deflection_for(section, need(inputs, SPAN)[-1])
        marks = {"line standard deflection": (float(min(series[0])), wanted, float(max(series[0])), wanted)}
        return CurveView(np.asarray(series[0]), np.asarray(series[1]), "temperature", "°C", "deflection", "mm", marks, points=len(series[0]) < 80)


def _off_standard(inputs: Inputs, section: Section, span: float, start: float) -> list[str]:
    """Where the run is off ISO 75, or where that was not recorded."""
    warnings = [] if start <= WARMEST_START else [f"begun at {start:.3g} °C: the standard asks for at most {WARMEST_START:g} °C"]
    if section.thickness > section.width:
        warnings.append("it lay on its edge: the standard asks for a bar 10 mm wide and 4 mm thick, flat")
    elif abs(section.width - _BAR[0]) > _BAR_OFF or abs(section.thickness - _BAR[1]) > _BAR_OFF:
        warnings.append(f"a bar of {section.width:.3g} × {section.thickness:.3g} mm: the standard asks for 10 × 4 ± 0.2 mm")
    if not _STANDARD_SPAN[0] <= span <= _STANDARD_SPAN[1]:
        warnings.append(f"a span of {span:g} mm: the standard asks for 64 ± 1 mm")
    rate = _recorded_rate(inputs) or next(reversed(need(inputs, RATE)), None)
    if rate is None:
        warnings.append("the heating rate is not recorded: the standard asks for 120 ± 10 K/h")
    elif not _STANDARD_RATE[0] <= rate <= _STANDARD_RATE[1]:
        warnings.append(f"heated by {rate:.3g} K/h: the standard asks for 120 ± 10 K/h")
    zeroed = next(reversed(need(inputs, ZEROED_AFTER)), None)
    if zeroed is None:
        warnings.append("when the zero was read is not recorded: the standard asks for 5 min after the load came on")
    elif abs(zeroed - _ZEROED_AFTER) > 1:
        warnings.append(f"zero read {zeroed:g} min after the load came on: the standard asks for 5 min")
    if not any(need(inputs, BATH)):
        warnings.append("not said to be in a liquid bath: the standard asks for one, or for one that heats as evenly")
    return warnings


def _recorded_rate(inputs: Inputs) -> float | None:
    """The rate of a recorded ramp in K/h, by least squares over its times; None without them."""
    time = None if inputs.recording is None else inputs.recording.get("time")
    if inputs.recording is None or time is None or not np.ptp(time) > 0:
        return None
    return float(np.polyfit(time / 3600, inputs.recording.need("temperature"), 1)[0])


METHOD = _DeflectionTemperature(
    name="deflection-temperature",
    label="Deflection temperature",
    after="ISO 75",
    procedure_version="deflection-temperature-1",
    reduction_version=2,
    orientations=(Orientation.FLAT, Orientation.ON_EDGE, Orientation.UPRIGHT),
    shapes=(BAR,),
    steps=(
        SectionStep("section", "dimensions", (WIDTH, THICKNESS, SPAN)),
        RampStep("ramp", "in the bath or the oven", (RATE, ZEROED_AFTER, BATH, TEMPERATURE, SAG)),
    ),
    quantities=(
        QuantitySpec(
            "deflection_temperature",
            "deflection temperature",
            "°C",
            GoodSide.HIGHER,
            ratio_scale=False,
            plausible=(25.0, 350.0),
            margin=Margin(5.0, relative=False),
        ),
        QuantitySpec("load", "load to hang on", "N", GoodSide.NONE),
        QuantitySpec("standard_deflection", "standard deflection", "mm", GoodSide.NONE),
    ),
    main="deflection_temperature",
    typical_cv=0.03,
    minutes=6.0,
    count=2,
    outcomes=(
        Outcome("passed", "bent past the standard deflection"),
        Outcome("stopped", "stopped before", {"deflection_temperature": Bound.AT_LEAST}, early=True),
    ),
    measures="The temperature at which a bar on two supports, loaded to a set stress, has bent by 0.2 % strain.",
    formulas=("F = 2 · σ · b · h² / (3 · L)", "s = 0.002 · L² / (6 · h)"),
)
