"""Rigs held against themselves and each other: last winter's pulls of a reference material, and two pendulums on ten filaments."""

from __future__ import annotations

import math
from collections.abc import Mapping
from datetime import datetime, timedelta

from sqlalchemy import select

from assayer.demo.curve_model import Behaviour
from assayer.demo.maker import ACTORS, Maker, Rigs
from assayer.demo.pulls import Told, pull_one
from assayer.services.bench import queue, runs
from assayer.services.bench.requests import NewReading, NewRun
from assayer.services.findings import rig_decisions, rig_pairs
from assayer.services.findings.requests import NewConversion
from assayer.services.printing import batches
from assayer.services.printing.requests import NewBatch
from assayer.services.rigs import rigs
from assayer.services.rigs.requests import NewChannel, NewRig, RigEdit
from assayer.services.studies import board, listing, planning
from assayer.services.studies.requests import NewArm, NewStudy, NewTest
from assayer.services.studies.views import StudyView
from assayer.store.models import RigVersion

Materials = Mapping[tuple[str, str, str], str]

SMALL, LARGE = ("Pendulum on the doorpost", 0.75, 0.31, 0.02), ("Pendulum with a digital dial", 1.10, 0.33, 0.03)
"""Name, kg of the hammer, m from its axis, J lost in a free swing."""
_RELEASED = 132.1
"""° from which both fall."""

_BRITTLE = {
    ("Hollin", "Everyday", "amber"): 3.3, ("Hollin", "Everyday", "ivory"): 2.6, ("Hollin", "Everyday", "slate"): 3.0, ("Hollin", "Everyday", "brick"): 2.2,
    ("Tarn", "Clearwater CF", "black"): 4.6, ("Fenwick", "Outdoor GF", "grey"): 5.4,
}  # fmt: skip
_TOUGH = {
    ("Tarn", "Clearwater", "smoke"): 9.4, ("Fenwick", "Outdoor", "moss"): 12.5, ("Orrery", "Burden", "natural"): 15.0, ("Stell", "Pliant", "white"): 20.0,
}  # fmt: skip
"""kJ/m²; those that hinge take less on the large hammer, which drags them along."""
_DRAGGED = 0.74
_SETTINGS = "0.2 mm layers, 4 perimeters, solid"


def check_rigs(maker: Maker, now: datetime, materials: Materials, used: Rigs) -> None:
    with maker.workspace.read() as session:
        rig_of = {version: rig for version, rig in session.execute(select(RigVersion.id, RigVersion.rig_id))}
        small = next(v.id for v in session.scalars(select(RigVersion)) if v.rig.name == SMALL[0])
    rigs.edit_rig(maker.workspace, ACTORS[0], rig_of[used.frame], RigEdit(reference_material_id=materials["Hollin", "Everyday", "amber"]))
    winter = _earlier_pulls(maker, now - timedelta(days=39), materials, used, "Hooks of last winter", "Which of two filaments do we start from?")
    question = "Do hooks from new spools hold as much as those of last winter?"
    again = _earlier_pulls(maker, now - timedelta(days=33), materials, used, "Hooks before the frost", question)
    board.set_reference(maker.workspace, ACTORS[0], again.id, winter.arms[0].id, listing.get_study(maker.workspace, again.id).revision)
    _two_pendulums(maker, now, materials, small)


def _earlier_pulls(maker: Maker, at: datetime, materials: Materials, used: Rigs, title: str, question: str) -> StudyView:
    """An earlier study on the pull frame, of what is still the reference."""
    pulled = {materials["Hollin", "Everyday", "amber"]: Behaviour(3150, 55.8, 3.0), materials["Fenwick", "Outdoor", "moss"]: Behaviour(1900, 44.0, 2.8, 0.03)}
    maker.clock.now = at
    arms = [NewArm(id=maker.id(), material_id=m) for m in pulled]
    plan = NewStudy(
        id=maker.id(), title=title, question=question, arms=arms,
        tests=[NewTest(id=maker.id(), orientation="flat", replicates=5)], settings=_SETTINGS,
    )  # fmt: skip
    study = planning.create_study(maker.workspace, ACTORS[0], plan)[0]
    for i, arm in enumerate(study.arms):
        maker.clock.now = at + timedelta(hours=12 + 2 * i)
        batches.print_batch(maker.workspace, ACTORS[0], NewBatch(id=maker.id(), arm_id=arm.id, printed_at=maker.clock.now))
    (test,) = study.tests
    for i, item in enumerate(queue.queue(maker.workspace, test.id, "demo", blind=False).items):
        assert item.arm is not None
        maker.clock.now = at + timedelta(days=2, minutes=4 * i)
        pull_one(maker, test, item.specimen_id, Told(rig=used.frame, behaviour=pulled[item.arm.material.id], by_hand=False), i)
    return study


def _two_pendulums(maker: Maker, now: datetime, materials: Materials, small: str) -> None:
    maker.clock.now = now - timedelta(days=12.97)
    angle = NewChannel(name="angle", dimension="angle", unit="°", step=0.1, low=0, high=180)
    length = NewChannel(name="length", dimension="length", unit="mm", step=0.01, low=0, high=150)
    geometry = {"hammer_mass": LARGE[1], "radius": LARGE[2], "release_angle": _RELEASED, "loss": LARGE[3], "span": 62.0}
    new = NewRig(id=maker.id(), version_id=maker.id(), name=LARGE[0], methods=["impact"], channels=[angle, length], geometry=geometry)
    large = rigs.add_rig(maker.workspace, ACTORS[0], new)[0]
    with maker.workspace.read() as session:
        small_rig = session.get_one(RigVersion, small).rig_id
    energies = {materials[m]: kj for m, kj in (_BRITTLE | _TOUGH).items()}
    tough = {materials[m] for m in _TOUGH}
    arms = [NewArm(id=maker.id(), material_id=m, rig_id=rig) for m in energies for rig in (small_rig, large.rig_id)]
    plan = NewStudy(
        id=maker.id(), title="Two pendulums on ten filaments", question="Can results of the large pendulum be held against those of the small one?", arms=arms,
        studied_factor="rig", crosses_materials=True, tests=[NewTest(id=maker.id(), method="impact", orientation="flat", replicates=3)], settings=_SETTINGS,
    )  # fmt: skip
    study = planning.create_study(maker.workspace, ACTORS[0], plan)[0]
    for i, arm in enumerate(study.arms):
        maker.clock.now = now - timedelta(days=12.5) + timedelta(minutes=40 * i)
        batches.print_batch(maker.workspace, ACTORS[i % 2], NewBatch(id=maker.id(), arm_id=arm.id, printed_at=maker.clock.now))
    rig_of = {a.id: (SMALL, small, a.material.id) if i % 2 == 0 else (LARGE, large.id, a.material.id) for i, a in enumerate(study.arms)}
    (test,) = study.tests
    for i, item in enumerate(queue.queue(maker.workspace, test.id, "demo", blind=False).items):
        assert item.arm is not None
        maker.clock.now = now - timedelta(days=11.5) + timedelta(minutes=4 * i)
        hammer, version, material = rig_of[item.arm.id]
        drag = _DRAGGED if material in tough and version == large.id else 1.0
        energy = energies[material] * drag * (1 + 0.04 * float(maker.noise.standard_normal()))
        rise = _rise(energy * 8.0 * 4.05 / 1e3, *hammer[1:])
        typed = (("width_under_notch", "8.00"), ("thickness", "4.05"), ("rise_angle", f"{rise:.1f}" if hammer is LARGE else f"{round(2 * rise) / 2:.1f}"))
        readings = [NewReading(id=maker.id(), field=field, position=0, raw=raw) for field, raw in typed]
        entry = NewRun(
            id=maker.id(), subject_id=item.specimen_id, test_id=test.id, rig_version_id=version, happened_at=maker.clock.now, readings=readings,
            outcome="hinge" if material in tough else "complete",
        )  # fmt: skip
        runs.accept(maker.workspace, ACTORS[0], entry)
    _accept_brittle(maker, large.rig_id, small_rig)


def _rise(energy: float, mass: float, radius: float, loss: float) -> float:
    """The angle to which a hammer swings on after a blow took an energy in J."""
    return math.degrees(math.acos(math.cos(math.radians(_RELEASED)) + (energy + loss) / (mass * 9.80665 * radius)))


def _accept_brittle(maker: Maker, large: str, small: str) -> None:
    """Of what breaks completely the large pendulum's results are converted to the small one."""
    maker.clock.now += timedelta(hours=1)
    compared = rig_pairs.compare_rigs(maker.workspace, large, small)
    for c in compared.comparisons:
        if c.end.startswith("complete") and c.line is not None and not c.reason:
            new = NewConversion(id=maker.id(), key=c.key, slope=c.line.slope, note="six filaments that break completely")
            rig_decisions.accept_conversion(maker.workspace, ACTORS[0], large, small, new)
