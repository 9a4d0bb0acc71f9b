"""Printers as they stand."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import fields
from typing import TYPE_CHECKING

from sqlalchemy import select

from assayer.core.errors import ConflictError
from assayer.core.filament.fit import Hardware
from assayer.core.filament.hardware_slips import questions_hardware
from assayer.core.quantities.slips import ask
from assayer.services.printing.views import PrinterList, PrinterView
from assayer.services.unit import Actor, Workspace, expect_revision, find
from assayer.store.models import Printer

if TYPE_CHECKING:
    from assayer.services.printing.requests import HardwareIn, NewPrinter, PrinterEdit

_OF_RULES = tuple(f.name for f in fields(Hardware) if f.name != "name")


def hardware_of(printer: Printer) -> Hardware:
    """The printer as the rules see it."""
    return Hardware(**{name: getattr(printer, name) for name in _OF_RULES}, name=printer.name)


def hardware_told(told: HardwareIn) -> Hardware:
    """A printer that is not in the notebook."""
    return Hardware(**told.model_dump(include=set(_OF_RULES)))


def facts_in_numbers(facts: Mapping[str, object]) -> dict[str, float]:
    """Of facts those that are numbers, not flags or words."""
    return {name: float(value) for name, value in facts.items() if isinstance(value, int | float) and not isinstance(value, bool)}


def printer_view(p: Printer) -> PrinterView:
    return PrinterView.model_validate(p)


def list_printers(workspace: Workspace) -> PrinterList:
    with workspace.read() as session:
        return PrinterList(items=[printer_view(p) for p in session.scalars(select(Printer).order_by(Printer.name))])


def add_printer(workspace: Workspace, actor: Actor, new: NewPrinter) -> tuple[PrinterView, bool]:
    """Add a printer; the same id and name again changes nothing (second value False)."""
    with workspace.write(actor, (new.id, new)) as unit:
        there = unit.session.get(Printer, new.id)
        if there is not None:
            unit.refuse_other("printer", printer_view(there), alike=there.name == new.name)
            return printer_view(there), False
        if unit.session.scalar(select(Printer).where(Printer.name == new.name)) is not None:
            raise ConflictError(f"there is already a printer called '{new.name}'")
        facts = new.model_dump(exclude={"confirmed"})
        ask(questions_hardware(facts_in_numbers(facts)), new.confirmed)
        printer = Printer(**facts, created_at=unit.now)
        unit.session.add(printer)
        unit.session.flush()
        unit.log("printer", printer.id, "added", after=new.model_dump(mode="json", exclude={"confirmed"}))
        return printer_view(printer), True


def edit_printer(workspace: Workspace, actor: Actor, printer_id: str, edit: PrinterEdit, revision: int) -> PrinterView:
    """A nozzle or bed surface was changed."""
    with workspace.write(actor) as unit:
        printer = find(unit.session, Printer, printer_id)
        expect_revision(revision, printer.revision, "the printer", printer_view(printer))
        given = edit.model_dump(exclude_unset=True, exclude={"confirmed"})
        # what stands already was asked about when it was entered
        ask(questions_hardware(facts_in_numbers({k: v for k, v in given.items() if v != getattr(printer, k)})), edit.confirmed)
        before = {k: getattr(printer, k) for k in given}
        for name, value in given.items():
            setattr(printer, name, value)
        printer.revision += 1
        unit.log("printer", printer.id, "edited", before, given)
        return printer_view(printer)
