"""A part of the co-operative's own, with its places, printed of two materials and loaded until it gave way."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping
from datetime import datetime, timedelta

from assayer.core.shapes.solids import Solid, meshed, prism
from assayer.demo.maker import ACTORS, Maker
from assayer.formats.solids.mesh_file import write_solid
from assayer.services.bench import queue, runs
from assayer.services.bench.requests import NewReading, NewRun
from assayer.services.parts import parts
from assayer.services.parts.requests import PartEdit, PlaceIn
from assayer.services.printing import batches
from assayer.services.printing.requests import NewBatch
from assayer.services.rigs import rigs
from assayer.services.rigs.requests import NewChannel, NewRig
from assayer.services.studies import planning
from assayer.services.studies.requests import NewArm, NewStudy, NewTest

_BEARS = (("Hollin", "Everyday", "amber", 286.0, 61.0), ("Tarn", "Clearwater CF", "black", 342.0, 96.0))
"""Of each material: N at which a hook gives way, and its stiffness in N/mm."""
_LOAD = 100.0


def hook() -> Solid:
    """A hook that hangs a frame between two rails: a plate with a bore, an arm and a lip."""
    outline = [(0, 0), (46, 0), (46, 14), (39, 14), (39, 8), (16, 8), (16, 34), (0, 34)]
    return meshed(prism(outline, 8.0, [(8.0, 27.0, 5.2), (8.0, 14.0, 5.2)]))


def use_parts(maker: Maker, now: datetime, found: Mapping[tuple[str, str, str], str]) -> None:
    """Take in the hook, say where it is measured, loaded and graded; print six, load two of each."""
    part_id, strap = _take_in(maker, now), _strap(maker, now)
    begin = now - timedelta(days=13.2)
    maker.clock.now = begin
    arms = [NewArm(id=maker.id(), material_id=found[maker_, product, colour]) for maker_, product, colour, _, _ in _BEARS]
    tests = [NewTest(id=maker.id(), method="functional-part", orientation="flat", shape=part_id, replicates=3)]
    told = NewStudy(
        id=maker.id(), title="Hooks for the frame rails", question="Does the filled blend make a hook that bears more, gram for gram?", arms=arms, tests=tests,
        settings="0.2 mm layers, 4 perimeters, 40 % infill",
    )  # fmt: skip
    study = planning.create_study(maker.workspace, ACTORS[1], told)[0]
    for i, arm in enumerate(study.arms):
        maker.clock.now = begin + timedelta(days=1, hours=3 * i)
        batches.print_batch(maker.workspace, ACTORS[0], NewBatch(id=maker.id(), arm_id=arm.id, printed_at=maker.clock.now, minutes=96))
    bears = {arm.id: (force, stiffness) for arm, (*_, force, stiffness) in zip(study.arms, _BEARS, strict=True)}
    loaded: Counter[str] = Counter()
    for i, item in enumerate(queue.queue(maker.workspace, study.tests[0].id, "demo", blind=False).items):
        assert item.arm is not None
        loaded[item.arm.id] += 1
        if loaded[item.arm.id] > 2:
            continue
        maker.clock.now = begin + timedelta(days=2, minutes=6 * i)
        force, stiffness = (v * (1 + 0.05 * float(maker.noise.standard_normal())) for v in bears[item.arm.id])
        gave = _LOAD / stiffness
        typed = {
            "peak_force": f"{force:.0f}", "load": f"{_LOAD:.0f}", "deflection": f"{gave:.2f}", "residual": f"{0.06 * gave:.2f}",
            "mass": f"{9.2 + 0.05 * float(maker.noise.standard_normal()):.1f}", "print_time": "32 min",
        }  # fmt: skip
        readings = [NewReading(id=maker.id(), field=name, raw=raw) for name, raw in typed.items()]
        new = NewRun(
            id=maker.id(), subject_id=item.specimen_id, test_id=study.tests[0].id, rig_version_id=strap, happened_at=maker.clock.now, readings=readings,
            outcome="broke",
        )  # fmt: skip
        runs.accept(maker.workspace, ACTORS[0], new)


def _take_in(maker: Maker, now: datetime) -> str:
    maker.clock.now = now - timedelta(days=14)
    data = write_solid(hook(), "3mf", "rail hook")
    part, _ = parts.add_part(maker.workspace, ACTORS[0], maker.id(), "rail_hook_3.3mf", data, "Rail hook")
    told = [
        PlaceIn(id=maker.id(), kind="measure", label="bore", view="top", u=-15.0, v=10.0, nominal=5.2),
        PlaceIn(id=maker.id(), kind="load", label="frame hangs here", view="top", u=9.0, v=-9.0),
        PlaceIn(id=maker.id(), kind="measure", label="lip", view="front", u=19.5, v=4.0, nominal=7.0),
        PlaceIn(id=maker.id(), kind="grade", label="inner corner", view="top", u=-7.0, v=-9.0),
    ]
    return parts.edit_part(maker.workspace, ACTORS[0], part.id, PartEdit(places=told, note="third version, with the second bore"), part.revision).id


def _strap(maker: Maker, now: datetime) -> str:
    maker.clock.now = now - timedelta(days=40)
    channels = [
        NewChannel(name="force", dimension="force", unit="N", step=1, low=0, high=600),
        NewChannel(name="length", dimension="length", unit="mm", decimals=0, step=0.01, low=0, high=50),
        NewChannel(name="mass", dimension="mass", unit="g", decimals=0, step=0.1, low=0, high=500),
    ]
    new = NewRig(
        id=maker.id(), version_id=maker.id(), name="Bucket on a strap", methods=["functional-part"], channels=channels, note="sand let into a bucket, weighed"
    )
    return rigs.add_rig(maker.workspace, ACTORS[0], new)[0].id
