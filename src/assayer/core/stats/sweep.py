"""A sweep of one setting: the shape of the response, its lack of fit, the best level and the window around it (METHODS 13, 15).

References
----------
1. C. M. Hurvich, C.-L. Tsai, Biometrika 76 (1989) 297.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from assayer.core.errors import EntryError
from assayer.core.stats import special
from assayer.core.stats.groups import Interval, mean_of, t_quantile
from assayer.core.stats.verdicts import Margin

Floats = NDArray[np.float64]

LACK_OF_FIT = 0.05
"""A shape whose lack of fit has a smaller p than this is not drawn."""
BOOTSTRAPS = 2000
_VERTICES = 401
"""Places of a plateau's edge that are tried before the best is refined."""
_INSIDE = 5e-4
"""Share of the range that a plateau's edge stays away from the ends: on them it would be a quadratic."""


class Shape(StrEnum):
    STRAIGHT = "straight"
    QUADRATIC = "quadratic"
    PEAK = "peak"
    """Quadratic in the logarithm of the setting."""
    PLATEAU = "plateau"
    """Quadratic up to, or from, its vertex and constant beyond."""


_COEFFICIENTS = {Shape.STRAIGHT: 2, Shape.QUADRATIC: 3, Shape.PEAK: 3, Shape.PLATEAU: 3}


@dataclass(frozen=True, slots=True)
class Curve:
    """A fitted shape; `at` gives its value at settings."""

    shape: Shape
    rss: float
    aicc: float
    lack_of_fit_p: float
    coefficients: tuple[float, ...]
    """Of 1, x, x² (PEAK: of ln x; PLATEAU: a, b and the vertex, beyond which it is constant)."""
    rising: bool = True
    """Of a plateau: constant above the vertex, not below it."""

    def at(self, x: Floats) -> Floats:
        if self.shape is Shape.PLATEAU:
            a, b, vertex = self.coefficients
            return np.asarray(a + b * _beyond(x, vertex, self.rising), np.float64)
        u = np.log(x) if self.shape is Shape.PEAK else x
        return np.asarray(sum(c * u**i for i, c in enumerate(self.coefficients)), np.float64)

    @property
    def vertex(self) -> float | None:
        """Where a quadratic or a peak turns; None for other shapes and where it is straight."""
        if self.shape not in (Shape.QUADRATIC, Shape.PEAK) or self.coefficients[2] == 0:
            return None
        place = -self.coefficients[1] / (2 * self.coefficients[2])
        return math.exp(min(place, 700.0)) if self.shape is Shape.PEAK else place


@dataclass(frozen=True, slots=True)
class Level:
    """One level of the setting; `loss` against the best level's mean, `loss_limit` its one-sided 95 % limit, in the response's unit."""

    x: float
    n: int
    mean: float
    loss: float
    loss_limit: float
    in_window: bool


@dataclass(frozen=True, slots=True)
class Optimum:
    """Where the chosen curve turns, with its bootstrap interval; `inside` only where that is its best point, within the levels."""

    x: float
    interval: Interval | None
    inside: bool


@dataclass(frozen=True, slots=True)
class Sweep:
    """What a sweep says.

    Attributes
    ----------
    curves : dict of Shape to Curve
        Every shape that could be fitted.
    chosen : Shape or None
        None where every shape shows lack of fit: no curve is drawn, and the result rests on the levels.
    optimum : Optimum or None
        Where the chosen curve turns; it is the best setting only where it is `inside`.
    pure_error_sd : float
        Scatter within levels.
    """

    curves: dict[Shape, Curve]
    chosen: Shape | None
    optimum: Optimum | None
    best_level: float
    levels: tuple[Level, ...]
    pure_error_sd: float
    margin: float


def sweep(x: Sequence[float], y: Sequence[float], margin: Margin | None = None, lower_is_better: bool = False, seed: int = 1) -> Sweep:
    """Fit the shapes of a response to a setting and find the window of levels as good as the best.

    Parameters
    ----------
    x, y : sequence of float, shape (n,)
        Setting and response of each specimen.
    margin : Margin, optional
        The loss that does not matter; a share is of the best level's mean. Default: 10 %.
    lower_is_better : bool
    seed : int
        Of the bootstrap of the optimum.

    Raises
    ------
    EntryError
        With fewer than three levels, without a replicate, or where nothing scatters.
    """
    groups = _grouped(x, y)
    xs, ys = np.asarray(x, np.float64), np.asarray(y, np.float64)
    free = len(ys) - len(groups)
    ss_pure = math.fsum(math.fsum((v - mean_of(own)) ** 2 for v in own) for own in groups.values())
    if ss_pure == 0:
        raise EntryError("no scatter within the levels: enter values as read, from different specimens", "y")
    pure = math.sqrt(ss_pure / free)
    curves = {shape: fitted for shape in Shape if (fitted := _fit(shape, xs, ys, len(groups), ss_pure)) is not None}
    fits = [c for c in curves.values() if c.lack_of_fit_p >= LACK_OF_FIT]
    chosen = min(fits, key=lambda c: c.aicc) if fits else None
    sign = -1.0 if lower_is_better else 1.0
    means = {level: mean_of(own) for level, own in groups.items()}
    best = max(means, key=lambda level: sign * means[level])
    allowed = _absolute(margin or Margin(0.10), means[best])
    t = t_quantile(0.95, free)
    levels = []
    for level, own in groups.items():
        loss = sign * (means[best] - means[level])
        limit = 0.0 if level == best else loss + t * pure * math.sqrt(1 / len(own) + 1 / len(groups[best]))
        levels.append(Level(level, len(own), means[level], loss, limit, limit <= allowed))
    optimum = None if chosen is None else _optimum(chosen, xs, ys, sign, seed)
    return Sweep(curves, None if chosen is None else chosen.shape, optimum, best, tuple(levels), pure, allowed)


def _grouped(x: Sequence[float], y: Sequence[float]) -> dict[float, list[float]]:
    groups: dict[float, list[float]] = defaultdict(list)
    for level, value in sorted(zip(x, y, strict=True)):
        groups[float(level)].append(float(value))
    if len(groups) < 3:
        raise EntryError(f"a sweep needs at least three levels, but there {'is one' if len(groups) == 1 else f'are {len(groups)}'}", "x")
    if all(len(own) == 1 for own in groups.values()):
        raise EntryError("every level has one value: repeat levels, so that the scatter is known", "x")
    return groups


def _absolute(margin: Margin, best: float) -> float:
    return margin.value * abs(best) if margin.relative else margin.value


def _beyond(x: Floats, vertex: float, rising: bool) -> Floats:
    """Squared distance to the vertex on the side where a plateau bends; 0 where it is constant."""
    return np.asarray((np.minimum(x - vertex, 0) if rising else np.maximum(x - vertex, 0)) ** 2, np.float64)


def _fit(shape: Shape, x: Floats, y: Floats, levels: int, ss_pure: float) -> Curve | None:
    """One shape by least squares; None where there are fewer than its coefficients + 2 levels, or its logarithm has none."""
    coefficients = _COEFFICIENTS[shape]
    n = len(y)
    parameters = coefficients + 1
    if levels < coefficients + 2 or n - parameters - 1 <= 0 or (shape is Shape.PEAK and float(x.min()) <= 0):
        return None
    rising = True
    if shape is Shape.PLATEAU:
        fitted, rss, rising = _plateau(x, y)
    else:
        fitted, rss = _polynomial(np.log(x) if shape is Shape.PEAK else x, y, coefficients - 1)
    rss = max(rss, ss_pure)
    # [1], with the constant left out as METHODS 15 does
    aicc = n * math.log(rss / n) + 2 * parameters + 2 * parameters * (parameters + 1) / (n - parameters - 1)
    f = (rss - ss_pure) / (levels - coefficients) / (ss_pure / (n - levels))
    p = float(special.fdtrc(levels - coefficients, n - levels, f))
    return Curve(shape, rss, aicc, p, fitted, rising)


def _polynomial(u: Floats, y: Floats, degree: int) -> tuple[tuple[float, ...], float]:
    """Coefficients from the constant upwards, and the residual sum of squares."""
    middle, scale = float(u.mean()), float(np.ptp(u)) or 1.0
    fitted = np.polynomial.Polynomial.fit(u, y, degree, domain=[middle - scale, middle + scale])
    residuals = y - fitted(u)
    coefficients = np.zeros(degree + 1)
    plain = fitted.convert().coef
    coefficients[: len(plain)] = plain
    return tuple(coefficients.tolist()), float(residuals @ residuals)


def _plateau(x: Floats, y: Floats) -> tuple[tuple[float, ...], float, bool]:
    """The plateau of least squares: its vertex is looked for between the lowest and the highest level, on either side."""
    from scipy.optimize import minimize_scalar

    best: tuple[float, float, bool] | None = None
    inset = _INSIDE * float(np.ptp(x))
    grid = np.linspace(float(x.min()) + inset, float(x.max()) - inset, _VERTICES)
    for rising in (True, False):
        rss_at = _plateau_rss(x, y, rising)
        sums = [rss_at(v) for v in grid.tolist()]
        i = int(np.argmin(sums))
        low, high = float(grid[max(i - 1, 0)]), float(grid[min(i + 1, _VERTICES - 1)])
        refined = minimize_scalar(rss_at, bounds=(low, high), method="bounded", options={"xatol": 1e-10 * float(np.ptp(x))})
        vertex, rss = min((float(grid[i]), sums[i]), (float(refined.x), float(refined.fun)), key=lambda pair: pair[1])
        if best is None or rss < best[1]:
            best = (vertex, rss, rising)
    assert best is not None
    vertex, rss, rising = best
    (a, b), _ = _polynomial(_beyond(x, vertex, rising), y, 1)
    return (a, b, vertex), rss, rising


def _plateau_rss(x: Floats, y: Floats, rising: bool) -> Callable[[float], float]:
    centred = y - y.mean()
    total = float(centred @ centred)

    def rss(vertex: float) -> float:
        u = _beyond(x, vertex, rising)
        u = u - u.mean()
        spread = float(u @ u)
        return total if spread == 0 else total - float(u @ centred) ** 2 / spread

    return rss


def _optimum(chosen: Curve, x: Floats, y: Floats, sign: float, seed: int) -> Optimum | None:
    """Where a quadratic or a peak turns; with an interval where that is its best point and lies within the levels."""
    vertex = chosen.vertex
    if vertex is None:
        return None
    low, high = float(x.min()), float(x.max())
    if sign * chosen.coefficients[2] >= 0 or not low <= vertex <= high:
        return Optimum(vertex, None, inside=False)
    rng = np.random.default_rng(seed)
    vertices = []
    places = [np.flatnonzero(x == level) for level in np.unique(x)]
    u = np.log(x) if chosen.shape is Shape.PEAK else x
    basis = np.linalg.pinv(np.stack([np.ones_like(u), u, u * u], axis=1))
    for _ in range(BOOTSTRAPS):
        drawn = y.copy()
        for own in places:
            drawn[own] = y[rng.choice(own, len(own))]
        _, slope, bend = (basis @ drawn).tolist()
        # a draw that does not drawn_vertex is best at one end
        drawn_vertex = -slope / (2 * bend) if sign * bend < 0 else math.copysign(math.inf, sign * slope)
        vertices.append(min(max(math.exp(min(drawn_vertex, 700.0)) if chosen.shape is Shape.PEAK else drawn_vertex, low), high))
    ends = np.quantile(vertices, [0.025, 0.975]).tolist()
    return Optimum(vertex, Interval(ends[0], ends[1]), inside=True)
