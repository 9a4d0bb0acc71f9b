"""Cost grows with what is looked at: the questions of the demo's pages, before and after forty more years of it are stored."""

from __future__ import annotations

import json
import shutil
import tempfile
import time
from datetime import UTC, datetime
from pathlib import Path

import numpy as np
from benchmarks.measuring import report
from fastapi.testclient import TestClient
from tests.api.demo_questions import Question
from tests.api.years import asked_of, multiply

from assayer.api.app import create_app
from assayer.cli.serving import settle_memory
from assayer.demo.scenario import make_demo
from assayer.services.unit import Workspace

COPIES = 40
Times = dict[str, tuple[float, int]]
"""Of each question, seconds and bytes of the answer."""


def timed_answers(folder: Path, asked: list[Question] | None = None) -> tuple[list[Question], Times]:
    workspace = Workspace(folder, durable=False)
    with TestClient(create_app(workspace), base_url="http://127.0.0.1") as client:
        asked = asked or asked_of(client, workspace)
        for _, verb, path, body in asked:
            client.request(verb, path, json=body)
        settle_memory()
        found: Times = {}
        for _, verb, path, body in asked:
            taken = []
            for _ in range(3):
                start = time.perf_counter()
                answer = client.request(verb, path, json=body)
                taken.append(time.perf_counter() - start)
            found[f"{verb} {path} {json.dumps(body)}"] = sorted(taken)[1], len(answer.content)
    workspace.close()
    return asked, found


def bench_growth() -> None:
    """Answers that say no more than before, and all of them."""
    with tempfile.TemporaryDirectory() as folder:
        small, large = Path(folder) / "small", Path(folder) / "large"
        make_demo(small, datetime.now(UTC))
        asked, before = timed_answers(small)
        shutil.copytree(small, large)
        multiply(large / "assayer.db", COPIES)
        _, after = timed_answers(large, asked)
    same = [q for q in before if after[q][1] < 1.3 * before[q][1]]
    ratio = sum(after[q][0] for q in same) / sum(before[q][0] for q in same)
    slowest = max(same, key=lambda q: after[q][0] / before[q][0] if after[q][0] > 0.02 else 0.0)
    told = f"most: {slowest[:60]} {before[slowest][0] * 1e3:.0f} → {after[slowest][0] * 1e3:.0f} ms"
    report(f"{len(same)} answers that say the same, {COPIES} times as much stored", ratio, 1.5, "×", told)
    times = sorted((seconds for seconds, _ in after.values()), reverse=True)
    report(
        f"all {len(after)} questions of the pages with that much stored, p95", float(np.quantile(times, 0.95)) * 1e3, 50, "ms", f"longest {times[0] * 1e3:.0f}"
    )
