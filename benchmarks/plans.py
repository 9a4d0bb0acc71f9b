"""The largest plan: 40 arms, 12 tests, 5 of each: made, laid out on plates, saved, read; how long it keeps others from writing."""

from __future__ import annotations

import statistics
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path

from benchmarks.measuring import report, timed
from sqlalchemy.orm import Session

from assayer.core.ids import uuid7
from assayer.services.printing import plate_files, plates, printers
from assayer.services.printing.requests import NewPlates, NewPrinter
from assayer.services.stock import materials
from assayer.services.stock.requests import NewMaterial
from assayer.services.studies import planning
from assayer.services.studies.requests import NewArm, NewStudy, NewTest
from assayer.services.unit import Actor, Workspace

SHAPES = ("short-pull-bar", "short-pull-bar-4", "dumb-bell-1ba", "d638-v")


def new_id() -> str:
    return str(uuid7(datetime.now(UTC)))


def plan(ids: list[str]) -> NewStudy:
    """The largest that is planned."""
    tests = [NewTest(id=new_id(), orientation=o, shape=s) for s in SHAPES for o in ("flat", "on edge", "upright")]
    return NewStudy(id=new_id(), title="large", arms=[NewArm(id=new_id(), material_id=m) for m in ids], tests=tests)


def bench_plans() -> None:
    """Making, laying out and saving; each turn of writing in it; reading it again."""
    with tempfile.TemporaryDirectory() as folder:
        workspace = Workspace(Path(folder) / "data")
        actor = Actor("bench")
        ids = [new_id() for _ in range(40)]
        for i, key in enumerate(ids):
            new = NewMaterial(id=key, maker=f"M{i}", product="p", polymer="PLA", colour="grey", hex="#888888", density=1.24)
            materials.add_material(workspace, actor, new)
        printer = printers.add_printer(workspace, actor, NewPrinter(id=new_id(), name="bed", build_x=250, build_y=220, build_z=250))[0].id
        (seconds,) = timed(lambda: planning.create_study(workspace, actor, plan(ids)), repeat=9)
        report("a study of 40 × 12 × 5 is made, its turn of writing in it", seconds, 0.3, "s")
        made, turns = [], turns_of_writing(workspace)
        for _ in range(5):
            start = time.perf_counter()
            study = planning.create_study(workspace, actor, plan(ids))[0]
            laid = plates.lay_plates(workspace, actor, study.id, NewPlates(printer_id=printer))
            made.append(time.perf_counter() - start)
        report(f"… made, laid out on {len(laid.plates)} plates and saved", statistics.median(made), 3, "s", f"the first {made[0]:.2f} s")
        report("the longest turn of writing in that", max(turns), 0.3, "s")
        (seconds,) = timed(lambda: plates.plates_of(workspace, study.id), repeat=9)
        report("its plates are read again", seconds, 0.05, "s")
        (seconds,) = timed(lambda: plate_files.plates_file(workspace, study.id), repeat=3)
        report("all its plates as one file", seconds, 3, "s")
        workspace.close()


def turns_of_writing(workspace: Workspace) -> list[float]:
    """How long each turn of writing lasts from now on."""
    turns: list[float] = []
    write = workspace.db.write

    @contextmanager
    def timed_write() -> Iterator[Session]:
        with write() as session:
            start = time.perf_counter()
            yield session
        turns.append(time.perf_counter() - start)

    workspace.db.write = timed_write  # type: ignore[method-assign]
    return turns
