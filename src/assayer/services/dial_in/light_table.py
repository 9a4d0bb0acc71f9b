"""Photographs side by side, with their subject, material and the settings changed for it."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence

from sqlalchemy import Select, func, select
from sqlalchemy.orm import Session, aliased

from assayer.core.settings.sheet import differences
from assayer.services.dial_in.light_table_views import LightTableView, PhotoOnTable
from assayer.services.dial_in.sheets import difference_view, sheet_of
from assayer.services.dial_in.views import DifferenceView
from assayer.services.parts.shapes import title_of
from assayer.services.photos.photos import photo_view
from assayer.services.unit import Workspace
from assayer.store.models import Batch, Material, Photo, Run, SettingsSheet, Slot, Specimen, Spool, Test, Trail, Trial, Variant

_LAST = "g"
"""Behind every id, which begins with a hexadecimal digit."""

Subject = tuple[str, Material, list[DifferenceView]]
"""Name, material, and the settings changed since the trial it started from."""


def light_table(workspace: Workspace, photo_ids: Sequence[str]) -> LightTableView:
    """The photographs with these ids, in this order; one that was taken out of the record is left out."""
    with workspace.read() as session:
        by_id = {p.id: p for p in session.scalars(select(Photo).where(Photo.id.in_(photo_ids), Photo.retracted_at.is_(None)))}
        return _items_of(session, [by_id[key] for key in dict.fromkeys(photo_ids) if key in by_id])


def photos_to_choose(workspace: Workspace, limit: int, before: str | None) -> LightTableView:
    """All photographs, the newest first; from the one before `before` on."""
    with workspace.read() as session:
        older = select(Photo).where(Photo.id < (before or _LAST), Photo.retracted_at.is_(None))
        return _items_of(session, session.scalars(older.order_by(Photo.id.desc()).limit(limit)).all())


def _items_of(session: Session, photos: Sequence[Photo]) -> LightTableView:
    of_kind = {kind: {p.subject_id for p in photos if p.subject_kind == kind} for kind in ("trial", "specimen", "run", "batch", "spool")}
    subjects = {
        **_trials(session, of_kind["trial"]),
        **_specimens(session, select(Specimen.id, Specimen.code, Material, Test).where(Specimen.id.in_(of_kind["specimen"]))),
        **_specimens(session, select(Run.id, Specimen.code, Material, Test).join(Run, Run.specimen_id == Specimen.id).where(Run.id.in_(of_kind["run"]))),
        **_batches(session, of_kind["batch"]),
        **_spools(session, of_kind["spool"]),
    }
    items = []
    for photo in photos:
        what, material, changes = subjects.get(photo.subject_id, (photo.subject_kind, None, []))
        of = f"{material.maker} {material.product}, {material.colour}" if material is not None else ""
        band = f", band {photo.band}" if photo.band is not None else ""
        items.append(PhotoOnTable(photo=photo_view(photo), what=what + band, changes=changes, material=of))
    return LightTableView(items=items)


def _trials(session: Session, ids: Iterable[str]) -> Mapping[str, Subject]:
    before = aliased(Trial)
    rows = session.execute(
        select(Trial, before.sheet_id, Material)
        .join(Trail, Trail.id == Trial.trail_id)
        .join(Material, Material.id == func.coalesce(Trial.control_material_id, Trail.material_id))
        .outerjoin(before, before.id == Trial.parent_id)
        .where(Trial.id.in_(ids))
    ).all()
    sheet_ids = {key for trial, parent, _ in rows for key in (trial.sheet_id, parent) if key is not None}
    sheets = {s.id: sheet_of(s) for s in session.scalars(select(SettingsSheet).where(SettingsSheet.id.in_(sheet_ids)))}
    return {
        trial.id: (
            f"trial {trial.number}, {trial.part}",
            material,
            [] if parent is None else [difference_view(d) for d in differences(sheets[parent], sheets[trial.sheet_id])],
        )
        for trial, parent, material in rows
    }


def _specimens(session: Session, chosen: Select[str, str, Material, Test]) -> Mapping[str, Subject]:
    rows = session.execute(
        chosen.join(Batch, Batch.id == Specimen.batch_id)
        .join(Variant, Variant.id == Batch.variant_id)
        .join(Material, Material.id == Variant.material_id)
        .outerjoin(Slot, Slot.id == func.coalesce(Specimen.slot_id, Specimen.planned_slot_id))
        .outerjoin(Test, Test.id == func.coalesce(Slot.test_id, Specimen.spare_test_id))
    )
    return {key: (f"specimen {code}" + (f", {title_of(test)}" if test is not None else ""), material, []) for key, code, material, test in rows}


def _batches(session: Session, ids: Iterable[str]) -> Mapping[str, Subject]:
    rows = session.execute(
        select(Batch, Material).join(Variant, Variant.id == Batch.variant_id).join(Material, Material.id == Variant.material_id).where(Batch.id.in_(ids))
    )
    return {batch.id: (f"print batch of {batch.printed_at:%-d %b}", material, []) for batch, material in rows}


def _spools(session: Session, ids: Iterable[str]) -> Mapping[str, Subject]:
    rows = session.execute(select(Spool, Material).join(Material, Material.id == Spool.material_id).where(Spool.id.in_(ids)))
    return {spool.id: (f"spool {spool.code}", material, []) for spool, material in rows}
