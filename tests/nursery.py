"""Servers and commands forked from a process that has loaded the application once: starting each anew would take most of a short walk."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Sequence
from pathlib import Path

_CODE = """
import gc, json, os, signal, sys, traceback, warnings
from pathlib import Path
gc.disable()
import uvicorn
import assayer.cli
from assayer.api.app import create_app
from assayer.cli.serving import fetch_the_rest
from assayer.services.unit import Workspace
# each server would load it half a second after its start
fetch_the_rest(create_app())

def learn(folder):
    warnings.simplefilter("ignore")
    from fastapi.testclient import TestClient
    workspace = Workspace(Path(folder), durable=False)
    application = create_app(workspace)
    with TestClient(application, base_url="http://127.0.0.1") as client:
        for path in ("day", "stock", "places", "studies", "rigs", "racks", "trails", "bench", "people"):
            client.get("/api/" + path).raise_for_status()
        for study in client.get("/api/studies").json()["items"][:1]:
            for part in ("", "/board"):
                client.get(f"/api/studies/{study['id']}{part}").raise_for_status()
    application.state.jobs.wait()
    workspace.close()

signal.signal(signal.SIGCHLD, signal.SIG_IGN)
for line in sys.stdin:
    arguments, out, err, status = json.loads(line)
    if arguments[0] == "learn":
        learn(arguments[1])
        print(0, flush=True)
        continue
    pid = os.fork()
    if pid == 0:
        signal.signal(signal.SIGCHLD, signal.SIG_DFL)
        for path, number in ((out, 1), (err, 2)):
            if path:
                os.dup2(os.open(path, os.O_WRONLY | os.O_CREAT), number)
        os.dup2(os.open(os.devnull, os.O_RDONLY), 0)
        sys.argv = ["assayer", *arguments]
        ended = 1
        try:
            assayer.cli.main()
            ended = 0
        except SystemExit as end:
            ended = end.code if isinstance(end.code, int) else int(end.code is not None)
        except BaseException:
            traceback.print_exc()
        finally:
            sys.stdout.flush()
            sys.stderr.flush()
            if status:
                with open(status, "w") as told:
                    told.write(str(ended))
            os._exit(ended)
    print(pid, flush=True)
"""


class Born:
    """A server's process, with what is asked of one."""

    def __init__(self, pid: int, out: Path) -> None:
        self.pid = pid
        self.out = out
        self.stdout = None

    def first_line(self, wait: float) -> str:
        deadline = time.monotonic() + wait
        while "\n" not in (said := self.out.read_text() if self.out.exists() else ""):
            if time.monotonic() > deadline:
                raise TimeoutError(f"the server said nothing but '{said}'")
            time.sleep(0.01)
        return said

    def send_signal(self, number: int) -> None:
        os.kill(self.pid, number)

    def kill(self) -> None:
        self.send_signal(signal.SIGKILL)

    def terminate(self) -> None:
        self.send_signal(signal.SIGTERM)

    def wait(self, timeout: float) -> None:
        deadline = time.monotonic() + timeout
        while True:
            try:
                os.kill(self.pid, 0)
            except ProcessLookupError:
                return
            if time.monotonic() > deadline:
                raise TimeoutError(f"process {self.pid} does not end")
            time.sleep(0.01)


class Nursery:
    """The process that has loaded everything; each server is a fork of it."""

    def __init__(self) -> None:
        self.folder = tempfile.TemporaryDirectory()
        self.process = subprocess.Popen([sys.executable, "-c", _CODE], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True)
        self.count = 0
        self.learnt = False

    def learn(self, folder: Path) -> None:
        """Answer over this notebook what pages ask, once: whoever is forked afterwards finds its statements compiled."""
        if not self.learnt:
            self._ask(["learn", str(folder)], None)
            self.learnt = True

    def start(self, arguments: Sequence[str]) -> Born:
        """A server."""
        out = self._path("out")
        return Born(self._ask(arguments, out), out)

    def run(self, *words: object) -> subprocess.CompletedProcess[str]:
        """A command, to its end; one that goes on for minutes is killed."""
        out, err, status = (self._path(kind) for kind in ("out", "err", "status"))
        born = Born(self._ask([str(w) for w in words], out, err, status), out)
        try:
            born.wait(240)
        except TimeoutError:
            born.kill()
            raise
        return subprocess.CompletedProcess(words, int(status.read_text()), out.read_text(), err.read_text())

    def _path(self, kind: str) -> Path:
        self.count += 1
        return Path(self.folder.name) / f"{self.count}.{kind}"

    def _ask(self, arguments: Sequence[str], out: Path | None, err: Path | None = None, status: Path | None = None) -> int:
        assert self.process.stdin is not None
        assert self.process.stdout is not None
        told = [list(arguments), *(p and str(p) for p in (out, err, status))]
        self.process.stdin.write(json.dumps(told) + "\n")
        self.process.stdin.flush()
        return int(self.process.stdout.readline())

    def close(self) -> None:
        self.process.communicate()
        self.folder.cleanup()
