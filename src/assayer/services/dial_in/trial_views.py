"""Trials as they are shown."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from sqlalchemy.orm import Session

from assayer.core.advice.towers import tower_windows
from assayer.core.settings.series import Series
from assayer.core.settings.sheet import differences
from assayer.services.dial_in.sheets import difference_view
from assayer.services.dial_in.trail_facts import TrailFacts
from assayer.services.dial_in.views import BandWindow, FilamentView, GradeView, RunningView, SeriesView, TrialView
from assayer.services.photos.photos import photos_of
from assayer.services.stock.materials import material_view
from assayer.store.models import Trial

_PLAIN = (
    "id", "number", "parent_id", "sheet_id", "part", "spool_id", "printed_at", "who", "outcome", "failed_at", "failed_band", "minutes", "room", "humidity",
    "total_mass", "brim_mass", "support_mass", "lift", "symptoms", "tested", "removal", "bond", "note", "decision", "revision",
)  # fmt: skip


def series_of(kept: Mapping[str, Any]) -> Series:
    """A series as it is kept with its tower."""
    return Series(kept["setting"], kept["start"], kept["step"], kept["count"], kept["band_height"], kept["base_height"])


def series_view(series: Series) -> SeriesView:
    spec = series.spec
    return SeriesView(
        setting=series.setting,
        start=series.start,
        step=series.step,
        count=series.count,
        band_height=series.band_height,
        base_height=series.base_height,
        values=series.values,
        label=spec.chip,
        unit=spec.unit,
    )


def waste_of(trial: Trial, purge: float = 0.0) -> float | None:
    """g that are thrown away: brim, supports and purge; None where none was weighed."""
    told = [m for m in (trial.brim_mass, trial.support_mass) if m is not None]
    return sum(told) + purge if told or purge else None


def trial_views(session: Session, facts: TrailFacts) -> list[TrialView]:
    """All trials of a trail, with what each changed from the one that it started from."""
    photos = photos_of(session, "trial", [t.id for t in facts.trials])
    by_id = {t.id: t for t in facts.trials}
    views = []
    for t in facts.trials:
        parent = by_id.get(t.parent_id or "")
        changes = differences(facts.sheets[parent.sheet_id], facts.sheets[t.sheet_id]) if parent is not None else []
        filaments = facts.filaments.get(t.id, [])
        control = facts.controls.get(t.control_material_id or "")
        series = series_of(t.series) if t.series is not None else None
        bands = facts.bands(t) if series is not None else {}
        state = facts.spools.get(t.spool_id or "")
        views.append(
            TrialView(
                **{name: getattr(t, name) for name in _PLAIN},
                changes=[difference_view(d) for d in changes],
                series=series_view(series) if series is not None else None,
                control=material_view(control) if control is not None else None,
                spool_code=state.spool.code if state is not None else None,
                waste=waste_of(t, sum(f.purge_mass or 0.0 for f in filaments)),
                filaments=[
                    FilamentView(material=material_view(f.material), spool_id=f.spool_id, part_mass=f.part_mass, purge_mass=f.purge_mass) for f in filaments
                ],
                while_running=[RunningView.model_validate(c) for c in t.while_running],
                grades=facts.medians(t.id),
                far=facts.medians(t.id, "far"),
                apart=facts.apart(t.id),
                by_grader=[GradeView.model_validate(g) for g in facts.grades.get(t.id, [])],
                bands=[bands.get(n, {}) for n in range(1, series.count + 1)] if series is not None else [],
                windows=[BandWindow.model_validate(w) for w in tower_windows(series.values, series.spec.unit, bands, t.failed_band)] if series else [],
                photos=photos.get(t.id, []),
            )
        )
    return views
