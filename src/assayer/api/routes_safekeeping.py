"""Backups and the check."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import Depends, Path, Request
from fastapi.responses import FileResponse

from assayer.api.common import ActorDep, WorkspaceDep, area
from assayer.api.description import ZIP, declared
from assayer.services.safekeeping import backups
from assayer.services.safekeeping.jobs import Jobs
from assayer.services.safekeeping.requests import BackupFolder
from assayer.services.safekeeping.views import Safekeeping

router = area()


async def _jobs(request: Request) -> Jobs:
    found: Jobs = request.app.state.jobs
    return found


JobsDep = Annotated[Jobs, Depends(_jobs)]


@router.get("/safekeeping", response_model=Safekeeping, responses=declared())
def get_safekeeping(workspace: WorkspaceDep, jobs: JobsDep) -> Any:
    """The backups there are, when the last good one was made, and what is being done."""
    return backups.status(workspace, jobs.shown())


@router.post("/backups", response_model=Safekeeping, status_code=202, responses=declared(409))
def start_backup(workspace: WorkspaceDep, jobs: JobsDep) -> Any:
    """Begin a backup; how far it is stands in `job` of GET /safekeeping."""
    jobs.start("backup")
    return backups.status(workspace, jobs.shown())


@router.post("/checks", response_model=Safekeeping, status_code=202, responses=declared(409))
def start_check(workspace: WorkspaceDep, jobs: JobsDep) -> Any:
    """Begin to look through all that is kept; how far it is stands in `job` of GET /safekeeping."""
    jobs.start("check")
    return backups.status(workspace, jobs.shown())


@router.put("/safekeeping/folder", response_model=Safekeeping, responses=declared())
def put_backup_folder(body: BackupFolder, workspace: WorkspaceDep, actor: ActorDep, jobs: JobsDep) -> Any:
    """Where further backups are put."""
    backups.set_folder(workspace, actor, body.folder)
    return backups.status(workspace, jobs.shown())


@router.get("/backups/{name}", response_class=FileResponse, responses=ZIP | declared(404))
def download_backup(name: Annotated[str, Path(max_length=60)], workspace: WorkspaceDep) -> Any:
    """A backup as a file."""
    return FileResponse(backups.backup_file(workspace, name), media_type="application/zip", filename=name)
