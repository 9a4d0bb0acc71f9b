"""Materials, the maker's window and claims, lists in and out, labels; spools: intake, balance, storage."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from fastapi import Query, Response

from assayer.api.common import ActorDep, Limit, Offset, OpenedAtDep, RevisionDep, WorkspaceDep, area, made, tagged
from assayer.api.description import AGAIN, CSV, SVG, declared
from assayer.services.reports import dossier
from assayer.services.reports.views import Dossier
from assayer.services.requests import Id
from assayer.services.stock import intakes, labels, listing, lists, materials, products, spools, storage
from assayer.services.stock.requests import (
    ClaimLink,
    ImportText,
    IntakePreviewRequest,
    MaterialEdit,
    NewClaim,
    NewFilamentUse,
    NewIntake,
    NewMaterial,
    NewSpool,
    NewStorage,
    NewWeighing,
    PreferencesEdit,
    ProductEdit,
    SpoolEdit,
)
from assayer.services.stock.views import (
    ClaimView,
    ImportDone,
    ImportPreview,
    IntakePreview,
    MaterialPage,
    MaterialRecord,
    PlaceList,
    Preferences,
    SpoolPage,
    StockPage,
)
from assayer.store.models import Claim, FilamentUse, ReportedResult, StorageMove, Weighing

router = area()


@router.get("/materials", response_model=MaterialPage, responses=declared())
def get_materials(workspace: WorkspaceDep, limit: Limit = 100, offset: Offset = 0) -> Any:
    return materials.list_materials(workspace, limit, offset)


@router.post("/materials", response_model=MaterialRecord, status_code=201, responses=declared(409) | AGAIN)
def post_material(workspace: WorkspaceDep, actor: ActorDep, new: NewMaterial) -> Response:
    body, is_new = materials.add_material(workspace, actor, new)
    return made(body, is_new, body.revision)


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
    return listing.list_stock(workspace, listing.StockQuery(words, polymer, filled, state, sort, limit, offset))


@router.get("/materials/{material_id}", response_model=Dossier, responses=declared(404))
def get_dossier(workspace: WorkspaceDep, material_id: Id, response: Response) -> Any:
    found = dossier.dossier(workspace, material_id)
    tagged(response, found.material.revision)
    return found


@router.patch("/materials/{material_id}", response_model=Dossier, responses=declared(404, 409, 412, 428))
def patch_material(workspace: WorkspaceDep, actor: ActorDep, material_id: Id, edit: MaterialEdit, revision: RevisionDep, response: Response) -> Any:
    tagged(response, materials.edit_material(workspace, actor, material_id, edit, revision))
    return dossier.dossier(workspace, material_id)


@router.patch("/materials/{material_id}/product", response_model=Dossier, responses=declared(404, 412, 428))
def patch_product(workspace: WorkspaceDep, actor: ActorDep, material_id: Id, edit: ProductEdit, revision: RevisionDep, response: Response) -> Any:
    """What became of the product, for all its colours."""
    tagged(response, products.edit_product(workspace, actor, material_id, edit, revision))
    return dossier.dossier(workspace, material_id)


@router.post("/materials/{material_id}/claims", response_model=ClaimView, status_code=201, responses=declared(404, 409) | AGAIN)
def post_claim(workspace: WorkspaceDep, actor: ActorDep, material_id: Id, new: NewClaim) -> Response:
    """Keep a statement of the maker; what it is about is read out of its words."""
    return made(*materials.add_claim(workspace, actor, material_id, new))


@router.put("/claims/{claim_id}/retraction", response_model=Dossier, responses=declared(404))
def retract_claim(workspace: WorkspaceDep, actor: ActorDep, claim_id: Id, back: bool = False) -> Any:
    return dossier.dossier(workspace, materials.retract(workspace, actor, Claim, claim_id, back))


@router.put("/claims/{claim_id}/quantity", response_model=Dossier, responses=declared(404))
def put_claim_quantity(workspace: WorkspaceDep, actor: ActorDep, claim_id: Id, link: ClaimLink) -> Any:
    """Say what a claim is about, where its words were read wrongly."""
    return dossier.dossier(workspace, materials.link_claim(workspace, actor, claim_id, link))


@router.put("/reported/{result_id}/retraction", response_model=Dossier, responses=declared(404))
def retract_reported(workspace: WorkspaceDep, actor: ActorDep, result_id: Id, back: bool = False) -> Any:
    return dossier.dossier(workspace, materials.retract(workspace, actor, ReportedResult, result_id, back))


@router.post("/imports/preview", response_model=ImportPreview, responses=declared())
def post_preview(workspace: WorkspaceDep, asked: ImportText) -> Any:
    """What every row of a list would become; nothing is kept."""
    return lists.preview_import(workspace, asked)


@router.post("/imports", response_model=ImportDone, responses=declared())
def post_import(workspace: WorkspaceDep, actor: ActorDep, asked: ImportText) -> Any:
    """Keep the rows that are new; sent again, they are there already."""
    return lists.run_import(workspace, actor, asked)


@router.get("/exports/{kind}.csv", response_class=Response, responses=declared() | CSV)
def get_export(workspace: WorkspaceDep, kind: Literal["materials", "claims", "reported"]) -> Response:
    body = lists.export_table(workspace, kind)
    return Response("\ufeff" + body, media_type="text/csv; charset=utf-8", headers={"Content-Disposition": f'attachment; filename="{kind}.csv"'})


@router.get("/preferences", response_model=Preferences, responses=declared())
def get_preferences(workspace: WorkspaceDep, opened_at: OpenedAtDep) -> Any:
    return labels.get_preferences(workspace, opened_at)


@router.put("/preferences", response_model=Preferences, responses=declared())
def put_preferences(workspace: WorkspaceDep, actor: ActorDep, edit: PreferencesEdit) -> Any:
    """The address that the QR codes of labels begin with."""
    return labels.set_preferences(workspace, actor, edit)


@router.get("/labels/{code}.svg", response_class=Response, responses=declared(404) | SVG)
def get_label(workspace: WorkspaceDep, code: str, opened_at: OpenedAtDep) -> Response:
    """The label of a spool, specimen or rig, 62 × 29 mm."""
    return Response(labels.label(workspace, code[:80], opened_at), media_type="image/svg+xml", headers={"Cache-Control": "no-cache"})


@router.post("/intakes/preview", response_model=IntakePreview, responses=declared(404))
def post_intake_preview(workspace: WorkspaceDep, asked: IntakePreviewRequest) -> Any:
    """What the intake sheet says as it stands; nothing is kept."""
    return intakes.preview_intake(workspace, asked)


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
    tagged(response, found.revision)
    return found


@router.patch("/spools/{spool_id}", response_model=SpoolPage, responses=declared(404, 412, 428))
def patch_spool(workspace: WorkspaceDep, actor: ActorDep, spool_id: Id, edit: SpoolEdit, revision: RevisionDep, response: Response) -> Any:
    found = spools.edit_spool(workspace, actor, spool_id, edit, revision)
    tagged(response, found.revision)
    return found


@router.post("/spools/{spool_id}/weighings", response_model=SpoolPage, status_code=201, responses=declared(404, 409) | AGAIN)
def post_weighing(workspace: WorkspaceDep, actor: ActorDep, spool_id: Id, new: NewWeighing) -> Response:
    """Weighing corrects the balance."""
    return _page(*spools.weigh(workspace, actor, spool_id, new))


@router.post("/spools/{spool_id}/uses", response_model=SpoolPage, status_code=201, responses=declared(404, 409) | AGAIN)
def post_filament_use(workspace: WorkspaceDep, actor: ActorDep, spool_id: Id, new: NewFilamentUse) -> Response:
    """A print takes filament."""
    return _page(*spools.take_filament(workspace, actor, spool_id, new))


def _page(body: SpoolPage, is_new: bool) -> Response:
    return made(body, is_new, body.revision)


@router.put("/weighings/{key}/retraction", response_model=SpoolPage, responses=declared(404, 409))
def retract_weighing(workspace: WorkspaceDep, actor: ActorDep, key: Id, back: bool = False) -> Any:
    return spools.retract_entry(workspace, actor, Weighing, key, back)


@router.put("/filament-uses/{key}/retraction", response_model=SpoolPage, responses=declared(404))
def retract_use(workspace: WorkspaceDep, actor: ActorDep, key: Id, back: bool = False) -> Any:
    return spools.retract_entry(workspace, actor, FilamentUse, key, back)


@router.put("/moves/{key}/retraction", response_model=SpoolPage, responses=declared(404))
def retract_move(workspace: WorkspaceDep, actor: ActorDep, key: Id, back: bool = False) -> Any:
    return spools.retract_entry(workspace, actor, StorageMove, key, back)


@router.get("/places", response_model=PlaceList, responses=declared())
def get_places(workspace: WorkspaceDep) -> Response:
    """Where the spools at hand lie; written out as it is, for there may be a thousand."""
    return Response(storage.list_places(workspace).model_dump_json(), media_type="application/json")


@router.post("/storage", response_model=PlaceList, responses=declared(404, 409))
def post_storage(workspace: WorkspaceDep, actor: ActorDep, new: NewStorage) -> Any:
    """Put spools somewhere, or note the humidity where they lie."""
    return storage.store_spools(workspace, actor, new)
