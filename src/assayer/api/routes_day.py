"""The day sheet."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import Query, Response

from assayer.api.common import ActorDep, RevisionDep, WorkspaceDep, area, made, tagged
from assayer.api.description import AGAIN, declared
from assayer.services.day import follow_ups, search, sheet
from assayer.services.day.requests import FollowUpEdit, NewFollowUp, ObjectKind
from assayer.services.day.views import DaySheet, FollowUpList, FollowUpView, FoundList
from assayer.services.requests import Id

router = area()


@router.get("/day", response_model=DaySheet, responses=declared())
def get_day(workspace: WorkspaceDep) -> Any:
    """What runs, what is due or late, what waits for a decision."""
    return sheet.day_sheet(workspace)


@router.get("/found", response_model=FoundList, responses=declared())
def get_found(workspace: WorkspaceDep, words: Annotated[str, Query(max_length=200)] = "", limit: Annotated[int, Query(ge=1, le=50)] = 12) -> Any:
    """Everything that holds all of the words: materials, spools, studies, purposes, rigs, specimens."""
    return search.search(workspace, words, limit)


@router.get("/follow-ups", response_model=FollowUpList, responses=declared(404))
def get_follow_ups(workspace: WorkspaceDep, object_kind: Annotated[ObjectKind, Query()], object_id: Annotated[Id, Query()]) -> Any:
    """When something is to be looked at again."""
    return follow_ups.list_follow_ups(workspace, object_kind, object_id)


@router.post("/follow-ups", response_model=FollowUpView, status_code=201, responses=declared(404, 409) | AGAIN)
def post_follow_up(workspace: WorkspaceDep, actor: ActorDep, new: NewFollowUp) -> Response:
    body, is_new = follow_ups.add_follow_up(workspace, actor, new)
    return made(body, is_new, body.revision)


@router.patch("/follow-ups/{follow_up_id}", response_model=FollowUpView, responses=declared(404, 412, 428))
def patch_follow_up(workspace: WorkspaceDep, actor: ActorDep, revision: RevisionDep, follow_up_id: Id, edit: FollowUpEdit, response: Response) -> Any:
    """Put off, worded anew, settled, taken back."""
    found = follow_ups.edit_follow_up(workspace, actor, follow_up_id, edit, revision)
    tagged(response, found.revision)
    return found
