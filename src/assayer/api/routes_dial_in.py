"""The dial-in: declarations, sheets, trails and trials, towers, hardware."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from fastapi import Query, Response

from assayer.api.common import ActorDep, RevisionDep, WorkspaceDep, area, made, tagged
from assayer.api.description import AGAIN, SOLID, declared
from assayer.api.series import SeriesDep
from assayer.formats.solids.mesh_file import MEDIA
from assayer.services.dial_in import hardware, hardware_changes, light_table, sheets, towers, trails, trials, wetness
from assayer.services.dial_in.hardware_views import HardwareRecord, HardwareView
from assayer.services.dial_in.light_table_views import LightTableView
from assayer.services.dial_in.requests import (
    BedSurfaceEdit,
    NewBedSurface,
    NewDialCalibration,
    NewGrades,
    NewNozzle,
    NewPrinterChange,
    NewTrail,
    NewTrial,
    NozzleEdit,
    PrinterChangeEdit,
    SeriesIn,
    SheetQuestion,
    TrailEdit,
    TrialRecord,
)
from assayer.services.dial_in.views import (
    DialInDeclarations,
    NextSteps,
    SeriesLook,
    SeriesView,
    SheetComparison,
    SheetLook,
    SheetPage,
    TrailList,
    TrailView,
)
from assayer.services.dial_in.wetness_views import WetView
from assayer.services.requests import Id

router = area()


@router.get("/dial-in", response_model=DialInDeclarations, responses=declared())
def get_dial_in() -> Any:
    """What may be set, graded and seen."""
    return sheets.declarations()


@router.get("/sheets/{sheet_id}", response_model=SheetPage, responses=declared(404))
def get_sheet(workspace: WorkspaceDep, sheet_id: Id) -> Any:
    return sheets.get_sheet(workspace, sheet_id)


@router.get("/sheet-differences", response_model=SheetComparison, responses=declared(404))
def get_differences(workspace: WorkspaceDep, a: Annotated[Id, Query()], b: Annotated[Id, Query()]) -> Any:
    """Two sheets, and only what differs."""
    return sheets.compare_sheets(workspace, a, b)


@router.post("/sheet-previews", response_model=SheetLook, responses=declared(404))
def post_sheet_look(workspace: WorkspaceDep, asked: SheetQuestion) -> Any:
    """What a sheet would be warned of; nothing is kept."""
    return sheets.look_at_told(workspace, asked)


@router.get("/trails", response_model=TrailList, responses=declared())
def get_trails(workspace: WorkspaceDep) -> Any:
    return trails.list_trails(workspace)


@router.post("/trails", response_model=TrailView, status_code=201, responses=declared(404, 409) | AGAIN)
def post_trail(workspace: WorkspaceDep, actor: ActorDep, new: NewTrail) -> Response:
    """Begin a trail; its first trial is planned with it."""
    body, is_new = trails.add_trail(workspace, actor, new)
    return made(body, is_new, body.revision)


@router.get("/trails/{trail_id}", response_model=TrailView, responses=declared(404))
def get_trail(workspace: WorkspaceDep, trail_id: Id, response: Response) -> Any:
    found = trails.get_trail(workspace, trail_id)
    tagged(response, found.revision)
    return found


@router.patch("/trails/{trail_id}", response_model=TrailView, responses=declared(404, 412, 428))
def patch_trail(workspace: WorkspaceDep, actor: ActorDep, trail_id: Id, edit: TrailEdit, revision: RevisionDep, response: Response) -> Any:
    found = trails.edit_trail(workspace, actor, trail_id, edit, revision)
    tagged(response, found.revision)
    return found


@router.get("/trails/{trail_id}/next", response_model=NextSteps, responses=declared(404))
def get_next_steps(
    workspace: WorkspaceDep, trail_id: Id, trial_id: Annotated[Id | None, Query()] = None, symptom: Annotated[str | None, Query(max_length=40)] = None
) -> Any:
    """What to try next from a trial."""
    return trails.next_steps(workspace, trail_id, trial_id, symptom)


@router.post("/trials", response_model=TrailView, status_code=201, responses=declared(404, 409) | AGAIN)
def post_trial(workspace: WorkspaceDep, actor: ActorDep, new: NewTrial) -> Response:
    """Plan the next trial from one that is there."""
    return made(*trials.add_trial(workspace, actor, new))


@router.patch("/trials/{trial_id}", response_model=TrailView, responses=declared(404, 409, 412, 428))
def patch_trial(workspace: WorkspaceDep, actor: ActorDep, trial_id: Id, told: TrialRecord, revision: RevisionDep) -> Any:
    """Note what came of a trial."""
    return trials.record_trial(workspace, actor, trial_id, told, revision)


@router.post("/trials/{trial_id}/grades", response_model=TrailView, responses=declared(404, 409))
def post_grades(workspace: WorkspaceDep, actor: ActorDep, trial_id: Id, new: NewGrades) -> Any:
    """Grades by one more grader, or of the bands of a tower."""
    return trials.grade_trial(workspace, actor, trial_id, new)


@router.put("/trials/{trial_id}/retraction", response_model=TrailView, responses=declared(404, 409))
def retract_trial(workspace: WorkspaceDep, actor: ActorDep, trial_id: Id, back: bool = False) -> Any:
    return trials.retract_trial(workspace, actor, trial_id, back)


@router.put("/trials/{trial_id}/acceptance", response_model=TrailView, responses=declared(404, 409))
def accept_trial(workspace: WorkspaceDep, actor: ActorDep, trial_id: Id, back: bool = False) -> Any:
    """Its sheet is what the material is printed with from now; `back` undoes that."""
    return trials.accept_trial(workspace, actor, trial_id, back)


@router.post("/trials/{trial_id}/drying", response_model=TrailView, status_code=201, responses=declared(404, 409) | AGAIN)
def post_drying_of_trial(workspace: WorkspaceDep, actor: ActorDep, trial_id: Id, repeat_id: Annotated[Id, Query()]) -> Response:
    """The spool of a trial that popped is to be dried, and the same print is planned again."""
    return made(*trials.plan_drying(workspace, actor, trial_id, repeat_id))


@router.post("/dial-calibrations", response_model=TrailView, status_code=201, responses=declared(404, 409) | AGAIN)
def post_dial_calibration(workspace: WorkspaceDep, actor: ActorDep, new: NewDialCalibration) -> Response:
    """Keep a flow, pressure or shrinkage calibration; a child sheet is planned as the next trial."""
    return made(*trials.calibrate_trail(workspace, actor, new))


@router.get("/spools/{spool_id}/wetness", response_model=list[WetView], responses=declared(404))
def get_wetness(workspace: WorkspaceDep, spool_id: Id) -> Any:
    """Whether a spool was found wet late, and what was printed from it since it was known dry."""
    return wetness.get_wet(workspace, spool_id)


@router.post("/series/preview", response_model=SeriesLook, responses=declared(404))
def post_series_look(workspace: WorkspaceDep, told: SeriesIn, trail_id: Annotated[Id | None, Query()] = None) -> Any:
    """A stepped series, with what to be careful about."""
    return towers.look_at_series(workspace, told, trail_id)


@router.get("/trials/{trial_id}/tower", response_model=SeriesView, responses=declared(404))
def get_proposed_tower(workspace: WorkspaceDep, trial_id: Id, setting: Annotated[str, Query(min_length=1, max_length=40)]) -> Any:
    """The tower that is proposed from a trial for a setting."""
    return towers.propose_tower(workspace, trial_id, setting)


@router.get("/towers/tower.{kind}", response_class=Response, responses=SOLID | declared(404))
def get_tower(kind: Literal["stl", "3mf"], told: SeriesDep) -> Response:
    """The tower of a series as a solid."""
    body = towers.tower_file(told, kind)
    # it is one of those that can be stepped, or it was refused
    name = f"tower-{told.setting.replace('_', '-')}.{kind}"
    return Response(body, media_type=MEDIA[kind], headers={"Content-Disposition": f'attachment; filename="{name}"'})


@router.get("/hardware", response_model=HardwareView, responses=declared())
def get_hardware(workspace: WorkspaceDep) -> Any:
    """Printers with what is on them and what changed; nozzles, bed surfaces."""
    return hardware.hardware(workspace)


@router.post("/nozzles", response_model=HardwareView, status_code=201, responses=declared(409) | AGAIN)
def post_nozzle(workspace: WorkspaceDep, actor: ActorDep, new: NewNozzle) -> Response:
    return made(*hardware.add_nozzle(workspace, actor, new))


@router.post("/bed-surfaces", response_model=HardwareView, status_code=201, responses=declared(409) | AGAIN)
def post_bed_surface(workspace: WorkspaceDep, actor: ActorDep, new: NewBedSurface) -> Response:
    return made(*hardware.add_bed_surface(workspace, actor, new))


@router.patch("/nozzles/{nozzle_id}", response_model=HardwareView, responses=declared(404, 409, 412, 428))
def patch_nozzle(workspace: WorkspaceDep, actor: ActorDep, nozzle_id: Id, edit: NozzleEdit, revision: RevisionDep) -> Any:
    return hardware.edit_nozzle(workspace, actor, nozzle_id, edit, revision)


@router.put("/nozzles/{nozzle_id}/withdrawal", response_model=HardwareView, responses=declared(404, 409))
def withdraw_nozzle(workspace: WorkspaceDep, actor: ActorDep, nozzle_id: Id, back: bool = False) -> Any:
    """Take a nozzle that was entered by mistake out of the list, or in again."""
    return hardware.withdraw_nozzle(workspace, actor, nozzle_id, back)


@router.patch("/bed-surfaces/{surface_id}", response_model=HardwareView, responses=declared(404, 409, 412, 428))
def patch_bed_surface(workspace: WorkspaceDep, actor: ActorDep, surface_id: Id, edit: BedSurfaceEdit, revision: RevisionDep) -> Any:
    return hardware.edit_bed_surface(workspace, actor, surface_id, edit, revision)


@router.put("/bed-surfaces/{surface_id}/withdrawal", response_model=HardwareView, responses=declared(404, 409))
def withdraw_bed_surface(workspace: WorkspaceDep, actor: ActorDep, surface_id: Id, back: bool = False) -> Any:
    """Take a bed surface that was entered by mistake out of the list, or in again."""
    return hardware.withdraw_bed_surface(workspace, actor, surface_id, back)


@router.get("/hardware/{object_id}/record", response_model=HardwareRecord, responses=declared(404))
def get_hardware_record(workspace: WorkspaceDep, object_id: Id) -> Any:
    """The history of a printer with its changes, of a nozzle, or of a bed surface."""
    return hardware.record(workspace, object_id)


@router.post("/printers/{printer_id}/changes", response_model=HardwareView, status_code=201, responses=declared(404, 409) | AGAIN)
def post_printer_change(workspace: WorkspaceDep, actor: ActorDep, printer_id: Id, new: NewPrinterChange) -> Response:
    """Something about a printer changed on a day."""
    return made(*hardware_changes.change_printer(workspace, actor, printer_id, new))


@router.patch("/printer-changes/{change_id}", response_model=HardwareView, responses=declared(404, 409, 412, 428))
def patch_printer_change(workspace: WorkspaceDep, actor: ActorDep, change_id: Id, edit: PrinterChangeEdit, revision: RevisionDep) -> Any:
    return hardware_changes.edit_change(workspace, actor, change_id, edit, revision)


@router.put("/printer-changes/{change_id}/retraction", response_model=HardwareView, responses=declared(404, 409))
def retract_printer_change(workspace: WorkspaceDep, actor: ActorDep, change_id: Id, back: bool = False) -> Any:
    return hardware_changes.retract_change(workspace, actor, change_id, back)


@router.get("/light-table", response_model=LightTableView, responses=declared())
def get_light_table(
    workspace: WorkspaceDep, photo: Annotated[list[Id], Query(max_length=12, description="ids of photographs, in the order in which they lie")]
) -> Any:
    """Photographs side by side, with what each shows."""
    return light_table.light_table(workspace, photo)


@router.get("/light-table/photographs", response_model=LightTableView, responses=declared())
def get_photos_to_choose(
    workspace: WorkspaceDep,
    limit: Annotated[int, Query(ge=1, le=100)] = 40,
    before: Annotated[Id | None, Query(description="only those older than this photograph")] = None,
) -> Any:
    """All photographs, the newest first."""
    return light_table.photos_to_choose(workspace, limit, before)
