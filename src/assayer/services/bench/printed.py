"""What is known of how a specimen was printed, where a method asks for it."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from assayer.core.methods.base import Method
from assayer.services.parts.shapes import volume_named
from assayer.store.models import Batch, Specimen


def printed_of(session: Session, method: Method, specimen_id: str | None) -> dict[str, float]:
    """`print_time`: a specimen's share of what its batch took, by volume, s; empty where nobody asks or it is not known."""
    if specimen_id is None or not any(f.from_print for f in method.fields()):
        return {}
    specimen = session.get(Specimen, specimen_id)
    batch = session.get(Batch, specimen.batch_id) if specimen is not None else None
    if specimen is None or batch is None or batch.minutes is None:
        return {}
    shapes = session.scalars(select(Specimen.shape).where(Specimen.batch_id == batch.id)).all()
    volumes = {name: volume_named(session, name) for name in set(shapes)}
    return {"print_time": 60 * batch.minutes * volumes[specimen.shape] / sum(volumes[name] for name in shapes)}
