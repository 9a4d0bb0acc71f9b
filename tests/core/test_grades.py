"""Graded traits: the median of the graders, agreement of orders, and when two sets of prints are graded clearly apart."""

from itertools import combinations

import numpy as np
import pytest
from scipy import stats

from assayer.core.errors import EntryError
from assayer.core.methods import REGISTRY
from assayer.core.methods.graded import GradedProtocol
from assayer.core.methods.inputs import Entry, Inputs
from assayer.core.methods.traits import TRAITS
from assayer.core.stats.grades import CLEAR, clearly_apart, kendall_w, mid_ranks
from assayer.formats.readings.run_file import read_run, schema_of

GRADED = REGISTRY["graded"]


def test_kendalls_example_of_the_methods():
    assert kendall_w([[1, 2, 3, 4], [2, 1, 3, 4], [1, 3, 2, 4]]) == pytest.approx(0.77778, abs=5e-6)
    assert kendall_w([[1, 2, 3]] * 4) == pytest.approx(1.0)
    assert kendall_w([[1, 2, 3], [3, 2, 1]]) == pytest.approx(0.0)
    assert kendall_w([[1], [1]]) == 1.0


def test_equal_grades_share_their_ranks():
    for grades in ([3, 1, 3, 4], [2, 2, 2], [0, 4, 1, 1, 1, 3]):
        assert mid_ranks(grades) == stats.rankdata(grades).tolist()


def by_hand(first, second):
    """The same test, every way of every grader counted one by one."""
    totals, seen, centre = [0.0], 0.0, 0.0
    for grader in first:
        ranks = stats.rankdata([*first[grader], *second[grader]])
        n = len(first[grader])
        seen += ranks[:n].sum()
        centre += n * ranks.mean()
        totals = [t + ranks[list(c)].sum() for t in totals for c in combinations(range(len(ranks)), n)]
    return float(np.mean(np.abs(np.array(totals) - centre) >= abs(seen - centre) - 1e-9))


@pytest.mark.parametrize("seed", range(8))
def test_the_permutation_test_is_that_of_counting(seed):
    rng = np.random.default_rng(seed)
    first = {g: rng.integers(0, 5, 4).tolist() for g in "ab"}
    second = {g: np.clip(rng.integers(0, 5, 3) + seed % 3, 0, 4).tolist() for g in "ab"}
    assert clearly_apart(first, second) == pytest.approx(by_hand(first, second), abs=1e-12)


def test_one_grader_is_the_exact_rank_sum_test():
    high, low = [4, 4, 3, 3, 4], [1, 2, 0, 1, 2]
    expected = stats.permutation_test(
        (high, low), lambda x, y: np.mean(stats.rankdata([*x, *y])[: len(x)]), permutation_type="independent", n_resamples=np.inf, alternative="two-sided"
    )
    assert clearly_apart({"a": high}, {"a": low}) == pytest.approx(expected.pvalue)
    assert clearly_apart({"a": high}, {"a": low}) == pytest.approx(2 / 252)


def test_more_graders_see_more_and_whoever_graded_one_side_only_does_not_count():
    one = clearly_apart({"a": [4, 3, 4]}, {"a": [2, 1, 2]})
    two = clearly_apart({"a": [4, 3, 4], "b": [3, 4, 3]}, {"a": [2, 1, 2], "b": [1, 2, 2]})
    assert one == pytest.approx(0.1)
    assert two == pytest.approx(2 / 400)
    assert one > CLEAR > two
    assert clearly_apart({"a": [4, 3, 4], "b": [0, 0]}, {"a": [2, 1, 2]}) == pytest.approx(one)
    assert clearly_apart({"a": [4]}, {"b": [1]}) is None
    assert clearly_apart({"a": [3, 3]}, {"a": [3, 3]}) is None
    assert clearly_apart({"a": [3, 4, 3]}, {"a": [3, 4, 3]}) == pytest.approx(1.0)
    assert clearly_apart({"a": [4, 3, 4]}, {"a": [2, 1, 2]}) == clearly_apart({"a": [2, 1, 2]}, {"a": [4, 3, 4]})


def test_many_prints_are_drawn_and_the_draw_is_the_same_again():
    rng = np.random.default_rng(1)
    first, second = {"a": rng.integers(2, 5, 14).tolist()}, {"a": rng.integers(0, 3, 14).tolist()}
    p = clearly_apart(first, second, seed=3)
    assert p == clearly_apart(first, second, seed=3)
    assert p < 0.01
    near = first["a"][:7] + [2] * 7
    ranks = stats.rankdata([*first["a"], *near])
    way = stats.permutation_test((ranks[:14], ranks[14:]), lambda x, y: x.mean() - y.mean(), n_resamples=20_000, rng=5)
    assert clearly_apart({"a": first["a"]}, {"a": near}, seed=3) == pytest.approx(way.pvalue, abs=0.02)


def graded(*grades, **more):
    return GRADED.reduce(Inputs([Entry(t, g, 0, about=who) for t, who, g in grades], **more))


def test_the_median_counts_and_disagreement_is_shown():
    found = graded(("surface", "Ilse", 4), ("surface", "Tomas", 2), ("surface", "Ole", 3), ("sheen", "Ilse", 1), ("sheen", "Tomas", 2))
    assert {r.key: r.value for r in found.results} == {"median@surface": 3, "disagreement@surface": 2, "median@sheen": 1.5, "disagreement@sheen": 1}
    assert found.warnings == ["surface finish: the graders are 2 steps apart, look at it together"]
    assert found.results[0].as_dict()["trait"] == "surface"
    assert GRADED.quantity("median@surface").good_side == "higher"
    assert (GRADED.quantity("median@sheen").good_side, GRADED.quantity("median@sheen").label) == ("none", "sheen")
    assert GRADED.quantity("disagreement@sheen").label == "sheen, graders apart by"
    assert GRADED.main_of(GradedProtocol(("sheen", "surface"))) == "median@sheen"


@pytest.mark.parametrize(
    "grades, words",
    [
        ([("surface", "Ilse", 2.5)], "a whole step from 0 to 4"),
        ([("surface", "Ilse", 5)], "a whole step from 0 to 4"),
        ([("surface", None, 3)], "each grade says whose it is"),
        ([], "grade at least one trait"),
    ],
)
def test_what_is_no_grade_is_refused(grades, words):
    with pytest.raises(EntryError, match=words):
        graded(*grades)


def test_traits_are_written_out_and_a_protocol_names_them():
    assert all(len(t.steps) == 5 and len(set(t.steps)) == 5 for t in TRAITS)
    assert len({t.name for t in TRAITS}) == len(TRAITS)
    for wrong in ((), ("surface", "surface"), ("colour",)):
        with pytest.raises(EntryError) as error:
            GradedProtocol.read({"traits": list(wrong)}, "x")
        assert error.value.field == "traits"
    with pytest.raises(EntryError, match="no quantity"):
        GRADED.quantity("median@colour")


def test_grades_in_the_open_format():
    told = {"grades": {"stringing": [{"grader": "A", "grade": 4}, {"grader": "B", "grade": "2"}], "odour": [{"grader": "A", "grade": 0}]}}
    assert {r.key: r.value for r in read_run(told, "graded").reduce().results}["median@stringing"] == 3
    for wrong, words in (
        ({"grades": []}, "an object: the grades by trait"), ({"grades": {"colour": []}}, "no trait 'colour'"), ({"grades": {"odour": 3}}, "the grades are a list"),
        ({"grades": {"odour": [{"grade": 3}]}}, "must have grader and grade"),
    ):  # fmt: skip
        with pytest.raises(EntryError, match=words):
            read_run(wrong, "graded").reduce()
    assert schema_of(GRADED)["properties"]["readings"]["properties"]["grades"]["properties"]["sheen"]["items"]["required"] == ["grader", "grade"]
