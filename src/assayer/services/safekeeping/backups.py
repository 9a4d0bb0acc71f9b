"""Backups of a notebook: where they lie, when the last good one was made, the nightly one."""

from __future__ import annotations

import json
import re
from datetime import UTC, datetime, timedelta
from pathlib import Path
from threading import Lock

from sqlalchemy import func, select

from assayer.core.errors import EntryError, FileError, MissingError
from assayer.core.plan.retention import worth_keeping
from assayer.services.safekeeping.views import BackupItem, JobView, Safekeeping
from assayer.services.unit import Actor, Workspace
from assayer.store.backup import Manifest, Progress, peek_manifest, write_backup
from assayer.store.models import Change

STALE = timedelta(days=7)
"""A last good backup older than this is said on the day sheet."""
_SETTINGS = "safekeeping.json"
_NAME = re.compile(r"assayer-(\d{8}T\d{6})Z(-nightly)?\.zip")
_keeping = Lock()
"""The nightly backup and a request may change the settings at once."""


def folder_of(workspace: Workspace) -> Path:
    """Where backups are put: the folder that was set, else one beside the recordings."""
    chosen = _settings(workspace).get("folder")
    return Path(str(chosen)) if chosen else workspace.folder / "backups"


def set_folder(workspace: Workspace, actor: Actor, folder: str) -> None:
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


def status(workspace: Workspace, job: JobView | None = None) -> Safekeeping:
    """The backups there are, newest first, and `job`, what is being done."""
    folder = folder_of(workspace)
    last = last_good(workspace)
    return Safekeeping(
        folder=str(folder),
        same_disk=_same_disk(folder, workspace.folder),
        last_good=last,
        stale=is_stale(workspace),
        backups=list_backups(folder),
        job=job,
    )


def last_good(workspace: Workspace) -> datetime | None:
    """When the last backup was made that stood its check, wherever it was put."""
    noted = _settings(workspace).get("last_good")
    elsewhere = datetime.fromisoformat(noted) if isinstance(noted, str) else None
    folder = folder_of(workspace)
    # the newest that opens: one that was cut off while it was copied there is none
    here = next((b.made_at for b in list_backups(folder) if _opens(folder / b.name)), None)
    return max((at for at in (elsewhere, here) if at is not None), default=None)


def _opens(file: Path) -> bool:
    try:
        peek_manifest(file)
    except FileError:
        return False
    return True


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
    nightly = [b for b in list_backups(folder_of(workspace)) if b.nightly]
    keep = worth_keeping([b.made_at for b in nightly], workspace.clock().astimezone())
    gone = [b.name for b in nightly if b.made_at not in keep]
    for name in gone:
        (folder_of(workspace) / name).unlink(missing_ok=True)
    return gone


def list_backups(folder: Path) -> list[BackupItem]:
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
    with _keeping:
        partial = path.with_suffix(".part")
        partial.write_text(json.dumps(_settings(workspace) | change, indent=1), "utf-8")
        partial.replace(path)
