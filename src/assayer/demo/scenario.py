"""A beekeeping co-operative picks a filament for frame hangers: its stock, and five materials pulled flat and upright."""

from __future__ import annotations

import random
from datetime import datetime, timedelta
from pathlib import Path

import numpy as np

from assayer.core.methods import tension
from assayer.demo import stock
from assayer.demo.curve_model import Behaviour, as_file, pull
from assayer.demo.maker import ACTORS, Clock, Maker
from assayer.services import people
from assayer.services.bench import curves, queue, runs
from assayer.services.bench.requests import Correction, NewReading, NewRun
from assayer.services.choose import purposes
from assayer.services.choose.requests import CriterionSpec, NewPurpose
from assayer.services.rigs import rigs
from assayer.services.rigs.requests import NewRig
from assayer.services.studies import planning
from assayer.services.studies.requests import NewArm, NewStudy, NewTest
from assayer.services.unit import Workspace
from assayer.store.models import Calibration

SEED = 8717

# how the study's arms behave, the reference first; short fibre raises the modulus much, strength little, layer adhesion not at all
ARMS: tuple[tuple[tuple[str, str, str], str, Behaviour, Behaviour], ...] = (
    (("Tarn", "Clearwater", "smoke"), "clearwater", Behaviour(1950, 46.5, 2.6, 0.05), Behaviour(1850, 22.6, 3.5)),
    (("Hollin", "Everyday", "amber"), "everyday", Behaviour(3150, 55.8, 4.0), Behaviour(2950, 30.2, 5.0)),
    (("Tarn", "Clearwater CF", "black"), "carbon", Behaviour(4100, 52.0, 3.2), Behaviour(2100, 15.6, 5.0)),
    (("Fenwick", "Outdoor", "moss"), "moss", Behaviour(1900, 44.0, 2.8, 0.03), Behaviour(1800, 25.3, 4.0)),
    (("Orrery", "Burden", "natural"), "burden", Behaviour(3600, 69.5, 2.4), Behaviour(2300, 24.5, 4.0)),
)


def make_demo(folder: Path, now: datetime) -> None:
    """Make the demo data in an empty folder.

    Parameters
    ----------
    folder : Path
    now : datetime
        Dates are relative to it: the study is twelve days old, the last pull was today.
    """
    rng = random.Random(SEED)
    clock = Clock(now - timedelta(days=40))
    workspace = Workspace(folder, clock, rng, durable=False)
    try:
        maker = Maker(workspace, clock, rng, np.random.default_rng(SEED))
        for actor in ACTORS:
            people.add_person(workspace, actor, actor.who)
        found = stock.make_materials(maker, now)
        spools = stock.make_spools(maker, now, found)
        old_rig, rig = _make_rigs(maker, now)
        study = _make_study(maker, now, found, spools)
        stock.use_spools(maker, now, spools)
        _pull_specimens(maker, study, rig, old_rig, now)
        _make_uses(maker, study)
    finally:
        workspace.close()


def _make_rigs(maker: Maker, now: datetime) -> tuple[str, str]:
    versions = []
    for name, days, compliance, unit, step in (("Jack frame", 400, 0.0012, "kgf", 0.1), ("Pull frame 2 kN", 60, 0.0003, "N", 0.1)):
        maker.clock.now = now - timedelta(days=days)
        new = NewRig(id=maker.id(), version_id=maker.id(), name=name, compliance=compliance, force_unit=unit, force_step=step, capacity=2000)
        versions.append(rigs.add_rig(maker.workspace, ACTORS[0], new)["id"])
    maker.clock.now = now - timedelta(days=12)
    with maker.workspace.write(ACTORS[0]) as unit_of_work:
        calibration = Calibration(
            id=maker.id(), rig_version_id=versions[1], quantity="force", factor=1.004, valid_from=now - timedelta(days=12, hours=1), valid_to=None
        )
        unit_of_work.session.add(calibration)
        unit_of_work.log("calibration", calibration.id, "added", after={"factor": calibration.factor})
    return versions[0], versions[1]


def _make_study(maker: Maker, now: datetime, found: dict[tuple[str, str, str], str], spools: dict[str, str]) -> dict[str, object]:
    maker.clock.now = now - timedelta(days=12)
    arms = [NewArm(id=maker.id(), material_id=found[who], spool_id=spools[spool]) for who, spool, _, _ in ARMS]
    plan = NewStudy(
        id=maker.id(),
        title="Frame hangers for summer hives",
        question="Which filament carries a full honey frame, and how much of that is left between the layers?",
        studied_factor="material",
        arms=arms,
        tests=[NewTest(id=maker.id(), orientation="flat"), NewTest(id=maker.id(), orientation="upright")],
        settings="0.2 mm layers, 4 perimeters, solid",
    )
    return planning.create_study(maker.workspace, ACTORS[0], plan)[0]


def _pull_specimens(maker: Maker, study: dict[str, object], rig: str, old_rig: str, now: datetime) -> None:
    """Pull what the story has pulled: the last arm only in part, two grip breaks, one on the old rig, a typing slip."""
    tests: list[dict[str, str]] = study["tests"]  # type: ignore[assignment]
    arms: list[dict[str, str]] = study["arms"]  # type: ignore[assignment]
    plans = {arm["id"]: plan for arm, plan in zip(arms, ARMS, strict=True)}
    for test, days in zip(tests, (6.0, 2.0), strict=True):
        items = queue.queue(maker.workspace, test["id"], "demo", blind=False)["items"]
        seen: dict[str, int] = {}
        upright = test["orientation"] == "upright"
        for i, item in enumerate(items):
            arm_id = item["arm"]["id"]
            (_, product, _), _, flat, up = plans[arm_id]
            number = seen.get(arm_id, 0)
            seen[arm_id] = number + 1
            if product == "Burden" and number >= (2 if upright else 3):
                continue
            maker.clock.now = now - timedelta(days=days) + timedelta(minutes=4 * i)
            grip = (product, upright, number) in {("Clearwater CF", False, 3), ("Everyday", False, 1)}
            on_old = (product, upright, number) == ("Outdoor", False, 4)
            if on_old:
                maker.clock.now = now - timedelta(days=11)
            _pull_one(
                maker,
                test["id"],
                item["specimen_id"],
                up if upright else flat,
                old_rig if on_old else rig,
                i,
                grip,
                by_hand=on_old or (upright and i % 2 == 1),
            )


def _pull_one(maker: Maker, test_id: str, specimen_id: str, behaviour: Behaviour, rig: str, i: int, grip: bool, by_hand: bool) -> None:
    noise = maker.noise
    actor = ACTORS[i % 2]
    widths = [round(float(4.02 + 0.02 * noise.standard_normal()), 2) for _ in range(3)]
    thicknesses = [round(float(3.97 + 0.015 * noise.standard_normal()), 2) for _ in range(3)]
    factor = float(1 + behaviour.scatter * noise.standard_normal()) * (0.86 if grip else 1.0)
    area = float(np.mean(widths) * np.mean(thicknesses))
    readings = [
        NewReading(id=maker.id(), field=name, position=k, raw=f"{v:.2f}")
        for name, values in (("width", widths), ("thickness", thicknesses))
        for k, v in enumerate(values)
    ]
    curve_id = None
    shape = tension.METHOD.shape("short-pull-bar")
    time, travel, force = pull(behaviour, factor, area, shape.gauge_length, 0.0003, noise)
    if by_hand:
        readings.append(NewReading(id=maker.id(), field="peak_force", raw=f"{force.max() / 9.80665:.1f} kgf"))
    else:
        curve_id = maker.id()
        curves.take_in(maker.workspace, actor, curve_id, rig, f"pull-{i + 1:03d}.csv", as_file(time, travel, force))
    slip_of_pen = i == 7 and not by_hand
    if slip_of_pen:
        readings[0] = readings[0].model_copy(update={"raw": "4.22"})
    fracture = "grip" if grip else ("one layer" if behaviour.draw == 0 and behaviour.strength < 35 else "gauge")
    new = NewRun(
        id=maker.id(),
        specimen_id=specimen_id,
        test_id=test_id,
        rig_version_id=rig,
        happened_at=maker.clock.now,
        readings=readings,
        curve_id=curve_id,
        fracture=fracture,
        fracture_place=0.17 if grip else round(float(noise.uniform(0.38, 0.62)), 3),
    )
    run, _ = runs.accept(maker.workspace, actor, new)
    if slip_of_pen:
        maker.clock.now += timedelta(minutes=2)
        fix = Correction(id=maker.id(), field="width", position=0, raw=f"{widths[0]:.2f}", supersedes=readings[0].id, reason="misread the calliper")
        runs.correct(maker.workspace, actor, run["id"], fix, run["revision"])


def _make_uses(maker: Maker, study: dict[str, object]) -> None:
    tests: list[dict[str, str]] = study["tests"]  # type: ignore[assignment]
    flat, upright = tests[0]["id"], tests[1]["id"]
    criteria = [
        CriterionSpec(id=maker.id(), test_id=flat, quantity="strength", no_use=25, all_needed=60, weight=3),
        CriterionSpec(id=maker.id(), test_id=upright, quantity="strength", no_use=8, all_needed=30, required=14, weight=4),
        CriterionSpec(id=maker.id(), test_id=flat, quantity="apparent_modulus", no_use=1000, all_needed=4000, weight=2),
        CriterionSpec(id=maker.id(), test_id=upright, quantity="layer_ratio", no_use=0.2, all_needed=0.7, weight=1),
    ]
    purposes.add_purpose(maker.workspace, ACTORS[0], NewPurpose(id=maker.id(), study_id=str(study["id"]), title="Frame hanger", criteria=criteria))
