"""Findings of tests and of studies."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import Query

from assayer.api.common import WorkspaceDep, area
from assayer.api.description import declared
from assayer.services.findings import across, one_test
from assayer.services.findings.across_views import AcrossView
from assayer.services.findings.views import Findings
from assayer.services.requests import Id

router = area()


@router.get("/tests/{test_id}/findings", response_model=Findings, responses=declared(404))
def get_findings(
    workspace: WorkspaceDep,
    test_id: Id,
    quantity: Annotated[str | None, Query(max_length=60)] = None,
    end: Annotated[str | None, Query(max_length=80, description="the way of ending to compare; default: the most common")] = None,
    reference: Annotated[Id | None, Query(description="the arm to compare with; default: the study's reference")] = None,
    add: Annotated[list[Id] | None, Query(max_length=20, description="materials whose earlier results are shown too")] = None,
) -> Any:
    return one_test.findings(workspace, test_id, quantity, end, reference, add or ())


@router.get("/studies/{study_id}/across", response_model=AcrossView, responses=declared(404))
def get_across(
    workspace: WorkspaceDep, study_id: Id, reference: Annotated[Id | None, Query(description="the arm to compare with; default: the study's reference")] = None
) -> Any:
    """All tests of a study side by side."""
    return across.across(workspace, study_id, reference)
