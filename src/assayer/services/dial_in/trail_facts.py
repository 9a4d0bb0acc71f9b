"""What a trail holds, read in a fixed number of queries, and as the rules of crediting see it."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass

from sqlalchemy import select
from sqlalchemy.orm import Session, joinedload

from assayer.core.advice.next_steps import TowerGrades
from assayer.core.advice.trials import Trial as Tried
from assayer.core.methods.traits import median_grade
from assayer.core.settings.series import Series
from assayer.core.settings.sheet import Sheet
from assayer.services.dial_in.sheets import sheet_of
from assayer.services.dial_in.words import Distance
from assayer.services.stock.spool_state import SpoolState, states_of
from assayer.store.models import Material, Spool, Trail, Trial, TrialFilament, TrialGrade


@dataclass(slots=True)
class TrailFacts:
    """A trail with all that belongs to its trials; those taken back are left out."""

    trail: Trail
    trials: list[Trial]
    sheets: dict[str, Sheet]
    grades: dict[str, list[TrialGrade]]
    """Standing grades by trial: the latest of each grader, trait, distance and band."""
    filaments: dict[str, list[TrialFilament]]
    spools: dict[str, SpoolState]
    controls: dict[str, Material]

    def medians(self, trial_id: str, distance: Distance = "near") -> dict[str, float]:
        """What counts of several graders, by trait; of the whole print, not of its bands."""
        by_trait = self._by_trait(trial_id, distance)
        return {trait: m for trait, values in by_trait.items() if (m := median_grade(values)) is not None}

    def bands(self, trial: Trial) -> dict[int, dict[str, float]]:
        """Of a tower: what counts of several graders, by band and trait."""
        found: dict[tuple[int, str], list[float]] = defaultdict(list)
        for g in self.grades.get(trial.id, []):
            if g.band is not None and g.distance == "near" and g.grade is not None:
                found[g.band, g.trait].append(g.grade)
        by_band: dict[int, dict[str, float]] = defaultdict(dict)
        for (band, trait), values in found.items():
            by_band[band][trait] = median_grade(values) or 0.0
        return dict(by_band)

    def apart(self, trial_id: str) -> dict[str, float]:
        """How far graders differ, by trait."""
        return {trait: max(v) - min(v) for trait, v in self._by_trait(trial_id, "near").items() if len(v) > 1 and max(v) > min(v)}

    def _by_trait(self, trial_id: str, distance: Distance) -> dict[str, list[float]]:
        found: dict[str, list[float]] = defaultdict(list)
        for g in self.grades.get(trial_id, []):
            if g.band is None and g.distance == distance and g.grade is not None:
                found[g.trait].append(g.grade)
        return found

    def tried(self) -> list[Tried]:
        """The printed trials as the rules of crediting see them; towers show bands, not a print of one sheet."""
        numbers = {t.id: t.number for t in self.trials}
        return [
            Tried(
                number=t.number,
                parent=numbers.get(t.parent_id) if t.parent_id else None,
                sheet=self.sheets[t.sheet_id],
                around=self._around(t),
                grades=self.medians(t.id),
                outcome=t.outcome,
                graders={trait: len(values) for trait, values in self._by_trait(t.id, "near").items()},
                spool_known=t.spool_id is not None or t.control_material_id is not None,
            )
            for t in self.trials
            if t.outcome != "planned" and t.series is None
        ]

    def towers(self, of: str = "") -> list[TowerGrades]:
        """The graded towers; `of` says which dial-in they are of, where that is another one."""
        graded = []
        for t in self.trials:
            if t.series is None:
                continue
            series, bands = Series(**t.series), self.bands(t)
            last = len(series.values) if t.failed_band is None else t.failed_band - 1
            by_value = {value: bands[i] for i, value in enumerate(series.values[:last], 1) if i in bands}
            graded.append(TowerGrades(f"tower {t.number}{of}", series.setting, by_value))
        return graded

    def as_tried(self, trial: Trial) -> Tried:
        """One trial, planned or printed, as the rules see it."""
        return Tried(trial.number, None, self.sheets[trial.sheet_id], self._around(trial), self.medians(trial.id), trial.outcome)

    def _around(self, trial: Trial) -> dict[str, str]:
        return {"part": trial.part, "filament": self._filament(trial)}

    def _filament(self, trial: Trial) -> str:
        """What was printed: one thing, for a control print is of another spool as well, and another spool is dried by itself."""
        control = self.controls.get(trial.control_material_id or "")
        if control is not None:
            return f"{control.maker} {control.product}, {control.colour}"
        state = self.spools.get(trial.spool_id or "")
        if state is None:
            return ""
        dried = state.moisture_at(trial.printed_at).dried if trial.printed_at is not None else None
        if dried is None:
            return state.spool.code
        return f"{state.spool.code}, dried {dried.end:%Y-%m-%d}" if dried.end is not None else f"{state.spool.code}, in the dryer"


def facts_of(session: Session, trail: Trail) -> TrailFacts:
    """Everything of a trail, in seven queries and those of its spools."""
    trials = list(
        session.scalars(select(Trial).where(Trial.trail_id == trail.id, Trial.retracted_at.is_(None)).options(joinedload(Trial.sheet)).order_by(Trial.number))
    )
    ids = [t.id for t in trials]
    grades: dict[str, dict[tuple[str, str, str, int | None], TrialGrade]] = defaultdict(dict)
    standing = select(TrialGrade).where(TrialGrade.trial_id.in_(ids), TrialGrade.retracted_at.is_(None))
    for g in session.scalars(standing.order_by(TrialGrade.entered_at, TrialGrade.id)):
        grades[g.trial_id][g.grader, g.trait, g.distance, g.band] = g
    filaments: dict[str, list[TrialFilament]] = defaultdict(list)
    several = select(TrialFilament).where(TrialFilament.trial_id.in_(ids)).options(joinedload(TrialFilament.material)).order_by(TrialFilament.position)
    for f in session.scalars(several):
        filaments[f.trial_id].append(f)
    spool_ids = {t.spool_id for t in trials if t.spool_id}
    spools = session.scalars(select(Spool).where(Spool.id.in_(spool_ids)).options(joinedload(Spool.material))).all() if spool_ids else []
    controls = {t.control_material_id for t in trials if t.control_material_id}
    return TrailFacts(
        trail=trail,
        trials=trials,
        sheets={t.sheet_id: sheet_of(t.sheet) for t in trials},
        grades={key: list(found.values()) for key, found in grades.items()},
        filaments=dict(filaments),
        spools=states_of(session, spools, max((t.printed_at for t in trials if t.printed_at), default=trail.created_at), in_full=False) if spools else {},
        controls={m.id: m for m in session.scalars(select(Material).where(Material.id.in_(controls)))} if controls else {},
    )
