"""`demo` and `recompute` on real folders; the web's verdicts are those of the command line."""

import json
import shutil
import sqlite3
from datetime import datetime, timedelta

import pytest

from assayer.notebook import compare
from assayer.services.findings import one_test
from assayer.services.studies import listing
from assayer.services.unit import Workspace

from ..conftest import NOW


@pytest.mark.xdist_group("demo of that day")
def test_demo_is_made_whole_or_not_at_all_and_then_kept(demo_of_that_day, tmp_path, run):
    folder = shutil.copytree(demo_of_that_day, tmp_path / "demo")
    assert {p.name for p in folder.iterdir()} >= {"assayer.db", "files"}
    assert not list(folder.rglob("rest of an interrupted one"))
    assert not demo_of_that_day.with_name(demo_of_that_day.name + " being made.part").exists()
    with sqlite3.connect(folder / "assayer.db") as database:
        (last,) = database.execute("SELECT max(happened_at) FROM runs").fetchone()
    assert NOW - timedelta(days=3) < datetime.fromisoformat(f"{last}+00:00") < NOW
    before = (folder / "assayer.db").stat().st_mtime_ns
    assert "making" not in run("demo", "--data", folder, "--no-serve").err
    assert (folder / "assayer.db").stat().st_mtime_ns == before
    other = tmp_path / "other"
    other.mkdir()
    (other / "letter.txt").write_text("mine")
    assert "is not empty and holds no Assayer data" in run("demo", "--data", other, "--no-serve", status=2).err
    assert (other / "letter.txt").read_text() == "mine"


def test_recompute_tells_what_moved(own_demo, run):
    assert "no value moved" in run("recompute", "--data", own_demo).out
    with sqlite3.connect(own_demo / "assayer.db") as database:
        database.execute("UPDATE results SET value = value * 1.1 WHERE seq = (SELECT min(seq) FROM results WHERE quantity = 'apparent_modulus')")
    moved = json.loads(run("recompute", "--data", own_demo, "--json").out)
    assert [(m["quantity"], round(m["old"] / m["new"], 6)) for m in moved] == [("apparent_modulus", 1.1)]
    with sqlite3.connect(own_demo / "assayer.db") as database:
        assert database.execute("SELECT who FROM changes WHERE action = 'recomputed'").fetchall() == [("recompute",)]


@pytest.mark.parametrize("place", [0, 1], ids=["flat", "upright"])
def test_the_web_and_the_command_line_say_the_same(demo_folder, tmp_path, place):
    workspace = Workspace(shutil.copytree(demo_folder, tmp_path / "d"), durable=False)
    try:
        study = listing.list_studies(workspace, 1, 0).items[0].id
        web = one_test.findings(workspace, listing.get_study(workspace, study).tests[place].id)
    finally:
        workspace.close()
    rows = [(a.arm.mark, d.value) for a in web.arms for d in a.dots if d.state == "counts"]
    ours = compare([v for _, v in rows], [m for m, _ in rows], reference="Ts")
    by_mark = {a.arm.mark: a for a in web.arms}
    for verdict in ours.verdicts:
        decision = by_mark[verdict.group].verdict
        assert decision.difference == pytest.approx(verdict.difference)
        assert decision.ci95 == pytest.approx((verdict.ci95.low, verdict.ci95.high))
        if all(d.bound == "exact" for d in by_mark[verdict.group].dots):
            assert decision.word == verdict.word
    assert [p.p for p in web.pairs] == pytest.approx([p.p for p in ours.pairs])
    assert web.anova.f == pytest.approx(ours.anova.f)
