"""What is typed is held against the results of the study it is typed in, else of the newest that measured what it says."""

from datetime import timedelta

import pytest

from assayer.core.errors import MissingError
from assayer.services.bench import queue, runs
from assayer.services.findings.statements import check_typed
from assayer.services.studies import planning
from assayer.services.studies.requests import NewArm, NewStudy, NewTest

from ..conftest import NOW
from ..support import ACTOR, new_id, printed, run
from .test_batches_and_bounds import Batched

SAID = "Hollin Everyday is 20 % weaker than Hollin Clearwater."


@pytest.fixture
def lab(workspace):
    lab = Batched(workspace)
    lab.pull(0, (40.0, 40.4, 40.8))
    lab.pull(1, (50.0, 50.5, 51.0))
    return lab


def verdicts(lab, text, study=None):
    return [(s.verdict, s.actual) for s in check_typed(lab.workspace, text, study).statements]


def another_study(lab, values):
    arms = [NewArm(id=new_id(), material_id=a.material.id) for a in lab.study.arms]
    test = NewTest(id=new_id(), orientation="flat", replicates=3)
    study = printed(lab.workspace, planning.create_study(lab.workspace, ACTOR, NewStudy(id=new_id(), title="later", arms=arms, tests=[test]))[0])
    left = {arm.id: list(of) for arm, of in zip(study.arms, values, strict=True)}
    for item in queue.queue(lab.workspace, test.id, "st", blind=False).items:
        peak = f"{20 * left[item.arm.id].pop() / 9.80665:.8g}"
        runs.accept(lab.workspace, ACTOR, run(item.specimen_id, test.id, lab.rig, peak, ("5.0",), ("4.0",)))
    return study


def test_each_sentence_has_its_verdict_and_a_question_none(lab):
    assert verdicts(lab, SAID) == [("agrees", "20.0 %")]
    (said,) = check_typed(lab.workspace, f"Printed flat. {SAID.replace('20', '45')} Is Hollin Everyday twice as strong as Hollin Clearwater?").statements
    assert (said.verdict, said.start, said.actual[:6]) == ("disagrees", 14, "20.0 %")
    assert verdicts(lab, "Nothing of it 20 % stronger.") == []
    with pytest.raises(MissingError):
        check_typed(lab.workspace, SAID, new_id())


def test_the_study_that_is_typed_in_comes_first_then_the_newest(lab):
    lab.workspace.clock = lambda: NOW + timedelta(days=1)
    later = another_study(lab, ((60.0, 60.4, 60.8), (50.0, 50.5, 51.0)))
    assert verdicts(lab, SAID) == [("disagrees", "−19.6 %: the other way round")], "the newest"
    assert verdicts(lab, SAID, lab.study.id) == [("agrees", "20.0 %")]
    assert verdicts(lab, SAID, later.id) == [("disagrees", "−19.6 %: the other way round")]


def test_bounds_say_nothing_and_upright_is_layer_adhesion(workspace):
    lab = Batched(workspace, orientations=("flat", "upright"))
    lab.pull(0, (40.0,), outcome="gauge")
    lab.pull(0, (41.0,), outcome="grip")
    assert verdicts(lab, "Hollin Everyday reached 40.5 MPa.") == []
    lab.pull(0, (20.0, 20.4, 20.8), test=lab.tests[1], outcome="one layer")
    assert verdicts(lab, "Hollin Everyday has a layer adhesion of 20.4 MPa.") == [("agrees", "20.4 MPa")]
