"""Makers' claims held against what was measured: values, factors and orders; what is unlike, treated or a bound decides nothing."""

import pytest

from assayer.core.stats.claimed import judge_factor, judge_value
from assayer.core.stats.groups import summarise
from assayer.core.stats.verdicts import GoodSide, Margin
from assayer.services.reports import dossier
from assayer.services.stock import materials
from assayer.services.stock.requests import NewClaim
from assayer.services.studies.requests import NewTest

from ..support import ACTOR, Lab, new_id


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
