"""Nozzles and bed surfaces, what changed about a printer and when, and what each nozzle has seen."""

from __future__ import annotations

from typing import TYPE_CHECKING

from sqlalchemy import ColumnElement, func, select
from sqlalchemy.orm import Session

from assayer.core.errors import ConflictError, MissingError
from assayer.core.filament.fit import ABRASIVE
from assayer.core.filament.hardware_slips import questions_hardware
from assayer.core.quantities.slips import ask
from assayer.services.changes import record_of
from assayer.services.dial_in.hardware_views import BedSurfaceView, HardwarePrinter, HardwareRecord, HardwareView, NozzleView, PrinterChangeView
from assayer.services.unit import Actor, Unit, Workspace, expect_revision, find
from assayer.store.models import BedSurface, Material, Nozzle, Printer, PrinterChange, Trail, Trial

if TYPE_CHECKING:
    from assayer.services.dial_in.requests import BedSurfaceEdit, NewBedSurface, NewNozzle, NozzleEdit


def hardware(workspace: Workspace) -> HardwareView:
    """All printers with what is on them and what changed, all nozzles and bed surfaces."""
    with workspace.read() as session:
        return hardware_view(session)


def hardware_view(session: Session) -> HardwareView:
    """All printers, nozzles and bed surfaces as they stand; those withdrawn are not among them."""
    nozzles = session.scalars(select(Nozzle).where(Nozzle.withdrawn_at.is_(None)).order_by(Nozzle.name)).all()
    surfaces = session.scalars(select(BedSurface).where(BedSurface.withdrawn_at.is_(None)).order_by(BedSurface.name)).all()
    changes = session.scalars(select(PrinterChange).where(PrinterChange.retracted_at.is_(None)).order_by(PrinterChange.at.desc(), PrinterChange.id.desc()))
    by_printer: dict[str, list[PrinterChangeView]] = {}
    for c in changes:
        by_printer.setdefault(c.printer_id, []).append(PrinterChangeView.model_validate(c))
    worn = _abrasive(session)
    fitted = {n.printer_id: n.id for n in nozzles if n.printer_id and n.retired_at is None}
    lying = {b.printer_id: b.id for b in surfaces if b.printer_id and b.retired_at is None}
    return HardwareView(
        printers=[
            HardwarePrinter(
                id=p.id, name=p.name, facts=_facts(p), nozzle_id=fitted.get(p.id), bed_surface_id=lying.get(p.id), changes=by_printer.get(p.id, [])
            )
            for p in session.scalars(select(Printer).order_by(Printer.name))
        ],
        nozzles=[
            NozzleView(
                id=n.id, name=n.name, diameter=n.diameter, material=n.material, hardened=n.hardened, printer_id=n.printer_id, retired_at=n.retired_at,
                abrasive=worn.get(n.id, 0.0), revision=n.revision,
            )
            for n in nozzles
        ],
        bed_surfaces=[BedSurfaceView.model_validate(b) for b in surfaces],
    )  # fmt: skip


def _abrasive(session: Session) -> dict[str, float]:
    """g of abrasive filament that each nozzle has seen in trials."""
    rows = session.execute(
        select(Trial.nozzle_id, Material.filler, func.sum(Trial.total_mass))
        .join(Trail, Trail.id == Trial.trail_id)
        .join(Material, Material.id == func.coalesce(Trial.control_material_id, Trail.material_id))
        .where(Trial.nozzle_id.is_not(None), Trial.total_mass.is_not(None), Trial.retracted_at.is_(None), Material.filler.is_not(None))
        .group_by(Trial.nozzle_id, Material.filler)
    )
    found: dict[str, float] = {}
    for nozzle_id, filler, mass in rows:
        if nozzle_id is not None and any(word in (filler or "").lower() for word in ABRASIVE):
            found[nozzle_id] = found.get(nozzle_id, 0.0) + float(mass or 0.0)
    return found


def _facts(p: Printer) -> str:
    """What matters about a printer, in a line."""
    told = [
        {True: "enclosed", False: "open"}.get(p.enclosed) if p.enclosed is not None else None,
        f"chamber to {p.chamber_hottest:g} °C" if p.chamber_hottest else None,
        {True: "filtered", False: "no filter"}.get(p.filtered) if p.filtered is not None else None,
        f"nozzle to {p.nozzle_hottest:g} °C" if p.nozzle_hottest else None,
        f"bed to {p.bed_hottest:g} °C" if p.bed_hottest else None,
        f"{p.build_x:g} × {p.build_y:g} × {p.build_z:g} mm" if p.build_x and p.build_y and p.build_z else None,
        f"{p.acceleration:g} mm/s²" if p.acceleration else None,
        p.feeder or None,
    ]
    return " · ".join(t for t in told if t)


def add_nozzle(workspace: Workspace, actor: Actor, new: NewNozzle) -> tuple[HardwareView, bool]:
    """A nozzle in the drawer; the same id again changes nothing (second value False)."""
    with workspace.write(actor, (new.id, new)) as unit:
        there = unit.session.get(Nozzle, new.id)
        if there is not None:
            unit.refuse_other("nozzle", current := hardware_view(unit.session), same=there.name == new.name)
            return current, False
        if unit.session.scalar(select(Nozzle.id).where(Nozzle.name == new.name)) is not None:
            raise ConflictError(f"there is already a nozzle called '{new.name}'")
        facts = new.model_dump(exclude={"confirmed"})
        ask(questions_hardware({"diameter": new.diameter}), new.confirmed)
        unit.session.add(Nozzle(**facts, created_at=unit.now))
        unit.session.flush()
        unit.log("nozzle", new.id, "added", after=facts)
        return hardware_view(unit.session), True


def add_bed_surface(workspace: Workspace, actor: Actor, new: NewBedSurface) -> tuple[HardwareView, bool]:
    """A bed surface put aside until it lies on a printer."""
    with workspace.write(actor, (new.id, new)) as unit:
        there = unit.session.get(BedSurface, new.id)
        if there is not None:
            unit.refuse_other("bed surface", current := hardware_view(unit.session), same=there.name == new.name)
            return current, False
        if unit.session.scalar(select(BedSurface.id).where(BedSurface.name == new.name)) is not None:
            raise ConflictError(f"there is already a bed surface called '{new.name}'")
        unit.session.add(BedSurface(**new.model_dump(), created_at=unit.now))
        unit.session.flush()
        unit.log("bed surface", new.id, "added", after=new.model_dump(mode="json"))
        return hardware_view(unit.session), True


def edit_nozzle(workspace: Workspace, actor: Actor, nozzle_id: str, edit: NozzleEdit, revision: int) -> HardwareView:
    """Correct what was said of a nozzle; the printer that it is on is told."""
    with workspace.write(actor) as unit:
        nozzle = find(unit.session, Nozzle, nozzle_id)
        expect_revision(revision, nozzle.revision, "the nozzle", hardware_view(unit.session))
        given = _given(edit)
        if given.get("diameter") not in (None, nozzle.diameter):
            ask(questions_hardware({"diameter": edit.diameter}), edit.confirmed)
        _correct(unit, "nozzle", nozzle, given)
        if nozzle.printer_id is not None and given.keys() & {"diameter", "hardened"}:
            update_printer(unit, nozzle.printer_id, {"nozzle": nozzle.diameter, "hardened": nozzle.hardened})
        return hardware_view(unit.session)


def edit_bed_surface(workspace: Workspace, actor: Actor, surface_id: str, edit: BedSurfaceEdit, revision: int) -> HardwareView:
    """Correct what was said of a bed surface; the printer that it lies on is told."""
    with workspace.write(actor) as unit:
        surface = find(unit.session, BedSurface, surface_id)
        expect_revision(revision, surface.revision, "the bed surface", hardware_view(unit.session))
        _correct(unit, "bed surface", surface, _given(edit))
        if surface.printer_id is not None:
            update_printer(unit, surface.printer_id, {"bed_surface": surface.name})
        return hardware_view(unit.session)


def _given(edit: NozzleEdit | BedSurfaceEdit) -> dict[str, object]:
    return {name: value for name, value in edit.model_dump(exclude_unset=True, exclude={"confirmed"}).items() if value is not None}


def _correct(unit: Unit, what: str, part: Nozzle | BedSurface, given: dict[str, object]) -> None:
    kind = type(part)
    if given.get("name", part.name) != part.name and unit.session.scalar(select(kind.id).where(kind.name == given["name"])) is not None:
        raise ConflictError(f"there is already a {what} called '{given['name']}'", hardware_view(unit.session))
    before = {name: getattr(part, name) for name in given}
    for name, value in given.items():
        setattr(part, name, value)
    part.revision += 1
    unit.session.flush()
    unit.log(what, part.id, "corrected", before, given)


def withdraw_nozzle(workspace: Workspace, actor: Actor, nozzle_id: str, back: bool) -> HardwareView:
    """A nozzle entered by mistake leaves the list, or comes back; one that was used stays."""
    with workspace.write(actor) as unit:
        nozzle = find(unit.session, Nozzle, nozzle_id)
        used = unit.session.scalar(select(func.count()).select_from(Trial).where(Trial.nozzle_id == nozzle.id, Trial.retracted_at.is_(None))) or 0
        used += unit.session.scalar(select(func.count()).select_from(Trail).where(Trail.nozzle_id == nozzle.id)) or 0
        return _withdraw(unit, "nozzle", nozzle, back, used, PrinterChange.nozzle_id == nozzle.id)


def withdraw_bed_surface(workspace: Workspace, actor: Actor, surface_id: str, back: bool) -> HardwareView:
    """A bed surface entered by mistake leaves the list, or comes back."""
    with workspace.write(actor) as unit:
        surface = find(unit.session, BedSurface, surface_id)
        return _withdraw(unit, "bed surface", surface, back, 0, PrinterChange.bed_surface_id == surface.id)


def _withdraw(unit: Unit, what: str, part: Nozzle | BedSurface, back: bool, used: int, named: ColumnElement[bool]) -> HardwareView:
    if not back:
        if used:
            raise ConflictError(f"{part.name} was printed with: what it was used for would lose it. Correct its facts instead", hardware_view(unit.session))
        change = unit.session.scalar(select(PrinterChange).where(named, PrinterChange.retracted_at.is_(None)).limit(1))
        if change is not None:
            raise ConflictError(f"a change of {change.at:%Y-%m-%d} put {part.name} on a printer: take that change back first", hardware_view(unit.session))
    part.withdrawn_at = None if back else unit.now
    part.revision += 1
    unit.log(what, part.id, "brought back" if back else "withdrawn")
    unit.session.flush()
    return hardware_view(unit.session)


def record(workspace: Workspace, object_id: str) -> HardwareRecord:
    """The history of a printer, of a nozzle, of a bed surface, or of a dated change."""
    with workspace.read() as session:
        if not any(session.get(kind, object_id) for kind in (Printer, Nozzle, BedSurface, PrinterChange)):
            raise MissingError(f"there is no printer, nozzle, bed surface or change with the id {object_id}")
        return HardwareRecord(items=record_of(session, [object_id]).get(object_id, []))


def update_printer(unit: Unit, printer_id: str, facts: dict[str, object]) -> None:
    """Copy properties of what is fitted to the printer, which the fit check reads."""
    printer = find(unit.session, Printer, printer_id)
    before = {name: getattr(printer, name) for name in facts}
    if before != facts:
        for name, value in facts.items():
            setattr(printer, name, value)
        printer.revision += 1
        unit.log("printer", printer.id, "edited", before, facts)
