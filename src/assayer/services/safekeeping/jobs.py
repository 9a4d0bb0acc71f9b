"""What runs beside the requests: a backup or a check that was asked for, and the nightly backup."""

from __future__ import annotations

import logging
from collections.abc import Callable
from datetime import timedelta
from threading import Event, Lock, Thread
from typing import Literal

from assayer.core.errors import AssayerError, ConflictError
from assayer.core.quantities.words import counted
from assayer.services.safekeeping.backups import folder_of, list_backups, make_backup, thin_out
from assayer.services.safekeeping.views import JobView
from assayer.services.unit import Workspace

_NIGHTLY = timedelta(hours=24)
log = logging.getLogger("assayer.safekeeping")


class Jobs:
    """At most one backup or check at a time in this process, and how the last one ended."""

    def __init__(self, workspace: Workspace) -> None:
        self._workspace = workspace
        self._lock = Lock()
        self._job: JobView | None = None
        self._thread: Thread | None = None
        self._stop = Event()

    def shown(self) -> JobView | None:
        with self._lock:
            return self._job

    def start(self, kind: Literal["backup", "check"]) -> None:
        """Begin in the background.

        Raises
        ------
        ConflictError
            If one is under way.
        """
        work = {"backup": self._backup, "check": self._check}[kind]
        with self._lock:
            if self._job is not None and self._job.state == "running":
                raise ConflictError(f"a {self._job.kind} is under way: wait until it is done", self._job)
            self._job = JobView(kind=kind, what="begins", share=0.0, state="running", words="")
            self._thread = Thread(target=self._run, args=(work,), name=f"assayer-{kind}", daemon=True)
            self._thread.start()

    def wait(self) -> None:
        """Until what is under way has ended."""
        thread = self._thread
        if thread is not None:
            thread.join()

    def _say(self, **more: object) -> None:
        with self._lock:
            if self._job is not None:
                self._job = self._job.model_copy(update=more)

    def _progress(self, what: str, share: float) -> None:
        self._say(what=what, share=share)

    def _run(self, work: Callable[[], str]) -> None:
        try:
            self._say(state="done", share=1.0, words=work())
        except AssayerError as error:
            self._say(state="failed", words=str(error))
        except Exception:
            log.exception("a backup or check failed")
            self._say(state="failed", words="something went wrong in Assayer itself: the log names the place")

    def _backup(self) -> str:
        path, manifest = make_backup(self._workspace, progress=self._progress)
        missing = f"; {counted(len(manifest.missing), 'file')} missing already" if manifest.missing else ""
        return f"{path.name} holds {counted(sum(manifest.rows.values()), 'row')} and {counted(len(manifest.files), 'file')}, and stood its check{missing}"

    def _check(self) -> str:
        # it works runs out anew, and takes a start's sixteenth to load
        from assayer.services.safekeeping.check import check

        report = check(self._workspace, self._progress)
        if report.faults:
            return " ".join(f"{f.text}: {f.advice}." for f in report.faults)
        counts = f"{counted(report.rows, 'row')}, {counted(report.recordings, 'file')}"
        return f"all is whole: {counts}; {counted(report.runs, 'run')} reduced again to the results that are kept"

    # the nightly one

    def keep_nightly(self, every: float = 300.0) -> None:
        """From now on, make one whenever the last is a day old, and thin out the old ones."""
        Thread(target=self._watch, args=(every,), name="assayer-nightly", daemon=True).start()

    def _watch(self, every: float) -> None:
        while not self._stop.wait(every):
            try:
                self.nightly()
            except Exception:
                # whatever went wrong tonight, tomorrow it is tried again
                log.exception("the nightly backup failed")

    def nightly(self) -> bool:
        """Make the nightly one if it is due; whether it was."""
        last = next((b.made_at for b in list_backups(folder_of(self._workspace)) if b.nightly), None)
        if last is not None and self._workspace.clock() - last < _NIGHTLY:
            return False
        try:
            make_backup(self._workspace, nightly=True)
            thin_out(self._workspace)
        except AssayerError as error:
            log.warning("the nightly backup failed: %s", error)
            return False
        return True

    def stop(self) -> None:
        self._stop.set()
