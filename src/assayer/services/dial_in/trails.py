"""Trails: the search for settings of a material on a printer, from its first sheet to the one that is accepted."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from sqlalchemy import func, select
from sqlalchemy.orm import Session, joinedload

from assayer.core.advice.next_steps import Known, candidates, lowest_trait, symptom_of
from assayer.core.advice.rules import Symptom, symptom
from assayer.core.advice.trials import FAILED, Effect, Untold, effects, untold
from assayer.core.advice.trials import Trial as Tried
from assayer.core.errors import ConflictError, EntryError
from assayer.core.settings.declared import setting
from assayer.core.stats.shares import wilson
from assayer.services.dial_in.calibrations import calibrations_of
from assayer.services.dial_in.sheets import difference_view, first_sheet, keep_sheet
from assayer.services.dial_in.trail_facts import TrailFacts, facts_of
from assayer.services.dial_in.trial_views import trial_views
from assayer.services.dial_in.views import (
    CandidateView,
    CurrentView,
    EffectView,
    NextSteps,
    PrintabilityView,
    SymptomView,
    TrailItem,
    TrailList,
    TrailView,
    UntoldView,
)
from assayer.services.dial_in.wetness import wet_in
from assayer.services.printing.printers import hardware_of
from assayer.services.stock.materials import material_view, window_of
from assayer.services.studies.fairness import moisture_word
from assayer.services.unit import Actor, Unit, Workspace, expect_revision, find
from assayer.store.counting import count_if
from assayer.store.models import CurrentSheet, Material, Nozzle, Printer, Trail, Trial

if TYPE_CHECKING:
    from assayer.services.dial_in.requests import NewTrail, TrailEdit

PRINTED = ("good", "poor", "failed", "stopped")


def list_trails(workspace: Workspace) -> TrailList:
    """All trails, the one worked on last first; those put away at the end."""
    with workspace.read() as session:
        own, printed = Trial.control_material_id.is_(None), Trial.outcome != "planned"
        counted = (
            select(Trial.trail_id, count_if(printed & own), count_if((Trial.outcome == "good") & own), count_if(printed & ~own), func.max(Trial.printed_at))
            .where(Trial.retracted_at.is_(None))
            .group_by(Trial.trail_id)
        )
        counts = {trail_id: (n, good, controls, last) for trail_id, n, good, controls, last in session.execute(counted)}
        current = {c.trail_id: c.trial_number for c in current_sheets(session)}
        trails = session.scalars(select(Trail).options(joinedload(Trail.material), joinedload(Trail.printer))).all()
        items = []
        for t in trails:
            n, good, controls, last = counts.get(t.id, (0, 0, 0, None))
            items.append(
                TrailItem(
                    id=t.id,
                    material=material_view(t.material),
                    printer_name=t.printer.name,
                    purpose=t.purpose,
                    trials=n,
                    good=good,
                    controls=controls,
                    last_at=last,
                    current_number=current.get(t.id),
                    put_away=t.put_away_at is not None,
                )
            )
        made = {t.id: t.created_at for t in trails}
        return TrailList(items=sorted(items, key=lambda i: (i.put_away, -(i.last_at or made[i.id]).timestamp())))


def add_trail(workspace: Workspace, actor: Actor, new: NewTrail) -> tuple[TrailView, bool]:
    """Begin a trail: its first trial is planned with the sheet that it starts from."""
    with workspace.write(actor, (new.id, new)) as unit:
        there = unit.session.get(Trail, new.id)
        if there is not None:
            unit.refuse_other(
                "trail", shown := trail_view(unit.session, there), same=(there.material_id, there.printer_id) == (new.material_id, new.printer_id)
            )
            return shown, False
        material, printer = find(unit.session, Material, new.material_id), find(unit.session, Printer, new.printer_id)
        nozzle = find(unit.session, Nozzle, new.nozzle_id) if new.nozzle_id is not None else _fitted(unit.session, printer.id)
        if new.start == "sheet" and new.sheet_id is None:
            raise EntryError("choose the sheet to start from", "sheet_id")
        if unit.session.get(Trial, new.trial_id) is not None:
            raise ConflictError("another trial already has this id")
        trail = Trail(
            id=new.id,
            material_id=material.id,
            printer_id=printer.id,
            nozzle_id=nozzle.id if nozzle else None,
            purpose=new.purpose,
            part=new.part,
            created_at=unit.now,
            zone=actor.zone,
            revision=1,
        )
        unit.session.add(trail)
        unit.session.flush()
        sheet, parent = first_sheet(unit.session, new, material, printer)
        kept = keep_sheet(unit, sheet, f"{new.purpose} 1", parent)
        unit.session.add(planned_trial(unit, trail, new.trial_id, 1, None, kept.id, new.part))
        unit.session.flush()
        unit.log("trail", trail.id, "begun", after={"purpose": new.purpose, "start": new.start})
        return trail_view(unit.session, trail), True


def _fitted(session: Session, printer_id: str) -> Nozzle | None:
    return session.scalars(select(Nozzle).where(Nozzle.printer_id == printer_id, Nozzle.retired_at.is_(None))).first()


def planned_trial(unit: Unit, trail: Trail, key: str, number: int, parent_id: str | None, sheet_id: str, part: str) -> Trial:
    """A trial that is not printed yet."""
    return Trial(
        id=key,
        trail_id=trail.id,
        number=number,
        parent_id=parent_id,
        sheet_id=sheet_id,
        part=part,
        nozzle_id=trail.nozzle_id,
        outcome="planned",
        symptoms=[],
        while_running=[],
        zone=unit.actor.zone,
        who=unit.actor.who,
        entered_at=unit.now,
        revision=1,
    )


def edit_trail(workspace: Workspace, actor: Actor, trail_id: str, edit: TrailEdit, revision: int) -> TrailView:
    """Name what it is for or what is printed otherwise, change its nozzle, put it away or take it up again."""
    with workspace.write(actor) as unit:
        trail = find(unit.session, Trail, trail_id)
        expect_revision(revision, trail.revision, "the trail")
        given = edit.model_dump(exclude_unset=True)
        if "put_away" in given:
            trail.put_away_at = unit.now if given["put_away"] else None
        if given.get("nozzle_id") is not None:
            find(unit.session, Nozzle, given["nozzle_id"])
        before = {name: getattr(trail, name) for name in given if name != "put_away"}
        for name in before:
            if given[name] is None and name != "nozzle_id":
                raise EntryError("a name is needed", name)
            setattr(trail, name, given[name])
        trail.revision += 1
        unit.session.flush()
        unit.session.expire(trail, ["nozzle"])
        unit.log("trail", trail.id, "edited", before, given)
        return trail_view(unit.session, trail)


def get_trail(workspace: Workspace, trail_id: str) -> TrailView:
    with workspace.read() as session:
        return trail_view(session, find(session, Trail, trail_id))


def trail_view(session: Session, trail: Trail) -> TrailView:
    """The page of a trail: its trials, what each change did, and what is still open."""
    facts = facts_of(session, trail)
    tried = facts.tried()
    found = effects(tried)
    current = next((c for c in current_sheets(session, trail.material_id) if c.trail_id == trail.id), None)
    return TrailView(
        id=trail.id,
        material=material_view(trail.material),
        printer_id=trail.printer_id,
        printer_name=trail.printer.name,
        nozzle_id=trail.nozzle_id,
        nozzle=_nozzle_words(trail),
        purpose=trail.purpose,
        part=trail.part,
        revision=trail.revision,
        put_away=trail.put_away_at is not None,
        trials=trial_views(session, facts),
        effects=[_effect_view(e) for e in found],
        untold=[_untold_view(u) for u in untold(tried, found)],
        current=current,
        printability=_printability(facts),
        calibrations=calibrations_of(session, facts),
        wet=wet_in(session, facts),
    )


def _nozzle_words(trail: Trail) -> str:
    nozzle = trail.nozzle
    if nozzle is None:
        return f"{trail.printer.nozzle:g} mm nozzle" if trail.printer.nozzle else ""
    size = f"{nozzle.diameter:g}"
    return f"{nozzle.name} mm" if nozzle.name.endswith(size) else f"{nozzle.name}, {size} mm"


def _effect_view(e: Effect) -> EffectView:
    return EffectView(
        change=difference_view(e.change),
        seen=e.seen,
        by_trait={trait: value for trait, (value, _) in e.by_trait.items()},
        counts={trait: n for trait, (_, n) in e.by_trait.items()},
        pairs=list(e.pairs),
        finishes=e.finishes,
        credited=[trait for trait in e.by_trait if e.credited(trait)],
    )


def _untold_view(u: Untold) -> UntoldView:
    changes, left = ([difference_view(d) for d in which] for which in (u.changes, u.untold))
    return UntoldView(number=u.number, changes=changes, untold=left, start=u.start, missing=difference_view(u.missing))


def _printability(facts: TrailFacts) -> PrintabilityView | None:
    """METHODS 12; control prints of another material say nothing of this one."""
    done = [t for t in facts.trials if t.outcome in PRINTED]
    printed = [t for t in done if t.control_material_id is None]
    if not printed:
        return None
    good = sum(t.outcome == "good" for t in printed)
    share = wilson(good, len(printed))
    first = next((i for i, t in enumerate(printed, 1) if t.outcome == "good"), None)
    return PrintabilityView(
        good=good, printed=len(printed), controls=len(done) - len(printed), share=share.share, low=share.low, high=share.high, first_good=first
    )


def next_steps(workspace: Workspace, trail_id: str, trial_id: str | None, picked: str | None) -> NextSteps:
    """What to try next from a trial (the last one that was kept, unless it is named) against a symptom."""
    with workspace.read() as session:
        trail = find(session, Trail, trail_id)
        facts = facts_of(session, trail)
        trial = _start(facts, trial_id)
        current, tried = facts.as_tried(trial), facts.tried()
        about = symptom(picked) if picked is not None else _reported(trial) or symptom_of(current)
        if picked is not None and about is None:
            raise EntryError(f"'{picked}' is none of the symptoms", "symptom")
        low = lowest_trait(current)
        if about is None:
            return NextSteps(trial_number=trial.number, symptom=None, grade=low[1] if low else None, candidates=[])
        views = []
        for c in candidates(about, current, _known(workspace, session, facts, trial, tried)):
            spec = setting(c.rule.setting)
            views.append(
                CandidateView(
                    setting=c.rule.setting,
                    label=spec.chip if spec is not None else c.rule.action,
                    unit=spec.unit if spec is not None else "",
                    before=c.before,
                    after=c.after,
                    action=c.rule.action,
                    state=c.state,
                    why=c.rule.why,
                    cost=c.rule.cost,
                    tried=c.tried,
                    against=c.against,
                )
            )
        grade = current.grades.get(about.trait) if about.trait is not None else None
        return NextSteps(trial_number=trial.number, symptom=SymptomView.model_validate(about), grade=grade, candidates=views)


def _known(workspace: Workspace, session: Session, facts: TrailFacts, trial: Trial, tried: Sequence[Tried]) -> Known:
    """All that is known besides a trial: this dial-in and the others of its material, their towers, how dry the spool is."""
    trail = facts.trail
    others = session.scalars(select(Trail).where(Trail.material_id == trail.material_id, Trail.id != trail.id).order_by(Trail.created_at.desc())).all()
    elsewhere = [(other, facts_of(session, other)) for other in others]
    return Known(
        trials=tried,
        effects=effects(tried),
        sheets={t.number: facts.sheets[t.sheet_id] for t in facts.trials if t.series is None and t.id != trial.id},
        towers=[*facts.towers(), *(tower for other, f in elsewhere for tower in f.towers(f" of “{other.purpose}”"))],
        elsewhere=[(other.purpose, effect) for other, f in elsewhere for effect in effects(f.tried())],
        spool_dry=_spool_dry(workspace, session, facts, trial),
        window=window_of(trail.material),
        hardware=hardware_of(trail.printer),
        polymer=trail.material.polymer,
    )


def _spool_dry(workspace: Workspace, session: Session, facts: TrailFacts, trial: Trial) -> bool | None:
    """Whether the spool that a trial was printed from is dry now; None where that is not known, or does not matter."""
    state = facts.spools.get(trial.spool_id or "")
    if state is None:
        return None
    if any(w.spool_id == trial.spool_id for w in wet_in(session, facts)):
        return False
    word = moisture_word(state, workspace.clock())
    return True if word == "dry" else False if word.startswith("open") else None


def _start(facts: TrailFacts, trial_id: str | None) -> Trial:
    if trial_id is not None:
        found = next((t for t in facts.trials if t.id == trial_id), None)
        if found is None:
            raise EntryError("the trial is of another trail", "trial_id")
        return found
    printed = [t for t in facts.trials if t.outcome not in ("planned", *FAILED) and t.decision != "drop" and t.series is None]
    return (printed or facts.trials)[-1]


def _reported(trial: Trial) -> Symptom | None:
    """What a failed print without grades shows is what was reported of it."""
    return next((found for name in trial.symptoms if (found := symptom(name)) is not None), None)


def current_sheets(session: Session, material_id: str | None = None) -> list[CurrentView]:
    """The sheets that materials are printed with now: the latest accepted of each material, printer and purpose."""
    standing = select(CurrentSheet).where(CurrentSheet.retracted_at.is_(None)).order_by(CurrentSheet.accepted_at.desc(), CurrentSheet.id.desc())
    if material_id is not None:
        standing = standing.where(CurrentSheet.material_id == material_id)
    rows = session.scalars(standing).all()
    latest: dict[tuple[str, str, str], CurrentSheet] = {}
    for row in rows:
        latest.setdefault((row.material_id, row.printer_id, row.purpose), row)
    trials = {t.id: t for t in session.scalars(select(Trial).where(Trial.id.in_([r.trial_id for r in latest.values() if r.trial_id])))}
    printers = {p.id: p.name for p in session.scalars(select(Printer).where(Printer.id.in_({r.printer_id for r in latest.values()})))}
    return [
        CurrentView(
            id=row.id,
            purpose=row.purpose,
            printer_id=row.printer_id,
            printer_name=printers[row.printer_id],
            sheet_id=row.sheet_id,
            trail_id=trial.trail_id if trial is not None else None,
            trial_id=row.trial_id,
            trial_number=trial.number if trial is not None else None,
            accepted_at=row.accepted_at,
            who=row.who,
        )
        for row in latest.values()
        for trial in (trials.get(row.trial_id or ""),)
    ]
