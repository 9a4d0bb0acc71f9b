"""The shape of a test: one of its method's, or a part of one's own."""

from __future__ import annotations

import io
from collections import OrderedDict
from dataclasses import replace
from threading import Lock

import numpy as np
from sqlalchemy.orm import Session, object_session

from assayer.core.errors import EntryError, MissingError
from assayer.core.methods import method as find_method
from assayer.core.methods.base import Method
from assayer.core.shapes import SHAPES
from assayer.core.shapes.base import Shape
from assayer.core.shapes.own import OwnPart
from assayer.core.shapes.solids import Solid
from assayer.services.unit import find
from assayer.store.models import Part, Test

_MOST_HELD = 16
_held: OrderedDict[str, OwnPart] = OrderedDict()
_lock = Lock()
"""Solids read last: the surface of a part never changes under its id."""


def shape_of(test: Test) -> Shape:
    """The shape of a test that belongs to a session."""
    method = find_method(test.method)
    session = object_session(test)
    if session is None or not method.own_parts or method.has_shape(test.shape):
        return method.shape(test.shape)
    return part_shape(session, test.shape)


def title_of(test: Test) -> str:
    """How a test is called: with its shape, where that is not the one its method is usually done on."""
    method = find_method(test.method)
    label = method.label_for(test.orientation, test.protocol)
    usual = not method.shapes or test.shape == method.shapes[0].name
    return label if usual else f"{label}, {shape_of(test).label}"


def shape_named(session: Session, method: Method, name: str) -> Shape:
    """A shape that a method can be done on, by its name.

    Raises
    ------
    EntryError
        If it has no such shape.
    """
    if not method.own_parts or method.has_shape(name):
        return method.shape(name)
    part = session.get(Part, name)
    if part is None or part.retracted_at is not None:
        raise EntryError(f"{method.label} is done on {' or '.join(s.name for s in method.shapes)}, or a part of your own: there is no part '{name}'", "shape")
    return part_shape(session, name)


def part_shape(session: Session, part_id: str) -> OwnPart:
    """A part as a shape, called as it is called now."""
    part = session.get(Part, part_id)
    if part is None:
        raise MissingError(f"there is no part '{part_id}'")
    with _lock:
        held = _held.get(part_id)
        if held is not None:
            _held.move_to_end(part_id)
    if held is None:
        held = OwnPart(part.id, part.name, unpacked(part.solid), part.volume)
        with _lock:
            _held[part_id] = held
            while len(_held) > _MOST_HELD:
                _held.popitem(last=False)
    return held if held.label == part.name else replace(held, label=part.name)


def volume_named(session: Session, name: str) -> float:
    """Of a shape or a part by its name, cm³."""
    known = SHAPES.get(name)
    return known.volume if known is not None else find(session, Part, name).volume


def packed(solid: Solid) -> bytes:
    """A solid as it is kept."""
    out = io.BytesIO()
    np.savez_compressed(out, corners=solid.corners, triangles=solid.triangles.astype(np.uint32))
    return out.getvalue()


def unpacked(data: bytes) -> Solid:
    with np.load(io.BytesIO(data), allow_pickle=False) as kept:
        return Solid(kept["corners"], kept["triangles"].astype(np.int64))
