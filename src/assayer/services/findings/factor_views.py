"""Effects of factors and sweeps as they are answered."""

from __future__ import annotations

from assayer.services.views import Pair2, QuantityView, View


class FactorView(View):
    name: str
    levels: list[str]
    """The first is the one that the others are held against."""


class CellMean(View):
    """One combination of levels, in the order of the factors."""

    arm_id: str
    levels: list[str]
    n: int
    mean: float
    ci95: Pair2 | None


class FactorEffect(View):
    """A main effect, or (of several factors) an interaction: levels less those they are held against."""

    factors: list[str]
    levels: list[str]
    against: list[str]
    difference: float
    ci95: Pair2 | None
    p: float | None
    stands_out: bool
    """Its interval excludes 0; without replicates, it is beyond Lenth's limit."""
    matters: bool
    """It is greater than the difference that matters."""
    aliases: list[str]


class SweepLevel(View):
    x: float
    n: int
    mean: float
    loss: float
    """Against the best level."""
    loss_limit: float
    """Its one-sided 95 % limit."""
    in_window: bool


class SweepView(View):
    """A response against one setting."""

    setting: str
    label: str
    unit: str
    points: list[Pair2]
    levels: list[SweepLevel]
    best_level: float
    margin: float
    """The loss that is accepted within the window, in the unit of the quantity."""
    chosen: str | None
    """The shape that is drawn; None where every shape shows lack of fit."""
    lack_of_fit: dict[str, float]
    curve: list[Pair2]
    optimum: float | None
    optimum_ci95: Pair2 | None
    maker_window: tuple[float | None, float | None] | None


class FactorsView(View):
    test_id: str
    quantity: QuantityView
    factors: list[FactorView]
    cells: list[CellMean]
    effects: list[FactorEffect]
    stands_out_from: float | None
    """Lenth's limit, of a design without replicates."""
    reason: str
    """Why there are no effects, where there could be."""
    sweep: SweepView | None
