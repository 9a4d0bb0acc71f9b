"""A shape as it stands on the bed: turned, marked, numbered; and whether it can stand so (METHODS 14)."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from assayer.core.errors import EntryError
from assayer.core.shapes.base import Shape
from assayer.core.shapes.pull_bars import PullBar
from assayer.core.shapes.relief import Stroke, figures, letters
from assayer.core.shapes.solids import Solid, box, meshed

FLAT, ON_EDGE, UPRIGHT = "flat", "on edge", "upright"
ORIENTATIONS = (FLAT, ON_EDGE, UPRIGHT)

SLENDER, TOO_SLENDER = 8.0, 25.0
"""Height over the least width of the foot: beyond the first it wants a brim, beyond the second it falls over."""

_HOLLOW = 0.85
"""Of its shadow on the bed, what must touch the bed for it to do without supports."""

_MARK_WIDE, _MARK_HIGH = 0.4, 0.2
_NUMBER_DEEP = 0.4
_FOOT = 2.0
_TOUCH = 0.02
"""mm above the bed at which its foot is looked at."""


@dataclass(frozen=True, slots=True)
class Standing:
    """How a shape stands on the bed; lengths in mm.

    Attributes
    ----------
    width, depth, height : float
        What it takes of the bed along x and y, and how high it is.
    slenderness : float
        Its height over the least width of its foot.
    stands : bool
        Whether it is printed so at all.
    brim, supports : bool
        What it wants to stand; `supports` where much of it hangs above the bed.
    """

    orientation: str
    width: float
    depth: float
    height: float
    slenderness: float
    stands: bool
    brim: bool
    supports: bool


def printed(shape: Shape, orientation: str, number: int | None = None, code: str = "") -> tuple[Solid, Standing]:
    """The solid of a shape as it is printed.

    Gauge marks are raised by 0.2 mm, a number is sunk by 0.4 mm at an end: neither takes anything off the section.

    Parameters
    ----------
    shape : Shape
    orientation : 'flat', 'on edge' or 'upright'
    number : int, optional
        Its place on the plate, from 1.
    code : str, optional
        Its code, instead of the number.

    Raises
    ------
    EntryError
        If there is no such orientation, it cannot stand so, or there is no room for the number or code.
    """
    standing = stand(shape, orientation)
    if not standing.stands:
        foot = standing.height / standing.slenderness
        why = "is printed flat only" if shape.flat_only else f"would stand {standing.height:g} mm high on a foot of {foot:.3g} mm: it falls over; print it flat"
        raise EntryError(f"the {shape.label} {why}", "orientation")
    body = _marked(shape)
    if code:
        body -= _sunk(shape, _code_strokes(shape, code))
    elif number is not None:
        body -= _sunk(shape, _number_strokes(shape, number))
    return meshed(_turned(body, shape, orientation)), standing


@lru_cache(maxsize=256)
def stand(shape: Shape, orientation: str) -> Standing:
    """How it would stand, whether or not it can.

    Raises
    ------
    EntryError
        If there is no such orientation.
    """
    if orientation not in ORIENTATIONS:
        raise EntryError(f"there is no orientation '{orientation}': {', '.join(ORIENTATIONS)}", "orientation")
    body = _turned(shape.body(), shape, orientation)
    x0, y0, z0, x1, y1, z1 = body.bounding_box()
    foot = body.slice(z0 + _TOUCH)
    # a part that rests on a point or an edge has no foot
    least = min(np.ptp(np.vstack(foot.to_polygons()), axis=0)) if foot.area() > 0 else 0.0
    slenderness = (z1 - z0) / least if least > 0 else np.inf
    supports = foot.area() < _HOLLOW * body.project().area() and orientation != UPRIGHT
    stands = bool(slenderness <= TOO_SLENDER) and (orientation == FLAT or not shape.flat_only)
    return Standing(orientation, x1 - x0, y1 - y0, z1 - z0, float(slenderness), stands, bool(slenderness > SLENDER), supports)


def outlines(shape: Shape) -> tuple[list[NDArray[np.float64]], list[NDArray[np.float64]]]:
    """What is seen of it from above and from the side as it lies flat: closed outlines (n × 2, mm), holes among them."""
    body = shape.body()
    return _seen(body), _seen(body.rotate([-90, 0, 0]))


def views(shape: Shape) -> dict[str, list[NDArray[np.float64]]]:
    """What is seen of it as it lies flat: from the top (x, y), the front (x, z) and the side (y, z); closed outlines (n × 2, mm), holes among them."""
    body = shape.body()
    turned = {"top": body, "front": body.rotate([-90, 0, 0]), "side": body.rotate([0, 0, -90]).rotate([-90, 0, 0])}
    return {name: _seen(seen, _FINE) for name, seen in turned.items()}


_FINE = 0.02
"""mm by which the drawn outline of a part may leave the true one: parts may have thousands of corners."""


def _seen(body: Any, fine: float = 0.0) -> list[NDArray[np.float64]]:
    seen = body.project()
    return [np.asarray(p) for p in (seen.simplify(fine) if fine else seen).to_polygons()]


@lru_cache(maxsize=256)
def shadow(shape: Shape, orientation: str) -> tuple[NDArray[np.float64], ...]:
    """What is seen of it from above as it stands on the bed, about its middle: closed outlines (n × 2, mm), holes among them.

    Worked out once: each place of a plate asks for it.
    """
    outlines = tuple(np.array(p) for p in _turned(shape.body(), shape, orientation).project().to_polygons())
    for outline in outlines:
        outline.setflags(write=False)
    return outlines


def _turned(body: Any, shape: Shape, orientation: str) -> Any:
    """Onto the bed, over the origin of the bed's x and y."""
    if orientation == ON_EDGE:
        body = body.rotate([90, 0, 0])
    elif orientation == UPRIGHT:
        body = body.rotate([0, -90, 0])
        if isinstance(shape, PullBar) and shape.end_thickness is not None:
            body += _foot(body, shape.end_width)
    x0, y0, z0, x1, y1, _ = body.bounding_box()
    return body.translate([-(x0 + x1) / 2, -(y0 + y1) / 2, -z0])


def _foot(body: Any, wide: float) -> Any:
    """A square as wide as the end, within its length: what stands on a thin end falls."""
    x0, y0, z0, x1, y1, _ = body.bounding_box()
    x, y = (x0 + x1) / 2, (y0 + y1) / 2
    return box((x - wide / 2, y - wide / 2, z0), (x + wide / 2, y + wide / 2, z0 + _FOOT))


def _marked(shape: Shape) -> Any:
    """With a raised line at both ends of the gauge section, on the upper face."""
    body = shape.body()
    if shape.gauge is None or not isinstance(shape, PullBar):
        return body
    top = ((shape.end_thickness or shape.thickness) + shape.thickness) / 2
    half = 0.3 * shape.width
    for side in (-1, 1):
        x = side * shape.gauge / 2
        body += box((x - _MARK_WIDE / 2, -half, top - 0.1), (x + _MARK_WIDE / 2, half, top + _MARK_HIGH))
    return body


def takes_code(shape: Shape) -> bool:
    """Whether a code of five symbols can be sunk into it without weakening it."""
    place = shape.number_place
    return place is not None and bool(letters("00000", place.room, place.tall))


def _number_strokes(shape: Shape, number: int) -> list[Stroke]:
    place = shape.number_place
    if place is None or not 1 <= number <= 999:
        raise EntryError(
            f"a number has no place on the {shape.label} without weakening it" if place is None else "a place on the plate is from 1 to 999", "number"
        )
    return figures(str(number), place.room, place.tall)


def _code_strokes(shape: Shape, code: str) -> list[Stroke]:
    place = shape.number_place
    strokes = letters(code, place.room, place.tall) if place is not None else []
    if not strokes:
        raise EntryError(f"a code has no place on the {shape.label} that could be read: write it on", "code")
    return strokes


def _sunk(shape: Shape, strokes: list[Stroke]) -> Any:
    """What is taken off the upper face."""
    from manifold3d import Manifold, OpType

    place = shape.number_place
    assert place is not None
    top = shape.body().bounding_box()[5]
    x, y = place.x - place.room / 2, place.y - place.tall / 2
    sunk = [box((x + s.x, y + s.y, top - _NUMBER_DEEP), (x + s.x + s.wide, y + s.y + s.tall, top + 1)) for s in strokes]
    return Manifold.batch_boolean(sunk, OpType.Add)
