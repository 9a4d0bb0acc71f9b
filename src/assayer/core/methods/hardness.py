"""Shore hardness, type D or A (METHODS 11, after ISO 868): the mean of five indents."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from assayer.core.methods.base import Method
from assayer.core.methods.inputs import Inputs, Settings, need, setting
from assayer.core.methods.results import QuantitySpec, Reduction, Result
from assayer.core.methods.steps import Field, PlainStep
from assayer.core.methods.vocabulary import Orientation
from assayer.core.shapes.bars import HARDNESS_BLOCK
from assayer.core.stats.verdicts import GoodSide, Margin

INDENTS = Field("indents", "indent after 15 s", "hardness", usual=5, channel="hardness")
_SOFT = 20.0
"""ISO 868, 4: below this on type D, type A is to be used."""
_HARD = 90.0
"""ISO 868, 4: above this on type A, type D is to be used."""
_THIN = 4.0
"""mm: ISO 868, 6.1; a thinner specimen feels its support."""


@dataclass(frozen=True, slots=True)
class HardnessProtocol(Settings):
    """What a lab sets: the type of durometer."""

    scale: str = setting("D", "durometer", choices={"D": "type D", "A": "type A"})


class _Hardness(Method):
    protocol: ClassVar[type[Settings]] = HardnessProtocol

    def reduce(self, inputs: Inputs) -> Reduction:
        scale = _scale(inputs.protocol)
        indents = need(inputs, INDENTS)
        hardness = float(np.mean(indents))
        warnings = [] if len(indents) >= 5 else [f"{len(indents)} of the five indents that the method asks for"]
        if max(indents) > 100:
            warnings.append(f"above 100: the scale of Shore {scale} ends there")
        if scale == "D" and hardness < _SOFT:
            warnings.append(f"below {_SOFT:g} on type D: use type A")
        if scale == "A" and hardness > _HARD:
            warnings.append(f"above {_HARD:g} on type A: use type D")
        thickness = None if inputs.shape is None else inputs.shape.dimensions.get("thickness")
        if thickness is not None and thickness < _THIN:
            warnings.append(f"{thickness:g} mm thick: a specimen under {_THIN:g} mm lets the needle feel what is under it")
        return self.made([Result(_quantity(scale), hardness, f"Shore {scale}")], warnings)

    def main_of(self, protocol: Settings) -> str:
        return _quantity(_scale(protocol))


def _scale(protocol: Settings | None) -> str:
    return protocol.scale if isinstance(protocol, HardnessProtocol) else HardnessProtocol().scale


def _quantity(scale: str) -> str:
    return f"shore_{scale.lower()}"


METHOD = _Hardness(
    name="hardness",
    label="Hardness",
    after="ISO 868",
    procedure_version="hardness-1",
    reduction_version=2,
    orientations=(Orientation.FLAT,),
    shapes=(HARDNESS_BLOCK,),
    steps=(PlainStep("indents", "indents, ≥ 6 mm apart and ≥ 9 mm from the edges", (INDENTS,)),),
    quantities=tuple(
        QuantitySpec(_quantity(s), "hardness", f"Shore {s}", GoodSide.NONE, ratio_scale=False, plausible=(10.0, 95.0), margin=Margin(3.0, relative=False))
        for s in ("D", "A")
    ),
    main="shore_d",
    typical_cv=0.02,
    minutes=2.0,
    measures="How far a loaded needle sinks into the surface, read 15 s after it rests.",
    formulas=("H = mean of the indents",),
)
