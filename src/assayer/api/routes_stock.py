"""Materials, the maker's window and claims, lists in and out, the day sheet."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from fastapi import APIRouter, Query, Response

from assayer.api.common import AGAIN, ActorDep, Limit, Offset, RevisionDep, WorkspaceDep, made, tagged
from assayer.api.problems import declared
from assayer.api.schemas import MaterialPage
from assayer.api.stock_schemas import ClaimOut, DayOut, DossierOut, ImportDone, ImportPreview, MaterialRecord, PreferencesOut, StockPage
from assayer.services import day, labels, materials, stock, stock_import
from assayer.services.commands import Id, NewMaterial
from assayer.services.stock_commands import ImportText, MaterialEdit, NewClaim, PreferencesEdit
from assayer.store.models import Claim, ReportedResult

router = APIRouter(prefix="/api")


@router.get("/day", response_model=DayOut, responses=declared())
def get_day(workspace: WorkspaceDep) -> Any:
    """What runs, what is due or late, what waits for a decision."""
    return day.day_sheet(workspace)


@router.get("/materials", response_model=MaterialPage, responses=declared())
def get_materials(workspace: WorkspaceDep, limit: Limit = 100, offset: Offset = 0) -> Any:
    return materials.list_materials(workspace, limit, offset)


@router.post("/materials", response_model=MaterialRecord, status_code=201, responses=declared(409) | AGAIN)
def post_material(workspace: WorkspaceDep, actor: ActorDep, new: NewMaterial) -> Response:
    body, is_new = materials.add_material(workspace, actor, new)
    return made(body, is_new, body["revision"])


@router.get("/stock", response_model=StockPage, responses=declared())
def get_stock(
    workspace: WorkspaceDep,
    words: Annotated[str, Query(max_length=120)] = "",
    polymer: Annotated[str, Query(max_length=40)] = "",
    filled: bool | None = None,
    state: Literal["", "at hand", "none", "unchecked", "fit", "dry first", "reject"] = "",
    sort: Literal["name", "price", "polymer", "newest"] = "name",
    limit: Limit = 20,
    offset: Offset = 0,
) -> Any:
    """A page of the stock: materials with their spools, what has been measured, prices."""
    return stock.list_stock(workspace, stock.StockQuery(words, polymer, filled, state, sort, limit, offset))


@router.get("/materials/{material_id}", response_model=DossierOut, responses=declared(404))
def get_dossier(workspace: WorkspaceDep, material_id: Id, response: Response) -> Any:
    found = stock.dossier(workspace, material_id)
    tagged(response, found["material"]["revision"])
    return found


@router.patch("/materials/{material_id}", response_model=DossierOut, responses=declared(404, 409, 412, 428))
def patch_material(workspace: WorkspaceDep, actor: ActorDep, material_id: Id, edit: MaterialEdit, revision: RevisionDep, response: Response) -> Any:
    tagged(response, materials.edit_material(workspace, actor, material_id, edit, revision))
    return stock.dossier(workspace, material_id)


@router.post("/materials/{material_id}/claims", response_model=ClaimOut, status_code=201, responses=declared(404, 409) | AGAIN)
def post_claim(workspace: WorkspaceDep, actor: ActorDep, material_id: Id, new: NewClaim) -> Response:
    """Keep a statement of the maker; what it is about is read out of its words."""
    return made(*materials.add_claim(workspace, actor, material_id, new))


@router.put("/claims/{claim_id}/retraction", response_model=DossierOut, responses=declared(404))
def retract_claim(workspace: WorkspaceDep, actor: ActorDep, claim_id: Id, back: bool = False) -> Any:
    return stock.dossier(workspace, materials.retract(workspace, actor, Claim, claim_id, back))


@router.put("/reported/{result_id}/retraction", response_model=DossierOut, responses=declared(404))
def retract_reported(workspace: WorkspaceDep, actor: ActorDep, result_id: Id, back: bool = False) -> Any:
    return stock.dossier(workspace, materials.retract(workspace, actor, ReportedResult, result_id, back))


@router.post("/imports/preview", response_model=ImportPreview, responses=declared())
def post_preview(workspace: WorkspaceDep, asked: ImportText) -> Any:
    """What every row of a list would become; nothing is kept."""
    return stock_import.preview_import(workspace, asked)


@router.post("/imports", response_model=ImportDone, responses=declared())
def post_import(workspace: WorkspaceDep, actor: ActorDep, asked: ImportText) -> Any:
    """Keep the rows that are new; sent again, they are there already."""
    return stock_import.run_import(workspace, actor, asked)


CSV: dict[int | str, dict[str, Any]] = {200: {"description": "the table", "content": {"text/csv": {"schema": {"type": "string"}}}}}


@router.get("/exports/{kind}.csv", response_class=Response, responses=declared() | CSV)
def get_export(workspace: WorkspaceDep, kind: Literal["materials", "claims", "reported"]) -> Response:
    body = stock_import.export_table(workspace, kind)
    return Response("\ufeff" + body, media_type="text/csv; charset=utf-8", headers={"Content-Disposition": f'attachment; filename="{kind}.csv"'})


@router.get("/preferences", response_model=PreferencesOut, responses=declared())
def get_preferences(workspace: WorkspaceDep) -> Any:
    return labels.get_preferences(workspace)


@router.put("/preferences", response_model=PreferencesOut, responses=declared())
def put_preferences(workspace: WorkspaceDep, actor: ActorDep, edit: PreferencesEdit) -> Any:
    """The address that the QR codes of labels begin with."""
    return labels.set_preferences(workspace, actor, edit)


SVG: dict[int | str, dict[str, Any]] = {200: {"description": "the label", "content": {"image/svg+xml": {"schema": {"type": "string"}}}}}


@router.get("/labels/{code}.svg", response_class=Response, responses=declared(404) | SVG)
def get_label(workspace: WorkspaceDep, code: str) -> Response:
    """The label of a spool, specimen or rig, 62 × 29 mm."""
    return Response(labels.label(workspace, code[:80]), media_type="image/svg+xml", headers={"Cache-Control": "no-cache"})
