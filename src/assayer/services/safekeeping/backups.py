"""Backups of a notebook: where they lie, when the last good one was made, the nightly one."""

from __future__ import annotations

import json
import logging
import re
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from pathlib import Path
from threading import Event, Lock, Thread
from typing import Literal

from sqlalchemy import func, select

from assayer.core.errors import AssayerError, ConflictError, EntryError, MissingError
from assayer.core.plan.retention import worth_keeping
from assayer.services.safekeeping.check import check
from assayer.services.safekeeping.views import BackupItem, JobView, Safekeeping
from assayer.services.unit import Actor, Workspace
from assayer.store.backup import Manifest, Progress, write_backup
from assayer.store.models import Change

STALE = timedelta(days=7)
"""A last good backup older than this is said on the day sheet."""
_NIGHTLY = timedelta(hours=24)
_SETTINGS = "safekeeping.json"
_NAME = re.compile(r"assayer-(\d{8}T\d{6})Z(-nightly)?\.zip")
log = logging.getLogger("assayer.safekeeping")


def folder_of(workspace: Workspace) -> Path:
    """Where backups are put: the folder that was set, else one beside the recordings."""
    chosen = _settings(workspace).get("folder")
    return Path(str(chosen)) if chosen else workspace.folder / "backups"


def set_folder(workspace: Workspace, actor: Actor, folder: str) -> Safekeeping:
    """Put further backups elsewhere; an empty text means beside the data. It is tried before it is taken.

    Raises
    ------
    EntryError
        If it is no absolute path of a folder, or cannot be written.
    """
    path = Path(folder).expanduser() if folder else None
    if path is not None:
        if not path.is_absolute():
            raise EntryError(f"'{folder}' does not begin at the root: write the whole path, such as /media/disk/backups", "folder")
        try:
            path.mkdir(parents=True, exist_ok=True)
            trial = path / ".assayer-trial"
            trial.write_bytes(b"")
            trial.unlink()
        except OSError as error:
            raise EntryError(f"cannot write into '{folder}': {error.strerror or error}", "folder") from None
    before = str(folder_of(workspace))
    _keep_settings(workspace, {"folder": str(path) if path else None})
    with workspace.write(actor) as unit:
        unit.log("notebook", "backups", "backup folder set", {"folder": before}, {"folder": str(folder_of(workspace))})
    return status(workspace)


def status(workspace: Workspace) -> Safekeeping:
    """The backups there are, newest first, and what is being done."""
    folder = folder_of(workspace)
    last = last_good(workspace)
    return Safekeeping(
        folder=str(folder),
        same_disk=_same_disk(folder, workspace.folder),
        last_good=last,
        stale=is_stale(workspace),
        backups=_list(folder),
        job=jobs_of(workspace).shown(),
    )


def last_good(workspace: Workspace) -> datetime | None:
    """When the last backup was made that stood its check, wherever it was put."""
    noted = _settings(workspace).get("last_good")
    made = [b.made_at for b in _list(folder_of(workspace))]
    if isinstance(noted, str):
        made.append(datetime.fromisoformat(noted))
    return max(made, default=None)


def is_stale(workspace: Workspace) -> bool:
    """Whether the last good backup, or where there is none the first entry, is older than a week."""
    since = last_good(workspace)
    if since is None:
        with workspace.read() as session:
            since = session.scalar(select(func.min(Change.at)))
    return since is not None and workspace.clock() - since > STALE


def make_backup(
    workspace: Workspace, target: Path | None = None, nightly: bool = False, progress: Progress = lambda what, share: None
) -> tuple[Path, Manifest]:
    """Make one now, into the folder that is set or a file of one's own; noted as the last good one."""
    now = workspace.clock()
    if target is None:
        target = folder_of(workspace) / f"assayer-{now.astimezone(UTC):%Y%m%dT%H%M%S}Z{'-nightly' if nightly else ''}.zip"
    manifest = write_backup(workspace.folder, target, now, progress)
    _keep_settings(workspace, {"last_good": now.isoformat()})
    return target, manifest


def backup_file(workspace: Workspace, name: str) -> Path:
    """The file of a backup, to be downloaded."""
    path = folder_of(workspace) / name
    if _NAME.fullmatch(name) is None or not path.is_file():
        raise MissingError(f"there is no backup '{name[:80]}'")
    return path


def thin_out(workspace: Workspace) -> list[str]:
    """Delete nightly backups that are not worth their room: 7 days, 4 weeks, 12 months stay; those made by hand stay."""
    nightly = [b for b in _list(folder_of(workspace)) if b.nightly]
    keep = worth_keeping([b.made_at for b in nightly], workspace.clock().astimezone())
    gone = [b.name for b in nightly if b.made_at not in keep]
    for name in gone:
        (folder_of(workspace) / name).unlink(missing_ok=True)
    return gone


def _list(folder: Path) -> list[BackupItem]:
    found = []
    for path in folder.glob("assayer-*.zip") if folder.is_dir() else ():
        match = _NAME.fullmatch(path.name)
        if match is not None:
            at = datetime.strptime(match[1], "%Y%m%dT%H%M%S").replace(tzinfo=UTC)
            found.append(BackupItem(name=path.name, made_at=at, size=path.stat().st_size, nightly=match[2] is not None))
    return sorted(found, key=lambda b: b.made_at, reverse=True)


def _same_disk(folder: Path, data: Path) -> bool:
    there = next(p for p in (folder, *folder.parents) if p.exists())
    return there.stat().st_dev == data.stat().st_dev


def _settings(workspace: Workspace) -> dict[str, object]:
    try:
        found = json.loads((workspace.folder / _SETTINGS).read_text("utf-8"))
    except (OSError, ValueError):
        return {}
    return found if isinstance(found, dict) else {}


def _keep_settings(workspace: Workspace, change: dict[str, object]) -> None:
    path = workspace.folder / _SETTINGS
    partial = path.with_suffix(".part")
    partial.write_text(json.dumps(_settings(workspace) | change, indent=1), "utf-8")
    partial.replace(path)


# ---- what runs beside the requests ---------------------------------------------------------------


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
        missing = f"; {len(manifest.missing)} recordings were missing already" if manifest.missing else ""
        return f"{path.name} holds {sum(manifest.rows.values())} rows and {len(manifest.files)} recordings, and stood its check{missing}"

    def _check(self) -> str:
        report = check(self._workspace, self._progress)
        if report.faults:
            return " ".join(f"{f.text}: {f.advice}." for f in report.faults)
        return f"all is whole: {report.rows} rows, {report.recordings} recordings, {report.runs} runs give the results that are kept"

    # the nightly one

    def keep_nightly(self, every: float = 300.0) -> None:
        """From now on, make one whenever the last is a day old, and thin out the old ones."""
        Thread(target=self._watch, args=(every,), name="assayer-nightly", daemon=True).start()

    def _watch(self, every: float) -> None:
        while not self._stop.wait(every):
            self.nightly()

    def nightly(self) -> bool:
        """Make the nightly one if it is due; whether it was."""
        last = next((b.made_at for b in _list(folder_of(self._workspace)) if b.nightly), None)
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


_jobs: dict[str, Jobs] = {}
_jobs_lock = Lock()


def jobs_of(workspace: Workspace) -> Jobs:
    """The jobs of a data folder in this process."""
    with _jobs_lock:
        return _jobs.setdefault(str(workspace.folder), Jobs(workspace))
