"""Choose: uses, their weights, and the ranking."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter, Response

from assayer.api.common import ActorDep, Limit, Offset, RevisionDep, WorkspaceDep, made, tagged
from assayer.api.problems import declared
from assayer.services.choose import purposes, ranking
from assayer.services.choose.requests import NewUse, UseEdit
from assayer.services.choose.views import RankingOut, UseList, UseOut
from assayer.services.requests import Id

router = APIRouter(prefix="/api")


@router.get("/uses", response_model=UseList, responses=declared())
def get_uses(workspace: WorkspaceDep, limit: Limit = 100, offset: Offset = 0) -> Any:
    return purposes.list_uses(workspace, limit, offset)


@router.post("/uses", response_model=UseOut, status_code=201, responses=declared(404, 409))
def post_use(workspace: WorkspaceDep, actor: ActorDep, new: NewUse) -> Response:
    return made(*purposes.add_use(workspace, actor, new))


@router.get("/uses/{use_id}", response_model=UseOut, responses=declared(404))
def get_use(workspace: WorkspaceDep, use_id: Id, response: Response) -> Any:
    use = purposes.get_use(workspace, use_id)
    tagged(response, use["revision"])
    return use


@router.patch("/uses/{use_id}", response_model=UseOut, responses=declared(404, 412, 428))
def patch_use(workspace: WorkspaceDep, actor: ActorDep, use_id: Id, edit: UseEdit, revision: RevisionDep, response: Response) -> Any:
    """Keep new weights."""
    use = purposes.set_weights(workspace, actor, use_id, edit, revision)
    tagged(response, use["revision"])
    return use


@router.get("/uses/{use_id}/ranking", response_model=RankingOut, responses=declared(404))
def get_ranking(workspace: WorkspaceDep, use_id: Id) -> Any:
    return ranking.rank(workspace, use_id)


@router.post("/uses/{use_id}/ranking", response_model=RankingOut, responses=declared(404))
def post_ranking(workspace: WorkspaceDep, use_id: Id, tried: UseEdit) -> Any:
    """The ranking under weights that are only tried, not kept."""
    return ranking.rank(workspace, use_id, tried.weights)
