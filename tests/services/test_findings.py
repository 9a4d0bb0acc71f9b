"""Findings of one test through the services: against any arm, in percent and in words, over batches, bounds and exclusions."""

import math

import pytest

from assayer.core.errors import EntryError
from assayer.core.stats.relative import relative_to
from assayer.services.bench import runs
from assayer.services.bench.requests import RunEdit
from assayer.services.findings import one_test
from assayer.services.studies import scatter
from assayer.services.studies.requests import NewTest
from assayer.services.unit import Actor

from ..support import Lab, new_id
from .test_batches_and_bounds import Batched, expected

TOMAS = Actor("Tomas")


@pytest.fixture
def lab(workspace):
    return Batched(workspace)


def of(lab, arm=1, **asked):
    found = one_test.findings(lab.workspace, lab.flat, **asked)
    return found, found.arms[arm]


def test_a_factor_rests_on_the_batches_and_turns_over_with_the_reference(lab):
    lab.fill()
    groups = expected(step=lab_step(lab)).groups
    own = relative_to(groups["P"], groups["Q"])
    found, q = of(lab)
    assert found.reference_arm_id == lab.arms[0]
    assert (q.relative.factor, *q.relative.ci95) == pytest.approx((own.factor, own.ci95.low, own.ci95.high), rel=1e-4)
    assert found.arms[0].relative is None
    # the other way round: the reciprocal, the verdict turned, the study's own reference as it was
    turned = one_test.findings(lab.workspace, lab.flat, reference=lab.arms[1])
    p = turned.arms[0]
    assert (turned.reference_arm_id, turned.study.reference_arm_id) == (lab.arms[1], lab.arms[0])
    assert p.relative.factor == pytest.approx(1 / q.relative.factor)
    assert p.relative.ci95 == pytest.approx((1 / q.relative.ci95[1], 1 / q.relative.ci95[0]))
    assert p.verdict.difference == pytest.approx(-q.verdict.difference)
    with pytest.raises(EntryError, match="no such arm"):
        one_test.findings(lab.workspace, lab.flat, reference=new_id())


def lab_step(lab):
    """Reading step of a strength: 0.1 kgf on 20 mm²."""
    return 0.1 * 9.80665 / 20


def test_the_answer_names_what_leads_and_follows_an_exclusion_by_somebody_else(workspace):
    lab = Batched(workspace)
    lab.pull(0, (40.0, 41.0, 42.0))
    lab.pull(1, (60.0, 61.0, 62.0))
    found, clearwater = of(lab)
    percent = 100 * (61 / 41 - 1)
    assert found.answer[0].text.startswith(f"Hollin Clearwater has the highest strength: {percent:.0f} % more [")
    assert found.answer[0].text.endswith(" than Hollin Everyday.")
    assert found.answer[0].says == "leads"
    for dot in sorted(clearwater.dots, key=lambda d: d.value)[:2]:
        runs.edit_run(workspace, TOMAS, dot.run_id, RunEdit(validity="left_out", validity_reason="slipped"), None)
    found, one = of(lab)
    assert (one.group.n, one.verdict.word, one.relative.ci95) == (1, "no verdict", None)
    # nothing observed of the other arm alone is enough: the usual scatter of the method
    assert one.provisional.relative.factor == pytest.approx(62 / 41, rel=1e-3)
    low, high = one.provisional.relative.ci95
    assert math.sqrt(low * high) == pytest.approx(one.provisional.relative.factor)
    (sentence,) = found.answer
    assert sentence.says == "provisional"
    assert sentence.text.endswith("than Hollin Everyday, provisional: usual scatter of this test, n 1.")


def test_a_lower_bound_is_at_least_in_words_too(workspace):
    lab = Batched(workspace)
    lab.pull(0, (40.0, 40.5, 41.0))
    lab.pull(1, (60.0, 60.5))
    lab.pull(1, (61.0,), outcome="grip")
    found, _ = of(lab)
    assert "has the highest strength: at least 49 % more [" in found.answer[0].text


def test_what_scatters_here_stands_in_for_the_usual_scatter_once_enough_was_seen(workspace):
    lab = Batched(workspace)
    lab.pull(0, (40.0, 41.0, 42.0))
    lab.pull(1, (60.0,))
    width = lambda: math.log(of(lab)[1].provisional.relative.ci95[1] / of(lab)[1].provisional.relative.ci95[0])  # noqa: E731
    usual = width()
    # six values of the other test of the method in two arms: four degrees of freedom, nearly alike
    lab.print_again()
    lab.pull(0, (40.9, 41.0, 41.1))
    seen = next(s for s in scatter.scatter(workspace).items if s.method == "tension")
    assert seen.specimens - seen.arms >= 4
    assert seen.cv < 0.04
    assert width() < usual


def test_a_design_value_is_of_exact_values_only(workspace):
    lab = Batched(workspace)
    lab.pull(0, (40.0, 41.0, 42.0))
    lab.pull(1, (60.0, 61.0))
    lab.pull(1, (62.0,), outcome="grip")
    found, bounded = of(lab)
    # k of three specimens, from the tables of ISO 16269-6
    assert found.arms[0].design_value == pytest.approx(41 - 6.1553, abs=0.01)
    assert bounded.design_value is None


def test_before_anything_is_tested_there_is_no_answer(lab):
    found, q = of(lab)
    assert (found.answer, q.relative, q.provisional) == ([], None, None)


def test_ratios_of_two_tests_have_their_factor_and_answer(workspace):
    lab = Lab(workspace, [NewTest(id=new_id(), orientation=o, replicates=3) for o in ("flat", "upright")])
    flat, upright = lab.tests
    for arm, (f, u) in enumerate((((120, 121, 122), (80, 82, 84)), ((120, 121, 122), (40, 41, 42)))):
        for test, peaks in ((flat, f), (upright, u)):
            lab.accept(test, lab.arms[arm], [str(p) for p in peaks])
    found = one_test.findings(workspace, upright, "layer_ratio")
    assert found.arms[1].relative.factor == pytest.approx(0.5, rel=1e-6)
    assert found.arms[1].verdict.difference == pytest.approx(math.log(0.5))
    assert [s.says for s in found.answer] == ["reference leads", "worse"]
    assert found.answer[0].text == "Hollin Everyday has the highest layer ratio of all."
    assert found.answer[1].text.startswith("Hollin Clearwater has 50 % less [")
