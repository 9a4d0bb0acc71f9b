"""Shear of one or two sections (METHODS 3)."""

from __future__ import annotations

import math
from types import MappingProxyType

import numpy as np

from assayer.core.errors import EntryError
from assayer.core.methods.base import Method, Outcome
from assayer.core.methods.inputs import Inputs, need
from assayer.core.methods.results import QuantitySpec, Reduction, Result
from assayer.core.methods.sections import Section
from assayer.core.methods.steps import Field, PeakStep, SectionStep
from assayer.core.methods.vocabulary import Bound, Orientation
from assayer.core.shapes.bars import SHEAR_BAR
from assayer.core.stats.verdicts import GoodSide

WIDTH = Field("width", "width", "length", needed=0, usual=3, channel="length", nominal="width")
THICKNESS = Field("thickness", "thickness", "length", needed=0, usual=3, channel="length", nominal="thickness")
DIAMETER = Field("diameter", "diameter", "length", needed=0, usual=0, channel="length")
SECTIONS = Field("sections", "sheared sections", "number", usual=0, from_rig="sections", default=2.0)
PEAK_FORCE = Field("peak_force", "load when it sheared", "force", channel="force")

_LOWER = MappingProxyType({"shear_strength": Bound.AT_LEAST, "peak_force": Bound.AT_LEAST})


class _Shear(Method):
    def reduce(self, inputs: Inputs) -> Reduction:
        area = _area(inputs)
        sections = need(inputs, SECTIONS)[-1]
        if sections not in (1, 2):
            raise EntryError(f"one or two sections are sheared, but got {sections:g}", "sections")
        force = need(inputs, PEAK_FORCE)[-1]
        sheared = sections * area
        # τ = F/(m·A)
        return self.made([Result("shear_strength", force / sheared, "MPa"), Result("peak_force", force, "N")])


def _area(inputs: Inputs) -> float:
    """Of one section, mm²: round where a diameter was read, else rectangular."""
    diameters = need(inputs, DIAMETER)
    widths, thicknesses = need(inputs, WIDTH), need(inputs, THICKNESS)
    if diameters and (widths or thicknesses):
        raise EntryError("give either a diameter or width and thickness: a section has one form", "diameter")
    if diameters:
        return math.pi / 4 * float(np.mean(diameters)) ** 2
    return Section(widths, thicknesses).area


METHOD = _Shear(
    name="shear",
    label="Shear",
    after="own method",
    procedure_version="shear-1",
    reduction_version=1,
    orientations=(Orientation.FLAT, Orientation.ON_EDGE, Orientation.UPRIGHT),
    shapes=(SHEAR_BAR,),
    steps=(
        SectionStep("section", "dimensions", (WIDTH, THICKNESS, DIAMETER, SECTIONS)),
        PeakStep("peak", "load", (PEAK_FORCE,)),
    ),
    quantities=(
        QuantitySpec("shear_strength", "shear strength", "MPa", GoodSide.HIGHER, plausible=(0.5, 150.0)),
        QuantitySpec("peak_force", "peak force", "N", GoodSide.NONE),
    ),
    main="shear_strength",
    typical_cv=0.08,
    minutes=3.0,
    outcomes=(
        Outcome("sheared", "clean through"),
        Outcome("bent", "bent or squashed, not sheared", _LOWER),
        Outcome("not sheared", "did not shear", _LOWER),
    ),
    measures="The stress at which a bar is cut through between closely fitting jaws.",
    formulas=("τ = F / (m · A)",),
)
