"""Photographs: taken in as bytes, shown, captioned, taken back."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import Query, Request, Response
from fastapi.responses import FileResponse
from starlette.concurrency import run_in_threadpool

from assayer.api.common import ActorDep, RevisionDep, WorkspaceDep, area, made, tagged, whole_body
from assayer.api.description import AGAIN, BYTES, PICTURE, declared
from assayer.formats.pictures.photo import MOST_BYTES
from assayer.services.photos import photos
from assayer.services.photos.requests import PhotoEdit, SubjectKind
from assayer.services.photos.views import PhotoList, PhotoView
from assayer.services.requests import Id, Words

router = area()


@router.put(
    "/photos/{photo_id}",
    max_body_size=MOST_BYTES + 1,
    response_model=PhotoView,
    status_code=201,
    responses=declared(404, 409, 413) | AGAIN,
    openapi_extra=BYTES,
)
async def put_photo(
    workspace: WorkspaceDep,
    actor: ActorDep,
    request: Request,
    photo_id: Id,
    subject_kind: Annotated[SubjectKind, Query()],
    subject_id: Annotated[Id, Query()],
    caption: Annotated[Words, Query()] = "",
    band: Annotated[int | None, Query(ge=1, le=40)] = None,
) -> Response:
    """Keep a photograph: the bytes of the file as they are (JPEG, PNG or WebP)."""
    data = await whole_body(request, MOST_BYTES, "save the picture smaller")
    body = await run_in_threadpool(photos.add_photo, workspace, actor, photo_id, subject_kind, subject_id, data, caption, band)
    return made(*body, body[0].revision)


@router.get("/photos", response_model=PhotoList, responses=declared())
def get_photos(workspace: WorkspaceDep, subject_kind: Annotated[SubjectKind, Query()], subject_id: Annotated[Id, Query()]) -> Any:
    return photos.list_photos(workspace, subject_kind, subject_id)


@router.get("/photos/{photo_id}", response_model=PhotoView, responses=declared(404))
def get_photo(workspace: WorkspaceDep, photo_id: Id, response: Response) -> Any:
    found = photos.get_photo(workspace, photo_id)
    tagged(response, found.revision)
    return found


@router.get("/photos/{photo_id}/picture", response_class=FileResponse, responses=PICTURE | declared(404))
def get_picture(workspace: WorkspaceDep, photo_id: Id, small: bool = False) -> Any:
    """The picture itself, or its small copy."""
    path, media = photos.picture_of(workspace, photo_id, small)
    # what it holds never changes under this address
    return FileResponse(path, media_type=media, headers={"Cache-Control": "private, max-age=31536000, immutable"})


@router.patch("/photos/{photo_id}", response_model=PhotoView, responses=declared(404, 412, 428))
def patch_photo(workspace: WorkspaceDep, actor: ActorDep, photo_id: Id, edit: PhotoEdit, revision: RevisionDep, response: Response) -> Any:
    found = photos.edit_photo(workspace, actor, photo_id, edit, revision)
    tagged(response, found.revision)
    return found


@router.put("/photos/{photo_id}/retraction", response_model=PhotoView, responses=declared(404))
def retract_photo(workspace: WorkspaceDep, actor: ActorDep, photo_id: Id, back: bool = False) -> Any:
    return photos.retract_photo(workspace, actor, photo_id, back)
