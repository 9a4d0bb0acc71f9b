"""Nozzles, bed surfaces and dated changes corrected, withdrawn and entered late: what is on a printer follows from what stands."""

from datetime import timedelta

import pytest

from assayer.core.errors import ConflictError, EntryError, QuestionError, StaleError
from assayer.core.filament.hardware_slips import questions_hardware
from assayer.services.dial_in import hardware, hardware_changes
from assayer.services.dial_in.requests import BedSurfaceEdit, NewBedSurface, NewNozzle, NewPrinterChange, NozzleEdit, PrinterChangeEdit
from assayer.services.printing import printers
from assayer.services.printing.requests import NewPrinter, PrinterEdit

from ..support import ACTOR, AT, new_id


class Shop:
    """A printer of its own, and what is put on it."""

    def __init__(self, workspace):
        self.workspace = workspace
        self.printer = self.add("Warm Box", nozzle=0.4, hardened=False, bed_surface="glass")
        self.ids = {}

    def add(self, name, **facts):
        return printers.add_printer(self.workspace, ACTOR, NewPrinter(id=new_id(), name=name, **facts))[0].id

    def nozzle(self, name, diameter, **more):
        self.ids[name] = new_id()
        hardware.add_nozzle(self.workspace, ACTOR, NewNozzle(id=self.ids[name], name=name, diameter=diameter, **more))

    def surface(self, name):
        self.ids[name] = new_id()
        hardware.add_bed_surface(self.workspace, ACTOR, NewBedSurface(id=self.ids[name], name=name))

    def fit(self, name, days, printer=None, **more):
        change = NewPrinterChange(id=new_id(), at=AT - timedelta(days=days), kind="nozzle", nozzle_id=self.ids[name], **more)
        hardware_changes.change_printer(self.workspace, ACTOR, printer or self.printer, change)
        return change.id

    def lay(self, name, days, **more):
        change = NewPrinterChange(id=new_id(), at=AT - timedelta(days=days), kind="bed surface", bed_surface_id=self.ids[name], **more)
        hardware_changes.change_printer(self.workspace, ACTOR, self.printer, change)
        return change.id

    def on(self, printer=None):
        """The names of nozzle and surface on a printer, and its own facts."""
        view = hardware.hardware(self.workspace)
        p = next(x for x in view.printers if x.id == (printer or self.printer))
        facts = next(x for x in printers.list_printers(self.workspace).items if x.id == p.id)
        names = [next((n.name for n in (*view.nozzles, *view.bed_surfaces) if n.id == i), None) for i in (p.nozzle_id, p.bed_surface_id)]
        return (*names, facts.nozzle, facts.hardened, facts.bed_surface)

    def change(self, change_id):
        return next(c for p in hardware.hardware(self.workspace).printers for c in p.changes if c.id == change_id)

    def edit(self, change_id, **told):
        return hardware_changes.edit_change(self.workspace, ACTOR, change_id, PrinterChangeEdit(**told), self.change(change_id).revision)

    def part(self, name):
        view = hardware.hardware(self.workspace)
        return next(x for x in (*view.nozzles, *view.bed_surfaces) if x.name == name)


@pytest.fixture
def shop(workspace):
    shop = Shop(workspace)
    shop.nozzle("Steel 0.6", 0.6, hardened=True)
    shop.nozzle("Brass 0.4", 0.4)
    return shop


def test_a_change_entered_for_a_past_day_stands_behind_what_came_later(shop):
    shop.fit("Brass 0.4", 2)
    shop.fit("Steel 0.6", 9)
    assert shop.on() == ("Brass 0.4", None, 0.4, False, "glass")
    texts = [c.text for c in hardware.hardware(shop.workspace).printers[0].changes]
    assert texts == ["Brass 0.4 fitted", "Steel 0.6 fitted"], "the latest day first"


def test_a_change_that_is_taken_back_leaves_what_was_there_before_it(shop):
    shop.fit("Steel 0.6", 9)
    wrong = shop.fit("Brass 0.4", 2, retire=True)
    assert shop.part("Steel 0.6").retired_at == AT - timedelta(days=2)
    hardware_changes.retract_change(shop.workspace, ACTOR, wrong, back=False)
    assert shop.on()[0] == "Steel 0.6"
    assert (shop.on()[2:4], shop.part("Steel 0.6").retired_at, shop.part("Brass 0.4").printer_id) == ((0.6, True), None, None)
    hardware_changes.retract_change(shop.workspace, ACTOR, wrong, back=True)
    assert (shop.on()[0], shop.part("Steel 0.6").retired_at) == ("Brass 0.4", AT - timedelta(days=2))


def test_without_a_named_part_the_printers_own_facts_hold_again(shop):
    shop.surface("Taped glass")
    first, second = shop.fit("Steel 0.6", 9), shop.lay("Taped glass", 8)
    assert shop.on() == ("Steel 0.6", "Taped glass", 0.6, True, "Taped glass")
    hardware_changes.retract_change(shop.workspace, ACTOR, first, back=False)
    assert shop.on() == (None, "Taped glass", 0.4, False, "Taped glass")
    hardware_changes.retract_change(shop.workspace, ACTOR, second, back=False)
    assert shop.on() == (None, None, 0.4, False, "glass")


def test_a_nozzle_put_on_another_printer_is_off_the_first(shop):
    other = shop.add("Bench One", nozzle=0.25)
    shop.fit("Steel 0.6", 9)
    moved = shop.fit("Steel 0.6", 3, other)
    assert (shop.on()[0], shop.on(other)[0], shop.on()[2]) == (None, "Steel 0.6", 0.4)
    hardware_changes.retract_change(shop.workspace, ACTOR, moved, back=False)
    assert (shop.on()[0], shop.on(other)[0], shop.on(other)[2]) == ("Steel 0.6", None, 0.25)


def test_a_change_is_corrected_with_its_history(shop):
    change = shop.fit("Steel 0.6", 9, text="for glass fibre")
    shop.edit(change, nozzle_id=shop.ids["Brass 0.4"], at=AT - timedelta(days=7))
    kept = shop.change(change)
    assert (kept.text, kept.own, kept.at, shop.on()[0]) == ("Brass 0.4 fitted; for glass fibre", "for glass fibre", AT - timedelta(days=7), "Brass 0.4")
    lines = hardware.record(shop.workspace, shop.printer).items
    corrected = next(e for e in lines if e.action == "change corrected")
    assert {c.name: (c.before, c.after) for c in corrected.changes}["what"] == ("Steel 0.6 fitted; for glass fibre", "Brass 0.4 fitted; for glass fibre")
    with pytest.raises(StaleError):
        hardware_changes.edit_change(shop.workspace, ACTOR, change, PrinterChangeEdit(text="x"), kept.revision - 1)
    with pytest.raises(QuestionError, match="lies in the future"):
        shop.edit(change, at=AT + timedelta(days=9000))
    with pytest.raises(EntryError, match="say what was changed"):
        shop.edit(change, nozzle_id=None, text="", kind="other")
    hardware_changes.retract_change(shop.workspace, ACTOR, change, back=False)
    with pytest.raises(ConflictError, match="bring it back"):
        hardware_changes.edit_change(shop.workspace, ACTOR, change, PrinterChangeEdit(text="x"), kept.revision + 1)


def test_a_retired_nozzle_is_not_fitted_on_a_later_day(shop):
    shop.fit("Steel 0.6", 9)
    shop.fit("Brass 0.4", 5, retire=True)
    with pytest.raises(ConflictError, match="retired on"):
        shop.fit("Steel 0.6", 2)
    assert shop.on()[0] == "Brass 0.4", "nothing of the refused change was kept"
    shop.fit("Steel 0.6", 7)


def test_a_bore_of_4_mm_is_asked_about_and_a_corrected_one_tells_the_printer(shop):
    with pytest.raises(QuestionError, match=r"a bore of 4 mm: was 0\.4 mm meant\?") as asked:
        shop.nozzle("Slip", 4.0)
    shop.nozzle("Great", 4.0, confirmed=[asked.value.questions[0].key])
    shop.fit("Great", 3)
    hardware.edit_nozzle(shop.workspace, ACTOR, shop.ids["Great"], NozzleEdit(diameter=0.8, name="Coarse"), shop.part("Great").revision)
    assert shop.on()[:3] == ("Coarse", None, 0.8)
    with pytest.raises(QuestionError):
        hardware.edit_nozzle(shop.workspace, ACTOR, shop.ids["Great"], NozzleEdit(diameter=8.0), shop.part("Coarse").revision)
    with pytest.raises(ConflictError, match="already a nozzle called"):
        hardware.edit_nozzle(shop.workspace, ACTOR, shop.ids["Great"], NozzleEdit(name="Steel 0.6"), shop.part("Coarse").revision)
    assert [e.action for e in hardware.record(shop.workspace, shop.ids["Great"]).items] == ["added", "corrected"]


def test_a_surface_is_renamed_on_its_printer_too(shop):
    shop.surface("Sheet")
    shop.lay("Sheet", 3)
    hardware.edit_bed_surface(shop.workspace, ACTOR, shop.ids["Sheet"], BedSurfaceEdit(name="Rough sheet", note="second side"), shop.part("Sheet").revision)
    assert (shop.on()[1], shop.on()[4], shop.part("Rough sheet").note) == ("Rough sheet", "Rough sheet", "second side")


def test_what_was_entered_by_mistake_is_withdrawn_unless_it_is_on_a_printer(shop):
    change = shop.fit("Steel 0.6", 3)
    with pytest.raises(ConflictError, match="take that change back first"):
        hardware.withdraw_nozzle(shop.workspace, ACTOR, shop.ids["Steel 0.6"], back=False)
    hardware_changes.retract_change(shop.workspace, ACTOR, change, back=False)
    view = hardware.withdraw_nozzle(shop.workspace, ACTOR, shop.ids["Steel 0.6"], back=False)
    assert [n.name for n in view.nozzles] == ["Brass 0.4"]
    assert [n.name for n in hardware.withdraw_nozzle(shop.workspace, ACTOR, shop.ids["Steel 0.6"], back=True).nozzles] == ["Brass 0.4", "Steel 0.6"]
    shop.surface("Sheet")
    assert hardware.withdraw_bed_surface(shop.workspace, ACTOR, shop.ids["Sheet"], back=False).bed_surfaces == []


def test_odd_facts_of_a_printer_are_asked_about_once(workspace):
    new = NewPrinter(id=new_id(), name="Warm Box", build_z=2.5, nozzle=0.4)
    with pytest.raises(QuestionError, match=r"a build height of 2\.5 mm: was 250 mm meant\?") as asked:
        printers.add_printer(workspace, ACTOR, new)
    made = printers.add_printer(workspace, ACTOR, new.model_copy(update={"confirmed": [asked.value.questions[0].key]}))[0]
    assert made.build_z == 2.5
    # sent along unchanged it is not asked about again, another odd one is
    edited = printers.edit_printer(workspace, ACTOR, made.id, PrinterEdit(build_z=2.5, build_x=220), made.revision)
    with pytest.raises(QuestionError, match="a nozzle of 4 mm"):
        printers.edit_printer(workspace, ACTOR, made.id, PrinterEdit(nozzle=4.0), edited.revision)


def test_usual_facts_of_printers_raise_no_question():
    usual = {
        "nozzle": 0.4,
        "strand": 2.85,
        "holder": 52,
        "nozzle_hottest": 300,
        "bed_hottest": 110,
        "chamber_hottest": 60,
        "build_z": 250,
        "acceleration": 12000,
    }
    assert questions_hardware(usual | {"margin": 4.0, "build_x": None}) == []
    assert [q.likely for q in questions_hardware({"strand": 175, "bed_hottest": 1100})] == ["1.75", "110"]
