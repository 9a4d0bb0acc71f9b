"""A study renamed, put away, extended, copied; a purpose changed: what is there stays, what is new is planned."""

import pytest

from assayer.core.errors import ConflictError, EntryError, StaleError
from assayer.services.bench import queue
from assayer.services.choose import purposes, ranking
from assayer.services.choose.requests import CriterionSpec, NewPurpose, PurposeEdit
from assayer.services.day import sheet
from assayer.services.findings import one_test
from assayer.services.printing import batches
from assayer.services.printing.requests import NewBatch
from assayer.services.stock import materials
from assayer.services.studies import board, changing, listing
from assayer.services.studies.requests import NewArm, NewTest, StudyCopy, StudyEdit, StudyExtension
from assayer.services.studies.views import BoardView
from assayer.services.unit import Actor

from ..support import ACTOR, material, new_id

TOMAS = Actor("Tomas", "Europe/Berlin")


def extend(lab, revision=None, **more):
    study = listing.get_study(lab.workspace, lab.study.id)
    return changing.extend_study(
        lab.workspace, TOMAS, study.id, StudyExtension(**{"reason": "asked for"} | more), study.revision if revision is None else revision
    )


def third(lab, product="Pliant"):
    new = material(product)
    materials.add_material(lab.workspace, ACTOR, new)
    return NewArm(id=new_id(), material_id=new.id)


def planned(lab):
    board = {t: lab.column(t) for t in (t.id for t in listing.get_study(lab.workspace, lab.study.id).tests)}
    return {test: [(c.planned, c.printed, c.tested) for c in column.cells] for test, column in board.items()}


def test_a_material_a_test_and_more_of_each_are_planned_beside_what_is_there(lab):
    lab.accept(lab.flat, lab.arms[0], ["60", "61", "62"])
    before = one_test.findings(lab.workspace, lab.flat, None).arms[0].group
    order = [i.specimen_id for i in queue.queue(lab.workspace, lab.flat, "st", blind=False).items]
    # seen before, so that what is kept of it must give way
    assert planned(lab) == {lab.flat: [(4, 4, 3), (4, 4, 0)], lab.upright: [(4, 4, 0), (4, 4, 0)]}
    arm, creep, hard = (
        third(lab),
        NewTest(id=new_id(), method="creep", orientation="flat", replicates=2),
        NewTest(id=new_id(), method="hardness", orientation="flat", replicates=1),
    )
    study = extend(lab, arms=[arm], tests=[creep, hard], replicates={lab.flat: 6})
    assert [a.id for a in study.arms] == [*lab.arms, arm.id]
    assert len({a.mark for a in study.arms}) == 3
    assert [(t.id, t.replicates) for t in study.tests] == [(lab.flat, 6), (lab.upright, 4), (creep.id, 2), (hard.id, 1)]
    assert planned(lab) == {
        lab.flat: [(6, 4, 3), (6, 4, 0), (6, 0, 0)], lab.upright: [(4, 4, 0), (4, 4, 0), (4, 0, 0)], creep.id: [(2, 0, 0)] * 3, hard.id: [(1, 0, 0)] * 3
    }  # fmt: skip
    assert one_test.findings(lab.workspace, lab.flat, None).arms[0].group == before
    assert [i.specimen_id for i in queue.queue(lab.workspace, lab.flat, "st", blind=False).items] == order
    # what is planned anew is printed and pulled like the rest
    batches.print_batch(lab.workspace, ACTOR, NewBatch(id=new_id(), arm_id=arm.id, printed_at=lab.workspace.clock()))
    batches.print_batch(lab.workspace, ACTOR, NewBatch(id=new_id(), arm_id=lab.arms[0], printed_at=lab.workspace.clock()))
    assert planned(lab)[lab.flat] == [(6, 6, 3), (6, 4, 0), (6, 6, 0)]
    lab.accept(lab.flat, arm.id, ["40", "41"])
    assert one_test.findings(lab.workspace, lab.flat, None).arms[2].group.n == 2


def test_what_cannot_be_planned_besides_is_refused_and_leaves_nothing(lab):
    again = NewArm(id=new_id(), material_id=lab.study.arms[1].material.id)
    before = listing.get_study(lab.workspace, lab.study.id)
    test = NewTest(id=new_id(), orientation="flat")
    for more, error, words in (
        ({}, EntryError, "say what is to be planned besides"),
        ({"arms": [again]}, EntryError, "arm 1 is the same material"),
        ({"arms": [third(lab), again]}, EntryError, "arm 2 is the same material"),
        ({"arms": [NewArm(id=lab.arms[0], material_id=third(lab, "Ballast").material_id)]}, ConflictError, "an arm with this id"),
        ({"tests": [NewTest(id=lab.flat, orientation="flat")]}, ConflictError, "a test with this id"),
        ({"tests": [NewTest(id=new_id(), method="hardness", orientation="upright")]}, EntryError, "not upright"),
        ({"replicates": {lab.flat: 3}}, EntryError, "can be raised, not lowered to 3"),
        ({"replicates": {new_id(): 9}}, EntryError, "has no such test"),
        ({"tests": [NewTest(id=new_id(), orientation="flat") for _ in range(19)]}, EntryError, "that would be 21 tests, at most 20"),
    ):
        with pytest.raises(error, match=words):
            extend(lab, **more)
    with pytest.raises(StaleError):
        extend(lab, revision=before.revision - 1, tests=[test])
    assert listing.get_study(lab.workspace, lab.study.id) == before
    eighteen = extend(lab, tests=[NewTest(id=new_id(), orientation="flat", replicates=1) for _ in range(18)])
    assert len(eighteen.tests) == 20
    sixty = [third(lab, f"P{i}") for i in range(58)]
    with pytest.raises(EntryError, match="that would be 61 materials, at most 60"):
        extend(lab, arms=[*sixty, third(lab, "One more")])
    assert len(extend(lab, arms=sixty).arms) == 60


def test_the_same_replicates_again_add_nothing(lab):
    assert planned(lab)[lab.flat] == [(4, 4, 0)] * 2
    extend(lab, replicates={lab.flat: 5})
    assert planned(lab)[lab.flat] == [(5, 4, 0)] * 2
    extend(lab, replicates={lab.flat: 5})
    assert planned(lab)[lab.flat] == [(5, 4, 0)] * 2


def test_a_study_is_renamed_put_away_and_taken_up_again(lab):
    edit = lambda **k: changing.edit_study(lab.workspace, TOMAS, lab.study.id, StudyEdit(**k), listing.get_study(lab.workspace, lab.study.id).revision)  # noqa: E731
    renamed = edit(title="Clips", question="Which one snaps?")
    assert (renamed.title, renamed.question) == ("Clips", "Which one snaps?")
    assert edit(question="").title == "Clips"
    with pytest.raises(StaleError):
        changing.edit_study(lab.workspace, TOMAS, lab.study.id, StudyEdit(title="x"), renamed.revision)

    def seen():
        day = {i.study_id for i in sheet.day_sheet(lab.workspace).items if i.study_id}
        waits = {w.study_id for w in queue.waiting_tests(lab.workspace).items}
        page, away = listing.list_studies(lab.workspace, 50, 0), listing.list_studies(lab.workspace, 50, 0, put_away=True)
        return day, waits, [s.id for s in page.items], page.total, page.put_away, [s.id for s in away.items], away.total

    one = {lab.study.id}
    assert seen() == (one, one, [lab.study.id], 1, 0, [], 0)
    away = edit(put_away=True)
    assert away.put_away_at == lab.workspace.clock()
    assert seen() == (set(), set(), [], 0, 1, [lab.study.id], 1)
    assert edit(put_away=True).put_away_at == away.put_away_at
    assert lab.column(lab.flat).cells, "its board stays"
    assert edit(put_away=False).put_away_at is None
    assert seen() == (one, one, [lab.study.id], 1, 0, [], 0)


def test_a_copy_takes_the_plan_along_and_nothing_measured(lab):
    extend(lab, tests=[NewTest(id=new_id(), method="creep", orientation="flat", replicates=2, margin=0.3, margin_relative=False)])
    lab.accept(lab.flat, lab.arms[0], ["60", "61", "62"])
    source = listing.get_study(lab.workspace, lab.study.id)
    wanted = StudyCopy(id=new_id(), title="Again", arm_ids=lab.arms, test_ids=[source.tests[2].id, lab.upright])
    copy, fresh = changing.copy_study(lab.workspace, TOMAS, source.id, wanted)
    assert fresh
    assert (copy.title, copy.question, copy.studied_factor) == ("Again", source.question, source.studied_factor)
    assert [a.material.id for a in copy.arms] == [a.material.id for a in source.arms]
    same = ("method", "orientation", "shape", "protocol", "replicates", "margin", "margin_relative")
    assert [[getattr(t, k) for k in same] for t in copy.tests] == [[getattr(t, k) for k in same] for t in (source.tests[1], source.tests[2])]
    assert not {t.id for t in copy.tests} & {t.id for t in source.tests}
    assert copy.reference_arm_id == copy.arms[[a.id for a in source.arms].index(source.reference_arm_id)].id
    cells = [(c.planned, c.printed, c.tested) for t in copy.tests for c in _column(lab, copy.id, t.id).cells]
    assert cells == [(4, 0, 0)] * 2 + [(2, 0, 0)] * 2
    assert changing.copy_study(lab.workspace, TOMAS, source.id, wanted)[1] is False
    with pytest.raises(ConflictError, match="this study was kept before with other content"):
        changing.copy_study(lab.workspace, TOMAS, source.id, wanted.model_copy(update={"title": "Other"}))
    for field, change in (("arm_ids", {"arm_ids": [copy.arms[0].id]}), ("test_ids", {"test_ids": [lab.flat, copy.tests[0].id]})):
        with pytest.raises(EntryError, match="not of the study that is copied") as refused:
            changing.copy_study(lab.workspace, TOMAS, source.id, wanted.model_copy(update={"id": new_id(), **change}))
        assert refused.value.field == field
    part = StudyCopy(id=new_id(), title="One", arm_ids=[lab.arms[1]], test_ids=[lab.flat])
    alone = changing.copy_study(lab.workspace, TOMAS, source.id, part)[0]
    assert alone.reference_arm_id == alone.arms[0].id, "without the reference among them, the first one is it"


def _column(lab, study_id, test_id):
    return next(c for c in BoardView.model_validate_json(board.board(lab.workspace, study_id)[0]).columns if c.test_id == test_id)


def spec(lab, test, **more):
    return CriterionSpec(**{"id": new_id(), "test_id": test, "quantity": "strength", "no_use": 20, "all_needed": 60} | more)


def test_a_purpose_asks_for_something_else(lab):
    lab.accept(lab.flat, lab.arms[0], ["60", "61", "62"])
    lab.accept(lab.flat, lab.arms[1], ["50", "51", "52"])
    lab.accept(lab.upright, lab.arms[0], ["28", "29", "30"])
    lab.accept(lab.upright, lab.arms[1], ["40", "41", "42"])
    flat, upright = spec(lab, lab.flat, weight=3), spec(lab, lab.upright, no_use=5)
    made = purposes.add_purpose(lab.workspace, ACTOR, NewPurpose(id=new_id(), study_id=lab.study.id, title="clip", criteria=[flat]))[0]
    first = lambda: ranking.rank(lab.workspace, made.id).ranked[0].arm_id  # noqa: E731
    assert first() == lab.arms[0]
    edit = lambda revision, **k: purposes.edit_purpose(lab.workspace, TOMAS, made.id, PurposeEdit(**k), revision)  # noqa: E731
    kept = edit(made.revision, title="hinge", criteria=[upright, flat.model_copy(update={"no_use": 30.0, "required": 55.0, "weight": 0.0})])
    assert (kept.title, [(c.id, c.no_use, c.required, c.weight) for c in kept.criteria]) == ("hinge", [(upright.id, 5, None, 1), (flat.id, 30, 55, 0)])
    assert first() == lab.arms[1]
    # the same quantity asked for by another criterion, the former one gone
    other = spec(lab, lab.flat)
    assert [c.id for c in edit(kept.revision, criteria=[other]).criteria] == [other.id]
    assert first() == lab.arms[0]
    revision = kept.revision + 1
    elsewhere = purposes.add_purpose(lab.workspace, ACTOR, NewPurpose(id=new_id(), study_id=lab.study.id, title="q", criteria=[spec(lab, lab.flat)]))[0]
    for criteria, error, words in (
        ([spec(lab, lab.flat, id=elsewhere.criteria[0].id)], ConflictError, "another criterion already has this id"),
        ([other.model_copy(update={"test_id": lab.upright})], EntryError, "keeps its test and quantity"),
        ([spec(lab, lab.flat), spec(lab, lab.flat)], EntryError, "criterion 2 is there twice"),
        ([spec(lab, new_id())], EntryError, "criterion 1: the study has no such test"),
        ([other.model_copy(update={"weight": 0.0})], EntryError, "at least one weight must be above 0"),
    ):
        with pytest.raises(error, match=words):
            edit(revision, criteria=criteria)
    with pytest.raises(StaleError):
        edit(made.revision, title="late")
    assert purposes.get_purpose(lab.workspace, made.id).title == "hinge"
