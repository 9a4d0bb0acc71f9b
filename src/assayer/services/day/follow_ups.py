"""Follow-ups: an object is to be looked at again on a day; put off, settled, taken back."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import date, datetime
from typing import TYPE_CHECKING
from zoneinfo import ZoneInfo

from sqlalchemy import select
from sqlalchemy.orm import Session

from assayer.services.day.views import FollowUpList, FollowUpView
from assayer.services.unit import Actor, Workspace, expect_revision, find
from assayer.services.views import SwatchView
from assayer.store.models import Base, FollowUp, Material, Rig, Slot, Specimen, Spool, Study, Test, Trail

if TYPE_CHECKING:
    from assayer.services.day.requests import FollowUpEdit, NewFollowUp, ObjectKind

_OBJECTS: dict[str, type[Base]] = {"material": Material, "spool": Spool, "study": Study, "specimen": Specimen, "rig": Rig, "trail": Trail}


def add_follow_up(workspace: Workspace, actor: Actor, new: NewFollowUp) -> tuple[FollowUpView, bool]:
    """Set a follow-up; the same id again changes nothing (second value False)."""
    with workspace.write(actor, (new.id, new)) as unit:
        there = unit.session.get(FollowUp, new.id)
        if there is not None:
            unit.refuse_other("follow-up", _view(there), same=there.object_id == new.object_id)
            return _view(there), False
        find(unit.session, _OBJECTS[new.object_kind], new.object_id)
        row = FollowUp(
            id=new.id, object_kind=new.object_kind, object_id=new.object_id, text=new.text, due_on=new.due_on.isoformat(), set_at=unit.now, zone=actor.zone,
            who=actor.who,
        )  # fmt: skip
        unit.session.add(row)
        unit.session.flush()
        unit.log(new.object_kind, new.object_id, "follow-up set", after={"text": new.text, "due_on": row.due_on})
        return _view(row), True


def list_follow_ups(workspace: Workspace, kind: ObjectKind, object_id: str) -> FollowUpList:
    """What was set on an object and is open, or was settled; the next first, settled ones last."""
    with workspace.read() as session:
        find(session, _OBJECTS[kind], object_id)
        rows = session.scalars(select(FollowUp).where(FollowUp.object_kind == kind, FollowUp.object_id == object_id, FollowUp.retracted_at.is_(None)))
        items = sorted(rows, key=lambda f: (f.done_at is not None, f.due_on, f.id))
        return FollowUpList(items=[_view(f) for f in items])


def edit_follow_up(workspace: Workspace, actor: Actor, key: str, edit: FollowUpEdit, revision: int) -> FollowUpView:
    """Put off, word anew, settle or open again, take back or bring back."""
    with workspace.write(actor) as unit:
        row = find(unit.session, FollowUp, key)
        expect_revision(revision, row.revision, "the follow-up", _view(row))
        before = _facts(row)
        if edit.text is not None:
            row.text = edit.text
        if edit.due_on is not None:
            row.due_on = edit.due_on.isoformat()
        if edit.done is not None:
            row.done_at = (row.done_at or unit.now) if edit.done else None
        if edit.retracted is not None:
            row.retracted_at = (row.retracted_at or unit.now) if edit.retracted else None
        after = _facts(row)
        changed = [name for name in after if after[name] != before[name]]
        if changed:
            row.revision += 1
            action = _action(changed[0], bool(after[changed[0]])) if len(changed) == 1 else "follow-up changed"
            said = ["text", *changed]
            unit.log(row.object_kind, row.object_id, action, {n: before[n] for n in said}, {n: after[n] for n in said})
        return _view(row)


def _facts(row: FollowUp) -> dict[str, str | bool]:
    return {"text": row.text, "due_on": row.due_on, "done": row.done_at is not None, "retracted": row.retracted_at is not None}


def _action(what: str, now: bool) -> str:
    match what:
        case "done":
            return "follow-up settled" if now else "follow-up opened again"
        case "retracted":
            return "follow-up taken back" if now else "follow-up brought back"
        case "due_on":
            return "follow-up put off"
    return "follow-up worded anew"


@dataclass(frozen=True, slots=True)
class Due:
    """A follow-up whose day has come, with what it is about."""

    follow_up: FollowUpView
    late: bool
    title: str
    swatches: list[SwatchView] = field(default_factory=list)
    ids: dict[str, str] = field(default_factory=dict)


def due_follow_ups(session: Session, now: datetime, most: int) -> list[Due]:
    """Open follow-ups whose day has come where they were set, the longest due first; the day after it is late."""
    latest = max(now.astimezone(ZoneInfo(zone)).date() for zone in ("UTC", "Pacific/Kiritimati"))
    rows = session.scalars(
        select(FollowUp)
        .where(FollowUp.done_at.is_(None), FollowUp.retracted_at.is_(None), FollowUp.due_on <= latest.isoformat())
        .order_by(FollowUp.due_on, FollowUp.set_at)
        .limit(most)
    )
    found = []
    for row in rows:
        today, day = now.astimezone(ZoneInfo(row.zone)).date(), date.fromisoformat(row.due_on)
        if day <= today:
            title, swatches, ids = _TITLES[row.object_kind](session, row.object_id)
            found.append(Due(_view(row), day < today, title, swatches, ids))
    return found


_Titled = tuple[str, list[SwatchView], dict[str, str]]


def swatch_of(m: Material) -> SwatchView:
    return SwatchView(mark=m.mark, hex=m.hex, filled=m.filler is not None)


def _material(session: Session, key: str) -> _Titled:
    m = find(session, Material, key)
    return f"{m.maker} {m.product}, {m.colour}", [swatch_of(m)], {"material_id": key}


def _spool(session: Session, key: str) -> _Titled:
    spool = find(session, Spool, key)
    return f"{spool.code} · {spool.material.maker} {spool.material.product}", [swatch_of(spool.material)], {"spool_id": key}


def _specimen(session: Session, key: str) -> _Titled:
    specimen = find(session, Specimen, key)
    told = select(Study.title).join(Test, Test.study_id == Study.id)
    slot = specimen.slot_id or specimen.planned_slot_id
    told = told.where(Test.id == specimen.spare_test_id) if slot is None else told.join(Slot, Slot.test_id == Test.id).where(Slot.id == slot)
    title = session.scalar(told)
    return f"{specimen.code} · {title}" if title else specimen.code, [], {"code": specimen.code}


_TITLES: dict[str, Callable[[Session, str], _Titled]] = {
    "material": _material,
    "spool": _spool,
    "study": lambda session, key: (find(session, Study, key).title, [], {"study_id": key}),
    "specimen": _specimen,
    "rig": lambda session, key: (find(session, Rig, key).name, [], {"rig_id": key}),
    "trail": lambda session, key: ((t := find(session, Trail, key)).purpose + " of " + t.material.product, [swatch_of(t.material)], {"trail_id": key}),
}


def _view(row: FollowUp) -> FollowUpView:
    return FollowUpView.model_validate(row)
