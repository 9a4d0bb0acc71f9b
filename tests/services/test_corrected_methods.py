"""What corrected methods change for studies: creep first read at unlike times, results of earlier rules, the place of a break, the give of a rig."""

from datetime import timedelta

import pytest
from sqlalchemy import update

from assayer.services.bench import preview, recompute, runs
from assayer.services.bench.requests import NewRun, PreviewRequest, RawField, RunEdit
from assayer.services.rigs import rigs
from assayer.services.rigs.requests import ComplianceEdit, NewRigVersion
from assayer.services.stock import materials
from assayer.services.studies import history, planning
from assayer.services.studies.requests import NewArm, NewStudy, NewTest
from assayer.store.models import Result

from ..support import ACTOR, AT, Lab, channel, jack, material, new_id, reading, rig

HOUR, DAY = 3600.0, 86400.0
LATER = (HOUR, 3 * HOUR, 10 * HOUR, 30 * HOUR, 100 * HOUR, 120 * HOUR)


def creep_lab(workspace):
    made = Lab(workspace, [NewTest(id=new_id(), method="creep", orientation="flat", replicates=4)])
    shown = [channel("gap", "mm", 0.001, high=150)]
    made.rack = rigs.add_rig(workspace, ACTOR, rig(name="Rack", methods=["creep"], channels=shown, places=8))[0].id
    return made


def hang(lab, arm, first, times=LATER, scatter=0.0):
    """One frame under Findley's law, first read so many s after it was loaded."""
    specimen = lab.specimens(lab.tests[0], lab.arms[arm], "waiting")[0]
    law = lambda t: 20.9 + scatter + (0.30 + scatter) * (t / DAY) ** 0.3  # noqa: E731
    read = [reading("gap", f"{law(t):.4f}", i, after=t) for i, t in enumerate(sorted({first, *(t for t in times if t > first)}))]
    told = {"subject_id": specimen, "test_id": lab.tests[0], "rig_version_id": lab.rack, "happened_at": AT, "outcome": "carried"}
    return runs.accept(lab.workspace, ACTOR, NewRun(id=new_id(), readings=read, **told))[0]


@pytest.fixture
def creep(once):
    return once("creep", creep_lab)


def test_creep_first_read_at_like_times_is_compared_from_there(creep):
    for arm, first in ((0, 60.0), (0, 100.0), (1, 61.0), (1, 119.0)):
        hang(creep, arm, first)
    column = creep.column(creep.tests[0])
    assert (column.quantity, [c.notes for c in column.cells]) == ("creep_at_horizon", [[], []])


def test_creep_under_one_law_first_read_at_a_minute_or_an_hour_compares_as_equal(creep):
    for arm, first, scatter in ((0, 60.0, 0.001), (0, 60.0, -0.001), (1, HOUR, 0.001), (1, 600.0, -0.001)):
        hang(creep, arm, first, scatter=scatter)
    column = creep.column(creep.tests[0])
    assert column.quantity == "creep_from_1_min"
    means = [c.group.mean for c in column.cells]
    assert means[0] == pytest.approx(means[1], rel=2e-3)
    assert column.cells[1].verdict.word == "equivalent"
    assert "first read between 1 min and 1 h" in column.cells[1].notes[0]


def test_a_frame_without_a_fit_is_not_comparable_with_unlike_ones(creep):
    hang(creep, 0, 60.0)
    hang(creep, 0, 60.0, scatter=0.001)
    few = hang(creep, 1, HOUR, times=(10 * HOUR, 101 * HOUR))
    assert {r.quantity for r in few.results} >= {"creep_at_horizon", "first_read_after"}
    cell = creep.cell(creep.tests[0], creep.arms[1])
    assert (cell.group, len(cell.dots)) == (None, 1)
    assert any("too few readings for a fit" in note for note in cell.notes)


def test_an_excluded_frame_does_not_decide_how_the_others_are_compared(creep):
    for arm in (0, 1):
        hang(creep, arm, 60.0)
    odd = hang(creep, 1, HOUR)
    assert creep.column(creep.tests[0]).quantity == "creep_from_1_min"
    runs.edit_run(creep.workspace, ACTOR, odd.id, RunEdit(validity="left_out", validity_reason="instrument fault"), odd.revision)
    assert creep.column(creep.tests[0]).quantity == "creep_at_horizon"


def test_materials_show_creep_over_studies_without_averaging_unlike_starts(creep):
    for first in (60.0, HOUR):
        hang(creep, 0, first)
    hang(creep, 1, 60.0)
    materials = [a.material.id for a in creep.study.arms]
    with creep.workspace.read() as session:
        found = history.history_of(session, materials)
    shown = {m: {v.quantity for v in views} for m, views in found.items()}
    assert "creep_at_horizon" not in shown[materials[0]]
    assert "creep_from_1_min" in shown[materials[0]]
    assert "creep_at_horizon" in shown[materials[1]]


# ---- results of earlier rules --------------------------------------------------------------------


@pytest.fixture
def pulled(once):
    return once("pulled", lambda workspace: Lab(workspace, [NewTest(id=new_id(), orientation="flat", replicates=3)]))


def test_values_by_earlier_rules_stay_apart_until_they_are_recomputed(pulled):
    test, arm = pulled.tests[0], pulled.arms[0]
    old = pulled.accept(test, arm, ["60", "61"])
    with pulled.workspace.write(ACTOR) as unit:
        unit.session.execute(update(Result).where(Result.run_id.in_([r.id for r in old])).values(reduction_version=3))
        unit.touch(pulled.study.id, [test])
    pulled.accept(test, arm, ["62"])
    cell = pulled.cell(test, arm)
    assert sorted(d.state for d in cell.dots) == ["apart", "counts", "counts"]
    assert any("computed by the newest reduction, unlike the others" in note for note in cell.notes)
    assert recompute.outdated(pulled.workspace).runs == 2
    done = recompute.recompute_all(pulled.workspace, ACTOR)
    assert (done.runs, done.moved) == (3, []), "the values are the same, and what computed them is now"
    assert recompute.outdated(pulled.workspace).runs == 0
    assert pulled.cell(test, arm).group.n == 3


# ---- where it broke, what the rig gives, how many ------------------------------------------------


@pytest.mark.parametrize(("place", "bound"), [(None, "at_least"), (0.34, "exact"), (0.30, "at_least"), (0.7, "at_least"), (0.66, "exact")])
def test_the_place_of_a_break_on_its_own_shape_decides_what_is_a_bound(pulled, place, bound):
    """A short pull bar is parallel from 23/70 = 0.3286 to 0.6714 of its length."""
    kept = pulled.accept(pulled.tests[0], pulled.arms[0], ["60"], outcome="outside gauge", outcome_place=place)[0]
    assert next(r.bound for r in kept.results if r.quantity == "strength") == bound
    assert any("by its place on the shape it broke in the parallel part" in r for r in kept.remarks) == (bound == "exact")
    edited = runs.edit_run(pulled.workspace, ACTOR, kept.id, RunEdit(outcome="grip"), kept.revision)
    assert (edited.outcome_place, edited.validity) == (None, "at_least"), "what a person says later goes before the place of what was said before"
    outcomes = {o.name: o.place for o in pulled.study.tests[0].outcomes}
    assert outcomes["gauge"] == pytest.approx((23 / 70, 0.5))


def test_a_rig_whose_give_nobody_measured_is_not_one_that_does_not_give(workspace):
    frame = jack(workspace)
    assert (frame.compliance, frame.compliance_uncertainty) == (None, None)
    recompute.keep_compliance(workspace, ACTOR, frame.id, ComplianceEdit(compliance=0.0, uncertainty=1e-6))
    now = rigs.get_rig(workspace, frame.rig_id).rig
    assert (now.compliance, now.compliance_uncertainty) == (0.0, 1e-6)
    workspace.clock = lambda: AT + timedelta(days=1)
    new = NewRigVersion(version_id=new_id(), channels=[channel("force", "N", 1)], compliance=2e-4, compliance_uncertainty=1e-5)
    changed = rigs.add_version(workspace, ACTOR, frame.rig_id, new)[0].rig
    assert (changed.compliance, changed.compliance_uncertainty) == (2e-4, 1e-5)


def test_a_test_takes_as_many_specimens_as_its_standard_asks_for(workspace):
    m = material()
    materials.add_material(workspace, ACTOR, m)
    wanted = {"tension": 5, "bending": 5, "impact": 10, "impact-izod": 10, "deflection-temperature": 2, "exposure": 3}
    tests = [NewTest(id=new_id(), method=name, orientation="flat") for name in wanted]
    tests.append(NewTest(id=new_id(), method="tension", orientation="upright", replicates=7))
    study = planning.create_study(workspace, ACTOR, NewStudy(id=new_id(), title="t", arms=[NewArm(id=new_id(), material_id=m.id)], tests=tests))[0]
    assert [t.replicates for t in study.tests] == [*wanted.values(), 7]


def test_a_choice_is_kept_with_the_test_and_decides_its_quantity_and_its_procedure(workspace):
    tests = [
        NewTest(id=new_id(), method="hardness", orientation="flat", replicates=1, protocol={"scale": "A"}),
        NewTest(id=new_id(), method="exposure", orientation="flat", replicates=1, protocol={"medium": "water", "dried": 1}),
    ]
    lab = Lab(workspace, tests)
    soft, soaked = lab.study.tests
    assert (soft.protocol["scale"], soaked.label) == ("A", "Exposure to water")
    durometer = rigs.add_rig(workspace, ACTOR, rig(name="D", methods=["hardness"], channels=[channel("hardness", "Shore D", 0.5, "hardness")]))[0].id
    fields = [RawField(field="indents", position=i, raw="62") for i in range(5)]
    asked = PreviewRequest(test_id=soft.id, rig_version_id=durometer, specimen_id=lab.specimens(soft.id, lab.arms[0])[0], readings=fields)
    seen = preview.preview_entry(workspace, asked)
    assert [(r.quantity, r.unit) for r in seen.reduction.results] == [("shore_a", "Shore A")]
    assert lab.column(soft.id).quantity == "shore_a"
    lay = {"subject_id": lab.specimens(soaked.id, lab.arms[0])[0], "test_id": soaked.id, "rig_version_id": lab.rig, "happened_at": AT}
    kept = runs.accept(
        workspace, ACTOR, NewRun(id=new_id(), **lay, readings=[reading("mass_before", "4.0"), reading("mass", "4.1", after=DAY)], complete=False)
    )[0]
    assert kept.procedure_version == "exposure-1, water"
