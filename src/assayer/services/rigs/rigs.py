"""Rigs and their versions."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import select

from assayer.core.errors import ConflictError, EntryError
from assayer.core.quantities.units import FORCE, LENGTH
from assayer.services.codes import free_code
from assayer.services.rigs.requests import NewRig
from assayer.services.unit import Actor, Workspace
from assayer.store.models import Calibration, Rig, RigVersion


def rig_dict(version: RigVersion, calibrated: datetime | None) -> dict[str, Any]:
    return {
        "id": version.id,
        "rig_id": version.rig_id,
        "code": version.rig.code,
        "name": version.rig.name,
        "version": version.number,
        "method": version.rig.method,
        "compliance": version.compliance,
        "force_unit": version.force_unit,
        "force_step": version.force_step,
        "length_unit": version.length_unit,
        "length_step": version.length_step,
        "capacity": version.capacity,
        "valid_from": version.valid_from,
        "calibrated_at": calibrated,
    }


def list_rigs(workspace: Workspace) -> dict[str, Any]:
    """The newest version of every rig."""
    with workspace.read() as session:
        versions = session.scalars(select(RigVersion).join(Rig).order_by(Rig.name, RigVersion.number.desc())).all()
        newest: dict[str, RigVersion] = {}
        for version in versions:
            newest.setdefault(version.rig_id, version)
        items = []
        for version in newest.values():
            calibrated = session.scalar(
                select(Calibration.valid_from).where(Calibration.rig_version_id == version.id).order_by(Calibration.valid_from.desc()).limit(1)
            )
            items.append(rig_dict(version, calibrated))
        return {"items": items}


def add_rig(workspace: Workspace, actor: Actor, new: NewRig) -> dict[str, Any]:
    """Add a rig with its first version."""
    for name, dimension in (("force_unit", FORCE), ("length_unit", LENGTH)):
        try:
            dimension.unit(getattr(new, name))
        except EntryError as error:
            raise EntryError(error.message, name) from None
    with workspace.write(actor) as unit:
        there = unit.session.get(RigVersion, new.version_id)
        if there is not None:
            return rig_dict(there, None)
        if unit.session.scalar(select(Rig).where(Rig.name == new.name)) is not None:
            raise ConflictError(f"there is already a rig called '{new.name}'")
        rig = Rig(id=new.id, code=free_code(unit), name=new.name, method="tension")
        version = RigVersion(
            id=new.version_id,
            rig=rig,
            number=1,
            valid_from=new.valid_from or unit.now,
            **new.model_dump(include={"compliance", "force_unit", "force_step", "length_unit", "length_step", "capacity"}),
        )
        unit.session.add_all([rig, version])
        unit.session.flush()
        unit.log("rig", rig.id, "added", after={"name": rig.name, "code": rig.code})
        return rig_dict(version, None)
