"""A study held against the rules of a fair comparison: as planned, and again as it was printed and tested."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import replace
from datetime import datetime
from zoneinfo import ZoneInfo

from sqlalchemy import select
from sqlalchemy.orm import Session

from assayer.core.filament.moisture import open_limit
from assayer.core.filament.window import Window
from assayer.core.plan.affected_arms import affected_arms
from assayer.core.plan.fairness import shortcomings
from assayer.core.plan.study_plan import PlannedArm, Printing, Shortcoming, StudiedFactor, StudyPlan
from assayer.core.settings.declared import SETTINGS
from assayer.core.settings.limits import windows
from assayer.services.parts.shapes import title_of
from assayer.services.stock.materials import window_of
from assayer.services.stock.spool_state import SpoolState, states_of
from assayer.services.studies.evidence import arms_of
from assayer.services.studies.listing import narrowed_names, reference_of, settings_of
from assayer.services.studies.plan_views import FairnessView, ProblemView, ShortcomingView
from assayer.services.unit import Workspace, find
from assayer.store.models import Arm, Batch, Printer, Run, Slot, Specimen, Spool, Study, Test

LABELS = {s.name: (s.label, s.unit) for s in SETTINGS}


def fairness(workspace: Workspace, study_id: str) -> FairnessView:
    """What the plan of a study lacks, the blocking first."""
    with workspace.read() as session:
        study = find(session, Study, study_id)
        arms = arms_of(session, study_id, windows=True)
        windows = {a.id: window_of(a.variant.material) for a in arms}
        tests = session.scalars(select(Test).where(Test.study_id == study_id).order_by(Test.position)).all()
        plan = _plan(session, study, tests, arms, windows, _ages(session, study_id))
        printed = any(a.batches for a in plan.arms)
        return FairnessView(study_id=study_id, revision=study.revision, printed=printed, items=[ShortcomingView.model_validate(u) for u in shortcomings(plan)])


def problems_of(session: Session, study: Study, tests: Sequence[Test], arms: Sequence[Arm]) -> list[ProblemView]:
    """What prevents an answer of a study, and which verdicts that affects: for every page that shows them.

    The makers' windows and the age of the specimens never do, so that they are not read.
    """
    return [ProblemView(text=u.text, arm_ids=arm_ids) for u, arm_ids in _with_arms(_plan(session, study, tests, arms, {}, {}), arms) if u.blocking]


def circumstances(session: Session, study: Study, tests: Sequence[Test], arms: Sequence[Arm]) -> list[tuple[Shortcoming, list[str]]]:
    """What prevents an answer, and what else differed when specimens were printed or tested; each with the arms whose verdict it affects."""
    found = _with_arms(_plan(session, study, tests, arms, {}, _ages(session, study.id)), arms)
    return [(u, arm_ids) for u, arm_ids in found if u.blocking or u.name in _CIRCUMSTANCES]


_CIRCUMSTANCES = ("age differs", "room differs", "lots mixed")


def _with_arms(plan: StudyPlan, arms: Sequence[Arm]) -> list[tuple[Shortcoming, list[str]]]:
    id_of = {planned.name: arm.id for planned, arm in zip(plan.arms, arms, strict=True)}
    return [(u, [id_of[name] for name in affected_arms(plan, u)]) for u in shortcomings(plan)]


def _plan(session: Session, study: Study, tests: Sequence[Test], arms: Sequence[Arm], windows: Mapping[str, Window], ages: Mapping[str, float]) -> StudyPlan:
    batches = _batches(session, study.id)
    reference = reference_of(arms, study)
    narrowed = narrowed_names(session, arms, study)
    return StudyPlan(
        factor=StudiedFactor(study.studied_factor),
        arms=[_arm(a, batches.get(a.id, []), windows.get(a.id), ages.get(a.id), narrowed) for a in arms],
        reference=None if reference is None else _name(reference),
        replicates={f"{title_of(t)}, {t.orientation}": t.replicates for t in tests},
        each_at_best=study.each_at_best,
        crosses_materials=study.crosses_materials,
        studied=tuple(study.studied_settings),
        labels=LABELS,
    )


def _name(arm: Arm) -> str:
    return arm.mark if not arm.variant.treatment else f"{arm.mark} {arm.variant.treatment}"


def _arm(arm: Arm, batches: list[Printing], maker: Window | None, age: float | None, narrowed: Mapping[str, str]) -> PlannedArm:
    m = arm.variant.material
    window = {} if maker is None else {name: (span.low, span.high) for name, span in windows(maker).items()}
    batches = [replace(b, program=arm.variant.sheet.prepared_with) for b in batches]
    lot, printer, rig = (narrowed.get(key or "", "") for key in (arm.spool_id, arm.printer_id, arm.rig_id))
    return PlannedArm(_name(arm), f"{m.maker} {m.product}", m.colour, arm.variant.treatment, settings_of(arm), batches, window, age, lot, printer, rig)


def _batches(session: Session, study_id: str) -> dict[str, list[Printing]]:
    """How each arm was printed, by its specimens in this study."""
    of_study = (
        select(Slot.arm_id, Batch)
        .join(Specimen, Specimen.slot_id == Slot.id)
        .join(Batch, Batch.id == Specimen.batch_id)
        .join(Arm, Arm.id == Slot.arm_id)
        .where(Arm.study_id == study_id)
        .distinct()
    )
    rows = session.execute(of_study).all()
    spool_ids = {b.spool_id for _, b in rows if b.spool_id}
    spools = session.scalars(select(Spool).where(Spool.id.in_(spool_ids))).all() if spool_ids else []
    states = states_of(session, spools, max(b.printed_at for _, b in rows), in_full=False) if spools else {}
    printers = {key: name for key, name in session.execute(select(Printer.id, Printer.name))} if any(b.printer_id for _, b in rows) else {}
    found: dict[str, list[Printing]] = defaultdict(list)
    for arm_id, batch in rows:
        found[arm_id].append(_printing(batch, printers.get(batch.printer_id or "", ""), states.get(batch.spool_id or "")))
    return found


def _printing(batch: Batch, printer: str, state: SpoolState | None) -> Printing:
    day = batch.printed_at.astimezone(ZoneInfo(batch.zone)).date().isoformat()
    lot, moisture = ("", "") if state is None else (state.spool.lot or state.spool.code, moisture_word(state, batch.printed_at))
    return Printing(printer, batch.nozzle, lot, moisture, "", day, batch.room)


def moisture_word(state: SpoolState, at: datetime) -> str:
    """How dry a spool was when it was printed, in words coarse enough to be compared: '' where it does not matter."""
    limit = open_limit(state.spool.material.polymer)
    if limit is None:
        return ""
    found = state.moisture_at(at)
    if found.kind in ("dried", "drying"):
        return "dry" if found.open_hours <= limit else "open too long after drying"
    return "as delivered" if found.kind == "as delivered" or found.open_hours <= limit else "open, never dried"


def _ages(session: Session, study_id: str) -> dict[str, float]:
    """Mean days from printing to testing, by arm."""
    rows = session.execute(
        select(Slot.arm_id, Batch.printed_at, Run.happened_at)
        .join(Specimen, Specimen.slot_id == Slot.id)
        .join(Batch, Batch.id == Specimen.batch_id)
        .join(Run, Run.specimen_id == Specimen.id)
        .join(Arm, Arm.id == Slot.arm_id)
        .where(Arm.study_id == study_id, Run.retracted_at.is_(None))
    )
    days: dict[str, list[float]] = defaultdict(list)
    for arm_id, printed, tested in rows:
        days[arm_id].append((tested - printed).total_seconds() / 86400)
    return {arm_id: sum(own) / len(own) for arm_id, own in days.items()}
