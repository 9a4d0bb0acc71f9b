"""Misprints filed under another arm, treatments; lots, printers and rigs as what is studied."""

import pytest

from assayer.core.errors import ConflictError, EntryError
from assayer.services import changes
from assayer.services.bench import preview, runs
from assayer.services.bench.requests import NewRun, PreviewRequest
from assayer.services.printing import batches, judging
from assayer.services.printing.requests import NewBatch, Refiling, Treated
from assayer.services.rigs import rigs
from assayer.services.stock import intakes
from assayer.services.stock.requests import NewSpool
from assayer.services.studies import changing, fairness, listing
from assayer.services.studies.requests import NewArm, NewTest, StudyCopy, StudyExtension
from assayer.store.models import Test

from ..support import ACTOR, new_id, reading, rig
from .printshop import TOMAS, Shop


@pytest.fixture
def shop(workspace):
    return Shop(workspace)


# ---- misprints and treatments --------------------------------------------------------------------


def _revision_of_test(shop, study):
    with shop.workspace.read() as session:
        return session.get(Test, study.tests[0].id).revision


def two_layers(shop, **more):
    arms = [NewArm(id=new_id(), material_id=shop.materials[0], settings={"infill": share}) for share in (20, 40)]
    arms.append(NewArm(id=new_id(), material_id=shop.materials[1], settings={"infill": 20}))
    return shop.study(arms=arms, tests=[NewTest(id=new_id(), orientation="flat", replicates=3)], studied_factor="setting", **more)


def test_a_misprinted_batch_is_filed_under_the_arm_that_it_is(shop):
    study = two_layers(shop)
    low, high, other = study.arms
    laid = shop.lay(study, batches=1).plates
    batch = shop.print(next(p for p in laid if p.arm_id == low.id))
    shop.judge(batch, "misprinted", 0, 1, 2, fault="40 % infill")
    told = lambda arm: Refiling(arm_id=arm.id, reason="printed with 40 % infill")  # noqa: E731
    with pytest.raises(EntryError, match="is of another filament"):
        judging.refile_batch(shop.workspace, TOMAS, batch.id, told(other))
    with pytest.raises(EntryError, match="of another study"):
        judging.refile_batch(shop.workspace, TOMAS, batch.id, told(two_layers(shop).arms[1]))
    tests_at = _revision_of_test(shop, study)
    moved = judging.refile_batch(shop.workspace, TOMAS, batch.id, told(high))
    assert _revision_of_test(shop, study) > tests_at, "its evidence is another now"
    assert (moved.arm_id, [(s.number, s.outcome) for s in moved.specimens]) == (high.id, [(1, "good"), (2, "good"), (3, "good")])
    amended = listing.get_study(shop.workspace, study.id).amendments[-1]
    assert (amended.what, amended.reason, amended.who) == (f"a batch of {low.mark} is filed under {high.mark}", "printed with 40 % infill", "Tomas")
    cells = {c.arm_id: (c.printed, c.planned) for c in shop.column(study).cells}
    assert cells == {low.id: (0, 3), high.id: (3, 3), other.id: (0, 3)}
    assert shop.plates(study).unplaced == 3, "what it left waits again"
    assert judging.refile_batch(shop.workspace, TOMAS, batch.id, told(high)) == moved
    # the plate of the arm it was filed under is printed too: all of it is spare
    extra = shop.print(next(p for p in laid if p.arm_id == high.id))
    assert [s.spare for s in extra.specimens] == [True, True, True]


def test_what_was_tested_goes_along_only_where_a_replicate_waits(shop):
    study = two_layers(shop)
    low, high, _ = study.arms
    laid = shop.lay(study, batches=1).plates
    wrong, full = (shop.print(next(p for p in laid if p.arm_id == a.id)) for a in (low, high))
    version = rigs.add_rig(shop.workspace, ACTOR, rig())[0].id
    entries = [reading("width", "5.0"), reading("thickness", "4.0"), reading("peak_force", "900 N")]
    entry = {"id": new_id(), "subject_id": wrong.specimens[1].id, "test_id": study.tests[0].id, "rig_version_id": version}
    runs.accept(shop.workspace, ACTOR, NewRun(**entry, happened_at=shop.workspace.clock(), readings=entries, outcome="gauge"))
    told = Refiling(arm_id=high.id, reason="wrong file")
    with pytest.raises(ConflictError, match=f"{wrong.specimens[1].code} was tested, and no replicate waits for it in {high.mark}"):
        judging.refile_batch(shop.workspace, TOMAS, wrong.id, told)
    assert batches.batches_of(shop.workspace, study.id).items[-1].arm_id in (low.id, high.id), "nothing moved"
    shop.judge(full, "failed", 0)
    moved = judging.refile_batch(shop.workspace, TOMAS, wrong.id, told)
    assert [(s.number, s.spare, s.tested) for s in moved.specimens] == [(None, True, False), (1, False, True), (None, True, False)]
    cell = next(c for c in shop.column(study).cells if c.arm_id == high.id)
    assert (cell.tested, [d.code for d in cell.dots]) == (1, [wrong.specimens[1].code])


def test_treatments_have_a_control_and_are_said_of_a_batch(shop):
    arms = [NewArm(id=new_id(), material_id=shop.materials[0], treatment=t) for t in ("annealed", "soaked")]
    study = shop.study(arms=arms, tests=[NewTest(id=new_id(), orientation="flat", replicates=3)], studied_factor="treatment")
    assert "no control" in [u.name for u in fairness.fairness(shop.workspace, study.id).items]
    more = StudyExtension(arms=[NewArm(id=new_id(), material_id=shop.materials[0])])
    study = changing.extend_study(shop.workspace, ACTOR, study.id, more, study.revision)
    assert "no control" not in [u.name for u in fairness.fairness(shop.workspace, study.id).items]
    plate = next(p for p in shop.lay(study, batches=1).plates if p.arm_id == study.arms[0].id)
    batch = shop.print(plate)
    assert (batch.treatment, [s.treated for s in batch.specimens]) == ("annealed", [False] * 3)
    at = shop.workspace.clock()
    done = judging.treat_batch(shop.workspace, TOMAS, batch.id, Treated(at=at))
    assert [s.treated for s in done.specimens] == [True] * 3
    with shop.workspace.read() as session:
        assert {c.action for c in changes.record_of(session, [batch.id])[batch.id]} == {"printed", "treated"}
    assert shop.column(study).cells[0].treated == 3
    assert [s.treated for s in judging.treat_batch(shop.workspace, TOMAS, batch.id, Treated(at=None)).specimens] == [False] * 3
    with pytest.raises(EntryError, match="before it was printed"):
        judging.treat_batch(shop.workspace, TOMAS, batch.id, Treated(at=at.replace(year=at.year - 1)))
    control = shop.print(next(p for p in shop.plates(study).plates if p.arm_id == study.arms[2].id))
    with pytest.raises(EntryError, match="is not treated"):
        judging.treat_batch(shop.workspace, TOMAS, control.id, Treated(at=at))


# ---- lots, printers, rigs ------------------------------------------------------------------------


def test_lots_printers_and_rigs_make_arms_of_one_variant(shop):
    first = shop.materials[0]
    day = shop.workspace.clock().date()
    second = intakes.add_spool(shop.workspace, ACTOR, NewSpool(id=new_id(), material_id=first, lot="L-2", received_on=day, label_net=1000))[0].id
    same = intakes.add_spool(shop.workspace, ACTOR, NewSpool(id=new_id(), material_id=first, lot="L-2", received_on=day, label_net=1000))[0].id
    tests = [NewTest(id=new_id(), orientation="flat", replicates=3)]
    lots = shop.study([NewArm(id=new_id(), material_id=first, spool_id=s) for s in (shop.spools[0], second)], tests, studied_factor="lot")
    assert [a.differs for a in lots.arms] == [{"lot": "L-Everyday"}, {"lot": "L-2"}]
    assert len({a.mark for a in lots.arms}) == 2
    assert [u.name for u in fairness.fairness(shop.workspace, lots.id).items if u.blocking] == []
    with pytest.raises(EntryError, match=r"stands for the lot of spool \w+ \(L-2\): print it from there"):
        batches.print_batch(shop.workspace, ACTOR, NewBatch(id=new_id(), arm_id=lots.arms[1].id, spool_id=shop.spools[0], printed_at=shop.workspace.clock()))
    of_lot = NewBatch(id=new_id(), arm_id=lots.arms[1].id, spool_id=same, printed_at=shop.workspace.clock())
    assert batches.print_batch(shop.workspace, ACTOR, of_lot)[1], "another spool of the same lot will do"
    with pytest.raises(EntryError, match="settings and spool as an earlier one"):
        shop.study([NewArm(id=new_id(), material_id=first, spool_id=second)] * 2, studied_factor="lot")
    with pytest.raises(EntryError, match="arm 1: say which printer it stands for"):
        shop.study([NewArm(id=new_id(), material_id=first)], tests, studied_factor="printer")

    two = shop.add_printer("Two")
    on = shop.study(
        [NewArm(id=new_id(), material_id=first, printer_id=p) for p in (shop.printer, two)],
        [NewTest(id=new_id(), orientation="flat", replicates=3)],
        studied_factor="printer",
    )
    assert [a.differs for a in on.arms] == [{"printer": "One"}, {"printer": "Two"}]
    laid = shop.lay(on, printer_id=two)
    assert {p.arm_id for p in laid.plates} == {on.arms[1].id}, "only what is printed there"
    assert laid.unplaced == 3
    with pytest.raises(EntryError, match="stands for the printer Two: print it there"):
        shop.print(laid.plates[0], printer_id=shop.printer)
    for plate in (*laid.plates, *[p for p in shop.lay(on).plates if p.arm_id == on.arms[0].id]):
        shop.print(plate)
    assert [u.name for u in fairness.fairness(shop.workspace, on.id).items if "printer" in u.name] == []
    copied = changing.copy_study(
        shop.workspace, ACTOR, lots.id, StudyCopy(id=new_id(), title="again", arm_ids=[a.id for a in lots.arms], test_ids=[lots.tests[0].id])
    )[0]
    assert [a.differs for a in copied.arms] == [{"lot": "L-Everyday"}, {"lot": "L-2"}]


def test_rigs_are_compared_each_arm_on_its_own(shop):
    versions = [rigs.add_rig(shop.workspace, ACTOR, rig(name=name))[0] for name in ("Jack", "Frame")]
    arms = [NewArm(id=new_id(), material_id=shop.materials[0], rig_id=v.rig_id) for v in versions]
    study = shop.study(arms, [NewTest(id=new_id(), orientation="flat", replicates=3)], studied_factor="rig")
    assert [a.differs for a in study.arms] == [{"rig": "Jack"}, {"rig": "Frame"}]
    made = [shop.print(next(p for p in shop.lay(study, batches=1).plates if p.arm_id == study.arms[0].id))]
    made.append(shop.print(next(p for p in shop.plates(study).plates if p.arm_id == study.arms[1].id)))

    def pull(batch, i, version, force):
        entries = [reading("width", "5.0"), reading("thickness", "4.0"), reading("peak_force", f"{force} N")]
        entry = {"id": new_id(), "subject_id": batch.specimens[i].id, "test_id": study.tests[0].id, "rig_version_id": version.id}
        runs.accept(shop.workspace, ACTOR, NewRun(**entry, happened_at=shop.workspace.clock(), readings=entries, outcome="gauge"))

    def told(version):
        asked = {"test_id": study.tests[0].id, "rig_version_id": version.id, "specimen_id": made[1].specimens[2].id}
        return [c.text for c in preview.preview_entry(shop.workspace, PreviewRequest(**asked, readings=[])).checks]

    assert told(versions[0]) == ["it stands for Frame: measured on another rig it is shown apart, not averaged"]
    assert told(versions[1]) == []
    for i, force in enumerate((1000, 1020, 1010)):
        pull(made[0], i, versions[0], force)
    for i, force in enumerate((900, 910)):
        pull(made[1], i, versions[1], force)
    pull(made[1], 2, versions[0], 1000)
    own, other = shop.column(study).cells
    assert (own.group.n, own.group.mean) == (3, pytest.approx(50.5))
    assert (other.group.n, other.group.mean) == (2, pytest.approx(45.25)), "each on its own rig, and the rigs are held against one another"
    assert other.verdict is not None
    assert other.notes == ["1 tested with another rig (Jack): shown apart, not averaged"]
