"""Dimensions and shrinkage (METHODS 10): features of known size, one fit for shrinkage and contour offset."""

from __future__ import annotations

import numpy as np

from assayer.core.errors import EntryError
from assayer.core.methods.base import CurveView, Method, Outcome
from assayer.core.methods.inputs import Inputs
from assayer.core.methods.results import QuantitySpec, Reduction, Result
from assayer.core.methods.steps import FeaturesStep, Field
from assayer.core.methods.vocabulary import Orientation
from assayer.core.shapes.base import Feature
from assayer.core.shapes.gauges import DIMENSION_GAUGE, DIMENSION_GAUGE_ACROSS
from assayer.core.stats.groups import Interval
from assayer.core.stats.shrinkage import Shrinkage, fit_shrinkage
from assayer.core.stats.verdicts import GoodSide, Margin

_SIDES = {"outer": 1, "inner": -1, "centre": 0}

MEASURED = Field("measured", "measured", "length", usual=1, channel="length", by_about=True)


class _Dimensions(Method):
    def reduce(self, inputs: Inputs) -> Reduction:
        features, measured = measured_features(inputs)
        deviation = float(np.mean([m - f.nominal for f, m in zip(features, measured, strict=True)]))
        mean = Result("mean_deviation", deviation, "mm")
        fit, why = _fit(features, measured)
        if fit is None:
            return self.made([mean], [why])
        warnings = []
        if fit.with_zero_error:
            warnings.append("one kind of feature only: the contour offset includes the calliper's zero error")
        results = [_with_interval(Result("shrinkage", fit.shrinkage, "1"), fit.shrinkage_half)]
        if any(f.kind != "centre" for f in features):
            results.append(_with_interval(Result("contour_offset", fit.offset, "mm"), fit.offset_half))
        return self.made([*results, Result("scale_advice", fit.scale, "1"), mean], warnings)

    def view(self, inputs: Inputs) -> CurveView | None:
        features, measured = measured_features(inputs)
        x = np.array([f.nominal for f in features])
        y = np.array([m - f.nominal for f, m in zip(features, measured, strict=True)])
        marks: dict[str, tuple[float, ...]] = {}
        fit, _ = _fit(features, measured)
        if fit is not None:
            far = float(x.max())
            for kind in dict.fromkeys(f.kind for f in features):
                aside = 2 * fit.offset * _SIDES[kind]
                marks[f"line {kind}"] = (0.0, aside, far, aside - fit.shrinkage * far)
        return CurveView(x, y, "nominal size", "mm", "deviation", "mm", marks, points=True, joined=False)

    def nominal(self, spec: Field, about: str | None) -> float | None:
        return Feature.parse(about).nominal if about is not None and spec.name == MEASURED.name else None


def measured_features(inputs: Inputs) -> tuple[list[Feature], list[float]]:
    """The features that were measured, and the mean of the readings of each in mm.

    Raises
    ------
    EntryError
        If nothing was measured, or a reading does not say of which feature it is.
    """
    if any(e.field == MEASURED.name and e.about is None for e in inputs.entries):
        raise EntryError("each reading says of which feature it is", MEASURED.name)
    by_feature = inputs.about(MEASURED.name)
    if not by_feature:
        raise EntryError("measure at least one feature", MEASURED.name)
    for values in by_feature.values():
        for value in values:
            if not np.isfinite(value):
                raise EntryError(f"a size must be a finite number, but got {value:g}", MEASURED.name)
            MEASURED.check(value)
    return [Feature.parse(name) for name in by_feature], [float(np.mean(v)) for v in by_feature.values()]


def _fit(features: list[Feature], measured: list[float]) -> tuple[Shrinkage | None, str]:
    """The joint fit; None, with the reason, where sizes and kinds do not tell shrinkage and offset apart."""
    try:
        return fit_shrinkage([f.nominal for f in features], measured, [f.kind for f in features]), ""
    except EntryError as error:
        return None, f"mean deviation only: {error.message}"


def _with_interval(result: Result, half: float | None) -> Result:
    if half is None:
        return result
    return Result(result.quantity, result.value, result.unit, interval=Interval(result.value - half, result.value + half))


METHOD = _Dimensions(
    name="dimensions",
    label="Dimensions",
    after="own method",
    procedure_version="dimensions-1",
    reduction_version=1,
    orientations=(Orientation.FLAT,),
    shapes=(DIMENSION_GAUGE, DIMENSION_GAUGE_ACROSS),
    steps=(FeaturesStep("features", "features, read above the first millimetre", (MEASURED,)),),
    quantities=(
        QuantitySpec(
            "shrinkage", "shrinkage", "1", GoodSide.NEAR, ratio_scale=False, plausible=(-0.02, 0.05), margin=Margin(0.001, relative=False), target=0.0
        ),
        QuantitySpec(
            "contour_offset", "contour offset", "mm", GoodSide.NEAR, ratio_scale=False, plausible=(-0.5, 0.5), margin=Margin(0.05, relative=False), target=0.0
        ),
        QuantitySpec("scale_advice", "scale advised", "1", GoodSide.NONE),
        QuantitySpec(
            "mean_deviation", "mean deviation", "mm", GoodSide.NEAR, ratio_scale=False, plausible=(-2.0, 2.0), margin=Margin(0.05, relative=False), target=0.0
        ),
    ),
    main="shrinkage",
    typical_cv=0.10,
    minutes=6.0,
    outcomes=(Outcome("measured", "measured as printed"), Outcome("trimmed", "a seam or an elephant's foot was trimmed first")),
    measures="How much smaller a print comes out than it was drawn, and by how much its walls stand out, told apart by sizes and kinds of features.",
    formulas=("measured = (1 − s) · nominal + 2 · o · k   (k = 1 outer, −1 inner, 0 centres)", "scale = 1 / (1 − s)"),
)
