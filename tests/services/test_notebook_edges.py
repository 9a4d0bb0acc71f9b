"""Ids that are reused, edits of rigs and materials, records, scatter, findings, purposes, prints: what a notebook must not mix up."""

from datetime import timedelta

import numpy as np
import pytest
from sqlalchemy import text

from assayer.core.codes import SYMBOLS, with_check
from assayer.core.errors import AssayerError, CodeError, ConflictError, EntryError, MissingError, QuestionError, StaleError
from assayer.services import codes, people
from assayer.services.bench import recompute, runs
from assayer.services.bench.requests import RunEdit
from assayer.services.choose import purposes, ranking
from assayer.services.choose.requests import CriterionSpec, NewPurpose, WeightsEdit
from assayer.services.day import sheet
from assayer.services.printing import batches, printers
from assayer.services.printing.requests import HardwareIn, NewBatch, NewPrinter
from assayer.services.reports import dossier
from assayer.services.rigs import rigs, templates
from assayer.services.rigs.requests import CalibrationEdit, ColumnAnswer, NewCalibration, NewRigVersion, RigEdit, TemplateAnswer
from assayer.services.stock import labels, listing, lists, materials
from assayer.services.stock.requests import ImportText, MaterialEdit, NewClaim, WindowIn
from assayer.services.studies import board, findings, planning, scatter
from assayer.services.studies.requests import NewArm, NewStudy, NewTest
from assayer.services.unit import Actor
from assayer.store.models import Specimen

from ..conftest import NOW
from ..support import ACTOR, AT, Lab, channel, material, new_id, rig, run
from .stockroom import add_petg, ago, spool_of

TOMAS = Actor("Tomas", "Europe/Berlin")


@pytest.fixture
def lab(workspace):
    made = Lab(workspace, [NewTest(id=new_id(), orientation=o, replicates=5) for o in ("flat", "upright")], ("Everyday", "Clearwater", "Outdoor"))
    made.flat, made.upright = made.tests
    return made


def rig_page(lab):
    return rigs.get_rig(lab.workspace, next(r.rig_id for r in rigs.list_rigs(lab.workspace).items if r.id == lab.rig))


# ---- rigs ----------------------------------------------------------------------------------------


def test_a_rig_is_renamed_or_serves_other_methods_without_another_version(lab):
    jack = rigs.add_rig(lab.workspace, ACTOR, rig(name="Jack", channels=[channel("force", "N", 1), channel("length", "mm", 0.01)]))[0]
    lab.accept(lab.flat, lab.arms[0], ["60", "61"])
    runs.accept(lab.workspace, ACTOR, run(lab.specimens(lab.flat, lab.arms[0], "waiting")[0], lab.flat, jack.id, "600"))
    assert any("another rig (Jack)" in n for n in lab.cell(lab.flat, lab.arms[0]).notes)
    page = rigs.edit_rig(lab.workspace, TOMAS, jack.rig_id, RigEdit(name="Old jack"))
    assert (page.rig.name, page.rig.version, page.runs) == ("Old jack", 1, 1)
    assert any("another rig (Old jack)" in n for n in lab.cell(lab.flat, lab.arms[0]).notes), "the board says it anew"
    last = page.record[0]
    assert (last.who, last.action, [(c.name, c.before, c.after) for c in last.changes]) == ("Tomas", "edited", [("name", "Jack", "Old jack")])
    with pytest.raises(ConflictError, match="already a rig called 'Pull frame'"):
        rigs.edit_rig(lab.workspace, ACTOR, jack.rig_id, RigEdit(name="Pull frame"))
    with pytest.raises(EntryError, match="there is no method 'pull'"):
        rigs.edit_rig(lab.workspace, ACTOR, jack.rig_id, RigEdit(methods=["pull"]))
    assert rigs.edit_rig(lab.workspace, ACTOR, jack.rig_id, RigEdit(methods=["shear"])).rig.methods == ["shear"]
    same = rigs.edit_rig(lab.workspace, ACTOR, jack.rig_id, RigEdit(name="Old jack"))
    assert same.rig.name == "Old jack", "its own name is no twin"


def test_ids_of_rigs_versions_and_calibrations_belong_to_one(lab, workspace):
    new = rig(name="Jack")
    rigs.add_rig(workspace, ACTOR, new)
    assert rigs.add_rig(workspace, ACTOR, new)[1] is False
    with pytest.raises(ConflictError, match="another rig already has this id"):
        rigs.add_rig(workspace, ACTOR, new.model_copy(update={"name": "John"}))
    page = rig_page(lab)
    with pytest.raises(ConflictError, match="another rig's version already has this id"):
        rigs.add_version(workspace, ACTOR, page.rig.rig_id, NewRigVersion(version_id=new.version_id, channels=new.channels))
    assert rigs.add_version(workspace, ACTOR, new.id, NewRigVersion(version_id=new.version_id, channels=new.channels))[1] is False
    first = NewCalibration(id=new_id(), channel="force", factor=1.01, valid_from=ago(48))
    assert recompute.calibrate(workspace, ACTOR, lab.rig, first)[1]
    assert not recompute.calibrate(workspace, ACTOR, lab.rig, first)[1]
    for rig_id, name in ((new.version_id, "force"), (lab.rig, "length")):
        with pytest.raises(ConflictError, match="another calibration already has this id"):
            recompute.calibrate(workspace, ACTOR, rig_id, first.model_copy(update={"channel": name}))


@pytest.mark.parametrize(
    "channels, row, words",
    [
        ([channel("force", "N", 1), channel("force", "kgf", 1)], 2, "'force' is there twice"),
        ([channel("force", "mm", 1)], 1, "channel 1: 'mm' is not a unit of force"),
        ([channel("force", "N", 1), channel("x", "N", 1, dimension="weight")], 2, "'weight' is no dimension"),
        ([channel("force", "N", 1, low=10, high=10)], 1, "the range 10 … 10 is upside down"),
    ],
)
def test_channels_that_cannot_be_are_named(workspace, channels, row, words):
    with pytest.raises(EntryError, match=words) as refused:
        rigs.add_rig(workspace, ACTOR, rig(channels=channels))
    assert (refused.value.field, refused.value.row) == ("channels", row)
    assert rigs.list_rigs(workspace).items == []


@pytest.mark.parametrize(
    "change, field, words",
    [
        ({"factor": None}, "factor", "cannot be left empty"),
        ({"valid_from": None}, "valid_from", "cannot be left empty"),
        ({"valid_to": ago(60)}, "valid_to", "ends before it begins"),
        ({"due_at": ago(48)}, "due_at", "due again before it begins"),
    ],
)
def test_a_corrected_calibration_keeps_its_order(lab, change, field, words):
    new = NewCalibration(id=new_id(), channel="force", factor=1.01, valid_from=ago(48))
    recompute.calibrate(lab.workspace, ACTOR, lab.rig, new)
    with pytest.raises(EntryError, match=words) as refused:
        recompute.correct_calibration(lab.workspace, ACTOR, new.id, CalibrationEdit(**change), 1)
    assert refused.value.field == field
    with pytest.raises(StaleError):
        recompute.correct_calibration(lab.workspace, ACTOR, new.id, CalibrationEdit(factor=1.02), 7)
    with pytest.raises(QuestionError, match="lies in the future"):
        recompute.correct_calibration(lab.workspace, ACTOR, new.id, CalibrationEdit(valid_from=NOW + timedelta(days=2)), 1)


def test_a_calibration_holds_until_its_end_and_the_later_of_two_counts(lab):
    kept = lab.accept(lab.flat, lab.arms[0], ["60"])[0]
    plain = kept.results[0].value

    def now():
        return lab.cell(lab.flat, lab.arms[0]).group.mean / plain

    first = NewCalibration(id=new_id(), channel="force", factor=1.10, valid_from=AT - timedelta(days=9))
    recompute.calibrate(lab.workspace, ACTOR, lab.rig, first)
    assert now() == pytest.approx(1.10)
    later = NewCalibration(id=new_id(), channel="force", factor=1.20, valid_from=AT - timedelta(days=2))
    recompute.calibrate(lab.workspace, ACTOR, lab.rig, later)
    assert now() == pytest.approx(1.20)
    recompute.correct_calibration(lab.workspace, ACTOR, later.id, CalibrationEdit(valid_to=AT), 1)
    assert now() == pytest.approx(1.10), "at its end it holds no more"
    recompute.correct_calibration(lab.workspace, ACTOR, later.id, CalibrationEdit(valid_to=AT + timedelta(seconds=1)), 2)
    assert now() == pytest.approx(1.20)
    recompute.calibrate(lab.workspace, ACTOR, lab.rig, NewCalibration(id=new_id(), channel="length", factor=2.0, valid_from=AT - timedelta(days=9)))
    assert now() == pytest.approx(1.20 / 4), "both sides of the section"


def test_a_reading_below_the_range_is_marked(lab):
    low = rigs.add_rig(lab.workspace, ACTOR, rig(name="Big", channels=[channel("force", "N", 1, low=300, high=900), channel("length", "mm", 0.01)]))[0].id
    free = lab.specimens(lab.flat, lab.arms[0])
    remarks = [
        " ".join(runs.accept(lab.workspace, ACTOR, run(s, lab.flat, low, p, unchecked=True))[0].remarks)
        for s, p in zip(free, ("299", "300", "900", "901"), strict=False)
    ]
    assert ["is below the 300 N" in r for r in remarks] == [True, False, False, False]
    assert ["is above the 900 N" in r for r in remarks] == [False, False, False, True]


def test_a_rigs_file_template_is_kept_changed_and_checked(workspace):
    frame = rigs.add_rig(workspace, ACTOR, rig())[0]

    def keep(*columns):
        templates.keep_template(workspace, ACTOR, frame.id, TemplateAnswer(signature="a|b|c", columns=[ColumnAnswer(role=r, unit=u) for r, u in columns]))
        with workspace.read() as session:
            return [(c.role, c.unit) for t in templates.templates_of(session, frame.id) for c in t.columns]

    assert keep(("force", "kN"), ("skip", None)) == [("force", "kN"), ("skip", None)]
    assert keep(("force", "N"), ("travel", None)) == [("force", "N"), ("travel", "mm")]
    for columns, words in (
        ((("travel", "mm"),), "which column is the force"),
        ((("force", "N"), ("force", "N")), "two columns have the same role"),
        ((("force", "N"), ("torque", "N·m")), "column 2: 'torque' is no role"),
        ((("force", "mm"),), "column 1: 'mm' is not a unit of force"),
    ):
        with pytest.raises(EntryError, match=words):
            keep(*columns)


# ---- materials, lists ----------------------------------------------------------------------------


def test_a_material_is_added_once_and_its_id_is_its_own(workspace):
    new = material("Everyday", filler="glass fibre", filler_share=12.0)
    materials.add_material(workspace, ACTOR, new)
    assert materials.add_material(workspace, ACTOR, new)[1] is False
    with pytest.raises(ConflictError, match="another material already has this id"):
        materials.add_material(workspace, ACTOR, new.model_copy(update={"product": "Else"}))
    with pytest.raises(EntryError, match="a share needs the kind of filler"):
        materials.add_material(workspace, ACTOR, material("Other", filler_share=12.0))


def test_an_edit_takes_away_what_may_be_empty_and_refuses_what_may_not(workspace):
    new = material("Everyday", filler="glass fibre", filler_share=12.0, price=20.0, currency="€", note="x")
    materials.add_material(workspace, ACTOR, new)
    for name in ("maker", "colour", "diameter", "mark"):
        with pytest.raises(EntryError, match="cannot be left empty") as refused:
            materials.edit_material(workspace, ACTOR, new.id, MaterialEdit(**{name: None}), 1)
        assert refused.value.field == name
    revision = materials.edit_material(workspace, ACTOR, new.id, MaterialEdit(filler="", note=None, currency=None, price=None), 1)
    shown = dossier.dossier(workspace, new.id).material
    assert (shown.filler, shown.filler_share, shown.note, shown.currency, shown.price) == (None, None, "", "", None)
    with pytest.raises(EntryError, match="a share needs the kind of filler"):
        materials.edit_material(workspace, ACTOR, new.id, MaterialEdit(filler_share=5.0), revision)
    revision = materials.edit_material(workspace, ACTOR, new.id, MaterialEdit(window=WindowIn(bed_low=50, bed_high=60)), revision)
    revision = materials.edit_material(workspace, ACTOR, new.id, MaterialEdit(window=WindowIn(bed_low=55, bed_high=60)), revision)
    found = dossier.dossier(workspace, new.id)
    assert (found.window.bed_low, found.window.bed_high) == (55, 60)
    window = next(e for e in found.record if e.entity == "maker's window")
    assert [(c.name, c.before, c.after) for c in window.changes] == [("bed_low", "50", "55")]


def test_a_claim_under_a_known_id_must_be_the_same(workspace):
    one, two = add_petg(workspace), add_petg(workspace, colour="grey")
    new = NewClaim(id=new_id(), text="no warping")
    assert materials.add_claim(workspace, ACTOR, one, new)[1]
    assert not materials.add_claim(workspace, ACTOR, one, new)[1]
    for key, said in ((two, new), (one, new.model_copy(update={"text": "little warping"}))):
        with pytest.raises(ConflictError, match="another claim already has this id"):
            materials.add_claim(workspace, ACTOR, key, said)


@pytest.mark.parametrize(
    "kind, rows, row, words",
    [
        ("materials", "Maker;Product;Polymer;Colour;Filler %\nA;B;PLA;red;12", 1, "a share needs the kind of filler"),
        ("reported", "Maker;Product;Colour;Quantity;Value;Unit;n\nTarn;Clearwater CF;black;strength;40;MPa;2,5", 1, "n: 2.5 is no count of specimens"),
        (
            "reported",
            "Maker;Product;Colour;Quantity;Value;Unit\nTarn;Clearwater CF;black;strength;40;MPa\nTarn;Clearwater CF;black;strength;40;MPa",
            2,
            "the same stands in row 1 already",
        ),
        ("claims", "Maker;Product;Claim\nTarn;Clearwater CF;no warping\nTarn;Clearwater CF;no warping", 2, "the same stands in row 1 already"),
        ("materials", "Maker;Product;Polymer;Colour;Hex\nA;B;PLA;red;redish", 1, "."),
    ],
)
def test_a_row_that_cannot_go_in_says_why(workspace, kind, rows, row, words):
    add_petg(workspace)
    done = lists.run_import(workspace, ACTOR, ImportText(kind=kind, text=rows))
    wrong = {r.row: r for r in done.rows if r.errors}
    assert list(wrong) == [row]
    assert words in wrong[row].errors[0].text or words == "."
    assert done.kept == len(done.rows) - 1
    if kind != "materials":
        again = lists.run_import(workspace, ACTOR, ImportText(kind=kind, text=rows))
        assert (again.kept, again.counts["there"]) == (0, done.kept)


# ---- codes, people, labels -----------------------------------------------------------------------


def test_a_code_says_whether_its_specimen_was_tested_or_hangs(lab):
    specimen = lab.specimens(lab.flat, lab.arms[0])[0]
    with lab.workspace.read() as session:
        code = session.get(Specimen, specimen).code
    before = codes.resolve_code(lab.workspace, code)
    assert (before.tested, before.rig_id, before.study_id) == (False, None, lab.study.id)
    lab.accept(lab.flat, lab.arms[0], ["60"])
    assert codes.resolve_code(lab.workspace, code).tested
    with pytest.raises(MissingError, match="was it printed for another one"):
        codes.resolve_code(lab.workspace, _other(code))
    with pytest.raises(CodeError):
        codes.resolve_code(lab.workspace, code[:-1] + ("A" if code[-1] != "A" else "B"))
    assert "specimen" in labels.label(lab.workspace, code)
    assert "Pull frame" in labels.label(lab.workspace, rig_page(lab).rig.code)


def _other(code):
    """A right code that belongs to nothing here."""
    return next(c for s in SYMBOLS if (c := with_check(s + code[1:4])) != code)


def test_a_person_is_added_once(workspace):
    assert people.add_person(workspace, ACTOR, "Tomas").items == ["Tomas"]
    assert people.add_person(workspace, ACTOR, "Ilse").items == ["Ilse", "Tomas"]
    assert people.add_person(workspace, ACTOR, "Tomas").items == ["Ilse", "Tomas"]


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


def test_findings_say_what_core_says_of_the_same_values(lab):
    from assayer.core.stats.groups import summarise
    from assayer.core.stats.outliers import grubbs
    from assayer.core.stats.several_groups import games_howell, welch_anova

    peaks = {0: ["60", "61", "62", "61.5", "90"], 1: ["50", "51", "52"], 2: ["40", "44", "41"]}
    kept = {arm: lab.accept(lab.flat, lab.arms[arm], p, unchecked=True) for arm, p in peaks.items()}
    shown = findings.findings(lab.workspace, lab.flat)
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
        findings.findings(lab.workspace, lab.flat, "speed")
    with pytest.raises(EntryError, match="this test has no layer ratio"):
        findings.findings(lab.workspace, lab.flat, "layer_ratio")
    assert [q.name for q in findings.findings(lab.workspace, lab.upright).quantities] == ["layer_ratio"]


def test_history_tells_rigs_tests_and_studies_apart(lab):
    jack = rigs.add_rig(lab.workspace, ACTOR, rig(name="Jack", channels=[channel("force", "N", 1), channel("length", "mm", 0.01)]))[0]
    lab.accept(lab.flat, lab.arms[0], ["60", "61"])
    lab.accept(lab.upright, lab.arms[0], ["30"])
    runs.accept(lab.workspace, ACTOR, run(lab.specimens(lab.flat, lab.arms[0], "waiting")[0], lab.flat, jack.id, "600"))
    out = lab.accept(lab.flat, lab.arms[0], ["62"])[0]
    runs.edit_run(lab.workspace, ACTOR, out.id, RunEdit(validity="left_out", validity_reason="slipped"), out.revision)
    history = dossier.dossier(lab.workspace, lab.study.arms[0].material.id).history
    strengths = {(g.test_id, g.rig_version_id): (g.n, len(g.values), g.main) for g in history if g.quantity == "strength"}
    assert strengths == {(lab.flat, lab.rig): (2, 2, True), (lab.upright, lab.rig): (1, 1, True), (lab.flat, jack.id): (1, 1, True)}
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
        with pytest.raises(EntryError, match=words):
            add(*specs)
    key = new_id()
    made, fresh = add(spec(lab, lab.flat), spec(lab, lab.upright, quantity="layer_ratio", all_needed=1), id=key)
    assert fresh
    assert [(c.label, c.derived, c.test_label) for c in made.criteria] == [("strength", False, "Tension"), ("layer ratio", True, "Layer adhesion")]
    assert add(spec(lab, lab.flat), id=key)[1] is False
    with pytest.raises(ConflictError, match="another purpose already has this id"):
        add(spec(lab, lab.flat), id=key, title="q")


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
    kept = purposes.set_weights(lab.workspace, ACTOR, purpose.id, WeightsEdit(weights={one.id: 9.0, two.id: 0.0}), purpose.revision)
    assert {c.id: c.weight for c in kept.criteria} == {one.id: 9.0, two.id: 0.0}
    assert first() == lab.arms[0]
    with pytest.raises(StaleError):
        purposes.set_weights(lab.workspace, ACTOR, purpose.id, WeightsEdit(weights={one.id: 1.0}), purpose.revision)
    with pytest.raises(EntryError, match="does not have"):
        purposes.set_weights(lab.workspace, ACTOR, purpose.id, WeightsEdit(weights={new_id(): 1.0}), kept.revision)
    with pytest.raises(EntryError, match="at least one weight must be above 0"):
        purposes.set_weights(lab.workspace, ACTOR, purpose.id, WeightsEdit(weights={one.id: 0.0}), kept.revision)
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
    with pytest.raises(EntryError, match="arm 2 is the same material and treatment"):
        planning.create_study(workspace, ACTOR, NewStudy(**base | twice))
    made, fresh = planning.create_study(workspace, ACTOR, NewStudy(**base))
    assert fresh
    assert planning.create_study(workspace, ACTOR, NewStudy(**base)) == (made, False)
    with pytest.raises(ConflictError, match="another study already has this id"):
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
    assert next(i.text for i in sheet.day_sheet(workspace).items if i.kind == "to print") == "6 of 8 specimens are planned, not printed"
    assert next(i.text for i in sheet.day_sheet(workspace).items if i.kind == "specimens") == "2 of 2 specimens wait to be tested"
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
    with pytest.raises(ConflictError, match="another printer already has this id"):
        printers.add_printer(workspace, ACTOR, new.model_copy(update={"name": "Bench Two"}))
    with pytest.raises(ConflictError, match="already a printer called 'Bench One'"):
        printers.add_printer(workspace, ACTOR, new.model_copy(update={"id": new_id()}))
    edited = printers.edit_printer(workspace, ACTOR, made.id, HardwareIn(nozzle=0.6), made.revision)
    assert (edited.nozzle, edited.revision) == (0.6, made.revision + 1)
    with pytest.raises(StaleError):
        printers.edit_printer(workspace, ACTOR, made.id, HardwareIn(nozzle=0.8), made.revision)


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
    with lab.workspace.write(ACTOR) as unit:
        unit.session.execute(text("UPDATE runs SET outcome = 'burst' WHERE id = :r"), {"r": kept[2].id})
    with pytest.raises(AssayerError, match=f"{kept[2].code}: .*has no outcome 'burst'"):
        recompute.recompute(lab.workspace, ACTOR)
