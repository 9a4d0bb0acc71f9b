"""Settings sheets: as kept, as the rules see them, and as they are shown."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING, Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from assayer.core.advice.rules import SYMPTOMS
from assayer.core.filament.fit import Hardware
from assayer.core.filament.window import Window
from assayer.core.methods.traits import TRAITS
from assayer.core.settings.beginnings import general_sheet, maker_sheet
from assayer.core.settings.declared import SETTINGS, SettingSpec
from assayer.core.settings.limits import warnings, windows, within
from assayer.core.settings.series import STEPPED, spec_of
from assayer.core.settings.sheet import Difference, Extra, Region, Schedule, Set, Sheet, Source, check_sheet, differences
from assayer.services.dial_in.views import (
    DialInDeclarations,
    DifferenceView,
    ExtraView,
    RegionView,
    ScheduleView,
    SettingView,
    SetView,
    SheetComparison,
    SheetLook,
    SheetPage,
    SheetView,
    StandView,
    SymptomView,
    TraitView,
    WarningView,
)
from assayer.services.kept import Kept
from assayer.services.printing.printers import hardware_of
from assayer.services.stock.materials import material_view, window_of
from assayer.services.unit import Unit, Workspace, find
from assayer.store.models import Material, Printer, SettingsSheet, Trail, Trial

if TYPE_CHECKING:
    from assayer.services.dial_in.requests import ExtraIn, NewTrail, SetIn, SheetIn, SheetQuestion


def declarations() -> DialInDeclarations:
    """What may be set, graded and seen; declared in core."""
    return DialInDeclarations(
        settings=[_setting_view(s) for s in SETTINGS],
        traits=[TraitView.model_validate(t) for t in TRAITS],
        symptoms=[SymptomView.model_validate(s) for s in SYMPTOMS],
        stepped=[_setting_view(spec_of(name)) for name in STEPPED],
    )


def _setting_view(s: SettingSpec) -> SettingView:
    return SettingView.model_validate(s)


# between what is kept, what the rules see and what is shown


_SHEETS: Kept[Sheet] = Kept(5000)
"""A sheet never changes: read once, it is known by its id."""


def sheet_of(kept: SettingsSheet) -> Sheet:
    """A kept sheet as the rules see it."""
    return _SHEETS.of(kept.id, lambda: _read(kept))


def _read(kept: SettingsSheet) -> Sheet:
    values = {name: _set_of(held) for name, held in kept.values.items()}
    return Sheet(values, tuple(Extra(e["label"], e["value"], e["unit"]) for e in kept.extras), kept.prepared_with)


def _set_of(held: Mapping[str, Any]) -> Set:
    schedule = held.get("schedule")
    return Set(
        value=held["value"],
        source=Source(held.get("source", Source.ENTERED)),
        schedule=None if schedule is None else Schedule(schedule["step"], schedule["every"], schedule["end"]),
        regions=tuple(Region(r["where"], r["value"]) for r in held.get("regions", [])),
    )


def sheet_told(told: SheetIn) -> Sheet:
    """A sheet as it was sent.

    Raises
    ------
    EntryError
        If it says what cannot be set.
    """
    sheet = Sheet({name: set_told(held) for name, held in told.values.items()}, extras_told(told.extras), told.prepared_with)
    check_sheet(sheet)
    return sheet


def set_told(held: SetIn) -> Set:
    schedule = held.schedule
    return Set(
        value=held.value,
        source=held.source,
        schedule=None if schedule is None else Schedule(schedule.step, schedule.every, schedule.end),
        regions=tuple(Region(r.where, r.value) for r in held.regions),
    )


def extras_told(extras: list[ExtraIn]) -> tuple[Extra, ...]:
    return tuple(Extra(e.label, e.value, e.unit) for e in extras)


def keep_sheet(unit: Unit, sheet: Sheet, name: str, parent_id: str | None) -> SettingsSheet:
    """Keep a sheet within a transaction."""
    kept = SettingsSheet(
        id=unit.new_id(),
        name=name[:120],
        values={n: set_view(held).model_dump(mode="json") for n, held in sheet.values.items()},
        extras=[ExtraView.model_validate(e).model_dump() for e in sheet.extras],
        prepared_with=sheet.prepared_with,
        parent_id=parent_id,
        created_at=unit.now,
    )
    unit.session.add(kept)
    unit.session.flush()
    return kept


def set_view(held: Set) -> SetView:
    return SetView(
        value=held.value,
        source=held.source,
        schedule=None if held.schedule is None else ScheduleView.model_validate(held.schedule),
        regions=[RegionView.model_validate(r) for r in held.regions],
    )


def sheet_view(kept: SettingsSheet) -> SheetView:
    sheet = sheet_of(kept)
    return SheetView(
        id=kept.id,
        name=kept.name,
        parent_id=kept.parent_id,
        created_at=kept.created_at,
        values={name: set_view(held) for name, held in sheet.values.items()},
        extras=[ExtraView.model_validate(e) for e in sheet.extras],
        prepared_with=kept.prepared_with,
    )


def difference_view(d: Difference) -> DifferenceView:
    before, after = (None if s is None else set_view(s) for s in (d.before, d.after))
    return DifferenceView(name=d.name, label=d.label, unit=d.unit, before=before, after=after, step=d.step)


# use cases


def first_sheet(session: Session, new: NewTrail, material: Material, printer: Printer) -> tuple[Sheet, str | None]:
    """Where a trail starts, and the sheet it comes from."""
    if new.start == "sheet" and new.sheet_id is not None:
        other = find(session, SettingsSheet, new.sheet_id)
        sheet = sheet_of(other)
        taken = {name: Set(s.value, Source.OTHER_SHEET, s.schedule, s.regions) for name, s in sheet.values.items()}
        return Sheet(taken, sheet.extras, sheet.prepared_with), other.id
    return (maker_sheet(window_of(material), printer.nozzle, printer.enclosed) if new.start == "maker" else general_sheet(printer.nozzle)), None


def look_at(sheet: Sheet, window: Window, hardware: Hardware) -> SheetLook:
    """What a sheet is warned of, and how far its values stand inside the maker's window."""
    stands = {}
    for name, span in windows(window).items():
        value = sheet.number(name)
        if value is not None:
            stands[name] = StandView(low=span.low, high=span.high, within=within(value, span))
    return SheetLook(warnings=[WarningView.model_validate(w) for w in warnings(sheet, window, hardware)], stands=stands)


def look_at_told(workspace: Workspace, asked: SheetQuestion) -> SheetLook:
    """A sheet that is not kept yet."""
    with workspace.read() as session:
        material = find(session, Material, asked.material_id)
        hardware = hardware_of(find(session, Printer, asked.printer_id)) if asked.printer_id is not None else Hardware()
        return look_at(sheet_told(asked.sheet), window_of(material), hardware)


def get_sheet(workspace: Workspace, sheet_id: str) -> SheetPage:
    """A sheet as one page, with the material and printer of the trail that it belongs to."""
    with workspace.read() as session:
        kept = find(session, SettingsSheet, sheet_id)
        trial = session.scalars(select(Trial).where(Trial.sheet_id == sheet_id).order_by(Trial.entered_at)).first()
        trail = find(session, Trail, trial.trail_id) if trial is not None else None
        sheet = sheet_of(kept)
        return SheetPage(
            sheet=sheet_view(kept),
            material=material_view(trail.material) if trail is not None else None,
            printer_name=trail.printer.name if trail is not None else None,
            trail_id=trail.id if trail is not None else None,
            trial_number=trial.number if trial is not None else None,
            look=look_at(sheet, window_of(trail.material) if trail is not None else Window(), hardware_of(trail.printer) if trail is not None else Hardware()),
        )


def compare_sheets(workspace: Workspace, a: str, b: str) -> SheetComparison:
    """Two sheets, and only what differs between them."""
    with workspace.read() as session:
        one, two = find(session, SettingsSheet, a), find(session, SettingsSheet, b)
        found = differences(sheet_of(one), sheet_of(two))
        return SheetComparison(a=sheet_view(one), b=sheet_view(two), differences=[difference_view(d) for d in found])
