"""G-code files: taken in and inspected, compared, stepped."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import Depends, Query, Request, Response
from fastapi.responses import StreamingResponse
from starlette.concurrency import run_in_threadpool

from assayer.api.common import ActorDep, WorkspaceDep, area
from assayer.api.description import BYTES, GCODE, declared
from assayer.api.series import SeriesDep
from assayer.core.errors import TooLargeError
from assayer.services.dial_in.requests import SeriesIn
from assayer.services.gcode import files
from assayer.services.gcode.files import MOST_BYTES, Inspections
from assayer.services.gcode.views import FileComparison, GcodeJob, GcodeList, GcodeView, StepPlan
from assayer.services.requests import Id, Name

router = area()


async def _inspections(request: Request) -> Inspections:
    state = request.app.state
    if state.inspections is None:
        state.inspections = Inspections(state.workspace)
    found: Inspections = state.inspections
    return found


InspectionsDep = Annotated[Inspections, Depends(_inspections)]


@router.get("/gcode", response_model=GcodeList, responses=declared())
def get_files(workspace: WorkspaceDep, trail_id: Annotated[Id | None, Query()] = None) -> Any:
    return files.list_files(workspace, trail_id)


@router.put("/gcode/{file_id}", max_body_size=MOST_BYTES + 1, response_model=GcodeJob, status_code=202, responses=declared(404, 409, 413), openapi_extra=BYTES)
async def put_file(
    workspace: WorkspaceDep,
    actor: ActorDep,
    inspections: InspectionsDep,
    request: Request,
    file_id: Id,
    name: Annotated[Name, Query()],
    trial_id: Annotated[Id | None, Query(description="the trial it was made for")] = None,
    plate_id: Annotated[Id | None, Query(description="the plate it was made for")] = None,
) -> Any:
    """Take in a G-code file as it is; it is inspected beside all else, and kept once that is done."""
    coming = await run_in_threadpool(workspace.files.incoming)
    try:
        async for part in request.stream():
            await run_in_threadpool(coming.write, part)
            if coming.size > MOST_BYTES:
                raise TooLargeError(f"the file has more than {MOST_BYTES / 1e6:.0f} MB")
        return await run_in_threadpool(inspections.start, actor, file_id, name, coming, trial_id, plate_id)
    except BaseException:
        coming.drop()
        raise


@router.get("/gcode/{file_id}/job", response_model=GcodeJob, responses=declared(404))
def get_file_job(inspections: InspectionsDep, file_id: Id) -> Any:
    """How far the inspection of a file is."""
    return inspections.shown(file_id)


@router.delete("/gcode/{file_id}/job", response_model=GcodeJob, responses=declared(404))
def cancel_file_job(inspections: InspectionsDep, file_id: Id) -> Any:
    """Stop an inspection; the file is dropped."""
    return inspections.cancel(file_id)


@router.get("/gcode/{file_id}", response_model=GcodeView, responses=declared(404))
def get_file(workspace: WorkspaceDep, file_id: Id, sheet_id: Annotated[Id | None, Query()] = None) -> Any:
    """A file with its inspection, held against the sheet of its trial or the one named."""
    return files.get_file(workspace, file_id, sheet_id)


@router.get("/gcode-differences", response_model=FileComparison, responses=declared(404))
def get_file_differences(workspace: WorkspaceDep, a: Annotated[Id, Query()], b: Annotated[Id, Query()]) -> Any:
    """Two files: time, filament, and height by height."""
    return files.compare_files(workspace, a, b)


@router.post("/gcode/{file_id}/steps", response_model=StepPlan, responses=declared(404))
def post_steps(workspace: WorkspaceDep, file_id: Id, told: SeriesIn) -> Any:
    """What a stepped series would put into a file, and where."""
    return files.plan_file_steps(workspace, file_id, told)


@router.get("/gcode/{file_id}/stepped.gcode", response_class=StreamingResponse, responses=GCODE | declared(404))
def get_stepped(workspace: WorkspaceDep, file_id: Id, told: SeriesDep) -> Response:
    """The file with the commands of a series put in; all else byte for byte."""
    pieces, name = files.stepped_file(workspace, file_id, told)
    plain = name.encode("ascii", "replace").decode().replace('"', "").replace("\\", "").replace("?", "_")
    return StreamingResponse(pieces, media_type="text/x-gcode", headers={"Content-Disposition": f'attachment; filename="{plain}"'})


@router.put("/gcode/{file_id}/retraction", response_model=GcodeList, responses=declared(404))
def retract_file(workspace: WorkspaceDep, actor: ActorDep, file_id: Id, back: bool = False) -> Any:
    return files.retract_file(workspace, actor, file_id, back)
