"""Codes given before printing, so that they are sunk into the specimens of one plate instead of the numbers of its places."""

from __future__ import annotations

import hashlib

from sqlalchemy import select

from assayer.core.errors import ConflictError, EntryError
from assayer.core.shapes.printed import FLAT, takes_code
from assayer.services.codes import free_code
from assayer.services.parts.shapes import shape_of
from assayer.services.printing.plate_views import plate_list
from assayer.services.printing.views import PlateList
from assayer.services.unit import Actor, Workspace, find
from assayer.store.models import Batch, Plate, PlatePlace, Study, Test


def sink_codes(workspace: Workspace, actor: Actor, plate_id: str) -> PlateList:
    """Give the specimens of a plate their codes now; the plate has a file of its own from then on. Asked twice it is done once.

    Raises
    ------
    ConflictError
        If the plate was printed already.
    EntryError
        If none of its specimens has room for a code.
    """
    with workspace.write(actor) as unit:
        plate = find(unit.session, Plate, plate_id)
        study = find(unit.session, Study, plate.study_id)
        places = unit.session.scalars(select(PlatePlace).where(PlatePlace.plate_id == plate_id).order_by(PlatePlace.position)).all()
        if any(p.code for p in places):
            return plate_list(unit.session, study, unit.now)
        if unit.session.scalar(select(Batch.id).where(Batch.plate_id == plate_id)) is not None:
            raise ConflictError(f"plate {plate.number} was printed already: its specimens have their codes")
        tests = {t.id: t for t in unit.session.scalars(select(Test).where(Test.study_id == plate.study_id))}
        roomy = [p for p in places if tests[p.test_id].orientation == FLAT and takes_code(shape_of(tests[p.test_id]))]
        if not roomy:
            raise EntryError("no specimen of this plate has room for a code that could be read: write the codes on", "plate_id")
        for place in roomy:
            # the query for the next code sees this one: a session writes before it reads
            place.code = free_code(unit)
        # no other plate is printed from this file any more
        plate.layout = hashlib.sha256(f"{plate.layout} {plate.id}".encode()).hexdigest()[:32]
        unit.touch(study.id)
        unit.log("plate", plate.id, "codes sunk in", after={"plate": plate.number, "codes": [p.code for p in roomy]})
        unit.session.flush()
        return plate_list(unit.session, study, unit.now)
