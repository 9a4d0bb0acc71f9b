"""What core declares, as it is sent to the browser: shapes, outcomes, quantities."""

from __future__ import annotations

from assayer.core.methods import method as find_method
from assayer.core.methods.base import Method
from assayer.core.methods.results import QuantitySpec
from assayer.core.methods.vocabulary import Bound
from assayer.core.shapes.base import Shape
from assayer.services.views import FeatureView, OutcomeView, QuantityView, ShapeView
from assayer.store.models import Test


def shape_view(shape: Shape) -> ShapeView:
    return ShapeView(
        name=shape.name,
        label=shape.label,
        family=shape.family,
        dimensions=shape.dimensions,
        strain_lengths=shape.strain_lengths,
        features=[FeatureView.model_validate(f) for f in shape.features],
    )


def outcome_views(method: Method, orientation: str | None = None, shape: Shape | None = None) -> list[OutcomeView]:
    """The outcomes of a method; with an orientation, those that can occur in it, with a shape where on it."""
    return [
        OutcomeView(name=o.name, label=o.label, bound=o.bounds.get(method.main, Bound.EXACT), place=o.place_on(shape), symbol=o.symbol)
        for o in method.outcomes
        if orientation is None or o.occurs(orientation)
    ]


def quantity_view(spec: QuantitySpec, key: str | None = None) -> QuantityView:
    return QuantityView(name=key or spec.name, label=spec.label, unit=spec.unit, good_side=spec.good_side)


def main_of(test: Test) -> str:
    """The key of the quantity that a test's verdicts rest on, as it is set."""
    method = find_method(test.method)
    return method.main_of(method.protocol.read(test.protocol, method.label))
