"""Tests that a lab defines itself: the language of their formulas, trying one on samples, keeping versions."""

from __future__ import annotations

from typing import Any

from fastapi import Response

from assayer.api.common import ActorDep, WorkspaceDep, area, made, tagged
from assayer.api.description import AGAIN, declared
from assayer.services.own_methods import own_methods
from assayer.services.own_methods.requests import NewOwnMethod, OwnTrial
from assayer.services.own_methods.views import OwnLanguage, OwnMethodList, OwnMethodView, OwnTrialView
from assayer.services.requests import Id

router = area()


@router.get("/own-methods/language", response_model=OwnLanguage, responses=declared())
def get_own_language() -> Any:
    """Functions, constants and units of formulas, and their grammar."""
    return own_methods.language()


@router.post("/own-methods/trial", response_model=OwnTrialView, responses=declared())
def post_own_trial(asked: OwnTrial) -> Any:
    """What a definition makes of sample readings, with every fault and its place; nothing is kept."""
    return own_methods.try_definition(asked)


@router.get("/own-methods", response_model=OwnMethodList, responses=declared())
def get_own_methods(workspace: WorkspaceDep) -> Any:
    return own_methods.list_own(workspace)


@router.post("/own-methods", response_model=OwnMethodView, status_code=201, responses=declared(409) | AGAIN)
def post_own_method(workspace: WorkspaceDep, actor: ActorDep, new: NewOwnMethod) -> Response:
    """A new test, or the next version of one: what was planned with an earlier version stays with it."""
    view, fresh = own_methods.add_own(workspace, actor, new)
    return made(view, fresh, view.revision)


@router.put("/own-methods/{method_id}/withdrawal", response_model=OwnMethodView, responses=declared(404))
def put_own_withdrawal(workspace: WorkspaceDep, actor: ActorDep, method_id: Id, response: Response) -> Any:
    """Offer a version no more for new plans."""
    return _tagged(own_methods.withdraw_own(workspace, actor, method_id, False), response)


@router.delete("/own-methods/{method_id}/withdrawal", response_model=OwnMethodView, responses=declared(404))
def delete_own_withdrawal(workspace: WorkspaceDep, actor: ActorDep, method_id: Id, response: Response) -> Any:
    """Offer it again."""
    return _tagged(own_methods.withdraw_own(workspace, actor, method_id, True), response)


def _tagged(view: OwnMethodView, response: Response) -> OwnMethodView:
    tagged(response, view.revision)
    return view
