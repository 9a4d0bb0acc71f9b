"""A build plate from above as SVG, to scale: what lies on it, with the number of each place."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

_EDGE = 6.0


@dataclass(frozen=True, slots=True)
class Lying:
    """A piece on the plate: its outlines about its middle (n × 2, mm), what is written on it, and where its middle is."""

    outlines: Sequence[NDArray[np.float64]]
    words: str
    x: float
    y: float
    turned: bool


def plate_svg(width: float, depth: float, keep_out: Sequence[Sequence[float]], pieces: Sequence[Lying]) -> str:
    """The drawing in millimetres, one to one where it is printed so; the front of the bed is below."""
    wide, deep = width + 2 * _EDGE, depth + 2 * _EDGE + 8
    parts = [
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{wide:g}mm" height="{deep:g}mm" viewBox="0 0 {wide:g} {deep:g}">',
        '<rect width="100%" height="100%" fill="#FFFFFF"/>',
        f'<rect x="{_EDGE:g}" y="{_EDGE:g}" width="{width:g}" height="{depth:g}" fill="#FBF8F1" stroke="#1F2330" stroke-width="0.5"/>',
    ]
    for x0, y0, x1, y1 in keep_out:
        at = f'x="{_EDGE + min(x0, x1):g}" y="{_EDGE + depth - max(y0, y1):g}" width="{abs(x1 - x0):g}" height="{abs(y1 - y0):g}"'
        parts.append(f'<rect {at} fill="#D9D1C0" stroke="#596072" stroke-width="0.3" stroke-dasharray="2 1"/>')
    parts += [_piece(p, depth) for p in pieces]
    label = f"{width:g} × {depth:g} mm, front"
    parts.append(f'<text x="{wide / 2:g}" y="{deep - 4:g}" text-anchor="middle" font-family="sans-serif" font-size="5" fill="#596072">{label}</text>')
    return "\n".join([*parts, "</svg>"]) + "\n"


def _piece(p: Lying, depth: float) -> str:
    loops = [np.column_stack([-loop[:, 1], loop[:, 0]]) if p.turned else loop for loop in p.outlines]
    path = "".join("M" + "L".join(f"{_EDGE + p.x + x:.2f} {_EDGE + depth - p.y - y:.2f}" for x, y in loop) + "Z" for loop in loops)
    drawn = f'<path d="{path}" fill="#F3EEE3" fill-rule="evenodd" stroke="#1F2330" stroke-width="0.4"/>'
    at = f'x="{_EDGE + p.x:.2f}" y="{_EDGE + depth - p.y + 1.6:.2f}"'
    return drawn + f'<text {at} text-anchor="middle" font-family="sans-serif" font-size="4.5" fill="#1F2330">{p.words}</text>'
