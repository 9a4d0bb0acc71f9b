"""What a treated arm kept of the mean of its control: which arms belong together, and what of it stands beside the other findings."""

import pytest

from assayer.core.errors import EntryError
from assayer.core.stats.groups import summarise
from assayer.core.stats.ratios import ratio_of_means
from assayer.services.bench import runs
from assayer.services.rigs import rigs
from assayer.services.stock import materials
from assayer.services.studies import findings, planning
from assayer.services.studies.requests import NewArm, NewStudy, NewTest

from ..support import ACTOR, Lab, material, new_id, printed, rig, run

CONTROL, SOAKED = ("41.2", "42.6", "40.1", "43.0", "41.7"), ("33.4", "31.9", "34.8", "32.2", "33.9")


class Soaked(Lab):
    """Two materials, each untreated and soaked; one of them annealed as well."""

    def __init__(self, workspace):
        self.workspace = workspace
        made = [material(p) for p in ("Everyday", "Clearwater")]
        for m in made:
            materials.add_material(workspace, ACTOR, m)
        arms = [NewArm(id=new_id(), material_id=m.id, treatment=t) for m, t in ((made[0], ""), (made[0], "soaked"), (made[1], ""), (made[1], "soaked"))]
        arms.append(NewArm(id=new_id(), material_id=made[0].id, treatment="annealed"))
        told = NewStudy(id=new_id(), title="Soda", arms=arms, tests=[NewTest(id=new_id(), orientation="flat", replicates=5)], studied_factor="treatment")
        self.study = planning.create_study(workspace, ACTOR, told)[0]
        self.rig = rigs.add_rig(workspace, ACTOR, rig())[0].id
        printed(workspace, self.study)
        self.arms, self.tests = [a.id for a in self.study.arms], [t.id for t in self.study.tests]
        self.flat = self.tests[0]

    def pull(self, arm, strengths, rig_id=None):
        """Strengths in MPa of a section of 20 mm²; the rig shows kgf."""
        for specimen, strength in zip(self.specimens(self.flat, self.arms[arm], "waiting"), strengths, strict=False):
            new = run(specimen, self.flat, rig_id or self.rig, peak=f"{20 * float(strength) / 9.80665:.8g}", width=("5.0",), thickness=("4.0",))
            runs.accept(self.workspace, ACTOR, new)

    def kept(self):
        told = findings.findings(self.workspace, self.flat, "retention")
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
    assert "retention" in [q.name for q in findings.findings(soaked.workspace, soaked.flat).quantities]


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
    assert (soaked.study.reference_arm_id, told.study.reference_arm_id) == (soaked.arms[0], soaked.arms[1])
    assert [a.verdict and a.verdict.word for a in told.arms] == [None, "better", "better"]
    assert (told.pairs, told.anova, told.agreement) == ([], None, None)


def test_what_was_pulled_on_unlike_rigs_has_no_retention(soaked):
    other = rigs.add_rig(soaked.workspace, ACTOR, rig(name="Other frame"))[0].id
    soaked.pull(0, CONTROL)
    soaked.pull(1, SOAKED, other)
    assert all(a.ratio is None for a in soaked.kept()[0].arms)


def test_a_study_without_controls_and_a_grade_have_no_retention(lab):
    assert "retention" not in [q.name for q in findings.findings(lab.workspace, lab.flat).quantities]
    with pytest.raises(EntryError):
        findings.findings(lab.workspace, lab.flat, "retention")
