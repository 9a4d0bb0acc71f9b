"""Plans looked at for fairness and power, frozen once started; batches with their printer, and how each specimen came off the plate."""

from datetime import timedelta

import pytest
from sqlalchemy import select

from assayer.core.errors import ConflictError, EntryError, MissingError
from assayer.core.stats.power import Design, detectable, needed
from assayer.services.bench import queue, runs, specimens
from assayer.services.bench.requests import NewRun
from assayer.services.day import search
from assayer.services.findings import one_test
from assayer.services.printing import batches, judging, printers
from assayer.services.printing.requests import BatchOutcome, HardwareIn, NewBatch, NewPrinter
from assayer.services.rigs import rigs
from assayer.services.stock import materials
from assayer.services.studies import changing, designs, fairness, listing, planning, power, scatter
from assayer.services.studies.requests import DesignQuestion, NewArm, NewStudy, NewTest, StudyEdit, StudyExtension
from assayer.services.unit import Actor
from assayer.store.models import Change

from ..support import ACTOR, material, new_id, reading, rig

TOMAS = Actor("Tomas", "Europe/Berlin")


@pytest.fixture
def two(workspace):
    """Two materials of one colour."""
    made = [material("Everyday", density=1.24), material("Tough", density=1.1)]
    for m in made:
        materials.add_material(workspace, ACTOR, m)
    return [m.id for m in made]


def arm(material_id, **more):
    return NewArm(id=new_id(), material_id=material_id, **more)


def study_of(workspace, arms, tests=None, **more):
    tests = tests or [NewTest(id=new_id(), orientation="flat", replicates=4)]
    return planning.create_study(workspace, ACTOR, NewStudy(id=new_id(), title="t", arms=arms, tests=tests, **more))[0]


def lacks(workspace, study):
    return [(u.name, u.text) for u in fairness.fairness(workspace, study.id).items]


def edit(workspace, study, **more):
    return changing.edit_study(workspace, TOMAS, study.id, StudyEdit(**more), listing.get_study(workspace, study.id).revision)


def printed(workspace, study, which=0, **more):
    return batches.print_batch(workspace, ACTOR, NewBatch(**{"id": new_id(), "arm_id": study.arms[which].id, "printed_at": workspace.clock()} | more))[0]


# ---- plans ---------------------------------------------------------------------------------------


def test_arms_may_have_settings_of_their_own_which_are_shown_against_the_reference(workspace, two):
    arms = [arm(two[0], settings={"fan": 20}), arm(two[0], settings={"fan": 60}), arm(two[0], settings={"fan": 60, "seam": "in corners"})]
    study = study_of(workspace, arms, studied_factor="setting", studied_settings=["fan"])
    assert [a.differs for a in study.arms] == [
        {"fan": "20 %", "seam": "not said"},
        {"fan": "60 %", "seam": "not said"},
        {"fan": "60 %", "seam": "in corners"},
    ]
    assert [a.settings for a in study.arms] == ["as printed: fan 20 %", "as printed: fan 60 %", "as printed: fan 60 %, seam in corners"]
    assert study.studied_settings == ["fan"]
    told = one_test.findings(workspace, study.tests[0].id, None)
    assert [a.arm for a in told.arms] == study.arms, "and wherever arms are shown"
    assert lacks(workspace, study) == [
        ("setting differs", f"seam differs: not said ({study.arms[0].mark}, {study.arms[1].mark}); in corners ({study.arms[2].mark})")
    ]
    # the same variant is found again by another study, and an arm is not planned twice
    other = study_of(workspace, [arm(two[0], settings={"fan": 60}), arm(two[0])])
    assert other.arms[0].settings == "as printed: fan 60 %"
    with pytest.raises(EntryError, match="arm 2 is the same material, treatment and settings") as error:
        study_of(workspace, [arm(two[0], settings={"fan": 60}), arm(two[0], settings={"fan": 60})])
    assert error.value.row == 2
    with pytest.raises(EntryError, match="arm 1: fan 160 %: it lies between 0 and 100"):
        study_of(workspace, [arm(two[0], settings={"fan": 160})])
    with pytest.raises(EntryError, match="'colour' is no setting"):
        study_of(workspace, arms, studied_factor="setting", studied_settings=["colour"])


def test_all_settings_in_which_arms_were_told_to_differ_are_studied_unless_some_are_named(workspace, two):
    study = study_of(workspace, [arm(two[0], settings={"fan": 20, "flow": 100}), arm(two[0], settings={"fan": 60, "flow": 95})], studied_factor="setting")
    assert study.studied_settings == ["fan", "flow"]
    ((name, text),) = lacks(workspace, study)
    assert name == "settings tied"
    assert text == "fan and flow change together"
    assert study_of(workspace, [arm(two[0], settings={"fan": 30}), arm(two[1])]).studied_settings == []


def test_each_at_its_best_lets_the_heat_differ_and_nothing_that_shapes_the_bead(workspace, two):
    study = study_of(workspace, [arm(two[0], settings={"nozzle_temperature": 210}), arm(two[1], settings={"nozzle_temperature": 240, "layer_height": 0.3})])
    assert [text.split(" differs")[0] for _, text in lacks(workspace, study)] == ["nozzle", "layer height"]
    assert edit(workspace, study, each_at_best=True).each_at_best is True
    assert [text.split(" differs")[0] for _, text in lacks(workspace, study)] == ["layer height"]


def test_a_started_plan_is_amended_with_a_reason(workspace, two):
    study = study_of(workspace, [arm(m) for m in two])
    edit(workspace, study, each_at_best=True)
    assert edit(workspace, study, start=True).started_at == workspace.clock()
    extend = lambda **more: changing.extend_study(  # noqa: E731
        workspace, TOMAS, study.id, StudyExtension(**more), listing.get_study(workspace, study.id).revision
    )
    for change in (lambda: extend(replicates={study.tests[0].id: 6}), lambda: edit(workspace, study, each_at_best=False)):
        with pytest.raises(EntryError, match="say why") as error:
            change()
        assert error.value.field == "reason"
    assert listing.get_study(workspace, study.id).tests[0].replicates == 4
    third = material("Stiff")
    materials.add_material(workspace, ACTOR, third)
    extend(replicates={study.tests[0].id: 6}, arms=[arm(third.id)], reason="too wide an interval")
    now = edit(workspace, study, each_at_best=False, reason="one nozzle")
    assert [(a.who, a.what, a.reason) for a in now.amendments] == [
        ("Tomas", "1 arm more, more specimens of each", "too wide an interval"),
        ("Tomas", "all are printed with the same settings", "one nozzle"),
    ]
    assert edit(workspace, study, each_at_best=True, reason="as it was").amendments[-1].what == "each material is printed at its best"
    assert edit(workspace, study, start=True).started_at == now.started_at, "it begins once"
    copy = study_of(workspace, [arm(m) for m in two])
    assert (copy.started_at, copy.amendments) == (None, [])


def test_printing_starts_a_study(workspace, two):
    study = study_of(workspace, [arm(m) for m in two])
    printed(workspace, study)
    assert listing.get_study(workspace, study.id).started_at == workspace.clock()


# ---- as printed ----------------------------------------------------------------------------------


def test_fairness_is_looked_at_anew_as_it_was_printed(workspace, two):
    study = study_of(workspace, [arm(m) for m in two])
    other = study_of(workspace, [arm(m) for m in two])
    assert lacks(workspace, study) == []
    assert fairness.fairness(workspace, study.id).printed is False
    names = ["Left box", "Right box"]
    made = [printers.add_printer(workspace, ACTOR, NewPrinter(id=new_id(), name=n, **HardwareIn().model_dump()))[0] for n in names]
    at = workspace.clock() - timedelta(days=3)
    printed(workspace, study, 0, printer_id=made[0].id, nozzle="brass 0.4", room=21, printed_at=at)
    printed(workspace, study, 1, printer_id=made[1].id, nozzle="brass 0.4", room=14, printed_at=workspace.clock())
    found = fairness.fairness(workspace, study.id)
    a, b = (x.mark for x in listing.get_study(workspace, study.id).arms)
    assert found.printed is True
    assert [(u.name, u.blocking) for u in found.items] == [("printer differs", True), ("tied to day", True), ("room differs", False), ("one batch", False)]
    assert found.items[0].text == f"printer differs: Left box ({a}); Right box ({b})"
    assert found.items[2].text == f"the room differed: 21 °C ({a}); 14 °C ({b})"
    assert lacks(workspace, other) == [], "another study's batches of the same variants are not its own"


def test_how_old_the_specimens_were_when_they_were_tested_is_compared(workspace, two):
    study = study_of(workspace, [arm(m) for m in two])
    version = rigs.add_rig(workspace, ACTOR, rig())[0].id
    now = workspace.clock()
    for which, printed_days, tested_days in ((0, 20, (6, 0)), (1, 2, (0, 0))):
        batch = printed(workspace, study, which, printed_at=now - timedelta(days=printed_days))
        for specimen, days in zip(batch.specimens, tested_days, strict=False):
            entries = [reading("width", "5.0"), reading("thickness", "4.0"), reading("peak_force", "900 N")]
            entry = {"id": new_id(), "subject_id": specimen.id, "test_id": study.tests[0].id, "rig_version_id": version}
            runs.accept(workspace, ACTOR, NewRun(**entry, happened_at=now - timedelta(days=days), readings=entries, outcome="gauge"))
    told = dict(lacks(workspace, study))
    assert told["age differs"] == "specimens were from 2 to 17 days old when they were tested"


def test_the_moisture_of_the_spool_is_that_of_the_moment_of_printing(lab):
    """The spools of the shared set-up: none is said of either arm's batch."""
    assert "moisture differs" not in [u.name for u in fairness.fairness(lab.workspace, lab.study.id).items]


# ---- power ---------------------------------------------------------------------------------------


def test_power_is_of_the_scatter_seen_here_and_before_that_of_a_usual_one(lab):
    told = {r.test_id: r for r in power.power(lab.workspace, lab.study.id).rows}
    row = told[lab.flat]
    assert (row.scatter_specimens, row.cv, row.replicates) == (0, 0.06, 4)
    assert (row.batch_ratio, row.batch_df, row.detectable[1]) == (0.5, 0, pytest.approx(detectable(0.06, Design(3, 2, 0.5))))
    assert {o.batches: o.needed for o in row.by_batches}[1] == 7, "METHODS 13: of these prints"
    assert (row.margin, row.target, row.target_set, row.needed) == (0.1, 0.1, False, needed(0.06, 0.1, 2, 0.5))
    lab.accept(lab.flat, lab.arms[0], ["60", "61", "62", "66"])
    lab.accept(lab.flat, lab.arms[1], ["50", "51", "54"])
    told = {r.test_id: r for r in power.power(lab.workspace, lab.study.id).rows}
    (here,) = (s for s in scatter.scatter(lab.workspace).items if s.orientation == "flat")
    assert (told[lab.flat].scatter_specimens, told[lab.flat].cv) == (7, here.cv)
    assert (told[lab.flat].needed, here.batch_ratio) == (needed(here.cv, 0.1, 2, 0.5), None)
    assert told[lab.upright].scatter_specimens == 0, "another orientation scatters otherwise"


def test_several_comparisons_need_more_and_bounds_on_absolute_margins_are_not_guessed(workspace, two):
    third = material("Stiff")
    materials.add_material(workspace, ACTOR, third)
    tests = [NewTest(id=new_id(), orientation="flat"), NewTest(id=new_id(), orientation="upright", margin=3, margin_relative=False)]
    small, large = (
        power.power(workspace, study_of(workspace, [arm(m) for m in of], [t.model_copy(update={"id": new_id()}) for t in tests]).id)
        for of in (two, [*two, third.id])
    )
    assert (small.comparisons, large.comparisons) == (1, 2)
    assert large.rows[0].by_batches[0].needed > small.rows[0].by_batches[0].needed
    assert large.rows[0].detectable[3] == pytest.approx(detectable(0.06, Design(5, 2, 0.5, 2)))
    assert (small.rows[1].margin, small.rows[1].needed, small.rows[1].by_batches) == (None, None, [])


def test_batches_and_target_differences_are_planned_and_stay(workspace, two):
    study = study_of(workspace, [arm(m) for m in two])
    test_id = study.tests[0].id
    edited = changing.edit_study(workspace, ACTOR, study.id, StudyEdit(batches=4, targets={test_id: 0.2}), study.revision)
    assert (edited.batches, edited.tests[0].target) == (4, 0.2)
    with workspace.read() as session:
        (told,) = session.scalars(select(Change).where(Change.action == "batches planned"))
        assert (told.before, told.after) == ({"batches": study.batches}, {"batches": 4})
    row = power.power(workspace, study.id).rows[0]
    assert (row.target, row.target_set, row.margin, row.needed) == (0.2, True, 0.1, needed(0.06, 0.2, 4, 0.5))
    assert row.detectable[:3] == [None, None, pytest.approx(detectable(0.06, Design(4, 4, 0.5)))], "no more batches than specimens"
    back = changing.edit_study(workspace, ACTOR, study.id, StudyEdit(targets={test_id: None}), edited.revision)
    assert (back.batches, back.tests[0].target) == (4, None)
    with pytest.raises(EntryError, match="no such test"):
        changing.edit_study(workspace, ACTOR, study.id, StudyEdit(targets={new_id(): 0.2}), back.revision)


def test_what_is_still_to_be_printed_is_held_against_the_spools(workspace, two):
    study = study_of(workspace, [arm(m) for m in two])
    row, needs = (told := power.power(workspace, study.id)).rows[0], told.needs
    assert row.mass_each == pytest.approx([3.582 * 1.24, 3.582 * 1.1], rel=1e-3)
    assert [n.mass for n in needs] == pytest.approx([4 * m for m in row.mass_each])
    assert (row.volume_each, [n.volume for n in needs]) == (pytest.approx(3.582, rel=1e-3), pytest.approx([4 * row.volume_each] * 2))
    assert [n.left for n in needs] == [None, None], "no spool is at hand"
    printed(workspace, study, 0)
    assert [n.mass for n in power.power(workspace, study.id).needs] == pytest.approx([0, 4 * row.mass_each[1]])


# ---- how specimens came off the plate ------------------------------------------------------------


def outcome(workspace, batch, **by_position):
    told = [{"specimen_id": batch.specimens[int(k[1:]) - 1].id, "outcome": v[0], "fault": v[1]} for k, v in by_position.items()]
    return judging.judge_batch(workspace, TOMAS, batch.id, BatchOutcome(specimens=told))


def waiting(workspace, study):
    return [t.waiting for a in batches.print_plan(workspace, study.id).arms for t in a.tests]


def test_what_did_not_come_out_leaves_its_replicate_to_be_printed_again(workspace, two):
    study = study_of(workspace, [arm(m) for m in two])
    batch = printed(workspace, study)
    assert waiting(workspace, study) == [0, 4]
    codes = lambda: [i.code for i in queue.queue(workspace, study.tests[0].id, "st", blind=False).items]  # noqa: E731
    assert len(codes()) == 4
    judged = outcome(workspace, batch, p2=("misprinted", "infill 20 %"), p3=("would not stick", ""))
    assert [(s.outcome, s.fault) for s in judged.specimens] == [("good", ""), ("misprinted", "infill 20 %"), ("would not stick", ""), ("good", "")]
    assert [s.number for s in judged.specimens] == [1, 2, 3, 4], "it is still known which it was printed for"
    wrong = judged.specimens[1]
    assert specimens.get_specimen(workspace, wrong.id).doubt == "misprinted, infill 20 %"
    assert specimens.get_specimen(workspace, judged.specimens[2].id).doubt == "would not stick"
    assert specimens.get_specimen(workspace, judged.specimens[0].id).doubt is None
    assert [(f.kind, f.code, f.detail) for f in search.search(workspace, wrong.code, 10).items if f.kind == "specimen"] == [
        ("specimen", wrong.code, study.title)
    ]
    version = rigs.add_rig(workspace, ACTOR, rig())[0].id
    entry = NewRun(id=new_id(), subject_id=wrong.id, test_id=study.tests[0].id, rig_version_id=version, happened_at=workspace.clock(), readings=[])
    with pytest.raises(EntryError, match=r"so: misprinted, infill 20 %\. Take that back"):
        runs.accept(workspace, ACTOR, entry)
    assert set(codes()) == {judged.specimens[0].code, judged.specimens[3].code}
    assert waiting(workspace, study) == [2, 4]
    again = printed(workspace, study)
    assert [s.number for s in again.specimens] == [2, 3]
    assert waiting(workspace, study) == [0, 4]
    with pytest.raises(ConflictError, match="was printed again meanwhile"):
        outcome(workspace, batch, p2=("good", ""))
    assert len(batches.batches_of(workspace, study.id).items) == 2
    assert batches.batches_of(workspace, study.id).items[1].id in (batch.id, again.id)


def test_an_outcome_is_taken_back_while_nothing_came_in_its_place(workspace, two):
    study = study_of(workspace, [arm(m) for m in two])
    batch = printed(workspace, study)
    outcome(workspace, batch, p1=("failed", "stopped at 3 mm"))
    outcome(workspace, batch, p1=("failed", "stopped at 4 mm"))
    assert waiting(workspace, study) == [1, 4]
    back = outcome(workspace, batch, p1=("good", "ignored"))
    assert (back.specimens[0].outcome, back.specimens[0].fault) == ("good", "")
    assert waiting(workspace, study) == [0, 4]
    other = printed(workspace, study, 1)
    with pytest.raises(EntryError, match="not of this batch"):
        judging.judge_batch(workspace, TOMAS, batch.id, BatchOutcome(specimens=[{"specimen_id": other.specimens[0].id, "outcome": "failed"}]))
    with pytest.raises(MissingError):
        judging.judge_batch(workspace, TOMAS, new_id(), BatchOutcome(specimens=[{"specimen_id": other.specimens[0].id, "outcome": "failed"}]))
    with pytest.raises(MissingError):
        printed(workspace, study_of(workspace, [arm(m) for m in two]), 0, printer_id=new_id())


def test_a_reprint_is_taken_back_beside_the_one_that_was_left_out(lab):
    lab.accept(lab.flat, lab.arms[0], ["60"], validity="left_out", validity_reason="slipped in the grips")
    (slot,) = next(t.again for a in batches.print_plan(lab.workspace, lab.study.id).arms for t in a.tests if t.again)
    again = NewBatch(id=new_id(), arm_id=lab.arms[0], slot_ids=[slot], printed_at=lab.workspace.clock())
    reprint = batches.print_batch(lab.workspace, ACTOR, again)[0]
    outcome(lab.workspace, reprint, p1=("misprinted", ""))
    assert [t.again for a in batches.print_plan(lab.workspace, lab.study.id).arms for t in a.tests if t.again] == [[slot]]
    assert outcome(lab.workspace, reprint, p1=("good", "")).specimens[0].outcome == "good"


def test_what_was_tested_is_not_said_to_have_failed_on_the_plate(lab):
    lab.accept(lab.flat, lab.arms[0], ["60"])
    code = next(c for c in lab.column(lab.flat).cells[0].dots).code
    batch = next(b for b in batches.batches_of(lab.workspace, lab.study.id).items if code in [s.code for s in b.specimens])
    specimen = next(s for s in batch.specimens if s.code == code)
    assert specimen.tested is True
    assert sum(s.tested for s in batch.specimens) == 1
    told = BatchOutcome(specimens=[{"specimen_id": specimen.id, "outcome": "misprinted"}])
    with pytest.raises(ConflictError, match="was tested already"):
        judging.judge_batch(lab.workspace, TOMAS, batch.id, told)


# ---- designs -------------------------------------------------------------------------------------


def test_designs_are_shown_with_their_aliases_in_words():
    three = [{"name": "fan", "levels": [0, 50]}, {"name": "nozzle_temperature", "levels": [230, 245]}, {"name": "flow", "levels": [95, 100]}]
    half = designs.design(DesignQuestion(kind="fraction", factors=three))
    assert len(half.runs) == 4
    assert half.aliases == ["fan = nozzle × flow", "nozzle = fan × flow", "flow = fan × nozzle"]
    assert designs.design(DesignQuestion(factors=three[:1])).runs == [[0], [50]]
    composite = designs.design(DesignQuestion(kind="central composite", factors=three[:2]))
    assert len(composite.runs) == 9, "the centre is one arm: it is repeated by its replicates"
    assert [25, 237.5] in composite.runs
    cube = DesignQuestion(kind="Latin hypercube", factors=three, runs=6, seed=3)
    assert len(designs.design(cube).runs) == 6
    assert designs.design(cube) == designs.design(cube)
    for wrong, field in (
        ({"name": "seam", "levels": [1, 2]}, "factors"),
        ({"name": "none", "levels": [1, 2]}, "factors"),
        ({"name": "fan", "levels": [0, 120]}, "fan"),
    ):
        with pytest.raises(EntryError) as error:
            designs.design(DesignQuestion(factors=[wrong]))
        assert error.value.field == field
