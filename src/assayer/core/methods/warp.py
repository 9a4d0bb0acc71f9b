"""Warp of a rail or a frame (METHODS 9): how far its corners stand up."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from assayer.core.errors import EntryError
from assayer.core.methods.base import Method, Outcome
from assayer.core.methods.inputs import Inputs, Settings, need, setting
from assayer.core.methods.results import QuantitySpec, Reduction, Result
from assayer.core.methods.steps import CornersStep, Field
from assayer.core.methods.vocabulary import Bound, Orientation, Sign
from assayer.core.shapes.bars import WARP_RAIL
from assayer.core.shapes.frames import WARP_FRAME, SquareFrame
from assayer.core.stats.verdicts import GoodSide, Margin

CORNERS = Field("corners", "lift of a corner", "length", usual=4, channel="length", sign=Sign.EITHER)
LENGTH = Field("length", "length", "length", needed=0, usual=0, channel="length", nominal="length")

SINCE_REMOVAL = Field("since_removal", "time since removal", "time", needed=0, usual=0, sign=Sign.ZERO_ALLOWED)
BED_TEMPERATURE = Field("bed_temperature", "bed temperature at removal", "temperature", needed=0, usual=0, sign=Sign.EITHER)
PART_TEMPERATURE = Field("part_temperature", "part temperature when read", "temperature", needed=0, usual=0, sign=Sign.EITHER)
"""A print goes on warping while it cools and after it is off the bed: when and how warm it was read is kept with it (METHODS 9)."""


@dataclass(frozen=True, slots=True)
class WarpProtocol(Settings):
    """What a lab sets: whether one end is held down while the other is read."""

    one_end_held: bool = setting(False, "one end held down while the other is read")


class _Warp(Method):
    protocol: ClassVar[type[Settings]] = WarpProtocol

    def reduce(self, inputs: Inputs) -> Reduction:
        protocol = inputs.protocol if isinstance(inputs.protocol, WarpProtocol) else WarpProtocol()
        corners, lengths = need(inputs, CORNERS), need(inputs, LENGTH)
        length = lengths[-1] if lengths else _length_of(inputs)
        mean, greatest = float(np.mean(corners)), float(max(corners, key=abs))
        step = inputs.step("corners")
        warnings = []
        if min(corners) < -step and max(corners) > step:
            warnings.append("some corners stand up and some hang down: twisted, and the mean hides it")
        # a chord of length L over an arc: κ = 8u/L²; with one end held the arc reaches over 2L. A frame that bows into a bowl
        # is measured at its corners, half a diagonal from the middle: u = κ(L/√2)²/2
        factor = 4.0 if isinstance(inputs.shape, SquareFrame) else 2.0 if protocol.one_end_held else 8.0
        curvature = factor * mean / length**2
        return self.made(
            [
                Result("mean_lift", mean, "mm"),
                Result("greatest_lift", greatest, "mm"),
                Result("curvature", curvature, "1/mm"),
            ],
            warnings,
        )


def _length_of(inputs: Inputs) -> float:
    dimensions = inputs.shape.dimensions if inputs.shape is not None else {}
    for name in ("overall", "side", "length"):
        if name in dimensions:
            return float(dimensions[name])
    raise EntryError("length: needed where the shape does not tell it", "length")


METHOD = _Warp(
    name="warp",
    label="Warp",
    after="own method",
    procedure_version="warp-1",
    reduction_version=2,
    orientations=(Orientation.FLAT,),
    shapes=(WARP_RAIL, WARP_FRAME),
    steps=(CornersStep("corners", "corners, upwards positive", (CORNERS, LENGTH, SINCE_REMOVAL, BED_TEMPERATURE, PART_TEMPERATURE)),),
    quantities=(
        QuantitySpec("mean_lift", "mean lift", "mm", GoodSide.LOWER, ratio_scale=False, plausible=(-5.0, 25.0), margin=Margin(0.2, relative=False)),
        QuantitySpec("greatest_lift", "greatest lift", "mm", GoodSide.LOWER, ratio_scale=False, plausible=(-5.0, 40.0), margin=Margin(0.3, relative=False)),
        QuantitySpec("curvature", "curvature", "1/mm", GoodSide.LOWER, ratio_scale=False, margin=Margin(2e-5, relative=False)),
    ),
    main="mean_lift",
    typical_cv=0.20,
    minutes=3.0,
    outcomes=(
        Outcome("stayed", "stayed on the bed to the end"),
        Outcome("lifted", "a corner came off the bed while printing"),
        Outcome("came off", "came off the bed before the end", {"mean_lift": Bound.AT_LEAST, "greatest_lift": Bound.AT_LEAST, "curvature": Bound.AT_LEAST}),
    ),
    measures="How far the corners of a long flat print stand up from the plane once it is off the bed.",
    formulas=("u = mean of the corners", "κ = 8 · u / L²  (one end held down: 2 · u / L², a frame: 4 · u / L²)"),
)
