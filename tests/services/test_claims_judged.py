"""Makers' claims held against what was measured: values, factors and orders; what is unlike, treated or a bound decides nothing."""

from types import SimpleNamespace

import pytest

from assayer.core.errors import EntryError
from assayer.core.stats.claimed import judge_factor, judge_value
from assayer.core.stats.groups import summarise
from assayer.core.stats.verdicts import GoodSide, Margin
from assayer.services.bench import queue, runs
from assayer.services.bench.requests import NewRun
from assayer.services.findings import claims
from assayer.services.reports import dossier
from assayer.services.rigs import margins, rigs
from assayer.services.rigs.requests import LabMarginEdit
from assayer.services.stock import materials
from assayer.services.stock.requests import ClaimLink, NewClaim, WindowIn
from assayer.services.studies import planning
from assayer.services.studies.requests import NewArm, NewStudy, NewTest
from assayer.services.unit import Actor

from ..support import ACTOR, AT, Lab, material, new_id, printed, reading, rig, run

TOMAS = Actor("Tomas")


class Claimed(Lab):
    """Two materials of one maker, pulled flat and upright; sections of 16 mm²."""

    def __init__(self, workspace):
        super().__init__(workspace, [NewTest(id=new_id(), orientation=o, replicates=4) for o in ("flat", "upright")])
        self.flat, self.upright = self.tests
        self.keys = [a.material.id for a in self.study.arms]

    def pull(self, test, arm, *strengths, **more):
        self.accept(test, self.arms[arm], [f"{16 * v / 9.80665:.8g}" for v in strengths], width=("4.0",), thickness=("4.0",), **more)

    def judged(self, text, arm=0):
        """The verdicts on one claim about the material of an arm."""
        made = new_id()
        materials.add_claim(self.workspace, ACTOR, self.keys[arm], NewClaim(id=made, text=text, source="box"))
        return next(c for c in dossier.dossier(self.workspace, self.keys[arm]).claims if c.id == made).verdicts


FLAT, UPRIGHT = (46.9, 47.8, 45.7, 48.2), (22.0, 23.0, 22.4, 22.8)


@pytest.fixture
def lab(workspace):
    lab = Claimed(workspace)
    lab.pull(lab.flat, 0, *FLAT)
    lab.pull(lab.upright, 0, *UPRIGHT)
    return lab


def test_a_value_is_judged_in_its_orientation(lab):
    (flat,) = lab.judged("tensile strength 60 MPa")
    own = judge_value(60, summarise(FLAT), Margin(0.1), GoodSide.HIGHER)
    assert (flat.verdict, flat.measured.orientation, flat.against) == ("contradicted", "flat", "")
    assert (flat.value, *flat.ci95) == pytest.approx((own.measured, own.ci95.low, own.ci95.high), rel=1e-4)
    (upright,) = lab.judged("22 MPa between the layers")
    assert (upright.verdict, upright.measured.orientation) == ("as claimed", "upright")
    assert [j.verdict for j in lab.judged("strength of at least 40 MPa")] == ["as claimed"]
    assert [j.verdict for j in lab.judged("strength at least 60 MPa")] == ["contradicted"]
    assert [j.verdict for j in lab.judged("strength 40 MPa")] == ["better than claimed"]
    assert lab.judged("impact strength 8 kJ/m²") == lab.judged("does not warp") == lab.judged("very strong") == []


def test_a_factor_and_an_order_need_the_other_material_on_the_same_rig(lab):
    assert lab.judged("twice the strength of Clearwater") == [], "not measured yet"
    other = (30.1, 31.0, 30.4, 29.8)
    lab.pull(lab.flat, 1, *other)
    (twice,) = lab.judged("twice the strength of Clearwater")
    own = judge_factor(2, summarise(FLAT), summarise(other), GoodSide.HIGHER)
    assert (twice.verdict, twice.against) == ("contradicted", "Hollin Clearwater, amber")
    assert (twice.value, *twice.ci95) == pytest.approx((own.measured, own.ci95.low, own.ci95.high), rel=1e-3)
    assert [j.verdict for j in lab.judged("50 % stronger than Hollin Clearwater.")] == ["as claimed"]
    assert [j.verdict for j in lab.judged("stronger than Clearwater")] == ["as claimed"]
    assert [j.verdict for j in lab.judged("stronger than Everyday", arm=1)] == ["contradicted"]
    # upright the other was not measured; nobody is called so; another polymer is no material
    assert lab.judged("stronger between the layers than Clearwater") == []
    assert lab.judged("stronger than Clear") == lab.judged("stronger than steel") == []


def test_bounds_and_single_specimens_decide_nothing(workspace):
    lab = Claimed(workspace)
    lab.pull(lab.flat, 0, 46.0, 47.0, 46.5)
    lab.pull(lab.flat, 0, 48.0, outcome="grip")
    (bounded,) = lab.judged("tensile strength 60 MPa")
    assert (bounded.verdict, bounded.reason) == ("undecided", "1 of 4 are bounds")
    lab.pull(lab.flat, 1, 46.0)
    (alone,) = lab.judged("tensile strength 60 MPa", arm=1)
    assert (alone.verdict, alone.ci95, alone.reason) == ("not testable", None, "one specimen alone has no interval")


def test_an_absence_is_judged_where_nothing_has_a_meaning(workspace):
    """A warp of 0 within the margin of 0.2 mm; of grades the best step."""
    lab = Lab(workspace, [NewTest(id=new_id(), method="warp", orientation="flat", replicates=3)], methods=["warp", "tension"])
    key = lab.study.arms[0].material.id

    def verdicts(text):
        made = new_id()
        materials.add_claim(workspace, ACTOR, key, NewClaim(id=made, text=text, source="box"))
        return [v.verdict for v in next(c for c in dossier.dossier(workspace, key).claims if c.id == made).verdicts]

    for specimen, lift in zip(lab.specimens(lab.tests[0], lab.arms[0]), ("0.05", "0.06", "0.04"), strict=True):
        readings = [reading("corners", lift, i) for i in range(4)]
        entry = NewRun(id=new_id(), subject_id=specimen, test_id=lab.tests[0], rig_version_id=lab.rig, happened_at=AT, readings=readings, outcome="stayed")
        runs.accept(workspace, ACTOR, entry)
    assert verdicts("does not warp") == ["as claimed"]
    margins.set_margin(workspace, ACTOR, "warp", "mean_lift", LabMarginEdit.model_validate({"margin": {"value": 0.02, "relative": False}}))
    assert verdicts("no warping at all") == ["contradicted"]


def test_grades_below_the_best_step_contradict_no_stringing():
    def graded(*values):
        group = SimpleNamespace(view=SimpleNamespace(quantity="median@stringing", n=len(values), values=list(values)), summary=summarise(values, 0.0, False))
        return claims._of_absence(group, {}).verdict

    assert (graded(4, 4, 4), graded(3, 2, 3), graded(4, 3), graded(3)) == ("as claimed", "contradicted", "undecided", "undecided")


def test_a_person_says_what_a_claim_is_about(lab):
    """Read as tensile strength, it is about the layers; linked to nothing it is judged by nothing."""
    text = "strength 22 MPa, one layer upon the other"
    assert [v.verdict for v in lab.judged(text)] == ["better than claimed"]
    made = next(c.id for c in dossier.dossier(lab.workspace, lab.keys[0]).claims if c.text == text)

    def linked(quantity):
        materials.link_claim(lab.workspace, TOMAS, made, ClaimLink(quantity=quantity))
        claim = next(c for c in dossier.dossier(lab.workspace, lab.keys[0]).claims if c.id == made)
        return claim.quantity, claim.value, [(v.verdict, v.measured.orientation) for v in claim.verdicts]

    assert linked("layer_adhesion") == ("layer_adhesion", 22.0, [("as claimed", "upright")])
    assert linked(None) == (None, None, [])
    # MPa are no unit of a temperature: a number is never given another unit
    assert linked("heat") == ("heat", None, [])
    with pytest.raises(EntryError, match="not about 'nonsense'"):
        linked("nonsense")


def test_settings_outside_the_makers_window_are_named(workspace):
    m = material(window=WindowIn(nozzle_low=200, nozzle_high=220))
    materials.add_material(workspace, ACTOR, m)
    rig_id = rigs.add_rig(workspace, ACTOR, rig())[0].id
    arm = NewArm(id=new_id(), material_id=m.id, settings={"nozzle_temperature": 235})
    arms = [arm, NewArm(id=new_id(), material_id=m.id, settings={"nozzle_temperature": 210})]
    test = NewTest(id=new_id(), orientation="flat", replicates=1)
    more = {"studied_factor": "setting", "studied_settings": ["nozzle_temperature"]}
    study = printed(workspace, planning.create_study(workspace, ACTOR, NewStudy(id=new_id(), title="t", arms=arms, tests=[test], **more))[0])
    for item in queue.queue(workspace, study.tests[0].id, "st", blind=False).items:
        runs.accept(workspace, ACTOR, run(item.specimen_id, test.id, rig_id, "81.6", ("4.0",), ("4.0",)))
    materials.add_claim(workspace, ACTOR, m.id, NewClaim(id=new_id(), text="tensile strength 50 MPa", source="box"))
    printed_as = {p.arm_id: [(o.label, o.value, o.low, o.high) for o in p.outside] for p in dossier.dossier(workspace, m.id).printed}
    assert printed_as == {study.arms[0].id: [("nozzle", 235, 200, 220)], study.arms[1].id: []}
