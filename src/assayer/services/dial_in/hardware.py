"""Nozzles and bed surfaces, what changed about a printer and when, and what each nozzle has seen."""

from __future__ import annotations

from typing import TYPE_CHECKING

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from assayer.core.errors import ConflictError, EntryError
from assayer.core.filament.fit import ABRASIVE
from assayer.core.quantities.slips import ask, question_past
from assayer.services.dial_in.views import BedSurfaceView, HardwarePrinter, HardwareView, NozzleView, PrinterChangeView
from assayer.services.unit import Actor, Unit, Workspace, find
from assayer.store.models import BedSurface, Material, Nozzle, Printer, PrinterChange, Trail, Trial

if TYPE_CHECKING:
    from assayer.services.dial_in.requests import NewBedSurface, NewNozzle, NewPrinterChange


def hardware(workspace: Workspace) -> HardwareView:
    """All printers with what is on them and what changed, all nozzles and bed surfaces."""
    with workspace.read() as session:
        return _hardware(session)


def _hardware(session: Session) -> HardwareView:
    nozzles = session.scalars(select(Nozzle).order_by(Nozzle.name)).all()
    surfaces = session.scalars(select(BedSurface).order_by(BedSurface.name)).all()
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
                abrasive=worn.get(n.id, 0.0),
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
            unit.refuse_other("nozzle", kept := _hardware(unit.session), same=there.name == new.name)
            return kept, False
        if unit.session.scalar(select(Nozzle.id).where(Nozzle.name == new.name)) is not None:
            raise ConflictError(f"there is already a nozzle called '{new.name}'")
        unit.session.add(Nozzle(**new.model_dump(), created_at=unit.now))
        unit.session.flush()
        unit.log("nozzle", new.id, "added", after=new.model_dump(mode="json"))
        return _hardware(unit.session), True


def add_bed_surface(workspace: Workspace, actor: Actor, new: NewBedSurface) -> tuple[HardwareView, bool]:
    """A bed surface put aside until it lies on a printer."""
    with workspace.write(actor, (new.id, new)) as unit:
        there = unit.session.get(BedSurface, new.id)
        if there is not None:
            unit.refuse_other("bed surface", kept := _hardware(unit.session), same=there.name == new.name)
            return kept, False
        if unit.session.scalar(select(BedSurface.id).where(BedSurface.name == new.name)) is not None:
            raise ConflictError(f"there is already a bed surface called '{new.name}'")
        unit.session.add(BedSurface(**new.model_dump(), created_at=unit.now))
        unit.session.flush()
        unit.log("bed surface", new.id, "added", after=new.model_dump(mode="json"))
        return _hardware(unit.session), True


def change_printer(workspace: Workspace, actor: Actor, printer_id: str, new: NewPrinterChange) -> tuple[HardwareView, bool]:
    """Note what changed about a printer; a nozzle or surface that is named is on it from now."""
    with workspace.write(actor, (new.id, new)) as unit:
        printer = find(unit.session, Printer, printer_id)
        there = unit.session.get(PrinterChange, new.id)
        if there is not None:
            unit.refuse_other("change", kept := _hardware(unit.session), same=there.printer_id == printer_id)
            return kept, False
        if not new.text and new.nozzle_id is None and new.bed_surface_id is None:
            raise EntryError("say what was changed", "text")
        ask([question_past("at", new.at, unit.now, "changed at")], new.confirmed)
        done = []
        if new.nozzle_id is not None:
            done.append(_fit_nozzle(unit, printer, find(unit.session, Nozzle, new.nozzle_id), new.retire))
        if new.bed_surface_id is not None:
            done.append(_lay_surface(unit, printer, find(unit.session, BedSurface, new.bed_surface_id), new.retire))
        text = "; ".join([*done, *([new.text] if new.text else [])])
        unit.session.add(
            PrinterChange(
                id=new.id, printer_id=printer.id, at=new.at, kind=new.kind, text=text, nozzle_id=new.nozzle_id, bed_surface_id=new.bed_surface_id,
                entered_at=unit.now, zone=actor.zone, who=actor.who,
            )
        )  # fmt: skip
        unit.session.flush()
        unit.log("printer", printer.id, f"changed: {new.kind}", after={"what": text})
        return _hardware(unit.session), True


def _fit_nozzle(unit: Unit, printer: Printer, nozzle: Nozzle, retire: bool) -> str:
    if nozzle.retired_at is not None:
        raise ConflictError(f"{nozzle.name} was retired: it is not fitted again")
    for old in unit.session.scalars(select(Nozzle).where(Nozzle.printer_id == printer.id, Nozzle.id != nozzle.id)):
        old.printer_id, old.retired_at = None, unit.now if retire else old.retired_at
        old.revision += 1
    nozzle.printer_id = printer.id
    nozzle.revision += 1
    # the check of what fits looks at the printer as it stands
    before = {"nozzle": printer.nozzle, "hardened": printer.hardened}
    printer.nozzle, printer.hardened = nozzle.diameter, nozzle.hardened
    printer.revision += 1
    unit.log("printer", printer.id, "edited", before, {"nozzle": nozzle.diameter, "hardened": nozzle.hardened})
    return f"{nozzle.name} fitted"


def _lay_surface(unit: Unit, printer: Printer, surface: BedSurface, retire: bool) -> str:
    if surface.retired_at is not None:
        raise ConflictError(f"{surface.name} was ruined: it is not laid again")
    for old in unit.session.scalars(select(BedSurface).where(BedSurface.printer_id == printer.id, BedSurface.id != surface.id)):
        old.printer_id, old.retired_at = None, unit.now if retire else old.retired_at
        old.revision += 1
    surface.printer_id = printer.id
    surface.revision += 1
    unit.log("printer", printer.id, "edited", {"bed_surface": printer.bed_surface}, {"bed_surface": surface.name})
    printer.bed_surface = surface.name
    printer.revision += 1
    return f"{surface.name} laid on"


def retract_change(workspace: Workspace, actor: Actor, change_id: str, back: bool) -> HardwareView:
    """Take a noted change out of the record, or in again; what is on the printer stays as it is."""
    with workspace.write(actor) as unit:
        change = find(unit.session, PrinterChange, change_id)
        change.retracted_at = None if back else unit.now
        unit.log("printer", change.printer_id, "change brought back" if back else "change retracted", after={"what": change.text})
        unit.session.flush()
        return _hardware(unit.session)
