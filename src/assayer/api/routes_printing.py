"""Printers, and whether a spool fits."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter, Response

from assayer.api.common import ActorDep, RevisionDep, WorkspaceDep, made
from assayer.api.description import AGAIN, declared
from assayer.services.printing import batches, fit, printers
from assayer.services.printing.requests import FitQuestion, HardwareIn, NewBatch, NewPrinter
from assayer.services.printing.views import BatchView, FitView, PrinterList, PrinterView, PrintPlan
from assayer.services.requests import Id

router = APIRouter(prefix="/api")


@router.get("/printers", response_model=PrinterList, responses=declared())
def get_printers(workspace: WorkspaceDep) -> Any:
    return printers.list_printers(workspace)


@router.post("/printers", response_model=PrinterView, status_code=201, responses=declared(409) | AGAIN)
def post_printer(workspace: WorkspaceDep, actor: ActorDep, new: NewPrinter) -> Response:
    body, is_new = printers.add_printer(workspace, actor, new)
    return made(body, is_new, body.revision)


@router.patch("/printers/{printer_id}", response_model=PrinterView, responses=declared(404, 412, 428))
def patch_printer(workspace: WorkspaceDep, actor: ActorDep, printer_id: Id, edit: HardwareIn, revision: RevisionDep) -> Any:
    return printers.edit_printer(workspace, actor, printer_id, edit, revision)


@router.post("/fit", response_model=FitView, responses=declared(404))
def post_fit(workspace: WorkspaceDep, asked: FitQuestion) -> Any:
    """What this spool, printer and settings miss of what they need of one another."""
    return fit.fit_to_print(workspace, asked)


@router.get("/studies/{study_id}/print-plan", response_model=PrintPlan, responses=declared(404))
def get_print_plan(workspace: WorkspaceDep, study_id: Id) -> Any:
    """What of a study waits to be printed, and what is to be printed again."""
    return batches.print_plan(workspace, study_id)


@router.post("/batches", response_model=BatchView, status_code=201, responses=declared(404, 409) | AGAIN)
def post_batch(workspace: WorkspaceDep, actor: ActorDep, new: NewBatch) -> Response:
    """Keep a print job: its specimens get their codes, its spool is debited."""
    return made(*batches.print_batch(workspace, actor, new))
