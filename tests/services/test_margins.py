"""Which difference matters is set after planning too: a share, or a difference in the unit; the verdicts follow, a started study keeps why."""

import pytest

from assayer.core.errors import EntryError
from assayer.services.studies import changing, listing
from assayer.services.studies.requests import NewTest, StudyEdit

from ..support import ACTOR, Lab, new_id


def edit(lab, **more):
    return changing.edit_study(lab.workspace, ACTOR, lab.study.id, StudyEdit(**more), listing.get_study(lab.workspace, lab.study.id).revision)


def word(lab):
    cell = next(c for c in lab.column(lab.flat).cells if c.arm_id == lab.arms[1])
    return cell.verdict.word, cell.verdict.margin


def test_a_margin_decides_the_verdict_of_its_test_alone(lab):
    for arm, level in zip(lab.arms, (60.0, 62.0), strict=True):
        lab.accept(lab.flat, arm, [f"{level + d:.1f}" for d in (-0.2, 0, 0.2, 0.1)])
    upright = lab.column(lab.upright).margin
    before = word(lab)
    edit(lab, margins={lab.flat: {"value": 5.0, "relative": False}}, reason="it flexes")
    assert before[1] != 5.0
    assert word(lab) == ("equivalent", 5.0)
    edit(lab, margins={lab.flat: {"value": 0.01, "relative": True}}, reason="it does not")
    assert word(lab)[0] == "better"
    test = next(t for t in listing.get_study(lab.workspace, lab.study.id).tests if t.id == lab.flat)
    assert (test.margin, test.margin_relative, test.margin_kinds) == (0.01, True, ["relative", "absolute"])
    assert lab.column(lab.upright).margin == upright


def test_a_started_study_keeps_why_and_what_has_no_zero_takes_no_share(lab):
    edit(lab, start=True)
    with pytest.raises(EntryError, match="say why"):
        edit(lab, margins={lab.flat: {"value": 2.0, "relative": False}})
    study = edit(lab, margins={lab.flat: {"value": 2.0, "relative": False}}, reason="the clip flexes")
    assert [(a.what, a.reason) for a in study.amendments] == [("Tension, flat: a difference of 2 MPa matters", "the clip flexes")]
    assert edit(lab, margins={lab.flat: {"value": 2.0, "relative": False}}).amendments == study.amendments, "the same once more is no change"
    with pytest.raises(EntryError, match="no such test"):
        edit(lab, margins={new_id(): {"value": 2.0, "relative": False}})


def test_what_has_no_zero_takes_no_share_and_grades_take_no_margin(workspace):
    ramp, graded = (NewTest(id=new_id(), method=m, orientation="flat", replicates=2) for m in ("heat-ramp", "graded"))
    lab = Lab(workspace, [ramp, graded])
    kinds = {t.id: t.margin_kinds for t in listing.get_study(workspace, lab.study.id).tests}
    assert kinds == {ramp.id: ["absolute"], graded.id: []}
    with pytest.raises(EntryError, match="has no zero"):
        edit(lab, margins={ramp.id: {"value": 0.1, "relative": True}}, reason="odd")
    with pytest.raises(EntryError, match="compared by ranks"):
        edit(lab, margins={graded.id: {"value": 1.0, "relative": False}}, reason="odd")
    assert edit(lab, margins={ramp.id: {"value": 4.0, "relative": False}}, reason="odd").tests[0].margin == 4.0
