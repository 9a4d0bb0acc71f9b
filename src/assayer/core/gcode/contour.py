"""The outer contour of a layer, told by geometry: closed paths that no other closed path holds.

What a program wrote beside the moves is not asked: two files are compared by what they lay.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from assayer.core.gcode.moves import Moves
from assayer.core.gcode.words import Floats, Ints

GAP = 1.0
"""mm; a path whose end comes this near to its start is closed: a seam leaves a gap."""

LEAST_AREA = 1.0
"""mm²; what encloses less is no outline."""

_ARC_STEP = np.pi / 18
"""An arc is followed in chords of at most this angle."""


def outer_contour(moves: Moves) -> NDArray[np.bool_]:
    """Which moves of a layer lay its outer contour.

    Parameters
    ----------
    moves : Moves
        Those of one layer, in order, travel among them.
    """
    found = np.zeros(len(moves), np.bool_)
    loops = []
    for start, end in _paths(moves.laying):
        outline = _outline(moves, start, end)
        if np.hypot(*(outline[-1] - outline[0])) <= GAP and (size := _area(outline)) >= LEAST_AREA:
            loops.append((size, start, end, outline))
    loops.sort(key=lambda loop: -loop[0])
    outer: list[Floats] = []
    for _, start, end, outline in loops:
        if not any(_holds(other, outline) for other in outer):
            outer.append(outline)
            found[start:end] = True
    return found


def crossing(moves: Moves, contour: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """Which moves of a layer travel across its outer contour; one that starts or ends on it does not."""
    found = np.zeros(len(moves), np.bool_)
    travel = np.flatnonzero((moves.de <= 0) & ((moves.dx != 0) | (moves.dy != 0)))
    walls = np.flatnonzero(contour)
    if not travel.size or not walls.size:
        return found
    a, b = _ends(moves, walls)
    c, d = _ends(moves, travel)
    for part in np.array_split(np.arange(travel.size), travel.size * walls.size // 2_000_000 + 1):
        found[travel[part]] = _meet(c[part, None], d[part, None], a[None], b[None]).any(axis=1)
    return found


def _paths(laying: NDArray[np.bool_]) -> list[tuple[int, int]]:
    """Where beads are laid without a break: first row, and the row after the last."""
    edges = np.flatnonzero(np.diff(laying.astype(np.int8), prepend=0, append=0))
    return list(zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True))


def _outline(moves: Moves, start: int, end: int) -> Floats:
    """Corners of a path; arcs in chords."""
    ends = np.column_stack([moves.x[start:end], moves.y[start:end]])
    begins = np.array([moves.x[start] - moves.dx[start], moves.y[start] - moves.dy[start]])
    corners = np.vstack([begins, ends])
    sweep = moves.sweep[start:end]
    if not sweep.any():
        return corners
    pieces = [corners[:1]]
    for i, angle in enumerate(sweep.tolist()):
        if angle:
            radius, into = moves.turn[start + i], moves.into[start + i, :2]
            # the centre lies to the left of the way of a turn to the left
            centre = corners[i] + radius * np.sign(angle) * np.array([-into[1], into[0]])
            arm = corners[i] - centre
            steps = np.linspace(0, angle, max(2, int(np.ceil(abs(angle) / _ARC_STEP))) + 1)[1:-1]
            pieces.append(centre + np.column_stack([arm[0] * np.cos(steps) - arm[1] * np.sin(steps), arm[0] * np.sin(steps) + arm[1] * np.cos(steps)]))
        pieces.append(corners[i + 1 : i + 2])
    return np.vstack(pieces)


def _area(outline: Floats) -> float:
    x, y = outline[:, 0] - outline[0, 0], outline[:, 1] - outline[0, 1]
    return abs(float((x * np.roll(y, -1) - np.roll(x, -1) * y).sum())) / 2


def _holds(outer: Floats, inner: Floats) -> bool:
    """Whether the corners of one outline lie within another; judged by the one that is farthest to the left."""
    low, high = outer.min(axis=0), outer.max(axis=0)
    point = inner[np.argmin(inner[:, 0])]
    if np.any(point < low) or np.any(point > high):
        return False
    x, y = outer[:, 0], outer[:, 1]
    nx, ny = np.roll(x, -1), np.roll(y, -1)
    above = (y > point[1]) != (ny > point[1])
    with np.errstate(divide="ignore", invalid="ignore"):
        cuts = x + (point[1] - y) * (nx - x) / (ny - y)
    return bool(np.count_nonzero(above & (point[0] < cuts)) % 2)


def _ends(moves: Moves, which: Ints) -> tuple[Floats, Floats]:
    end = np.column_stack([moves.x[which], moves.y[which]])
    return end - np.column_stack([moves.dx[which], moves.dy[which]]), end


def _meet(c: Floats, d: Floats, a: Floats, b: Floats) -> NDArray[np.bool_]:
    """Whether segments c–d cut through segments a–b, each lying to both sides of the other."""

    def side(p: Floats, q: Floats, r: Floats) -> Floats:
        return (q[..., 0] - p[..., 0]) * (r[..., 1] - p[..., 1]) - (q[..., 1] - p[..., 1]) * (r[..., 0] - p[..., 0])

    return (side(a, b, c) * side(a, b, d) < -1e-9) & (side(c, d, a) * side(c, d, b) < -1e-9)
