"""Speed, as ratios within one run where that is possible: `make bench`. Nothing here is asserted in tests.

Each figure is the median of several repetitions, ours and the comparison taken in turn, since the machines
are shared and noisy.
"""

from __future__ import annotations

import gzip
import os
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from datetime import UTC, datetime
from pathlib import Path

import numpy as np
import pandas as pd
from fastapi.testclient import TestClient
from sqlalchemy import insert

sys.path.insert(0, str(Path(__file__).parents[1]))

from benchmarks.corrections import bench_corrections
from benchmarks.dial_in import bench_gcode, bench_trail
from benchmarks.growth import bench_growth
from benchmarks.large_study import bench_large_study
from benchmarks.many_files import bench_many_files
from benchmarks.measuring import report, timed
from benchmarks.plans import bench_plans, new_id, plan
from tests.browser.walk import Server

from assayer.api.app import create_app
from assayer.cli.serving import settle_memory
from assayer.core.codes import SYMBOLS, with_check
from assayer.demo.scenario import make_demo
from assayer.services.printing import batches
from assayer.services.printing.requests import NewBatch
from assayer.services.rigs import rigs
from assayer.services.rigs.requests import NewChannel, NewRig
from assayer.services.stock import lists, materials
from assayer.services.stock.requests import ImportText, NewMaterial
from assayer.services.studies import board, planning
from assayer.services.studies.views import StudyView
from assayer.services.unit import Actor, Workspace
from assayer.store.models import FilamentUse, Material, Result, Run, Slot, Specimen, Spool, StorageMove, Weighing

ROOT = Path(__file__).parents[1]
CURVES = ROOT / "tests/data/curves"


def plain_reduction(force: np.ndarray, travel: np.ndarray, area: float, gauge: float) -> dict[str, float]:
    """What a careful person writes with NumPy for METHODS 1: tare, break, toe line, modulus, yield, energy."""
    force = force - force[0]
    peak = force.max()
    crossing = np.flatnonzero(force >= 0.4 * peak)[-1] + 1
    tail = force[crossing + 1 :]
    force = force - np.median(tail if tail.size >= 10 else force[:1])
    strain = travel / gauge
    peak = force.max()
    row = np.flatnonzero(force >= 0.4 * peak)[-1] + 1
    while row > 0:
        start = min(row - 1, int(np.searchsorted(strain, strain[row] - 0.0005)))
        if force[row] >= force[start:row].max() - 0.01 * peak:
            break
        row -= 1
    stress = force / area
    strength = stress.max()
    top = int(np.argmax(stress >= 0.5 * strength))
    low = int(np.argmax(stress >= 0.05 * strength))
    steepest, zero = 0.0, 0.0
    for i in range(low, top):
        j = max(i + 5, int(np.searchsorted(stress[: top + 1], stress[i] + 0.15 * strength)))
        if j > top:
            break
        slope, intercept = np.polyfit(strain[i : j + 1], stress[i : j + 1], 1)
        if slope > steepest:
            steepest, zero = slope, -intercept / slope
    strain = strain - zero
    window = (strain >= 0.0005) & (strain <= 0.0025)
    modulus = np.polyfit(strain[window], stress[window], 1)[0]
    upto = slice(int(np.argmax(strain > 0)), row + 1)
    return {"strength": strength, "modulus": modulus, "break": strain[row], "energy": float(np.trapezoid(stress[upto], strain[upto]))}


def simple_reduction(force: np.ndarray, travel: np.ndarray, area: float, gauge: float) -> dict[str, float]:
    """The least that gives the numbers: no toe line, break at the last row above 40 %."""
    force = force - np.median(force[-20:])
    stress, strain = force / area, travel / gauge
    row = np.flatnonzero(force >= 0.4 * force.max())[-1]
    window = (strain >= 0.0005) & (strain <= 0.0025)
    modulus = np.polyfit(strain[window], stress[window], 1)[0]
    return {"strength": stress.max(), "modulus": modulus, "break": strain[row], "energy": float(np.trapezoid(stress[: row + 1], strain[: row + 1]))}


def bench_reduce() -> None:
    from assayer.core.curves.travel import TravelScale
    from assayer.core.methods.tension import Section, reduce_curve
    from assayer.formats.curves.curve_file import read_curve_file

    path = CURVES / "comma_plain.csv"
    section = Section([9.463], [4.083])

    def ours() -> object:
        return reduce_curve(read_curve_file(path).recording, section, TravelScale(50.0))

    def against(reduction: Callable[..., object]) -> Callable[[], object]:
        def run() -> object:
            table = pd.read_csv(path)
            return reduction(table["Force (N)"].to_numpy(), table["Extension (mm)"].to_numpy(), section.area, 50.0)

        return run

    mine, same, least, read_ours, read_pandas = timed(
        ours, against(plain_reduction), against(simple_reduction), lambda: read_curve_file(path), lambda: pd.read_csv(path), repeat=60
    )
    report(
        "read + reduce 2,087 rows / pandas + the same rules in plain NumPy", mine / same, 1.0, "ratio", f"ours {mine * 1e3:.2f} ms, theirs {same * 1e3:.2f} ms"
    )
    report("  read alone / pandas.read_csv alone", read_ours / read_pandas, 1.0, "ratio", f"{read_ours * 1e3:.2f} / {read_pandas * 1e3:.2f} ms")
    report("  read + reduce / pandas + the least reduction (no toe, no yield)", mine / least, 1.0, "ratio", f"theirs {least * 1e3:.2f} ms")


def bench_statistics() -> None:
    from scipy import stats

    from assayer.core.stats import studentized_range
    from assayer.core.stats.groups import summarise
    from assayer.core.stats.several_groups import games_howell

    rng = np.random.default_rng(1)
    groups = {str(i): summarise(rng.normal(40, rng.uniform(1, 4), rng.integers(3, 8)).tolist()) for i in range(40)}

    def cold() -> object:
        studentized_range._range_tail.cache_clear()
        return games_howell(groups)

    (seconds,) = timed(cold, repeat=7)
    start = time.perf_counter()
    stats.studentized_range.sf([3.0] * 10, 40, [5.5 + i for i in range(10)])
    ten = time.perf_counter() - start
    report("Games–Howell, 40 groups, 780 pairs, p and intervals, cold", seconds, 0.3, "s", f"SciPy needs {ten * 78:.1f} s for the 780 p alone")


def bench_ranking() -> None:
    from assayer.core.ranking.estimates import Criterion, Estimate
    from assayer.core.ranking.ranking import RankingDraws

    rng = np.random.default_rng(0)
    names = [f"m{i}" for i in range(100)]
    criteria = [Criterion(f"c{j}", 0, 100) for j in range(8)]
    known = {(n, c.key): Estimate(rng.uniform(20, 90), rng.uniform(0.5, 4), float(rng.integers(2, 8))) for n in names for c in criteria if rng.random() > 0.05}
    held = RankingDraws(names, criteria, known)
    turn = iter(range(10_000))
    first, again = timed(
        lambda: RankingDraws(names, criteria, known).rank({c.key: 1 for c in criteria}),
        lambda: held.rank({c.key: 1 + (next(turn) + i) % 7 for i, c in enumerate(criteria)}),
        repeat=7,
    )
    report("ranking 100 × 8 × 10,000 draws, at first", first, 1.0, "s")
    report("ranking, after a change of weights", again, 0.1, "s")


def codes(count: int) -> list[str]:
    """Valid codes, one after another."""
    return [with_check("".join(SYMBOLS[(n >> (5 * k)) & 31] for k in range(5))) for n in range(1, count + 1)]


def large_study(workspace: Workspace, actor: Actor) -> tuple[StudyView, str]:
    """40 materials × 12 tests × 5, all printed, and a rig to pull them on: the study and the rig's version."""
    for i in range(40):
        materials.add_material(workspace, actor, NewMaterial(id=new_id(), maker=f"M{i}", product="p", polymer="PLA", colour="grey", hex="#888888"))
    channels = [NewChannel(name=n, dimension=n, unit=u, step=0.01) for n, u in (("force", "N"), ("length", "mm"))]
    rig = rigs.add_rig(workspace, actor, NewRig(id=new_id(), version_id=new_id(), name="r", channels=channels))[0].id
    ids = [m.id for m in materials.list_materials(workspace, 100, 0).items]
    study = planning.create_study(workspace, actor, plan(ids))[0]
    for arm in study.arms:
        batches.print_batch(workspace, actor, NewBatch(id=new_id(), arm_id=arm.id, printed_at=workspace.clock()))
    return study, rig


def fill(workspace: Workspace, actor: Actor, first_test: str, rig: str, others: int) -> None:
    """A run and a result for every specimen of the study, and for as many others in no slot of it."""
    rng = np.random.default_rng(2)
    with workspace.write(actor) as unit:
        session = unit.session
        template = session.query(Specimen).first()
        assert template is not None
        batch = {"batch_id": template.batch_id, "shape": "x", "orientation": "flat", "slot_id": None}
        more = [{"id": new_id(), "code": c, "position": 100 + i} | batch for i, c in enumerate(codes(others))]
        session.execute(insert(Specimen), more)
        rows = [(s.id, s.slot_id) for s in session.query(Specimen).filter(Specimen.slot_id.is_not(None))]
        test_of = {s.id: s.test_id for s in session.query(Slot)}
        common = {"happened_at": unit.now, "zone": "UTC", "validity": "counts", "options": {}, "complete": True, "remarks": [], "revision": 1}
        common |= {"subject_kind": "specimen", "procedure_version": "tension-1", "rig_version_id": rig, "operator": "b"}
        fixed = {"subject_kind": "specimen", "unit": "MPa", "bound": "exact", "warnings": [], "reduction_version": 1, "quantity": "strength"}
        runs, results = [], []
        for specimen, slot in [*rows, *((o["id"], None) for o in more)]:
            run_id, test = new_id(), test_of[slot] if slot else first_test
            runs.append({"id": run_id, "subject_id": specimen, "specimen_id": specimen, "test_id": test} | common)
            results.append({"subject_id": specimen, "test_id": test, "run_id": run_id, "value": float(rng.normal(40, 3))} | fixed)
        session.execute(insert(Run), runs)
        session.execute(insert(Result), results)


def bench_board() -> None:
    actor = Actor("bench")
    with tempfile.TemporaryDirectory() as folder:
        workspace = Workspace(Path(folder) / "data", durable=False)
        study, rig = large_study(workspace, actor)
        fill(workspace, actor, study.tests[0].id, rig, 50_000)
        start = time.perf_counter()
        board.board(workspace, study.id)
        print(f"     (all 12 columns of the large board, for the first time: {time.perf_counter() - start:.2f} s)")
        with TestClient(create_app(workspace), base_url="http://127.0.0.1") as client:
            url = f"/api/studies/{study.id}/board"
            times = []
            for _ in range(120):
                start = time.perf_counter()
                answer = client.get(url)
                times.append(time.perf_counter() - start)
            assert answer.status_code == 200
            columns = answer.json()["columns"]
        cells = [cell for c in columns for cell in c["cells"]]
        what = f"board of {len(cells)} cells, {sum(len(c['dots']) for c in cells)} specimens, p95, 50,000 others stored"
        report(what, float(np.quantile(times, 0.95)) * 1e3, 30.0, "ms", f"median {np.median(times) * 1e3:.1f} ms, with the client")
        workspace.close()


def large_stock(workspace: Workspace) -> tuple[list[str], str]:
    """1,000 materials with 2,000 spools, half of them at hand: the materials and one of the spools."""
    polymers = ["PLA", "PETG", "ASA", "PA6", "PP", "TPU", "PC"]
    rng = np.random.default_rng(3)
    rows = ["Maker;Product;Polymer;Filler;Colour;Hex;Density;Price;Net g;Bed;Dry;Note"]
    for i in range(1000):
        filler = "glass fibre" if i % 4 == 0 else ""
        note = "no warping; tensile strength 50 MPa" if i % 2 else ""
        rows.append(f'M{i // 40};P{i // 5};{polymers[i % 7]};{filler};c{i};#888888;1,2;{20 + i % 30} €;1000;60–80;65 °C 8 h;"{note}"')
    start = time.perf_counter()
    done = lists.run_import(workspace, Actor("bench"), ImportText(kind="materials", text="\n".join(rows)))
    assert done.kept == 1000
    print(f"     (taking in a list of 1,000 materials: {time.perf_counter() - start:.2f} s)")
    with workspace.write(Actor("bench")) as unit:
        now, session = unit.now, unit.session
        names = codes(2000)
        ids = list(session.scalars(Material.__table__.select().with_only_columns(Material.id)))
        spools, weighings, uses, moves = [], [], [], []
        entered = {"entered_at": now, "zone": "UTC", "who": "b"}
        for n in range(2000):
            key = new_id()
            words = {"lot": "x", "received_on": "2026-01-01", "note": "", "zone": "UTC", "created_at": now, "revision": 1}
            here = {"decision": "fit" if n % 3 else None, "gone_at": now if n >= 1000 else None}
            spools.append({"id": key, "code": names[n], "material_id": ids[n % 1000], "label_net": 1000, "empty": 200} | here | words)
            weighings.append({"id": new_id(), "spool_id": key, "at": now, "raw": "1200", "gross": 1200, "moment": "intake"} | entered)
            uses += [{"id": new_id(), "spool_id": key, "at": now, "mass": float(rng.uniform(5, 50)), "what": ""} | entered for _ in range(5)]
            moves.append({"id": new_id(), "spool_id": key, "at": now, "storage": "dry box", "place": f"box {n % 20}", "humidity": 12} | entered)
        for kind, values in ((Spool, spools), (Weighing, weighings), (FilamentUse, uses), (StorageMove, moves)):
            session.execute(insert(kind), values)
    return ids, spools[77]["id"]


def bench_stock() -> None:
    """The list of a large stock, its filters, and the pages beside it."""
    with tempfile.TemporaryDirectory() as folder:
        workspace = Workspace(Path(folder) / "data", durable=False)
        ids, spool = large_stock(workspace)
        with TestClient(create_app(workspace), base_url="http://127.0.0.1") as client:
            asked = {
                "first page": "",
                "by two words": "?words=M7%20P36",
                "polymer and state": "?polymer=PETG&state=fit",
                "by price, far down": "?sort=price&offset=900",
            }
            # as the server does at its start
            settle_memory()
            times: dict[str, list[float]] = {name: [] for name in [*asked, "dossier", "spool", "day", "places"]}
            for _ in range(40):
                urls = {name: f"/api/stock{query}" for name, query in asked.items()}
                urls |= {"dossier": f"/api/materials/{ids[500]}", "spool": f"/api/spools/{spool}", "day": "/api/day", "places": "/api/places"}
                for name, url in urls.items():
                    start = time.perf_counter()
                    answer = client.get(url)
                    times[name].append(time.perf_counter() - start)
                    assert answer.status_code == 200, answer.text
        for name, taken in times.items():
            bound = 40.0 if name in asked else 50.0
            got = float(np.quantile(taken, 0.95)) * 1e3
            report(f"1,000 materials, 1,000 of 2,000 spools at hand: {name}, p95", got, bound, "ms", f"median {np.median(taken) * 1e3:.1f} ms, with the client")
        workspace.close()


def bench_start() -> None:

    times = []
    for _ in range(7):
        code = "import time; t = time.perf_counter(); import assayer; print(time.perf_counter() - t)"
        times.append(float(subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True).stdout))
    report("import assayer", statistics.median(times), 0.3, "s")
    with tempfile.TemporaryDirectory() as folder:
        make_demo(Path(folder) / "data", datetime.now(UTC))
        first = []
        for _ in range(5):
            # from the start of the process to the answer of a page's first question
            server = Server(Path(folder) / "data")
            start = time.perf_counter()
            server.start()
            server.get("/api/day")
            first.append(time.perf_counter() - start)
            server.stop()
    report("first answer after start, demo data", statistics.median(first), 2.5, "s")


def bench_front_end() -> None:
    """The scripts of the first load: what the page names, and what those import at once."""
    import re

    folder = ROOT / "src/assayer/webdist"
    html = (folder / "index.html").read_text()
    wanted = re.findall(r'(?:src|href)="/(assets/[^"]+\.js)"', html)
    seen: set[str] = set()
    while wanted:
        name = wanted.pop()
        if name in seen:
            continue
        seen.add(name)
        text = (folder / name).read_text()
        wanted += [f"assets/{m}" for m in re.findall(r'(?:from|import)\s*"\./([^"]+\.js)"', text)]
    size = sum(len(gzip.compress((folder / n).read_bytes(), 6)) for n in seen) / 1000
    report(f"first load, gzipped script ({len(seen)} files)", size, 350, "kB")


if __name__ == "__main__":
    os.chdir(ROOT)
    for bench in (
        bench_start,
        bench_plans,
        bench_corrections,
        bench_reduce,
        bench_growth,
        bench_large_study,
        bench_statistics,
        bench_ranking,
        bench_board,
        bench_stock,
        bench_gcode,
        bench_trail,
        bench_many_files,
        bench_front_end,
    ):
        bench()
