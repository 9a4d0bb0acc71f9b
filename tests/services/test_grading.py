"""Grading through the services: two people, blind, a grade taken back, verdicts by ranks, closing."""

from io import BytesIO

import pytest
from PIL import Image

from assayer.core.errors import ConflictError, EntryError, MissingError
from assayer.services.bench import runs
from assayer.services.bench.grading import grading
from assayer.services.bench.requests import NewRun, RunEdit
from assayer.services.findings import one_test
from assayer.services.photos import photos
from assayer.services.rigs import rigs
from assayer.services.studies.requests import NewTest
from assayer.services.unit import Actor

from ..support import ACTOR, AT, Lab, new_id, reading, rig

TOMAS = Actor("Tomas", "Europe/Berlin")


class Table(Lab):
    """Four prints of each of two materials before a window."""

    def __init__(self, workspace, traits=("surface", "sheen"), **more):
        tests = [
            NewTest(id=new_id(), method="graded", orientation="flat", replicates=4, protocol={"traits": list(traits)} | more),
            NewTest(id=new_id(), orientation="flat"),
        ]
        super().__init__(workspace, tests)
        self.window = rigs.add_rig(workspace, ACTOR, rig(name="window", methods=["graded"], channels=[]))[0]
        self.runs = {}

    def grade(self, specimen, trait, value, actor=ACTOR, **more):
        run_id = self.runs.setdefault(specimen, new_id())
        told = [reading(trait, str(value), about=actor.who)] if trait else []
        new = NewRun(
            id=run_id, subject_id=specimen, test_id=self.tests[0], rig_version_id=self.window.id, happened_at=AT, readings=told, **{"complete": False} | more
        )
        return runs.accept(self.workspace, actor, new)[0]

    def of(self, arm):
        return self.specimens(self.tests[0], self.arms[arm])


@pytest.fixture
def table(workspace):
    return Table(workspace)


def test_two_people_grade_the_same_prints_at_once(table):
    first = table.of(0)[0]
    table.grade(first, "surface", 3)
    told = table.grade(first, "surface", 1, TOMAS)
    assert {r.quantity: r.value for r in told.results} == {"median@surface": 2, "disagreement@surface": 2}
    assert told.remarks == ["surface finish: the graders are 2 steps apart, look at it together"]
    with pytest.raises(ConflictError, match="was read already"):
        table.grade(first, "surface", 4)
    view = grading(table.workspace, table.tests[0], blind=True)
    mine = next(p for p in view.prints if p.specimen_id == first)
    assert [(g.trait, g.grader, g.grade) for g in mine.grades] == [("surface", "Ilse", 3), ("surface", "Tomas", 1)]
    assert (mine.run_id, mine.complete, mine.arm) == (table.runs[first], False, None)
    assert [t.name for t in view.traits] == ["surface", "sheen"]
    assert len(view.traits[0].steps) == 5
    assert (view.traits[0].better, view.traits[1].better) == (True, False)
    assert view.rigs == [table.window.id]
    assert all(p.arm is not None for p in grading(table.workspace, table.tests[0], blind=False).prints)


def test_a_grade_that_was_taken_back_is_given_anew(table):
    first = table.of(0)[0]
    told = table.grade(first, "surface", 3)
    runs.retract_reading(table.workspace, ACTOR, told.id, told.readings[0].id)
    assert grading(table.workspace, table.tests[0], blind=True).prints[0].grades == []
    again = table.grade(first, "surface", 4)
    assert {r.quantity: r.value for r in again.results}["median@surface"] == 4


def test_grades_are_compared_by_their_ranks_and_get_no_margin(table):
    for arm, grades in ((0, (1, 2, 1, 2)), (1, (4, 3, 4, 3))):
        for specimen, value in zip(table.of(arm), grades, strict=True):
            table.grade(specimen, "surface", value)
    cell = table.cell(table.tests[0], table.arms[1])
    assert (cell.verdict.word, cell.verdict.margin) == ("better", None)
    assert cell.verdict.notes == ["graded clearly apart (p 0.029)"]
    assert table.column(table.tests[0]).quantity == "median@surface"
    for arm, grades in ((0, (2, 3, 2, 1)), (1, (3, 2, 2, 3))):
        for specimen, value in zip(table.of(arm), grades, strict=True):
            table.grade(specimen, "sheen", value)
    sheen = one_test.findings(table.workspace, table.tests[0], "median@sheen")
    found = next(r.verdict for r in sheen.arms if r.verdict is not None)
    assert found.word == "undecided"
    assert found.notes[0].startswith("no clear difference between the grades")
    assert (sheen.pairs, sheen.anova) == ([], None), "grades are no measured values"


def test_one_side_alone_says_nothing_and_the_other_grader_decides(table):
    for specimen in table.of(0):
        table.grade(specimen, "surface", 3)
    for specimen in table.of(1):
        table.grade(specimen, "surface", 1, TOMAS)
    verdict = table.cell(table.tests[0], table.arms[1]).verdict
    assert (verdict.word, verdict.notes) == ("no verdict", ["nobody graded prints of both, or all are graded alike"])
    for specimen, value in zip(table.of(1), (1, 2, 1, 2), strict=True):
        table.grade(specimen, "surface", value)
    assert table.cell(table.tests[0], table.arms[1]).verdict.word == "worse"


def test_a_closed_grading_takes_no_more_grades(table):
    first = table.of(0)[0]
    table.grade(first, "surface", 3)
    table.grade(first, None, None, complete=True, outcome="graded")
    with pytest.raises(ConflictError, match="was tested already"):
        table.grade(first, "sheen", 3)
    mine = next(p for p in grading(table.workspace, table.tests[0], blind=True).prints if p.specimen_id == first)
    assert mine.complete


def test_what_is_measured_is_not_graded_and_a_display_is_asked_of_what_shows_something(table):
    with pytest.raises(EntryError, match="measured, not graded"):
        grading(table.workspace, table.tests[1], blind=True)
    with pytest.raises(MissingError):
        grading(table.workspace, new_id(), blind=True)
    with pytest.raises(EntryError, match="what its displays show"):
        rigs.add_rig(table.workspace, ACTOR, rig(name="blind frame", channels=[]))
    with pytest.raises(EntryError, match="no trait 'colour'"):
        Lab(table.workspace, [NewTest(id=new_id(), method="graded", orientation="flat", protocol={"traits": ["colour"]})], ("Outdoor",), name="x")


def test_a_purpose_names_the_step_of_a_trait_without_a_good_side(table):
    from assayer.services.choose import purposes, ranking
    from assayer.services.choose.requests import CriterionSpec, NewPurpose, PurposeEdit

    for arm, steps in ((0, (1, 1, 2, 1)), (1, (4, 4, 3, 4))):
        for specimen, step in zip(table.of(arm), steps, strict=True):
            table.grade(specimen, "sheen", step)
            table.grade(specimen, None, None, complete=True, outcome="graded")
    option = next(o for o in purposes.criterion_options(table.workspace, table.study.id).items if o.quantity == "median@sheen" or o.label == "sheen")
    assert option.good_side == "none"
    spec = CriterionSpec(id=new_id(), test_id=table.tests[0], quantity=option.quantity, no_use=3.25, all_needed=1.25, near=True)
    made = purposes.add_purpose(table.workspace, ACTOR, NewPurpose(id=new_id(), study_id=table.study.id, title="matt", criteria=[spec]))[0]
    assert made.criteria[0].near is True
    matt, glossy = (next(r for r in ranking.rank(table.workspace, made.id).ranked if r.arm_id == arm) for arm in table.arms)
    assert (matt.usefulness[spec.id], glossy.usefulness[spec.id]) == (pytest.approx(1), pytest.approx(0))
    # glossy is wanted: the other one, and the old draws are not used
    other = spec.model_copy(update={"all_needed": 3.75, "no_use": 1.75})
    purposes.edit_purpose(table.workspace, ACTOR, made.id, PurposeEdit(criteria=[other]), made.revision)
    again = {r.arm_id: r.usefulness[spec.id] for r in ranking.rank(table.workspace, made.id).ranked}
    assert again == {table.arms[0]: pytest.approx(0), table.arms[1]: pytest.approx(1)}
    plain = other.model_copy(update={"near": False, "no_use": 1.25})
    purposes.edit_purpose(table.workspace, ACTOR, made.id, PurposeEdit(criteria=[plain]), None)
    assert {r.usefulness[spec.id] for r in ranking.rank(table.workspace, made.id).ranked} == {0, 1}


def test_prints_are_put_in_order_and_the_places_decide(workspace):
    table = Table(workspace, ordered=1)
    assert grading(workspace, table.tests[0], blind=True).ordered
    specimens = [*table.of(0), *table.of(1)]
    for actor, order in ((ACTOR, (5, 6, 7, 8, 1, 2, 3, 4)), (TOMAS, (8, 7, 6, 5, 2, 1, 3.5, 3.5))):
        for specimen, place in zip(specimens, order, strict=True):
            table.grade(specimen, "surface_place", place, actor)
    view = grading(workspace, table.tests[0], blind=True)
    assert [t.place_field for t in view.traits] == ["surface_place", "sheen_place"]
    first = next(p for p in view.prints if p.specimen_id == specimens[0])
    assert [(g.trait, g.grader, g.grade) for g in first.places] == [("surface", "Ilse", 5), ("surface", "Tomas", 8)]
    assert first.grades == []
    column = table.column(table.tests[0])
    assert (column.quantity, column.label) == ("place@surface", "Traits in order")
    assert [c.group.ci95 for c in column.cells] == [None, None], "an interval would claim more than was seen"
    verdict = table.cell(table.tests[0], table.arms[1]).verdict
    assert (verdict.word, verdict.difference) == ("better", pytest.approx(-4.0)), "the lower place is the better one"
    told = one_test.findings(workspace, table.tests[0])
    ranks = [[5, 6, 7, 8, 1, 2, 3, 4], [8, 7, 6, 5, 2, 1, 3.5, 3.5]]
    sums = [a + b for a, b in zip(*ranks, strict=True)]
    # two people, eight prints, one tie of two: T = 2³ − 2
    by_hand = 12 * sum((s - sum(sums) / 8) ** 2 for s in sums) / (4 * (8**3 - 8) - 2 * 6)
    assert (told.agreement.w, told.agreement.graders, told.agreement.prints) == (pytest.approx(by_hand), 2, 8)
    # of what is left out nobody is asked to agree
    closed = table.grade(specimens[0], None, None, complete=True, outcome="graded")
    runs.edit_run(workspace, ACTOR, closed.id, RunEdit(validity="left_out", validity_reason="void or defect"), None)
    assert one_test.findings(workspace, table.tests[0]).agreement.prints == 7


def test_grades_by_steps_have_no_agreement_of_orders(table):
    for specimen in table.of(0):
        for actor in (ACTOR, TOMAS):
            table.grade(specimen, "surface", 3, actor)
    assert one_test.findings(table.workspace, table.tests[0]).agreement is None
    assert not grading(table.workspace, table.tests[0], blind=True).ordered


def picture(colour):
    out = BytesIO()
    Image.new("RGB", (40, 30), colour).save(out, "JPEG")
    return out.getvalue()


def test_photographs_of_a_print_and_of_its_run_stand_beside_it(table):
    first, second = table.of(0)[:2]
    table.grade(first, "surface", 3)
    for kind, subject, colour in (("specimen", first, "teal"), ("run", table.runs[first], "red"), ("specimen", second, "blue")):
        photos.add_photo(table.workspace, ACTOR, new_id(), kind, subject, picture(colour), kind)
    shown = {p.specimen_id: [x.caption for x in p.photos] for p in grading(table.workspace, table.tests[0], blind=True).prints}
    assert (shown[first], shown[second]) == (["specimen", "run"], ["specimen"])
    assert sum(len(s) for s in shown.values()) == 3
