"""Findings of tests and of studies."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import Query, Response

from assayer.api.common import ActorDep, RevisionDep, WorkspaceDep, area, made, tagged
from assayer.api.description import AGAIN, declared
from assayer.services.findings import (
    across,
    decisions,
    doubts,
    factors,
    one_test,
    rig_decisions,
    rig_drift,
    rig_pairs,
    specimen_photos,
    statements,
    strength_spread,
)
from assayer.services.findings.across_views import AcrossView
from assayer.services.findings.doubt_views import DecisionView, DoubtsView
from assayer.services.findings.factor_views import FactorsView
from assayer.services.findings.requests import ConversionEdit, DecisionEdit, NewConversion, NewDecision, TypedText
from assayer.services.findings.rig_views import ConversionView, RigDrift, RigsCompared
from assayer.services.findings.views import Findings, SpecimenPhotos, StatementsView, StrengthSpread
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


@router.get("/studies/{study_id}/doubts", response_model=DoubtsView, responses=declared(404))
def get_doubts(
    workspace: WorkspaceDep,
    study_id: Id,
    test: Annotated[Id | None, Query(description="only the doubts about this test, and about the whole study")] = None,
    quantity: Annotated[str | None, Query(max_length=60, description="of the test; default: the one that its verdicts rest on")] = None,
) -> Any:
    """What someone should decide on: worked out from the results, with what was decided."""
    return doubts.doubts(workspace, study_id, test, quantity)


@router.post("/studies/{study_id}/doubts/decisions", response_model=DecisionView, status_code=201, responses=declared(404, 409) | AGAIN)
def post_decision(workspace: WorkspaceDep, actor: ActorDep, study_id: Id, new: NewDecision) -> Response:
    """A note that settles a doubt, or further specimens to test."""
    body, is_new = decisions.decide(workspace, actor, study_id, new)
    return made(body, is_new, body.revision)


@router.patch("/doubts/decisions/{decision_id}", response_model=DecisionView, responses=declared(404, 409, 412, 428))
def patch_decision(workspace: WorkspaceDep, actor: ActorDep, revision: RevisionDep, decision_id: Id, edit: DecisionEdit, response: Response) -> Any:
    """Taken back, so that the doubt is open again, or brought back."""
    body = decisions.edit_decision(workspace, actor, decision_id, edit, revision)
    tagged(response, body.revision)
    return body


@router.post("/statements", response_model=StatementsView, responses=declared(404))
def post_statements(workspace: WorkspaceDep, typed: TypedText) -> Any:
    """The statements of a text about materials, held against the results; nothing is stored."""
    return statements.check_typed(workspace, typed.text, typed.study_id)


@router.get("/tests/{test_id}/factors", response_model=FactorsView, responses=declared(404))
def get_factors(workspace: WorkspaceDep, test_id: Id, quantity: Annotated[str | None, Query(max_length=60)] = None) -> Any:
    """What each factor of a study does to a quantity, how factors act together, and the sweep of a setting."""
    return factors.factors(workspace, test_id, quantity)


@router.get("/tests/{test_id}/photos", response_model=SpecimenPhotos, responses=declared(404))
def get_specimen_photos(workspace: WorkspaceDep, test_id: Id) -> Any:
    """Photographs of the specimens of a test, before and after it."""
    return specimen_photos.specimen_photos(workspace, test_id)


@router.get("/tests/{test_id}/spread", response_model=StrengthSpread, responses=declared(404))
def get_strength_spread(
    workspace: WorkspaceDep,
    test_id: Id,
    quantity: Annotated[str | None, Query(max_length=60)] = None,
    end: Annotated[str | None, Query(max_length=80, description="the way of ending that is shown; default: the most common")] = None,
) -> Any:
    """A quantity on Weibull paper: breaks, and the line fitted to them and to lower bounds."""
    return strength_spread.strength_spread(workspace, test_id, quantity, end)


@router.get("/rigs/{rig_id}/drift", response_model=RigDrift, responses=declared(404))
def get_drift(workspace: WorkspaceDep, rig_id: Id) -> Any:
    """The rig's reference material from study to study."""
    return rig_drift.drift(workspace, rig_id)


@router.get("/rigs/{rig_id}/against/{other_id}", response_model=RigsCompared, responses=declared(404))
def get_rigs_compared(workspace: WorkspaceDep, rig_id: Id, other_id: Id) -> Any:
    """What was measured alike on two rigs, and the lines that convert from the first to the second."""
    return rig_pairs.compare_rigs(workspace, rig_id, other_id)


@router.post("/rigs/{rig_id}/against/{other_id}/conversions", response_model=ConversionView, status_code=201, responses=declared(404, 409) | AGAIN)
def post_conversion(workspace: WorkspaceDep, actor: ActorDep, rig_id: Id, other_id: Id, new: NewConversion) -> Response:
    """Accept the line of one comparison: results of the first rig are then shown converted to the second."""
    body, is_new = rig_decisions.accept_conversion(workspace, actor, rig_id, other_id, new)
    return made(body, is_new, body.revision)


@router.patch("/rigs/conversions/{conversion_id}", response_model=ConversionView, responses=declared(404, 409, 412, 428))
def patch_conversion(workspace: WorkspaceDep, actor: ActorDep, revision: RevisionDep, conversion_id: Id, edit: ConversionEdit, response: Response) -> Any:
    """Taken back, or brought back."""
    body = rig_decisions.edit_conversion(workspace, actor, conversion_id, edit, revision)
    tagged(response, body.revision)
    return body
