"""METHODS 2 and 13 to the digits shown there, against SciPy where it has the same, and as properties."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.testing import assert_allclose
from scipy import stats

from assayer.core.errors import EntryError
from assayer.core.methods.derived import LAYER_RATIO
from assayer.core.ranking.estimates import pooled_sd
from assayer.core.stats import studentized_range
from assayer.core.stats.groups import MeanError, summarise
from assayer.core.stats.outliers import grubbs
from assayer.core.stats.scatter import pooled_scatter, scatter_part
from assayer.core.stats.several_groups import games_howell, welch_anova
from assayer.core.stats.verdicts import DIRECTION_ONLY, GoodSide, GroupBounds, Margin, decide
from assayer.notebook import compare

# METHODS 13
A = [18.2, 17.1, 19.0, 16.8, 18.5]
B = [21.4, 22.0, 19.9, 20.7, 22.6]
C = [17.5, 18.9, 18.1, 16.4]
D = [25.8, 31.2, 22.4, 28.9, 27.1, 24.6]
FOUR = {name: summarise(v) for name, v in zip("ABCD", (A, B, C, D), strict=True)}


def ends(interval):
    return interval.low, interval.high


def test_welch_anova():
    found = welch_anova(FOUR)
    assert_allclose((found.f, found.df1, found.df2), (20.541, 3, 8.6143), rtol=5e-5)
    assert_allclose(found.p, 2.861e-4, rtol=5e-4)


@pytest.mark.parametrize(
    "pair, difference, low, high, p_as_shown",
    [("AB", 3.4000, 1.36534, 5.43466, "0.0031108"), ("AC", -0.1950, -2.50626, 2.11626, "0.99068"), ("BD", 5.34667, 0.70502, 9.98832, "0.0272405")],
)
def test_games_howell(pair, difference, low, high, p_as_shown):
    found = next(x for x in games_howell(FOUR) if x.a + x.b == pair)
    assert_allclose((found.difference, *ends(found.ci95)), (difference, low, high), atol=6e-6)
    assert f"{found.p:.{len(p_as_shown) - 2}f}" == p_as_shown


@pytest.mark.parametrize("k", [2, 3, 8, 40])
@pytest.mark.parametrize("df", [1.0, 1.7, 2.99, 6.0718, 40.0, 3000.0])
def test_studentized_range_agrees_with_scipy(k, df):
    q = np.array([0.2, 1.0, 2.5, 3.6, 5.0, 9.0, 30.0])
    assert_allclose(studentized_range.survival(q, k, df), stats.studentized_range.sf(q, k, df), atol=1e-7)
    quantile = studentized_range.upper_quantile(0.05, k, [df])
    assert_allclose(stats.studentized_range.sf(quantile, k, df), 0.05, atol=1e-7)


def test_reading_step_is_the_least_scatter():
    """60 60 60 °C, r 5 → ± 3.5855"""
    found = summarise([60, 60, 60], reading_step=5, ratio_scale=False)
    assert round(found.ci95.high - 60, 4) == 3.5855
    assert found.cv is None


def test_layer_ratio():
    """METHODS 2: 0.42953, 0.40270 … 0.45814 (df 6.0718)"""
    found = LAYER_RATIO.ratio(summarise(A), summarise([41.2, 42.6, 40.1, 43.0, 41.7]))
    assert_allclose((found.ratio, *ends(found.ci95)), (0.42953, 0.40270, 0.45814), atol=6e-6)
    assert round(found.df, 4) == 6.0718
    assert LAYER_RATIO.ratio(summarise([18.0]), summarise([41.2, 42.6])).ci95 is None
    assert LAYER_RATIO.ratio(summarise([-1.0, 1.0]), summarise([41.2, 42.6])) is None, "a ratio needs two means above 0"


def test_grubbs():
    """D: G 1.4488 < 1.8871"""
    hint = grubbs(D)
    assert (round(hint.g, 4), round(hint.critical, 4), hint.stands_out) == (1.4488, 1.8871, False)
    assert grubbs([1, 1.02, 0.99, 1.01, 0.98, 9]).stands_out
    assert grubbs([5, 5, 5]) is None


def test_verdicts_against_one_reference():
    """A vs C alone with two margins; B, C, D against A; creep, where lower is better."""
    alone = decide(FOUR["A"], {"C": FOUR["C"]}, Margin(1.792, relative=False))[0]
    assert alone.word == "equivalent"
    assert_allclose(ends(alone.ci90), (-1.49673, 1.10673), atol=6e-6)
    assert round(alone.p_equivalence, 6) == 0.027117
    narrow = decide(FOUR["A"], {"C": FOUR["C"]}, Margin(0.896, relative=False))[0]
    assert (narrow.word, narrow.more_specimens) == ("undecided", 8)
    b, c, d = decide(FOUR["A"], {k: FOUR[k] for k in "BCD"})
    assert (b.word, c.word, d.word) == ("better", "undecided", "better")
    assert_allclose(ends(b.ci95), (1.48325, 5.31675), atol=6e-6)
    assert_allclose(ends(c.ci90), (-2.03197, 1.64197), atol=6e-6)
    creep = decide(summarise([1.46, 1.52, 1.49, 1.55, 1.43]), {"x": summarise([1.21, 1.28, 1.25, 1.19, 1.30])}, good_side=GoodSide.LOWER)[0]
    assert creep.word == "better"
    assert_allclose((creep.difference, *ends(creep.ci95)), (-0.24400, -0.31226, -0.17574), atol=6e-6)


def test_more_specimens_is_the_least_number_that_decides():
    """Against a plain search that repeats the whole decision with grown groups."""
    reference, group = summarise([40, 44, 41, 43]), summarise([43, 46, 42, 47])
    found = decide(reference, {"x": group})[0].more_specimens

    def decided(added):
        import dataclasses

        grown = [dataclasses.replace(g, n=g.n + added, error=MeanError(g.sd**2 / (g.n + added), g.n + added - 1)) for g in (reference, group)]
        return decide(grown[0], {"x": grown[1]})[0].word != "undecided"

    assert found == next(m for m in range(1, 51) if decided(m))


@pytest.mark.parametrize(
    "bounds, reference_bounds, expected",
    [
        (GroupBounds(at_least=1), GroupBounds(), "better"),
        (GroupBounds(), GroupBounds(at_least=1), "undecided"),
        (GroupBounds(at_most=1), GroupBounds(), "undecided"),
    ],
)
def test_a_verdict_that_truer_values_could_overturn_is_withdrawn(bounds, reference_bounds, expected):
    found = decide(FOUR["A"], {"B": FOUR["B"]}, bounds={"B": bounds}, reference_bounds=reference_bounds)[0]
    assert found.word == expected
    assert found.notes == [DIRECTION_ONLY] if expected == "better" else "could overturn" in found.notes[0]


def test_one_value_gives_no_verdict_and_no_percentage_without_a_ratio_scale():
    assert decide(FOUR["A"], {"x": summarise([12.0])})[0].word == "no verdict"
    about_zero = summarise([-0.2, 0.1, 0.3])
    found = decide(about_zero, {"x": summarise([0.4, 0.5, 0.6])})[0]
    assert found.word == "no verdict"
    assert "absolute margin" in found.notes[0]


values = st.lists(st.floats(10, 90).map(lambda v: round(v, 2)), min_size=2, max_size=7)


@given(groups=st.lists(values, min_size=2, max_size=5), data=st.data())
@settings(max_examples=30, deadline=None)
def test_the_order_of_groups_changes_no_verdict(groups, data):
    named = {f"g{i}": v for i, v in enumerate(groups)}
    shuffled = data.draw(st.permutations(list(named)))
    one, other = (compare([v for n in order for v in named[n]], [n for n in order for _ in named[n]], reference="g0") for order in (list(named), shuffled))
    assert {v.group: (v.word, v.more_specimens) for v in one.verdicts} == {v.group: (v.word, v.more_specimens) for v in other.verdicts}


def test_compare_refuses_with_words():
    with pytest.raises(EntryError, match="there is no group 'Z': the groups are a, b"):
        compare([1, 2, 3, 4], ["a", "a", "b", "b"], reference="Z")
    with pytest.raises(EntryError, match="equally long, but got 3 and 2"):
        compare([1, 2, 3], ["a", "b"])
    with pytest.raises(EntryError, match="the margin must be greater than 0"):
        compare([1, 2], ["a", "b"], margin=0.0)
    assert compare([1, 2, 4, 5], ["a", "a", "b", "b"]).warnings == [], "nothing is said of batches that nobody named"
    with pytest.raises(EntryError, match="value 2 of the group is not a finite number"):
        compare([1, float("nan")], ["a", "a"])


def test_a_summary_of_the_largest_and_the_smallest_numbers_is_one():
    assert summarise([1.7e308] * 3).mean == pytest.approx(1.7e308)
    assert summarise([1.7e308] * 3).sd == 0
    wide = summarise([1e200, -1e200, 3e200])
    assert (wide.mean, wide.median, wide.sd, wide.cv) == (pytest.approx(1e200), 1e200, np.inf, None)
    assert summarise([5e-324, 5e-324]).sd == 0


# ---- pooled scatter ------------------------------------------------------------------------------


@given(
    st.lists(st.tuples(st.floats(-200, 200), st.lists(st.floats(-3, 3), min_size=1, max_size=6)), min_size=1, max_size=8),
    st.booleans(),
    st.integers(0, 8),
)
@settings(max_examples=150, deadline=None)
def test_scatter_pooled_in_parts_is_that_of_the_summaries(groups, ratio_scale, cut):
    # readings have decimals; beyond them nothing is left of a square
    own = [[round(level + v, 9) for v in values] for level, values in groups]
    summaries = [summarise(values, 0.0, ratio_scale) for values in own]
    parts = [part for part in (own[:cut], own[cut:]) if part]
    found = pooled_scatter(scatter_part([v for g in part for v in g], [i for i, g in enumerate(part) for _ in g], ratio_scale) for part in parts)
    assert (found.groups, found.n) == (len(own), sum(map(len, own)))
    pooled = pooled_sd(summaries)
    assert (found.sd is None) == (pooled is None)
    if pooled is not None:
        assert found.sd == pytest.approx(pooled[0], rel=1e-9, abs=1e-12)
    # at the very edge of zero rounding decides
    if any(s.ci95 is not None and min(abs(s.ci95.low), abs(s.ci95.high)) < 1e-9 for s in summaries):
        return
    told = [(s.n - 1, s.cv) for s in summaries if s.cv is not None]
    assert (found.cv is None) == (not told)
    if told:
        assert found.cv == pytest.approx((sum(n * cv**2 for n, cv in told) / sum(n for n, _ in told)) ** 0.5, rel=1e-9, abs=1e-12)


@pytest.mark.parametrize("scale", [1e-150, 1e-200, 5e-324, 1e150])
def test_scatter_of_values_at_the_ends_of_the_numbers_is_no_nonsense(scale):
    found = pooled_scatter([scatter_part([scale, scale, scale], [0, 0, 1])])
    assert (found.groups, found.sd, found.cv) == (2, 0, 0)
