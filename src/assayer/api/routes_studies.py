"""Studies and their board."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import Header, Response

from assayer.api.common import ActorDep, Limit, Offset, RevisionDep, WorkspaceDep, area, made, tagged
from assayer.api.description import AGAIN, BINARY, declared
from assayer.services.bench import curves
from assayer.services.requests import Id
from assayer.services.rigs.views import ScatterList
from assayer.services.studies import board, changing, designs, fairness, listing, planning, power, scatter
from assayer.services.studies.plan_views import DesignView, FairnessView, PowerView
from assayer.services.studies.requests import DesignQuestion, NewStudy, ReferenceEdit, StudyCopy, StudyEdit, StudyExtension
from assayer.services.studies.views import BoardView, StudyPage, StudyView

router = area()


@router.get("/studies", response_model=StudyPage, responses=declared())
def get_studies(workspace: WorkspaceDep, limit: Limit = 50, offset: Offset = 0, put_away: bool = False) -> Any:
    """Newest first; those that were put away only when asked for."""
    return listing.list_studies(workspace, limit, offset, put_away)


@router.post("/studies", response_model=StudyView, status_code=201, responses=declared(404, 409) | AGAIN)
def post_study(workspace: WorkspaceDep, actor: ActorDep, new: NewStudy) -> Response:
    return made(*planning.create_study(workspace, actor, new))


@router.get("/studies/{study_id}", response_model=StudyView, responses=declared(404))
def get_study(workspace: WorkspaceDep, study_id: Id, response: Response) -> Any:
    study = listing.get_study(workspace, study_id)
    tagged(response, study.revision)
    return study


@router.patch("/studies/{study_id}", response_model=StudyView, responses=declared(404, 412, 428))
def patch_study(workspace: WorkspaceDep, actor: ActorDep, study_id: Id, edit: StudyEdit, revision: RevisionDep, response: Response) -> Any:
    """Rename a study, or put it away and back."""
    study = changing.edit_study(workspace, actor, study_id, edit, revision)
    tagged(response, study.revision)
    return study


@router.post("/studies/{study_id}/extension", response_model=StudyView, responses=declared(404, 409, 412, 428))
def post_extension(workspace: WorkspaceDep, actor: ActorDep, study_id: Id, more: StudyExtension, revision: RevisionDep, response: Response) -> Any:
    """Plan more materials, tests, or specimens of each."""
    study = changing.extend_study(workspace, actor, study_id, more, revision)
    tagged(response, study.revision)
    return study


@router.post("/studies/{study_id}/copies", response_model=StudyView, status_code=201, responses=declared(404, 409) | AGAIN)
def post_copy(workspace: WorkspaceDep, actor: ActorDep, study_id: Id, wanted: StudyCopy) -> Response:
    """Plan it once more, or a part of it."""
    return made(*changing.copy_study(workspace, actor, study_id, wanted))


@router.put("/studies/{study_id}/reference", response_model=StudyView, responses=declared(404, 412, 428))
def put_reference(workspace: WorkspaceDep, actor: ActorDep, study_id: Id, edit: ReferenceEdit, revision: RevisionDep, response: Response) -> Any:
    """Make another arm the reference of every verdict."""
    study = board.set_reference(workspace, actor, study_id, edit.reference_arm_id, revision)
    tagged(response, study.revision)
    return study


@router.get("/studies/{study_id}/board", response_model=BoardView, responses=declared(404) | {304: {"description": "unchanged"}})
def get_board(workspace: WorkspaceDep, study_id: Id, if_none_match: Annotated[str | None, Header(max_length=80)] = None) -> Response:
    """The cached columns as they are: not parsed on the way, so a large board is sent in a few milliseconds."""
    body, revision = board.board(workspace, study_id)
    tag = f'"{revision}"'
    if if_none_match == tag:
        return Response(status_code=304, headers={"ETag": tag})
    return Response(body, media_type="application/json", headers={"ETag": tag})


@router.get("/studies/{study_id}/fairness", response_model=FairnessView, responses=declared(404))
def get_fairness(workspace: WorkspaceDep, study_id: Id) -> Any:
    """What stands between the plan and an answer, and how to mend it; as printed once something is."""
    return fairness.fairness(workspace, study_id)


@router.get("/studies/{study_id}/power", response_model=PowerView, responses=declared(404))
def get_power(workspace: WorkspaceDep, study_id: Id) -> Any:
    """What differences the planned specimens can see, and what they take."""
    return power.power(workspace, study_id)


@router.post("/designs", response_model=DesignView, responses=declared())
def post_design(asked: DesignQuestion) -> Any:
    """The runs of a design of several settings, looked at before a study is made of them."""
    return designs.design(asked)


@router.get("/scatter", response_model=ScatterList, responses=declared())
def get_scatter(workspace: WorkspaceDep) -> Any:
    """How far specimens of one arm scatter here, by method and orientation."""
    return scatter.scatter(workspace)


@router.get("/tests/{test_id}/curves", response_class=Response, responses=declared(404) | BINARY)
def get_curves(workspace: WorkspaceDep, test_id: Id) -> Response:
    """Overviews of all curves of a test, as binary float32."""
    return Response(curves.curves_of_test(workspace, test_id), media_type="application/octet-stream")
