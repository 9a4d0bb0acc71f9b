"""Rigs over time and against each other: limits of a reference material, Deming's line, and conversions that a person accepts."""

import itertools
import statistics

import pytest
from scipy import stats
from sqlalchemy import select

from assayer.core.errors import ConflictError, EntryError, MissingError
from assayer.core.stats.agreement import agreement
from assayer.core.stats.drift import DriftSignal, individuals_chart
from assayer.services.bench import queue, runs
from assayer.services.bench.requests import RunEdit
from assayer.services.findings import one_test, rig_decisions, rig_drift, rig_pairs
from assayer.services.findings.doubt_views import DoubtKind
from assayer.services.findings.doubts import doubts
from assayer.services.findings.requests import ConversionEdit, NewConversion
from assayer.services.rigs import rigs
from assayer.services.rigs.requests import RigEdit
from assayer.services.stock import materials
from assayer.services.studies import planning
from assayer.services.studies.requests import NewArm, NewStudy, NewTest
from assayer.services.unit import Actor
from assayer.store.models import RigConversion

from ..support import ACTOR, jack, material, new_id, printed, rig, run

TOMAS = Actor("Tomas")
X = (6.2, 7.9, 11.4, 15.2, 22.8, 31.0)
Y = (6.9, 8.8, 12.1, 17.0, 24.1, 34.2)
"""The example of METHODS 13, as means of three specimens each."""


class Shop:
    """Two rigs and as many materials as are asked for."""

    def __init__(self, workspace):
        self.workspace = workspace
        self.frame = rigs.add_rig(workspace, ACTOR, rig())[0]
        self.jack = jack(workspace)
        self.materials = [material(f"No {i}", polymer="blend") for i in range(6)]
        for m in self.materials:
            materials.add_material(workspace, ACTOR, m)

    def study(self, values, rig, treatment=""):
        """Values in MPa by number of the material, pulled on one rig."""
        arms = [NewArm(id=new_id(), material_id=self.materials[i].id, treatment=treatment) for i in values]
        most = max(len(v) for v in values.values())
        test = NewTest(id=new_id(), orientation="flat", replicates=most)
        study = printed(self.workspace, planning.create_study(self.workspace, ACTOR, NewStudy(id=new_id(), title="s", arms=arms, tests=[test]))[0])
        left = {a.id: list(values[i]) for a, i in zip(study.arms, values, strict=True)}
        factor = 9.80665 if rig is self.frame else 1
        accepted = []
        for item in queue.queue(self.workspace, test.id, "st", blind=False).items:
            if left[item.arm.id]:
                entry = run(item.specimen_id, test.id, rig.id, f"{20 * left[item.arm.id].pop(0) / factor:.8g}", ("5.0",), ("4.0",))
                accepted.append(runs.accept(self.workspace, ACTOR, entry)[0])
        return study, accepted

    def refer_to(self, number):
        rigs.edit_rig(self.workspace, ACTOR, self.frame.rig_id, RigEdit(reference_material_id=self.materials[number].id))

    def charts(self):
        return rig_drift.drift(self.workspace, self.frame.rig_id).charts

    def compared(self):
        return rig_pairs.compare_rigs(self.workspace, self.jack.rig_id, self.frame.rig_id).comparisons

    def accept(self, **changed):
        (c,) = self.compared()
        new = NewConversion(**{"id": new_id(), "key": c.key, "slope": c.line.slope if c.line else 1.0, "note": "held"} | changed)
        return rig_decisions.accept_conversion(self.workspace, ACTOR, self.jack.rig_id, self.frame.rig_id, new)[0]


@pytest.fixture
def shop(workspace):
    return Shop(workspace)


def around(mean):
    return (mean - 0.1, mean, mean + 0.1)


def test_limits_of_an_individuals_chart():
    assert individuals_chart([50.0, 51.0, 50.0, 51.0]) is None
    values = [50.0, 51.0, 49.5, 50.5, 50.0, 56.0]
    chart = individuals_chart(values)
    s = statistics.mean(abs(b - a) for a, b in itertools.pairwise(values)) / 1.128
    assert (chart.centre, chart.s) == pytest.approx((statistics.mean(values), s))
    assert (chart.limits.low, chart.limits.high) == pytest.approx((chart.centre - 3 * s, chart.centre + 3 * s))
    assert chart.signals == [None] * 6
    # far beyond, after a long quiet time
    assert individuals_chart([50.0, 50.1] * 8 + [55.0]).signals[-1] is DriftSignal.BEYOND
    row = individuals_chart([50.0, 50.4] * 6 + [50.5, 50.7] * 4)
    assert [i for i, s in enumerate(row.signals) if s is DriftSignal.ONE_SIDE] == [18, 19]
    assert set(individuals_chart([50.0] * 9).signals) == {None}, "what is on the line is on no side"


def test_the_reference_material_from_study_to_study(shop):
    means = [50.0, 50.2, 49.9, 50.1, 50.0]
    for i, mean in enumerate(means):
        study, accepted = shop.study({0: around(mean), 1: (70.0, 71.0)}, shop.frame)
        if i == 0:
            spoilt = accepted
    # nothing of another rig, of what was treated, or of another material
    shop.study({0: around(80)}, shop.jack)
    shop.study({0: around(30)}, shop.frame, treatment="washed")
    assert shop.charts() == []
    shop.refer_to(0)
    (chart,) = shop.charts()
    assert [p.mean for p in chart.points] == pytest.approx(means, abs=0.01)
    assert (chart.missing, chart.centre) == (0, pytest.approx(statistics.mean(means), abs=0.01))
    assert not doubts_of_drift(shop, study)
    # it breaks at a third of what it did: the study in which it does has a doubt, the others do not
    last, _ = shop.study({0: around(50.0)}, shop.frame)
    for _ in range(9):
        last, _ = shop.study({0: around(50.1)}, shop.frame)
    last, _ = shop.study({0: around(17.0)}, shop.frame)
    (doubt,) = doubts_of_drift(shop, last)
    assert (doubt.rig_id, "beyond 3 s" in doubt.text) == (shop.frame.rig_id, True)
    assert not doubts_of_drift(shop, study)
    # of a study with nothing that counts there is no point
    for r in spoilt:
        runs.edit_run(shop.workspace, TOMAS, r.id, RunEdit(validity="left_out", validity_reason="slipped"), None)
    assert len(shop.charts()[0].points) == len(means) + 10


def doubts_of_drift(shop, study):
    return [d for d in doubts(shop.workspace, study.id).doubts if d.kind is DoubtKind.DRIFT]


def test_too_few_studies_have_no_limits(shop):
    for mean in (50.0, 52.0):
        shop.study({0: around(mean)}, shop.frame)
    shop.refer_to(0)
    (chart,) = shop.charts()
    assert (chart.missing, chart.limits, len(chart.points)) == (3, None, 2)
    rigs.edit_rig(shop.workspace, TOMAS, shop.frame.rig_id, RigEdit(name="Frame"))
    assert len(shop.charts()) == 1, "another name leaves it as it is"
    rigs.edit_rig(shop.workspace, TOMAS, shop.frame.rig_id, RigEdit(reference_material_id=None))
    assert shop.charts() == []
    with pytest.raises(MissingError):
        rigs.edit_rig(shop.workspace, TOMAS, shop.frame.rig_id, RigEdit(reference_material_id=new_id()))


def test_the_line_of_what_was_measured_on_both(shop):
    shop.study({i: around(x) for i, x in enumerate(X)}, shop.jack)
    shop.study({i: around(y) for i, y in enumerate(Y[:4])}, shop.frame)
    (c,) = shop.compared()
    assert (len(c.pairs), c.line, c.reason) == (4, None, "a line needs 5 materials on both rigs, but there are 4")
    with pytest.raises(EntryError, match="not convertible here: a line needs 5"):
        shop.accept()
    # of a third rig, or of a material on one only, nothing is said here
    shop.study({4: around(99.0)}, jack(shop.workspace, name="Third"))
    _, accepted = shop.study({4: around(Y[4])}, shop.frame)
    (c,) = shop.compared()
    assert (c.line.n, c.reason, len(c.pairs)) == (5, "", 5)
    accepted += shop.study({5: around(Y[5])}, shop.frame)[1]
    (c,) = shop.compared()
    # readings have steps: the example is met within them
    assert (c.line.slope, c.line.intercept) == pytest.approx((1.08963, 0.02173), abs=0.02)
    expected = agreement([p.one.mean for p in c.pairs], [p.other.mean for p in c.pairs])
    assert (c.line.slope, c.line.se_slope, c.line.s, c.line.low, c.line.high) == (expected.slope, expected.se_slope, expected.s, expected.low, expected.high)
    differences = [p.difference for p in c.pairs]
    d = statistics.mean(differences)
    half = stats.t.ppf(0.975, 5) * statistics.stdev(differences) / 6**0.5
    assert (c.mean_difference, *c.difference_ci95) == pytest.approx((d, d - half, d + half))
    assert c.limits == pytest.approx((d - half * 7**0.5, d + half * 7**0.5))
    assert c.agrees is False
    # what Tomas excludes is on one rig only
    for r in accepted:
        runs.edit_run(shop.workspace, TOMAS, r.id, RunEdit(validity="left_out", validity_reason="slipped"), None)
    assert len(shop.compared()[0].pairs) == 4
    with pytest.raises(EntryError, match="another rig"):
        rig_pairs.compare_rigs(shop.workspace, shop.jack.rig_id, shop.jack.rig_id)


def test_rigs_agree_within_the_margin(shop):
    shop.study({i: around(x) for i, x in enumerate(X)}, shop.jack)
    shop.study({i: around(x + 0.1 * (-1) ** i) for i, x in enumerate(X)}, shop.frame)
    (c,) = shop.compared()
    assert (c.agrees, c.margin) == (True, pytest.approx(0.1 * statistics.mean(X), rel=0.02))


def earlier(shop, study):
    return one_test.findings(shop.workspace, study.tests[0].id).earlier


def test_an_accepted_conversion_shows_results_of_one_rig_on_the_other(shop):
    shop.study({i: around(x) for i, x in enumerate(X)}, shop.jack)
    before, _ = shop.study({i: around(y) for i, y in enumerate(Y)}, shop.frame)
    study, _ = shop.study({2: around(12.0)}, shop.frame)
    plain = [e for e in earlier(shop, study) if e.differs]
    assert ([e.differs for e in plain], plain[0].mean) == ([["another rig"]], pytest.approx(11.4, abs=0.05))
    conversion = shop.accept()
    (row,) = [e for e in earlier(shop, study) if e.converted]
    (c,) = shop.compared()
    line = agreement([p.one.mean for p in c.pairs], [p.other.mean for p in c.pairs])
    mean, predicted = line.predicted(plain[0].mean)
    own = line.slope * (plain[0].ci95[1] - plain[0].ci95[0]) / 2
    half = (((predicted.high - predicted.low) / 2) ** 2 + own**2) ** 0.5
    assert (row.mean, *row.ci95) == pytest.approx((mean, mean - half, mean + half))
    assert (row.relative, row.values[0]) == (None, pytest.approx(line.intercept + line.slope * plain[0].values[0]))
    # of the other way around nothing was accepted
    (on_jack,) = [e for e in earlier(shop, shop.study({2: around(11.0)}, shop.jack)[0]) if e.study_id == before.id]
    assert (on_jack.converted, on_jack.differs) == (False, ["another rig"])
    with pytest.raises(ConflictError, match="has accepted a conversion here already"):
        shop.accept()
    taken_back = rig_decisions.edit_conversion(shop.workspace, TOMAS, conversion.id, ConversionEdit(retracted=True), 1)
    assert (taken_back.retracted, any(e.converted for e in earlier(shop, study))) == (True, False)
    newer = shop.accept()
    with pytest.raises(ConflictError, match="another conversion"):
        rig_decisions.edit_conversion(shop.workspace, TOMAS, conversion.id, ConversionEdit(retracted=False), 2)
    rig_decisions.edit_conversion(shop.workspace, TOMAS, newer.id, ConversionEdit(retracted=True), 1)
    assert not rig_decisions.edit_conversion(shop.workspace, TOMAS, conversion.id, ConversionEdit(retracted=False), 2).retracted
    # beyond its range
    shop.study({0: around(60.0)}, shop.jack)
    high, _ = shop.study({0: around(7.0)}, shop.frame)
    assert ["another rig, not convertible here"] in [e.differs for e in earlier(shop, high)]


def test_a_line_that_has_moved_is_looked_at_again(shop):
    shop.study({i: around(x) for i, x in enumerate(X)}, shop.jack)
    shop.study({i: around(y) for i, y in enumerate(Y)}, shop.frame)
    with pytest.raises(ConflictError, match="moved the line"):
        shop.accept(slope=1.5)


def test_what_does_not_rise_together_is_not_converted(shop):
    shop.study({i: around(x) for i, x in enumerate(X)}, shop.jack)
    shop.study({i: around(y) for i, y in enumerate((20.0, 9.0, 24.0, 8.0, 23.0, 15.0))}, shop.frame)
    (c,) = shop.compared()
    assert c.line is not None
    with pytest.raises(EntryError, match="do not rise together"):
        shop.accept()


def test_a_conversion_holds_for_the_conditions_of_its_tests(shop):
    """Tests that are set otherwise are compared by themselves, and their line is accepted by itself."""
    shop.study({i: around(x) for i, x in enumerate(X)}, shop.jack)
    shop.study({i: around(y) for i, y in enumerate(Y)}, shop.frame)
    study, _ = shop.study({2: around(12.0)}, shop.frame)
    shop.accept()
    with shop.workspace.write(ACTOR) as unit:
        row = unit.session.scalars(select(RigConversion)).one()
        assert row.protocol == "{}"
        row.protocol = '{"load": 20}'
        unit.log("rig", shop.jack.rig_id, "edited")
    assert not any(e.converted for e in earlier(shop, study))
    (c,) = shop.compared()
    assert c.conversion is None
