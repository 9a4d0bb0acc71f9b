"""Verdicts, ranks and plans over two print batches, with bounds and with ways of ending: through the services, against the core's own figures."""

import pytest

from assayer.core.errors import EntryError
from assayer.core.stats.batches import summarise_batched
from assayer.core.stats.verdicts import DIRECTION_ONLY, decide
from assayer.services.bench import runs
from assayer.services.bench.requests import RunEdit
from assayer.services.choose import purposes, ranking
from assayer.services.choose.requests import CriterionSpec, NewPurpose
from assayer.services.findings import one_test
from assayer.services.printing import batches
from assayer.services.printing.requests import NewBatch
from assayer.services.reports import dossier
from assayer.services.studies import board, changing, listing, power, scatter
from assayer.services.studies.requests import NewTest, StudyEdit, StudyExtension
from assayer.services.studies.views import BoardView
from assayer.services.unit import Actor

from ..support import ACTOR, AT, Lab, new_id

TOMAS = Actor("Tomas")
WORKED = {"P": ((41.2, 42.6, 40.1), (44.0, 45.1, 43.2)), "Q": ((38.0, 37.1, 38.9), (36.2, 35.5, 37.0))}


class Batched(Lab):
    """Two arms, three specimens of each printed at once; `print_again` prints three more."""

    def __init__(self, workspace, orientations=("flat",), **more):
        super().__init__(workspace, [NewTest(id=new_id(), orientation=o, replicates=3) for o in orientations], **more)
        self.flat = self.tests[0]

    def print_again(self, arms=(0, 1)):
        revision = listing.get_study(self.workspace, self.study.id).revision
        changing.extend_study(self.workspace, ACTOR, self.study.id, StudyExtension(replicates=dict.fromkeys(self.tests, 6), reason="a second batch"), revision)
        for arm in arms:
            batches.print_batch(self.workspace, ACTOR, NewBatch(id=new_id(), arm_id=self.arms[arm], printed_at=AT))

    def pull(self, arm, values, test=None, **more):
        """Strengths in MPa of a section of 20 mm²; the rig shows kgf."""
        peaks = [f"{20 * v / 9.80665:.8g}" for v in values]
        return self.accept(test or self.flat, self.arms[arm], peaks, width=("5.0",), thickness=("4.0",), **more)

    def fill(self):
        for arm, name in enumerate(WORKED):
            self.pull(arm, WORKED[name][0])
        self.print_again()
        for arm, name in enumerate(WORKED):
            self.pull(arm, WORKED[name][1])


@pytest.fixture
def lab(workspace):
    return Batched(workspace)


def expected(step=0.0):
    values = {n: [v for batch in own for v in batch] for n, own in WORKED.items()}
    return summarise_batched(values, {n: ["1"] * 3 + ["2"] * 3 for n in values}, dict.fromkeys(values, step))


def test_two_batches_are_a_random_effect_on_board_findings_and_dossier(lab):
    lab.fill()
    wanted = expected()
    p, q = wanted.groups["P"], wanted.groups["Q"]
    verdict = decide(p, {"Q": q})[0]
    told = one_test.findings(lab.workspace, lab.flat)
    first, second = told.arms
    # the rig reads in steps, which the scatter here is far above
    assert first.group.ci95 == pytest.approx((p.ci95.low, p.ci95.high), rel=1e-4)
    assert (first.group.batches, first.group.within_sd, first.group.ci95_new_batch) == (2, pytest.approx(p.within_sd, rel=1e-4), None)
    assert told.batch_ratio.ratio == pytest.approx(wanted.batch_ratio.ratio, rel=1e-3)
    assert told.batch_ratio.few
    assert (second.verdict.word, second.verdict.ci95) == (str(verdict.word), pytest.approx((verdict.ci95.low, verdict.ci95.high), rel=1e-3))
    assert second.verdict.notes[-1].startswith("few batches")
    assert lab.cell(lab.flat, lab.arms[0]).group == first.group
    material = listing.get_study(lab.workspace, lab.study.id).arms[0].material.id
    (measured,) = [g for g in dossier.dossier(lab.workspace, material).history if g.main]
    assert measured.ci95 == pytest.approx(first.group.ci95), "the same figure on every page"
    (usual,) = scatter.scatter(lab.workspace).items
    assert (usual.batch_ratio, usual.batch_df) == (pytest.approx(wanted.batch_ratio.ratio, rel=1e-3), 2)
    # one excluded, by another person: batches of three and two
    dot = first.dots[0]
    runs.edit_run(lab.workspace, TOMAS, dot.run_id, RunEdit(validity="left_out", validity_reason="slipped"), None)
    assert lab.cell(lab.flat, lab.arms[0]).group.n == 5
    assert lab.cell(lab.flat, lab.arms[0]).group.ci95 != pytest.approx(first.group.ci95)


def test_a_plan_takes_the_batch_ratio_that_was_seen_once_enough_batches_were(lab):
    lab.fill()
    before = power.power(lab.workspace, lab.study.id).rows[0]
    assert (before.batch_ratio, before.batch_df) == (0.5, 0), "two degrees of freedom say too little"
    revision = listing.get_study(lab.workspace, lab.study.id).revision
    changing.extend_study(lab.workspace, ACTOR, lab.study.id, StudyExtension(replicates=dict.fromkeys(lab.tests, 9), reason="a third batch"), revision)
    for arm, values in enumerate(((38.0, 39.1, 38.4), (40.2, 41.5, 40.9))):
        batches.print_batch(lab.workspace, ACTOR, NewBatch(id=new_id(), arm_id=lab.arms[arm], printed_at=AT))
        lab.pull(arm, values)
    row = power.power(lab.workspace, lab.study.id).rows[0]
    (usual,) = scatter.scatter(lab.workspace).items
    assert row.batch_df == 4
    assert row.batch_ratio == round(usual.batch_ratio, 1) > 1


def test_an_arm_of_one_batch_keeps_its_prints_and_has_the_wider_interval_beside(lab):
    lab.pull(0, WORKED["P"][0])
    lab.pull(1, WORKED["Q"][0])
    cell = lab.cell(lab.flat, lab.arms[1])
    assert (cell.group.batches, cell.group.ci95_new_batch) == (1, None)
    assert "one print batch: valid for these prints" in cell.verdict.notes
    lab.print_again(arms=(0,))
    lab.pull(0, WORKED["P"][1])
    after = lab.cell(lab.flat, lab.arms[1])
    assert after.group.ci95 == cell.group.ci95
    low, high = after.group.ci95_new_batch
    assert low < after.group.ci95[0] < after.group.ci95[1] < high
    assert "one print batch: valid for these prints" in after.verdict.notes


def test_a_mean_without_an_upper_limit_is_a_bound_and_its_verdict_follows(workspace):
    lab = Batched(workspace)
    lab.pull(0, (66, 65, 65.5))
    lab.print_again(arms=(1,))
    lab.pull(1, (16, 18, 27), outcome="gauge")
    lab.pull(1, (75, 75, 75), outcome="grip")
    changing.edit_study(workspace, ACTOR, lab.study.id, StudyEdit(bounds_in=True), None)
    board.set_reference(workspace, ACTOR, lab.study.id, lab.arms[1], None)
    reference, other = lab.cell(lab.flat, lab.arms[1]), lab.cell(lab.flat, lab.arms[0])
    assert (reference.group.at_least, reference.group.ci95) == (3, None)
    assert any("lower limit" in note for note in reference.notes)
    assert other.verdict.word == "undecided", "the true mean of the reference may lie far above"


def test_a_mean_that_includes_bounds_of_one_print_is_valid_for_these_prints(lab):
    lab.pull(0, (66, 65, 65.5))
    lab.pull(1, (60, 62), outcome="gauge")
    lab.pull(1, (61,), outcome="grip")
    changing.edit_study(lab.workspace, ACTOR, lab.study.id, StudyEdit(bounds_in=True), None)
    cell = lab.cell(lab.flat, lab.arms[1])
    assert (cell.group.at_least, cell.group.ci95 is not None) == (1, True)
    assert "one print batch: valid for these prints" in cell.verdict.notes


def test_a_verdict_that_a_bound_can_only_strengthen_says_that_the_direction_is_certain(lab):
    lab.pull(0, (20, 21, 19))
    lab.pull(1, (24, 25))
    lab.pull(1, (23.5,), outcome="grip")
    verdict = lab.cell(lab.flat, lab.arms[1]).verdict
    assert (verdict.word, verdict.notes[0]) == ("better", DIRECTION_ONLY)


def test_a_break_that_is_included_again_keeps_its_bound_and_its_reason(lab):
    (grip,) = lab.pull(0, (20,), outcome="grip")
    (called,) = lab.pull(0, (21,), validity="at_least", validity_reason="jaw slipped late")
    (at_once,) = lab.pull(0, (22,), outcome="grip", validity="left_out", validity_reason="slipped")
    for entry, reason in ((grip, "at the grip"), (called, "jaw slipped late")):
        out = runs.edit_run(lab.workspace, ACTOR, entry.id, RunEdit(validity="left_out", validity_reason="void or defect"), None)
        assert (out.validity, out.validity_reason) == ("left_out", "void or defect")
        back = runs.edit_run(lab.workspace, TOMAS, entry.id, RunEdit(validity="counts"), None)
        assert (back.validity, back.validity_reason) == ("at_least", reason)
        assert {r.quantity: r.bound for r in back.results}["strength"] == "at_least"
    back = runs.edit_run(lab.workspace, ACTOR, at_once.id, RunEdit(validity="counts"), None)
    assert (back.validity, back.validity_reason) == ("at_least", "at the grip")
    # a bound that was not excluded can still be called exact
    assert runs.edit_run(lab.workspace, ACTOR, grip.id, RunEdit(validity="counts"), None).validity == "counts"


def test_one_unknown_stays_one_unknown_in_strength_and_layer_ratio(workspace):
    lab = Batched(workspace, ("flat", "upright"))
    upright = lab.tests[1]
    for arm, flat, layers in ((0, (50, 51), (20, 20.5, 19.8)), (1, (45, 45.5, 44.6), (16, 16.2, 15.9))):
        lab.pull(arm, flat)
        lab.pull(arm, layers, upright)
    lab.pull(0, (50.5,), outcome="grip")
    criteria = [
        CriterionSpec(id=new_id(), test_id=lab.flat, quantity="strength", no_use=20, all_needed=60),
        CriterionSpec(id=new_id(), test_id=upright, quantity="layer_ratio", no_use=0.0, all_needed=0.5),
    ]
    use = purposes.add_purpose(workspace, ACTOR, NewPurpose(id=new_id(), study_id=lab.study.id, title="clip", criteria=criteria))[0]
    ranked = {r.arm_id: r for r in ranking.rank(workspace, use.id).ranked}
    first, second = (ranked[a] for a in lab.arms)
    # flat at least x: strength (x − 20)/40 rises, the ratio 20.1/x falls; the least of the sum lies where neither is at its worst
    ratio = (20 + 20.5 + 19.8) / (50 + 51 + 50.5)
    trials = [50.5 * 1.01**k for k in range(2000)]
    score = [0.5 * min(1, (x - 20) / 40) + 0.5 * min(1, ratio * 50.5 / x / 0.5) for x in trials]
    assert first.score_low == pytest.approx(min(score), abs=0.01)
    assert first.score_high == pytest.approx(max(score), abs=0.01)
    independent = 0.5 * (50.5 - 20) / 40
    assert first.score_low > independent + 0.05, "not the flat strength at its bound and the ratio at 0 at once"
    assert set(first.bounds.values()) == {"at_least", "at_most"}
    exact = {r.arm_id: r for r in ranking.rank(workspace, use.id, bounds_exact=True).ranked}
    assert exact[lab.arms[0]].score_low == pytest.approx(exact[lab.arms[0]].score_high)
    assert (exact[lab.arms[0]].rank, exact[lab.arms[1]].rank, exact[lab.arms[0]].bounds) == (1, 2, {})
    assert second.bounds == {}


def test_a_problem_stands_beside_the_verdicts_it_affects(lab):
    assert BoardView.model_validate_json(board.board(lab.workspace, lab.study.id)[0]).problems == []
    changing.extend_study(
        lab.workspace, ACTOR, lab.study.id, StudyExtension(tests=[NewTest(id=new_id(), orientation="on edge", replicates=1)], reason="also on edge"),
        listing.get_study(lab.workspace, lab.study.id).revision,
    )  # fmt: skip
    lab.pull(0, (20, 21, 19))
    problems = BoardView.model_validate_json(board.board(lab.workspace, lab.study.id)[0]).problems
    assert problems
    assert "one specimen of each" in problems[0].text
    assert problems[0].arm_ids == [], "a test with several of each has its verdict all the same"
    assert one_test.findings(lab.workspace, lab.flat).problems == problems
    criteria = [CriterionSpec(id=new_id(), test_id=lab.flat, quantity="strength", no_use=20, all_needed=60)]
    use = purposes.add_purpose(lab.workspace, ACTOR, NewPurpose(id=new_id(), study_id=lab.study.id, title="clip", criteria=criteria))[0]
    assert ranking.rank(lab.workspace, use.id).problems == [p.text for p in problems]


def test_pairs_that_decide_otherwise_than_the_verdict_say_why(workspace):
    # two of three arms near the reference: the verdicts allow for two comparisons, the pairs for three
    lab = Lab(workspace, [NewTest(id=new_id(), orientation="flat", replicates=6)], products=("A", "B", "C"))
    for arm, values in enumerate(((60.0, 61.5, 59.0, 60.6, 60.2), (62.8, 62.2, 63.4, 62.0, 62.9), (60.2, 61.0, 59.6, 60.4, 60.9))):
        lab.accept(lab.tests[0], lab.arms[arm], [str(v) for v in values])
    told = one_test.findings(lab.workspace, lab.tests[0])
    verdicts = {a.arm.id: a.verdict for a in told.arms}
    for pair in told.pairs:
        verdict = verdicts.get(pair.b if pair.a == lab.arms[0] else pair.a if pair.b == lab.arms[0] else "")
        differs = verdict is not None and (verdict.ci95[0] > 0 or verdict.ci95[1] < 0) != (pair.ci95[0] > 0 or pair.ci95[1] < 0)
        assert (pair.note is not None) == differs
        assert not differs or "2 comparisons" in pair.note


def test_ways_of_ending_are_shown_each_and_chosen(workspace):
    from .test_further_bench import Hall, channel, strike

    shown = [channel("angle", "°", 0.5, "angle"), channel("length", "mm", 0.01)]
    hall = Hall(workspace, "impact", shown, 5, geometry={"hammer_mass": 0.75, "radius": 0.31, "release_angle": 130.0, "loss": 0.02})
    for angle, outcome, arm in (
        ("110", "complete", 0),
        ("90", "hinge", 0),
        ("92", "hinge", 0),
        ("112", "complete", 1),
        ("111", "complete", 1),
        ("113", "complete", 1),
    ):
        strike(hall, angle, outcome, arm)
    told = one_test.findings(workspace, hall.test)
    complete, hinge = "complete, in two or more pieces", "hinge, held by a thin skin"
    assert (told.end, told.ends) == (complete, [complete, hinge])
    first = told.arms[0]
    assert {e.end: e.n for e in first.ends} == {complete: 1, hinge: 2}
    assert first.group.n == 1
    other = one_test.findings(workspace, hall.test, end=hinge)
    assert (other.end, other.arms[0].group.n, other.arms[1].group) == (hinge, 2, None)
    assert other.arms[0].group.mean == pytest.approx(next(e.mean for e in first.ends if e.end == hinge))
    with pytest.raises(EntryError, match="ended 'nonsense'"):
        one_test.findings(workspace, hall.test, end="nonsense")


def test_an_entry_again_after_recompute_is_the_same(lab):
    from assayer.services.bench import recompute

    lab.pull(0, (20,), outcome="grip")
    before = lab.cell(lab.flat, lab.arms[0])
    assert recompute.recompute(lab.workspace, ACTOR) == []
    assert lab.cell(lab.flat, lab.arms[0]) == before
