"""The real server in a process of its own: killed while entries come in, and two people at once."""

import json
import shutil
import signal
import subprocess
import threading
import urllib.error
import urllib.request

import pytest

from ..browser.walk import running_server
from ..support import new_id

CHANNELS = [
    {"name": "force", "dimension": "force", "unit": "N", "step": 1},
    {"name": "length", "dimension": "length", "unit": "mm", "step": 0.01},
]


def post(server, path, body, method="POST"):
    request = urllib.request.Request(server.url + path, json.dumps(body).encode(), {"Content-Type": "application/json"}, method=method)
    try:
        with urllib.request.urlopen(request, timeout=30) as answer:
            return answer.status, json.load(answer)
    except urllib.error.HTTPError as error:
        return error.code, json.load(error)


def entry(test, item, rig, load="400"):
    readings = [{"id": new_id(), "field": f, "position": 0, "raw": raw} for f, raw in (("width", "4.0"), ("thickness", "4.0"), ("peak_force", load))]
    return {
        "id": new_id(),
        "subject_id": item["specimen_id"],
        "test_id": test,
        "rig_version_id": rig,
        "happened_at": "2026-06-01T10:00:00Z",
        "readings": readings,
    }


@pytest.fixture
def bench(tmp_path, nursery):
    """A server over an empty folder with one study of 40 waiting specimens."""
    with running_server(tmp_path / "data", nursery) as server:
        ids = [new_id() for _ in range(2)]
        for i, product in enumerate(("One", "Two")):
            status, _ = post(
                server, "/api/materials", {"id": ids[i], "maker": "Hollin", "product": product, "polymer": "PLA", "colour": "grey", "hex": "#888888"}
            )
            assert status == 201
        version = new_id()
        post(server, "/api/rigs", {"id": new_id(), "version_id": version, "name": "frame", "channels": CHANNELS})
        tests = [{"id": new_id(), "orientation": "flat", "replicates": 20}]
        status, study = post(server, "/api/studies", {"id": new_id(), "title": "t", "arms": [{"id": new_id(), "material_id": m} for m in ids], "tests": tests})
        assert status == 201
        for arm in study["arms"]:
            assert post(server, "/api/batches", {"id": new_id(), "arm_id": arm["id"], "printed_at": "2026-06-01T08:00:00Z"})[0] == 201
        yield server, study["tests"][0]["id"], version


def test_what_was_answered_survives_a_kill_and_what_was_not_may_be_sent_again(bench):
    server, test, rig = bench
    entries = [entry(test, item, rig) for item in server.get(f"/api/tests/{test}/queue")["items"]]
    answered = []

    def work():
        for body in entries:
            try:
                status, _ = post(server, "/api/runs", body)
            except OSError:
                return
            assert status == 201
            answered.append(body["id"])

    worker = threading.Thread(target=work)
    worker.start()
    while len(answered) < 8:
        worker.join(0.01)
    server.kill()
    worker.join()
    server.start()
    kept = {i["run_id"] for i in server.get(f"/api/tests/{test}/queue")["items"] if i["run_id"]}
    assert set(answered) <= kept, "an accepted entry was lost"
    assert len(kept) <= len(answered) + 1
    statuses = [post(server, "/api/runs", body)[0] for body in entries]
    assert statuses[: len(answered)] == [200] * len(answered)
    assert set(statuses[len(kept) :]) == {201}
    board = server.get(f"/api/studies/{server.get('/api/studies')['items'][0]['id']}/board")
    assert [c["tested"] for c in board["columns"][0]["cells"]] == [20, 20], "none twice"


def test_two_people_at_one_specimen_at_the_same_moment(bench):
    server, test, rig = bench
    items = server.get(f"/api/tests/{test}/queue")["items"][:6]
    outcomes = []

    def pull(item):
        outcomes.append((item["specimen_id"], post(server, "/api/runs", entry(test, item, rig))))

    workers = [threading.Thread(target=pull, args=(item,)) for item in items for _ in range(2)]
    for worker in workers:
        worker.start()
    for worker in workers:
        worker.join()
    for item in items:
        statuses = sorted(status for specimen, (status, _) in outcomes if specimen == item["specimen_id"])
        assert statuses == [201, 409]
    refused = next(body for _, (status, body) in outcomes if status == 409)
    assert "was tested already" in refused["detail"]
    assert refused["current"]["complete"] is True


@pytest.mark.skipif(shutil.which("strace") is None, reason="needs strace")
def test_the_log_has_reached_the_disk_before_the_answer_leaves(bench, tmp_path):
    """What the kernel was asked for, in order: the last write into the log, its sync, then the answer."""
    server, test, rig = bench
    items = server.get(f"/api/tests/{test}/queue")["items"][:3]
    trace = tmp_path / "trace"
    calls = "trace=pwrite64,pwritev,fdatasync,fsync,write,writev,sendto,sendmsg"
    command = ["strace", "-f", "-y", "-s", "20", "-e", calls, "-o", str(trace), "-p", str(server.process.pid)]
    tracer = subprocess.Popen(command, stderr=subprocess.PIPE, text=True)
    said = tracer.stderr.readline()
    if "attached" not in said:
        tracer.kill()
        pytest.skip(f"strace may not look on here: {said.strip()}")
    try:
        for item in items:
            assert post(server, "/api/runs", entry(test, item, rig))[0] == 201
    finally:
        tracer.send_signal(signal.SIGINT)
        tracer.wait(10)
    synced, answers = True, 0
    for line in trace.read_text(errors="replace").splitlines():
        if "assayer.db-wal>" in line and "pwrite" in line:
            synced = False
        if "assayer.db-wal>" in line and ("fdatasync" in line or "fsync" in line):
            synced = True
        if "HTTP/1.1 201" in line:
            assert synced, "the answer left before the log was synced"
            answers += 1
    assert answers == len(items)
