"""A thousand recordings of two thousand rows, dropped at once: read, kept durably and matched, against one by one."""

from __future__ import annotations

import tempfile
import time
from datetime import UTC, datetime
from pathlib import Path

import numpy as np
from benchmarks.measuring import report
from tests.support import ACTOR, Lab, jack, new_id

from assayer.core.ids import uuid7
from assayer.services.bench import curves
from assayer.services.bench.many import SentFile, take_in_many
from assayer.services.studies.requests import NewTest
from assayer.services.unit import Workspace

FILES, ROWS, BUNDLE, BOUND = 1000, 2000, 40, 5.0


def _file(number: int) -> SentFile:
    travel = np.linspace(0, 4, ROWS)
    force = np.minimum(900.0 * travel, 900.0 + number)
    force[-40:] = 0.4
    rows = "\n".join(f"{i * 0.01:.2f};{t:.4f};{f:.3f}" for i, (t, f) in enumerate(zip(travel, force, strict=True)))
    return SentFile(str(uuid7(datetime.now(UTC))), f"pull {number}.csv", f"Time [s];Travel [mm];Force [N]\n{rows}\n".encode())


def bench_many_files() -> None:
    """Seconds for 1,000 files at the server, in bundles as the browser sends them, with every file on the disk; and of 50 one by one."""
    files = [_file(i) for i in range(FILES)]
    single = [_file(i) for i in range(FILES, FILES + 50)]
    with tempfile.TemporaryDirectory() as folder:
        workspace = Workspace(Path(folder))
        try:
            lab = Lab(workspace, [NewTest(id=new_id(), orientation="flat", replicates=50)])
            frame = jack(workspace)
            begin = time.perf_counter()
            for f in single:
                curves.take_in(workspace, ACTOR, f.id, frame.id, f.name, f.data)
            alone = (time.perf_counter() - begin) / len(single)
            begin = time.perf_counter()
            taken: list[str] = []
            for at in range(0, FILES, BUNDLE):
                found = take_in_many(workspace, ACTOR, lab.tests[0], frame.id, files[at : at + BUNDLE], taken)
                taken += [r.specimen_id for r in found.items if r.specimen_id is not None]
            together = time.perf_counter() - begin
        finally:
            workspace.close()
    report(f"{FILES:,} files of {ROWS:,} rows taken in together", together, BOUND, "s")
    report("  one of them, against one by one", together / FILES / alone, 1.0, "×")


if __name__ == "__main__":
    bench_many_files()
