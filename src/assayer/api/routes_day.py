"""The day sheet."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Query

from assayer.api.common import WorkspaceDep
from assayer.api.description import declared
from assayer.services.day import search, sheet
from assayer.services.day.views import DaySheet, FoundList

router = APIRouter(prefix="/api")


@router.get("/day", response_model=DaySheet, responses=declared())
def get_day(workspace: WorkspaceDep) -> Any:
    """What runs, what is due or late, what waits for a decision."""
    return sheet.day_sheet(workspace)


@router.get("/found", response_model=FoundList, responses=declared())
def get_found(workspace: WorkspaceDep, words: Annotated[str, Query(max_length=200)] = "", limit: Annotated[int, Query(ge=1, le=50)] = 12) -> Any:
    """Everything that holds all of the words: materials, spools, studies, purposes, rigs, specimens."""
    return search.search(workspace, words, limit)
