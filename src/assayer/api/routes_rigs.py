"""Rigs and methods: channels, versions, calibrations, compliance, file templates, declarations."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import Path, Query, Request, Response
from starlette.concurrency import run_in_threadpool

from assayer.api.common import ActorDep, RevisionDep, WorkspaceDep, area, made
from assayer.api.description import AGAIN, BYTES, declared
from assayer.core.curves.compliance import STEEL, RigidBar
from assayer.formats.text import MAX_BYTES
from assayer.services.bench import recompute
from assayer.services.bench.views import MovedList, Recomputing
from assayer.services.requests import Id
from assayer.services.rigs import margins, methods, rigs, templates
from assayer.services.rigs.requests import CalibrationEdit, ComplianceEdit, LabMarginEdit, NewCalibration, NewRig, NewRigVersion, RigEdit, TemplateAnswer
from assayer.services.rigs.views import ComplianceView, Declarations, LabMarginList, RigList, RigPage, RigView

router = area()

MethodKey = Annotated[str, Path(min_length=1, max_length=60, pattern=r"^[A-Za-z0-9_.-]+$")]


@router.get("/declarations", response_model=Declarations, responses=declared())
def get_declarations(workspace: WorkspaceDep) -> Any:
    """Methods, outcomes, reasons, orientations, roles of columns, units: declared once, used by every page."""
    return methods.declarations(workspace)


@router.get("/rigs", response_model=RigList, responses=declared())
def get_rigs(workspace: WorkspaceDep) -> Any:
    return rigs.list_rigs(workspace)


@router.post("/rigs", response_model=RigView, status_code=201, responses=declared(409) | AGAIN)
def post_rig(workspace: WorkspaceDep, actor: ActorDep, new: NewRig) -> Response:
    return made(*rigs.add_rig(workspace, actor, new))


@router.get("/rigs/{rig_id}", response_model=RigPage, responses=declared(404))
def get_rig(workspace: WorkspaceDep, rig_id: Id) -> Any:
    return rigs.get_rig(workspace, rig_id)


@router.patch("/rigs/{rig_id}", response_model=RigPage, responses=declared(404, 409))
def patch_rig(workspace: WorkspaceDep, actor: ActorDep, rig_id: Id, edit: RigEdit) -> Any:
    """Another name, or other methods."""
    return rigs.edit_rig(workspace, actor, rig_id, edit)


@router.post("/rigs/{rig_id}/versions", response_model=RigPage, status_code=201, responses=declared(404, 409) | AGAIN)
def post_version(workspace: WorkspaceDep, actor: ActorDep, rig_id: Id, new: NewRigVersion) -> Response:
    """The rig as it is from one day on; its results stay apart from the former ones."""
    return made(*rigs.add_version(workspace, actor, rig_id, new))


@router.post("/rig-versions/{rig_version_id}/calibrations", response_model=MovedList, status_code=201, responses=declared(404, 409) | AGAIN)
def post_calibration(workspace: WorkspaceDep, actor: ActorDep, rig_version_id: Id, new: NewCalibration) -> Response:
    """Keep a calibration; answers which results moved."""
    return made(*recompute.calibrate(workspace, actor, rig_version_id, new))


@router.get("/rig-versions/{rig_version_id}/recomputing", response_model=Recomputing, responses=declared(404))
def get_recomputing(workspace: WorkspaceDep, rig_version_id: Id) -> Any:
    """How far a correction of this rig is that is being worked out."""
    return recompute.recomputing(workspace, rig_version_id)


@router.patch("/calibrations/{calibration_id}", response_model=MovedList, responses=declared(404, 412, 428))
def patch_calibration(workspace: WorkspaceDep, actor: ActorDep, calibration_id: Id, edit: CalibrationEdit, revision: RevisionDep) -> Any:
    """Correct a calibration; answers which results moved."""
    return recompute.correct_calibration(workspace, actor, calibration_id, edit, revision)


@router.put("/rig-versions/{rig_version_id}/compliance", response_model=MovedList, responses=declared(404))
def put_compliance(workspace: WorkspaceDep, actor: ActorDep, rig_version_id: Id, edit: ComplianceEdit) -> Any:
    """Set the machine's compliance; answers which results moved."""
    return recompute.keep_compliance(workspace, actor, rig_version_id, edit)


@router.post(
    "/rig-versions/{rig_version_id}/compliance-reading",
    max_body_size=MAX_BYTES,
    response_model=ComplianceView,
    responses=declared(404),
    openapi_extra=BYTES,
)
async def post_compliance_reading(
    workspace: WorkspaceDep,
    request: Request,
    rig_version_id: Id,
    columns: Annotated[str | None, Query(max_length=400, description="time:ms,travel:mm,force:gf")] = None,
    bar_length: Annotated[float | None, Query(gt=0, le=1e4, description="of the bar between the grips, mm")] = None,
    bar_area: Annotated[float | None, Query(gt=0, le=1e5, description="of its section, mm²")] = None,
    bar_modulus: Annotated[float, Query(gt=0, le=1e6, description="of its material, MPa; default: steel")] = STEEL,
) -> Any:
    """What a recorded pull on a rigid bar shows, the bar's own give subtracted where its length and section are told; nothing is kept."""
    bar = None if bar_length is None or bar_area is None else RigidBar(bar_length, bar_area, bar_modulus)
    return await run_in_threadpool(recompute.read_compliance, workspace, rig_version_id, await request.body(), columns, bar)


@router.put("/rig-versions/{rig_version_id}/file-template", status_code=204, responses=declared(404))
def put_template(workspace: WorkspaceDep, actor: ActorDep, rig_version_id: Id, answer: TemplateAnswer) -> None:
    """Keep the answers about a file for the next ones of this rig."""
    templates.keep_template(workspace, actor, rig_version_id, answer)


@router.get("/margins", response_model=LabMarginList, responses=declared())
def get_margins(workspace: WorkspaceDep) -> Any:
    """The differences that matter to this lab; of what is not listed, that of the method."""
    return margins.list_margins(workspace)


@router.put("/methods/{method}/margins/{quantity}", response_model=LabMarginList, responses=declared(404))
def put_margin(workspace: WorkspaceDep, actor: ActorDep, method: MethodKey, quantity: MethodKey, edit: LabMarginEdit) -> Any:
    """Set the difference that matters to this lab; tests that are planned already keep theirs."""
    return margins.set_margin(workspace, actor, method, quantity, edit)
