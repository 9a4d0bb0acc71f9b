"""Notched impact (METHODS 7, after ISO 179-1, ISO 180, ASTM D256): energy of a pendulum over the width left under the notch."""

from __future__ import annotations

import math
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

_NOT_BROKEN = MappingProxyType(dict.fromkeys(("net_energy", "impact_strength", "energy_per_notch_length"), Bound.AT_LEAST))


class _Impact(Method):
    def reduce(self, inputs: Inputs) -> Reduction:
        width, thickness = float(np.mean(need(inputs, WIDTH))), float(np.mean(need(inputs, THICKNESS)))
        net, of = _net_energy(inputs)
        if not net > 0:
            raise EntryError(f"no energy is left ({net:.4g} J): the rise, the release or the loss of the empty swing is wrong", "energy")
        warnings = []
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


def _net_energy(inputs: Inputs) -> tuple[float, float | None]:
    """(net energy in J, energy of the pendulum in J or None).

    E = m g R (cos β − cos α) − W = m g (h0 − h1) − W; what an instrument shows less W, unless it took that off.
    """
    loss = need(inputs, LOSS)[-1]
    mass = need(inputs, HAMMER_MASS)
    radius, release, rise = need(inputs, RADIUS), need(inputs, RELEASE_ANGLE), need(inputs, RISE_ANGLE)
    high, low = need(inputs, RELEASE_HEIGHT), need(inputs, RISE_HEIGHT)
    shown = need(inputs, ENERGY)
    if sum(map(bool, (rise, low, shown))) > 1:
        raise EntryError("give one of them: the angle it rose to, the height, or the energy shown", "energy")
    if shown:
        if need(inputs, LOSS_SUBTRACTED)[-1]:
            loss = 0.0
        return shown[-1] - loss, _of_pendulum(mass, radius, release, high)
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
        return lever * (math.cos(beta) - math.cos(alpha)) - loss, _of_pendulum(mass, radius, release, high)
    if low:
        if not high:
            raise EntryError("the height it was let go from is needed: enter it with the rig", "release_height")
        if low[-1] > high[-1]:
            raise EntryError(f"it cannot rise to {low[-1]:g} m, higher than it was let go from ({high[-1]:g} m)", "rise_height")
        weight = mass[-1] * STANDARD_GRAVITY
        return weight * (high[-1] - low[-1]) - loss, _of_pendulum(mass, radius, release, high)
    raise EntryError("enter how far the hammer rose (angle or height), or the energy shown", "rise_angle")


def _of_pendulum(mass: list[float], radius: list[float], release: list[float], high: list[float]) -> float | None:
    """The energy that the hammer brings, J; None where it is not known."""
    if mass and high:
        return mass[-1] * STANDARD_GRAVITY * high[-1]
    if mass and radius and release:
        return mass[-1] * STANDARD_GRAVITY * radius[-1] * (1 - math.cos(math.radians(release[-1])))
    return None


METHOD = _Impact(
    name="impact",
    label="Notched impact",
    after="ISO 179-1",
    procedure_version="impact-1",
    reduction_version=1,
    orientations=(Orientation.FLAT, Orientation.ON_EDGE, Orientation.UPRIGHT),
    shapes=(NOTCHED_BAR,),
    steps=(
        SectionStep("section", "dimensions", (WIDTH, THICKNESS)),
        SwingStep("swing", "swing", (RISE_ANGLE, RISE_HEIGHT, ENERGY, HAMMER_MASS, RADIUS, RELEASE_ANGLE, RELEASE_HEIGHT, LOSS, LOSS_SUBTRACTED)),
    ),
    quantities=(
        QuantitySpec("impact_strength", "impact strength", "kJ/m²", GoodSide.HIGHER, plausible=(0.1, 300.0)),
        QuantitySpec("net_energy", "net energy", "J", GoodSide.NONE),
        QuantitySpec("energy_per_notch_length", "energy per notch length", "J/m", GoodSide.HIGHER),
        QuantitySpec("hammer_share", "share of the hammer's energy", "1", GoodSide.NONE),
    ),
    main="impact_strength",
    typical_cv=0.15,
    minutes=3.0,
    outcome_field="break_type",
    outcomes=(
        Outcome("complete", "complete, in two or more pieces", symbol="C", apart=True),
        Outcome("hinge", "hinge, held by a thin skin", symbol="H", apart=True),
        Outcome("partial", "partial, not a hinge", symbol="P", apart=True),
        Outcome("none", "not broken, pushed through", _NOT_BROKEN, symbol="N"),
    ),
    measures="The energy that a notched bar takes up when a pendulum strikes it, over the section left under the notch.",
    formulas=("E = m · g · R · (cos β − cos α) − W", "E = m · g · (h₀ − h₁) − W", "a = E / (b_N · h)"),
)
