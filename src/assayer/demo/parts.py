"""A part of the co-operative's own, with its places, printed of two materials and pulled until it releases: new, and after 200 closings."""

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
from assayer.services.printing import batches, judging
from assayer.services.printing.requests import NewBatch, Treated
from assayer.services.rigs import rigs
from assayer.services.rigs.requests import NewChannel, NewRig
from assayer.services.studies import planning
from assayer.services.studies.requests import NewArm, NewStudy, NewTest

_CLOSINGS = "200 closings on a jar"
_RELEASES = (
    ("Tarn", "Clearwater", "smoke", "", 41.0, 9.8), ("Tarn", "Clearwater", "smoke", _CLOSINGS, 37.5, 9.4),
    ("Hollin", "Everyday", "amber", "", 58.0, 14.6), ("Hollin", "Everyday", "amber", _CLOSINGS, 39.0, 12.9),
)  # fmt: skip
"""Of each material as printed and closed 200 times: N at which a clamp releases its lid, and its stiffness in N/mm."""
_LOAD = 20.0


def lid_clamp() -> Solid:
    """A clamp that holds a lid on a jar: two sprung arms with a lip each, and a tab with a bore to pull it by."""
    arms = [(0, 0), (34, 0), (34, 7), (30, 8), (30, 4), (5, 4), (5, 26), (30, 26), (30, 22), (34, 23), (34, 30), (0, 30)]
    return meshed(prism([*arms, (0, 20), (-12, 20), (-12, 10), (0, 10)], 8.0, [(-6.0, 15.0, 5.2)]))


def use_parts(maker: Maker, now: datetime, found: Mapping[tuple[str, str, str], str]) -> None:
    """Take in the clamp, say where it is measured, pulled and graded; print, close half of them 200 times, pull all but the last of each."""
    part_id, balance = _take_in(maker, now), _luggage_balance(maker, now)
    begin = now - timedelta(days=13.2)
    maker.clock.now = begin
    arms = [NewArm(id=maker.id(), material_id=found[maker_, product, colour], treatment=how) for maker_, product, colour, how, _, _ in _RELEASES]
    tests = [NewTest(id=maker.id(), method="functional-part", orientation="flat", shape=part_id, replicates=5)]
    told = NewStudy(
        id=maker.id(), title="Lid clamps for honey jars", question="Which clamp still holds its lid after 200 closings?", studied_factor="treatment",
        crosses_materials=True,
        arms=arms, tests=tests, settings="0.2 mm layers, 4 perimeters, 40 % infill",
    )  # fmt: skip
    study = planning.create_study(maker.workspace, ACTORS[1], told)[0]
    for i, arm in enumerate(study.arms):
        maker.clock.now = begin + timedelta(days=1, hours=3 * i)
        printed = batches.print_batch(maker.workspace, ACTORS[0], NewBatch(id=maker.id(), arm_id=arm.id, printed_at=maker.clock.now, minutes=96))[0]
        if arm.treatment:
            maker.clock.now = begin + timedelta(days=1, hours=20 + i)
            judging.treat_batch(maker.workspace, ACTORS[1], printed.id, Treated(at=maker.clock.now))
    behaves = {arm.id: (force, stiffness) for arm, (*_, force, stiffness) in zip(study.arms, _RELEASES, strict=True)}
    pulled: Counter[str] = Counter()
    for i, item in enumerate(queue.queue(maker.workspace, study.tests[0].id, "demo", blind=False).items):
        assert item.arm is not None
        pulled[item.arm.id] += 1
        if pulled[item.arm.id] > 4:
            continue
        maker.clock.now = begin + timedelta(days=2, minutes=6 * i)
        force, stiffness = (v * (1 + 0.05 * float(maker.noise.standard_normal())) for v in behaves[item.arm.id])
        opened = _LOAD / stiffness
        typed = {
            "peak_force": f"{force:.1f}", "load": f"{_LOAD:.0f}", "deflection": f"{opened:.2f}", "residual": f"{0.04 * opened:.2f}",
            "mass": f"{4.6 + 0.05 * float(maker.noise.standard_normal()):.1f}", "print_time": "19 min",
        }  # fmt: skip
        readings = [NewReading(id=maker.id(), field=name, raw=raw) for name, raw in typed.items()]
        new = NewRun(
            id=maker.id(), subject_id=item.specimen_id, test_id=study.tests[0].id, rig_version_id=balance, happened_at=maker.clock.now, readings=readings,
            outcome="released",
        )  # fmt: skip
        runs.accept(maker.workspace, ACTORS[0], new)


def _take_in(maker: Maker, now: datetime) -> str:
    maker.clock.now = now - timedelta(days=14)
    data = write_solid(lid_clamp(), "3mf", "lid clamp")
    part, _ = parts.add_part(maker.workspace, ACTORS[0], maker.id(), "lid_clamp_3.3mf", data, "Lid clamp")
    told = [
        PlaceIn(id=maker.id(), kind="measure", label="mouth", view="top", u=21.0, v=0.0, nominal=14.0),
        PlaceIn(id=maker.id(), kind="load", label="pulled here", view="top", u=-17.0, v=0.0),
        PlaceIn(id=maker.id(), kind="measure", label="arm", view="front", u=19.5, v=4.0, nominal=8.0),
        PlaceIn(id=maker.id(), kind="grade", label="inner corner", view="top", u=-6.0, v=-11.0),
    ]
    return parts.edit_part(maker.workspace, ACTORS[0], part.id, PartEdit(places=told, note="third version, with longer lips"), part.revision).id


def _luggage_balance(maker: Maker, now: datetime) -> str:
    maker.clock.now = now - timedelta(days=40)
    channels = [
        NewChannel(name="force", dimension="force", unit="N", step=0.1, low=0, high=500),
        NewChannel(name="length", dimension="length", unit="mm", decimals=0, step=0.01, low=0, high=50),
        NewChannel(name="mass", dimension="mass", unit="g", decimals=0, step=0.1, low=0, high=500),
    ]
    new = NewRig(
        id=maker.id(), version_id=maker.id(), name="Luggage balance", methods=["functional-part"], channels=channels, note="pulled by hand, greatest value held"
    )
    return rigs.add_rig(maker.workspace, ACTORS[0], new)[0].id
