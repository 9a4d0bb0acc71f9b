"""Backup, restore and check as commands; every way of stopping the server closes the notebook; damage is one line."""

import json
import shutil
import signal
import sqlite3

import pytest

from ..browser.walk import Server, running_server


def recordings(folder):
    return sum(1 for _ in folder.glob("files/*/*"))


def test_from_backup_to_another_place(own_demo, tmp_path, nursery, run):
    file, back = tmp_path / "notebook.zip", tmp_path / "back"
    with running_server(own_demo, nursery) as server:
        studies = server.get("/api/studies")["total"]
        said = run("backup", "--data", own_demo, file).out
        assert f"{recordings(own_demo)} files ({file.stat().st_size / 1e6:.1f} MB)" in said
        assert "stood its check" in said
        assert "is in use: stop Assayer there" in run("restore", file, "--data", own_demo, status=2).err
    assert f"assayer serve --data {back}" in run("restore", file, "--data", back).out
    assert run("check", "--data", back).out.startswith("all is whole")
    with running_server(back, nursery) as server:
        assert server.get("/api/studies")["total"] == studies > 0
    again = run("restore", file, "--data", back).out
    assert "what lay there before is in" in again
    for words, said in (
        (["backup", "--data", own_demo, tmp_path], "is no name of a zip"),
        (["backup", "--data", tmp_path / "nowhere", file], "there is no notebook in"),
        (["restore", own_demo / "assayer.db", "--data", back], "is no backup of Assayer"),
        (["check", "--data", tmp_path / "nowhere"], "there is no notebook in"),
    ):
        assert said in run(*words, status=2).err


def test_the_check_says_what_is_wrong_and_what_to_do(own_demo, run):
    with sqlite3.connect(own_demo / "assayer.db") as database:
        database.execute("UPDATE results SET value = value + 1 WHERE seq = (SELECT min(seq) FROM results WHERE quantity = 'strength')")
    said = run("check", "--data", own_demo, status=1).out
    assert "wrong: 1 kept results are not what the readings give" in said
    assert "what to do: run assayer recompute" in said
    assert [f["about"] for f in json.loads(run("check", "--data", own_demo, "--json", status=1).out)["faults"]] == ["results"]
    run("recompute", "--data", own_demo)
    assert run("check", "--data", own_demo).out.startswith("all is whole")


@pytest.mark.parametrize("number", [signal.SIGTERM, signal.SIGINT, signal.SIGHUP])
def test_every_way_of_stopping_leaves_one_file(own_demo, number):
    with running_server(own_demo) as server:
        server.ask("/api/people/Ilse%20the%20Second", method="PUT")
        assert (own_demo / "assayer.db-wal").stat().st_size > 0
        server.process.send_signal(number)
        assert server.process.wait(15) == 0
    assert not list(own_demo.glob("assayer.db-*"))
    with sqlite3.connect(f"file:{own_demo / 'assayer.db'}?immutable=1", uri=True) as database:
        assert database.execute("SELECT count(*) FROM people WHERE name = 'Ilse the Second'").fetchone() == (1,)


def test_a_kill_leaves_the_last_entries_beside_and_the_next_start_takes_them_up(own_demo, tmp_path, nursery, refused):
    older = shutil.copytree(own_demo, tmp_path / "older")
    with running_server(own_demo, nursery) as server:
        server.ask("/api/people/Ilse%20the%20Third", method="PUT")
        server.kill()
    mixed = shutil.copytree(own_demo, tmp_path / "mixed")
    shutil.copy(older / "assayer.db", mixed / "assayer.db")
    assert "it was copied in after a crash" in refused(mixed)
    with running_server(own_demo, nursery) as server:
        assert "Ilse the Third" in str(server.get("/api/people"))


@pytest.mark.parametrize("state, said", [("empty", "is empty (0 bytes)"), ("cut", "is cut off"), ("gone", "but assayer.db is missing"), ("torn", "is damaged")])
def test_a_damaged_notebook_is_one_line_at_the_start(own_demo, refused, state, said):
    database = own_demo / "assayer.db"
    data = database.read_bytes()
    if state == "empty":
        database.write_bytes(b"")
    elif state == "cut":
        database.write_bytes(data[: len(data) // 2])
    elif state == "torn":
        database.write_bytes(data[:8192] + b"\xa5" * 200_000 + data[208_192:])
    else:
        database.unlink()
    told = refused(own_demo)
    assert told.count("\n") == 1, told
    assert said in told
    assert f"{recordings(own_demo)} kept files" in told
    assert "restore a backup" in told


def test_a_new_notebook_is_begun_only_where_it_is_meant(own_demo, tmp_path, nursery, refused):
    shutil.move(own_demo, tmp_path / "filaments")
    (tmp_path / "letters").mkdir()
    (tmp_path / "letters" / "one.txt").write_text("x")
    said = refused(tmp_path / "filament")
    assert f"was '{tmp_path / 'filaments'}' meant?" in said
    assert not (tmp_path / "filament").exists()
    assert "is not empty and holds no notebook" in refused(tmp_path / "letters")
    assert [p.name for p in (tmp_path / "letters").iterdir()] == ["one.txt"]
    server = Server(tmp_path / "filament", more=["--new"], nursery=nursery)
    server.start()
    assert server.get("/api/studies")["items"] == []
    server.stop()


def test_damage_while_serving_is_told_and_no_bare_500(own_demo, nursery):
    with running_server(own_demo, nursery) as server:
        study = server.get("/api/studies")["items"][0]["id"]
        with (own_demo / "assayer.db").open("r+b") as database:
            database.truncate(12_288)
        asked = {path: server.ask(path, refused=True) for path in ("/api/stock", f"/api/studies/{study}/board", "/api/day", "/api/racks", "/api/people")}
        refused = {path: problem for path, (status, problem) in asked.items() if status != 200}
        assert refused, "none of them was in memory"
        for path, problem in refused.items():
            assert (problem["status"], problem["title"]) == (503, "The data are damaged"), path
            assert "restore a backup" in problem["detail"]
        assert server.get("/api/health")["status"] == "ok"
