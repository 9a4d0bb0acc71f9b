"""Parts of one's own: a solid from a file, with places to grade, measure and load."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from fastapi import Query, Request, Response
from starlette.concurrency import run_in_threadpool

from assayer.api.common import ActorDep, RevisionDep, WorkspaceDep, area, made, tagged, whole_body
from assayer.api.description import AGAIN, BYTES, Answers, declared
from assayer.core.shapes.printed import FLAT
from assayer.formats.solids.read_solid import MOST_BYTES
from assayer.services.parts import parts
from assayer.services.parts.requests import DrawnIn, PartEdit
from assayer.services.parts.views import PartList, PartView
from assayer.services.requests import Id, Name, Words

router = area()

MEDIA = {"stl": "model/stl", "3mf": "model/3mf", "svg": "image/svg+xml"}
PART_FILE: Answers = {200: {"description": "the solid, mm, or its drawing", "content": {m: {} for m in MEDIA.values()}}}


@router.put(
    "/parts/{part_id}",
    max_body_size=MOST_BYTES + 1,
    response_model=PartView,
    status_code=201,
    responses=declared(404, 409, 413) | AGAIN,
    openapi_extra=BYTES,
)
async def put_part(
    workspace: WorkspaceDep,
    actor: ActorDep,
    request: Request,
    part_id: Id,
    file_name: Annotated[Words, Query(min_length=1)],
    unit: Annotated[DrawnIn | None, Query(description="in which it was drawn; default: as the file says, or mm")] = None,
    name: Annotated[Name | None, Query()] = None,
) -> Response:
    """Take in a part: the bytes of its STL or 3MF file as they are."""
    data = await whole_body(request, MOST_BYTES, "save the part with fewer triangles")
    body = await run_in_threadpool(parts.add_part, workspace, actor, part_id, file_name, data, name or "", unit)
    return made(*body, body[0].revision)


@router.get("/parts", response_model=PartList, responses=declared())
def get_parts(workspace: WorkspaceDep) -> Any:
    return parts.list_parts(workspace)


@router.get("/parts/{part_id}", response_model=PartView, responses=declared(404))
def get_part(workspace: WorkspaceDep, part_id: Id, response: Response) -> Any:
    found = parts.get_part(workspace, part_id)
    tagged(response, found.revision)
    return found


@router.patch("/parts/{part_id}", response_model=PartView, responses=declared(404, 409, 412, 428))
def patch_part(workspace: WorkspaceDep, actor: ActorDep, part_id: Id, edit: PartEdit, revision: RevisionDep, response: Response) -> Any:
    """Rename a part, note something, or say anew where it is graded, measured and loaded."""
    found = parts.edit_part(workspace, actor, part_id, edit, revision)
    tagged(response, found.revision)
    return found


@router.put("/parts/{part_id}/retraction", response_model=PartView, responses=declared(404))
def retract_part(workspace: WorkspaceDep, actor: ActorDep, part_id: Id, back: bool = False) -> Any:
    return parts.retract_part(workspace, actor, part_id, back)


@router.get("/parts/{part_id}/solid.{kind}", response_class=Response, responses=PART_FILE | declared(404))
def get_part_file(
    workspace: WorkspaceDep, part_id: Id, kind: Literal["stl", "3mf", "svg"], orientation: Annotated[str, Query(min_length=1, max_length=20)] = FLAT
) -> Response:
    """A part as it stands on the bed, or its drawing with its places."""
    body, name = parts.part_file(workspace, part_id, kind, orientation)
    plain = "".join(c if c.isascii() and (c.isalnum() or c in " -.") else "_" for c in name)
    file = f"{plain}{'' if kind == 'svg' else ', ' + orientation}.{kind}"
    return Response(body, media_type=MEDIA[kind], headers={"Content-Disposition": f'attachment; filename="{file}"'})
