"""A dimensioned drawing of a shape as SVG: from above and from the side, to scale, with every length it has."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from xml.sax.saxutils import escape

import numpy as np
from numpy.typing import NDArray

from assayer.core.shapes.base import Shape
from assayer.core.shapes.printed import outlines

_ROOM = 16.0
"""mm around the views, for the lengths."""

_TEXT = 'font-family="sans-serif" font-size="4" fill="#1F2330"'


def drawing_svg(shape: Shape) -> str:
    """The drawing in millimetres, one to one where it is printed so."""
    top, side = outlines(shape)
    wide, deep, high = (float(np.ptp(np.vstack(view)[:, axis])) for view, axis in ((top, 0), (top, 1), (side, 1)))
    listed = [f"{name.replace('_', ' ')} {value:g}{'°' if name == 'angle' else ''}" for name, value in shape.dimensions.items()]
    height = 2 * _ROOM + deep + _ROOM + high + 6 * len(listed) + 4
    width = max(wide + 3 * _ROOM, 90.0)
    x, y, below = width / 2, 14 + _ROOM + deep / 2, 14 + _ROOM + deep + _ROOM + high / 2
    parts = [
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:g}mm" height="{height + 14:g}mm" viewBox="0 0 {width:g} {height + 14:g}">',
        f'<rect width="100%" height="100%" fill="#FFFFFF"/><title>{escape(shape.label)}</title>',
        f'<text x="4" y="8" {_TEXT.replace("4", "5", 1)} font-weight="bold">{escape(shape.label)}, mm</text>',
        _view(top, x, y),
        _view(side, x, below),
        _across(x - wide / 2, x + wide / 2, y - deep / 2 - 6, f"{wide:g}"),
        _down(x + wide / 2 + 6, y - deep / 2, y + deep / 2, f"{deep:g}"),
        _down(x + wide / 2 + 6, below - high / 2, below + high / 2, f"{high:g}"),
    ]
    first = below + high / 2 + 10
    parts += [f'<text x="4" y="{first + 6 * i:g}" {_TEXT}>{escape(words)}</text>' for i, words in enumerate(listed)]
    return "\n".join([*parts, "</svg>"]) + "\n"


def _view(outlines: Iterable[NDArray[np.float64]], x: float, y: float) -> str:
    """Closed outlines about their middle; y grows upwards in the shape and downwards on paper."""
    loops = list(outlines)
    every = np.vstack(loops)
    middle = (every.min(axis=0) + every.max(axis=0)) / 2
    path = "".join("M" + "L".join(f"{x + px - middle[0]:.3f} {y - (py - middle[1]):.3f}" for px, py in loop) + "Z" for loop in loops)
    return f'<path d="{path}" fill="#F3EEE3" fill-rule="evenodd" stroke="#1F2330" stroke-width="0.4"/>'


def _across(x1: float, x2: float, y: float, text: str) -> str:
    line = f"M{x1:g} {y - 2:g}v4M{x1:g} {y:g}H{x2:g}M{x2:g} {y - 2:g}v4"
    drawn = f'<path d="{line}" stroke="#596072" stroke-width="0.25" fill="none"/>'
    return drawn + f'<text x="{(x1 + x2) / 2:g}" y="{y - 2:g}" text-anchor="middle" {_TEXT}>{text}</text>'


def _down(x: float, y1: float, y2: float, text: str) -> str:
    line = f"M{x - 2:g} {y1:g}h4M{x:g} {y1:g}V{y2:g}M{x - 2:g} {y2:g}h4"
    return f'<path d="{line}" stroke="#596072" stroke-width="0.25" fill="none"/><text x="{x + 3:g}" y="{(y1 + y2) / 2 + 1.4:g}" {_TEXT}>{text}</text>'


@dataclass(frozen=True, slots=True)
class Mark:
    """A place on a part: at (u, v) in mm of one of its views."""

    view: str
    u: float
    v: float
    words: str


_SEEN_FROM = {"top": "from above", "front": "from the front", "side": "from the side"}


def part_svg(label: str, views: Mapping[str, Sequence[NDArray[np.float64]]], marks: Sequence[Mark]) -> str:
    """A part of one's own in its three views, one below the other, with the places on it; in millimetres."""
    sizes = {name: np.ptp(np.vstack(loops), axis=0) for name, loops in views.items()}
    width = max(max(float(s[0]) for s in sizes.values()) + 3 * _ROOM, 90.0)
    drawn, y = [], 14.0
    for name, loops in views.items():
        wide, tall = (float(v) for v in sizes[name])
        x, middle = width / 2, y + _ROOM + tall / 2
        points = np.vstack(loops)
        about = (points.min(axis=0) + points.max(axis=0)) / 2
        drawn += [
            f'<text x="4" y="{y + 5:g}" {_TEXT} fill-opacity="0.7">{_SEEN_FROM[name]}</text>',
            _view(loops, x, middle),
            _across(x - wide / 2, x + wide / 2, middle - tall / 2 - 5, f"{wide:g}"),
            _down(x + wide / 2 + 6, middle - tall / 2, middle + tall / 2, f"{tall:g}"),
        ]
        own = [(i, m) for i, m in enumerate(marks, 1) if m.view == name]
        drawn += [_mark(str(i), x + m.u - about[0], middle - (m.v - about[1])) for i, m in own]
        y += _ROOM + tall + 8
    listed = [f"{i} {m.words}" for i, m in enumerate(marks, 1)]
    height = y + 8 + 6 * len(listed)
    head = f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:g}mm" height="{height:g}mm" viewBox="0 0 {width:g} {height:g}">'
    title = f'<text x="4" y="8" {_TEXT.replace("4", "5", 1)} font-weight="bold">{escape(label)}, mm</text>'
    words = [f'<text x="4" y="{y + 6 + 6 * i:g}" {_TEXT}>{escape(w)}</text>' for i, w in enumerate(listed)]
    return "\n".join([head, f'<rect width="100%" height="100%" fill="#FFFFFF"/><title>{escape(label)}</title>', title, *drawn, *words, "</svg>"]) + "\n"


def _mark(number: str, x: float, y: float) -> str:
    circle = f'<circle cx="{x:.2f}" cy="{y:.2f}" r="2.6" fill="#FFFFFF" stroke="#B4491F" stroke-width="0.5"/>'
    return circle + f'<text x="{x:.2f}" y="{y + 1.3:.2f}" text-anchor="middle" font-family="sans-serif" font-size="3.6" fill="#B4491F">{number}</text>'
