"""Calibrations: what a rig shows against what is true."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import select
from sqlalchemy.orm import Session

from assayer.store.models import Calibration


def force_factor(session: Session, rig_version_id: str, at: datetime) -> float:
    """The factor of the calibration that was valid at an instant; 1 where there is none."""
    found = session.scalar(
        select(Calibration.factor)
        .where(Calibration.rig_version_id == rig_version_id, Calibration.quantity == "force", Calibration.valid_from <= at)
        .where((Calibration.valid_to.is_(None)) | (Calibration.valid_to > at))
        .order_by(Calibration.valid_from.desc())
        .limit(1)
    )
    return 1.0 if found is None else found
