"""Sessions: dryers, ovens, racks."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from fastapi import Query, Response

from assayer.api.common import ActorDep, RevisionDep, WorkspaceDep, area, made
from assayer.api.description import AGAIN, declared
from assayer.services.requests import Id, Moment
from assayer.services.sessions import drying, ovens
from assayer.services.sessions.requests import DryingPreviewRequest, EndDrying, MassCorrection, NewDrying, NewOven, OvenNotes
from assayer.services.sessions.views import DryingList, DryingView, OvenList, OvenView, TogetherView

router = area()


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


@router.put("/dryings/{drying_id}/mass", response_model=DryingView, responses=declared(404, 409, 412, 428))
def put_drying_mass(workspace: WorkspaceDep, actor: ActorDep, drying_id: Id, new: MassCorrection, revision: RevisionDep) -> Any:
    """Correct a mass of a spool before or after a session."""
    return drying.correct_mass(workspace, actor, drying_id, new, revision)


@router.put("/dryings/{drying_id}/undone", response_model=DryingView, responses=declared(404, 409))
def put_drying_undone(workspace: WorkspaceDep, actor: ActorDep, drying_id: Id, what: Literal["end", "all", "none"]) -> Any:
    """Undo the end of a session, the whole of it, or nothing any more."""
    return drying.undo_drying(workspace, actor, drying_id, what)


@router.get("/tests/{test_id}/ovens", response_model=OvenList, responses=declared(404))
def get_ovens(workspace: WorkspaceDep, test_id: Id) -> Any:
    """Ovens that specimens of a test are in now."""
    return ovens.ovens_of(workspace, test_id)


@router.post("/ovens", response_model=OvenView, status_code=201, responses=declared(404, 409) | AGAIN)
def post_oven(workspace: WorkspaceDep, actor: ActorDep, new: NewOven) -> Response:
    """Put specimens into an oven together."""
    return made(*ovens.begin_oven(workspace, actor, new))


@router.get("/ovens/{oven_id}", response_model=OvenView, responses=declared(404))
def get_oven(workspace: WorkspaceDep, oven_id: Id) -> Any:
    """A sitting at an oven with all that was noted, under way or over."""
    return ovens.get_oven(workspace, oven_id)


@router.post("/ovens/{oven_id}/notes", response_model=OvenView, responses=declared(404, 409))
def post_oven_notes(workspace: WorkspaceDep, actor: ActorDep, oven_id: Id, new: OvenNotes) -> Any:
    """Keep what was noted; the same notes again change nothing."""
    return ovens.note_at_oven(workspace, actor, oven_id, new)


@router.put("/ovens/{oven_id}/end", response_model=OvenView, responses=declared(404))
def put_oven_end(workspace: WorkspaceDep, actor: ActorDep, oven_id: Id, at: Moment) -> Any:
    """The specimens are out."""
    return ovens.end_oven(workspace, actor, oven_id, at)


@router.put("/ovens/{oven_id}/retraction", response_model=OvenView, responses=declared(404, 409))
def put_oven_retraction(workspace: WorkspaceDep, actor: ActorDep, oven_id: Id, back: bool = False) -> Any:
    """Forget a sitting that came to nothing, or bring it back."""
    return ovens.forget_oven(workspace, actor, oven_id, back)
