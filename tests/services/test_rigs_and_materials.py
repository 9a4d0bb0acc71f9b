"""Ids that are reused, edits of rigs and materials, calibrations, codes: what a notebook must not mix up."""

from datetime import timedelta

import pytest
from sqlalchemy import delete

from assayer.core.codes import SYMBOLS, with_check
from assayer.core.errors import CodeError, ConflictError, EntryError, MissingError, QuestionError, StaleError, UnclearFileError
from assayer.services import codes, people
from assayer.services.bench import recompute, runs
from assayer.services.printing import batches
from assayer.services.printing.requests import NewBatch
from assayer.services.reports import dossier
from assayer.services.rigs import rigs, templates
from assayer.services.rigs.requests import CalibrationEdit, ColumnAnswer, NewCalibration, NewRigVersion, RigEdit, TemplateAnswer
from assayer.services.stock import labels, lists, materials
from assayer.services.stock.requests import ImportText, MaterialEdit, NewClaim, WindowIn
from assayer.services.studies import board, planning
from assayer.services.studies.requests import NewArm, NewStudy, NewTest
from assayer.services.unit import Actor
from assayer.store.models import Result, Specimen

from ..conftest import NOW
from ..support import ACTOR, AT, channel, jack, material, new_id, rig, run
from .stockroom import add_petg, ago

TOMAS = Actor("Tomas", "Europe/Berlin")


def rig_page(lab):
    return rigs.get_rig(lab.workspace, next(r.rig_id for r in rigs.list_rigs(lab.workspace).items if r.id == lab.rig))


# ---- rigs ----------------------------------------------------------------------------------------


def test_a_rig_is_renamed_or_serves_other_methods_without_another_version(lab):
    old = jack(lab.workspace)
    lab.accept(lab.flat, lab.arms[0], ["60", "61"])
    runs.accept(lab.workspace, ACTOR, run(lab.specimens(lab.flat, lab.arms[0], "waiting")[0], lab.flat, old.id, "600"))
    assert any("another rig (Jack)" in n for n in lab.cell(lab.flat, lab.arms[0]).notes)
    revisions = {t: lab.column(t).revision for t in (lab.flat, lab.upright)}
    page = rigs.edit_rig(lab.workspace, TOMAS, old.rig_id, RigEdit(name="Old jack"))
    assert (page.rig.name, page.rig.version, page.runs) == ("Old jack", 1, 1)
    assert any("another rig (Old jack)" in n for n in lab.cell(lab.flat, lab.arms[0]).notes), "the board says it anew"
    assert {t: lab.column(t).revision - r for t, r in revisions.items()} == {lab.flat: 1, lab.upright: 0}, "only where the rig was used"
    last = page.record[0]
    assert (last.who, last.action, [(c.name, c.before, c.after) for c in last.changes]) == ("Tomas", "edited", [("name", "Jack", "Old jack")])
    with pytest.raises(ConflictError, match="already a rig called 'Pull frame'"):
        rigs.edit_rig(lab.workspace, ACTOR, old.rig_id, RigEdit(name="Pull frame"))
    with pytest.raises(EntryError, match="there is no method 'pull'"):
        rigs.edit_rig(lab.workspace, ACTOR, old.rig_id, RigEdit(methods=["pull"]))
    assert rigs.edit_rig(lab.workspace, ACTOR, old.rig_id, RigEdit(methods=["shear"])).rig.methods == ["shear"]
    same = rigs.edit_rig(lab.workspace, ACTOR, old.rig_id, RigEdit(name="Old jack"))
    assert same.rig.name == "Old jack", "its own name is no twin"


def test_ids_of_rigs_versions_and_calibrations_belong_to_one(lab):
    workspace = lab.workspace
    new = rig(name="Jack")
    rigs.add_rig(workspace, ACTOR, new)
    assert rigs.add_rig(workspace, ACTOR, new)[1] is False
    with pytest.raises(ConflictError, match="this rig was kept before with other content"):
        rigs.add_rig(workspace, ACTOR, new.model_copy(update={"name": "John"}))
    page = rig_page(lab)
    with pytest.raises(ConflictError, match="another rig's version already has this id"):
        rigs.add_version(workspace, ACTOR, page.rig.rig_id, NewRigVersion(version_id=new.version_id, channels=new.channels))
    with pytest.raises(ConflictError, match="this rig's version was kept before with other content"):
        rigs.add_version(workspace, ACTOR, new.id, NewRigVersion(version_id=new.version_id, channels=new.channels))
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
        ((("force", "N"), ("torque", "N·m")), "column 2: 'torque' is no role here"),
        ((("force", "mm"),), "column 1: 'mm' is not a unit of force"),
    ):
        with pytest.raises(EntryError, match=words):
            keep(*columns)


# ---- materials, lists ----------------------------------------------------------------------------


def test_a_material_is_added_once_and_its_id_is_its_own(workspace):
    new = material("Everyday", filler="glass fibre", filler_share=12.0)
    materials.add_material(workspace, ACTOR, new)
    assert materials.add_material(workspace, ACTOR, new)[1] is False
    with pytest.raises(ConflictError, match="this material was kept before with other content"):
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
        ("materials", f"Maker;Product;Polymer;Colour\nA;B;PLA;red\nA;{'x' * 200};PLA;red", 2, "at most 80 are kept"),
        ("materials", "Maker;Product;Polymer;Colour;Filler;Filler %\nA;B;PLA;red;;\nA;C;PLA;red;glass fibre;100", 2, "not between 0 and 100"),
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
    assert "specimen" in labels.label(lab.workspace, code, "http://x")
    assert "Pull frame" in labels.label(lab.workspace, rig_page(lab).rig.code, "http://x")


def _other(code):
    """A right code that belongs to nothing here."""
    return next(c for s in SYMBOLS if (c := with_check(s + code[1:4])) != code)


def test_a_person_is_added_once(workspace):
    assert people.add_person(workspace, ACTOR, "Tomas").items == ["Tomas"]
    assert people.add_person(workspace, ACTOR, "Ilse").items == ["Ilse", "Tomas"]
    assert people.add_person(workspace, ACTOR, "Tomas").items == ["Ilse", "Tomas"]


def test_answers_about_a_file_belong_to_a_rig_that_is_there(workspace):
    answer = TemplateAnswer(signature="t;F", columns=[ColumnAnswer(role="time", unit="s"), ColumnAnswer(role="force", unit="N")])
    with pytest.raises(MissingError):
        templates.keep_template(workspace, ACTOR, new_id(), answer)


def test_a_rigid_pull_is_read_by_the_rigs_answer_for_its_header(workspace):
    """Two answers are kept for two headers; each file is read by its own, and what is told at hand goes before both."""
    frame = rigs.add_rig(workspace, ACTOR, rig())[0]

    def file(names):
        return "\n".join([names, *(f"{i * 5},{i * 0.0025 + 1:.5f}" for i in range(100))]).encode()

    def read(names, columns=None):
        return recompute.read_compliance(workspace, frame.id, file(names), columns)

    for names in ("Channel A,Channel B", "P1,P2"):
        with pytest.raises(UnclearFileError):
            read(names)
    for names, unit in (("Channel A,Channel B", "N"), ("P1,P2", "kgf")):
        with pytest.raises(UnclearFileError) as asked:
            read(names)
        answer = TemplateAnswer(
            signature=asked.value.preview.signature, columns=[ColumnAnswer(role="force", unit=unit), ColumnAnswer(role="travel", unit="mm")]
        )
        templates.keep_template(workspace, ACTOR, frame.id, answer)
    assert read("Channel A,Channel B").compliance == pytest.approx(0.0005, rel=1e-6)
    assert read("P1,P2").compliance == pytest.approx(0.0005 / 9.80665, rel=1e-6)
    assert read("P1,P2", "force:kN,travel:mm").compliance == pytest.approx(0.0005 / 1000, rel=1e-6)
    assert read("Force (N),Travel (mm)").compliance == pytest.approx(0.0005, rel=1e-6)
    found = read("P1,P2")
    assert found.force_range == (pytest.approx(99 * 9.80665, abs=30), pytest.approx(0.95 * 495 * 9.80665, abs=30))


@pytest.mark.parametrize(
    "change, field",
    [
        ({"valid_to": AT - timedelta(days=10)}, "valid_to"),
        ({"valid_to": AT - timedelta(days=9)}, "valid_to"),
        ({"due_at": AT - timedelta(days=9)}, "due_at"),
        ({"valid_to": AT - timedelta(days=8), "due_at": AT - timedelta(days=8)}, None),
    ],
)
def test_a_calibration_ends_and_falls_due_after_it_begins(lab, change, field):
    new = NewCalibration(id=new_id(), channel="force", factor=1.01, valid_from=AT - timedelta(days=9), **change)
    if field is None:
        assert recompute.calibrate(lab.workspace, ACTOR, lab.rig, new)[1]
        return
    with pytest.raises(EntryError) as refused:
        recompute.calibrate(lab.workspace, ACTOR, lab.rig, new)
    assert refused.value.field == field


@pytest.mark.parametrize(
    "window, field", [({"bed_low": 700}, "bed_low"), ({"dry_temperature": 650, "dry_time": 8}, "dry_temperature"), ({"tolerance": 5}, "tolerance")]
)
def test_a_window_that_no_maker_means_is_asked_about_when_the_material_is_added(workspace, window, field):
    new = material("Odd", window=WindowIn(**window))
    with pytest.raises(QuestionError) as asked:
        materials.add_material(workspace, ACTOR, new)
    (question,) = asked.value.questions
    assert question.field == field
    assert materials.list_materials(workspace, 10, 0).total == 0
    kept = new.model_copy(update={"confirmed": [question.key]})
    assert materials.add_material(workspace, ACTOR, kept)[1]


def test_the_record_of_values_that_come_and_go_has_their_unit(lab):
    """A run that could be reduced no more, or only now: the missing side is empty, the unit that of the other."""
    kept = lab.accept(lab.flat, lab.arms[0], ["60"])[0]
    with lab.workspace.write(ACTOR) as unit:
        unit.session.execute(delete(Result).where(Result.run_id == kept.id, Result.quantity == "strength"))
        unit.session.add(
            Result(
                subject_kind="specimen",
                subject_id=kept.subject_id,
                test_id=lab.flat,
                run_id=kept.id,
                quantity="ghost",
                value=3.0,
                unit="mm",
                bound="exact",
                reduction_version=1,
                warnings=[],
                provisional=False,
            )
        )
    moved = {m.quantity: m for m in recompute.would_move(lab.workspace)}
    assert (moved["strength"].old, moved["strength"].old_bound, moved["strength"].unit) == (None, None, "MPa")
    assert (moved["ghost"].old, moved["ghost"].new, moved["ghost"].new_bound, moved["ghost"].unit) == (3.0, None, None, "mm")
    assert {m.quantity for m in recompute.recompute(lab.workspace, ACTOR)} == {"strength", "ghost"}
    assert recompute.would_move(lab.workspace) == []


def test_printing_raises_the_revision_by_which_pages_refresh(workspace):
    key = add_petg(workspace)
    plan = NewStudy(id=new_id(), title="t", arms=[NewArm(id=new_id(), material_id=key)], tests=[NewTest(id=new_id(), orientation="flat", replicates=2)])
    study = planning.create_study(workspace, ACTOR, plan)[0]
    before = board.board(workspace, study.id)[1]
    batches.print_batch(workspace, ACTOR, NewBatch(id=new_id(), arm_id=study.arms[0].id, printed_at=ago(1)))
    assert board.board(workspace, study.id)[1] > before
