"""Stepped towers: a series looked at before it is planned, its solid, and what its grades say for different uses."""

from __future__ import annotations

from typing import TYPE_CHECKING

from assayer.core.filament.fit import Hardware
from assayer.core.settings.proposal import propose_series
from assayer.core.settings.series import SPEED, check_series
from assayer.core.shapes.tower import tower
from assayer.formats.solids.mesh_file import Kind, write_solid
from assayer.services.dial_in.sheets import sheet_of
from assayer.services.dial_in.trial_views import series_view
from assayer.services.dial_in.trials import series_told
from assayer.services.dial_in.views import SeriesLook, SeriesView, WarningView
from assayer.services.printing.printers import hardware_of
from assayer.services.stock.materials import window_of
from assayer.services.unit import Workspace, find
from assayer.store.models import Trail, Trial

if TYPE_CHECKING:
    from assayer.services.dial_in.requests import SeriesIn


def look_at_series(workspace: Workspace, told: SeriesIn, trail_id: str | None) -> SeriesLook:
    """A series as it would be stepped, with what to be careful about.

    Raises
    ------
    EntryError
        If it cannot be printed.
    """
    series = series_told(told)
    with workspace.read() as session:
        trail = find(session, Trail, trail_id) if trail_id is not None else None
        window = window_of(trail.material) if trail is not None else None
        can = hardware_of(trail.printer) if trail is not None else Hardware()
        cautions = check_series(series, window, can)
    return SeriesLook(series=series_view(series), cautions=[WarningView.model_validate(c) for c in cautions])


def propose_tower(workspace: Workspace, trial_id: str, name: str) -> SeriesView:
    """The tower that is proposed from a trial: around the value that its sheet has, inside what maker and printer allow."""
    with workspace.read() as session:
        trial = find(session, Trial, trial_id)
        trail = find(session, Trail, trial.trail_id)
        return series_view(propose_series(name, _in_use(trial, name), window_of(trail.material), hardware_of(trail.printer)))


def _in_use(trial: Trial, name: str) -> float | None:
    # all speeds are stepped as a share of what the file asks
    return 100.0 if name == SPEED.name else sheet_of(trial.sheet).number(name)


def tower_file(told: SeriesIn, kind: Kind) -> bytes:
    """The tower of a series as a solid."""
    series = series_told(told)
    check_series(series)
    return write_solid(tower([f"{v:g}" for v in series.values], series.band_height, series.base_height), kind, f"tower, {told.setting.replace('_', ' ')}")
