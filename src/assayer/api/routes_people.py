"""Who signs entries, and what a code stands for."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import Query

from assayer.api.common import ActorDep, WorkspaceDep, area
from assayer.api.description import declared
from assayer.services import codes, people
from assayer.services.codes import CodeView
from assayer.services.people import People
from assayer.services.requests import Name

router = area()


@router.get("/people", response_model=People, responses=declared())
def get_people(workspace: WorkspaceDep) -> Any:
    return people.list_people(workspace)


@router.put("/people/{name}", response_model=People, responses=declared())
def put_person(workspace: WorkspaceDep, actor: ActorDep, name: Name) -> Any:
    return people.add_person(workspace, actor, name)


@router.get("/codes", response_model=CodeView, responses=declared(404))
def get_code(workspace: WorkspaceDep, text: Annotated[str, Query(min_length=1, max_length=200)]) -> Any:
    """What a scanned or typed code, or a URL that ends in one, stands for."""
    return codes.resolve_code(workspace, text)
