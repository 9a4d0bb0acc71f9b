"""All tests of a study side by side: each cell against the findings of its test, prices, print times, prints that came off good."""

import pytest

from assayer.core.errors import EntryError
from assayer.services.bench import runs
from assayer.services.bench.requests import RunEdit
from assayer.services.findings import one_test
from assayer.services.findings.across import across
from assayer.services.printing import batches, judging
from assayer.services.printing.requests import BatchOutcome, NewBatch
from assayer.services.stock import materials
from assayer.services.stock.requests import MaterialEdit
from assayer.services.studies import changing, listing, planning
from assayer.services.studies.requests import NewArm, NewStudy, NewTest, StudyExtension
from assayer.services.unit import Actor
from assayer.store.models import Specimen

from ..support import ACTOR, AT, Lab, new_id
from .test_batches_and_bounds import Batched

TOMAS = Actor("Tomas")
PRODUCTS = ("Everyday", "Clearwater", "Outdoor")


@pytest.fixture
def lab(workspace):
    lab = Batched(workspace, ("flat", "upright"), products=PRODUCTS)
    for arm, values in enumerate(((40.0, 41.0, 42.0), (60.0, 61.0, 62.0), (40.2, 41.1, 42.3))):
        lab.pull(arm, values)
    for arm, values in enumerate(((30.0, 30.3, 30.6), (18.0, 18.3, 18.6), (37.5, 37.8, 38.1))):
        lab.pull(arm, values, test=lab.tests[1])
    return lab


def cell(found, test, arm):
    row = next(r for r in found.rows if r.test_id == test)
    return row, next((c for c in row.cells if c.arm_id == arm), None)


def test_each_cell_is_what_its_test_says_in_margins(lab):
    found = across(lab.workspace, lab.study.id)
    assert found.reference_arm_id == lab.arms[0]
    for test in lab.tests:
        own = one_test.findings(lab.workspace, test)
        for finding in own.arms:
            row, c = cell(found, test, finding.arm.id)
            assert c.group == finding.group
            if finding.verdict is None:
                assert (c.at, c.change) == (None, None)
                continue
            assert c.at == pytest.approx(finding.verdict.difference / row.margin)
            assert c.interval == pytest.approx([end / row.margin for end in finding.verdict.ci95])
    assert [cell(found, t, lab.arms[1])[1].change for t in lab.tests] == ["gains", "gives up"]
    assert [cell(found, t, lab.arms[2])[1].change for t in lab.tests] == ["alike", "gains"]
    # against another arm all signs turn over
    turned = across(lab.workspace, lab.study.id, lab.arms[1])
    assert [cell(turned, t, lab.arms[0])[1].change for t in lab.tests] == ["gives up", "gains"]
    with pytest.raises(EntryError, match="no such arm"):
        across(lab.workspace, lab.study.id, new_id())


def test_excluded_by_somebody_else_a_cell_is_open_and_provisional(lab):
    flat = one_test.findings(lab.workspace, lab.flat).arms[1]
    for dot in flat.dots[:2]:
        runs.edit_run(lab.workspace, TOMAS, dot.run_id, RunEdit(validity="left_out", validity_reason="slipped"), None)
    _, c = cell(across(lab.workspace, lab.study.id), lab.flat, lab.arms[1])
    assert (c.group.n, c.change) == (1, "open")
    row, _ = cell(across(lab.workspace, lab.study.id), lab.flat, lab.arms[1])
    assert c.interval == pytest.approx([end / row.margin for end in c.provisional.ci95]), "the usual scatter, not none"


def test_price_is_compared_in_one_currency_and_prints_count(lab):
    assert [r.label for r in across(lab.workspace, lab.study.id).rows if r.test_id is None] == [], "no price is known"
    for arm, price, currency in ((0, 20.0, "EUR"), (1, 30.0, "EUR"), (2, 5.0, "SEK")):
        m = lab.study.arms[arm].material
        materials.edit_material(lab.workspace, ACTOR, m.id, MaterialEdit(price=price, currency=currency, net_mass=1000 if arm else 800), 1)
    found = across(lab.workspace, lab.study.id)
    (price,) = [r for r in found.rows if r.label == "Price"]
    assert {c.arm_id: c.value for c in price.cells} == {lab.arms[0]: 25.0, lab.arms[1]: 30.0}, "per kg; nothing is converted"
    assert [(c.change, c.at) for c in price.cells] == [(None, None), ("gives up", pytest.approx(-2.0))]
    assert price.cells[1].relative.factor == pytest.approx(1.2)
    assert price.margin == pytest.approx(2.5)
    # each was printed in one batch, all of it good; Wilson's interval of 1 in 1
    assert [(p.material.product, p.good, p.printed, p.first_good) for p in found.printability] == [(product, 1, 1, 1) for product in PRODUCTS]
    assert found.printability[0].low == pytest.approx(0.20655, abs=1e-5)
    # of a second print one piece came off badly
    lab.print_again((1,))
    spoilt = lab.specimens(lab.flat, lab.arms[1], "waiting")[0]
    with lab.workspace.read() as session:
        batch = session.get_one(Specimen, spoilt).batch_id
    judging.judge_batch(lab.workspace, TOMAS, batch, BatchOutcome(specimens=[{"specimen_id": spoilt, "outcome": "failed"}]))
    assert [(p.good, p.printed, p.first_good) for p in across(lab.workspace, lab.study.id).printability] == [(1, 1, 1), (1, 2, 1), (1, 1, 1)]
    assert found.agreements == [], "flat and upright are not the same property"


def test_print_times_are_compared_of_prints_that_hold_the_same(lab):
    revision = listing.get_study(lab.workspace, lab.study.id).revision
    changing.extend_study(lab.workspace, ACTOR, lab.study.id, StudyExtension(replicates=dict.fromkeys(lab.tests, 6), reason="a second batch"), revision)
    for arm, minutes in zip(lab.arms, (50.0, 40.0, None), strict=True):
        batches.print_batch(lab.workspace, ACTOR, NewBatch(id=new_id(), arm_id=arm, printed_at=AT, minutes=minutes))
    (row,) = [r for r in across(lab.workspace, lab.study.id).rows if r.label == "Print time"]
    assert row.quantity.label == "time of a print of 6 specimens"
    assert {c.arm_id: (c.value, c.change) for c in row.cells} == {lab.arms[0]: (50.0, None), lab.arms[1]: (40.0, "gains")}, "not known of the third"
    assert row.cells[1].at == pytest.approx(2.0), "10 min less, where 5 matter"


def test_tests_of_one_property_say_whether_they_agree_and_which_contradict(workspace):
    tests = [NewTest(id=new_id(), orientation="upright", replicates=3, shape=shape) for shape in ("short-pull-bar", "dumb-bell-1ba")]
    lab = Lab(workspace, tests, products=PRODUCTS)
    for test, levels in zip(lab.tests, ((20.0, 30.0, 40.0), (30.0, 40.0, 20.0)), strict=True):
        for arm, level in zip(lab.arms, levels, strict=True):
            peaks = [f"{20 * (level + d) / 9.80665:.8g}" for d in (-0.3, 0, 0.3)]
            lab.accept(test, arm, peaks, width=("5.0",), thickness=("4.0",))
    (agreement,) = across(workspace, lab.study.id).agreements
    # orders 3 2 1 and 2 1 3: rank sums 5 3 4, S 2, W 12·2 / (4·24)
    assert (agreement.name, agreement.w, agreement.arms) == ("layer adhesion", pytest.approx(0.25), 3)
    assert agreement.best_arm_ids == [lab.arms[2], lab.arms[1]]
    # the third beats both in one test and loses to both in the other
    assert sorted(sorted(pair) for pair in agreement.contradict) == sorted(sorted((lab.arms[2], a)) for a in lab.arms[:2])


def test_one_varied_setting_gives_each_arm_its_level(lab):
    assert across(lab.workspace, lab.study.id).varied is None
    key = lab.study.arms[0].material.id
    arms = [NewArm(id=new_id(), material_id=key, settings={"layer_height": v}) for v in (0.12, 0.2)]
    more = {"studied_factor": "setting", "studied_settings": ["layer_height"]}
    test = NewTest(id=new_id(), orientation="flat", replicates=2)
    study = planning.create_study(lab.workspace, ACTOR, NewStudy(id=new_id(), title="heights", arms=arms, tests=[test], **more))[0]
    varied = across(lab.workspace, study.id).varied
    assert (varied.levels, varied.unit) == ({study.arms[0].id: 0.12, study.arms[1].id: 0.2}, "mm")
