"""Shore D hardness (METHODS 11, after ISO 868): the mean of five indents."""

from __future__ import annotations

import numpy as np

from assayer.core.methods.base import Method
from assayer.core.methods.inputs import Inputs, need
from assayer.core.methods.results import QuantitySpec, Reduction, Result
from assayer.core.methods.steps import Field, PlainStep
from assayer.core.methods.vocabulary import Orientation
from assayer.core.shapes.bars import HARDNESS_BLOCK
from assayer.core.stats.verdicts import GoodSide, Margin

INDENTS = Field("indents", "indent after 15 s", "hardness", usual=5, channel="hardness")


class _Hardness(Method):
    def reduce(self, inputs: Inputs) -> Reduction:
        indents = need(inputs, INDENTS)
        warnings = [] if len(indents) >= 5 else [f"{len(indents)} of the five indents that the method asks for"]
        if max(indents) > 100:
            warnings.append("above 100: the scale of Shore D ends there")
        return self.made([Result("shore_d", float(np.mean(indents)), "Shore D")], warnings)


METHOD = _Hardness(
    name="hardness",
    label="Hardness",
    after="ISO 868",
    procedure_version="hardness-1",
    reduction_version=1,
    orientations=(Orientation.FLAT,),
    shapes=(HARDNESS_BLOCK,),
    steps=(PlainStep("indents", "indents, ≥ 6 mm apart and ≥ 9 mm from the edges", (INDENTS,)),),
    quantities=(QuantitySpec("shore_d", "hardness", "Shore D", GoodSide.NONE, ratio_scale=False, plausible=(10.0, 95.0), margin=Margin(3.0, relative=False)),),
    main="shore_d",
    typical_cv=0.02,
    minutes=2.0,
    measures="How far a loaded needle sinks into the surface, read 15 s after it rests.",
    formulas=("H = mean of the indents",),
)
