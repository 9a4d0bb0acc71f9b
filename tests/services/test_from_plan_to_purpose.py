"""Scatter, findings, history, purposes, plans, prints, recompute: against core and against second computations."""

from datetime import timedelta

import numpy as np
import pytest
from sqlalchemy import text

from assayer.core.errors import AssayerError, ConflictError, EntryError, QuestionError, StaleError
from assayer.services.bench import recompute, runs
from assayer.services.bench.requests import RunEdit
from assayer.services.choose import purposes, ranking
from assayer.services.choose.requests import CriterionSpec, NewPurpose, PurposeEdit
from assayer.services.day import sheet
from assayer.services.findings import one_test
from assayer.services.printing import batches, printers
from assayer.services.printing.requests import NewBatch, NewPrinter, PrinterEdit
from assayer.services.reports import dossier
from assayer.services.rigs.requests import NewCalibration
from assayer.services.stock import listing, materials
from assayer.services.studies import board, planning, scatter
from assayer.services.studies import listing as studies_listing
from assayer.services.studies.requests import NewArm, NewStudy, NewTest
from assayer.services.unit import Actor
from assayer.store.models import Result

from ..conftest import NOW
from ..support import ACTOR, Lab, jack, material, new_id, run
from .stockroom import add_petg, ago, spool_of

TOMAS = Actor("Tomas", "Europe/Berlin")


def _three_materials(workspace):
    made = Lab(workspace, [NewTest(id=new_id(), orientation=o, replicates=5) for o in ("flat", "upright")], ("Everyday", "Clearwater", "Outdoor"))
    made.flat, made.upright = made.tests
    return made


@pytest.fixture
def lab(once):
    return once("three materials", _three_materials)


def test_a_purpose_may_ask_of_a_test_only_what_was_measured_in_it(lab):
    lab.accept(lab.flat, lab.arms[0], ["60", "62"])

    def offered(test):
        return {o.quantity for o in purposes.criterion_options(lab.workspace, lab.study.id).items if o.test_id == test and o.quantity != "layer_ratio"}

    with lab.workspace.write(ACTOR) as unit:
        kept = unit.session.query(Result).filter(Result.test_id == lab.flat).first()
        more = {c.name: getattr(kept, c.name) for c in Result.__table__.columns if c.name != "seq"} | {"quantity": "apparent_modulus"}
        unit.session.add(Result(**more))
    assert {"strength", "apparent_modulus"} <= offered(lab.flat)
    assert offered(lab.upright) == {"strength"}


# ---- what was measured ---------------------------------------------------------------------------


def test_scatter_here_is_pooled_within_arms_and_rigs(lab):
    """Left out, bounds and single values are none of it; a second computation of the pooled coefficient of variation."""
    lab.accept(lab.flat, lab.arms[0], ["60", "62", "64"])
    lab.accept(lab.flat, lab.arms[1], ["40", "41"])
    lab.accept(lab.flat, lab.arms[2], ["50"])
    lab.accept(lab.flat, lab.arms[2], ["90"], outcome="grip")
    lab.accept(lab.flat, lab.arms[1], ["20"], validity="left_out", validity_reason="slipped", unchecked=True)
    gone = lab.accept(lab.flat, lab.arms[1], ["99"], unchecked=True)[0]
    runs.retract(lab.workspace, ACTOR, gone.id)
    (found,) = scatter.scatter(lab.workspace).items
    area = 4.02 * 3.97 / 9.80665
    groups = [np.array(g) / area for g in ((60, 62, 64), (40, 41))]
    df = sum(g.size - 1 for g in groups)
    assert (found.method, found.orientation, found.quantity, found.unit) == ("tension", "flat", "strength", "MPa")
    assert (found.arms, found.specimens) == (3, 6)
    assert found.sd == pytest.approx(np.sqrt(sum((g.size - 1) * g.var(ddof=1) for g in groups) / df))
    assert found.cv == pytest.approx(np.sqrt(sum((g.size - 1) * (g.std(ddof=1) / g.mean()) ** 2 for g in groups) / df))


def test_scatter_here_follows_every_change_and_reads_no_test_anew_that_had_none(lab, monkeypatch):
    read = []
    plain = scatter._read
    monkeypatch.setattr(scatter, "_read", lambda session, ids: read.append(set(ids)) or plain(session, ids))

    def seen():
        read.clear()
        return {s.orientation: (s.arms, s.specimens, s.sd) for s in scatter.scatter(lab.workspace).items}

    lab.accept(lab.flat, lab.arms[0], ["60", "62", "64"])
    last = lab.accept(lab.flat, lab.arms[0], ["80"], unchecked=True)[0]
    before = seen()
    assert before["flat"][:2] == (1, 4)
    assert seen() == before
    assert read == [set()]
    lab.accept(lab.upright, lab.arms[1], ["30", "31"])
    both = seen()
    assert read == [{lab.upright}]
    assert both["flat"] == before["flat"]
    assert both["upright"][:2] == (1, 2)
    runs.edit_run(lab.workspace, ACTOR, last.id, RunEdit(validity="left_out", validity_reason="slipped"), None)
    left_out = seen()
    assert read == [{lab.flat}]
    assert left_out["flat"][:2] == (1, 3)
    assert left_out["flat"][2] < before["flat"][2] / 2


def test_findings_say_what_core_says_of_the_same_values(lab):
    from assayer.core.stats.groups import summarise
    from assayer.core.stats.outliers import grubbs
    from assayer.core.stats.several_groups import games_howell, welch_anova

    peaks = {0: ["60", "61", "62", "61.5", "90"], 1: ["50", "51", "52"], 2: ["40", "44", "41"]}
    kept = {arm: lab.accept(lab.flat, lab.arms[arm], p, unchecked=True) for arm, p in peaks.items()}
    shown = one_test.findings(lab.workspace, lab.flat)
    values = {lab.arms[a]: [r.results[0].value for r in own] for a, own in kept.items()}
    groups = {a: summarise(v, 0.1 * 9.80665 / (4.02 * 3.97)) for a, v in values.items()}
    assert [a.arm.id for a in shown.arms] == lab.arms
    for a in shown.arms:
        own = groups[a.arm.id]
        assert (a.group.n, a.group.mean, a.group.sd) == (own.n, pytest.approx(own.mean), pytest.approx(own.sd))
    assert (shown.anova.f, shown.anova.p) == (pytest.approx(welch_anova(groups).f), pytest.approx(welch_anova(groups).p))
    assert {(p.a, p.b): p.p for p in shown.pairs} == {(p.a, p.b): pytest.approx(p.p) for p in games_howell(groups)}
    odd = shown.arms[0].outlier
    assert (odd.code, odd.g) == (kept[0][4].code, pytest.approx(grubbs(values[lab.arms[0]]).g))
    assert [a.outlier for a in shown.arms[1:]] == [None, None]
    assert [a.verdict is None for a in shown.arms] == [True, False, False]
    with pytest.raises(EntryError, match="has no quantity 'speed'"):
        one_test.findings(lab.workspace, lab.flat, "speed")
    with pytest.raises(EntryError, match="this test has no layer ratio"):
        one_test.findings(lab.workspace, lab.flat, "layer_ratio")
    assert [q.name for q in one_test.findings(lab.workspace, lab.upright).quantities] == ["layer_ratio"]


def test_history_tells_rigs_tests_and_studies_apart(lab):
    other = jack(lab.workspace)
    lab.accept(lab.flat, lab.arms[0], ["60", "61"])
    lab.accept(lab.upright, lab.arms[0], ["30"])
    runs.accept(lab.workspace, ACTOR, run(lab.specimens(lab.flat, lab.arms[0], "waiting")[0], lab.flat, other.id, "600"))
    out = lab.accept(lab.flat, lab.arms[0], ["62"])[0]
    runs.edit_run(lab.workspace, ACTOR, out.id, RunEdit(validity="left_out", validity_reason="slipped"), out.revision)
    history = dossier.dossier(lab.workspace, lab.study.arms[0].material.id).history
    strengths = {(g.test_id, g.rig_version_id): (g.n, len(g.values), g.main) for g in history if g.quantity == "strength"}
    assert strengths == {(lab.flat, lab.rig): (2, 2, True), (lab.upright, lab.rig): (1, 1, True), (lab.flat, other.id): (1, 1, True)}
    assert {g.test for g in history} == {"Tension", "Layer adhesion"}
    assert dossier.dossier(lab.workspace, lab.study.arms[1].material.id).history == []


# ---- purposes ------------------------------------------------------------------------------------


def spec(lab, test, **more):
    return CriterionSpec(**{"id": new_id(), "test_id": test, "quantity": "strength", "no_use": 0, "all_needed": 60} | more)


def test_a_purpose_asks_for_what_the_study_has_and_for_each_once(lab):
    def add(*specs, **more):
        return purposes.add_purpose(
            lab.workspace, ACTOR, NewPurpose(**{"id": new_id(), "study_id": lab.study.id, "title": "p", "criteria": list(specs)} | more)
        )

    for specs, words in (
        ((spec(lab, new_id()),), "criterion 1: the study has no such test"),
        ((spec(lab, lab.flat), spec(lab, lab.flat, quantity="hardness")), "criterion 2: the study has no such"),
        ((spec(lab, lab.flat, quantity="layer_ratio"),), "criterion 1: the study has no such"),
        ((spec(lab, lab.flat), spec(lab, lab.flat)), "criterion 2 is there twice"),
        ((spec(lab, lab.flat, no_use=5, all_needed=5),), "two different numbers"),
    ):
        with pytest.raises(EntryError, match=words) as refused:
            add(*specs)
        if words.startswith("criterion"):
            assert refused.value.row == int(words.split()[1].rstrip(":")), "the row is the one that the words name"
    key = new_id()
    both = spec(lab, lab.flat), spec(lab, lab.upright, quantity="layer_ratio", all_needed=1)
    made, fresh = add(*both, id=key)
    assert fresh
    assert [(c.label, c.derived, c.test_label) for c in made.criteria] == [("strength", False, "Tension"), ("layer ratio", True, "Layer adhesion")]
    assert add(*both, id=key)[1] is False
    for other in ([spec(lab, lab.flat)], both):
        with pytest.raises(ConflictError, match="this purpose was kept before with other content") as told:
            add(*other, id=key, title="p" if len(other) == 1 else "q")
        assert told.value.current == made


def test_weights_are_kept_with_their_revision_and_tried_without(lab):
    lab.accept(lab.flat, lab.arms[0], ["60", "61", "62"])
    lab.accept(lab.flat, lab.arms[1], ["50", "51", "52"])
    lab.accept(lab.upright, lab.arms[0], ["28", "29", "30"])
    lab.accept(lab.upright, lab.arms[1], ["40", "41", "42"])
    one, two = spec(lab, lab.flat, no_use=20), spec(lab, lab.upright, no_use=5)
    purpose = purposes.add_purpose(lab.workspace, ACTOR, NewPurpose(id=new_id(), study_id=lab.study.id, title="p", criteria=[one, two]))[0]

    def first(weights=None):
        return next(r.arm_id for r in ranking.rank(lab.workspace, purpose.id, weights).ranked if r.arm_id in lab.arms[:2])

    assert first({one.id: 10, two.id: 0}) == lab.arms[0]
    assert first({one.id: 0, two.id: 10}) == lab.arms[1]
    kept = purposes.edit_purpose(lab.workspace, ACTOR, purpose.id, PurposeEdit(weights={one.id: 9.0, two.id: 0.0}), purpose.revision)
    assert {c.id: c.weight for c in kept.criteria} == {one.id: 9.0, two.id: 0.0}
    assert first() == lab.arms[0]
    with pytest.raises(StaleError):
        purposes.edit_purpose(lab.workspace, ACTOR, purpose.id, PurposeEdit(weights={one.id: 1.0}), purpose.revision)
    with pytest.raises(EntryError, match="does not have"):
        purposes.edit_purpose(lab.workspace, ACTOR, purpose.id, PurposeEdit(weights={new_id(): 1.0}), kept.revision)
    with pytest.raises(EntryError, match="at least one weight must be above 0"):
        purposes.edit_purpose(lab.workspace, ACTOR, purpose.id, PurposeEdit(weights={one.id: 0.0}), kept.revision)
    third = {r.arm_id: r for r in ranking.rank(lab.workspace, purpose.id).ranked}[lab.arms[2]]
    assert (third.coverage, third.usefulness[one.id]) == (0.0, None), "what was not tested is not filled in"


def test_a_ranking_follows_its_data(lab):
    lab.accept(lab.flat, lab.arms[0], ["60", "61", "62"])
    lab.accept(lab.flat, lab.arms[1], ["50", "51", "52"])
    only = spec(lab, lab.flat, no_use=20)
    purpose = purposes.add_purpose(lab.workspace, ACTOR, NewPurpose(id=new_id(), study_id=lab.study.id, title="p", criteria=[only]))[0]
    before = ranking.rank(lab.workspace, purpose.id)
    lab.accept(lab.flat, lab.arms[1], ["85", "86"], unchecked=True)
    after = ranking.rank(lab.workspace, purpose.id)
    assert after.data_revision > before.data_revision
    moved = [{r.arm_id: r.score_low for r in found.ranked}[lab.arms[1]] for found in (before, after)]
    assert moved[1] > moved[0]
    recompute.calibrate(lab.workspace, ACTOR, lab.rig, NewCalibration(id=new_id(), channel="force", factor=0.5, valid_from=ago(100)))
    halved = {r.arm_id: r.estimates[only.id] for r in ranking.rank(lab.workspace, purpose.id).ranked}
    assert halved[lab.arms[0]] == pytest.approx(0.5 * {r.arm_id: r.estimates[only.id] for r in after.ranked}[lab.arms[0]])


def test_the_reference_is_an_arm_of_the_study(lab):
    with pytest.raises(EntryError, match="must be an arm of this study"):
        board.set_reference(lab.workspace, ACTOR, lab.study.id, new_id(), None)
    with pytest.raises(StaleError):
        board.set_reference(lab.workspace, ACTOR, lab.study.id, lab.arms[1], 999)


# ---- planning and printing -----------------------------------------------------------------------


@pytest.mark.parametrize(
    "change, field, words",
    [
        ({"tests": [NewTest(id=new_id(), method="hardness", orientation="upright")]}, "tests", "Hardness is done flat, not upright"),
        ({"tests": [NewTest(id=new_id(), orientation="flat", shape="bar")]}, "shape", "has no shape 'bar'"),
        ({"tests": [NewTest(id=new_id(), method="creep", orientation="flat", protocol={"load": 1.0, "weight": 2.0})]}, "weight", "has no 'weight'"),
        ({"tests": [NewTest(id=new_id(), method="pull", orientation="flat")]}, "method", "there is no method 'pull'"),
    ],
)
def test_a_plan_that_cannot_be_is_refused_while_it_is_made(workspace, change, field, words):
    m = material()
    materials.add_material(workspace, ACTOR, m)
    base = {"id": new_id(), "title": "t", "arms": [NewArm(id=new_id(), material_id=m.id)], "tests": [NewTest(id=new_id(), orientation="flat")]}
    with pytest.raises(EntryError, match=words) as refused:
        planning.create_study(workspace, ACTOR, NewStudy(**base | change))
    assert refused.value.field == field
    twice = {"arms": [NewArm(id=new_id(), material_id=m.id), NewArm(id=new_id(), material_id=m.id)]}
    with pytest.raises(EntryError, match="arm 2 is the same material, treatment and settings"):
        planning.create_study(workspace, ACTOR, NewStudy(**base | twice))
    made, fresh = planning.create_study(workspace, ACTOR, NewStudy(**base))
    assert fresh
    assert planning.create_study(workspace, ACTOR, NewStudy(**base)) == (made, False)
    with pytest.raises(ConflictError, match="this study was kept before with other content"):
        planning.create_study(workspace, ACTOR, NewStudy(**base | {"title": "u"}))
    assert (made.reference_arm_id, made.tests[0].margin, made.tests[0].margin_relative) == (made.arms[0].id, 0.1, True)


def test_treatments_and_colours_make_arms_of_their_own_with_marks_of_their_own(workspace):
    m = material()
    materials.add_material(workspace, ACTOR, m)
    arms = [NewArm(id=new_id(), material_id=m.id, treatment=t) for t in ("", "annealed", "soaked")]
    made = planning.create_study(workspace, ACTOR, NewStudy(id=new_id(), title="t", arms=arms, tests=[NewTest(id=new_id(), orientation="flat")]))[0]
    assert [a.treatment for a in made.arms] == ["", "annealed", "soaked"]
    assert len({a.mark for a in made.arms}) == 3


def test_a_print_is_of_one_arm_its_material_and_what_waits(workspace):
    page = spool_of(workspace)
    other = add_petg(workspace, colour="grey")
    plan = NewStudy(
        id=new_id(),
        title="t",
        arms=[NewArm(id=new_id(), material_id=k) for k in (page.material_id, other)],
        tests=[NewTest(id=new_id(), orientation=o, replicates=2) for o in ("flat", "upright")],
    )
    study = planning.create_study(workspace, ACTOR, plan)[0]
    one, two = (a.id for a in study.arms)
    flat, upright = (t.id for t in study.tests)

    def batch(arm, **more):
        return batches.print_batch(workspace, ACTOR, NewBatch(**{"id": new_id(), "arm_id": arm, "printed_at": ago(1)} | more))[0]

    with pytest.raises(EntryError, match="holds another material"):
        batch(two, spool_id=page.id)
    with pytest.raises(EntryError, match="a test of another study"):
        batch(one, test_ids=[new_id()])
    with pytest.raises(QuestionError, match="lies in the future"):
        batch(one, printed_at=NOW + timedelta(days=1))
    made = batch(one, test_ids=[upright], spool_id=page.id)
    assert ([s.test_id for s in made.specimens], made.spool_code) == ([upright] * 2, page.code)
    assert made.mass == pytest.approx(2 * 3.58204 * 1.29, abs=1e-3)
    waiting = {a.arm_id: {t.test_id: t.waiting for t in a.tests} for a in batches.print_plan(workspace, study.id).arms}
    assert waiting == {one: {flat: 2, upright: 0}, two: {flat: 2, upright: 2}}
    assert [i.kind for i in sheet.day_sheet(workspace).items if i.study_id == study.id] == ["to print", "specimens"]
    assert next(i.text for i in sheet.day_sheet(workspace).items if i.kind == "to print") == "6 of 8 specimens planned, not printed"
    assert next(i.text for i in sheet.day_sheet(workspace).items if i.kind == "specimens") == "2 of 2 specimens still to be tested"
    assert len(batch(one).specimens) == 2
    with pytest.raises(ConflictError, match="waits to be printed"):
        batch(one)
    use = next(u for u in listing.list_stock(workspace, listing.StockQuery(words=page.code)).items[0].spools)
    assert use.left == pytest.approx(750 - 2 * 3.58204 * 1.29, abs=1e-3), "the second print named no spool"


def test_a_printer_has_one_name_and_is_edited_under_its_revision(workspace):
    new = NewPrinter(id=new_id(), name="Bench One", nozzle=0.4)
    made, fresh = printers.add_printer(workspace, ACTOR, new)
    assert fresh
    assert printers.add_printer(workspace, ACTOR, new) == (made, False)
    with pytest.raises(ConflictError, match="this printer was kept before with other content"):
        printers.add_printer(workspace, ACTOR, new.model_copy(update={"name": "Bench Two"}))
    with pytest.raises(ConflictError, match="already a printer called 'Bench One'"):
        printers.add_printer(workspace, ACTOR, new.model_copy(update={"id": new_id()}))
    edited = printers.edit_printer(workspace, ACTOR, made.id, PrinterEdit(nozzle=0.6), made.revision)
    assert (edited.nozzle, edited.revision) == (0.6, made.revision + 1)
    with pytest.raises(StaleError):
        printers.edit_printer(workspace, ACTOR, made.id, PrinterEdit(nozzle=0.8), made.revision)


# ---- recompute -----------------------------------------------------------------------------------


def test_recompute_tells_progress_and_names_what_cannot_be_reduced(lab):
    kept = lab.accept(lab.flat, lab.arms[0], ["60", "61", "62"])
    told = []
    assert recompute.recompute(lab.workspace, ACTOR, lambda done, total: told.append((done, total))) == []
    assert told == [(3, 3)]
    with lab.workspace.write(ACTOR) as unit:
        unit.session.execute(text("UPDATE results SET value = value * 1.5 WHERE quantity = 'strength' AND run_id = :r"), {"r": kept[1].id})
    moved = recompute.recompute(lab.workspace, TOMAS)
    assert [(m.code, m.quantity, m.unit) for m in moved] == [(kept[1].code, "strength", "MPa")]
    assert moved[0].old == pytest.approx(1.5 * moved[0].new)
    assert recompute.recompute(lab.workspace, ACTOR) == []
    with lab.workspace.db.write() as session:
        session.execute(text("UPDATE runs SET outcome = 'burst' WHERE id = :r"), {"r": kept[2].id})
    with pytest.raises(AssayerError, match=f"{kept[2].code}: .*has no outcome 'burst'"):
        recompute.recompute(lab.workspace, ACTOR)


def test_a_test_planned_without_a_margin_has_its_quantity_s_own(workspace):
    new = material()
    materials.add_material(workspace, ACTOR, new)
    tests = [
        NewTest(id=new_id(), orientation="flat", replicates=2),
        NewTest(id=new_id(), orientation="upright", replicates=2, margin=3.5, margin_relative=False),
    ]
    study = planning.create_study(workspace, ACTOR, NewStudy(id=new_id(), title="t", arms=[NewArm(id=new_id(), material_id=new.id)], tests=tests))[0]
    assert [(t.margin, t.margin_relative) for t in study.tests] == [(0.1, True), (3.5, False)]


def test_the_list_of_studies_shows_each_study_s_own_materials(lab):
    other = material("Burden", "grey", hex="#808080")
    materials.add_material(lab.workspace, ACTOR, other)
    new = NewStudy(id=new_id(), title="B", arms=[NewArm(id=new_id(), material_id=other.id)], tests=[NewTest(id=new_id(), orientation="flat", replicates=2)])
    planning.create_study(lab.workspace, ACTOR, new)
    shown = {s.title: [w.hex for w in s.swatches] for s in studies_listing.list_studies(lab.workspace, 10, 0).items}
    assert shown == {"B": ["#808080"], "t": ["#D9962B"] * 3}
