"""The same recording twice, or one named with another specimen's code: asked before it is saved, one by one and many at once."""

import pytest

from assayer.core.errors import QuestionError
from assayer.services.bench import curves, preview, runs
from assayer.services.bench.many import SentFile, take_in_many
from assayer.services.bench.requests import PreviewRequest
from assayer.services.studies.requests import NewTest

from ..support import ACTOR, Lab, jack, new_id, run
from .test_many_files import pull


@pytest.fixture
def lab(workspace):
    lab = Lab(workspace, [NewTest(id=new_id(), orientation="flat", replicates=3), NewTest(id=new_id(), orientation="upright", replicates=3)])
    lab.frame = jack(workspace)
    return lab


def code_of(lab, specimen, test=0):
    from assayer.services.bench import queue

    return next(i.code for i in queue.queue(lab.workspace, lab.tests[test], "x", blind=True).items if i.specimen_id == specimen)


def keep(lab, specimen, name, top=900.0, **more):
    curve = curves.take_in(lab.workspace, ACTOR, new_id(), lab.frame.id, name, pull(top))[0]
    return runs.accept(lab.workspace, ACTOR, run(specimen, lab.tests[0], lab.frame.id, None, curve_id=curve.id, outcome="gauge", **more))[0]


def test_a_recording_that_is_saved_already_is_asked_about_until_that_one_is_taken_back(lab):
    first, second = lab.specimens(lab.tests[0], lab.arms[0])[:2]
    kept = keep(lab, first, "pull 1.csv")
    with pytest.raises(QuestionError) as asked:
        keep(lab, second, "pull 2.csv")
    [question] = asked.value.questions
    assert question.text == f"the same recording is already saved for {code_of(lab, first)}: is it this specimen's?"
    keep(lab, second, "pull 3.csv", 901.0)
    runs.retract(lab.workspace, ACTOR, kept.id)
    third = lab.specimens(lab.tests[0], lab.arms[0])[2]
    assert keep(lab, third, "pull 2.csv").complete


def test_a_file_named_with_another_specimens_code_is_asked_about_and_may_stand(lab):
    first, second = lab.specimens(lab.tests[0], lab.arms[0])[:2]
    other = lab.specimens(lab.tests[1], lab.arms[1])[0]
    name = f"{code_of(lab, other, 1)}.csv"
    with pytest.raises(QuestionError, match="is named with the code of") as asked:
        keep(lab, first, name)
    assert keep(lab, first, name, confirmed=[q.key for q in asked.value.questions]).complete
    # its own code beside another one's is no contradiction, nor is a word that only looks like a code
    assert keep(lab, second, f"{code_of(lab, second)} after {code_of(lab, first)}.csv", 901.0).complete


def test_a_preview_asks_as_soon_as_the_file_is_there(lab):
    first, second = lab.specimens(lab.tests[0], lab.arms[0])[:2]
    keep(lab, first, "pull 1.csv")
    curve = curves.take_in(lab.workspace, ACTOR, new_id(), lab.frame.id, "again.csv", pull())[0]
    body = PreviewRequest(test_id=lab.tests[0], rig_version_id=lab.frame.id, specimen_id=second, readings=[], curve_id=curve.id)
    assert [q.text for q in preview.preview_entry(lab.workspace, body).questions] == [
        f"the same recording is already saved for {code_of(lab, first)}: is it this specimen's?"
    ]


def test_of_many_files_those_that_are_another_ones_go_onto_no_specimen(lab):
    specimen = lab.specimens(lab.tests[0], lab.arms[0])[0]
    keep(lab, specimen, "pull 1.csv")
    other = code_of(lab, lab.specimens(lab.tests[1], lab.arms[1])[0], 1)
    files = [("again.csv", pull()), ("new.csv", pull(910.0)), ("new too.csv", pull(910.0)), (f"{other}.csv", pull(920.0)), ("last.csv", pull(930.0))]
    rows = take_in_many(lab.workspace, ACTOR, lab.tests[0], lab.frame.id, [SentFile(new_id(), *f) for f in files]).items
    assert [r.doubt for r in rows] == [
        f"the same recording is already saved for {code_of(lab, specimen)}",
        None,
        "the same recording as 'new.csv'",
        f"its name has the code of {other}, which is not waiting for a recording here",
        None,
    ]
    assert [r.matched for r in rows] == [None, "order", None, None, "order"]
