"""Printers, whether a spool fits, shapes as solids, and what is printed."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from fastapi import APIRouter, Path, Query, Response

from assayer.api.common import ActorDep, RevisionDep, WorkspaceDep, made
from assayer.api.description import AGAIN, Answers, declared
from assayer.core.shapes.printed import FLAT
from assayer.services.printing import batches, fit, printers, shapes
from assayer.services.printing.requests import BatchOutcome, FitQuestion, HardwareIn, NewBatch, NewPrinter
from assayer.services.printing.views import BatchList, BatchView, FitView, PrinterList, PrinterView, PrintPlan, ShapeList, ShapeSheet
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


ShapeName = Annotated[str, Path(max_length=40)]
Sizes = Annotated[list[Annotated[str, Query(max_length=60)]], Query(max_length=20, description="own lengths, as width=6, mm")]
SHAPE_FILE: Answers = {200: {"description": "the solid, mm, or its drawing", "content": {m: {} for m in shapes.MEDIA_OF.values()}}}


@router.get("/shapes", response_model=ShapeList, responses=declared())
def get_shapes() -> Any:
    """The specimen shapes there are, and how each can stand."""
    return shapes.list_shapes()


@router.get("/shapes/{name}/sheet", response_model=ShapeSheet, responses=declared(404))
def get_shape(name: ShapeName, size: Sizes = []) -> Any:  # noqa: B006
    """A shape in sizes of one's own."""
    return shapes.shape_sheet(name, shapes.sizes_told(size))


@router.get("/shapes/{name}/solid.{kind}", response_class=Response, responses=SHAPE_FILE | declared(404))
def get_shape_file(
    name: ShapeName,
    kind: Literal["stl", "3mf", "svg"],
    orientation: Literal["flat", "on edge", "upright"] = FLAT,  # type: ignore[assignment]
    size: Sizes = [],  # noqa: B006
    number: Annotated[int | None, Query(ge=1, le=999, description="place on the plate, sunk into it where that does not weaken")] = None,
) -> Response:
    """A shape as it stands on the bed, or its dimensioned drawing."""
    body = shapes.shape_file(name, orientation, kind, shapes.sizes_told(size), number)
    # it is one of those there are, or it was refused
    file = f"{name}-{orientation.replace(' ', '-')}.{kind}"
    return Response(body, media_type=shapes.MEDIA_OF[kind], headers={"Content-Disposition": f'attachment; filename="{file}"'})


@router.get("/studies/{study_id}/print-plan", response_model=PrintPlan, responses=declared(404))
def get_print_plan(workspace: WorkspaceDep, study_id: Id) -> Any:
    """What of a study waits to be printed, and what is to be printed again."""
    return batches.print_plan(workspace, study_id)


@router.post("/batches", response_model=BatchView, status_code=201, responses=declared(404, 409) | AGAIN)
def post_batch(workspace: WorkspaceDep, actor: ActorDep, new: NewBatch) -> Response:
    """Keep a print job: its specimens get their codes, its spool is debited."""
    return made(*batches.print_batch(workspace, actor, new))


@router.get("/studies/{study_id}/batches", response_model=BatchList, responses=declared(404))
def get_batches(workspace: WorkspaceDep, study_id: Id) -> Any:
    """What was printed of a study, with how each specimen came off the plate."""
    return batches.batches_of(workspace, study_id)


@router.patch("/batches/{batch_id}", response_model=BatchView, responses=declared(404, 409))
def patch_batch(workspace: WorkspaceDep, actor: ActorDep, batch_id: Id, told: BatchOutcome) -> Any:
    """How specimens came off the plate; what is not good is printed again."""
    return batches.judge_batch(workspace, actor, batch_id, told)
