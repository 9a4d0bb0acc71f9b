"""What a treated arm kept of the mean of its control: which arms belong together, and what of it stands beside the other findings."""

import pytest

from assayer.core.errors import EntryError
from assayer.core.stats.groups import summarise
from assayer.core.stats.ratios import ratio_of_means
from assayer.services.bench import runs
from assayer.services.choose import purposes, ranking
from assayer.services.choose.requests import CriterionSpec, NewPurpose
from assayer.services.findings import one_test
from assayer.services.reports import dossier
from assayer.services.rigs import rigs
from assayer.services.stock import materials
from assayer.services.stock.requests import NewClaim
from assayer.services.studies import planning
from assayer.services.studies.requests import NewArm, NewStudy, NewTest

from ..support import ACTOR, Lab, material, new_id, printed, rig, run

CONTROL, SOAKED = ("41.2", "42.6", "40.1", "43.0", "41.7"), ("33.4", "31.9", "34.8", "32.2", "33.9")


class OfArms(Lab):
    """One study of these arms, pulled flat; everything printed."""

    def __init__(self, workspace, arms, replicates=5, **facts):
        self.workspace = workspace
        told = NewStudy(id=new_id(), title="Soda", arms=arms, tests=[NewTest(id=new_id(), orientation="flat", replicates=replicates)], **facts)
        self.study = printed(workspace, planning.create_study(workspace, ACTOR, told)[0])
        self.rig = rigs.add_rig(workspace, ACTOR, rig())[0].id
        self.arms, self.tests = [a.id for a in self.study.arms], [t.id for t in self.study.tests]
        self.flat = self.tests[0]


class Soaked(OfArms):
    """Two materials, each untreated and soaked; one of them annealed as well."""

    def __init__(self, workspace):
        made = [material(p) for p in ("Everyday", "Clearwater")]
        for m in made:
            materials.add_material(workspace, ACTOR, m)
        arms = [NewArm(id=new_id(), material_id=m.id, treatment=t) for m, t in ((made[0], ""), (made[0], "soaked"), (made[1], ""), (made[1], "soaked"))]
        arms.append(NewArm(id=new_id(), material_id=made[0].id, treatment="annealed"))
        super().__init__(workspace, arms, studied_factor="treatment")

    def pull(self, arm, strengths, rig_id=None):
        """Strengths in MPa of a section of 20 mm²; the rig shows kgf."""
        for specimen, strength in zip(self.specimens(self.flat, self.arms[arm], "waiting"), strengths, strict=False):
            new = run(specimen, self.flat, rig_id or self.rig, peak=f"{20 * float(strength) / 9.80665:.8g}", width=("5.0",), thickness=("4.0",))
            runs.accept(self.workspace, ACTOR, new)

    def kept(self):
        told = one_test.findings(self.workspace, self.flat, "retention")
        return told, {a.arm.id: a for a in told.arms}


@pytest.fixture
def soaked(workspace):
    return Soaked(workspace)


def test_the_example_of_the_methods_and_only_treated_arms_have_it(soaked):
    soaked.pull(0, CONTROL)
    soaked.pull(1, SOAKED)
    told, arms = soaked.kept()
    found = arms[soaked.arms[1]].ratio
    assert found.ratio == pytest.approx(0.79674, abs=5e-6)
    assert found.ci95 == (pytest.approx(0.75980, abs=5e-6), pytest.approx(0.83548, abs=5e-6))
    assert (told.quantity.name, told.quantity.label, told.quantity.derived) == ("retention", "retention of strength", True)
    assert list(arms) == [soaked.arms[i] for i in (1, 3, 4)], "of the treated ones alone"
    assert [a for a in arms if arms[a].ratio is not None] == [soaked.arms[1]]
    assert "retention" in [q.name for q in one_test.findings(soaked.workspace, soaked.flat).quantities]


def test_each_material_has_its_own_control_and_verdicts_are_against_the_reference_s(soaked):
    soaked.pull(0, CONTROL)
    soaked.pull(1, SOAKED)
    soaked.pull(2, ("60.0", "60.5", "59.5", "60.2", "59.8"))
    soaked.pull(3, ("57.0", "57.5", "56.5", "57.2", "56.8"))
    soaked.pull(4, CONTROL)
    told, arms = soaked.kept()
    expected = ratio_of_means(summarise([57.0, 57.5, 56.5, 57.2, 56.8]), summarise([60.0, 60.5, 59.5, 60.2, 59.8]))
    assert arms[soaked.arms[3]].ratio.ratio == pytest.approx(expected.ratio)
    assert arms[soaked.arms[4]].ratio.ratio == pytest.approx(1.0)
    # the soaked one of the reference's material is what the others are held against
    assert (soaked.study.reference_arm_id, told.reference_arm_id) == (soaked.arms[0], soaked.arms[1])
    assert [a.verdict and a.verdict.word for a in told.arms] == [None, "better", "better"]
    assert (told.pairs, told.anova, told.agreement) == ([], None, None)


def test_what_was_pulled_on_unlike_rigs_has_no_retention(soaked):
    other = rigs.add_rig(soaked.workspace, ACTOR, rig(name="Other frame"))[0].id
    soaked.pull(0, CONTROL)
    soaked.pull(1, SOAKED, other)
    assert all(a.ratio is None for a in soaked.kept()[0].arms)


def test_the_board_and_a_ranking_ask_for_it_by_what_it_is_of(soaked):
    soaked.pull(0, CONTROL)
    soaked.pull(1, SOAKED)
    soaked.pull(2, CONTROL)
    soaked.pull(3, ("40.2", "41.6", "39.1", "42.0", "40.7"))
    told = soaked.kept()[1]
    on_board = {a: soaked.cell(soaked.flat, soaked.arms[a]).derived for a in range(5)}
    assert [[(d.name, d.label) for d in on_board[a]] for a in (0, 1, 4)] == [[], [("retention", "retention of strength")], []]
    assert on_board[1][0].ratio == told[soaked.arms[1]].ratio.ratio
    assert (on_board[1][0].verdict, on_board[3][0].verdict.word) == (None, "better"), "held against the soaked one of the reference's material"
    options = [o for o in purposes.criterion_options(soaked.workspace, soaked.study.id).items if o.quantity == "retention"]
    assert [(o.test_id, o.label, o.derived) for o in options] == [(soaked.flat, "retention of strength", True)]
    asked = CriterionSpec(id=new_id(), test_id=soaked.flat, quantity="retention", no_use=0.7, all_needed=0.9, required=0.8)
    new = NewPurpose(id=new_id(), study_id=soaked.study.id, title="Washed", criteria=[asked])
    purpose = purposes.add_purpose(soaked.workspace, ACTOR, new)[0]
    assert purpose.criteria[0].label == "retention of strength"
    ranked = {r.arm_id: r for r in ranking.rank(soaked.workspace, purpose.id).ranked}
    assert ranked[soaked.arms[1]].estimates[asked.id] == pytest.approx(0.79674, abs=5e-6)
    assert ranked[soaked.arms[1]].usefulness[asked.id] == pytest.approx((0.79674 - 0.7) / 0.2, abs=1e-3)
    assert ranked[soaked.arms[3]].usefulness[asked.id] == 1.0
    # 0.760 … 0.835 against 0.8; the other's interval lies above it
    assert [str(ranked[soaked.arms[i]].requirements[asked.id]) for i in (1, 3)] == ["undecided", "pass"]
    # what was not treated has none: untested for this purpose
    assert [ranked[soaked.arms[i]].coverage for i in (0, 1, 4)] == [0.0, 1.0, 0.0]


def test_a_study_without_controls_and_a_grade_have_no_retention(lab):
    assert "retention" not in [q.name for q in one_test.findings(lab.workspace, lab.flat).quantities]
    with pytest.raises(EntryError, match="needs arms that were treated, each beside one that was not"):
        one_test.findings(lab.workspace, lab.flat, "retention")
    assert "retention" not in [o.quantity for o in purposes.criterion_options(lab.workspace, lab.study.id).items]
    asked = CriterionSpec(id=new_id(), test_id=lab.flat, quantity="retention", no_use=0, all_needed=1)
    with pytest.raises(EntryError, match="no such test and quantity"):
        purposes.add_purpose(lab.workspace, ACTOR, NewPurpose(id=new_id(), study_id=lab.study.id, title="Washed", criteria=[asked]))


def test_the_dossier_tells_arms_of_one_material_apart_and_holds_claims_against_what_was_not_treated(soaked):
    soaked.pull(0, CONTROL)
    soaked.pull(1, SOAKED)
    soaked.pull(2, ("40.2", "41.6", "39.1", "42.0", "40.7"))
    everyday, clearwater = (soaked.study.arms[i].material.id for i in (0, 2))
    materials.add_claim(soaked.workspace, ACTOR, everyday, NewClaim(id=new_id(), text="tensile strength 50 MPa"))
    told = dossier.dossier(soaked.workspace, everyday)
    strength = [(m.arm_id, m.treatment, m.settings, round(m.mean, 3)) for m in told.history if m.main]
    assert strength == [(soaked.arms[0], "", "", 41.72), (soaked.arms[1], "soaked", "", 33.24)]
    (claim,) = told.claims
    assert [v.measured.arm_id for v in claim.verdicts] == [soaked.arms[0]]
    assert [m.treatment for m in dossier.dossier(soaked.workspace, clearwater).history if m.main] == [""]


def test_arms_that_differ_in_a_setting_are_told_apart_by_it_in_their_own_study(workspace):
    new = material("Everyday")
    materials.add_material(workspace, ACTOR, new)
    arms = [NewArm(id=new_id(), material_id=new.id, settings={"layer_height": h}) for h in (0.2, 0.12)]
    lab = OfArms(workspace, arms, 1, studied_factor="setting", studied_settings=["layer_height"])
    for arm in lab.arms:
        lab.accept(lab.flat, arm, ["60"])
    shown = {m.arm_id: m.settings for m in dossier.dossier(workspace, new.id).history if m.main}
    assert shown == {lab.arms[0]: "layer 0.2 mm", lab.arms[1]: "layer 0.12 mm"}
