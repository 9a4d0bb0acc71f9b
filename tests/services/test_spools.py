"""From the sealed bag to fit to print, through the services the API calls: intake, balance, drying, places, the day sheet."""

import random
from datetime import date, timedelta

import pytest
from sqlalchemy import select

from assayer.core.errors import ConflictError, EntryError, QuestionError, StaleError
from assayer.core.quantities.slips import question_order
from assayer.services.day import sheet
from assayer.services.printing import fit, printers
from assayer.services.printing.requests import FitQuestion, HardwareIn, NewPrinter, PrinterEdit, PrintSettingsIn
from assayer.services.reports import dossier
from assayer.services.sessions import drying
from assayer.services.sessions.requests import EndDrying, MassCorrection, MemberMass, NewDrying
from assayer.services.stock import intakes, listing, materials, spools, storage
from assayer.services.stock.requests import (
    IntakePreviewRequest,
    NewClaim,
    NewFilamentUse,
    NewIntake,
    NewMove,
    NewSpool,
    NewStorage,
    NewWeighing,
    SpoolEdit,
)
from assayer.services.studies import planning
from assayer.services.studies.requests import NewArm, NewStudy, NewTest
from assayer.store.models import FilamentUse, Weighing

from ..conftest import NOW
from ..support import ACTOR, new_id, printed
from .stockroom import add_petg, ago, intake, spool_of


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
    shelf = [s for p in storage.list_places(workspace).items for s in p.spools if s.id == page.id]
    assert [(s.dried, s.decision) for s in shelf] == [(True, after.decision)]
    # undo: it runs again, without the mass after; and once more it is as if it had not been
    run = drying.undo_drying(workspace, ACTOR, run.id, "end")
    assert (run.ended_at, run.members[0].after) == (None, None)
    assert drying.undo_drying(workspace, ACTOR, run.id, "all")
    assert spools.get_spool(workspace, page.id).moisture.words == "2 days open, never dried"


@pytest.mark.parametrize(
    ("raw", "words", "likely"),
    [("200", "no more than the empty spool", "414"), ("750", "net mass typed for the gross one", "964"), ("1300", "above the label", "964")],
)
def test_a_mass_that_cannot_be_is_asked_about_before_it_dries(workspace, raw, words, likely):
    """An empty spool of 214 g with 750 g on it."""
    page = spool_of(workspace, storage="open")
    with pytest.raises(QuestionError, match=words) as asked:
        drying.start_drying(workspace, ACTOR, dry(page, members=[MemberMass(spool_id=page.id, raw=raw)]))
    (question,) = asked.value.questions
    assert (question.field, question.row, question.likely) == ("members", 1, likely)
    assert drying.start_drying(workspace, ACTOR, dry(page, members=[MemberMass(spool_id=page.id, raw=raw)], confirmed=[question.key]))[1]


def test_a_mass_is_corrected_later_and_the_former_one_stays_on_record(workspace):
    page = spool_of(workspace, storage="open")
    run, _ = drying.start_drying(workspace, ACTOR, dry(page, members=[MemberMass(spool_id=page.id, raw="")]))
    other = spool_of(workspace, material_id=page.material_id)

    def correct(moment, raw, spool=page, **more):
        return drying.correct_mass(workspace, ACTOR, run.id, MassCorrection(spool_id=spool.id, moment=moment, raw=raw, **more), run.revision)

    with pytest.raises(ConflictError, match="runs still"):
        correct("after", "960")
    with pytest.raises(EntryError, match="not in the session"):
        correct("before", "960", other)
    run = correct("before", "946")
    run = drying.end_drying(workspace, ACTOR, run.id, EndDrying(ended_at=ago(4), members=[MemberMass(spool_id=page.id, raw="940")]), run.revision)
    with pytest.raises(QuestionError, match="no more than the empty spool"):
        correct("before", "96.4")
    run = correct("before", "964")
    run = correct("after", "960.6")
    assert (run.members[0].before, run.members[0].after) == (964, 960.6)
    assert run.members[0].lost == pytest.approx(3.4 / 746.6)
    with workspace.read() as session:
        kept = session.scalars(select(Weighing).where(Weighing.session_id == run.id)).all()
    assert sorted((w.raw, w.retracted_at is None) for w in kept) == [("940", False), ("946", False), ("960.6", True), ("964", True)]


@pytest.mark.parametrize("before, said", [(119, "119 min"), (120, "2 h"), (300, "5 h")])
def test_an_end_before_its_start_says_by_how_much_and_asks_for_the_next_day(before, said):
    asked = question_order("ended_at", NOW, NOW - timedelta(minutes=before), "drying")
    assert asked.text.startswith(f"drying ends {said} before it starts: was the next day meant")
    assert asked.likely == (NOW - timedelta(minutes=before) + timedelta(days=1)).isoformat()
    assert question_order("ended_at", NOW, NOW, "drying") is None
    assert question_order("ended_at", NOW, NOW - timedelta(days=1), "drying").likely == NOW.isoformat()
    assert question_order("ended_at", NOW, NOW - timedelta(days=1, minutes=1), "drying").likely is None


def test_drying_asks_before_it_believes(workspace):
    key = add_petg(workspace)
    page = spool_of(workspace, material_id=key, spool=NewSpool(id=new_id(), material_id=key, received_on=date(2026, 6, 1), heat_limit=60))
    with pytest.raises(QuestionError, match=r"spool of \w+ \(Tarn Clearwater CF\) bears \(60 °C\)") as caught:
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
        end(ended_at=ago(2))


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
    printers.edit_printer(workspace, ACTOR, printer.id, PrinterEdit(hardened=True), 1)
    again = fit.fit_to_print(workspace, FitQuestion(spool_id=page.id, printer_id=printer.id, settings=PrintSettingsIn(bed_temperature=85)))
    assert {m.rule for m in again.misses} == {"moisture"}
    guessed = FitQuestion(spool_id=page.id, hardware=HardwareIn(hardened=False, nozzle=0.4), settings=PrintSettingsIn(bed_temperature=85))
    assert {m.rule for m in fit.fit_to_print(workspace, guessed).misses} == {"moisture", "hardened nozzle"}, "a machine that is not in the book"


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
