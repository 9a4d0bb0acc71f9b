"""Torsion of a round rod (METHODS 4): torque at a set angle, the greatest torque, the angle at break; from a curve the shear modulus."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
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

RIG_TWIST = Field("rig_twist", "the rig's own twist, rad/(N·m)", "number", needed=0, usual=0, from_rig="rig_twist", sign=Sign.ZERO_ALLOWED)

_OPEN = ("greatest_torque", "nominal_shear_strength", "angle_at_break")
"""What a rod that was not twisted off leaves open; the stresses at the torque it bore lie between their bounds all the same."""
_LOWER = MappingProxyType(dict.fromkeys((*_OPEN, "torque_at_set_angle"), Bound.AT_LEAST))
_STOPPED = MappingProxyType(dict.fromkeys(_OPEN, Bound.AT_LEAST))
_TOP = 0.05
"""Share of the angle before the greatest torque over which the slope of Nádai's formula is taken."""
_TWIST_UNKNOWN = "the rig's own twist is not known: it is in this value"


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
        own_twist = need(inputs, RIG_TWIST)
        twisted = _twist(recording, diameter, _length(inputs), own_twist)
        results = _of_torque(float(twisted.torque.max()), diameter, inputs.step("greatest_torque"))
        warnings = list(twisted.warnings)
        if not twisted.broke and twisted.torque[twisted.end] >= 0.99 * twisted.torque.max():
            results = [replace(r, bound=Bound.AT_LEAST) if r.quantity in _OPEN else r for r in results]
        results.append(Result("shear_stress_curve", _by_nadai(twisted, diameter), "MPa"))
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
            of_twist = [] if own_twist else [_TWIST_UNKNOWN]
            results.append(Result("shear_modulus", modulus.value, "MPa", warnings=[*modulus.warnings, *of_twist]))
        else:
            warnings += modulus.warnings
        return self.made(results, warnings)

    def view(self, inputs: Inputs) -> CurveView | None:
        if inputs.recording is None:
            return None
        twisted = _twist(inputs.recording, float(np.mean(need(inputs, DIAMETER))), _length(inputs), need(inputs, RIG_TWIST))
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
    """The shear stress at the surface lies between 12T/(πd³), where all of the section flows, and 16T/(πd³), where it is elastic; N·m and mm to MPa.

    The elastic one is also the nominal strength that rods of different diameter are compared by. `step` is that of a recorded torque.
    """
    per_torque = 16e3 / (math.pi * diameter**3)
    return [
        Result("nominal_shear_strength", torque * per_torque, "MPa", reading_step=step * per_torque),
        Result("greatest_torque", torque, "N·m", reading_step=step),
        Result("shear_stress_elastic", torque * per_torque, "MPa", Bound.AT_MOST, reading_step=step * per_torque),
        Result("shear_stress_plastic", torque * per_torque * 0.75, "MPa", Bound.AT_LEAST, reading_step=step * per_torque * 0.75),
    ]


def _by_nadai(twisted: _Twisted, diameter: float) -> float:
    """τ = (θ·dT/dθ + 3T)/(2πr³) at the greatest torque, MPa (Nádai, Theory of Flow and Fracture of Solids, 1950, ch. 21).

    The slope is that of a straight line over the last twentieth of the angle before it.
    """
    peak = int(np.argmax(twisted.torque[: twisted.end + 1]))
    angle, torque = twisted.angle[: peak + 1], twisted.torque[: peak + 1]
    last = angle >= (1 - _TOP) * angle[peak]
    slope = float(np.polyfit(angle[last], torque[last], 1)[0]) if last.sum() > 2 and np.ptp(angle[last]) > 0 else 0.0
    return 1e3 * (float(angle[peak]) * slope + 3 * float(torque[peak])) / (2 * math.pi * (diameter / 2) ** 3)


def _twist(recording: Recording, diameter: float, length: float, own_twist: Sequence[float]) -> _Twisted:
    """Zero a recording on its slack, take the rig's own twist off, and find its end.

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
    # what the rig itself turns by under the torque, in rad/(N·m)
    of_rod = np.radians(angle) - (own_twist[-1] if own_twist else 0.0) * torque
    gamma = of_rod * diameter / (2 * length)
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
    reduction_version=3,
    orientations=(Orientation.FLAT, Orientation.ON_EDGE, Orientation.UPRIGHT),
    shapes=(TORSION_ROD,),
    steps=(
        SectionStep("section", "dimensions", (DIAMETER, RIG_TWIST)),
        TwistStep("twist", "twisted by hand or by a drive", (AT_SET_ANGLE, GREATEST, ANGLE_AT_BREAK)),
        RecordingStep("recording", "recorded curve", optional=True, channels=("torque", "angle", "time")),
    ),
    quantities=(
        QuantitySpec("nominal_shear_strength", "nominal shear strength", "MPa", GoodSide.HIGHER, plausible=(0.5, 200.0)),
        QuantitySpec("greatest_torque", "greatest torque", "N·m", GoodSide.NONE, plausible=(0.01, 60.0)),
        QuantitySpec("torque_at_set_angle", "torque at the set angle", "N·m", GoodSide.HIGHER, plausible=(0.005, 60.0)),
        QuantitySpec("shear_stress_elastic", "shear stress at the greatest torque, if elastic", "MPa", GoodSide.NONE, plausible=(0.5, 200.0)),
        QuantitySpec("shear_stress_plastic", "shear stress at the greatest torque, if fully plastic", "MPa", GoodSide.NONE, plausible=(0.4, 150.0)),
        QuantitySpec("shear_stress_curve", "shear stress at the greatest torque, from the curve", "MPa", GoodSide.NONE, plausible=(0.4, 200.0)),
        QuantitySpec("angle_at_break", "angle at break", "°", GoodSide.HIGHER, plausible=(0.5, 7200.0)),
        QuantitySpec("shear_modulus", "apparent shear modulus", "MPa", GoodSide.HIGHER, plausible=(2.0, 20000.0)),
    ),
    main="nominal_shear_strength",
    typical_cv=0.07,
    minutes=4.0,
    outcomes=(
        Outcome("twisted off", "twisted off in the rod", orientations=(Orientation.FLAT, Orientation.ON_EDGE), zone="parallel"),
        Outcome("between layers", "sheared between two layers", orientations=(Orientation.UPRIGHT,), zone="parallel"),
        Outcome("not broken", "did not break", _STOPPED),
        Outcome("in the key", "slipped or broke in the key", _LOWER, zone="grip"),
    ),
    measures="How much torque a round rod bears, at a set angle and at the most, and how far it can be twisted; upright, across its layers.",
    formulas=(
        "τ ≤ 16 · T / (π · d³)  (elastic)",
        "τ ≥ 12 · T / (π · d³)  (fully plastic)",
        "τ = (θ · dT/dθ + 3 · T) / (2 · π · r³)",
        "G = T · L / (J · θ),  J = π · d⁴ / 32",
    ),
)
