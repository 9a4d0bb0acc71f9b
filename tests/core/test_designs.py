"""Designs of several settings: balanced, orthogonal, aliased as their defining relation says, the same for a seed."""

from itertools import combinations

import numpy as np
import pytest

from assayer.core.errors import EntryError
from assayer.core.plan.designs import Design, Factor, central_composite, fractional_factorial, full_factorial, latin_hypercube


def two(k):
    return [Factor(name, (10.0 * i, 10.0 * i + 4)) for i, name in enumerate("ABCDEFGH"[:k])]


def signs(design):
    """−1 at the low and 1 at the high end of each factor, 0 between."""
    ends = np.array([(f.levels[0], f.levels[-1]) for f in design.factors])
    return (np.array(design.runs) - ends.mean(axis=1)) / (np.ptp(ends, axis=1) / 2)


def columns(design):
    """Every main effect and every interaction of two, by their letters."""
    x = signs(design)
    letters = "ABCDEFGH"[: x.shape[1]]
    found = {a: x[:, i] for i, a in enumerate(letters)}
    return found | {a + b: found[a] * found[b] for a, b in combinations(letters, 2)}


@pytest.mark.parametrize("k", [1, 2, 3, 5])
def test_all_combinations_are_orthogonal(k):
    design = full_factorial(two(k))
    assert len(set(design.runs)) == len(design.runs) == 2**k
    every = columns(design)
    for a, b in combinations(every, 2):
        assert every[a] @ every[b] == 0
    assert design.aliases == ()
    assert [run[0] for run in design.runs[:2]] == [0, 4], "the first changes fastest"


def test_levels_may_be_more_than_two():
    design = full_factorial([Factor("fan", (0, 50, 100)), Factor("flow", (95, 100))])
    assert design.runs == ((0, 95), (50, 95), (100, 95), (0, 100), (50, 100), (100, 100))


FRACTIONS = [(3, 1), (4, 1), (5, 1), (5, 2), (6, 1), (6, 2), (6, 3), (7, 2), (7, 3), (7, 4), (8, 3), (8, 4)]


@pytest.mark.parametrize(("k", "p"), FRACTIONS)
def test_a_fraction_is_balanced_and_aliased_as_it_says(k, p):
    design = fractional_factorial(two(k), p)
    assert len(set(design.runs)) == len(design.runs) == 2 ** (k - p)
    every = columns(design)
    mains = [every[name] for name in every if len(name) == 1]
    for a, b in combinations(mains, 2):
        assert a @ b == 0, "main effects are apart"
    together = {frozenset(pair) for row in design.aliases for pair in combinations(row, 2)}
    for a, b in combinations(every, 2):
        assert abs(every[a] @ every[b]) == (len(design.runs) if frozenset((a, b)) in together else 0), (a, b)


def test_the_half_of_three_has_the_aliases_of_the_books():
    assert fractional_factorial(two(3), 1).aliases == (("A", "BC"), ("B", "AC"), ("C", "AB"))
    assert fractional_factorial(two(4), 1).aliases == (("AB", "CD"), ("AC", "BD"), ("AD", "BC"))
    assert fractional_factorial(two(5), 1).aliases == (), "resolution V: nothing of two is hidden"


@pytest.mark.parametrize("k", [2, 3, 4])
def test_a_central_composite_has_corners_faces_and_centre_and_leaves_no_range(k):
    x = signs(central_composite(two(k), 4))
    assert len(x) == 2**k + 2 * k + 4
    assert np.abs(x).max() == 1
    assert (np.abs(x).sum(axis=1) == k).sum() == (2**k if k > 1 else 2)
    assert (np.abs(x).sum(axis=1) == 1).sum() == 2 * k
    assert (np.abs(x).sum(axis=1) == 0).sum() == 4
    squares = np.column_stack([np.ones(len(x)), x, x**2])
    assert np.linalg.matrix_rank(squares) == 1 + 2 * k, "every curvature can be fitted"


@pytest.mark.parametrize("runs", [2, 5, 12])
def test_a_latin_hypercube_takes_each_value_once_and_is_the_same_for_a_seed(runs):
    design = latin_hypercube(two(3), runs, 7)
    for i, factor in enumerate(design.factors):
        assert sorted(run[i] for run in design.runs) == pytest.approx(np.linspace(*factor.levels, runs), rel=1e-5)
    assert latin_hypercube(two(3), runs, 7) == design
    if runs > 2:
        assert latin_hypercube(two(3), runs, 8) != design


@pytest.mark.parametrize(
    ("made", "says", "field"),
    [
        (lambda: Factor("fan", (1.0,)), "two values or more", "fan"),
        (lambda: Factor("fan", (1.0, 1.0)), "each once", "fan"),
        (lambda: full_factorial([]), "one to 8 settings", "factors"),
        (lambda: full_factorial([Factor("fan", (0, 1))] * 2), "there twice", "factors"),
        (lambda: full_factorial(two(6)), "64 arms, at most 60", "factors"),
        (lambda: fractional_factorial(two(4), 2), "halved 1 times, not 2", "halvings"),
        (lambda: fractional_factorial(two(2), 1), "cannot be halved", "halvings"),
        (lambda: fractional_factorial([*two(2), Factor("x", (1, 2, 3))], 1), "x has 3", "x"),
        (lambda: central_composite(two(1)), "two to four", "factors"),
        (lambda: latin_hypercube(two(2), 1, 1), "two runs or more", "runs"),
    ],
)
def test_designs_that_cannot_be(made, says, field):
    with pytest.raises(EntryError, match=says) as error:
        made()
    assert error.value.field == field


def test_sixty_runs_are_the_most():
    assert len(Design((Factor("fan", (0, 1)),), ((0.0,),) * 60).runs) == 60
