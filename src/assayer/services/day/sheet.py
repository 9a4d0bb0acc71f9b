"""The day sheet: what runs, what is due, what is late, what waits for a decision."""

from __future__ import annotations

from datetime import date, datetime, timedelta
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session, joinedload

from assayer.services.sessions.drying import drying_dicts
from assayer.services.stock.materials import doubts_of, material_dict, statement, window_of
from assayer.services.stock.spool_state import states_of
from assayer.services.studies.listing import list_studies
from assayer.services.unit import Workspace
from assayer.store.models import Claim, DeviceSession, Material, Spool

_GRACE = timedelta(hours=1)
"""After its time a dryer is due; after this much more it is late."""

_INTAKE = timedelta(days=7)
"""A spool that came this long ago and was never checked is late."""

_LIMIT = 40


def day_sheet(workspace: Workspace) -> dict[str, Any]:
    """Everything that wants a hand or an eye, each with where it leads; what has been due longest comes first."""
    now = workspace.clock()
    with workspace.read() as session:
        items = [*_dryers(session, now), *_intakes(session, now), *_to_dry(session, now), *_doubts(session)]
    studies = list_studies(workspace, 8, 0)
    for study in studies["items"]:
        waiting = study["planned"] - study["tested"]
        if waiting > 0:
            text = f"{waiting} of {study['planned']} specimens wait to be tested"
            items.append(_item("specimens", "due", study["title"], text, None, {"study_id": study["id"]}, study["swatches"]))
    order = {"late": 0, "due": 1, "running": 2, "doubt": 3}
    items.sort(key=lambda i: (order[i["state"]], i["until"] is None, i["until"] or now))
    return {"now": now, "items": items}


def _item(
    kind: str, state: str, title: str, text: str, until: datetime | None, ids: dict[str, str], swatches: list[dict[str, Any]], since: datetime | None = None
) -> dict[str, Any]:
    targets = dict.fromkeys(("spool_id", "material_id", "study_id", "drying_id")) | ids
    return {"kind": kind, "state": state, "title": title, "text": text, "until": until, "since": since, "swatches": swatches} | targets


def _swatch(material: Material) -> dict[str, Any]:
    m = material_dict(material)
    return {"mark": m["mark"], "hex": m["hex"], "filled": m["filler"] is not None}


def _dryers(session: Session, now: datetime) -> list[dict[str, Any]]:
    runs = session.scalars(
        select(DeviceSession).where(DeviceSession.ended_at.is_(None), DeviceSession.retracted_at.is_(None)).order_by(DeviceSession.due_at).limit(_LIMIT)
    ).all()
    items = []
    for run, shown in zip(runs, drying_dicts(session, list(runs), now), strict=True):
        state = "running" if now < run.due_at else "due" if now < run.due_at + _GRACE else "late"
        codes = ", ".join(m["code"] for m in shown["members"])
        text = f"{run.temperature:g} °C · {codes}" if state == "running" else f"take out and weigh {codes}"
        swatches = [_swatch(m.spool.material) for m in run.members]
        items.append(_item("dryer", state, run.device, text, run.due_at, {"drying_id": run.id}, swatches, since=run.started_at))
    return items


def _intakes(session: Session, now: datetime) -> list[dict[str, Any]]:
    unchecked = session.scalars(
        select(Spool).options(joinedload(Spool.material)).where(Spool.verdict.is_(None), Spool.gone_at.is_(None)).order_by(Spool.created_at).limit(_LIMIT)
    )
    items = []
    for spool in unchecked:
        m = spool.material
        state = "late" if spool.created_at + _INTAKE < now else "due"
        text = f"{spool.code} · came {date.fromisoformat(spool.received_on):%-d %b}, never checked"
        items.append(_item("intake", state, f"{m.maker} {m.product}, {m.colour}", text, None, {"spool_id": spool.id}, [_swatch(m)]))
    return items


def _to_dry(session: Session, now: datetime) -> list[dict[str, Any]]:
    """Spools that intake wants dried and that have not been since, or lay open too long after."""
    spools = session.scalars(
        select(Spool).options(joinedload(Spool.material)).where(Spool.verdict == "dry first", Spool.gone_at.is_(None)).order_by(Spool.created_at).limit(_LIMIT)
    ).all()
    items = []
    for spool_id, f in states_of(session, spools, now).items():
        again = f.moisture.kind == "dried"
        if f.moisture.kind == "drying" or (again and not f.stale):
            continue
        m, window = f.spool.material, window_of(f.spool.material)
        asked = f"{window.dry_temperature:g} °C" + (f" for {window.dry_time:g} h" if window.dry_time else "") if window.dry_temperature else "as its maker says"
        text = f"{f.spool.code} · {'dry again' if again else 'dry first'}: {asked} · {f.moisture.words}"
        items.append(_item("to dry", "due", f"{m.maker} {m.product}, {m.colour}", text, None, {"spool_id": spool_id}, [_swatch(m)]))
    return items


def _doubts(session: Session) -> list[dict[str, Any]]:
    """Makers' statements that contradict one another."""
    doubtful = session.scalars(select(Material).where(Material.doubts > 0).order_by(Material.created_at).limit(_LIMIT)).all()
    items = []
    for m in doubtful:
        line = select(Material.id).where(Material.maker == m.maker, Material.product == m.product)
        claims = session.scalars(select(Claim).where(Claim.material_id.in_(line), Claim.retracted_at.is_(None)).order_by(Claim.entered_at, Claim.id))
        for found in doubts_of(m, [statement(c) for c in claims]):
            items.append(_item("contradiction", "doubt", f"{m.maker} {m.product}, {m.colour}", found.text, None, {"material_id": m.id}, [_swatch(m)]))
    return items[:_LIMIT]
