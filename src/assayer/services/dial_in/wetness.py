"""Wetness found late: popping at a trial flags the spool, and everything printed from it since it was last known dry."""

from __future__ import annotations

from datetime import datetime
from typing import TYPE_CHECKING

from sqlalchemy import String, cast, func, select
from sqlalchemy.orm import Session, joinedload

from assayer.core.quantities.words import counted
from assayer.services.dial_in.wetness_views import WetView
from assayer.services.stock.spool_state import SpoolState, states_of
from assayer.services.unit import Workspace, find
from assayer.store.models import Batch, Spool, Trial

if TYPE_CHECKING:
    from assayer.services.dial_in.trail_facts import TrailFacts

POPPING = "popping"


def wet_in(session: Session, facts: TrailFacts) -> list[WetView]:
    """Spools of a trail that popped, and were not dried since."""
    reports = [t for t in facts.trials if POPPING in t.symptoms and t.spool_id is not None and t.printed_at is not None]
    return _wet(session, reports, facts.spools)


def wet_spools(session: Session, now: datetime, spool_id: str | None = None) -> list[WetView]:
    """Spools at hand that popped in any trial, and were not dried since."""
    reported = select(Trial).where(
        cast(Trial.symptoms, String).contains(POPPING), Trial.spool_id.is_not(None), Trial.printed_at.is_not(None), Trial.retracted_at.is_(None)
    )
    if spool_id is not None:
        reported = reported.where(Trial.spool_id == spool_id)
    reports = list(session.scalars(reported.order_by(Trial.printed_at)))
    if not reports:
        return []
    ids = {t.spool_id for t in reports}
    spools = session.scalars(select(Spool).where(Spool.id.in_(ids), Spool.gone_at.is_(None)).options(joinedload(Spool.material))).all()
    return _wet(session, reports, states_of(session, spools, now, in_full=False))


def get_wet(workspace: Workspace, spool_id: str) -> list[WetView]:
    """What is to be said of one spool."""
    with workspace.read() as session:
        find(session, Spool, spool_id)
        return wet_spools(session, workspace.clock(), spool_id)


def printed_wet(session: Session, spool: Spool, printed_at: datetime) -> str | None:
    """What is to be said of a print whose spool popped in a trial before it was dried again; drying it later mends no print."""
    popped = select(Trial.number, Trial.printed_at).where(
        cast(Trial.symptoms, String).contains(POPPING), Trial.spool_id == spool.id, Trial.printed_at.is_not(None), Trial.retracted_at.is_(None)
    )
    rows = session.execute(popped.order_by(Trial.printed_at)).all()
    if not rows:
        return None
    dryings = sorted(s.ended_at for s in states_of(session, [spool], printed_at, in_full=False)[spool.id].sessions if s.ended_at is not None)
    for number, at in rows:
        assert at is not None
        before = max((d for d in dryings if d <= at), default=None)
        after = min((d for d in dryings if d > at), default=None)
        if (before is None or printed_at >= before) and (after is None or printed_at < after):
            return f"printed from a spool found wet: it popped in trial {number}"
    return None


def _wet(session: Session, reports: list[Trial], states: dict[str, SpoolState]) -> list[WetView]:
    latest: dict[str, Trial] = {}
    for t in reports:
        assert t.spool_id is not None
        latest[t.spool_id] = t
    found = []
    for spool_id, trial in latest.items():
        state = states.get(spool_id)
        assert trial.printed_at is not None
        if state is None or any(s.ended_at is not None and s.ended_at > trial.printed_at for s in state.sessions):
            continue
        dry = state.moisture_at(trial.printed_at).dried
        since = dry.end if dry is not None else None
        printed = select(Batch.id).where(Batch.spool_id == spool_id)
        others = select(Trial.number, Trial.part).where(Trial.spool_id == spool_id, Trial.printed_at.is_not(None), Trial.retracted_at.is_(None))
        if since is not None:
            printed, others = printed.where(Batch.printed_at >= since), others.where(Trial.printed_at >= since)
        batches = session.scalar(select(func.count()).select_from(printed.subquery())) or 0
        trials = [f"{part} (trial {number})" for number, part in session.execute(others.order_by(Trial.printed_at))]
        when = f"since it was dried on {since:%-d %b}" if since is not None else "ever"
        doubted = f"{counted(batches, 'batch', 'batches')}, {counted(len(trials), 'trial')}"
        words = f"{state.spool.code} popped in trial {trial.number}: what was printed from it {when} is in doubt ({doubted})"
        found.append(
            WetView(
                spool_id=spool_id,
                code=state.spool.code,
                trial_id=trial.id,
                trial_number=trial.number,
                known_dry=since,
                batches=batches,
                trials=trials,
                words=words,
            )
        )
    return found
