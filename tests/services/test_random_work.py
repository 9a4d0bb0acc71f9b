"""Whatever people do in whatever order, the cached board equals what a fresh look at the raw rows gives."""

import random

import numpy as np
import pytest
from scipy import stats
from sqlalchemy import select, text

from assayer.core.errors import ConflictError
from assayer.services.bench import queue, runs
from assayer.services.bench.requests import Correction, RunEdit
from assayer.services.studies import board, listing
from assayer.services.studies.requests import NewTest
from assayer.services.studies.views import BoardView
from assayer.store.models import Run

from ..support import ACTOR, Lab, channel, new_id, run


def plain_cells(session, test):
    """Per arm the values that count, from the raw rows by one plain query: newest reading of each field and place."""
    rows = session.execute(
        text(
            """
            SELECT slots.arm_id, runs.id, runs.validity, readings.field, readings.value
            FROM runs JOIN specimens ON specimens.id = runs.specimen_id JOIN slots ON slots.id = specimens.slot_id
            LEFT JOIN readings ON readings.run_id = runs.id
              AND NOT EXISTS (SELECT 1 FROM readings AS later WHERE later.supersedes_id = readings.id)
            WHERE slots.test_id = :test AND runs.retracted_at IS NULL AND runs.complete
            """
        ),
        {"test": test},
    ).all()
    by_run = {}
    for arm, run_id, validity, field, value in rows:
        by_run.setdefault((arm, run_id, validity), {}).setdefault(field, []).append(value)
    cells = {}
    for (arm, _, validity), fields in by_run.items():
        cell = cells.setdefault(arm, {"values": [], "steps": [], "bounds": 0, "tested": 0})
        cell["tested"] += 1
        if validity != "left_out":
            force, width, thickness = fields["peak_force"][0], np.mean(fields["width"]), np.mean(fields["thickness"])
            cell["values"].append(force / (width * thickness))
            # what the value changes by where one reading is a step higher: one of several moves their mean by its share
            shares = [0.1 / force]
            for lengths in (fields["width"], fields["thickness"]):
                share = 0.01 / len(lengths)
                shares += [share / (np.mean(lengths) + share)] * len(lengths)
            cell["steps"].append(cell["values"][-1] * np.sqrt(np.sum(np.square(shares))))
            cell["bounds"] += validity == "at_least"
    return cells


@pytest.mark.parametrize("seed", range(4))
def test_the_cached_board_equals_a_fresh_look(workspace, seed):
    rng = random.Random(seed)
    channels = [channel("force", "N", 0.1), channel("length", "mm", 0.01)]
    lab = Lab(workspace, [NewTest(id=new_id(), orientation="flat", replicates=4)], ("One", "Two", "Three"), channels=channels)
    test = lab.tests[0]
    level = {a: 600 + 60 * i for i, a in enumerate(lab.arms)}
    live = {}

    def accept():
        item = rng.choice(queue.queue(workspace, test, "st", False).items)
        entry = run(item.specimen_id, test, lab.rig, f"{rng.gauss(level[item.arm.id], 20):.1f}", (f"{rng.gauss(5, 0.02):.2f}", "5,01"), ("3.98",))
        try:
            made, _ = runs.accept(workspace, ACTOR, entry)
            live[made.id] = made
        except ConflictError:
            assert item.state != "waiting"

    def correct():
        entry = rng.choice(list(live.values()))
        old = rng.choice([r for r in entry.readings if not r.superseded])
        fix = Correction(
            id=new_id(), field=old.field, position=old.position, raw=f"{old.value * rng.uniform(0.97, 1.03):.3f}", supersedes=old.id, reason="again"
        )
        live[entry.id] = runs.correct(workspace, ACTOR, entry.id, fix, entry.revision)[0]

    def judge():
        entry = rng.choice(list(live.values()))
        validity = rng.choice(["counts", "at_least", "left_out"])
        live[entry.id] = runs.edit_run(workspace, ACTOR, entry.id, RunEdit(validity=validity, validity_reason="slipped"), entry.revision)

    def take_back():
        entry = rng.choice(list(live.values()))
        runs.retract(workspace, ACTOR, entry.id)
        if rng.random() < 0.5:
            live[entry.id] = runs.restore(workspace, ACTOR, entry.id)
        else:
            del live[entry.id]

    for step in range(36):
        action = accept if step < 6 or not live else rng.choice([accept, accept, correct, judge, take_back])
        action()
    with workspace.read() as session:
        expected = plain_cells(session, test)
        assert session.scalar(select(text("count(*)")).select_from(Run)) >= len(live)
    cells = {c.arm_id: c for c in lab.column(test).cells}
    for arm, plain in expected.items():
        cell = cells[arm]
        assert cell.tested == plain["tested"]
        values = plain["values"]
        assert (cell.group.n if cell.group else 0) == len(values)
        if len(values) > 1:
            sd = max(np.std(values, ddof=1), max(plain["steps"]) / np.sqrt(12))
            low, high = stats.t.interval(0.95, len(values) - 1, np.mean(values), sd / np.sqrt(len(values)))
            assert cell.group.ci95 == pytest.approx([low, high], rel=1e-7)
            assert sum(d.bound == "at_least" and d.state == "counts" for d in cell.dots) == plain["bounds"]
    reference = cells[lab.arms[0]].group
    for arm in lab.arms[1:]:
        cell = cells[arm]
        if cell.group and reference and cell.verdict:
            assert cell.verdict.difference == pytest.approx(cell.group.mean - reference.mean, abs=2e-6)


def test_the_demo_tells_its_story(demo_folder, tmp_path):
    """Half an arm, two grip breaks, one pull on the old rig, a corrected slip of the pen; all dates in the past."""
    import shutil
    from datetime import UTC, datetime

    from assayer.services.unit import Workspace

    made = Workspace(shutil.copytree(demo_folder, tmp_path / "d"), durable=False)
    try:
        study = listing.list_studies(made, 10, 0).items[0]
        assert (study.planned, study.printed, study.tested) == (80, 80, 69)
        columns = BoardView.model_validate_json(board.board(made, study.id)[0]).columns
        dots = [d for c in columns for cell in c.cells for d in cell.dots]
        assert sum(d.bound == "at_least" for c in columns[:2] for cell in c.cells for d in cell.dots) == 2
        assert sum(d.state == "apart" for d in dots) == 1
        assert [c.cells[-1].tested for c in columns] == [3, 2, 2, 2]
        assert sum(d.state == "open" or d.value is None for d in dots) >= 1, "the frame that came off, and those still under load"
        verdicts = {cell.verdict.word for c in columns for cell in c.cells if cell.verdict}
        assert {"better", "worse", "undecided"} <= verdicts
        with made.read() as session:
            assert session.execute(text("SELECT count(*) FROM readings WHERE supersedes_id IS NOT NULL")).scalar() == 1
            newest = datetime.fromisoformat(session.execute(text("SELECT max(happened_at) FROM runs")).scalar_one())
            assert newest.replace(tzinfo=UTC) <= datetime.now(UTC)
            assert session.execute(text("SELECT count(*) FROM runs WHERE curve_id IS NOT NULL")).scalar_one() >= 25
    finally:
        made.close()
