"""A lab's own margins: for tests planned from then on, for other quantities and claims at once; planned tests keep theirs."""

import pytest

from assayer.core.errors import AssayerError
from assayer.services.bench import runs
from assayer.services.bench.requests import NewRun
from assayer.services.findings import one_test
from assayer.services.reports import dossier
from assayer.services.rigs import margins
from assayer.services.rigs.requests import LabMarginEdit
from assayer.services.stock import materials
from assayer.services.stock.requests import NewClaim
from assayer.services.studies import planning
from assayer.services.studies.requests import NewArm, NewStudy, NewTest

from ..support import ACTOR, AT, Lab, new_id, reading
from .test_batches_and_bounds import Batched


def set_margin(lab, method, quantity, value=None, relative=True):
    edit = LabMarginEdit.model_validate({"margin": None if value is None else {"value": value, "relative": relative}})
    return margins.set_margin(lab.workspace, ACTOR, method, quantity, edit).items


def planned(lab, **more):
    arm = NewArm(id=new_id(), material_id=lab.study.arms[0].material.id)
    study = NewStudy(id=new_id(), title="next", arms=[arm], tests=[NewTest(id=new_id(), orientation="flat", **more)])
    (test,) = planning.create_study(lab.workspace, ACTOR, study)[0].tests
    return test.margin, test.margin_relative


@pytest.fixture
def lab(workspace):
    return Batched(workspace)


def test_tests_planned_from_then_on_have_it(lab):
    (view,) = set_margin(lab, "tension", "strength", 3.5, relative=False)
    assert (view.value, view.relative, view.who) == (3.5, False, ACTOR.who)
    assert (planned(lab), planned(lab, margin=0.2)) == ((3.5, False), (0.2, True))
    # what was planned before rests on the margin it was planned with
    assert lab.study.tests[0].margin == 0.10
    lab.pull(0, (40.0, 41.0, 42.0))
    lab.pull(1, (43.0, 44.0, 45.0))
    assert one_test.findings(lab.workspace, lab.flat).arms[1].verdict.margin == pytest.approx(4.1, rel=1e-3)
    assert set_margin(lab, "tension", "strength") == []
    assert planned(lab) == (0.10, True)


def test_claims_are_judged_by_it(lab):
    lab.pull(0, (46.0, 46.4, 46.2))
    material = lab.study.arms[0].material.id
    materials.add_claim(lab.workspace, ACTOR, material, NewClaim(id=new_id(), text="tensile strength 50 MPa", source="box"))

    def verdict():
        return [v.verdict for v in dossier.dossier(lab.workspace, material).claims[0].verdicts]

    assert verdict() == ["as claimed"], "within 10 % of 50"
    set_margin(lab, "tension", "strength", 0.02)
    assert verdict() == ["contradicted"]


@pytest.mark.parametrize(
    ("method", "quantity", "relative", "says"),
    [
        ("tension", "nonsense", True, "no such method"),
        ("heat-ramp", "sag_onset", True, "a percentage of onset of sag has no meaning"),
        ("graded", "median", False, "compared by ranks"),
        ("torsion", "greatest_torque", True, "not judged"),
    ],
)
def test_what_has_no_such_margin(lab, method, quantity, relative, says):
    with pytest.raises(AssayerError, match=says):
        set_margin(lab, method, quantity, 0.1, relative)


def test_another_quantity_of_a_test_is_judged_by_it(workspace):
    """The plan holds the margin of the onset of sag; that of the total failure is the lab's."""
    lab = Lab(workspace, [NewTest(id=new_id(), method="heat-ramp", orientation="flat", replicates=2)], methods=["heat-ramp", "tension"])
    (test,) = lab.tests
    for arm, (onset, failure) in zip(lab.arms, ((60, 70), (66, 80)), strict=True):
        for specimen, more in zip(lab.specimens(test, arm, "waiting"), (0, 1), strict=True):
            readings = [reading("noticed_at", f"{onset + more}"), reading("failed_at", f"{failure + more}")]
            runs.accept(
                workspace,
                ACTOR,
                NewRun(id=new_id(), subject_id=specimen, test_id=test, rig_version_id=lab.rig, happened_at=AT, readings=readings, outcome="sagged"),
            )
    set_margin(lab, "heat-ramp", "total_failure", 2.5, relative=False)
    set_margin(lab, "heat-ramp", "sag_onset", 9.0, relative=False)
    shown = {q: one_test.findings(workspace, test, q).arms[1].verdict.margin for q in ("total_failure", "sag_onset")}
    assert shown == {"total_failure": 2.5, "sag_onset": 5.0}
