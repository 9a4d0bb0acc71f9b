"""Torsion of a round rod (METHODS 4): torque at a set angle, the greatest torque, the angle at break; from a curve the shear modulus."""

from __future__ import annotations

import math
from dataclasses import dataclass
from types import MappingProxyType
from typing import ClassVar

import numpy as np

from assayer.core.curves.loading import find_strain_zero
from assayer.core.curves.recording import Floats, Recording, white_noise
from assayer.core.curves.stiffness import find_modulus
from assayer.core.errors import EntryError
from assayer.core.methods.base import CurveView, Method, Outcome
from assayer.core.methods.inputs import Inputs, Settings, need, setting
from assayer.core.methods.results import QuantitySpec, Reduction, Result
from assayer.core.methods.steps import Field, RecordingStep, SectionStep, TwistStep
from assayer.core.methods.vocabulary import Bound, Orientation, Sign
from assayer.core.shapes.rods import TORSION_ROD, TorsionRod
from assayer.core.stats.verdicts import GoodSide

SHEAR_RANGE = (0.001, 0.005)
"""Of dθ/(2L), over which the shear modulus is the slope."""
_BROKEN = 0.4
"""A torque that falls below this share of the greatest, for good, has broken the rod."""

_IDLE = 0.005
"""Share of the greatest torque below which none is on yet."""

_HEAD_ROWS = 5
"""Fewer rows before torque comes on are no slack to read a zero from."""

DIAMETER = Field("diameter", "diameter", "length", usual=3, channel="length", nominal="diameter")
AT_SET_ANGLE = Field("torque_at_set_angle", "torque at the set angle", "torque", needed=0, channel="torque")
GREATEST = Field("greatest_torque", "greatest torque", "torque", needed=0, channel="torque")
ANGLE_AT_BREAK = Field("angle_at_break", "angle at break", "angle", needed=0, channel="angle", sign=Sign.ABOVE_ZERO)

_STRESSES = ("greatest_torque", "shear_stress_elastic", "shear_stress_plastic", "angle_at_break")
_LOWER = MappingProxyType(dict.fromkeys((*_STRESSES, "torque_at_set_angle"), Bound.AT_LEAST))
_STOPPED = MappingProxyType(dict.fromkeys(_STRESSES, Bound.AT_LEAST))


@dataclass(frozen=True, slots=True)
class TorsionProtocol(Settings):
    """What a lab sets: the angle in degrees at which the torque is read."""

    set_angle: float = setting(45.0, "set angle", "angle")

    def check(self) -> None:
        if not (math.isfinite(self.set_angle) and 0 < self.set_angle <= 3600):
            raise EntryError(f"the set angle must lie above 0° and at most at 3600°, but got {self.set_angle:g}", "set_angle")


@dataclass(frozen=True, slots=True)
class _Twisted:
    """A recorded twist, zeroed: angle in degrees, torque in N·m; rows of load-on and of the end, and whether it broke there."""

    angle: Floats
    torque: Floats
    gamma: Floats
    tau: Floats
    load_on: int
    end: int
    broke: bool
    warnings: list[str]


class _Torsion(Method):
    protocol: ClassVar[type[Settings]] = TorsionProtocol

    def reduce(self, inputs: Inputs) -> Reduction:
        diameter = float(np.mean(need(inputs, DIAMETER)))
        protocol = inputs.protocol if isinstance(inputs.protocol, TorsionProtocol) else TorsionProtocol()
        if inputs.recording is not None:
            return self._from_curve(inputs, inputs.recording, diameter, protocol.set_angle)
        greatest, at_angle, broke_at = need(inputs, GREATEST), need(inputs, AT_SET_ANGLE), need(inputs, ANGLE_AT_BREAK)
        if not greatest:
            raise EntryError("enter the greatest torque, or drop the recorded curve", "greatest_torque")
        if at_angle and at_angle[-1] > greatest[-1]:
            raise EntryError(f"the torque at the set angle ({at_angle[-1]:g} N·m) is above the greatest ({greatest[-1]:g} N·m)", "torque_at_set_angle")
        early = bool(broke_at) and broke_at[-1] < protocol.set_angle
        if early and at_angle:
            raise EntryError(f"it broke at {broke_at[-1]:g}°, before the set angle of {protocol.set_angle:g}°: there is no torque there", "torque_at_set_angle")
        warnings = [_early(broke_at[-1], protocol.set_angle)] if early else []
        results = _of_torque(greatest[-1], diameter)
        if at_angle:
            results.append(Result("torque_at_set_angle", at_angle[-1], "N·m"))
        if broke_at:
            results.append(Result("angle_at_break", broke_at[-1], "°"))
        return self.made(results, warnings)

    def _from_curve(self, inputs: Inputs, recording: Recording, diameter: float, set_angle: float) -> Reduction:
        twisted = _twist(recording, diameter, _length(inputs))
        results = _of_torque(float(twisted.torque.max()), diameter, inputs.step("greatest_torque"))
        warnings = list(twisted.warnings)
        if not twisted.broke and twisted.torque[twisted.end] >= 0.99 * twisted.torque.max():
            results = [Result(r.quantity, r.value, r.unit, Bound.AT_LEAST, reading_step=r.reading_step) for r in results]
        reached = float(twisted.angle[twisted.end])
        if reached >= set_angle:
            rising = np.maximum.accumulate(twisted.angle[twisted.load_on : twisted.end + 1])
            at = float(np.interp(set_angle, rising, twisted.torque[twisted.load_on : twisted.end + 1]))
            results.append(Result("torque_at_set_angle", at, "N·m"))
        elif twisted.broke:
            warnings.append(_early(reached, set_angle))
        results.append(Result("angle_at_break", reached, "°", Bound.EXACT if twisted.broke else Bound.AT_LEAST))
        modulus = find_modulus(twisted.tau, twisted.gamma, twisted.load_on, twisted.end, None, SHEAR_RANGE)
        if modulus.value is not None:
            results.append(Result("shear_modulus", modulus.value, "MPa", warnings=modulus.warnings))
        else:
            warnings += modulus.warnings
        return self.made(results, warnings)

    def view(self, inputs: Inputs) -> CurveView | None:
        if inputs.recording is None:
            return None
        twisted = _twist(inputs.recording, float(np.mean(need(inputs, DIAMETER))), _length(inputs))
        shown = slice(twisted.load_on, twisted.end + 1)
        peak = int(np.argmax(twisted.torque))
        marks = {
            "peak": (float(twisted.angle[peak]), float(twisted.torque[peak])),
            "break": (float(twisted.angle[twisted.end]), float(twisted.torque[twisted.end])),
        }
        return CurveView(twisted.angle[shown], twisted.torque[shown], "angle", "°", "torque", "N·m", marks)


def _early(broke_at: float, set_angle: float) -> str:
    return f"broke at {broke_at:.3g}°, before the set angle of {set_angle:g}°: no torque there"


def _length(inputs: Inputs) -> float:
    return inputs.shape.parallel if isinstance(inputs.shape, TorsionRod) else TORSION_ROD.parallel


def _of_torque(torque: float, diameter: float, step: float = 0.0) -> list[Result]:
    """τ = 16T/(πd³) as long as it is elastic (an upper bound), 12T/(πd³) where all of it flows (a lower one); N·m and mm to MPa.

    `step` is that of a recorded torque.
    """
    per_torque = 16e3 / (math.pi * diameter**3)
    return [
        Result("greatest_torque", torque, "N·m", reading_step=step),
        Result("shear_stress_elastic", torque * per_torque, "MPa", reading_step=step * per_torque),
        Result("shear_stress_plastic", torque * per_torque * 0.75, "MPa", reading_step=step * per_torque * 0.75),
    ]


def _twist(recording: Recording, diameter: float, length: float) -> _Twisted:
    """Zero a recording on its slack and find its end.

    Shear strain at the surface γ = d·θ/(2L); the slope of τ = 16T/(πd³) on it is G = T·L/(J·θ), J = πd⁴/32.
    """
    torque, angle = recording.need("torque"), recording.need("angle")
    warnings = list(recording.warnings)
    if float(torque[0] - torque.min()) > float(torque.max() - torque[0]):
        torque, angle = -torque, -angle
        warnings.append("the torque is negative: it was turned the other way, and its sign with it")
    torque = torque - float(torque[0])
    peak = int(np.argmax(torque))
    # the zero is that of the slack before torque comes on; of the first sample where there is none
    idle = np.flatnonzero(torque[: peak + 1] < max(_IDLE * torque[peak], 3 * white_noise(torque)))
    torque = torque - float(np.median(torque[: int(idle[-1]) + 1 if idle.size >= _HEAD_ROWS else 1]))
    if angle[peak] < angle[0]:
        angle = -angle
        warnings.append("the angle runs backwards: its sign was turned")
    if not torque[peak] > 5 * white_noise(torque):
        raise EntryError("the recording carries no torque: it never rises above its noise", "curve")
    above = np.flatnonzero(torque >= _BROKEN * torque[peak])
    broke = int(above[-1]) < torque.size - 1
    end = int(above[-1])
    tau = torque * 16e3 / (math.pi * diameter**3)
    gamma = np.radians(angle) * diameter / (2 * length)
    zero = find_strain_zero(tau, gamma, peak, white_noise(tau))
    gamma = gamma - zero.offset
    warnings += zero.warnings
    if not broke:
        warnings.append("not broken: the angle is at least what is given")
    return _Twisted(np.degrees(gamma * 2 * length / diameter), torque, gamma, tau, zero.load_on, end, broke, warnings)


METHOD = _Torsion(
    name="torsion",
    label="Torsion",
    after="own method",
    procedure_version="torsion-1",
    reduction_version=2,
    orientations=(Orientation.FLAT, Orientation.ON_EDGE, Orientation.UPRIGHT),
    shapes=(TORSION_ROD,),
    steps=(
        SectionStep("section", "dimensions", (DIAMETER,)),
        TwistStep("twist", "twisted by hand or by a drive", (AT_SET_ANGLE, GREATEST, ANGLE_AT_BREAK)),
        RecordingStep("recording", "recorded curve", optional=True, channels=("torque", "angle", "time")),
    ),
    quantities=(
        QuantitySpec("greatest_torque", "greatest torque", "N·m", GoodSide.NONE, plausible=(0.01, 60.0)),
        QuantitySpec("torque_at_set_angle", "torque at the set angle", "N·m", GoodSide.HIGHER, plausible=(0.005, 60.0)),
        QuantitySpec("shear_stress_elastic", "shear stress, elastic", "MPa", GoodSide.HIGHER, plausible=(0.5, 200.0)),
        QuantitySpec("shear_stress_plastic", "shear stress, fully plastic", "MPa", GoodSide.HIGHER, plausible=(0.4, 150.0)),
        QuantitySpec("angle_at_break", "angle at break", "°", GoodSide.HIGHER, plausible=(0.5, 7200.0)),
        QuantitySpec("shear_modulus", "shear modulus", "MPa", GoodSide.HIGHER, plausible=(2.0, 20000.0)),
    ),
    main="shear_stress_elastic",
    typical_cv=0.07,
    minutes=4.0,
    outcomes=(
        Outcome("twisted off", "twisted off in the rod", orientations=(Orientation.FLAT, Orientation.ON_EDGE), place=(0.36, 0.5)),
        Outcome("between layers", "sheared between two layers", orientations=(Orientation.UPRIGHT,), place=(0.36, 0.5)),
        Outcome("not broken", "did not break", _STOPPED),
        Outcome("in the key", "slipped or broke in the key", _LOWER, place=(0.0, 0.2)),
    ),
    measures="How much torque a round rod bears, at a set angle and at the most, and how far it can be twisted; upright, across its layers.",
    formulas=("τ = 16 · T / (π · d³)  (elastic)", "τ = 12 · T / (π · d³)  (fully plastic)", "G = T · L / (J · θ),  J = π · d⁴ / 32"),
)
