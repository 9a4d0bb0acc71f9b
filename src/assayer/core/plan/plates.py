"""Specimens laid out on build plates, and the order in which plates are printed.

Rules of our own. A shape is turned the same way wherever it lies, since beads laid along x and along y are not alike;
pieces of unlike height lie on plates of their own, since the time that a layer has to cool would change where the low ones
end; each arm is printed in two batches, all first ones in random order and then all second ones, so that no arm owns a day.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from assayer.core.errors import EntryError
from assayer.core.plan.order import random_order

Floats = NDArray[np.float64]
Rectangle = tuple[float, float, float, float]
"""x and y of two opposite corners, mm."""

GAP = 4.0
"""mm between pieces that are printed together, their brims left out."""

UNLIKE = 1.5
"""Heights that differ by more than this factor are not printed together."""

BATCHES = 2
MOST_ON_A_PLATE = 120


@dataclass(frozen=True, slots=True)
class Bed:
    """What there is to print on; lengths in mm, the origin at its front left corner.

    Attributes
    ----------
    width, depth, height : float
        Along x, y and z.
    margin : float
        Kept free along all edges.
    keep_out : tuple of Rectangle
        Clips, wipers, worn places: nothing is laid there.
    clearance : float
        What the print head needs around a finished piece, where one is printed after another.
    passes_over : float
        How high a finished piece may be for what carries the head to pass over it.
    """

    width: float
    depth: float
    height: float
    margin: float = 5.0
    keep_out: tuple[Rectangle, ...] = ()
    clearance: float = 35.0
    passes_over: float = 25.0


@dataclass(frozen=True, slots=True)
class Piece:
    """What is laid: its kind (same kind, same size), and what it takes of the bed without its brim, mm."""

    kind: str
    width: float
    depth: float
    height: float
    brim: float = 0.0


@dataclass(frozen=True, slots=True)
class Placing:
    """Where a piece lies: its number among those that were given, its middle in mm, and whether it is turned by a right angle."""

    piece: int
    x: float
    y: float
    turned: bool


def lay_out(pieces: Sequence[Piece], bed: Bed, one_by_one: bool = False) -> list[list[Placing]]:
    """Pieces on as many plates as they take.

    Parameters
    ----------
    pieces : sequence of Piece
        In the order in which they should lie, from the front left.
    bed : Bed
    one_by_one : bool
        Each is finished before the next is begun: there is room for the head between them, and of pieces higher than
        what passes over them there is one a plate, printed last.

    Returns
    -------
    list of plates, each a list of Placing in the order of printing.

    Raises
    ------
    EntryError
        If a piece is larger or higher than the bed.
    """
    turned = {p.kind: _turned(p, bed) for p in pieces}
    plates: list[list[Placing]] = []
    for group in _alike(pieces):
        rest = group
        while rest:
            placed, rest = _fill(pieces, rest, turned, bed, one_by_one)
            plates.append(placed)
    return plates


def _alike(pieces: Sequence[Piece]) -> list[list[int]]:
    """Pieces of like height together, the low ones first; within them kind by kind, in the order given."""
    kinds = {kind: n for n, kind in enumerate(dict.fromkeys(p.kind for p in pieces))}
    groups: list[list[int]] = []
    lowest = 0.0
    for i in sorted(range(len(pieces)), key=lambda i: pieces[i].height):
        if not groups or pieces[i].height > UNLIKE * lowest:
            groups.append([])
            lowest = pieces[i].height
        groups[-1].append(i)
    return [sorted(g, key=lambda i: (kinds[pieces[i].kind], i)) for g in groups]


def _turned(piece: Piece, bed: Bed) -> bool:
    """Whether a kind is turned: only where it does not fit as it is.

    Raises
    ------
    EntryError
        If it does not fit either way.
    """
    if piece.height > bed.height:
        told = f"the {piece.kind} is {piece.height:.4g} mm high, and the printer builds {bed.height:g} mm"
        raise EntryError(f"{told}: print it flat, or on another printer", "bed")
    for turned in (False, True):
        if _first_place(_size(piece, turned), 0.0, bed, np.empty((0, 4))) is not None:
            return turned
    brim = f" with its brim of {piece.brim:g} mm" if piece.brim else ""
    kept = " beside what is kept free" if bed.keep_out else ""
    raise EntryError(
        f"the {piece.kind}, {piece.width:.4g} × {piece.depth:.4g} mm{brim}, does not fit on the bed of {bed.width:g} × {bed.depth:g} mm "
        f"with a margin of {bed.margin:g} mm{kept}",
        "bed",
    )


def _size(piece: Piece, turned: bool) -> tuple[float, float]:
    """What it takes along x and y, its brim included."""
    wide, deep = piece.width + 2 * piece.brim, piece.depth + 2 * piece.brim
    return (deep, wide) if turned else (wide, deep)


def _fill(pieces: Sequence[Piece], wanted: Sequence[int], turned: Mapping[str, bool], bed: Bed, one_by_one: bool) -> tuple[list[Placing], list[int]]:
    """One plate, and what is left over."""
    gap = bed.clearance if one_by_one else GAP
    taken: Floats = np.empty((0, 4))
    placed: list[Placing] = []
    full: set[str] = set()
    high = False
    for i in wanted:
        piece = pieces[i]
        over = one_by_one and piece.height > bed.passes_over
        if piece.kind in full or (over and high) or len(placed) == MOST_ON_A_PLATE:
            continue
        size = _size(piece, turned[piece.kind])
        corner = _first_place(size, gap, bed, taken)
        if corner is None:
            full.add(piece.kind)
            continue
        high = high or over
        x, y = corner
        taken = np.vstack([taken, (x, y, x + size[0], y + size[1])])
        placed.append(Placing(i, x + size[0] / 2, y + size[1] / 2, turned[piece.kind]))
    here = {p.piece for p in placed}
    dx, dy = _to_the_middle(taken, bed)
    placed = [Placing(p.piece, p.x + dx, p.y + dy, p.turned) for p in placed]
    if one_by_one:
        # the one that nothing passes over comes last
        placed.sort(key=lambda p: pieces[p.piece].height > bed.passes_over)
    return placed, [i for i in wanted if i not in here]


def _to_the_middle(taken: Floats, bed: Bed) -> tuple[float, float]:
    """How far all pieces together can be moved towards the middle of the bed, where it is warmest and flattest."""
    low, high = taken[:, :2].min(axis=0), taken[:, 2:].max(axis=0)
    whole = (np.array([bed.width, bed.depth]) - low - high) / 2
    kept = [_sorted(k) for k in bed.keep_out]
    for dx, dy in (whole, (whole[0], 0.0), (0.0, whole[1])):
        x0, y0, x1, y1 = taken[:, 0] + dx, taken[:, 1] + dy, taken[:, 2] + dx, taken[:, 3] + dy
        if all(bool(np.all((x0 >= k[2]) | (x1 <= k[0]) | (y0 >= k[3]) | (y1 <= k[1]))) for k in kept):
            return float(dx), float(dy)
    return 0.0, 0.0


def _first_place(size: tuple[float, float], gap: float, bed: Bed, taken: Floats) -> tuple[float, float] | None:
    """The front-most, then left-most corner at which a rectangle is free."""
    kept = np.array([_sorted(k) for k in bed.keep_out], dtype=np.float64).reshape(-1, 4)
    low = bed.margin
    xs = np.unique(np.concatenate([[low], taken[:, 2] + gap, kept[:, 2]]))
    ys = np.unique(np.concatenate([[low], taken[:, 3] + gap, kept[:, 3]]))
    x, y = (a.ravel() for a in np.meshgrid(xs, ys))
    slack = 1e-9
    free = (x >= low - slack) & (y >= low - slack) & (x + size[0] <= bed.width - bed.margin + slack) & (y + size[1] <= bed.depth - bed.margin + slack)
    for others, room in ((taken, gap), (kept, 0.0)):
        for x0, y0, x1, y1 in others:
            free &= (x >= x1 + room - slack) | (x + size[0] + room <= x0 + slack) | (y >= y1 + room - slack) | (y + size[1] + room <= y0 + slack)
    at = np.flatnonzero(free)
    if not at.size:
        return None
    # from the front, row by row
    return float(x[at[0]]), float(y[at[0]])


def _sorted(r: Rectangle) -> Rectangle:
    return min(r[0], r[2]), min(r[1], r[3]), max(r[0], r[2]), max(r[1], r[3])


def layer_evenness(areas: Sequence[tuple[float, float]]) -> float:
    """The least share of its longest layer time that a layer gets, where all are printed together.

    Parameters
    ----------
    areas : sequence of (height, mean area of a layer)
        Of each piece on the plate, mm and mm².
    """
    if not areas:
        return 1.0
    heights, laid = (np.array(column, dtype=np.float64) for column in zip(*areas, strict=True))
    still = [float(laid[heights >= top].sum()) for top in np.unique(heights)]
    return min(still) / max(still)


def split(numbers: Sequence[int], batches: int = BATCHES) -> list[list[int]]:
    """Replicates dealt out to batches in turn: the first, third, fifth to the first of two."""
    return [own for own in (list(numbers[b::batches]) for b in range(batches)) if own]


def interleaved(keys: Sequence[str], batches: Mapping[str, int], seed: int) -> list[tuple[str, int]]:
    """The order in which batches are printed: all first batches at random, then all second ones at random again.

    Parameters
    ----------
    keys : sequence of str
        The arms.
    batches : mapping of arm to how many batches it is printed in
    seed : int

    Returns
    -------
    list of (arm, number of the batch from 1)
    """
    rounds = max((batches[k] for k in keys), default=0)
    return [(key, n) for n in range(1, rounds + 1) for key in random_order((k for k in keys if batches[k] >= n), seed + n)]
