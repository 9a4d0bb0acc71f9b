"""Creep in the demo: one rack read to the end, with a missed night and a warm afternoon; another with a reading due now."""

from __future__ import annotations

import math
from datetime import datetime, timedelta

from assayer.core.methods.creep import CreepProtocol
from assayer.demo.maker import ACTORS, ARMS, ArmPlan, Maker, Rigs
from assayer.services.bench import queue, runs
from assayer.services.bench.requests import NewReading, NewRun
from assayer.services.bench.views import QueueItem
from assayer.services.sessions.requests import Place, RoomReading
from assayer.services.studies.views import StudyView

READ_AFTER = tuple(hours * 3600.0 for hours in (1 / 60, 1, 4, 10, 24, 48, 100, 168))
"""Seconds after loading at which this lab reads: fewer times than the method is delivered with."""
_MISSED = 10 * 3600.0
"""Seconds: that reading fell into the night."""


def hang_specimens(maker: Maker, study: StudyView, used: Rigs, now: datetime) -> None:
    """Two frames of each material went through the whole week in the cellar; a third hangs in the loft, due to be read after two days."""
    test = study.tests[3]
    plans = {arm.id: plan for arm, plan in zip(study.arms, ARMS, strict=True)}
    items = queue.queue(maker.workspace, test.id, "demo", blind=False).items
    cellar = _Rack(maker, used.cellar, test.id, now - timedelta(days=9.2))
    first, rest = _two_of_each(items)
    for place, item in enumerate(first):
        cellar.hang(item, plans[_arm(item)], place, comes_off=place == 5)
    cellar.read_until(now)
    loft = _Rack(maker, used.loft, test.id, now - timedelta(hours=47.6))
    for place, item in enumerate(rest):
        loft.hang(item, plans[_arm(item)], place)
    loft.read_until(now - timedelta(hours=6))


def _two_of_each(items: list[QueueItem]) -> tuple[list[QueueItem], list[QueueItem]]:
    """The first two of each arm in the queue's order, and the others."""
    seen: dict[str, int] = {}
    first: list[QueueItem] = []
    rest: list[QueueItem] = []
    for item in items:
        seen[_arm(item)] = seen.get(_arm(item), 0) + 1
        (first if seen[_arm(item)] <= 2 else rest).append(item)
    return first, rest


def _arm(item: QueueItem) -> str:
    assert item.arm is not None
    return item.arm.id


class _Rack:
    """A rack filled at `begin` and read round by round."""

    def __init__(self, maker: Maker, rig: str, test_id: str, begin: datetime) -> None:
        self.maker, self.rig, self.test_id, self.begin = maker, rig, test_id, begin
        maker.clock.now = begin
        self.session_id = maker.id()
        self.frames: list[_Frame] = []

    def hang(self, item: QueueItem, plan: ArmPlan, place: int, comes_off: bool = False) -> None:
        at = self.begin + timedelta(minutes=3 * place)
        frame = _Frame(self, item.specimen_id, plan, place, at, comes_off)
        self.frames.append(frame)
        self.maker.clock.now = at + timedelta(seconds=20)
        room = RoomReading(id=self.maker.id(), raw="21.2", at=at) if place == 0 else None
        frame.send([frame.reading("unloaded", 0, frame.unloaded, at - timedelta(minutes=1)), frame.event("load_on", at)], room=room)

    def read_until(self, until: datetime) -> None:
        protocol = CreepProtocol()
        for k, seconds in enumerate(READ_AFTER):
            if seconds == _MISSED:
                continue
            self._round("gap", k, seconds, until)
        for frame in self.frames:
            if frame.off or frame.loaded_at + timedelta(seconds=READ_AFTER[-1] + 1800) > until:
                continue
            frame.unload(frame.loaded_at + timedelta(seconds=READ_AFTER[-1] + 1800))
        for k, seconds in enumerate(protocol.recovery_due):
            self._round("recovery", k, seconds, until, last=k == len(protocol.recovery_due) - 1)

    def _round(self, field: str, k: int, seconds: float, until: datetime, last: bool = False) -> None:
        # one warm afternoon, a day after loading
        room = 26.9 if field == "gap" and seconds == 24 * 3600.0 else 21.0 + 0.4 * float(self.maker.noise.standard_normal())
        first = True
        for frame in self.frames:
            start = frame.loaded_at if field == "gap" else frame.unloaded_at
            if frame.off or start is None:
                continue
            at = start + timedelta(seconds=seconds * float(self.maker.noise.uniform(0.99, 1.02)))
            if at > until:
                continue
            self.maker.clock.now = at + timedelta(seconds=9)
            reading = RoomReading(id=self.maker.id(), raw=f"{room:.1f}", at=at) if first else None
            frame.read(field, k, at, room, reading, last)
            first = False


class _Frame:
    """One frame and what it does: Findley's law under load, most of it back afterwards."""

    def __init__(self, rack: _Rack, specimen_id: str, plan: ArmPlan, place: int, loaded_at: datetime, comes_off: bool) -> None:
        maker = rack.maker
        self.rack, self.specimen_id, self.place, self.loaded_at, self.comes_off = rack, specimen_id, place, loaded_at, comes_off
        self.unloaded_at: datetime | None = None
        self.off = False
        maker.clock.now = loaded_at
        self.run_id = maker.id()
        opening, a, n = plan.creep
        spread = 1 + 0.05 * float(maker.noise.standard_normal())
        self.unloaded = 20.05 + 0.05 * float(maker.noise.standard_normal())
        self.opening, self.a, self.n = opening * spread, a * (1 + 0.07 * float(maker.noise.standard_normal())), n
        self.last = 0.0

    def gap(self, days: float) -> float:
        return self.unloaded + self.opening + self.a * math.pow(days, self.n)

    def reading(self, field: str, position: int, value: float, at: datetime, room: float | None = None) -> NewReading:
        # the calliper shows hundredths; they are typed without the point
        return NewReading(id=self.rack.maker.id(), field=field, position=position, raw=f"{round(value * 100)}", happened_at=at, ambient_c=room)

    def event(self, name: str, at: datetime) -> NewReading:
        return NewReading(id=self.rack.maker.id(), field=name, raw="", happened_at=at)

    def read(self, field: str, k: int, at: datetime, room: float, note: RoomReading | None, last: bool) -> None:
        noise = 0.004 * float(self.rack.maker.noise.standard_normal())
        days = (at - self.loaded_at).total_seconds() / 86400
        if field == "gap":
            # warmer plastic gives a little more
            value = self.gap(days) + noise + (0.02 if room > 25 else 0.0)
            self.last = value
        else:
            assert self.unloaded_at is not None
            hours = (at - self.unloaded_at).total_seconds() / 3600
            back = 0.55 + 0.12 * min(1.0, (hours / 10) ** 0.3)
            value = self.last - back * (self.last - self.unloaded) + noise
        gone = self.comes_off and field == "gap" and k >= 4
        self.off = self.off or gone
        self.send(
            [self.reading(field, k, value, at, round(room, 1))], complete=last or gone, outcome="came off" if gone else "carried" if last else None, room=note
        )

    def unload(self, at: datetime) -> None:
        self.unloaded_at = at
        self.rack.maker.clock.now = at + timedelta(seconds=5)
        self.send([self.event("load_off", at)])

    def send(self, readings: list[NewReading], complete: bool = False, outcome: str | None = None, room: RoomReading | None = None) -> None:
        at = readings[-1].happened_at
        assert at is not None
        new = NewRun(
            id=self.run_id,
            subject_id=self.specimen_id,
            test_id=self.rack.test_id,
            rig_version_id=self.rack.rig,
            happened_at=at,
            readings=readings,
            complete=complete,
            outcome=outcome,
            place=Place(session_id=self.rack.session_id, position=self.place, room=room),
        )
        runs.accept(self.rack.maker.workspace, ACTORS[self.place % 2], new)
