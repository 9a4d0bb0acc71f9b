"""Backups and the check."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Path
from fastapi.responses import FileResponse

from assayer.api.common import ActorDep, WorkspaceDep
from assayer.api.description import ZIP, declared
from assayer.services.safekeeping import backups
from assayer.services.safekeeping.requests import BackupFolder
from assayer.services.safekeeping.views import Safekeeping

router = APIRouter(prefix="/api")


@router.get("/safekeeping", response_model=Safekeeping, responses=declared())
def get_safekeeping(workspace: WorkspaceDep) -> Any:
    """The backups there are, when the last good one was made, and what is being done."""
    return backups.status(workspace)


@router.post("/backups", response_model=Safekeeping, status_code=202, responses=declared(409))
def start_backup(workspace: WorkspaceDep) -> Any:
    """Begin a backup; how far it is stands in `job` of GET /safekeeping."""
    backups.jobs_of(workspace).start("backup")
    return backups.status(workspace)


@router.post("/checks", response_model=Safekeeping, status_code=202, responses=declared(409))
def start_check(workspace: WorkspaceDep) -> Any:
    """Begin to look through all that is kept; how far it is stands in `job` of GET /safekeeping."""
    backups.jobs_of(workspace).start("check")
    return backups.status(workspace)


@router.put("/safekeeping/folder", response_model=Safekeeping, responses=declared())
def put_backup_folder(body: BackupFolder, workspace: WorkspaceDep, actor: ActorDep) -> Any:
    """Where further backups are put."""
    return backups.set_folder(workspace, actor, body.folder)


@router.get("/backups/{name}", response_class=FileResponse, responses=ZIP | declared(404))
def download_backup(name: Annotated[str, Path(max_length=60)], workspace: WorkspaceDep) -> Any:
    """A backup as a file."""
    return FileResponse(backups.backup_file(workspace, name), media_type="application/zip", filename=name)
