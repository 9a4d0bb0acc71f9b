"""A study of 40 arms × 12 tests beside five earlier studies: findings opened, tests switched, doubts, all tests side by side.

Beside each time stands that of a study of 4 arms and one test in the same notebook: no more than the arms, or cells, that are looked at.
"""

from __future__ import annotations

import random
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from benchmarks.measuring import report
from fastapi.testclient import TestClient
from tests.support import ACTOR, material, new_id, printed, rig, run

from assayer.api.app import create_app
from assayer.core.methods import method
from assayer.services.bench import queue, runs
from assayer.services.rigs import rigs
from assayer.services.stock import materials
from assayer.services.studies import planning
from assayer.services.studies.requests import NewArm, NewStudy, NewTest
from assayer.services.studies.views import StudyView
from assayer.services.unit import Workspace

ARMS, TESTS, OF_EACH, EARLIER = 40, 12, 5, 5


def make_study(workspace: Workspace, ids: list[str], tests: list[NewTest], rig_id: str, title: str) -> StudyView:
    """Printed and pulled to the end, with 5 % of scatter."""
    rng = random.Random(title)
    arms = [NewArm(id=new_id(), material_id=key) for key in ids]
    study = printed(workspace, planning.create_study(workspace, ACTOR, NewStudy(id=new_id(), title=title, arms=arms, tests=tests))[0])
    for test in study.tests:
        width, thickness = (next(s for s in method("tension").shapes if s.name == test.shape.name).dimensions[side] for side in ("width", "thickness"))
        for item in queue.queue(workspace, test.id, "bench", blind=False).items:
            runs.accept(
                workspace,
                ACTOR,
                run(item.specimen_id, test.id, rig_id, f"{5.1 * width * thickness * rng.gauss(1, 0.05):.1f}", (f"{width}",), (f"{thickness}",)),
            )
    return study


def seconds(ask: Callable[[], object]) -> float:
    taken = []
    for _ in range(3):
        start = time.perf_counter()
        ask()
        taken.append(time.perf_counter() - start)
    return sorted(taken)[1]


def bench_large_study() -> None:
    shapes = [s.name for s in method("tension").shapes]
    with tempfile.TemporaryDirectory() as folder:
        workspace = Workspace(Path(folder), durable=False)
        ids = []
        for i in range(ARMS):
            m = material(f"No {i}", polymer="blend")
            materials.add_material(workspace, ACTOR, m)
            ids.append(m.id)
        rig_id = rigs.add_rig(workspace, ACTOR, rig())[0].id
        kinds = [(shape, orientation) for orientation in ("flat", "on edge") for shape in shapes][:TESTS]
        tests = [NewTest(id=new_id(), orientation=o, shape=s, replicates=OF_EACH) for s, o in kinds]
        for i in range(EARLIER):
            make_study(workspace, ids, [NewTest(id=new_id(), orientation="flat", replicates=3)], rig_id, f"earlier {i}")
        small = make_study(workspace, ids[:4], [NewTest(id=new_id(), orientation="flat", replicates=OF_EACH) for _ in range(1)], rig_id, "small")
        large = make_study(workspace, ids, tests, rig_id, "large")
        with TestClient(create_app(workspace), base_url="http://127.0.0.1") as client:
            first, second = large.tests[:2]
            for words, path, of_small, bound in (
                ("findings of a test", f"tests/{first.id}/findings", f"tests/{small.tests[0].id}/findings", ARMS / 4),
                ("another test", f"tests/{second.id}/findings", f"tests/{small.tests[0].id}/findings", ARMS / 4),
                ("its doubts", f"studies/{large.id}/doubts?test={first.id}", f"studies/{small.id}/doubts?test={small.tests[0].id}", ARMS / 4),
                ("across tests", f"studies/{large.id}/across", f"studies/{small.id}/across", ARMS * TESTS / 4),
            ):
                ours, theirs = (
                    seconds(lambda p=path: client.get(f"/api/{p}").raise_for_status()),
                    seconds(lambda p=of_small: client.get(f"/api/{p}").raise_for_status()),
                )
                report(
                    f"{ARMS} arms × {TESTS} tests, {EARLIER} earlier studies: {words}",
                    ours / theirs,
                    bound,
                    "×",
                    f"{1e3 * ours:.0f} ms against {1e3 * theirs:.0f} ms",
                )
        workspace.close()


if __name__ == "__main__":
    bench_large_study()
