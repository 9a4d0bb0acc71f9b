"""Photographs of the specimens of a test, by arm."""

from __future__ import annotations

from collections.abc import Mapping

from sqlalchemy import select

from assayer.services.findings.views import SpecimenPhoto, SpecimenPhotos
from assayer.services.photos.photos import photos_of
from assayer.services.unit import Workspace, find
from assayer.store.models import Run, Slot, Specimen, Test


def specimen_photos(workspace: Workspace, test_id: str) -> SpecimenPhotos:
    """All photographs of the specimens of a test and of their runs, in the order in which they came; those after the test belong to the run."""
    with workspace.read() as session:
        find(session, Test, test_id)
        rows = session.execute(
            select(Slot.arm_id, Specimen.id, Specimen.code, Run.id)
            .join(Specimen, Specimen.slot_id == Slot.id)
            .outerjoin(Run, (Run.specimen_id == Specimen.id) & (Run.test_id == Slot.test_id) & Run.retracted_at.is_(None))
            .where(Slot.test_id == test_id)
        ).all()
        of_run: Mapping[str, tuple[str, str, str, str | None]] = {run: (arm, specimen, code, run) for arm, specimen, code, run in rows if run is not None}
        of_specimen = {specimen: (arm, specimen, code, run) for arm, specimen, code, run in rows}
        photographs = [(of_run[key], p) for key, photos in photos_of(session, "run", list(of_run)).items() for p in photos]
        photographs += [(of_specimen[key], p) for key, photos in photos_of(session, "specimen", list(of_specimen)).items() for p in photos]
        photographs.sort(key=lambda item: (item[1].added_at, item[1].id))
        return SpecimenPhotos(items=[SpecimenPhoto(arm_id=arm, specimen_id=s, code=code, run_id=run, photo=p) for (arm, s, code, run), p in photographs])
