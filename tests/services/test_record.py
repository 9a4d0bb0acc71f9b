"""Nothing changes without a line in the record: every action once, by whom and what it changed."""

from datetime import date, timedelta

import pytest

from assayer.services import people
from assayer.services.bench import curves, recompute, runs
from assayer.services.bench.requests import Correction, NewRun, RunEdit
from assayer.services.choose import purposes
from assayer.services.choose.requests import CriterionSpec, NewPurpose, PurposeEdit
from assayer.services.printing import printers
from assayer.services.printing.requests import NewPrinter, PrinterEdit
from assayer.services.rigs import rigs, templates
from assayer.services.rigs.requests import CalibrationEdit, ColumnAnswer, ComplianceEdit, NewCalibration, NewRigVersion, RigEdit, TemplateAnswer
from assayer.services.sessions import drying
from assayer.services.sessions.requests import EndDrying, MemberMass, NewDrying, Place
from assayer.services.stock import intakes, labels, lists, materials, spools, storage
from assayer.services.stock.requests import (
    ImportText,
    MaterialEdit,
    NewClaim,
    NewFilamentUse,
    NewMove,
    NewSpool,
    NewStorage,
    NewWeighing,
    PreferencesEdit,
    SpoolEdit,
    WindowIn,
)
from assayer.services.studies import board
from assayer.services.studies.requests import NewTest
from assayer.services.unit import Actor
from assayer.store.models import Change, Claim, FilamentUse, ReportedResult, StorageMove, Weighing

from ..support import AT, Lab, channel, jack, new_id, reading, rig, run
from .stockroom import add_petg, ago, spool_of

TOMAS = Actor("Tomas", "Europe/Berlin")


class Book:
    """What an action of Tomas adds to the record."""

    def __init__(self, workspace):
        self.workspace = workspace

    def lines(self):
        with self.workspace.read() as session:
            return [(c.entity, c.action, c.before or {}, c.after or {}) for c in session.query(Change).order_by(Change.seq) if c.who == "Tomas"]

    def of(self, act):
        """The lines that an action writes, as (entity, action); and what it answers."""
        before = len(self.lines())
        answer = act()
        self.new = self.lines()[before:]
        return answer, [line[:2] for line in self.new]


@pytest.fixture
def book(workspace):
    return Book(workspace)


def test_of_the_stock(workspace, book):
    ws = workspace
    key = add_petg(ws)
    told = [book.of(lambda: materials.edit_material(ws, TOMAS, key, MaterialEdit(density=1.3, window=WindowIn(bed_low=72, bed_high=85)), 1))[1]]
    claim, lines = book.of(lambda: materials.add_claim(ws, TOMAS, key, NewClaim(id=new_id(), text="no warping"))[0])
    told += [
        lines,
        book.of(lambda: materials.retract(ws, TOMAS, Claim, claim.id, back=False))[1],
        book.of(lambda: materials.retract(ws, TOMAS, Claim, claim.id, back=True))[1],
    ]
    text = "Maker;Product;Colour;Quantity;Value;Unit\nTarn;Clearwater CF;black;strength;40;MPa"
    told.append(book.of(lambda: lists.run_import(ws, TOMAS, ImportText(kind="reported", text=text)))[1])
    with ws.read() as session:
        reported = session.query(ReportedResult).one().id
    told.append(book.of(lambda: materials.retract(ws, TOMAS, ReportedResult, reported, back=False))[1])
    told.append(book.of(lambda: lists.run_import(ws, TOMAS, ImportText(kind="materials", text="Maker;Product;Polymer;Colour\nA;B;PLA;red")))[1])
    assert told == [
        [("maker's window", "edited"), ("material", "edited")],
        [("claim", "added")],
        [("claim", "retracted")],
        [("claim", "brought back")],
        [("reported result", "added")],
        [("reportedresult", "retracted")],
        [("material", "added")],
    ]
    told = [book.of(lambda: intakes.add_spool(ws, TOMAS, NewSpool(id=new_id(), material_id=key, received_on=date(2026, 6, 1))))[1]]
    page = spool_of(ws, material_id=key)
    told.append(book.of(lambda: spools.weigh(ws, TOMAS, page.id, NewWeighing(id=new_id(), raw="950", at=ago(5))))[1])
    told.append(book.of(lambda: spools.take_filament(ws, TOMAS, page.id, NewFilamentUse(id=new_id(), raw="20", at=ago(4), what="hook")))[1])
    told.append(
        book.of(
            lambda: storage.store_spools(
                ws, TOMAS, NewStorage(moves=[NewMove(id=new_id(), spool_id=page.id)], storage="open", place="shelf", humidity=40, at=ago(3))
            )
        )[1]
    )
    assert book.new[0][3] == {"spool": page.code, "storage": "open", "place": "shelf", "humidity": 40}
    now = spools.get_spool(ws, page.id)
    for kind, entry in ((Weighing, now.weighings[-1].id), (FilamentUse, now.uses[0].id), (StorageMove, now.moves[-1].id)):
        told.append(book.of(lambda kind=kind, entry=entry: spools.retract_entry(ws, TOMAS, kind, entry, back=False))[1])
    now = spools.get_spool(ws, page.id)
    told.append(book.of(lambda: spools.edit_spool(ws, TOMAS, page.id, SpoolEdit(lot="9", gone_why="used up"), now.revision))[1])
    assert (book.new[0][2]["lot"], book.new[0][3]["lot"], book.new[0][3]["gone_why"]) == ("7", "9", "used up")
    told.append(book.of(lambda: labels.set_preferences(ws, TOMAS, PreferencesEdit(label_base_url="http://shed.local")))[1])
    told.append(book.of(lambda: people.add_person(ws, TOMAS, "Tomas"))[1])
    assert told == [
        [("spool", "added")],
        [("weighing", "added")],
        [("filament use", "added")],
        [("storage", "moved")],
        [("weighing", "retracted")],
        [("filamentuse", "retracted")],
        [("storagemove", "retracted")],
        [("spool", "edited")],
        [("preference", "set")],
        [("person", "added")],
    ]


def test_of_drying_and_intake(workspace, book):
    from .stockroom import intake

    page, lines = book.of(lambda: intakes.take_in(workspace, TOMAS, intake(add_petg(workspace)))[0])
    assert lines == [("spool", "added"), ("intake", "added")]
    assert book.new[1][3] == {"spool": page.code, "decision": "fit", "proposed": "fit"}
    new = NewDrying(id=new_id(), device="Box", temperature=65, hours=8, started_at=ago(10), members=[MemberMass(spool_id=page.id)])
    session, lines = book.of(lambda: drying.start_drying(workspace, TOMAS, new)[0])
    assert (lines, book.new[0][3]["spools"]) == ([("drying", "started")], [page.code])
    told = [book.of(lambda: drying.end_drying(workspace, TOMAS, session.id, EndDrying(ended_at=ago(1), members=[], storage="dry box"), session.revision))[1]]
    for what in ("end", "all", "none"):
        told.append(book.of(lambda what=what: drying.undo_drying(workspace, TOMAS, session.id, what))[1])
    assert told == [[("drying", "ended")], [("drying", "end undone")], [("drying", "retracted")], [("drying", "brought back")]]
    made, lines = book.of(lambda: printers.add_printer(workspace, TOMAS, NewPrinter(id=new_id(), name="Bench One"))[0])
    assert lines == [("printer", "added")]
    assert book.of(lambda: printers.edit_printer(workspace, TOMAS, made.id, PrinterEdit(nozzle=0.6), made.revision))[1] == [("printer", "edited")]
    assert (book.new[0][2], book.new[0][3]) == ({"nozzle": None}, {"nozzle": 0.6})


def test_of_rigs(workspace, book):
    frame, lines = book.of(lambda: rigs.add_rig(workspace, TOMAS, rig())[0])
    told = [lines, book.of(lambda: rigs.edit_rig(workspace, TOMAS, frame.rig_id, RigEdit(name="Frame")))[1]]
    new = NewCalibration(id=new_id(), channel="force", factor=1.01, valid_from=ago(48))
    told.append(book.of(lambda: recompute.calibrate(workspace, TOMAS, frame.id, new))[1])
    told.append(book.of(lambda: recompute.correct_calibration(workspace, TOMAS, new.id, CalibrationEdit(factor=1.02), 1))[1])
    assert (book.new[0][2]["factor"], book.new[0][3]["factor"]) == (1.01, 1.02)
    told.append(book.of(lambda: recompute.keep_compliance(workspace, TOMAS, frame.id, ComplianceEdit(compliance=0.001)))[1])
    assert (book.new[0][2], book.new[0][3]) == ({"compliance": None, "uncertainty": None}, {"compliance": 0.001, "uncertainty": None})
    for unit in ("kN", "N"):
        answer = TemplateAnswer(signature="a", columns=[ColumnAnswer(role="force", unit=unit)])
        told.append(book.of(lambda answer=answer: templates.keep_template(workspace, TOMAS, frame.id, answer))[1])
    told.append(book.of(lambda: templates.keep_template(workspace, TOMAS, frame.id, answer))[1])
    workspace.clock = lambda: ago(-1)
    version = NewRigVersion(version_id=new_id(), channels=[channel("force", "N", 1)], note="braced")
    told.append(book.of(lambda: rigs.add_version(workspace, TOMAS, frame.rig_id, version))[1])
    assert (book.new[0][2], book.new[0][3]) == ({"version": 1}, {"version": 2, "note": "braced"})
    assert told == [
        [("rig", "added")],
        [("rig", "edited")],
        [("calibration", "added")],
        [("calibration", "corrected")],
        [("rig version", "compliance set")],
        [("file template", "kept")],
        [("file template", "changed")],
        [],
        [("rig", "changed")],
    ]


def test_of_studies_runs_and_purposes(workspace, book):
    lab = Lab(workspace, [NewTest(id=new_id(), orientation="flat", replicates=3), NewTest(id=new_id(), method="creep", orientation="flat", replicates=1)])
    flat, creep = lab.tests
    specimen = lab.specimens(flat, lab.arms[0])[0]
    opened = run(specimen, flat, lab.rig, None, complete=False)
    told = [book.of(lambda: runs.accept(workspace, TOMAS, opened))[1]]
    done, lines = book.of(lambda: runs.accept(workspace, TOMAS, run(specimen, flat, lab.rig, "60", width=(), thickness=(), id=opened.id))[0])
    told.append(lines)
    assert (book.new[0][3]["complete"], book.new[0][3]["code"], book.new[0][3]["validity"]) == (True, f"specimen {done.code}", "counts")
    edited, lines = book.of(lambda: runs.edit_run(workspace, TOMAS, done.id, RunEdit(outcome="grip"), done.revision))
    told.append(lines)
    assert (book.new[0][2]["outcome"], book.new[0][3]["outcome"], book.new[0][3]["validity"]) == (None, "grip", "at_least")
    width = next(r for r in edited.readings if r.field == "width")
    told.append(
        book.of(
            lambda: runs.correct(
                workspace,
                TOMAS,
                done.id,
                Correction(id=new_id(), field="width", position=0, raw="4.03", supersedes=width.id, reason="misread"),
                edited.revision,
            )
        )[1]
    )
    assert (book.new[0][2]["raw"], book.new[0][3]["raw"], book.new[0][3]["reason"]) == ("4.02", "4.03", "misread")
    told += [
        book.of(lambda: runs.retract(workspace, TOMAS, done.id))[1],
        book.of(lambda: runs.retract(workspace, TOMAS, done.id))[1],
        book.of(lambda: runs.restore(workspace, TOMAS, done.id))[1],
    ]
    told.append(book.of(lambda: board.set_reference(workspace, TOMAS, lab.study.id, lab.arms[1], None))[1])
    told.append(book.of(lambda: board.set_reference(workspace, TOMAS, lab.study.id, lab.arms[1], None))[1])
    assert told == [
        [("run", "measured")], [("run", "accepted")], [("run", "edited")], [("run", "corrected")], [("run", "taken back")], [], [("run", "restored")],
        [("study", "reference changed")], [],
    ]  # fmt: skip
    rack = rigs.add_rig(workspace, TOMAS, rig(name="Loft rack", methods=["creep"], channels=[channel("gap", "mm", 0.01)], places=2))[0]
    frame = lab.specimens(creep, lab.arms[0])[0]
    hung = NewRun(
        id=new_id(),
        subject_id=frame,
        test_id=creep,
        rig_version_id=rack.id,
        happened_at=AT,
        complete=False,
        readings=[reading("unloaded", "20.0")],
        place=Place(session_id=new_id(), position=0),
    )
    kept, lines = book.of(lambda: runs.accept(workspace, TOMAS, hung)[0])
    assert lines == [("rack", "begun"), ("run", "measured")]
    assert book.of(lambda: runs.retract_reading(workspace, TOMAS, hung.id, kept.readings[0].id))[1] == [("run", "reading taken back")]
    assert (book.new[0][2]["raw"], book.new[0][3]["raw"]) == ("20.0", None)
    spec = CriterionSpec(id=new_id(), test_id=flat, quantity="strength", no_use=0, all_needed=60)
    purpose, lines = book.of(lambda: purposes.add_purpose(workspace, TOMAS, NewPurpose(id=new_id(), study_id=lab.study.id, title="p", criteria=[spec]))[0])
    assert lines == [("purpose", "added")]
    assert book.of(lambda: purposes.edit_purpose(workspace, TOMAS, purpose.id, PurposeEdit(weights={spec.id: 3.0}), purpose.revision))[1] == [
        ("purpose", "weighted")
    ]
    assert (book.new[0][2], book.new[0][3]) == ({"weights": {spec.id: 1.0}}, {"weights": {spec.id: 3.0}})


def test_of_curves_and_recomputed_runs(workspace, book):
    lab = Lab(workspace, [NewTest(id=new_id(), orientation="flat", replicates=2)])
    frame = jack(workspace)
    data = "Force (N),Extension (mm)\n" + "\n".join(f"{i * 10},{i * 0.01:.3f}" for i in range(60))
    curve, lines = book.of(lambda: curves.take_in(workspace, TOMAS, new_id(), frame.id, "pull.csv", data.encode())[0])
    assert (lines, book.new[0][3]["file"], book.new[0][3]["rows"]) == ([("curve", "taken in")], "pull.csv", curve.rows)
    kept = lab.accept(lab.tests[0], lab.arms[0], ["60"])[0]
    new = NewCalibration(id=new_id(), channel="force", factor=1.5, valid_from=AT - timedelta(days=1))
    lines = book.of(lambda: recompute.calibrate(workspace, TOMAS, lab.rig, new))[1]
    assert lines == [("calibration", "added"), ("run", "recomputed")]
    before, after = book.new[1][2], book.new[1][3]
    assert float(after["strength"]) == pytest.approx(1.5 * float(before["strength"]), rel=1e-4)
    assert kept.code
