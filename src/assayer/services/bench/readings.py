"""Readings of a run: read off the rig, kept as they were typed, each with the rig that showed it."""

from __future__ import annotations

from collections.abc import Iterable
from datetime import datetime
from typing import TYPE_CHECKING

from assayer.core.errors import ConflictError, EntryError
from assayer.core.methods.base import Method
from assayer.core.methods.steps import CLOCK_EVENTS
from assayer.core.quantities.words import in_text
from assayer.services.bench.reductions import standing
from assayer.services.bench.requests import Correction
from assayer.services.bench.specimens import run_view
from assayer.services.rigs.calibrations import RigReader
from assayer.services.unit import Unit
from assayer.store.models import Reading, Run

if TYPE_CHECKING:
    from assayer.services.bench.requests import NewReading, NewRun

EVENT_STEP = "event"


def holds(unit: Unit, run: Run, new: NewRun) -> bool:
    """Whether all that is sent is kept already.

    Raises
    ------
    ConflictError
        If something else is kept under the same ids.
    """
    kept = {r.id: r for r in run.readings}
    for sent in new.readings:
        there = kept.get(sent.id)
        if there is not None and (there.field, there.position, there.raw.strip()) != (sent.field, sent.position, sent.raw.strip()):
            words = f"{there.field.replace('_', ' ')} {there.position + 1} is {there.raw}, not {sent.raw}"
            raise ConflictError(f"this entry is kept already with another content ({words}): correct the reading instead", run_view(unit.session, run))
    return {r.id for r in new.readings} <= {r.id for r in run.readings} and run.complete >= new.complete


def add_readings(unit: Unit, run: Run, method: Method, rig: RigReader, new: Iterable[NewReading], happened_at: datetime) -> list[Reading]:
    known = {r.id for r in run.readings}
    taken = {(r.field, r.position, r.load, r.about): r for r in standing(run.readings)}
    added = []
    for reading in new:
        if reading.id in known:
            continue
        place = (reading.field, reading.position, reading.load, reading.about)
        if place in taken:
            there = taken[place]
            words = reading.field.replace("_", " ")
            raise ConflictError(f"{words} {reading.position + 1} was read already ({there.raw}, by {there.entered_by}): correct it, or read another place")
        row = make_reading(unit, run, method, rig, reading, happened_at)
        taken[place] = row
        run.readings.append(row)
        added.append(row)
    return added


def make_reading(unit: Unit, run: Run, method: Method, rig: RigReader, new: NewReading, happened_at: datetime) -> Reading:
    event = new.field in CLOCK_EVENTS
    if event and not any(f.counts_from == new.field for f in method.fields()):
        raise EntryError(f"nothing of {in_text(method.label)} counts from '{new.field}'", new.field)
    value, unit_shown, raw, step = 0.0, "", new.raw, EVENT_STEP
    if not event:
        field = method.field(new.field)
        quantity = rig.read(field, new.raw)
        field.check(quantity.value, new.raw.strip())
        if field.by_load and new.load is None:
            raise EntryError(f"{field.label}: say under which load it was read", field.name)
        if field.by_about and new.about is None:
            raise EntryError(f"{field.label}: say what of the specimen it is of", field.name)
        value, unit_shown, raw, step = quantity.value, quantity.unit, quantity.raw, method.step_of(new.field).name
    return Reading(
        id=new.id,
        run_id=run.id,
        step=step,
        field=new.field,
        position=new.position,
        happened_at=new.happened_at or happened_at,
        entered_at=unit.now,
        zone=unit.actor.zone,
        raw=raw,
        value=value,
        unit=unit_shown,
        ambient_c=new.ambient_c,
        load=new.load,
        after=new.after,
        about=new.about,
        rig_version_id=None if rig.version.id == run.rig_version_id else rig.version.id,
        entered_by=unit.actor.who,
        supersedes_id=new.supersedes if isinstance(new, Correction) else None,
        reason=new.reason if isinstance(new, Correction) else None,
    )


def move_to_rig(run: Run, rig: RigReader, added: Iterable[Reading]) -> None:
    """A run belongs to the rig of its latest step; what was read before on another one keeps that one."""
    if run.rig_version_id == rig.version.id:
        return
    new = {r.id for r in added}
    for reading in run.readings:
        if reading.id in new:
            reading.rig_version_id = None
        elif reading.rig_version_id is None:
            reading.rig_version_id = run.rig_version_id
        elif reading.rig_version_id == rig.version.id:
            reading.rig_version_id = None
    run.rig_version_id = rig.version.id
    run.rig_version = rig.version
