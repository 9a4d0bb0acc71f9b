"""Rigs, and the templates of their files."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter

from assayer.api.common import ActorDep, WorkspaceDep
from assayer.api.problems import declared
from assayer.services.requests import Id
from assayer.services.rigs import rigs, templates
from assayer.services.rigs.requests import NewRig, TemplateAnswer
from assayer.services.rigs.views import RigList, RigView

router = APIRouter(prefix="/api")


@router.get("/rigs", response_model=RigList, responses=declared())
def get_rigs(workspace: WorkspaceDep) -> Any:
    return rigs.list_rigs(workspace)


@router.post("/rigs", response_model=RigView, status_code=201, responses=declared(409))
def post_rig(workspace: WorkspaceDep, actor: ActorDep, new: NewRig) -> Any:
    return rigs.add_rig(workspace, actor, new)


@router.put("/rig-versions/{rig_version_id}/file-template", status_code=204, responses=declared(404))
def put_template(workspace: WorkspaceDep, actor: ActorDep, rig_version_id: Id, answer: TemplateAnswer) -> None:
    """Keep the answers about a file for the next ones of this rig."""
    templates.keep_template(workspace, actor, rig_version_id, answer)
