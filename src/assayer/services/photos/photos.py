"""Photographs, kept beside the database by what they hold."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from sqlalchemy import select
from sqlalchemy.orm import Session

from assayer.core.errors import ConflictError, DataFolderError
from assayer.formats.pictures.photo import read_picture
from assayer.services.photos.views import PhotoList, PhotoView
from assayer.services.unit import Actor, Workspace, expect_revision, find
from assayer.store.models import Base, Batch, Photo, Run, Specimen, Spool, Trial

if TYPE_CHECKING:
    from assayer.services.photos.requests import PhotoEdit, SubjectKind

_SUBJECTS: dict[str, type[Base]] = {"trial": Trial, "run": Run, "spool": Spool, "specimen": Specimen, "batch": Batch}


def add_photo(
    workspace: Workspace, actor: Actor, photo_id: str, kind: SubjectKind, subject_id: str, data: bytes, caption: str = "", band: int | None = None
) -> tuple[PhotoView, bool]:
    """Keep a photograph: upright, without what it tells of a place; the same id again changes nothing (second value False)."""
    picture = read_picture(data)
    digest, thumb = workspace.files.put(picture.data), workspace.files.put(picture.thumb)
    with workspace.write(actor) as unit:
        there = unit.session.get(Photo, photo_id)
        if there is not None:
            if (there.sha256, there.subject_id) != (digest, subject_id):
                raise ConflictError("another photograph already has this id", photo_view(there))
            return photo_view(there), False
        find(unit.session, _SUBJECTS[kind], subject_id)
        photo = Photo(
            id=photo_id,
            subject_kind=kind,
            subject_id=subject_id,
            band=band,
            sha256=digest,
            thumb_sha256=thumb,
            media=picture.media,
            width=picture.width,
            height=picture.height,
            caption=caption,
            added_at=unit.now,
            zone=actor.zone,
            who=actor.who,
        )
        unit.session.add(photo)
        unit.session.flush()
        unit.log(kind, subject_id, "photograph added", after={"photograph": photo_id, "caption": caption})
        return photo_view(photo), True


def photo_view(photo: Photo) -> PhotoView:
    return PhotoView.model_validate(photo)


def photos_of(session: Session, kind: SubjectKind, ids: Sequence[str]) -> dict[str, list[PhotoView]]:
    """Photographs of several objects, in the order in which they came; one query however many they are."""
    found: dict[str, list[PhotoView]] = {}
    standing = select(Photo).where(Photo.subject_kind == kind, Photo.subject_id.in_(ids), Photo.retracted_at.is_(None))
    for photo in session.scalars(standing.order_by(Photo.added_at, Photo.id)):
        found.setdefault(photo.subject_id, []).append(photo_view(photo))
    return found


def list_photos(workspace: Workspace, kind: SubjectKind, subject_id: str) -> PhotoList:
    with workspace.read() as session:
        return PhotoList(items=photos_of(session, kind, [subject_id]).get(subject_id, []))


def get_photo(workspace: Workspace, photo_id: str) -> PhotoView:
    with workspace.read() as session:
        return photo_view(find(session, Photo, photo_id))


def picture_of(workspace: Workspace, photo_id: str, small: bool) -> tuple[Path, str]:
    """Where the bytes of a photograph lie, and their media type."""
    with workspace.read() as session:
        photo = find(session, Photo, photo_id)
        path = workspace.files.path(photo.thumb_sha256 if small else photo.sha256)
        media = "image/jpeg" if small else photo.media
    if not path.is_file():
        raise DataFolderError("the file of this photograph is missing from the data folder: take it from a backup")
    return path, media


def edit_photo(workspace: Workspace, actor: Actor, photo_id: str, edit: PhotoEdit, revision: int) -> PhotoView:
    """Change the caption, or measure the scale by a mark."""
    with workspace.write(actor) as unit:
        photo = find(unit.session, Photo, photo_id)
        expect_revision(revision, photo.revision, "the photograph", photo_view(photo))
        given = edit.model_dump(exclude_unset=True)
        if "caption" in given:
            given["caption"] = given["caption"] or ""
        before = {name: getattr(photo, name) for name in given}
        for name, value in given.items():
            setattr(photo, name, value)
        photo.revision += 1
        unit.log(photo.subject_kind, photo.subject_id, "photograph edited", before, given)
        return photo_view(photo)


def retract_photo(workspace: Workspace, actor: Actor, photo_id: str, back: bool) -> PhotoView:
    """Take a photograph out of the record, or (with `back`) in again; its file stays."""
    with workspace.write(actor) as unit:
        photo = find(unit.session, Photo, photo_id)
        photo.retracted_at = None if back else unit.now
        unit.log(photo.subject_kind, photo.subject_id, "photograph brought back" if back else "photograph retracted", after={"photograph": photo.id})
        return photo_view(photo)
