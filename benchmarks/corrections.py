"""A calibration that is corrected when 2,400 runs were read with it: how long it takes, and how long of that others wait to write."""

from __future__ import annotations

import tempfile
import time
from datetime import timedelta
from pathlib import Path
from typing import Any

from benchmarks.measuring import report
from benchmarks.plans import new_id, plan, turns_of_writing
from sqlalchemy import Row, insert, select

from assayer.services.bench import recompute, runs
from assayer.services.bench.requests import NewReading, NewRun
from assayer.services.printing import batches
from assayer.services.printing.requests import NewBatch
from assayer.services.rigs import rigs
from assayer.services.rigs.requests import CalibrationEdit, NewCalibration, NewChannel, NewRig
from assayer.services.stock import materials
from assayer.services.stock.requests import NewMaterial
from assayer.services.studies import planning
from assayer.services.unit import Actor, Workspace
from assayer.store.models import Reading, Run, Slot, Specimen

ACTOR = Actor("bench")
READINGS = {"width": ("5.01", "5.02", "5.01"), "thickness": ("3.98", "3.99", "3.98"), "peak_force": ("812.4",)}


def bench_corrections() -> None:
    with tempfile.TemporaryDirectory() as folder:
        workspace = Workspace(Path(folder) / "data")
        rig = pulled(workspace)
        now = workspace.clock()
        told = NewCalibration(id=new_id(), channel="force", factor=1.01, valid_from=now - timedelta(days=9))
        recompute.calibrate(workspace, ACTOR, rig, told)
        turns = turns_of_writing(workspace)
        start = time.perf_counter()
        moved = recompute.correct_calibration(workspace, ACTOR, told.id, CalibrationEdit(factor=1.02), 1)
        whole = time.perf_counter() - start
        assert moved.runs == len({m.code for m in moved.moved}) == 2400
        report("a calibration of 2,400 runs is corrected, its turn of writing", max(turns), 1.0, "s", f"of {whole:.1f} s in all")
        workspace.close()


def pulled(workspace: Workspace) -> str:
    """40 materials × 12 tests × 5, each pulled on one rig: its version."""
    for i in range(40):
        materials.add_material(workspace, ACTOR, NewMaterial(id=new_id(), maker=f"M{i}", product="p", polymer="PLA", colour="grey", hex="#888888"))
    channels = [NewChannel(name=n, dimension=n, unit=u, step=s) for n, u, s in (("force", "N", 0.1), ("length", "mm", 0.01))]
    rig = rigs.add_rig(workspace, ACTOR, NewRig(id=new_id(), version_id=new_id(), name="r", methods=["tension"], channels=channels))[0].id
    study = planning.create_study(workspace, ACTOR, plan([m.id for m in materials.list_materials(workspace, 100, 0).items]))[0]
    for arm in study.arms:
        batches.print_batch(workspace, ACTOR, NewBatch(id=new_id(), arm_id=arm.id, printed_at=workspace.clock()))
    with workspace.read() as session:
        rows = session.execute(select(Specimen.id, Slot.test_id).join(Slot, Slot.id == Specimen.slot_id)).all()
    first = rows[0]
    at = workspace.clock()
    readings = [NewReading(id=new_id(), field=f, position=i, raw=raw, happened_at=at) for f, raws in READINGS.items() for i, raw in enumerate(raws)]
    new = NewRun(
        id=new_id(), subject_kind="specimen", subject_id=first[0], test_id=first[1], rig_version_id=rig, outcome="gauge", happened_at=at, readings=readings
    )
    runs.accept(workspace, ACTOR, new)
    alike(workspace, new.id, list(rows[1:]))
    return rig


def alike(workspace: Workspace, run_id: str, others: list[Row[Any]]) -> None:
    """The same entry for every other specimen, put in at once: entering each would take a minute."""
    with workspace.write(ACTOR) as unit:
        run = dict(unit.session.execute(select(Run.__table__).where(Run.id == run_id)).mappings().one())
        read = [dict(r) for r in unit.session.execute(select(Reading.__table__).where(Reading.run_id == run_id)).mappings()]
        entered, kept = [], []
        for specimen, test in others:
            key = new_id()
            entered.append(run | {"id": key, "subject_id": specimen, "specimen_id": specimen, "test_id": test})
            kept += [{k: v for k, v in r.items() if k != "seq"} | {"id": new_id(), "run_id": key} for r in read]
        unit.session.execute(insert(Run.__table__), entered)
        unit.session.execute(insert(Reading.__table__), kept)


if __name__ == "__main__":
    bench_corrections()
