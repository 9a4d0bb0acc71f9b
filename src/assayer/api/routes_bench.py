"""The bench and what was entered there."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import Query, Request, Response
from starlette.concurrency import run_in_threadpool

from assayer.api.common import ActorDep, RevisionDep, WorkspaceDep, area, made, tagged, whole_body
from assayer.api.description import BINARY, BYTES, declared
from assayer.formats.text import MAX_BYTES
from assayer.services.bench import curves, grading, many, preview, queue, recompute, rounds, runs, specimens
from assayer.services.bench.grading_views import GradingView
from assayer.services.bench.requests import Correction, NewRun, PreviewRequest, RunEdit
from assayer.services.bench.rounds_views import RackList, RackView
from assayer.services.bench.views import (
    LeaseView,
    ManyCurves,
    MovedList,
    Outdated,
    Preview,
    Queue,
    RecordingView,
    RunView,
    SpecimenView,
    WaitingTests,
)
from assayer.services.requests import Id

router = area()

MOST_BUNDLE = 2 * MAX_BYTES
"""Bytes of many files that are sent together."""


@router.get("/recomputing", response_model=Outdated, responses=declared())
def get_outdated(workspace: WorkspaceDep) -> Any:
    """How many runs were computed by an earlier reduction, and how far recomputing is."""
    return recompute.outdated(workspace)


@router.post("/recomputing", response_model=MovedList, responses=declared())
def post_recomputing(workspace: WorkspaceDep, actor: ActorDep) -> Any:
    """Reduce every run by the newest rules; answers what moved."""
    return recompute.recompute_all(workspace, actor)


Station = Annotated[str, Query(min_length=1, max_length=40, pattern=r"^[A-Za-z0-9_-]+$")]


@router.get("/tests/{test_id}/grading", response_model=GradingView, responses=declared(404))
def get_grading(workspace: WorkspaceDep, test_id: Id, blind: Annotated[bool, Query(description="nothing that tells the material")] = True) -> Any:
    """The prints of a graded test, its traits with their written steps, and every grade so far."""
    return grading.grading(workspace, test_id, blind)


@router.get("/tests/{test_id}/queue", response_model=Queue, responses=declared(404))
def get_queue(workspace: WorkspaceDep, test_id: Id, station: Station = "bench", blind: bool = False) -> Any:
    return queue.queue(workspace, test_id, station, blind)


@router.put("/specimens/{specimen_id}/lease", response_model=LeaseView, responses=declared(404))
def put_lease(workspace: WorkspaceDep, actor: ActorDep, specimen_id: Id, station: Station) -> Any:
    """Hold a specimen for a station while it is being tested."""
    return queue.take_lease(workspace, actor, specimen_id, station)


@router.get("/specimens/{specimen_id}", response_model=SpecimenView, responses=declared(404))
def get_specimen(workspace: WorkspaceDep, specimen_id: Id) -> Any:
    return specimens.get_specimen(workspace, specimen_id)


@router.post("/previews", response_model=Preview, responses=declared(404))
def post_preview_of_entry(workspace: WorkspaceDep, asked: PreviewRequest) -> Any:
    """Reduce an entry without keeping it."""
    return preview.preview_entry(workspace, asked)


@router.post("/runs", response_model=RunView, status_code=201, responses=declared(404, 409) | {200: {"description": "the same entry came before"}})
def post_run(workspace: WorkspaceDep, actor: ActorDep, new: NewRun) -> Response:
    run, is_new = runs.accept(workspace, actor, new)
    return made(run, is_new, run.revision)


@router.get("/runs/{run_id}", response_model=RunView, responses=declared(404))
def get_run(workspace: WorkspaceDep, run_id: Id, response: Response) -> Any:
    run = specimens.get_run(workspace, run_id)
    tagged(response, run.revision)
    return run


@router.patch("/runs/{run_id}", response_model=RunView, responses=declared(404, 409, 412, 428))
def patch_run(workspace: WorkspaceDep, actor: ActorDep, run_id: Id, edit: RunEdit, revision: RevisionDep, response: Response) -> Any:
    """Change validity, outcome or options."""
    run = runs.edit_run(workspace, actor, run_id, edit, revision)
    tagged(response, run.revision)
    return run


@router.post("/runs/{run_id}/corrections", response_model=RunView, status_code=201, responses=declared(404, 409, 412, 428))
def post_correction(workspace: WorkspaceDep, actor: ActorDep, run_id: Id, correction: Correction, revision: RevisionDep) -> Response:
    """Add a reading that supersedes an earlier one."""
    run, is_new = runs.correct(workspace, actor, run_id, correction, revision)
    return made(run, is_new, run.revision)


@router.put("/runs/{run_id}/readings/{reading_id}/retraction", response_model=RunView, responses=declared(404, 409))
def put_reading_retraction(workspace: WorkspaceDep, actor: ActorDep, run_id: Id, reading_id: Id) -> Any:
    """Take a reading of an open run back; it stays on record."""
    return runs.retract_reading(workspace, actor, run_id, reading_id)


@router.put("/runs/{run_id}/retraction", response_model=RunView, responses=declared(404))
def put_retraction(workspace: WorkspaceDep, actor: ActorDep, run_id: Id, response: Response) -> Any:
    """Take an accepted entry back; it stays on record."""
    run = runs.retract(workspace, actor, run_id)
    tagged(response, run.revision)
    return run


@router.delete("/runs/{run_id}/retraction", response_model=RunView, responses=declared(404, 409))
def delete_retraction(workspace: WorkspaceDep, actor: ActorDep, run_id: Id, response: Response) -> Any:
    """Let an entry that was taken back count again."""
    run = runs.restore(workspace, actor, run_id)
    tagged(response, run.revision)
    return run


@router.get("/runs/{run_id}/curve", response_class=Response, responses=declared(404) | BINARY)
def get_run_curve(workspace: WorkspaceDep, run_id: Id) -> Response:
    """The reduced curve of one run, as binary float32."""
    return Response(curves.run_curve(workspace, run_id), media_type="application/octet-stream")


@router.put(
    "/curves/{curve_id}",
    max_body_size=MAX_BYTES,
    response_model=RecordingView,
    status_code=201,
    responses=declared(404, 409, 413),
    openapi_extra=BYTES,
)
async def put_curve(
    workspace: WorkspaceDep,
    actor: ActorDep,
    request: Request,
    curve_id: Id,
    rig_version_id: Annotated[Id, Query()],
    file_name: Annotated[str, Query(max_length=200)] = "recording",
    columns: Annotated[str | None, Query(max_length=400, description="time:ms,travel:mm,force:gf")] = None,
    log: Annotated[bool, Query(description="what a thermometer's logger wrote: temperatures and their times")] = False,
) -> Response:
    """Take in a recorded curve: the bytes of the file as they are. Kept only if it was read for certain."""
    data = await whole_body(request, MAX_BYTES, "export fewer rows a second")
    body = await run_in_threadpool(curves.take_in, workspace, actor, curve_id, rig_version_id, file_name, data, columns, log)
    return made(*body)


@router.post("/tests/{test_id}/curves", max_body_size=MOST_BUNDLE, response_model=ManyCurves, responses=declared(404, 413), openapi_extra=BYTES)
async def post_curves(
    workspace: WorkspaceDep,
    actor: ActorDep,
    request: Request,
    test_id: Id,
    rig_version_id: Annotated[Id, Query()],
    taken: Annotated[list[Id] | None, Query(max_length=2000, description="specimens that earlier bundles were matched to")] = None,
) -> Any:
    """Take in many recordings at once: uint32 length of a JSON head (little-endian), the head with id, name and size of each file, the files."""
    data = await whole_body(request, MOST_BUNDLE, "send fewer files at once")
    return await run_in_threadpool(lambda: many.take_in_many(workspace, actor, test_id, rig_version_id, many.unbundle(data), taken or ()))


@router.get("/curves/{curve_id}/raw", response_class=Response, responses=declared(404) | BINARY)
def get_raw_curve(workspace: WorkspaceDep, curve_id: Id) -> Response:
    """A curve as recorded, before any reduction, as binary float32."""
    return Response(curves.raw_curve(workspace, curve_id), media_type="application/octet-stream")


@router.get("/bench", response_model=WaitingTests, responses=declared())
def get_waiting(workspace: WorkspaceDep) -> Any:
    """Tests with specimens that wait on the bench."""
    return queue.waiting_tests(workspace)


@router.get("/racks", response_model=RackList, responses=declared())
def get_racks(workspace: WorkspaceDep) -> Any:
    """Racks with what hangs on them and when they are to be read next."""
    return rounds.list_racks(workspace)


@router.get("/racks/{rig_id}", response_model=RackView, responses=declared(404))
def get_rack(workspace: WorkspaceDep, rig_id: Id, station: Station = "bench", blind: bool = False) -> Any:
    """One rack, place by place: what is due, what was read, what waits to be hung."""
    return rounds.get_rack(workspace, rig_id, station, blind)
