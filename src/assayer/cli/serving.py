"""The server's process: what it serves, and how it is stopped."""

from __future__ import annotations

import difflib
import gc
import os
import signal
import socket
import sys
import threading
import warnings
from pathlib import Path
from typing import TYPE_CHECKING

import typer

from assayer.core.errors import EntryError

if TYPE_CHECKING:
    import uvicorn

    from assayer.api.app import Described


_GRACE = 5
"""So many seconds answers that are under way have once the server is told to stop."""


def holds_notebook(folder: Path) -> bool:
    from assayer.store.folder import examine

    return examine(folder)


def notebook(folder: Path) -> Path:
    if not holds_notebook(folder):
        raise EntryError(f"there is no notebook in '{folder}': name the folder with --data")
    return folder


def refuse_mistyped(folder: Path) -> None:
    """A new notebook is begun only where nothing is; a name that is nearly that of a notebook was hardly meant."""
    if folder.exists():
        if any(folder.iterdir()):
            raise EntryError(f"'{folder}' is not empty and holds no notebook: name another folder with --data, or begin one there with --new")
        return
    parent = folder.absolute().parent
    beside = [p for p in parent.iterdir() if (p / "assayer.db").exists()] if parent.is_dir() else []
    near = difflib.get_close_matches(folder.name, [p.name for p in beside], 1, 0.75)
    if near:
        raise EntryError(f"there is no folder '{folder}': was '{parent / near[0]}' meant? (--new begins a new notebook)")


def serve_folder(folder: Path, host: str, port: int) -> None:
    # what is being loaded stays: collections over it would find nothing, and take a tenth of a start
    gc.disable()
    import uvicorn
    from pydantic.warnings import UnsupportedFieldAttributeWarning

    # FastAPI silences it while it builds a route, which in a second thread may come too late
    warnings.simplefilter("ignore", UnsupportedFieldAttributeWarning)

    from assayer.api.app import create_app, front_end_folder
    from assayer.api.wire import Protocol
    from assayer.services.unit import Workspace

    listener = socket.socket(socket.AF_INET6 if ":" in host else socket.AF_INET, socket.SOCK_STREAM)
    listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listener.bind((host, port))
    except OSError:
        raise EntryError(f"port {port} is in use: stop the other program, or choose another with --port") from None
    os.umask(0o077)
    workspace = Workspace(folder)
    try:
        if not front_end_folder().is_dir():
            typer.echo("the pages are not built, only the API is served: run make setup", err=True)
        typer.echo(f"Assayer is at http://{host}:{listener.getsockname()[1]}  (data in {folder}; Ctrl+C stops)")
        sys.stdout.flush()
        application = create_app(workspace)
        settle_memory()
        config = uvicorn.Config(
            application, log_level="warning", access_log=False, server_header=False, ws="none", timeout_graceful_shutdown=_GRACE, http=Protocol
        )
        server = uvicorn.Server(config)
        _stop_in_order(server)
        application.state.jobs.keep_nightly()
        _fetch_soon(application)
        server.run(sockets=[listener])
        application.state.jobs.stop()
        if application.state.inspections is not None:
            application.state.inspections.stop()
    finally:
        workspace.close()


def settle_memory() -> None:
    """What is loaded by now stays: collections need not walk over it while somebody waits, nor come in the middle of an answer."""
    gc.freeze()
    gc.set_threshold(50_000, 20, 50)
    gc.enable()


def fetch_the_rest(application: Described) -> None:
    """Load what the first page does without, so that the first board does not wait for it."""
    import scipy.interpolate
    import scipy.optimize.elementwise
    import scipy.special  # noqa: F401

    application.load_rest()


def _fetch_soon(application: Described) -> None:
    """Load the rest once the first page is out."""
    later = threading.Timer(0.5, fetch_the_rest, [application])
    later.daemon = True
    later.start()


def refuse_host(host: str) -> None:
    from assayer.api.app import LOOPBACK

    if host not in LOOPBACK:
        raise EntryError(f"cannot serve on {host}: without accounts, which are not built yet, only this machine is served (127.0.0.1)")


def _stop_in_order(server: uvicorn.Server) -> None:
    """However it is told to stop (terminal closed, service manager, Ctrl+C), the answers under way go out and the database is closed.

    The server raises the signal again once it has stopped; with the system's own handler that would end the
    process before the database is closed.
    """

    def stop(_number: int, _frame: object) -> None:
        server.should_exit = True

    for number in (signal.SIGTERM, signal.SIGINT, signal.SIGHUP):
        signal.signal(number, stop)
