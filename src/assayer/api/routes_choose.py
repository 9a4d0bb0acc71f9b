"""Choose: purposes, their weights, and the ranking."""

from __future__ import annotations

from typing import Any

from fastapi import Response

from assayer.api.common import ActorDep, Limit, Offset, RevisionDep, WorkspaceDep, area, made, tagged
from assayer.api.description import AGAIN, declared
from assayer.services.choose import purposes, ranking
from assayer.services.choose.requests import NewPurpose, PurposeEdit, WeightsEdit
from assayer.services.choose.views import CriterionOptions, PurposeList, PurposeView, Ranking
from assayer.services.requests import Id

router = area()


@router.get("/purposes", response_model=PurposeList, responses=declared())
def get_purposes(workspace: WorkspaceDep, limit: Limit = 100, offset: Offset = 0) -> Any:
    return purposes.list_purposes(workspace, limit, offset)


@router.post("/purposes", response_model=PurposeView, status_code=201, responses=declared(404, 409) | AGAIN)
def post_purpose(workspace: WorkspaceDep, actor: ActorDep, new: NewPurpose) -> Response:
    return made(*purposes.add_purpose(workspace, actor, new))


@router.get("/purposes/{purpose_id}", response_model=PurposeView, responses=declared(404))
def get_purpose(workspace: WorkspaceDep, purpose_id: Id, response: Response) -> Any:
    purpose = purposes.get_purpose(workspace, purpose_id)
    tagged(response, purpose.revision)
    return purpose


@router.patch("/purposes/{purpose_id}", response_model=PurposeView, responses=declared(404, 409, 412, 428))
def patch_purpose(workspace: WorkspaceDep, actor: ActorDep, purpose_id: Id, edit: PurposeEdit, revision: RevisionDep, response: Response) -> Any:
    """Keep new weights, or change what it asks for."""
    purpose = purposes.edit_purpose(workspace, actor, purpose_id, edit, revision)
    tagged(response, purpose.revision)
    return purpose


@router.get("/purposes/{purpose_id}/ranking", response_model=Ranking, responses=declared(404))
def get_ranking(workspace: WorkspaceDep, purpose_id: Id) -> Any:
    return ranking.rank(workspace, purpose_id)


@router.post("/purposes/{purpose_id}/ranking", response_model=Ranking, responses=declared(404))
def post_ranking(workspace: WorkspaceDep, purpose_id: Id, tried: WeightsEdit) -> Any:
    """The ranking under weights that are only tried, not kept."""
    return ranking.rank(workspace, purpose_id, tried.weights, tried.bounds_exact)


@router.get("/studies/{study_id}/criteria", response_model=CriterionOptions, responses=declared(404))
def get_criteria(workspace: WorkspaceDep, study_id: Id) -> Any:
    """What a purpose may ask of the arms of a study."""
    return purposes.criterion_options(workspace, study_id)
