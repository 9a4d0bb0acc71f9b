"""Spools: intake, balance, drying, storage, and the fit-to-print check."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from fastapi import APIRouter, Query, Response

from assayer.api.common import AGAIN, ActorDep, RevisionDep, WorkspaceDep, made, tagged
from assayer.api.problems import declared
from assayer.api.stock_schemas import DryingList, DryingOut, FitOut, IntakeTrialOut, PlaceList, PrinterList, PrinterOut, SpoolPage
from assayer.services import drying, intakes, printers, spools
from assayer.services.commands import Id
from assayer.services.stock_commands import (
    EndDrying,
    FitQuestion,
    HardwareIn,
    IntakeTrial,
    NewDrying,
    NewFilamentUse,
    NewIntake,
    NewPrinter,
    NewSpool,
    NewStorage,
    NewWeighing,
    SpoolEdit,
)
from assayer.store.models import FilamentUse, StorageMove, Weighing

router = APIRouter(prefix="/api")


@router.post("/intakes/trial", response_model=IntakeTrialOut, responses=declared(404))
def post_intake_trial(workspace: WorkspaceDep, trial: IntakeTrial) -> Any:
    """What the intake sheet says as it stands; nothing is kept."""
    return intakes.try_intake(workspace, trial)


@router.post("/intakes", response_model=SpoolPage, status_code=201, responses=declared(404, 409) | AGAIN)
def post_intake(workspace: WorkspaceDep, actor: ActorDep, new: NewIntake) -> Response:
    """Keep a checked spool, a new one or one that is there."""
    return _page(*intakes.take_in(workspace, actor, new))


@router.post("/spools", response_model=SpoolPage, status_code=201, responses=declared(404, 409) | AGAIN)
def post_spool(workspace: WorkspaceDep, actor: ActorDep, new: NewSpool) -> Response:
    """Register a spool that came, to be checked later."""
    return _page(*intakes.add_spool(workspace, actor, new))


@router.get("/spools/{spool_id}", response_model=SpoolPage, responses=declared(404))
def get_spool(workspace: WorkspaceDep, spool_id: Id, response: Response) -> Any:
    found = spools.get_spool(workspace, spool_id)
    tagged(response, found["revision"])
    return found


@router.patch("/spools/{spool_id}", response_model=SpoolPage, responses=declared(404, 412, 428))
def patch_spool(workspace: WorkspaceDep, actor: ActorDep, spool_id: Id, edit: SpoolEdit, revision: RevisionDep, response: Response) -> Any:
    found = spools.edit_spool(workspace, actor, spool_id, edit, revision)
    tagged(response, found["revision"])
    return found


@router.post("/spools/{spool_id}/weighings", response_model=SpoolPage, status_code=201, responses=declared(404, 409) | AGAIN)
def post_weighing(workspace: WorkspaceDep, actor: ActorDep, spool_id: Id, new: NewWeighing) -> Response:
    """Weighing corrects the balance."""
    return _page(*spools.weigh(workspace, actor, spool_id, new))


@router.post("/spools/{spool_id}/uses", response_model=SpoolPage, status_code=201, responses=declared(404, 409) | AGAIN)
def post_filament_use(workspace: WorkspaceDep, actor: ActorDep, spool_id: Id, new: NewFilamentUse) -> Response:
    """A print takes filament."""
    return _page(*spools.take_filament(workspace, actor, spool_id, new))


def _page(body: dict[str, Any], is_new: bool) -> Response:
    return made(body, is_new, body["revision"])


@router.put("/weighings/{key}/retraction", response_model=SpoolPage, responses=declared(404, 409))
def retract_weighing(workspace: WorkspaceDep, actor: ActorDep, key: Id, back: bool = False) -> Any:
    return spools.retract_entry(workspace, actor, Weighing, key, back)


@router.put("/filament-uses/{key}/retraction", response_model=SpoolPage, responses=declared(404))
def retract_use(workspace: WorkspaceDep, actor: ActorDep, key: Id, back: bool = False) -> Any:
    return spools.retract_entry(workspace, actor, FilamentUse, key, back)


@router.put("/moves/{key}/retraction", response_model=SpoolPage, responses=declared(404))
def retract_move(workspace: WorkspaceDep, actor: ActorDep, key: Id, back: bool = False) -> Any:
    return spools.retract_entry(workspace, actor, StorageMove, key, back)


@router.get("/dryings", response_model=DryingList, responses=declared())
def get_dryings(workspace: WorkspaceDep, limit: Annotated[int, Query(ge=0, le=200)] = 12) -> Any:
    """Running sessions, then the latest that ended."""
    return drying.list_dryings(workspace, limit)


@router.post("/dryings", response_model=DryingOut, status_code=201, responses=declared(404, 409) | AGAIN)
def post_drying(workspace: WorkspaceDep, actor: ActorDep, new: NewDrying) -> Response:
    body, is_new = drying.start_drying(workspace, actor, new)
    return made(body, is_new, body["revision"])


@router.put("/dryings/{drying_id}/end", response_model=DryingOut, responses=declared(404, 412, 428))
def put_drying_end(workspace: WorkspaceDep, actor: ActorDep, drying_id: Id, end: EndDrying, revision: RevisionDep) -> Any:
    """Take the spools out and weigh them."""
    return drying.end_drying(workspace, actor, drying_id, end, revision)


@router.put("/dryings/{drying_id}/undone", response_model=DryingOut, responses=declared(404, 409))
def put_drying_undone(workspace: WorkspaceDep, actor: ActorDep, drying_id: Id, what: Literal["end", "all", "none"]) -> Any:
    """Undo the end of a session, the whole of it, or nothing any more."""
    return drying.undo_drying(workspace, actor, drying_id, what)


@router.get("/places", response_model=PlaceList, responses=declared())
def get_places(workspace: WorkspaceDep) -> Any:
    """Where the spools at hand lie."""
    return drying.list_places(workspace)


@router.post("/storage", response_model=PlaceList, responses=declared(404, 409))
def post_storage(workspace: WorkspaceDep, actor: ActorDep, new: NewStorage) -> Any:
    """Put spools somewhere, or note the humidity where they lie."""
    return drying.store_spools(workspace, actor, new)


@router.get("/printers", response_model=PrinterList, responses=declared())
def get_printers(workspace: WorkspaceDep) -> Any:
    return printers.list_printers(workspace)


@router.post("/printers", response_model=PrinterOut, status_code=201, responses=declared(409) | AGAIN)
def post_printer(workspace: WorkspaceDep, actor: ActorDep, new: NewPrinter) -> Response:
    body, is_new = printers.add_printer(workspace, actor, new)
    return made(body, is_new, body["revision"])


@router.patch("/printers/{printer_id}", response_model=PrinterOut, responses=declared(404, 412, 428))
def patch_printer(workspace: WorkspaceDep, actor: ActorDep, printer_id: Id, edit: HardwareIn, revision: RevisionDep) -> Any:
    return printers.edit_printer(workspace, actor, printer_id, edit, revision)


@router.post("/fit", response_model=FitOut, responses=declared(404))
def post_fit(workspace: WorkspaceDep, asked: FitQuestion) -> Any:
    """What this spool, printer and settings miss of what they need of one another."""
    return printers.fit_to_print(workspace, asked)
