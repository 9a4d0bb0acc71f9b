"""Results of the same materials from other studies beside the findings: compared where alike, else with what differs; reported ones open."""

import pytest
from scipy import stats
from sqlalchemy import update

from assayer.core.errors import EntryError
from assayer.core.stats.groups import summarise
from assayer.core.stats.relative import relative_to
from assayer.core.stats.verdicts import Margin, decide
from assayer.services.bench import queue, runs
from assayer.services.bench.requests import RunEdit
from assayer.services.findings import across, one_test
from assayer.services.findings.doubts import doubts
from assayer.services.stock import lists
from assayer.services.stock.requests import ImportText
from assayer.services.studies import board, changing, listing, planning
from assayer.services.studies.requests import NewArm, NewStudy, NewTest, StudyCopy
from assayer.services.unit import Actor
from assayer.store.models import Result, RigVersion

from ..support import ACTOR, AT, jack, new_id, printed, run
from .test_batches_and_bounds import Batched

TOMAS = Actor("Tomas")
NOW, BEFORE = (40.0, 41.0, 42.0), (50.0, 51.0, 52.0)


@pytest.fixture
def lab(workspace):
    lab = Batched(workspace)
    lab.pull(0, NOW)
    lab.pull(1, (60.0, 61.0, 62.0))
    return lab


def earlier_study(lab, values, rig=None, factor=9.80665, **of_test):
    """Another study of the second material, pulled on the same rig or on another."""
    test = NewTest(id=new_id(), **{"orientation": "flat", "replicates": len(values)} | of_test)
    arm = NewArm(id=new_id(), material_id=lab.study.arms[1].material.id)
    study = printed(lab.workspace, planning.create_study(lab.workspace, ACTOR, NewStudy(id=new_id(), title="before", arms=[arm], tests=[test]))[0])
    made = []
    for item, value in zip(queue.queue(lab.workspace, test.id, "st", blind=False).items, values, strict=True):
        entry = run(item.specimen_id, test.id, rig or lab.rig, f"{20 * value / factor:.8g}", ("5.0",), ("4.0",))
        made.append(runs.accept(lab.workspace, ACTOR, entry)[0])
    return study, made


def shown(lab, **asked):
    return one_test.findings(lab.workspace, lab.flat, **asked).earlier


def test_what_was_measured_alike_is_compared_with_the_reference(lab):
    study, made = earlier_study(lab, BEFORE)
    (e,) = shown(lab)
    assert (e.study_id, e.source, e.differs, e.n, e.reported) == (study.id, "before", [], 3, False)
    expected = relative_to(summarise(NOW), summarise(BEFORE))
    assert (e.relative.factor, *e.relative.ci95) == pytest.approx((expected.factor, expected.ci95.low, expected.ci95.high), rel=2e-3)
    # against itself, once the other arm is the reference; the groups of this study are as they were
    (other,) = shown(lab, reference=lab.arms[1])
    assert other.relative.factor == pytest.approx(51 / 61, rel=1e-3)
    # somebody leaves one out there
    runs.edit_run(lab.workspace, TOMAS, made[0].id, RunEdit(validity="left_out", validity_reason="slipped"), None)
    assert shown(lab)[0].n == 2


def test_unlike_results_name_what_differs_and_are_not_compared(lab):
    earlier_study(lab, BEFORE, rig=jack(lab.workspace).id, factor=1)
    earlier_study(lab, BEFORE, orientation="upright")
    (e,) = shown(lab)
    assert (e.differs, e.relative) == (["another rig"], None), "upright is another quantity and not shown"
    earlier_study(lab, (53.0, 54.0))
    assert [e.differs for e in shown(lab)] == [[], ["another rig"]], "what is compared comes first"
    # values by an earlier reduction are no more comparable here than they are averaged elsewhere
    with lab.workspace.write(ACTOR) as unit:
        unit.session.execute(update(Result).where(Result.test_id.not_in(lab.tests)).values(reduction_version=1))
    assert sorted(e.differs for e in shown(lab)) == [["another procedure"], ["another procedure", "another rig"]]


def test_reported_figures_have_their_own_interval_and_no_comparison(lab):
    rows = [
        "Hollin;Clearwater;amber;tensile strength;48,5;MPa;4;2",
        "Hollin;Clearwater;amber;tensile strength;47;MPa;;",
        "Hollin;Clearwater;amber;notched impact;9;kJ/m²;;",
    ]
    lists.run_import(lab.workspace, ACTOR, ImportText(kind="reported", text="\n".join(["Maker;Product;Colour;Quantity;Value;Unit;n;sd", *rows])))
    found = sorted(shown(lab), key=lambda e: -e.mean)
    assert [(e.mean, e.reported, e.relative) for e in found] == [(48.5, True, None), (47.0, True, None)]
    assert found[0].ci95 == pytest.approx(stats.t.interval(0.95, 3, 48.5, 1.0))
    assert found[1].ci95 is None


def test_a_material_of_no_arm_is_shown_on_request(lab):
    arm_of_one = one_test.findings(lab.workspace, lab.flat).arms[1].arm.material.id
    study, _ = earlier_study(lab, BEFORE)
    test = study.tests[0].id
    assert one_test.findings(lab.workspace, test).earlier[0].material.id == arm_of_one
    added = one_test.findings(lab.workspace, test, added=[lab.study.arms[0].material.id]).earlier
    assert {e.material.product for e in added} == {"Everyday", "Clearwater"}


def arm_of(study):
    return study.arms[0].id


def verdicts_shown(lab, **asked):
    found = one_test.findings(lab.workspace, lab.flat, **asked)
    return found, {a.arm.id: a.verdict for a in found.arms if a.verdict is not None}


def test_an_arm_of_an_earlier_study_is_the_reference_where_it_was_tested_alike(lab):
    study, made = earlier_study(lab, BEFORE)
    found, verdicts = verdicts_shown(lab, reference=arm_of(study))
    margin = Margin(0.10)
    expected = {d.group: d for d in decide(summarise(BEFORE), {lab.arms[0]: summarise(NOW), lab.arms[1]: summarise((60.0, 61.0, 62.0))}, margin)}
    assert {a: (v.word, v.difference) for a, v in verdicts.items()} == {a: (str(d.word), pytest.approx(d.difference, rel=2e-3)) for a, d in expected.items()}
    (earlier,) = [a.earlier for a in found.arms if a.earlier is not None]
    assert (earlier.study, earlier.study_id, earlier.on, earlier.differs) == ("before", study.id, AT.date().isoformat(), [])
    assert "of “before”" in found.answer[0].text
    # kept as the study's reference it is that of the board too, which follows what is excluded there
    revision = listing.get_study(lab.workspace, lab.study.id).revision
    board.set_reference(lab.workspace, TOMAS, lab.study.id, arm_of(study), revision)
    assert {a: lab.cell(lab.flat, a).verdict.word for a in lab.arms} == {a: str(d.word) for a, d in expected.items()}
    difference = lab.cell(lab.flat, lab.arms[0]).verdict.difference
    runs.edit_run(lab.workspace, TOMAS, made[0].id, RunEdit(validity="left_out", validity_reason="slipped"), None)
    assert lab.cell(lab.flat, lab.arms[0]).verdict.difference != pytest.approx(difference, rel=1e-3)
    assert not doubts(lab.workspace, lab.study.id).doubts or all(d.arm_ids != [arm_of(study)] for d in doubts(lab.workspace, lab.study.id).doubts)
    copied = changing.copy_study(lab.workspace, ACTOR, lab.study.id, StudyCopy(id=new_id(), title="again", arm_ids=lab.arms, test_ids=lab.tests))[0]
    assert copied.reference_arm_id == arm_of(study)
    across_view = across.across(lab.workspace, lab.study.id)
    assert "of “before”" in across_view.names[arm_of(study)]
    assert next(c for c in across_view.rows[0].cells if c.arm_id == lab.arms[0]).verdict.word == "worse"


def test_a_reference_that_was_tested_otherwise_gives_no_verdicts(lab):
    other_rig, _ = earlier_study(lab, BEFORE, rig=jack(lab.workspace).id, factor=1)
    other_shape, _ = earlier_study(lab, BEFORE, shape="dumb-bell-1ba")
    for study, differs in ((other_rig, ["another rig"]), (other_shape, ["another shape"])):
        found, verdicts = verdicts_shown(lab, reference=arm_of(study))
        assert (verdicts, [a.earlier.differs for a in found.arms if a.earlier is not None]) == ({}, [differs])
    upright, _ = earlier_study(lab, BEFORE, orientation="upright")
    with pytest.raises(EntryError, match="tested by the same method"):
        board.set_reference(lab.workspace, ACTOR, lab.study.id, arm_of(upright), None)
    with pytest.raises(EntryError, match="no such arm"):
        verdicts_shown(lab, reference=new_id())


def test_prints_are_numbered_in_their_order(lab):
    lab.print_again((0,))
    lab.pull(0, (44.0, 45.0, 46.0))
    (arm,) = [a for a in one_test.findings(lab.workspace, lab.flat).arms if a.arm.id == lab.arms[0]]
    assert {p: sorted(round(d.value) for d, of in zip(arm.dots, arm.prints, strict=True) if of == p) for p in (1, 2)} == {1: [40, 41, 42], 2: [44, 45, 46]}


def test_of_several_rigs_only_the_arm_of_its_own_is_compared_with_an_earlier_reference(workspace):
    """A study of rigs compares its own arms across rigs; an arm of another study is one of one rig."""
    lab = Batched(workspace)
    earlier, _ = earlier_study(lab, BEFORE)
    other = jack(workspace)
    with workspace.read() as session:
        first = session.get_one(RigVersion, lab.rig).rig_id
    key = lab.study.arms[1].material.id
    arms = [NewArm(id=new_id(), material_id=key, rig_id=rig_id) for rig_id in (first, other.rig_id)]
    test = NewTest(id=new_id(), orientation="flat", replicates=3)
    plan = NewStudy(id=new_id(), title="rigs", studied_factor="rig", arms=arms, tests=[test])
    study = printed(workspace, planning.create_study(workspace, ACTOR, plan)[0])
    versions = {study.arms[0].id: (lab.rig, 9.80665), study.arms[1].id: (other.id, 1)}
    for i, item in enumerate(queue.queue(workspace, test.id, "st", blind=False).items):
        version, factor = versions[item.arm.id]
        runs.accept(workspace, ACTOR, run(item.specimen_id, test.id, version, f"{20 * (60 + i) / factor:.8g}", ("5.0",), ("4.0",)))
    found = one_test.findings(workspace, test.id, reference=arm_of(earlier))
    by_arm = {a.arm.id: (a.verdict is not None, a.relative is not None) for a in found.arms}
    assert by_arm == {study.arms[0].id: (True, True), study.arms[1].id: (False, False), arm_of(earlier): (False, False)}
