"""Servers forked from a process that has loaded the application once: starting each anew would take most of a short walk."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
import tempfile
import time
from pathlib import Path

_CODE = """
import json, os, signal, sys
import uvicorn
import assayer.cli, assayer.services.unit
from assayer.api.app import create_app
from assayer.cli.serving import fetch_the_rest
# each server would load it half a second after its start
fetch_the_rest(create_app())
signal.signal(signal.SIGCHLD, signal.SIG_IGN)
for line in sys.stdin:
    arguments, out = json.loads(line)
    pid = os.fork()
    if pid == 0:
        signal.signal(signal.SIGCHLD, signal.SIG_DFL)
        os.dup2(os.open(out, os.O_WRONLY | os.O_CREAT), 1)
        os.dup2(os.open(os.devnull, os.O_RDONLY), 0)
        sys.argv = ["assayer", *arguments]
        try:
            assayer.cli.main()
        finally:
            sys.stdout.flush()
            os._exit(0)
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

    def start(self, arguments: list[str]) -> Born:
        assert self.process.stdin is not None
        assert self.process.stdout is not None
        self.count += 1
        out = Path(self.folder.name) / f"{self.count}.txt"
        self.process.stdin.write(json.dumps([arguments, str(out)]) + "\n")
        self.process.stdin.flush()
        return Born(int(self.process.stdout.readline()), out)

    def close(self) -> None:
        self.process.communicate()
        self.folder.cleanup()
