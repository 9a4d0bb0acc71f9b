"""The fit-to-print check that every plan asks."""

from __future__ import annotations

from typing import TYPE_CHECKING

from sqlalchemy import select
from sqlalchemy.orm import Session

from assayer.core.filament.fit import Filament, Hardware, Settings, check_fit
from assayer.core.filament.window import PLAUSIBLE
from assayer.core.quantities.slips import Question, question_number
from assayer.services.printing.printers import hardware_of, hardware_told
from assayer.services.printing.requests import PrintSettingsIn
from assayer.services.printing.views import FitSheet, FitView, MissView
from assayer.services.stock.materials import window_of
from assayer.services.stock.spool_state import SpoolState, state_of
from assayer.services.unit import Workspace, find
from assayer.services.views import QuestionView
from assayer.store.models import CurrentSheet, Printer, SettingsSheet, Spool

if TYPE_CHECKING:
    from assayer.services.printing.requests import FitQuestion


def fit_to_print(workspace: Workspace, asked: FitQuestion) -> FitView:
    """What this spool, printer and settings miss of what they need of one another, at this moment.

    The one check that every later plan goes through: each miss names its rule, level and source.
    """
    with workspace.read() as session:
        spool = find(session, Spool, asked.spool_id)
        hardware = Hardware()
        if asked.printer_id is not None:
            printer = find(session, Printer, asked.printer_id)
            hardware = hardware_of(printer)
        elif asked.hardware is not None:
            hardware = hardware_told(asked.hardware)
        facts = state_of(session, spool, workspace.clock())
        current = _current_sheet(session, spool.material_id, asked.printer_id)
        said = _said_by(current.sheet) if current is not None else PrintSettingsIn()
        settings = Settings(**said.model_copy(update=asked.settings.model_dump(exclude_defaults=True)).model_dump())
        report = check_fit(filament_of(facts), hardware, settings)
        return FitView(
            fit=report.fit,
            misses=[MissView.model_validate(m) for m in report.misses],
            unchecked=report.unchecked,
            questions=[QuestionView.model_validate(q) for q in _questions(settings)],
            flow=settings.volumetric_flow,
            left=facts.balance.left if facts.balance else None,
            sheet=None if current is None else FitSheet(id=current.sheet_id, name=current.sheet.name, purpose=current.purpose),
        )


def _current_sheet(session: Session, material_id: str, printer_id: str | None) -> CurrentSheet | None:
    """The sheet that was accepted last for a material on a printer."""
    if printer_id is None:
        return None
    return session.scalars(
        select(CurrentSheet)
        .where(CurrentSheet.material_id == material_id, CurrentSheet.printer_id == printer_id, CurrentSheet.retracted_at.is_(None))
        .order_by(CurrentSheet.accepted_at.desc(), CurrentSheet.id.desc())
    ).first()


_ALIKE = ("nozzle_temperature", "bed_temperature", "chamber_temperature", "line_width", "layer_height")
_SPEEDS = ("speed_outer", "speed_inner", "speed_infill")


def _said_by(sheet: SettingsSheet) -> PrintSettingsIn:
    """What a sheet says of the settings that the rules look at; of its speeds the fastest."""
    values = {name: held["value"] for name, held in sheet.values.items()}
    speeds = [float(values[name]) for name in _SPEEDS if name in values]
    numbers = {name: float(values[name]) for name in _ALIKE if name in values}
    return PrintSettingsIn(**numbers, adhesive=str(values.get("adhesive", "")), speed=max(speeds, default=None))


def _questions(settings: Settings) -> list[Question]:
    """Speed and flow that were likely read off in another unit."""
    asked = [("speed", settings.speed, PLAUSIBLE["speed_high"]), ("flow", settings.flow, PLAUSIBLE["flow_max"])]
    found = [
        question_number(name, value, low, high, {"flow": "volumetric flow"}.get(name, what), unit)
        for name, value, (low, high, what, unit) in asked
        if value is not None
    ]
    return [q for q in found if q is not None]


def filament_of(facts: SpoolState) -> Filament:
    """The spool as the rules see it."""
    material = facts.spool.material
    left = facts.balance
    return Filament(
        name=f"{material.maker} {material.product}",
        polymer=material.polymer,
        filler=material.filler,
        diameter=material.diameter,
        window=window_of(material),
        moisture=facts.moisture,
        decision=facts.spool.decision,
        left=None if left is None else left.left,
        body=facts.spool.body,
        bore=facts.spool.bore,
        loose_end=facts.spool.loose_end,
    )
