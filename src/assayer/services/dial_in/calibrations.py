"""Flow, pressure advance and shrinkage: measured on a print, written into a child sheet, kept with what was before."""

from __future__ import annotations

from typing import TYPE_CHECKING

from sqlalchemy import select
from sqlalchemy.orm import Session

from assayer.core.errors import EntryError
from assayer.core.filament.bead import flow_by_mass, flow_by_wall
from assayer.core.settings.sheet import Extra, Set, Sheet, Source
from assayer.core.stats.shrinkage import fit_shrinkage
from assayer.services.dial_in.trail_facts import TrailFacts
from assayer.services.dial_in.views import OldCalibration
from assayer.store.models import DialCalibration, Material, Nozzle, Spool

if TYPE_CHECKING:
    from assayer.services.dial_in.requests import NewDialCalibration

SCALE, OFFSET = "scale", "outer contour offset"
"""Extra fields of a sheet that a shrinkage calibration writes."""

_UNITS = {"flow by mass": "%", "flow by wall": "%", "pressure advance": "s", "shrinkage": "%"}


def calibrated(sheet: Sheet, new: NewDialCalibration, material: Material) -> tuple[Sheet, float | None, float, str]:
    """The child sheet, the value before, the value now, and how it came about in words.

    Raises
    ------
    EntryError
        Names what is missing of the readings.
    """
    if new.kind == "pressure advance":
        if new.advance is None:
            raise EntryError("enter the pressure advance that was chosen", "advance")
        return _with(sheet, "pressure_advance", new.advance), sheet.number("pressure_advance"), new.advance, f"chosen from printed lines: {new.advance:g} s"
    if new.kind == "shrinkage":
        return _shrunk(sheet, new)
    before = sheet.number("flow") or 100.0
    if new.kind == "flow by mass":
        if new.volume is None or not new.mass:
            raise EntryError("enter the volume of the block and its mass", "mass" if new.volume is not None else "volume")
        if material.density is None:
            raise EntryError("the density of this material is not known: enter it on its page first", "mass")
        after = flow_by_mass(before, new.volume, material.density, new.mass)
        words = f"{before:g} % × {new.volume:g} cm³ × {material.density:g} g/cm³ / {new.mass:g} g"
    else:
        width = sheet.number("line_width")
        if not new.walls or width is None:
            raise EntryError("enter the thickness of the single wall" if width is not None else "the sheet does not say its line width", "walls")
        mean = sum(new.walls) / len(new.walls)
        after = flow_by_wall(before, width, mean)
        words = f"{before:g} % × {width:g} mm / {mean:.3f} mm (mean of {len(new.walls)})"
    if not 0.7 * before <= after <= 1.4 * before:
        raise EntryError(f"a flow of {after:.0f} % instead of {before:g} %: is the decimal point right?", "mass" if new.kind == "flow by mass" else "walls")
    return _with(sheet, "flow", round(after, 2)), before, round(after, 2), words


def _with(sheet: Sheet, name: str, value: float) -> Sheet:
    return Sheet({**sheet.values, name: Set(value, Source.CALIBRATION)}, sheet.extras, sheet.prepared_with)


def _shrunk(sheet: Sheet, new: NewDialCalibration) -> tuple[Sheet, float | None, float, str]:
    found = fit_shrinkage(new.nominal, new.measured, new.feature)
    own = {e.label: e for e in sheet.extras}
    before = own[SCALE].value if SCALE in own else None
    scale = round(found.scale * 100, 3)
    offset = round(-found.offset, 3)
    others = (e for e in sheet.extras if e.label not in (SCALE, OFFSET))
    extras = (*others, Extra(SCALE, scale, "%"), Extra(OFFSET, offset, "mm"))
    half = f" ± {found.shrinkage_half * 100:.3f}" if found.shrinkage_half is not None else ""
    zero = ", includes calliper zero error" if found.with_zero_error else ""
    words = f"shrinkage {found.shrinkage * 100:.3f}{half} %, contour offset {found.offset:+.3f} mm{zero}"
    return Sheet(sheet.values, extras, sheet.prepared_with), float(before) if isinstance(before, int | float) else None, scale, words


def calibrations_of(session: Session, facts: TrailFacts) -> list[OldCalibration]:
    """Calibrations of a trail, the latest of each kind first to be judged: whether nozzle, lot or dryness changed since."""
    rows = session.scalars(
        select(DialCalibration)
        .where(DialCalibration.trail_id == facts.trail.id, DialCalibration.retracted_at.is_(None))
        .order_by(DialCalibration.at.desc(), DialCalibration.id.desc())
    ).all()
    if not rows:
        return []
    lots = {s.id: s for s in session.scalars(select(Spool).where(Spool.id.in_([r.spool_id for r in rows if r.spool_id])))}
    nozzles = {n.id: n for n in session.scalars(select(Nozzle).where(Nozzle.id.in_([r.nozzle_id for r in rows if r.nozzle_id])))}
    latest_spool = next((facts.spools[t.spool_id] for t in reversed(facts.trials) if t.spool_id in facts.spools and t.spool_id), None)
    told, seen = [], set()
    for row in rows:
        stale = []
        if row.kind in seen:
            stale.append("a newer one stands")
        elif row.nozzle_id != facts.trail.nozzle_id:
            before = nozzles.get(row.nozzle_id or "")
            stale.append(f"the nozzle was changed since ({before.name if before else 'not named'})")
        used = lots.get(row.spool_id or "")
        if used is not None and latest_spool is not None:
            if latest_spool.spool.lot != used.lot:
                stale.append(f"now printed from lot {latest_spool.spool.lot or '–'}, measured with {used.lot or '–'}")
            dried = latest_spool.moisture.dried
            if row.kind != "shrinkage" and latest_spool.spool.id == used.id and dried is not None and dried.end is not None and dried.end > row.at:
                stale.append(f"the spool was dried since, on {dried.end:%-d %b}")
        seen.add(row.kind)
        told.append(
            OldCalibration(
                id=row.id,
                kind=row.kind,
                at=row.at,
                who=row.who,
                before=row.before,
                after=row.after,
                unit=_UNITS[row.kind],
                words=str(row.entered.get("words", "")),
                stale=stale,
            )
        )
    return told
