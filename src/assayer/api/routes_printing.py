"""Printers, whether a spool fits, shapes as solids, and what is printed."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from fastapi import Path, Query, Response

from assayer.api.common import ActorDep, RevisionDep, WorkspaceDep, area, made
from assayer.api.description import AGAIN, Answers, declared
from assayer.core.shapes.printed import FLAT
from assayer.services.printing import batches, fit, judging, plate_files, plates, printers, relief_codes, shapes
from assayer.services.printing.requests import BatchOutcome, FitQuestion, NewBatch, NewPlates, NewPrinter, PrinterEdit, Refiling, SpareTaken, Treated
from assayer.services.printing.views import BatchList, BatchView, FitView, PlateList, PrinterList, PrinterView, PrintPlan, ShapeList, ShapeSheet
from assayer.services.requests import Id

router = area()


@router.get("/printers", response_model=PrinterList, responses=declared())
def get_printers(workspace: WorkspaceDep) -> Any:
    return printers.list_printers(workspace)


@router.post("/printers", response_model=PrinterView, status_code=201, responses=declared(409) | AGAIN)
def post_printer(workspace: WorkspaceDep, actor: ActorDep, new: NewPrinter) -> Response:
    body, is_new = printers.add_printer(workspace, actor, new)
    return made(body, is_new, body.revision)


@router.patch("/printers/{printer_id}", response_model=PrinterView, responses=declared(404, 412, 428))
def patch_printer(workspace: WorkspaceDep, actor: ActorDep, printer_id: Id, edit: PrinterEdit, revision: RevisionDep) -> Any:
    return printers.edit_printer(workspace, actor, printer_id, edit, revision)


@router.post("/fit", response_model=FitView, responses=declared(404))
def post_fit(workspace: WorkspaceDep, asked: FitQuestion) -> Any:
    """What this spool, printer and settings miss of what they need of one another."""
    return fit.fit_to_print(workspace, asked)


PLATES_FILE: Answers = {200: {"description": "each different plate as 3MF, and plates.csv", "content": {"application/zip": {}}}}
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
    return judging.judge_batch(workspace, actor, batch_id, told)


@router.post("/batches/{batch_id}/arm", response_model=BatchView, responses=declared(404, 409))
def post_batch_arm(workspace: WorkspaceDep, actor: ActorDep, batch_id: Id, told: Refiling) -> Any:
    """File a misprinted batch under the arm that it is in truth."""
    return judging.refile_batch(workspace, actor, batch_id, told)


@router.post("/batches/{batch_id}/treated", response_model=BatchView, responses=declared(404, 409))
def post_batch_treated(workspace: WorkspaceDep, actor: ActorDep, batch_id: Id, told: Treated) -> Any:
    """The specimens of a batch have had the treatment of their arm."""
    return judging.treat_batch(workspace, actor, batch_id, told)


@router.put("/slots/{slot_id}/specimen", response_model=BatchView, responses=declared(404, 409))
def put_slot_specimen(workspace: WorkspaceDep, actor: ActorDep, slot_id: Id, told: SpareTaken) -> Any:
    """Let a spare fill a replicate whose specimens were left out."""
    return judging.take_spare(workspace, actor, slot_id, told.specimen_id)


@router.get("/studies/{study_id}/plates", response_model=PlateList, responses=declared(404))
def get_plates(workspace: WorkspaceDep, study_id: Id) -> Any:
    """The plates of a study in the order of printing."""
    return plates.plates_of(workspace, study_id)


@router.post("/studies/{study_id}/plates", response_model=PlateList, status_code=201, responses=declared(404, 409))
def post_plates(workspace: WorkspaceDep, actor: ActorDep, study_id: Id, told: NewPlates) -> Any:
    """Lay out what waits to be printed: each arm in several batches, these in random, interleaved order."""
    return plates.lay_plates(workspace, actor, study_id, told)


@router.delete("/studies/{study_id}/plates", response_model=PlateList, responses=declared(404))
def delete_plates(workspace: WorkspaceDep, actor: ActorDep, study_id: Id) -> Any:
    """Take back the plates that were not printed."""
    return plates.take_back_plates(workspace, actor, study_id)


@router.get("/studies/{study_id}/plates.zip", response_class=Response, responses=PLATES_FILE | declared(404))
def get_plates_file(workspace: WorkspaceDep, study_id: Id) -> Response:
    """All plates that wait, each different one as 3MF, with a list of which is for what."""
    body = plate_files.plates_file(workspace, study_id)
    return Response(body, media_type="application/zip", headers={"Content-Disposition": 'attachment; filename="plates.zip"'})


@router.post("/plates/{plate_id}/codes", response_model=PlateList, responses=declared(404, 409))
def post_plate_codes(workspace: WorkspaceDep, actor: ActorDep, plate_id: Id) -> Any:
    """Give the specimens of a plate their codes before it is printed: they are sunk into the pieces."""
    return relief_codes.sink_codes(workspace, actor, plate_id)


@router.get("/plates/{plate_id}/plate.{kind}", response_class=Response, responses=SHAPE_FILE | declared(404))
def get_plate_file(workspace: WorkspaceDep, plate_id: Id, kind: Literal["3mf", "stl", "svg"]) -> Response:
    """One plate as solids at their places, or drawn to scale."""
    body, number = plate_files.plate_file(workspace, plate_id, kind)
    headers = {"Content-Disposition": f'attachment; filename="plate-{number:02}.{kind}"'}
    return Response(body, media_type=plate_files.MEDIA_OF[kind], headers=headers)
