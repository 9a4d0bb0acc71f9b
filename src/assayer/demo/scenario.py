"""A beekeeping co-operative picks a filament for frame hangers: its stock, and five materials pulled, hung and bent."""

from __future__ import annotations

import random
from datetime import datetime, timedelta
from pathlib import Path

import numpy as np

from assayer.demo import bench, bending, creep, dial_in, kinds, parts, pulls, rig_checks, stock
from assayer.demo.maker import ACTORS, ARMS, Clock, Maker, Rigs
from assayer.services import people
from assayer.services.bench import recompute
from assayer.services.choose import purposes
from assayer.services.choose.requests import CriterionSpec, NewPurpose
from assayer.services.printing import batches
from assayer.services.printing.requests import NewBatch
from assayer.services.rigs import rigs
from assayer.services.rigs.requests import NewCalibration, NewChannel, NewRig
from assayer.services.studies import planning
from assayer.services.studies.requests import NewArm, NewStudy, NewTest
from assayer.services.studies.views import StudyView
from assayer.services.unit import Workspace

SEED = 8717


def make_demo(folder: Path, now: datetime) -> None:
    """Make the demo data in an empty folder.

    Parameters
    ----------
    folder : Path
    now : datetime
        Dates are relative to it: the study is twelve days old, a rack is under load, its next reading is due now.
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
        used = _make_rigs(maker, now)
        study = _make_study(maker, now, found, spools)
        _print(maker, now, study, spools)
        stock.use_spools(maker, now, spools)
        pulls.pull_specimens(maker, study, used, now)
        bending.bend_specimens(maker, study, used.stand, now)
        creep.hang_specimens(maker, study, used, now)
        _make_purposes(maker, study)
        dial_in.dial_in(maker, now, found, spools)
        kinds.plan_kinds(maker, now, found, spools, used)
        parts.use_parts(maker, now, found)
        bench.fill_bench(maker, now, found)
        rig_checks.check_rigs(maker, now, found, used)
    finally:
        workspace.close()


def _make_rigs(maker: Maker, now: datetime) -> Rigs:
    calliper = NewChannel(name="length", dimension="length", unit="mm", decimals=0, step=0.01, low=0, high=150)
    rack = [NewChannel(name="gap", dimension="length", unit="mm", decimals=2, step=0.01, low=0, high=150)]

    def add(days: float, name: str, **facts: object) -> str:
        maker.clock.now = now - timedelta(days=days)
        new = NewRig.model_validate({"id": maker.id(), "version_id": maker.id(), "name": name} | facts)
        return rigs.add_rig(maker.workspace, ACTORS[0], new)[0].id

    def force(unit: str, step: float, high: float) -> NewChannel:
        return NewChannel(name="force", dimension="force", unit=unit, step=step, low=0, high=high)

    jack = add(400, "Jack frame", methods=["tension", "shear"], compliance=0.0012, channels=[force("kgf", 0.1, 200), calliper])
    gives = {"compliance": 0.0003, "compliance_uncertainty": 0.00001}
    frame = add(60, "Pull frame 2 kN", methods=["tension", "shear"], channels=[force("N", 0.1, 2000), calliper], **gives)
    dial = NewChannel(name="deflection", dimension="length", unit="mm", decimals=0, step=0.001, low=0, high=12.7)
    stand = add(50, "Two-support stand", methods=["stepped-bending"], geometry={"span": 64}, channels=[dial, calliper], note="dead weights on a hook")
    cellar = add(45, "Cellar rack", methods=["creep"], places=10, channels=rack)
    loft = add(45, "Loft rack", methods=["creep"], places=8, channels=rack)
    shore = [NewChannel(name="hardness", dimension="hardness", unit="Shore D", step=0.5, low=0, high=100)]
    add(30, "Pocket durometer", methods=["hardness"], channels=shore)
    for version, channel, factor, days, due in ((frame, "force", 1.004, 12.05, 353.0), (stand, "deflection", 1.002, 49.0, -8.0)):
        maker.clock.now = now - timedelta(days=days) + timedelta(hours=1)
        new = NewCalibration(
            id=maker.id(), channel=channel, factor=factor, valid_from=now - timedelta(days=days), due_at=now + timedelta(days=due), note="own reference"
        )
        recompute.calibrate(maker.workspace, ACTORS[0], version, new)
    return Rigs(jack, frame, stand, cellar, loft)


def _make_study(maker: Maker, now: datetime, found: dict[tuple[str, str, str], str], spools: dict[str, str]) -> StudyView:
    maker.clock.now = now - timedelta(days=12)
    arms = [NewArm(id=maker.id(), material_id=found[arm.material], spool_id=spools[arm.spool]) for arm in ARMS]
    plan = NewStudy(
        id=maker.id(),
        title="Frame hangers for summer hives",
        question="Which filament carries a full honey frame through a summer, and how much of that is left between the layers?",
        studied_factor="material",
        arms=arms,
        tests=[
            NewTest(id=maker.id(), orientation="flat"),
            NewTest(id=maker.id(), orientation="upright"),
            NewTest(id=maker.id(), method="stepped-bending", orientation="flat", replicates=3),
            NewTest(id=maker.id(), method="creep", orientation="flat", replicates=3, protocol={"load": 23.5, "due": list(creep.READ_AFTER)}),
        ],
        settings="0.2 mm layers, 4 perimeters, solid",
    )
    return planning.create_study(maker.workspace, ACTORS[0], plan)[0]


def _print(maker: Maker, now: datetime, study: StudyView, spools: dict[str, str]) -> None:
    for i, (arm, plan) in enumerate(zip(study.arms, ARMS, strict=True)):
        maker.clock.now = now - timedelta(days=11.9) + timedelta(hours=1.5 * i)
        new = NewBatch(id=maker.id(), arm_id=arm.id, spool_id=spools[plan.spool], printed_at=maker.clock.now)
        batches.print_batch(maker.workspace, ACTORS[i % 2], new)


def _make_purposes(maker: Maker, study: StudyView) -> None:
    flat, upright, bent, hung = (t.id for t in study.tests)
    criteria = [
        CriterionSpec(id=maker.id(), test_id=flat, quantity="strength", no_use=25, all_needed=60, weight=2),
        CriterionSpec(id=maker.id(), test_id=upright, quantity="strength", no_use=8, all_needed=30, required=14, weight=4),
        CriterionSpec(id=maker.id(), test_id=bent, quantity="load_carried", no_use=20, all_needed=120, weight=2),
        CriterionSpec(id=maker.id(), test_id=hung, quantity="creep_at_horizon", no_use=0.6, all_needed=0.1, weight=4),
        CriterionSpec(id=maker.id(), test_id=upright, quantity="layer_ratio", no_use=0.2, all_needed=0.7, weight=1),
    ]
    purposes.add_purpose(maker.workspace, ACTORS[0], NewPurpose(id=maker.id(), study_id=study.id, title="Frame hanger", criteria=criteria))
