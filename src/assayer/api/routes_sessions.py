"""Sessions: dryers, ovens, racks."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from fastapi import APIRouter, Query, Response

from assayer.api.common import ActorDep, RevisionDep, WorkspaceDep, made
from assayer.api.description import AGAIN, declared
from assayer.services.requests import Id
from assayer.services.sessions import drying
from assayer.services.sessions.requests import DryingPreviewRequest, EndDrying, NewDrying
from assayer.services.sessions.views import DryingList, DryingView, TogetherView

router = APIRouter(prefix="/api")


@router.get("/dryings", response_model=DryingList, responses=declared())
def get_dryings(workspace: WorkspaceDep, limit: Annotated[int, Query(ge=0, le=200)] = 12) -> Any:
    """Running sessions, then the latest that ended."""
    return drying.list_dryings(workspace, limit)


@router.post("/dryings", response_model=DryingView, status_code=201, responses=declared(404, 409) | AGAIN)
def post_drying(workspace: WorkspaceDep, actor: ActorDep, new: NewDrying) -> Response:
    body, is_new = drying.start_drying(workspace, actor, new)
    return made(body, is_new, body.revision)


@router.post("/dryings/preview", response_model=TogetherView, responses=declared(404))
def post_drying_preview(workspace: WorkspaceDep, asked: DryingPreviewRequest) -> Any:
    """What suits several spools dried together: the coolest limit rules."""
    return drying.preview_drying(workspace, asked)


@router.put("/dryings/{drying_id}/end", response_model=DryingView, responses=declared(404, 412, 428))
def put_drying_end(workspace: WorkspaceDep, actor: ActorDep, drying_id: Id, end: EndDrying, revision: RevisionDep) -> Any:
    """Take the spools out and weigh them."""
    return drying.end_drying(workspace, actor, drying_id, end, revision)


@router.put("/dryings/{drying_id}/undone", response_model=DryingView, responses=declared(404, 409))
def put_drying_undone(workspace: WorkspaceDep, actor: ActorDep, drying_id: Id, what: Literal["end", "all", "none"]) -> Any:
    """Undo the end of a session, the whole of it, or nothing any more."""
    return drying.undo_drying(workspace, actor, drying_id, what)
