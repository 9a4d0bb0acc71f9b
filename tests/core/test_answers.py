"""Differences as percentages and factors, what the usual scatter says of too few, and the answer in words."""

import math

import pytest
from scipy import stats

from assayer.core.statements.answer import ArmResult, Comparison, answer
from assayer.core.stats.groups import GroupSummary, Interval, summarise
from assayer.core.stats.relative import Provisional, Relative, provisional, relative_to
from assayer.core.stats.verdicts import GoodSide, Verdict, VerdictWord

A, B = [18.2, 17.1, 19.0, 16.8, 18.5], [21.4, 22.0, 19.9, 20.7, 22.6]


def test_a_factor_has_its_interval_on_the_log_scale_at_the_level_of_the_verdicts():
    a, b = summarise(A), summarise(B)
    for k in (1, 4):
        found = relative_to(a, b, k)
        va, vb = (g.sd**2 / 5 / g.mean**2 for g in (a, b))
        df = (va + vb) ** 2 / (va**2 / 4 + vb**2 / 4)
        half = stats.t.ppf(1 - 0.025 / k, df) * math.sqrt(va + vb)
        assert found.factor == pytest.approx(b.mean / a.mean)
        assert (found.ci95.low, found.ci95.high) == pytest.approx((found.factor * math.exp(-half), found.factor * math.exp(half)))
    assert relative_to(a, summarise([5.0])) == Relative(5 / a.mean, None)
    assert relative_to(a, summarise([-1.0, -2.0])) is None
    assert relative_to(summarise([0.0, 0.0]), b) is None


@pytest.mark.parametrize("n, k", [(1, 1), (2, 1), (2, 4)])
def test_the_usual_scatter_stands_in_for_a_group_of_two_or_fewer(n, k):
    reference, group = summarise(A), summarise([20.0, 21.0][:n])
    found = provisional(reference, group, 0.06, ratio_scale=True, comparisons=k)
    own, usual = reference.sd**2 / 5, (0.06 * group.mean) ** 2 / n
    df = (own + usual) ** 2 / (own**2 / 4)
    half = stats.t.ppf(1 - 0.025 / k, df) * math.sqrt(own + usual)
    assert found.difference == pytest.approx(group.mean - reference.mean)
    assert (found.ci95.low, found.ci95.high) == pytest.approx((found.difference - half, found.difference + half))
    logs = [own / reference.mean**2, usual / group.mean**2]
    half = stats.t.ppf(1 - 0.025 / k, sum(logs) ** 2 / (logs[0] ** 2 / 4)) * math.sqrt(sum(logs))
    assert found.relative.ci95.high / found.relative.factor == pytest.approx(math.exp(half))
    assert found.relative.factor / found.relative.ci95.low == pytest.approx(math.exp(half))


def test_two_small_groups_rest_on_the_usual_scatter_alone_in_the_unit_where_there_is_no_ratio_scale():
    found = provisional(summarise([60.0], ratio_scale=False), summarise([66.0, 68.0], ratio_scale=False), 2.0, ratio_scale=False)
    half = stats.norm.ppf(0.975) * 2.0 * math.sqrt(1 + 1 / 2)
    assert (found.relative, found.difference) == (None, 7)
    assert (found.ci95.low, found.ci95.high) == pytest.approx((7 - half, 7 + half))


def test_of_a_reference_at_nothing_there_is_no_factor():
    assert provisional(summarise([0.0]), summarise([2.0]), 0.06, ratio_scale=True).relative is None


def judged(name, word, factor=None, ends=None, difference=None, n=5, more=None, **rest):
    difference = difference if difference is not None else 10 * ((factor or 1) - 1)
    verdict = Verdict(name, difference, Interval(difference - 1, difference + 2), None, VerdictWord(word), 1.0, more_specimens=more)
    relative = None if factor is None else Relative(factor, None if ends is None else Interval(*ends))
    return ArmResult(name, n, 10 + difference, verdict, relative, **rest)


OF = Comparison("strength", "MPa", GoodSide.HIGHER, "Ref", margin_share=0.1)


def said(arms, of=OF):
    return [(s.says.value, s.text) for s in answer(of, arms)]


def test_what_leads_comes_first_then_what_else_differs_is_alike_or_open():
    arms = [
        judged("Mid", "better", 1.2, (1.05, 1.32), at_least=True), judged("Top", "better", 1.5, (1.32, 1.67)), judged("Low", "worse", 0.73, (0.68, 0.79)),
        judged("Same", "equivalent", 1.01), judged("Open", "undecided", 1.1, more=4), judged("Wide", "undecided", 1.1),
    ]  # fmt: skip
    assert said(arms) == [
        ("leads", "Top has the highest strength: 50 % more [32, 67] than Ref."),
        ("better", "Mid has at least 20 % more [5, 32]."),
        ("worse", "Low has 27 % less [21, 32]."),
        ("alike", "Same and Ref are alike within 10 %."),
        ("undecided", "Open and Wide may be like Ref or not: 4 more of each would tell for some."),
    ]


def test_a_leader_that_cannot_be_told_from_the_next_says_so():
    arms = [judged("Top", "better", 1.5), judged("Mid", "better", 1.4), judged("Third", "better", 1.3)]
    of = Comparison("strength", "MPa", GoodSide.HIGHER, "Ref", {frozenset(("Top", "Mid")), frozenset(("Top", "Third")), frozenset(("Mid", "Third"))})
    assert said(arms, of)[0][1] == "Top has the highest strength: 50 % more than Ref. It cannot be told from Mid or Third."
    assert said(arms)[0][1] == "Top has the highest strength: 50 % more than Ref."


def test_where_less_is_better_the_lowest_leads():
    of = Comparison("creep", "mm", GoodSide.LOWER, "Ref")
    arms = [judged("Bad", "worse", 1.84, (1.5, 2.2)), judged("Good", "better", 0.65, (0.6, 0.7)), judged("Best", "better", 0.5)]
    assert [text for _, text in said(arms, of)] == [
        "Best has the lowest creep: 50 % less than Ref.", "Good has 35 % less [30, 40].", "Bad has 84 % more [50, 120].",
    ]  # fmt: skip


def test_the_reference_leads_only_where_all_others_are_decided_to_be_worse():
    worse = judged("Low", "worse", 0.8, (0.7, 0.9))
    assert said([worse]) == [("reference leads", "Ref has the highest strength of all."), ("worse", "Low has 20 % less [10, 30] than Ref.")]
    assert [s for s, _ in said([worse, judged("Open", "undecided", 1.0)])] == ["worse", "undecided"]
    assert said([worse, judged("Same", "equivalent", 1.0)]) == [
        ("worse", "Strength: Low has 20 % less [10, 30] than Ref."), ("alike", "Same and Ref are alike within 10 %."),
    ]  # fmt: skip
    assert (
        said([judged("line 0.4 mm", "equivalent", 1.0), judged("B", "equivalent", 1.0)])[0][1]
        == "Strength: line 0.4 mm and B are each alike with Ref within 10 %."
    )


def test_where_a_percentage_has_no_meaning_the_unit_is_named_and_small_ends_keep_their_side():
    of = Comparison("onset of sag", "°C", GoodSide.HIGHER, "Ref")
    assert said([judged("Top", "better", difference=6.0)], of) == [("leads", "Top has the highest onset of sag: 6.00 °C higher [5.00, 8.00] than Ref.")]
    assert said([judged("Low", "worse", difference=-6.0)], of)[1] == ("worse", "Low is 6.00 °C lower [4.00, 7.00] than Ref.")
    assert said([judged("Top", "better", 1.12, (0.996, 1.26))])[0][1] == "Top has the highest strength: 12 % more [−0.4, 26] than Ref."
    assert said([judged("Top", "better", 1.045, (1.02, 1.07))])[0][1] == "Top has the highest strength: 4.5 % more [2, 7] than Ref."


def test_too_few_specimens_give_a_provisional_difference_and_no_verdict():
    few = Provisional(2.0, Interval(-1, 5), Relative(1.2, Interval(0.9, 1.5)))
    assert said([judged("One", "no verdict", 1.2, n=1, provisional=few)]) == [
        ("provisional", "Strength: One: 20 % more [−10, 50] than Ref, provisional: usual scatter of this test, n 1.")
    ]
    in_unit = Provisional(-2.0, Interval(-5, 1), None)
    assert said([judged("line 0.4 mm", "no verdict", n=2, provisional=in_unit)])[0][1] == (
        "Strength: line 0.4 mm: 2.00 MPa lower [−1.00, 5.00] than Ref, provisional: usual scatter of this test, n 2."
    )
    assert said([judged("Two", "better", 1.2, provisional=few)]) == [("leads", "Two has the highest strength: 20 % more than Ref.")], (
        "decided: nothing provisional"
    )


def test_a_group_of_the_reference_may_be_the_small_one():
    small, large = summarise([18.0]), summarise(B)
    assert isinstance(small, GroupSummary)
    found = provisional(small, large, 0.06, ratio_scale=True)
    usual, own = (0.06 * 18) ** 2, large.sd**2 / 5
    half = stats.t.ppf(0.975, (own + usual) ** 2 / (own**2 / 4)) * math.sqrt(own + usual)
    assert found.ci95.high - found.difference == pytest.approx(half)
