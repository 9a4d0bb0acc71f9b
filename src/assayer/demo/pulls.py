"""The pulls of the demo: by recorded curve or by hand, with grip breaks, one on the old rig, a typing slip put right."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta

import numpy as np

from assayer.core.shapes.pull_bars import SHORT_PULL_BAR
from assayer.demo.curve_model import Behaviour, as_file, pull
from assayer.demo.maker import ACTORS, ARMS, Maker, Rigs
from assayer.demo.pictures import broken_bar
from assayer.services.bench import curves, queue, runs
from assayer.services.bench.requests import Correction, NewReading, NewRun
from assayer.services.photos.photos import add_photo
from assayer.services.studies.views import StudyView, TestView

_GRIPS = {("Clearwater CF", False, 3): 0.86, ("Everyday", False, 1): 1.1}
_ON_THE_OLD_RIG = ("Outdoor", False, 4)
_SLIP_OF_THE_PEN = ("Everyday", False, 2)
"""By product, upright or not, and how many of that arm were pulled before: the order of the queue differs from demo to demo.

Of those that broke at the grip, at which share of the usual load: one of them held more than those that broke in the gauge.
"""
_AT_ONE_HEIGHT = ("Outdoor", True)
"""Upright bars that all break at the layers where the fan went on."""
_GAUGE = SHORT_PULL_BAR.zones["parallel"][0]


@dataclass(frozen=True, slots=True)
class Told:
    """What the story says of one pull."""

    rig: str
    behaviour: Behaviour
    grip: float | None = None
    """Share of the usual load at which it broke at the grip."""
    by_hand: bool = True
    slip_of_pen: bool = False
    share: float = 1.0
    """Of the usual load, where something was wrong with it."""
    place: float | None = None
    """Where it broke along the bar; anywhere in the gauge where nothing is said."""


def pull_specimens(maker: Maker, study: StudyView, used: Rigs, now: datetime) -> None:
    """Pull what the story has pulled: the last arm only in part."""
    plans = {arm.id: plan for arm, plan in zip(study.arms, ARMS, strict=True)}
    for test, days in zip(study.tests[:2], (6.0, 2.0), strict=True):
        seen: dict[str, int] = {}
        upright = test.orientation == "upright"
        for i, item in enumerate(queue.queue(maker.workspace, test.id, "demo", blind=False).items):
            assert item.arm is not None
            plan = plans[item.arm.id]
            product = plan.material[1]
            number = seen.get(item.arm.id, 0)
            seen[item.arm.id] = number + 1
            if product == "Burden" and number >= (2 if upright else 3):
                continue
            maker.clock.now = now - timedelta(days=days) + timedelta(minutes=4 * i)
            place = (product, upright, number)
            on_old = place == _ON_THE_OLD_RIG
            if on_old:
                maker.clock.now = now - timedelta(days=11)
            told = Told(
                rig=used.jack if on_old else used.frame,
                behaviour=plan.upright if upright else plan.flat,
                grip=_GRIPS.get(place),
                by_hand=on_old or (upright and i % 2 == 1),
                slip_of_pen=place == _SLIP_OF_THE_PEN,
                place=0.42 + 0.004 * number if (product, upright) == _AT_ONE_HEIGHT else None,
            )
            run_id = pull_one(maker, test, item.specimen_id, told, i)
            if number == 0 and not upright:
                picture = broken_bar(maker.noise, item.arm.material.hex, told.place or 0.5 + 0.06 * (len(product) % 5 - 2), 3 + 200 * told.behaviour.draw)
                add_photo(maker.workspace, ACTORS[0], maker.id(), "run", run_id, picture, f"{product}, after the test")


def pull_one(maker: Maker, test: TestView, specimen_id: str, told: Told, i: int) -> str:
    """One pull as the story has it, by hand or by recorded curve; the id of its run."""
    noise = maker.noise
    actor = ACTORS[i % 2]
    widths = [round(float(5.02 + 0.02 * noise.standard_normal()), 2) for _ in range(3)]
    thicknesses = [round(float(3.97 + 0.015 * noise.standard_normal()), 2) for _ in range(3)]
    factor = float(1 + told.behaviour.scatter * noise.standard_normal()) * (told.grip or 1.0) * told.share
    area = float(np.mean(widths) * np.mean(thicknesses))
    readings = [
        NewReading(id=maker.id(), field=name, position=k, raw=f"{v:.2f}")
        for name, values in (("width", widths), ("thickness", thicknesses))
        for k, v in enumerate(values)
    ]
    curve_id = None
    time, travel, force = pull(told.behaviour, factor, area, SHORT_PULL_BAR.effective_length, 0.0003, noise)
    if told.by_hand:
        readings.append(NewReading(id=maker.id(), field="peak_force", raw=f"{force.max() / 9.80665:.1f} kgf"))
    else:
        curve_id = maker.id()
        curves.take_in(maker.workspace, actor, curve_id, told.rig, f"pull-{i + 1:03d}.csv", as_file(time, travel, force))
    if told.slip_of_pen:
        readings[0] = readings[0].model_copy(update={"raw": f"{widths[0] + 0.2:.2f}"})
    upright = test.orientation == "upright"
    new = NewRun(
        id=maker.id(),
        subject_id=specimen_id,
        test_id=test.id,
        rig_version_id=told.rig,
        happened_at=maker.clock.now,
        readings=readings,
        curve_id=curve_id,
        outcome="grip" if told.grip else "one layer" if upright else "gauge",
        outcome_place=0.17 if told.grip else told.place or round(float(noise.uniform(_GAUGE + 0.005, 0.995 - _GAUGE)), 3),
    )
    run, _ = runs.accept(maker.workspace, actor, new)
    if told.slip_of_pen:
        maker.clock.now += timedelta(minutes=2)
        fix = Correction(id=maker.id(), field="width", position=0, raw=f"{widths[0]:.2f}", supersedes=readings[0].id, reason="misread the calliper")
        runs.correct(maker.workspace, actor, run.id, fix, run.revision)
    return run.id
