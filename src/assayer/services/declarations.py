"""What core declares, as it is sent to the browser: shapes, outcomes, quantities."""

from __future__ import annotations

from assayer.core.methods.base import Method
from assayer.core.methods.results import QuantitySpec
from assayer.core.methods.vocabulary import Bound
from assayer.core.shapes.base import Shape
from assayer.services.views import OutcomeView, QuantityView, ShapeView


def shape_view(shape: Shape) -> ShapeView:
    return ShapeView(name=shape.name, label=shape.label, family=shape.family, dimensions=shape.dimensions)


def outcome_views(method: Method, orientation: str | None = None) -> list[OutcomeView]:
    """The outcomes of a method; with an orientation, those that can occur in it."""
    return [
        OutcomeView(name=o.name, label=o.label, bound=o.bounds.get(method.main, Bound.EXACT), place=o.place)
        for o in method.outcomes
        if orientation is None or o.occurs(orientation)
    ]


def quantity_view(spec: QuantitySpec, key: str | None = None) -> QuantityView:
    return QuantityView(name=key or spec.name, label=spec.label, unit=spec.unit, good_side=spec.good_side)
