"""Stepped bending of the demo: weights one by one, each read after 5, 20 and 80 s."""

from __future__ import annotations

import math
from datetime import datetime, timedelta

from assayer.core.methods.stepped_bending import SteppedProtocol
from assayer.demo.maker import ACTORS, ARMS, ArmPlan, Maker
from assayer.services.bench import queue, runs
from assayer.services.bench.requests import NewReading, NewRun
from assayer.services.studies.views import StudyView

_SPAN, _WIDTH, _THICKNESS = 64.0, 10.02, 4.01


def bend_specimens(maker: Maker, study: StudyView, stand: str, now: datetime) -> None:
    """All but the last arm's third bar; one reading came late."""
    test = study.tests[2]
    plans = {arm.id: plan for arm, plan in zip(study.arms, ARMS, strict=True)}
    seen: dict[str, int] = {}
    for i, item in enumerate(queue.queue(maker.workspace, test.id, "demo", blind=False).items):
        assert item.arm is not None
        plan = plans[item.arm.id]
        number = seen.get(item.arm.id, 0)
        seen[item.arm.id] = number + 1
        if plan.material[1] == "Burden" and number == 2:
            continue
        begin = now - timedelta(days=5) + timedelta(minutes=14 * i)
        maker.clock.now = begin + timedelta(minutes=9)
        _bend_one(maker, test.id, item.specimen_id, plan, stand, begin, late=(plan.material[1], number) == ("Outdoor", 1))


def _bend_one(maker: Maker, test_id: str, specimen_id: str, plan: ArmPlan, stand: str, begin: datetime, late: bool) -> None:
    noise = maker.noise
    protocol = SteppedProtocol()
    modulus, carried, drift = plan.bend
    modulus *= 1 + 0.03 * float(noise.standard_normal())
    second_moment = _WIDTH * _THICKNESS**3 / 12
    readings = [
        NewReading(id=maker.id(), field=name, position=k, raw=f"{v + 0.01 * noise.standard_normal():.2f}")
        for name, v in (("width", _WIDTH), ("thickness", _THICKNESS))
        for k in range(3)
    ]
    at = begin
    decades = math.log10(protocol.times[-1] / protocol.times[0])
    for i, load in enumerate(protocol.ladder):
        at += timedelta(seconds=25)
        readings.append(NewReading(id=maker.id(), field="load_on", position=i, raw="", happened_at=at, load=load))
        elastic = load * _SPAN**3 / (48 * modulus * second_moment)
        # beyond the load it carries steadily, a bar goes on bending
        share = (drift if load <= carried else 2.6 * drift) / 100 * (1 + 0.05 * float(noise.standard_normal()))
        for j, seconds in enumerate(protocol.times):
            after = seconds + (34 if late and (i, j) == (2, 1) else 0)
            value = elastic * (1 + share * math.log10(after / protocol.times[0]) / decades) + 0.0012 * float(noise.standard_normal())
            readings.append(
                NewReading(
                    id=maker.id(),
                    field="deflection",
                    position=3 * i + j,
                    raw=f"{value:.3f}",
                    happened_at=at + timedelta(seconds=after),
                    load=load,
                    ambient_c=21.0,
                )
            )
        at += timedelta(seconds=protocol.times[-1] + 4)
    left = 0.02 * elastic * (2.4 if carried < protocol.ladder[-1] else 1.0)
    readings.append(NewReading(id=maker.id(), field="residual", raw=f"{left:.3f}", happened_at=at + timedelta(seconds=40)))
    new = NewRun(
        id=maker.id(),
        subject_id=specimen_id,
        test_id=test_id,
        rig_version_id=stand,
        happened_at=at + timedelta(seconds=60),
        readings=readings,
        outcome="held",
        confirmed=[],
        unchecked=False,
    )
    runs.accept(maker.workspace, ACTORS[0], new)
