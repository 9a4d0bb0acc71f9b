"""The day sheet: what runs, what is due, what is late, what waits for a decision."""

from __future__ import annotations

from collections import defaultdict
from datetime import date, datetime, timedelta

from sqlalchemy import exists, select, tuple_
from sqlalchemy.orm import Session, aliased, joinedload, selectinload

from assayer.core.filament.claims import Statement
from assayer.core.quantities.words import counted
from assayer.services.bench.rounds import racks
from assayer.services.day.follow_ups import due_follow_ups, swatch_of
from assayer.services.day.views import DayItem, DaySheet, FollowUpView
from assayer.services.dial_in.wetness import wet_spools
from assayer.services.safekeeping.backups import is_stale, last_good
from assayer.services.sessions.drying import drying_views
from assayer.services.sessions.ovens import codes_in, running_ovens
from assayer.services.stock.materials import doubts_of, statement, window_of
from assayer.services.stock.spool_state import states_of
from assayer.services.studies.listing import list_studies
from assayer.services.unit import Workspace
from assayer.services.views import SwatchView
from assayer.store.models import Calibration, Claim, DeviceSession, Material, Rig, RigVersion, Spool, Trail, Trial

_GRACE = timedelta(hours=1)
"""After its time a dryer is due; after this much more it is late."""

_INTAKE = timedelta(days=7)
"""A spool that came this long ago and was never checked is late."""

_LIMIT = 40


def day_sheet(workspace: Workspace) -> DaySheet:
    """Everything that wants a hand or an eye, each with where it leads; what has been due longest comes first."""
    now = workspace.clock()
    with workspace.read() as session:
        items = [
            *_dryers(session, now),
            *_rounds(session, now),
            *_ovens(session),
            *_calibrations(session, now),
            *_intakes(session, now),
            *_to_dry(session, now),
            *_doubts(session),
            *_trials(session),
            *_wet(session, now),
            *_follow_ups(session, now),
        ]
    items += _backup(workspace, now)
    for study in list_studies(workspace, 8, 0).items:
        if study.planned > study.printed:
            text = f"{study.planned - study.printed} of {counted(study.planned, 'specimen')} planned, not printed"
            items.append(_item("to print", "due", study.title, text, study.swatches, study_id=study.id))
        waiting = study.printed - study.tested
        if waiting > 0:
            text = f"{waiting} of {counted(study.printed, 'specimen')} still to be tested"
            items.append(_item("specimens", "due", study.title, text, study.swatches, study_id=study.id))
    order = {"late": 0, "due": 1, "running": 2, "doubt": 3}
    items.sort(key=lambda i: (order[i.state], i.until is None, i.until or now))
    return DaySheet(now=now, items=items)


def _item(
    kind: str,
    state: str,
    title: str,
    text: str,
    swatches: list[SwatchView],
    until: datetime | None = None,
    since: datetime | None = None,
    follow_up: FollowUpView | None = None,
    **ids: str,
) -> DayItem:
    targets: dict[str, str | None] = dict.fromkeys(("spool_id", "material_id", "study_id", "test_id", "drying_id", "rig_id", "trail_id", "code"))
    return DayItem(kind=kind, state=state, title=title, text=text, until=until, since=since, swatches=swatches, follow_up=follow_up, **(targets | ids))


def _rounds(session: Session, now: datetime) -> list[DayItem]:
    """Racks under load, each with its next reading: early is still running, past its window it is late."""
    items = []
    for rack in racks(session, now):
        if not rack.hanging:
            continue
        state = rack.state if rack.state in ("late", "due") else "running"
        if rack.due:
            text = f"{rack.due} of {rack.hanging} are to be read"
        elif rack.next_due is not None:
            text = f"{rack.hanging} under load, the next reading in {_span(rack.next_due - now)}"
        else:
            text = f"{rack.hanging} on it: load or unload them"
        until = rack.closes if rack.state == "due" else rack.next_due
        items.append(_item("round", state, f"Round over {rack.name}", text, [], until=until, since=rack.since, rig_id=rack.rig_id))
    return items


def _ovens(session: Session) -> list[DayItem]:
    """Ovens with specimens in them: somebody looks at them all the time, from whichever device."""
    ovens = running_ovens(session)
    codes = codes_in(session, ovens)
    return [
        _item(
            "oven",
            "due",
            f"{o.device}: {len(codes[o.id])} in it",
            f"{', '.join(codes[o.id])} · put in by {o.who}",
            [],
            since=o.started_at,
            test_id=o.test_id or "",
        )
        for o in ovens
    ]


def _span(left: timedelta) -> str:
    minutes = max(0, round(left.total_seconds() / 60))
    return f"{minutes} min" if minutes < 120 else f"{minutes / 60:.0f} h" if minutes < 48 * 60 else f"{minutes / 1440:.0f} days"


def _backup(workspace: Workspace, now: datetime) -> list[DayItem]:
    if not is_stale(workspace):
        return []
    last = last_good(workspace)
    text = "there is no backup yet" if last is None else f"the last good one is {(now - last).days} days old"
    return [_item("backup", "due", "Backup", text, [])]


def _calibrations(session: Session, now: datetime) -> list[DayItem]:
    """Standing calibrations that are to be done again and have not been since."""
    newer = aliased(Calibration)
    done_again = exists().where(
        newer.rig_version_id == Calibration.rig_version_id,
        newer.channel == Calibration.channel,
        newer.retracted_at.is_(None),
        newer.valid_from > Calibration.valid_from,
        newer.valid_from <= now,
    )
    rows = session.execute(
        select(Calibration, Rig)
        .join(RigVersion, RigVersion.id == Calibration.rig_version_id)
        .join(Rig, Rig.id == RigVersion.rig_id)
        .where(Calibration.due_at < now, Calibration.retracted_at.is_(None), (Calibration.valid_to.is_(None)) | (Calibration.valid_to > now), ~done_again)
        .order_by(Calibration.due_at)
        .limit(_LIMIT)
    )
    return [_item("calibration", "due", rig.name, f"calibrate the {c.channel} again: it was due on {c.due_at:%-d %b}", [], rig_id=rig.id) for c, rig in rows]


def _dryers(session: Session, now: datetime) -> list[DayItem]:
    runs = session.scalars(
        select(DeviceSession)
        .where(DeviceSession.kind == "drying", DeviceSession.ended_at.is_(None), DeviceSession.retracted_at.is_(None))
        .options(selectinload(DeviceSession.members))
        .order_by(DeviceSession.due_at)
        .limit(_LIMIT)
    ).all()
    items = []
    for shown in drying_views(session, list(runs), now):
        state = "running" if now < shown.due_at else "due" if now < shown.due_at + _GRACE else "late"
        codes = ", ".join(m.code for m in shown.members)
        text = f"{shown.temperature:g} °C · {codes}" if state == "running" else f"take out and weigh {codes}"
        swatches = [SwatchView(mark=m.material.mark, hex=m.material.hex, filled=m.material.filler is not None) for m in shown.members]
        items.append(_item("dryer", state, shown.device, text, swatches, until=shown.due_at, since=shown.started_at, drying_id=shown.id))
    return items


def _intakes(session: Session, now: datetime) -> list[DayItem]:
    unchecked = session.scalars(
        select(Spool).options(joinedload(Spool.material)).where(Spool.decision.is_(None), Spool.gone_at.is_(None)).order_by(Spool.created_at).limit(_LIMIT)
    )
    items = []
    for spool in unchecked:
        m = spool.material
        state = "late" if spool.created_at + _INTAKE < now else "due"
        text = f"{spool.code} · came {date.fromisoformat(spool.received_on):%-d %b}, never checked"
        items.append(_item("intake", state, f"{m.maker} {m.product}, {m.colour}", text, [swatch_of(m)], spool_id=spool.id))
    return items


def _to_dry(session: Session, now: datetime) -> list[DayItem]:
    """Spools that intake wants dried and that have not been since, or lay open too long after."""
    spools = session.scalars(
        select(Spool)
        .options(joinedload(Spool.material).joinedload(Material.window))
        .where(Spool.decision == "dry first", Spool.gone_at.is_(None))
        .order_by(Spool.created_at)
        .limit(_LIMIT)
    ).all()
    items = []
    for spool_id, f in states_of(session, spools, now).items():
        again = f.moisture.kind == "dried"
        if f.moisture.kind == "drying" or (again and not f.stale):
            continue
        m, window = f.spool.material, window_of(f.spool.material)
        asked = f"{window.dry_temperature:g} °C" + (f" for {window.dry_time:g} h" if window.dry_time else "") if window.dry_temperature else "as its maker says"
        text = f"{f.spool.code} · {'dry again' if again else 'dry first'}: {asked} · {f.moisture.words}"
        items.append(_item("to dry", "due", f"{m.maker} {m.product}, {m.colour}", text, [swatch_of(m)], spool_id=spool_id))
    return items


def _trials(session: Session) -> list[DayItem]:
    """Trials that are planned and not printed."""
    planned = (
        select(Trial, Trail)
        .join(Trail, Trail.id == Trial.trail_id)
        .where(Trial.outcome == "planned", Trial.retracted_at.is_(None), Trail.put_away_at.is_(None))
        .options(joinedload(Trail.material))
        .order_by(Trial.entered_at)
        .limit(_LIMIT)
    )
    return [
        _item(
            "trial", "due", f"Print trial {t.number}", f"{t.part} · {trail.purpose} of {trail.material.product}", [swatch_of(trail.material)], trail_id=trail.id
        )
        for t, trail in session.execute(planned)
    ]


def _wet(session: Session, now: datetime) -> list[DayItem]:
    """Spools that popped in a trial and were not dried since: what was printed from them is in doubt."""
    found = wet_spools(session, now)
    if not found:
        return []
    spools = {s.id: s for s in session.scalars(select(Spool).options(joinedload(Spool.material)).where(Spool.id.in_([w.spool_id for w in found])))}
    return [_item("wet", "doubt", f"{w.code} was wet", w.words, [swatch_of(spools[w.spool_id].material)], spool_id=w.spool_id) for w in found]


def _follow_ups(session: Session, now: datetime) -> list[DayItem]:
    return [
        _item("follow-up", "late" if d.late else "due", d.title, d.follow_up.text, d.swatches, None, None, d.follow_up, **d.ids)
        for d in due_follow_ups(session, now, _LIMIT)
    ]


def _doubts(session: Session) -> list[DayItem]:
    """Makers' statements that contradict one another."""
    wanted = select(Material).options(joinedload(Material.window)).where(Material.doubts > 0).order_by(Material.created_at).limit(_LIMIT)
    doubtful = session.scalars(wanted).all()
    if not doubtful:
        return []
    # what is said of one colour is said of the product
    claims = session.execute(
        select(Material.maker, Material.product, Claim)
        .join(Claim, Claim.material_id == Material.id)
        .where(tuple_(Material.maker, Material.product).in_({(m.maker, m.product) for m in doubtful}), Claim.retracted_at.is_(None))
        .order_by(Claim.entered_at, Claim.id)
    ).all()
    said: dict[tuple[str, str], list[Statement]] = defaultdict(list)
    for maker, product, claim in claims:
        said[maker, product].append(statement(claim))
    items = []
    for m in doubtful:
        for found in doubts_of(m, said[m.maker, m.product]):
            items.append(_item("contradiction", "doubt", f"{m.maker} {m.product}, {m.colour}", found.text, [swatch_of(m)], material_id=m.id))
    return items[:_LIMIT]
