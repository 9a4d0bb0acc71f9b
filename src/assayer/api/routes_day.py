"""The day sheet."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter

from assayer.api.common import WorkspaceDep
from assayer.api.description import declared
from assayer.services.day import sheet
from assayer.services.day.views import DaySheet

router = APIRouter(prefix="/api")


@router.get("/day", response_model=DaySheet, responses=declared())
def get_day(workspace: WorkspaceDep) -> Any:
    """What runs, what is due or late, what waits for a decision."""
    return sheet.day_sheet(workspace)
