"""Plainer, slower computations of the same rules, met on random data.

They follow METHODS 1 and 13 sentence by sentence with loops, and share no code with `core`.
"""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats

from assayer.core.curves.breaking import find_break
from assayer.core.curves.loading import find_strain_zero
from assayer.core.stats.groups import summarise
from assayer.core.stats.several_groups import games_howell, welch_anova
from assayer.core.stats.verdicts import GoodSide, Margin, decide

from .test_tension import pull

curves = st.fixed_dictionaries(
    {
        "strength": st.floats(15, 80),
        "modulus": st.floats(900, 5000),
        "draw": st.sampled_from([0.0, 0.0, 0.02, 0.08]),
        "noise": st.floats(0, 0.08),
        "seed": st.integers(0, 10_000),
        "slack": st.floats(0, 0.02),
        "tail": st.sampled_from([0, 5, 40]),
        "head": st.integers(1, 60),
    }
)


def plain_break(force, strain):
    """ "From where force falls below 40 % of the peak for good, go back to the first sample met that is within
    1 % of the peak of the greatest force in the preceding 0.0005 of strain (at least one sample)." """
    peak = max(force)
    crossing = None
    for i in range(len(force) - 1, -1, -1):
        if force[i] >= 0.4 * peak:
            crossing = i + 1
            break
    if crossing is None or crossing >= len(force):
        return None
    i = crossing
    while i > 0:
        before = [j for j in range(i) if strain[j] >= strain[i] - 0.0005] or [i - 1]
        if i - 1 not in before:
            before.append(i - 1)
        if force[i] >= max(force[j] for j in before) - 0.01 * peak:
            return i
        i -= 1
    return 0


@given(curves)
@settings(max_examples=40, deadline=None)
def test_the_break_is_where_the_rule_says(made):
    strain, stress = pull(**made)
    found = find_break(stress, strain)
    expected = plain_break((stress - found.zero).tolist(), strain.tolist())
    assert found.broken == (expected is not None)
    assert found.row == (expected if expected is not None else stress.size - 1)


@given(curves, st.floats(-20, 20))
@settings(max_examples=25, deadline=None)
def test_the_zero_is_the_median_of_the_tail_or_the_head(made, tare):
    strain, stress = pull(**made)
    found = find_break(stress + tare, strain)
    if made["tail"] >= 40:
        gone = np.flatnonzero(stress >= 0.4 * stress.max())[-1] + 2
        assert found.zero == pytest.approx(np.median((stress + tare)[gone:]), abs=1e-9)
    else:
        # a head of one row is as far off as its own noise, which may be any; rows that rise from it by less than noise cannot be told from it
        assert abs(found.zero - tare) <= 4 * made["noise"] + np.abs(stress[: made["head"]]).max() + 1e-9


@given(curves)
@settings(max_examples=25, deadline=None)
def test_the_toe_line_is_the_steepest_of_all(made):
    """Every window by `polyfit`; the zero is where the steepest line meets zero stress."""
    strain, stress = pull(**made)
    top = int(np.argmax(stress))
    noise = made["noise"]
    found = find_strain_zero(stress, strain, top, noise)
    strength = stress[top]
    below = [i for i in range(top + 1) if stress[i] < max(0.005 * strength, 3 * noise)]
    assert found.load_on == (below[-1] if below else 0)
    end = next(i for i in range(found.load_on, top + 1) if stress[i] >= 0.5 * strength)
    highest, best = -np.inf, None
    running = np.maximum.accumulate(stress[found.load_on : end + 1])
    for i in range(running.size):
        if running[i] < 0.05 * strength:
            continue
        j = next((k for k in range(i, running.size) if running[k] >= running[i] + 0.15 * strength), None)
        j = None if j is None else max(j, i + 5)
        if j is None or j >= running.size:
            continue
        rows = slice(found.load_on + i, found.load_on + j + 1)
        slope, intercept = np.polyfit(strain[rows], stress[rows], 1)
        if slope > highest:
            highest, best = slope, -intercept / slope
    if found.toe is None:
        assert best is None or best < strain[found.load_on] - 0.001
    else:
        assert found.toe.slope == pytest.approx(highest, rel=1e-6)
        assert found.offset == pytest.approx(best, abs=1e-8)


samples = st.lists(st.floats(5, 95).map(lambda v: round(v, 3)), min_size=3, max_size=8).filter(lambda v: np.std(v) > 0.05)


@given(samples, samples)
@settings(max_examples=40, deadline=None)
def test_one_against_one_is_welchs_t(a, b):
    """k = 1 against SciPy's Welch test and its confidence intervals."""
    found = decide(summarise(a), {"b": summarise(b)}, Margin(3.0, relative=False))[0]
    test = stats.ttest_ind(b, a, equal_var=False)
    for ours, level in ((found.ci95, 0.95), (found.ci90, 0.90)):
        theirs = test.confidence_interval(level)
        assert (ours.low, ours.high) == pytest.approx((theirs.low, theirs.high), rel=1e-9, abs=1e-9)
    theirs = test.confidence_interval(0.90)
    inside = theirs.low > -3 and theirs.high < 3
    assert (found.word == "equivalent") == inside
    if not inside:
        assert (found.word in ("better", "worse")) == (test.pvalue < 0.05)


@given(samples, samples, st.floats(0.01, 100))
@settings(max_examples=30, deadline=None)
def test_units_and_directions_change_no_verdict(a, b, factor):
    one = decide(summarise(a), {"b": summarise(b)})[0]
    scaled = decide(summarise([v * factor for v in a]), {"b": summarise([v * factor for v in b])})[0]
    assert (one.word, one.more_specimens) == (scaled.word, scaled.more_specimens)
    turned = decide(summarise(a), {"b": summarise(b)}, good_side=GoodSide.LOWER)[0]
    swap = {"better": "worse", "worse": "better"}
    assert turned.word == swap.get(one.word, one.word)
    plain = decide(summarise(a), {"b": summarise(b)}, good_side=GoodSide.NONE)[0]
    assert plain.word == {"better": "higher", "worse": "lower"}.get(one.word, one.word)


@given(st.lists(samples, min_size=2, max_size=4))
@settings(max_examples=15, deadline=None)
def test_two_groups_agree_with_the_tests_they_generalise(groups):
    """Welch's F of two groups is Welch's t squared; Games–Howell of two groups has its p."""
    a, b = groups[:2]
    named = {"a": summarise(a), "b": summarise(b)}
    test = stats.ttest_ind(a, b, equal_var=False)
    assert welch_anova(named).f == pytest.approx(test.statistic**2, rel=1e-9)
    assert games_howell(named)[0].p == pytest.approx(test.pvalue, abs=1e-7)


@given(samples)
@settings(max_examples=25, deadline=None)
def test_summaries_agree_with_scipy(a):
    found = summarise(a)
    low, high = stats.t.interval(0.95, len(a) - 1, np.mean(a), stats.sem(a))
    assert (found.ci95.low, found.ci95.high) == pytest.approx((low, high), rel=1e-10)
    assert found.median == np.median(a)
    if found.cv is not None:
        assert found.cv == pytest.approx(stats.variation(a, ddof=1))
