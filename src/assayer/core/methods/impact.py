"""Notched impact (METHODS 7): energy of a pendulum over the width left under the notch.

Charpy (ISO 179-1), Izod (ISO 180) and ASTM D256 are methods of their own that share this reduction.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from types import MappingProxyType

import numpy as np

from assayer.core.errors import EntryError
from assayer.core.methods.base import Method, Outcome
from assayer.core.methods.inputs import Inputs, need
from assayer.core.methods.results import QuantitySpec, Reduction, Result
from assayer.core.methods.steps import Field, SectionStep, SwingStep
from assayer.core.methods.vocabulary import Bound, Orientation, Sign
from assayer.core.quantities.units import STANDARD_GRAVITY
from assayer.core.shapes.bars import NOTCHED_BAR
from assayer.core.stats.verdicts import GoodSide

HAMMER_RANGE = (0.10, 0.80)
"""ISO 179-1, 7.3: of the pendulum's energy, within which the energy taken up should lie."""

WIDTH = Field("width_under_notch", "width under the notch", "length", usual=1, channel="length", nominal="left")
THICKNESS = Field("thickness", "thickness", "length", usual=1, channel="length", nominal="thickness")
HAMMER_MASS = Field("hammer_mass", "mass of the hammer", "hammer mass", needed=0, usual=0, from_rig="hammer_mass")
RADIUS = Field("radius", "radius to its centre of mass", "pendulum length", needed=0, usual=0, from_rig="radius")
RELEASE_ANGLE = Field("release_angle", "let go at", "angle", needed=0, usual=0, from_rig="release_angle")
RISE_ANGLE = Field("rise_angle", "rose to", "angle", needed=0, channel="angle", sign=Sign.ZERO_ALLOWED)
RELEASE_HEIGHT = Field("release_height", "let go from a height of", "pendulum length", needed=0, usual=0, from_rig="release_height")
RISE_HEIGHT = Field("rise_height", "rose to a height of", "pendulum length", needed=0, channel="height", sign=Sign.ZERO_ALLOWED)
ENERGY = Field("energy", "energy shown", "energy", needed=0, channel="energy")
LOSS = Field("loss", "loss of an empty swing", "energy", needed=0, usual=0, from_rig="loss", sign=Sign.ZERO_ALLOWED, default=0.0)
LOSS_SUBTRACTED = Field(
    "loss_subtracted", "loss taken off already", "number", needed=0, usual=0, from_rig="loss_subtracted", sign=Sign.ZERO_ALLOWED, default=0.0, yes_no=True
)

LOSS_OF_WHOLE_SWING = Field(
    "loss_of_whole_swing", "loss is that of a whole empty swing", "number", needed=0, usual=0, from_rig="loss_of_whole_swing", sign=Sign.ZERO_ALLOWED,
    default=0.0, yes_no=True,
)  # fmt: skip
SPAN = Field("span", "span of the supports", "length", needed=0, usual=0, from_rig="span")
MACHINED = Field("notch_machined", "notch machined", "number", needed=0, usual=0, sign=Sign.ZERO_ALLOWED, yes_no=True)
NOTCH_RADIUS = Field("notch_radius", "radius of the notch", "length", needed=0, usual=0, nominal="tip")

_CHARPY_SPAN = (62.0, 62.5)
"""mm: ISO 179-1, 62 (+0.5/−0)."""
_SPEED_OFF = 0.10
_LIGHT = 5.0
"""J: the heaviest hammer that ISO 179-1 lets strike at 2.9 m/s; heavier ones strike at 3.8 m/s."""


def charpy_speed(energy: float) -> float:
    """m/s that ISO 179-1, table 1, asks for of a hammer of an energy in J."""
    return 2.9 if energy <= _LIGHT else 3.8


def izod_speed(_energy: float) -> float:
    """m/s that ISO 180 (and, at 3.46, ASTM D256) asks for."""
    return 3.5


_NOT_BROKEN = MappingProxyType(dict.fromkeys(("net_energy", "impact_strength", "energy_per_notch_length"), Bound.AT_LEAST))


@dataclass(frozen=True)
class _Impact(Method):
    """`speed_of` tells the striking speed in m/s that the standard asks for of a hammer of so many J; `span` mm between the supports, where there are two."""

    speed_of: Callable[[float], float] = charpy_speed
    span: tuple[float, float] | None = None

    def reduce(self, inputs: Inputs) -> Reduction:
        width, thickness = float(np.mean(need(inputs, WIDTH))), float(np.mean(need(inputs, THICKNESS)))
        net, of = _net_energy(inputs)
        if not net > 0:
            raise EntryError(f"no energy is left ({net:.4g} J): the rise, the release or the loss of the empty swing is wrong", "energy")
        warnings = self._off_standard(inputs)
        # kJ/m² = J/mm² · 1000
        per_area, per_length = 1e3 / (width * thickness), 1e3 / thickness
        results = [
            Result("impact_strength", net * per_area, "kJ/m²"),
            Result("net_energy", net, "J"),
            Result("energy_per_notch_length", net * per_length, "J/m"),
        ]
        if of is not None:
            share = net / of
            results.append(Result("hammer_share", share, "1"))
            if not HAMMER_RANGE[0] <= share <= HAMMER_RANGE[1]:
                which = "heavy" if share < HAMMER_RANGE[0] else "light"
                warnings.append(f"{100 * share:.3g} % of the hammer's {of:.3g} J: the hammer is too {which} (10–80 % is its range)")
        return self.made(results, warnings)

    def _off_standard(self, inputs: Inputs) -> list[str]:
        """Where rig and notch are off the standard, or where that was not recorded."""
        warnings = []
        height, of = _release_height(inputs), _pendulum_energy(inputs)
        if height is None or of is None:
            warnings.append("the striking speed is not known: enter the hammer with the rig")
        else:
            speed, nominal = math.sqrt(2 * STANDARD_GRAVITY * height), self.speed_of(of)
            if abs(speed - nominal) > _SPEED_OFF * nominal:
                warnings.append(f"it strikes at {speed:.2f} m/s: the standard asks for {nominal:g} m/s ± 10 %")
        spans = need(inputs, SPAN)
        if self.span is not None and not spans:
            warnings.append(f"the span is not recorded: the standard asks for {self.span[0]:g} mm")
        elif self.span is not None and not self.span[0] <= spans[-1] <= self.span[1]:
            warnings.append(f"a span of {spans[-1]:g} mm: the standard asks for {self.span[0]:g} to {self.span[1]:g} mm")
        if need(inputs, LOSS_OF_WHOLE_SWING)[-1] and need(inputs, RISE_HEIGHT) and not need(inputs, RADIUS):
            warnings.append("the loss of a whole swing is taken off as it is: for its share of this swing the radius of the pendulum is needed")
        if not need(inputs, MACHINED):
            warnings.append("whether the notch was printed or machined is not recorded")
        return warnings


def _net_energy(inputs: Inputs) -> tuple[float, float | None]:
    """(net energy in J, energy of the pendulum in J or None).

    E = m g R (cos β − cos α) − W = m g (h0 − h1) − W; what an instrument shows less W, unless it took that off.
    """
    loss = need(inputs, LOSS)[-1]
    of = _pendulum_energy(inputs)
    mass = need(inputs, HAMMER_MASS)
    radius, release, rise = need(inputs, RADIUS), need(inputs, RELEASE_ANGLE), need(inputs, RISE_ANGLE)
    high, low = need(inputs, RELEASE_HEIGHT), need(inputs, RISE_HEIGHT)
    shown = need(inputs, ENERGY)
    if sum(map(bool, (rise, low, shown))) > 1:
        raise EntryError("give one of them: the angle it rose to, the height, or the energy shown", "energy")
    if shown:
        if need(inputs, LOSS_SUBTRACTED)[-1]:
            loss = 0.0
        return shown[-1] - loss, of
    if not mass and (rise or low):
        raise EntryError("the mass of the hammer is needed: enter it with the rig", "hammer_mass")
    if rise:
        if not radius or not release:
            missing = RELEASE_ANGLE if radius else RADIUS
            raise EntryError(f"{missing.label}: needed with an angle, enter it with the rig", missing.name)
        if not (0 <= rise[-1] <= 180 and 0 < release[-1] <= 180):
            raise EntryError("angles of a pendulum lie between 0° (hanging) and 180°", "rise_angle")
        if rise[-1] > release[-1]:
            raise EntryError(f"it cannot rise to {rise[-1]:g}°, higher than it was let go at ({release[-1]:g}°)", "rise_angle")
        lever = mass[-1] * STANDARD_GRAVITY * radius[-1]
        beta, alpha = math.radians(rise[-1]), math.radians(release[-1])
        return lever * (math.cos(beta) - math.cos(alpha)) - loss * _share_of_swing(inputs, alpha, beta), of
    if low:
        if not high:
            raise EntryError("the height it was let go from is needed: enter it with the rig", "release_height")
        if low[-1] > high[-1]:
            raise EntryError(f"it cannot rise to {low[-1]:g} m, higher than it was let go from ({high[-1]:g} m)", "rise_height")
        weight = mass[-1] * STANDARD_GRAVITY
        # a height is R(1 − cos) of its angle
        angles = [math.acos(max(-1.0, 1 - h / radius[-1])) for h in (high[-1], low[-1])] if radius else [math.pi, math.pi]
        return weight * (high[-1] - low[-1]) - loss * _share_of_swing(inputs, *angles), of
    raise EntryError("enter how far the hammer rose (angle or height), or the energy shown", "rise_angle")


def _share_of_swing(inputs: Inputs, alpha: float, beta: float) -> float:
    """Of the loss of a whole empty swing, the share that the swing from α up to β (radians) had: (α + β)/(2α); else all of it."""
    return (alpha + beta) / (2 * alpha) if need(inputs, LOSS_OF_WHOLE_SWING)[-1] else 1.0


def _release_height(inputs: Inputs) -> float | None:
    """m that the hammer falls; None where it is not known."""
    high, radius, release = need(inputs, RELEASE_HEIGHT), need(inputs, RADIUS), need(inputs, RELEASE_ANGLE)
    if high:
        return high[-1]
    return radius[-1] * (1 - math.cos(math.radians(release[-1]))) if radius and release else None


def _pendulum_energy(inputs: Inputs) -> float | None:
    """The energy that the hammer brings, J; None where it is not known."""
    mass, height = need(inputs, HAMMER_MASS), _release_height(inputs)
    return mass[-1] * STANDARD_GRAVITY * height if mass and height is not None else None


_OF_RIG = (HAMMER_MASS, RADIUS, RELEASE_ANGLE, RELEASE_HEIGHT, LOSS, LOSS_SUBTRACTED, LOSS_OF_WHOLE_SWING)


def _method(name: str, label: str, after: str, strength: str, main: str, speed_of: Callable[[float], float], span: tuple[float, float] | None) -> _Impact:
    """One of the three: what differs is the standard, its speed and supports, and the quantity it reports."""
    return _Impact(
        name=name,
        label=label,
        after=after,
        procedure_version=f"{name}-1",
        reduction_version=2,
        orientations=(Orientation.FLAT, Orientation.ON_EDGE, Orientation.UPRIGHT),
        shapes=(NOTCHED_BAR,),
        steps=(
            SectionStep("section", "dimensions", (WIDTH, THICKNESS, MACHINED, NOTCH_RADIUS)),
            SwingStep("swing", "swing", (RISE_ANGLE, RISE_HEIGHT, ENERGY, *_OF_RIG, *((SPAN,) if span else ()))),
        ),
        quantities=(
            QuantitySpec("impact_strength", strength, "kJ/m²", GoodSide.HIGHER, plausible=(0.1, 300.0)),
            QuantitySpec("net_energy", "net energy", "J", GoodSide.NONE),
            QuantitySpec("energy_per_notch_length", "energy per notch length", "J/m", GoodSide.HIGHER),
            QuantitySpec("hammer_share", "share of the hammer's energy", "1", GoodSide.NONE),
        ),
        main=main,
        typical_cv=0.15,
        minutes=3.0,
        count=10,
        outcome_field="break_type",
        outcomes=(
            Outcome("complete", "complete, in two or more pieces", symbol="C", apart=True),
            Outcome("hinge", "hinge, held by a thin skin", symbol="H", apart=True),
            Outcome("partial", "partial, not a hinge", symbol="P", apart=True),
            Outcome("none", "not broken, pushed through", _NOT_BROKEN, symbol="N"),
        ),
        measures="The energy that a notched bar takes up when a pendulum strikes it, over the section left under the notch.",
        formulas=("E = m · g · R · (cos β − cos α) − W", "E = m · g · (h₀ − h₁) − W", "a = E / (b_N · h)"),
        speed_of=speed_of,
        span=span,
    )


METHOD = _method("impact", "Notched impact, Charpy", "ISO 179-1", "Charpy notched impact strength", "impact_strength", charpy_speed, _CHARPY_SPAN)
IZOD = _method("impact-izod", "Notched impact, Izod", "ISO 180", "Izod notched impact strength", "impact_strength", izod_speed, None)
D256 = _method("impact-d256", "Notched impact, D256", "ASTM D256", "notched impact strength", "energy_per_notch_length", izod_speed, None)
