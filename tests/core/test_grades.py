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
from assayer.core.stats.grades import CLEAR, Agreement, agreement, compare_grades, holm, kendall_w, mid_ranks
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


def p_of(first, second, **more):
    return compare_grades(first, second, **more).p


def test_the_direction_is_that_of_the_graders_who_saw_both():
    """One saw both and found the first better; another saw only the second side and graded it higher than all."""
    found = compare_grades({"a": [4, 3, 4, 4]}, {"a": [1, 2, 1, 0], "b": [4, 4, 4, 4, 4, 4]})
    assert found.p < CLEAR
    assert found.excess == pytest.approx(26 - 18), "rank sum of the better four of eight, less half of all ranks"


def test_several_arms_share_the_level_step_by_step():
    # Holm 1979: 4, 3, 2 and 1 times the ordered p, never falling
    assert holm({"b": 0.03, "a": 0.01, "c": 0.02, "d": 0.9}) == pytest.approx({"a": 0.04, "c": 0.06, "b": 0.06, "d": 0.9})
    assert holm({}) == {}


def test_ties_are_corrected_for():
    """METHODS 12, computed independently there."""
    assert kendall_w([[1, 2.5, 2.5, 4], [1, 2.5, 2.5, 4], [2, 1, 3, 4]]) == pytest.approx(0.83333, abs=5e-6)
    assert kendall_w([[2, 2, 2], [2, 2, 2]]) == 1.0


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
    assert p_of(first, second) == pytest.approx(by_hand(first, second), abs=1e-12)


def test_one_grader_is_the_exact_rank_sum_test():
    high, low = [4, 4, 3, 3, 4], [1, 2, 0, 1, 2]
    expected = stats.permutation_test(
        (high, low), lambda x, y: np.mean(stats.rankdata([*x, *y])[: len(x)]), permutation_type="independent", n_resamples=np.inf, alternative="two-sided"
    )
    assert p_of({"a": high}, {"a": low}) == pytest.approx(expected.pvalue)
    assert p_of({"a": high}, {"a": low}) == pytest.approx(2 / 252)


def test_more_graders_see_more_and_whoever_graded_one_side_only_does_not_count():
    one = p_of({"a": [4, 3, 4]}, {"a": [2, 1, 2]})
    two = p_of({"a": [4, 3, 4], "b": [3, 4, 3]}, {"a": [2, 1, 2], "b": [1, 2, 2]})
    assert one == pytest.approx(0.1)
    assert two == pytest.approx(2 / 400)
    assert one > CLEAR > two
    assert p_of({"a": [4, 3, 4], "b": [0, 0]}, {"a": [2, 1, 2]}) == pytest.approx(one)
    assert compare_grades({"a": [4]}, {"b": [1]}) is None
    assert compare_grades({"a": [3, 3]}, {"a": [3, 3]}) is None
    assert p_of({"a": [3, 4, 3]}, {"a": [3, 4, 3]}) == pytest.approx(1.0)
    assert p_of({"a": [4, 3, 4]}, {"a": [2, 1, 2]}) == p_of({"a": [2, 1, 2]}, {"a": [4, 3, 4]})


def test_many_prints_are_drawn_and_the_draw_is_the_same_again():
    rng = np.random.default_rng(1)
    first, second = {"a": rng.integers(2, 5, 14).tolist()}, {"a": rng.integers(0, 3, 14).tolist()}
    p = p_of(first, second, seed=3)
    assert p == p_of(first, second, seed=3)
    assert p < 0.01
    near = first["a"][:7] + [2] * 7
    ranks = stats.rankdata([*first["a"], *near])
    way = stats.permutation_test((ranks[:14], ranks[14:]), lambda x, y: x.mean() - y.mean(), n_resamples=20_000, rng=5)
    assert p_of({"a": first["a"]}, {"a": near}, seed=3) == pytest.approx(way.pvalue, abs=0.02)


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


def test_places_in_the_open_format():
    told = {"order": {"stringing": [{"grader": "A", "place": 1}, {"grader": "B", "place": "2.5"}]}, "grades": {"odour": [{"grader": "A", "grade": 0}]}}
    assert {r.key: r.value for r in read_run(told, "graded").reduce().results} == {"place@stringing": 1.75, "median@odour": 0, "disagreement@odour": 0}
    for wrong, words in (
        ({"order": []}, "an object: the places by trait"), ({"order": {"colour": []}}, "no trait 'colour'"), ({"order": {"odour": 3}}, "the places are a list"),
        ({"order": {"odour": [{"grader": "A", "grade": 3}]}}, "place 1 must have grader and place"),
    ):  # fmt: skip
        with pytest.raises(EntryError, match=words):
            read_run(wrong, "graded").reduce()
    order = schema_of(GRADED)["properties"]["readings"]["properties"]["order"]["properties"]["sheen"]["items"]
    assert (order["required"], order["properties"]["place"]) == (["grader", "place"], {"type": "number", "minimum": 1, "multipleOf": 0.5})
    assert "sheen_place" not in schema_of(GRADED)["properties"]["readings"]["properties"]


def test_places_in_an_order_have_their_mean_and_a_good_side():
    found = graded(("surface_place", "Ilse", 1), ("surface_place", "Tomas", 2.5), ("sheen_place", "Ilse", 4), ("surface", "Ole", 3))
    assert {r.key: (r.value, r.unit) for r in found.results if r.key.startswith("place")} == {"place@surface": (1.75, "place"), "place@sheen": (4, "place")}
    assert (GRADED.quantity("place@surface").good_side, GRADED.quantity("place@sheen").good_side) == ("lower", "none")
    assert GRADED.quantity("place@surface").label == "surface finish in order"
    assert (GRADED.graded_by("place@surface"), GRADED.graded_by("median@surface")) == ("surface_place", "surface")
    ordered = GradedProtocol.read({"traits": ["sheen", "surface"], "ordered": 1}, "x")
    assert GRADED.main_of(ordered) == "place@sheen"
    assert (GRADED.label_for("flat", ordered.as_dict()), GRADED.label_for("flat", {}), GRADED.label_for("flat")) == ("Traits in order", *["Graded traits"] * 2)
    for wrong in (0.5, 1.25):
        with pytest.raises(EntryError, match="a place counts from 1, by halves") as error:
            graded(("surface_place", "Ilse", wrong))
        assert error.value.field == "surface_place"
    with pytest.raises(EntryError, match="place by surface finish: each grade says whose it is"):
        graded(("surface_place", None, 1))


def test_agreement_is_over_the_prints_that_all_have_placed():
    orders = {"a": [1, 2, 3, 4], "b": [2, 1, 3, 4], "c": [1, 3, 2, 4]}
    prints = [{g: places[i] for g, places in orders.items()} for i in range(4)]
    assert agreement(prints) == Agreement(pytest.approx(0.77778, abs=5e-6), 3, 4)
    # a print that one of them has not placed is left aside, and the others' places close up
    with_more = [*prints[:1], {"a": 1.5}, *prints[1:]]
    assert agreement(with_more) == agreement(prints)
    assert agreement(prints[:3]).w == pytest.approx(kendall_w([[1, 2, 3], [2, 1, 3], [1, 3, 2]]))
    assert agreement(prints[:2]) is None, "two prints agree by chance"
    assert agreement([{"a": i} for i in range(4)]) is None, "one person agrees with nobody"
    assert agreement([]) is None
