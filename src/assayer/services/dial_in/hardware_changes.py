"""Dated changes of printers: recorded, also for a past day, corrected and withdrawn; the fitted parts follow from the active changes."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from sqlalchemy import select
from sqlalchemy.orm import InstrumentedAttribute

from assayer.core.errors import ConflictError, EntryError
from assayer.core.quantities.slips import ask, question_past
from assayer.services.dial_in.hardware import hardware_view, update_printer
from assayer.services.dial_in.hardware_views import HardwareView
from assayer.services.unit import Actor, Unit, Workspace, expect_revision, find
from assayer.store.models import BedSurface, Nozzle, Printer, PrinterChange

if TYPE_CHECKING:
    from assayer.services.dial_in.requests import NewPrinterChange, PrinterChangeEdit


def change_printer(workspace: Workspace, actor: Actor, printer_id: str, new: NewPrinterChange) -> tuple[HardwareView, bool]:
    """Note what changed about a printer; a nozzle or surface that is named is on it from that day, until a later change."""
    with workspace.write(actor, (new.id, new)) as unit:
        printer = find(unit.session, Printer, printer_id)
        there = unit.session.get(PrinterChange, new.id)
        if there is not None:
            unit.refuse_other("change", current := hardware_view(unit.session), same=there.printer_id == printer_id)
            return current, False
        if not new.text and new.nozzle_id is None and new.bed_surface_id is None:
            raise EntryError("say what was changed", "text")
        ask([question_past("at", new.at, unit.now, "changed at")], new.confirmed)
        change = PrinterChange(
            id=new.id, printer_id=printer.id, at=new.at, kind=new.kind, own=new.text, retires=new.retire, nozzle_id=new.nozzle_id,
            bed_surface_id=new.bed_surface_id, entered_at=unit.now, zone=actor.zone, who=actor.who, revision=1,
            stood={"nozzle": printer.nozzle, "hardened": printer.hardened, "bed_surface": printer.bed_surface},
        )  # fmt: skip
        change.text = _summary(unit, change)
        unit.session.add(change)
        unit.session.flush()
        unit.log("printer", printer.id, f"changed: {change.kind}", after={"what": change.text})
        _update_hardware(unit)
        return hardware_view(unit.session), True


def edit_change(workspace: Workspace, actor: Actor, change_id: str, edit: PrinterChangeEdit, revision: int) -> HardwareView:
    """Correct a noted change: its day, what was said, which nozzle or surface; what is on the printer follows."""
    with workspace.write(actor) as unit:
        change = find(unit.session, PrinterChange, change_id)
        expect_revision(revision, change.revision, "the change", hardware_view(unit.session))
        if change.retracted_at is not None:
            raise ConflictError("this change was taken back: bring it back to correct it", hardware_view(unit.session))
        given = edit.model_fields_set - {"confirmed"}
        before = _state(change)
        if edit.at is not None:
            ask([question_past("at", edit.at, unit.now, "changed at")], edit.confirmed)
            change.at = edit.at
        change.kind = edit.kind or change.kind
        if "text" in given:
            change.own = edit.text or ""
        if "nozzle_id" in given:
            change.nozzle_id = edit.nozzle_id
        if "bed_surface_id" in given:
            change.bed_surface_id = edit.bed_surface_id
        if edit.retire is not None:
            change.retires = edit.retire
        if not change.own and change.nozzle_id is None and change.bed_surface_id is None:
            raise EntryError("say what was changed", "text")
        change.text = _summary(unit, change)
        change.revision += 1
        unit.log("printer", change.printer_id, "change corrected", before, _state(change))
        _update_hardware(unit)
        return hardware_view(unit.session)


def retract_change(workspace: Workspace, actor: Actor, change_id: str, back: bool) -> HardwareView:
    """Take a noted change out of the record, or in again; what is on the printer follows."""
    with workspace.write(actor) as unit:
        change = find(unit.session, PrinterChange, change_id)
        change.retracted_at = None if back else unit.now
        change.revision += 1
        unit.log("printer", change.printer_id, "change brought back" if back else "change retracted", after={"what": change.text})
        _update_hardware(unit)
        return hardware_view(unit.session)


def _state(change: PrinterChange) -> dict[str, object]:
    return {"at": change.at.isoformat(), "kind": change.kind, "what": change.text}


def _summary(unit: Unit, change: PrinterChange) -> str:
    nozzle = None if change.nozzle_id is None else find(unit.session, Nozzle, change.nozzle_id)
    surface = None if change.bed_surface_id is None else find(unit.session, BedSurface, change.bed_surface_id)
    done = [f"{nozzle.name} fitted"] if nozzle is not None else []
    done += [f"{surface.name} laid on"] if surface is not None else []
    return "; ".join([*done, *([change.own] if change.own else [])])


def _update_hardware(unit: Unit) -> None:
    """Recompute the fitted parts of all printers from the active changes, in the order of their dates.

    A part is where the latest change that names it put it, unless a later one put another part there; it is
    retired from the day on which a change says so of the one before.
    """
    session = unit.session
    active = session.scalars(select(PrinterChange).where(PrinterChange.retracted_at.is_(None)).order_by(PrinterChange.at, PrinterChange.id)).all()
    nozzles = {n.id: n for n in session.scalars(select(Nozzle))}
    surfaces = {b.id: b for b in session.scalars(select(BedSurface))}
    for printer_id in _place(nozzles, [(c, c.nozzle_id) for c in active if c.nozzle_id is not None]):
        on = next((n for n in nozzles.values() if n.printer_id == printer_id), None)
        facts = _original_properties(unit, printer_id, PrinterChange.nozzle_id, "nozzle", "hardened")
        update_printer(unit, printer_id, facts if on is None else {"nozzle": on.diameter, "hardened": on.hardened})
    for printer_id in _place(surfaces, [(c, c.bed_surface_id) for c in active if c.bed_surface_id is not None]):
        surface = next((b for b in surfaces.values() if b.printer_id == printer_id), None)
        original = _original_properties(unit, printer_id, PrinterChange.bed_surface_id, "bed_surface")
        update_printer(unit, printer_id, original if surface is None else {"bed_surface": surface.name})
    session.flush()


def _place(parts: Mapping[str, Nozzle] | Mapping[str, BedSurface], changes: Sequence[tuple[PrinterChange, str]]) -> set[str]:
    """Put each part where the changes say; the printers that have another one on them now, or none."""
    on: dict[str, str] = {}
    retired: dict[str, PrinterChange] = {}
    for change, part_id in changes:
        before = on.get(change.printer_id)
        if before is not None and before != part_id and change.retires:
            retired[before] = change
        if part_id in retired:
            raise ConflictError(f"{parts[part_id].name} was retired on {retired[part_id].at:%Y-%m-%d}: it is not fitted again")
        # a part is in one place: put here, it is off the printer that it was on
        on = {printer: part for printer, part in on.items() if part != part_id} | {change.printer_id: part_id}
    where = {part: printer for printer, part in on.items()}
    moved: set[str] = set()
    for part in parts.values():
        place, retired_at = where.get(part.id), retired[part.id].at if part.id in retired else None
        if part.printer_id != place:
            moved |= {printer for printer in (part.printer_id, place) if printer is not None}
        if (part.printer_id, part.retired_at) != (place, retired_at):
            part.printer_id, part.retired_at = place, retired_at
            part.revision += 1
    return moved


def _original_properties(unit: Unit, printer_id: str, part: InstrumentedAttribute[str | None], *names: str) -> dict[str, object]:
    """The printer's own facts from before a part of this kind was first named on it."""
    first_change = select(PrinterChange.stood).where(PrinterChange.printer_id == printer_id, part.is_not(None)).order_by(PrinterChange.entered_at).limit(1)
    stood = unit.session.scalar(first_change) or {}
    return {name: stood[name] for name in names if name in stood}
