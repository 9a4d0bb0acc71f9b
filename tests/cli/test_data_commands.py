"""`demo` and `recompute` on real folders; the web's verdicts are those of the command line."""

import json
import shutil
import sqlite3

import pytest

from assayer.notebook import compare
from assayer.services.studies import findings, listing
from assayer.services.unit import Workspace

from .test_cli import run


def test_demo_is_made_whole_or_not_at_all_and_then_kept(tmp_path):
    folder = tmp_path / "demo"
    (tmp_path / "demo.part").mkdir()
    (tmp_path / "demo.part" / "rest of an interrupted one").write_text("x")
    run("demo", "--data", folder, "--no-serve", "--now", "2026-05-01T09:00:00Z")
    assert {p.name for p in folder.iterdir()} >= {"assayer.db", "files"}
    assert not (tmp_path / "demo.part").exists()
    with sqlite3.connect(folder / "assayer.db") as database:
        assert database.execute("SELECT max(happened_at) FROM runs").fetchone()[0] < "2026-05-01 09"
    before = (folder / "assayer.db").stat().st_mtime_ns
    assert "making" not in run("demo", "--data", folder, "--no-serve").stderr
    assert (folder / "assayer.db").stat().st_mtime_ns == before
    other = tmp_path / "other"
    other.mkdir()
    (other / "letter.txt").write_text("mine")
    assert "is not empty and holds no Assayer data" in run("demo", "--data", other, "--no-serve", status=2).stderr
    assert (other / "letter.txt").read_text() == "mine"


def test_recompute_tells_what_moved(own_demo):
    assert "no value moved" in run("recompute", "--data", own_demo).stdout
    with sqlite3.connect(own_demo / "assayer.db") as database:
        database.execute("UPDATE results SET value = value * 1.1 WHERE seq = (SELECT min(seq) FROM results WHERE quantity = 'apparent_modulus')")
    moved = json.loads(run("recompute", "--data", own_demo, "--json").stdout)
    assert [(m["quantity"], round(m["old"] / m["new"], 6)) for m in moved] == [("apparent_modulus", 1.1)]
    with sqlite3.connect(own_demo / "assayer.db") as database:
        assert database.execute("SELECT who FROM changes WHERE action = 'recomputed'").fetchall() == [("recompute",)]


@pytest.mark.parametrize("place", [0, 1], ids=["flat", "upright"])
def test_the_web_and_the_command_line_say_the_same(demo_folder, tmp_path, place):
    workspace = Workspace(shutil.copytree(demo_folder, tmp_path / "d"), durable=False)
    try:
        study = listing.list_studies(workspace, 1, 0).items[0].id
        web = findings.findings(workspace, listing.get_study(workspace, study).tests[place].id)
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
