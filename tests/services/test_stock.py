"""From the sealed bag to fit to print, through the services the API calls: intake, balance, drying, lists, the day sheet."""

import random
import re
from datetime import date, timedelta
from pathlib import Path

import pytest
import segno

from assayer.core.errors import ConflictError, EntryError, FileError, QuestionError, StaleError
from assayer.services import codes
from assayer.services.bench import queue, runs
from assayer.services.day import sheet
from assayer.services.printing import fit, printers
from assayer.services.printing.requests import FitQuestion, HardwareIn, NewPrinter, PrintSettingsIn
from assayer.services.reports import dossier
from assayer.services.rigs import rigs
from assayer.services.sessions import drying
from assayer.services.sessions.requests import EndDrying, MemberMass, NewDrying
from assayer.services.stock import intakes, labels, listing, lists, materials, spools, storage
from assayer.services.stock.requests import (
    ImportAnswer,
    ImportText,
    IntakePreviewRequest,
    MaterialEdit,
    NewClaim,
    NewFilamentUse,
    NewIntake,
    NewMove,
    NewSpool,
    NewStorage,
    NewWeighing,
    PreferencesEdit,
    SpoolEdit,
    WindowIn,
)
from assayer.services.studies import planning
from assayer.services.studies.requests import NewArm, NewStudy, NewTest
from assayer.services.unit import Workspace
from assayer.store.models import Claim, FilamentUse, Spool, Weighing

from ..conftest import NOW
from ..support import ACTOR, material, new_id, printed, rig, run

LIST = Path(__file__).parent / "data/materials.csv"
PETG = WindowIn(bed_low=70, bed_high=85, dry_temperature=65, dry_time=8, flow_max=12, hardened=True, nozzle_min=0.4, source="label")


def ago(hours):
    return NOW - timedelta(hours=hours)


def add_petg(workspace, **more):
    values = {"maker": "Tarn", "polymer": "PETG", "filler": "carbon fibre", "net_mass": 750, "density": 1.29, "window": PETG, "colour": "black"} | more
    new = material("Clearwater CF", **values)
    materials.add_material(workspace, ACTOR, new)
    return new.id


def intake(material_id, **more):
    base = {"id": new_id(), "spool": NewSpool(id=new_id(), material_id=material_id, lot="7", received_on=date(2026, 6, 10)), "happened_at": ago(48)}
    return NewIntake(**base | {"gross": "964", "empty": "214", "seal": "intact", "storage": "dry box", "place": "Box A"} | more)


def spool_of(workspace, **more):
    page, _ = intakes.take_in(workspace, ACTOR, intake(more.pop("material_id", None) or add_petg(workspace), **more))
    return page


# intake


def test_an_intake_is_kept_once_with_its_verdict_and_readings(workspace):
    new = intake(add_petg(workspace), diameters=["1,742", "1.751", "1.738 mm", "1.747"], popping="some")
    page, is_new = intakes.take_in(workspace, ACTOR, new)
    assert is_new
    assert (page.decision, page.left, page.label_net) == ("dry first", 750, 750)
    kept = page.intakes[0]
    assert kept.diameters == [1.742, 1.751, 1.738, 1.747]
    assert kept.summary.mean == pytest.approx(1.7445)
    assert [r.field for r in kept.reasons] == ["popping"]
    assert intakes.take_in(workspace, ACTOR, new) == (page, False)
    with pytest.raises(ConflictError):
        intakes.take_in(workspace, ACTOR, new.model_copy(update={"spool": new.spool.model_copy(update={"id": new_id()})}))
    # another check, after drying: the later one counts, the first stays
    again = NewIntake(id=new_id(), spool_id=page.id, happened_at=ago(1), popping="none")
    page, _ = intakes.take_in(workspace, ACTOR, again)
    assert (page.decision, [i.decision for i in page.intakes]) == ("fit", ["fit", "dry first"])


def test_overriding_needs_a_note(workspace):
    material_id = add_petg(workspace)
    with pytest.raises(EntryError, match="say why it is 'fit' although the checks say 'reject'") as caught:
        intakes.take_in(workspace, ACTOR, intake(material_id, winding="crossed", decision="fit"))
    assert caught.value.field == "note"
    page = spool_of(workspace, material_id=material_id, winding="crossed", decision="fit", note="rewound by hand")
    assert (page.decision, page.intakes[0].proposed, page.intakes[0].note) == ("fit", "reject", "rewound by hand")


@pytest.mark.parametrize(
    ("typed", "field", "likely", "words"),
    [
        ({"diameters": ["1.75", "1753"]}, "diameters", "1.753", "reading 2 of the diameter, 1753 mm: was 1.753 mm meant?"),
        ({"gross": "1189", "empty": "214"}, "gross", "964", "30% above the label"),
        ({"gross": "964", "empty": ""}, "empty", "214", "is that the gross mass?"),
        ({"happened_at": NOW + timedelta(days=12)}, "happened_at", None, "lies in the future"),
        ({"spool": {"received_on": date(2026, 12, 6)}}, "received_on", "2026-06-12", "was 2026-06-12 meant?"),
    ],
)
def test_what_is_hardly_meant_is_asked_and_not_kept(workspace, typed, field, likely, words):
    material_id = add_petg(workspace)
    if "spool" in typed:
        typed = {"spool": NewSpool(id=new_id(), material_id=material_id, **typed["spool"])}
    new = intake(material_id, **typed)
    with pytest.raises(QuestionError, match=r".") as caught:
        intakes.take_in(workspace, ACTOR, new)
    question = caught.value.questions[0]
    assert words in question.text
    assert (question.field, question.likely if likely else None) == (field, likely)
    assert listing.list_stock(workspace, listing.StockQuery()).items[0].spools == [], "nothing was kept"
    confirmed = new.model_copy(update={"confirmed": [question.key]})
    if question.may_confirm:
        assert intakes.take_in(workspace, ACTOR, confirmed)[1]
    else:
        with pytest.raises(QuestionError):
            intakes.take_in(workspace, ACTOR, confirmed)


def test_the_sheet_is_judged_live_without_being_kept(workspace):
    material_id = add_petg(workspace)
    trial = IntakePreviewRequest(
        material_id=material_id, label_net=750, gross="921", empty="214", diameters=["1.74", "x", "1753"], seal="open", received_on=date(2027, 1, 1)
    )
    found = intakes.preview_intake(workspace, trial)
    assert (found.net, found.decision, found.summary) == (707, "dry first", None)
    assert [(e.field, e.row) for e in found.errors] == [("diameters", 2)]
    assert [q.field for q in found.questions] == ["diameters", "received_on"]
    assert any("under-filled" in r.text for r in found.reasons)


@pytest.mark.parametrize(
    ("typed", "field"),
    [({"gross": "200", "empty": "214"}, "gross"), ({"gross": "heavy"}, "gross"), ({"diameters": ["1.75", "?"]}, "diameters"), ({"gross": "1,000.5"}, "gross")],
)
def test_bad_entries_name_their_field(workspace, typed, field):
    with pytest.raises(EntryError, match=r".") as caught:
        intakes.take_in(workspace, ACTOR, intake(add_petg(workspace), **typed))
    assert caught.value.field == field


# balance


def test_prints_debit_weighing_corrects_and_both_can_be_taken_back(workspace):
    page = spool_of(workspace)
    spool_id = page.id
    use = NewFilamentUse(id=new_id(), raw="120,5", at=ago(24), what="four gates")
    page, _ = spools.take_filament(workspace, ACTOR, spool_id, use)
    assert spools.take_filament(workspace, ACTOR, spool_id, use) == (page, False)
    assert page.left == 629.5
    page, _ = spools.weigh(workspace, ACTOR, spool_id, NewWeighing(id=new_id(), raw="0.84 kg", at=ago(2)))
    assert (page.left, page.course[-1].correction) == (pytest.approx(626), pytest.approx(-3.5))
    with pytest.raises(QuestionError, match="74 g more than the book holds"):
        spools.weigh(workspace, ACTOR, spool_id, NewWeighing(id=new_id(), raw="914", at=ago(1)))
    with pytest.raises(QuestionError, match=r"more than the 626 g"):
        spools.take_filament(workspace, ACTOR, spool_id, NewFilamentUse(id=new_id(), raw="700", at=ago(1)))
    page = spools.retract_entry(workspace, ACTOR, Weighing, page.weighings[-1].id, back=False)
    assert page.left == 629.5
    page = spools.edit_spool(workspace, ACTOR, spool_id, SpoolEdit(empty=204), page.revision)
    assert page.left == 639.5, "a better empty mass moves the balance"
    with pytest.raises(StaleError):
        spools.edit_spool(workspace, ACTOR, spool_id, SpoolEdit(lot="8"), page.revision - 1)


def test_a_studys_prints_debit_the_spool_they_are_made_from(workspace):
    page = spool_of(workspace)
    plan = NewStudy(
        id=new_id(),
        title="t",
        arms=[NewArm(id=new_id(), material_id=page.material_id, spool_id=page.id)],
        tests=[NewTest(id=new_id(), orientation="flat", replicates=4)],
    )
    made, _ = planning.create_study(workspace, ACTOR, plan)
    assert spools.get_spool(workspace, page.id).left == 750, "a plan books nothing"
    printed(workspace, made, ago(1), {made.arms[0].id: page.id})
    # 4 × 3.58204 cm³ × 1.29 g/cm³
    assert spools.get_spool(workspace, page.id).left == pytest.approx(750 - 4 * 3.58204 * 1.29, abs=1e-3)
    other = add_petg(workspace, colour="clear")
    wrong = plan.model_copy(
        update={"id": new_id(), "tests": [NewTest(id=new_id(), orientation="flat")], "arms": [NewArm(id=new_id(), material_id=other, spool_id=page.id)]}
    )
    with pytest.raises(EntryError, match="holds another material than arm 1"):
        planning.create_study(workspace, ACTOR, wrong)


def test_the_book_agrees_with_a_plain_account(workspace):
    """A second computation: random prints, weighings and retractions against a running sum."""
    rng = random.Random(5)
    page = spool_of(workspace)
    uses, last = {}, (ago(48), 750.0)
    for k in range(30):
        at = ago(40 - k)
        if rng.random() < 0.25:
            left = last[1] - sum(m for t, m in uses.values() if t > last[0])
            gross = round(214 + left - rng.random(), 1)
            page, _ = spools.weigh(workspace, ACTOR, page.id, NewWeighing(id=new_id(), raw=str(gross), at=at))
            last = (at, gross - 214)
        else:
            key, mass = new_id(), round(rng.uniform(1, 15), 1)
            page, _ = spools.take_filament(workspace, ACTOR, page.id, NewFilamentUse(id=key, raw=str(mass), at=at))
            uses[key] = (at, mass)
            if rng.random() < 0.2:
                gone = rng.choice(list(uses))
                page = spools.retract_entry(workspace, ACTOR, FilamentUse, gone, back=False)
                del uses[gone]
        assert page.left == pytest.approx(last[1] - sum(m for t, m in uses.values() if t > last[0]))


# drying and storage


def dry(page, **more):
    base = {
        "id": new_id(),
        "device": "Loft dryer",
        "temperature": 65,
        "hours": 8,
        "started_at": ago(12),
        "members": [MemberMass(spool_id=page.id, raw="964")],
    }
    return NewDrying(**base | more)


def test_a_session_tells_the_moisture_lost_and_the_state_after(workspace):
    page = spool_of(workspace, storage="open")
    new = dry(page)
    run, is_new = drying.start_drying(workspace, ACTOR, new)
    assert (is_new, drying.start_drying(workspace, ACTOR, new)[1]) == (True, False)
    assert spools.get_spool(workspace, page.id).moisture.kind == "drying"
    with pytest.raises(ConflictError, match=r"is in Loft dryer already"):
        drying.start_drying(workspace, ACTOR, dry(page, started_at=ago(3)))
    end = EndDrying(ended_at=ago(4), members=[MemberMass(spool_id=page.id, raw="960.6")], storage="dry box", place="Box A", humidity=12)
    run = drying.end_drying(workspace, ACTOR, run.id, end, run.revision)
    assert run.members[0].lost == pytest.approx(3.4 / 746.6)
    after = spools.get_spool(workspace, page.id)
    assert (after.moisture.words, after.left) == ("dried 4 h ago (8 h at 65 °C), in dry box", pytest.approx(746.6))
    assert dossier.dossier(workspace, page.material_id).moisture_lost[0].lost == pytest.approx(3.4 / 746.6)
    # undo: it runs again, without the mass after; and once more it is as if it had not been
    run = drying.undo_drying(workspace, ACTOR, run.id, "end")
    assert (run.ended_at, run.members[0].after) == (None, None)
    assert drying.undo_drying(workspace, ACTOR, run.id, "all")
    assert spools.get_spool(workspace, page.id).moisture.words == "2 days open, never dried"


def test_drying_asks_before_it_believes(workspace):
    key = add_petg(workspace)
    page = spool_of(workspace, material_id=key, spool=NewSpool(id=new_id(), material_id=key, received_on=date(2026, 6, 1), heat_limit=60))
    with pytest.raises(QuestionError, match=r"spool of Tarn Clearwater CF bears \(60 °C\)") as caught:
        drying.start_drying(workspace, ACTOR, dry(page))
    new = dry(page, temperature=60)
    run, _ = drying.start_drying(workspace, ACTOR, new)
    confirmed = [q.key for q in caught.value.questions]
    drying.undo_drying(workspace, ACTOR, run.id, "all")
    assert drying.start_drying(workspace, ACTOR, dry(page, confirmed=confirmed))[1]
    run = drying.list_dryings(workspace, 5).items[0]

    def end(**more):
        members = [MemberMass(spool_id=page.id, raw=more.pop("raw", ""))]
        return drying.end_drying(workspace, ACTOR, run.id, EndDrying(**{"ended_at": ago(1), "members": members} | more), run.revision)

    with pytest.raises(QuestionError, match=r"ends 120 min before it starts|ends 2 h before it starts") as caught:
        end(ended_at=ago(14))
    assert caught.value.questions[0].likely == (ago(14) + timedelta(days=1)).isoformat()
    for raw, words in (("966", "gained 2.0 g by drying"), ("900", "lost 9.3%")):
        with pytest.raises(QuestionError, match=words):
            end(raw=raw)
    with pytest.raises(QuestionError, match="lies in the future"):
        end(ended_at=NOW + timedelta(hours=2))
    assert end(raw="961").ended_at == ago(1)
    with pytest.raises(StaleError):
        end()


def test_places_hold_their_spools_and_humidity(workspace):
    page = spool_of(workspace)
    move = NewStorage(moves=[NewMove(id=new_id(), spool_id=page.id)], storage="dry box", place="Box B", humidity=35, at=ago(10))
    storage.store_spools(workspace, ACTOR, move)
    places = storage.store_spools(workspace, ACTOR, move).items
    assert [(p.storage, p.place, p.humidity, len(p.spools)) for p in places] == [("dry box", "Box B", 35, 1)]
    assert spools.get_spool(workspace, page.id).moisture.open_hours == 10, "a damp box is as good as open"


# fit, day sheet, dossier


def test_fit_to_print_of_a_spool_at_a_printer(workspace):
    page = spool_of(workspace)
    printer, _ = printers.add_printer(workspace, ACTOR, NewPrinter(id=new_id(), name="Bench One", nozzle=0.4, hardened=False, bed_hottest=100))
    settings = PrintSettingsIn(bed_temperature=100, line_width=0.45, layer_height=0.2, speed=120, mass=800)
    report = fit.fit_to_print(workspace, FitQuestion(spool_id=page.id, printer_id=printer.id, settings=settings))
    assert report.flow == pytest.approx(9.7699, abs=5e-5)
    assert {m.rule: m.level for m in report.misses} == {"hardened nozzle": "must", "bed": "must", "balance": "must", "moisture": "must"}
    assert any(m.source == "maker's window for Tarn Clearwater CF (label)" for m in report.misses)
    printers.edit_printer(workspace, ACTOR, printer.id, HardwareIn(hardened=True), 1)
    again = fit.fit_to_print(workspace, FitQuestion(spool_id=page.id, printer_id=printer.id, settings=PrintSettingsIn(bed_temperature=85)))
    assert {m.rule for m in again.misses} == {"moisture"}


def test_the_day_sheet_sorts_what_wants_a_hand(workspace):
    assert sheet.day_sheet(workspace).items == []
    page = spool_of(workspace, popping="much")
    materials.add_claim(workspace, ACTOR, page.material_id, NewClaim(id=new_id(), text="any nozzle will do"))
    intakes.add_spool(workspace, ACTOR, NewSpool(id=new_id(), material_id=page.material_id, received_on=date(2026, 6, 15)))
    assert [(i.kind, i.state) for i in sheet.day_sheet(workspace).items] == [("intake", "due"), ("to dry", "due"), ("contradiction", "doubt")]
    drying.start_drying(workspace, ACTOR, dry(page, started_at=ago(3)))
    states = []
    for hours in (0, 5.5, 7):
        workspace.clock = lambda hours=hours: NOW + timedelta(hours=hours)
        states.append(next(i.state for i in sheet.day_sheet(workspace).items if i.kind == "dryer"))
    assert states == ["running", "due", "late"]
    workspace.clock = lambda: NOW + timedelta(days=8)
    assert [i.state for i in sheet.day_sheet(workspace).items if i.kind == "intake"] == ["late"]


def test_a_spool_that_lay_open_too_long_is_due_again(workspace):
    page = spool_of(workspace, popping="some")
    run, _ = drying.start_drying(workspace, ACTOR, dry(page))
    end = EndDrying(ended_at=ago(4), storage="open", place="on the printer")
    drying.end_drying(workspace, ACTOR, run.id, end, run.revision)

    def to_dry(hours):
        workspace.clock = lambda: NOW + timedelta(hours=hours)
        return [i.text for i in sheet.day_sheet(workspace).items if i.kind == "to dry"]

    # PETG may lie open for 7 days
    assert to_dry(163) == []
    assert to_dry(165) == [f"{page.code} · dry again: 65 °C for 8 h · dried 7 days ago (8 h at 65 °C), open 7 days"]


def test_another_check_knows_the_label_and_the_empty_spool(workspace):
    page = spool_of(workspace)
    again = IntakePreviewRequest(material_id=page.material_id, spool_id=page.id, gross="900")
    found = intakes.preview_intake(workspace, again)
    assert (found.net, found.questions) == (686, [])
    assert intakes.preview_intake(workspace, IntakePreviewRequest(material_id=page.material_id, label_net=750, gross="900")).questions, "a new one is asked"


def test_colours_measured_alike_stand_side_by_side(workspace):
    """Two colours in one study on one rig: each with its own mean, and how far they lie apart."""
    keys = [add_petg(workspace, colour=c) for c in ("black", "grey")]
    frame = rigs.add_rig(workspace, ACTOR, rig())[0].id
    plan = NewStudy(
        id=new_id(),
        title="Colours",
        arms=[NewArm(id=new_id(), material_id=k) for k in keys],
        tests=[NewTest(id=new_id(), orientation="flat", replicates=2)],
    )
    made, _ = planning.create_study(workspace, ACTOR, plan)
    printed(workspace, made, ago(1))
    test = made.tests[0].id
    peaks = {"black": ["60", "62"], "grey": ["50", "51"]}
    for item in queue.queue(workspace, test, "st", blind=False).items:
        runs.accept(workspace, ACTOR, run(item.specimen_id, test, frame, peaks[item.arm.material.colour].pop()))
    (spread,) = dossier.dossier(workspace, keys[0]).line_spread
    assert [(m.colour, m.n) for m in spread.means] == [("grey", 2), ("black", 2)]
    assert spread.ratio == pytest.approx(61 / 50.5)
    assert [g.n for g in dossier.dossier(workspace, keys[0]).history if g.main] == [2], "never put together"


def test_the_dossier_keeps_colours_apart_and_reported_beside_measured(workspace):
    black = add_petg(workspace, price=58.0, currency="€")
    grey = add_petg(workspace, colour="grey", price=61.5, currency="€", density=1.31, hex="#888888")
    materials.add_claim(workspace, ACTOR, black, NewClaim(id=new_id(), text="stiffness 4,2 GPa (ISO 527)", source="leaflet"))
    found = dossier.dossier(workspace, grey)
    assert [(m.colour, m.differs) for m in found.line] == [("black", ["density 1.29 g/cm³", "77.33 €/kg"]), ("grey", [])]
    assert [(c.colour, c.label, c.source) for c in found.claims] == [("black", "tensile modulus", "leaflet")]
    assert found.shapes[0].mass == pytest.approx(3.58204 * 1.31, abs=1e-4)
    assert found.material.per_specimen == pytest.approx(61.5 / 750 * 3.58204 * 1.31, abs=1e-5)
    text = "Maker\tProduct\tColour\tQuantity\tValue\tUnit\tn\nTarn\tClearwater CF\tgrey\ttensile strength\t48,5\tMPa\t3"
    assert lists.run_import(workspace, ACTOR, ImportText(kind="reported", text=text)).kept == 1
    found = dossier.dossier(workspace, grey)
    assert [(r.quantity, r.value, r.n) for r in found.reported] == [("tensile strength", 48.5, 3)]
    assert found.history == []
    claim = dossier.dossier(workspace, black).claims[0]
    materials.retract(workspace, ACTOR, Claim, claim.id, back=False)
    assert dossier.dossier(workspace, black).claims == []
    materials.retract(workspace, ACTOR, Claim, claim.id, back=True)
    assert len(dossier.dossier(workspace, black).claims) == 1


def test_edits_are_checked_and_logged(workspace):
    key = add_petg(workspace)
    other = add_petg(workspace, colour="grey")
    with pytest.raises(QuestionError, match=r"was 1.27 g/cm³ meant"):
        materials.edit_material(workspace, ACTOR, key, MaterialEdit(density=12.7), 1)
    with pytest.raises(EntryError, match="upside down"):
        materials.edit_material(workspace, ACTOR, key, MaterialEdit(window=WindowIn(bed_low=85, bed_high=70)), 1)
    with pytest.raises(ConflictError, match="already there"):
        materials.edit_material(workspace, ACTOR, other, MaterialEdit(colour="BLACK"), 1)
    with pytest.raises(QuestionError, match=r"was 250 °C meant"):
        materials.edit_material(workspace, ACTOR, key, MaterialEdit(window=WindowIn(nozzle_high=25)), 1)
    assert materials.edit_material(workspace, ACTOR, key, MaterialEdit(density=1.28, obtained="sent free"), 1) == 2
    with pytest.raises(StaleError):
        materials.edit_material(workspace, ACTOR, key, MaterialEdit(density=1.3), 1)
    last = dossier.dossier(workspace, key).record[0]
    assert (last.action, [(c.name, c.before, c.after) for c in last.changes]) == ("edited", [("density", "1.29", "1.28"), ("obtained", "", "sent free")])


def test_stock_is_filtered_and_sorted(workspace):
    lists.run_import(workspace, ACTOR, ImportText(kind="materials", text=LIST.read_text("utf-8")))
    by = {i.colour: i for i in listing.list_stock(workspace, listing.StockQuery()).items}
    page = spool_of(workspace, material_id=by["moss"].id, gross="1250", empty="247")

    def names(**asked):
        return [i.colour for i in listing.list_stock(workspace, listing.StockQuery(**asked)).items]

    assert names(words="tarn CARBON") == ["black"]
    assert names(words=page.code.lower()) == ["moss"]
    assert names(words="50%_") == []
    assert names(polymer="PLA") == ["amber", "ivory"]
    assert names(filled=True) == ["grey", "natural", "black"]
    assert names(state="fit") == ["moss"]
    assert len(names(state="none")) == 7
    assert names(sort="price")[:2] == ["amber", "ivory"]
    assert names(sort="price")[-1] == "natural"
    spools.edit_spool(workspace, ACTOR, page.id, SpoolEdit(gone_why="used up"), page.revision)
    assert names(state="at hand") == []


# lists


def test_the_labs_own_list_goes_in_with_eight_and_a_word_on_each_of_the_rest(workspace):
    text = LIST.read_text("utf-8")
    asked = ImportText(kind="materials", text=text)
    assert lists.preview_import(workspace, asked).counts == {"new": 8, "there": 0, "question": 1, "error": 2}
    assert listing.list_stock(workspace, listing.StockQuery()).total == 0, "a preview keeps nothing"
    done = lists.run_import(workspace, ACTOR, asked)
    rows = {r.row: r for r in done.rows}
    assert done.kept == 8
    assert [e.text for e in rows[9].errors] == ["Stell Pliant in white stands in row 8 already: leave one of them out"]
    assert [(q.field, q.likely, q.text) for q in rows[10].questions] == [("density", "1.27", "density 12.7 g/cm³: was 1.27 g/cm³ meant?")]
    assert [e.field for e in rows[11].errors] == ["filler_share", "nozzle"]
    assert "120 %" in rows[11].errors[0].text
    assert "was 270–290 meant?" in rows[11].errors[1].text
    listed = listing.list_stock(workspace, listing.StockQuery())
    assert (listed.total, sum(i.contradictions for i in listed.items)) == (8, 1)
    grey = next(i for i in listed.items if i.colour == "grey")
    found = dossier.dossier(workspace, grey.id)
    assert found.contradictions[0].text == "hardened nozzle: “no hardened nozzle needed” against “wears soft nozzles, use a hardened one”"
    w = found.window
    assert (w.nozzle_low, w.nozzle_high, w.chamber_low, w.nozzle_min, w.dry_time, w.hardened) == (250, 272, 50, 0.5, 9, False)
    amber = next(i for i in listed.items if i.colour == "amber")
    assert [(c.text, c.relation, c.value) for c in dossier.dossier(workspace, amber.id).claims] == [
        ("three times the impact strength of our Hearth", "times", 3)
    ]
    # sent again nothing is doubled; the answered question brings the ninth
    again = lists.run_import(workspace, ACTOR, asked)
    assert (again.kept, again.counts["there"]) == (0, 8)
    answered = asked.model_copy(update={"answers": [ImportAnswer(row=10, field="density", raw="1,27")]})
    assert lists.run_import(workspace, ACTOR, answered).kept == 1
    honey = next(i for i in listing.list_stock(workspace, listing.StockQuery()).items if i.colour == "honey")
    assert (honey.density, honey.note) == (1.27, "density slipped by a decimal")


def test_an_odd_value_stands_once_it_is_confirmed(workspace):
    text = "Maker,Product,Polymer,Colour,Density\nStell,Ballast,PP,grey,4.1"
    asked = ImportText(kind="materials", text=text, answers=[ImportAnswer(row=1, field="density", raw="4.1")])
    assert lists.run_import(workspace, ACTOR, asked).kept == 1
    assert listing.list_stock(workspace, listing.StockQuery()).items[0].density == 4.1


def test_what_goes_out_comes_in_again(workspace, tmp_path):
    lists.run_import(workspace, ACTOR, ImportText(kind="materials", text=LIST.read_text("utf-8")))
    key = listing.list_stock(workspace, listing.StockQuery(words="smoke")).items[0].id
    materials.add_claim(workspace, ACTOR, key, NewClaim(id=new_id(), text='=SUM("evil")', source="box"))
    tables = {kind: lists.export_table(workspace, kind) for kind in ("materials", "claims")}
    assert "'=SUM" in tables["claims"], "a spreadsheet must not read a formula"
    other = Workspace(tmp_path / "other", lambda: NOW, durable=False)
    for kind, text in tables.items():
        done = lists.run_import(other, ACTOR, ImportText(kind=kind, text=text))
        assert done.kept == len(done.rows), done.counts
        assert lists.export_table(other, kind) == text
    other.close()


@pytest.mark.parametrize(
    ("kind", "text", "line", "words"),
    [
        ("materials", "Maker", 1, "one cell only"),
        ("materials", "Maker;Product;Polymer;Colour", None, "no row below"),
        ("materials", "Maker;Product;Colour\na;b;c", 1, "no column 'Polymer'"),
        ("materials", "Maker;Maker;Product;Polymer;Colour\na;a;b;c;d", 1, "two columns are 'Maker'"),
        ("claims", "Maker;Product\na;b", 1, "no column 'Claim'"),
    ],
)
def test_a_list_that_is_none_is_refused_with_its_line(workspace, kind, text, line, words):
    with pytest.raises(FileError, match=words) as caught:
        lists.preview_import(workspace, ImportText(kind=kind, text=text))
    assert caught.value.line == line


def test_a_claim_of_a_product_in_several_colours_says_of_which(workspace):
    add_petg(workspace, colour="black")
    text = "Maker;Product;Claim;Colour\nTARN;clearwater cf;no warping;"
    assert lists.preview_import(workspace, ImportText(kind="claims", text=text)).counts["new"] == 1
    add_petg(workspace, colour="grey")
    found = lists.preview_import(workspace, ImportText(kind="claims", text=text))
    assert found.rows[0].errors[0].text == "TARN clearwater cf comes in black, grey: say of which colour it was said"
    assert lists.run_import(workspace, ACTOR, ImportText(kind="claims", text=text + "grey")).kept == 1


def test_claims_of_an_unknown_product_are_named(workspace):
    found = lists.preview_import(workspace, ImportText(kind="claims", text="Maker;Product;Claim\nTarn;Cleerwater;no warping"))
    assert [(e.field, e.text) for e in found.rows[0].errors] == [("product", "Tarn Cleerwater is not in the stock: add it first, or check the spelling")]


# labels


def test_labels_carry_code_swatch_and_a_qr_code_of_the_set_address(workspace):
    page = spool_of(workspace)
    svg = labels.label(workspace, page.code)
    assert page.code in svg
    assert "Tarn Clearwater CF" in svg
    assert labels.get_preferences(workspace).label_base_url == "http://127.0.0.1:8717"
    labels.set_preferences(workspace, ACTOR, PreferencesEdit(label_base_url="http://workshop.local/"))
    changed = labels.label(workspace, page.code.lower())
    assert changed != svg
    # the modules drawn are those of the code for this address
    wanted = [
        (x, y)
        for y, row in enumerate(segno.make_qr(f"http://workshop.local/c/{page.code}", error="m").matrix_iter(border=4))
        for x, bit in enumerate(row)
        if bit
    ]
    path = re.search(r'<path transform[^>]* d="([^"]*)"', changed)[1]
    assert [(int(x), int(y)) for x, y in re.findall(r"M(\d+) (\d+)h1", path)] == wanted


def test_a_spool_shares_the_space_of_codes(workspace):
    page = spool_of(workspace)
    found = codes.resolve_code(workspace, f"http://workshop.local/c/{page.code}")
    assert (found.kind, found.id) == ("spool", page.id)
    with workspace.read() as session:
        assert session.get(Spool, page.id).code == page.code
