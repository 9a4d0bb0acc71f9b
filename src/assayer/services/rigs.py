"""Rigs, their versions and calibrations, and the templates of their files."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from assayer.core import codes
from assayer.core.errors import ConflictError, EntryError
from assayer.core.quantities import FORCE, LENGTH
from assayer.formats.column_words import ROLES
from assayer.formats.curve_file import FileTemplate
from assayer.services.commands import NewRig, TemplateAnswer
from assayer.services.workspace import Actor, Unit, Workspace, find
from assayer.store.models import Calibration, Rig, RigFileTemplate, RigVersion, Specimen, Spool


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


def free_code(unit: Unit, length: int = 4) -> str:
    """A new code; specimens, spools and rigs share one space."""

    def taken(code: str) -> bool:
        return any(unit.session.scalar(select(kind.id).where(kind.code == code)) is not None for kind in (Specimen, Spool, Rig))

    return codes.make_code(taken, length, unit.rng.choice) if unit.rng is not None else codes.make_code(taken, length)


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


def keep_template(workspace: Workspace, actor: Actor, rig_version_id: str, answer: TemplateAnswer) -> None:
    """Keep the answers about a file as the rig's template for files with the same header."""
    roles = [c.role for c in answer.columns if c.role != "skip"]
    if "force" not in roles:
        raise EntryError("say which column is the force", "columns")
    if len(set(roles)) < len(roles):
        raise EntryError("two columns have the same role: leave one of them out", "columns")
    columns: list[dict[str, Any]] = []
    for i, column in enumerate(answer.columns):
        unit_symbol = None
        if column.role != "skip":
            try:
                unit_symbol = ROLES[column.role].unit(column.unit or ROLES[column.role].base).symbol
            except EntryError as error:
                raise EntryError(f"column {i + 1}: {error.message}", "columns", row=i + 1) from None
        columns.append({"role": column.role, "unit": unit_symbol})
    with workspace.write(actor) as unit:
        find(unit.session, RigVersion, rig_version_id)
        there = _template_row(unit.session, rig_version_id, answer.signature)
        if there is None:
            there = RigFileTemplate(id=unit.new_id(), rig_version_id=rig_version_id, signature=answer.signature, columns=columns)
            unit.session.add(there)
            unit.log("file template", there.id, "kept", after={"columns": columns})
        elif there.columns != columns:
            unit.log("file template", there.id, "changed", {"columns": there.columns}, {"columns": columns})
            there.columns = columns


def _template_row(session: Session, rig_version_id: str, signature: str) -> RigFileTemplate | None:
    return session.scalar(select(RigFileTemplate).where(RigFileTemplate.rig_version_id == rig_version_id, RigFileTemplate.signature == signature))


def templates_of(session: Session, rig_version_id: str) -> list[FileTemplate]:
    """All templates of a rig version."""
    rows = session.scalars(select(RigFileTemplate).where(RigFileTemplate.rig_version_id == rig_version_id))
    return [FileTemplate.from_dict({"signature": row.signature, "columns": row.columns}) for row in rows]
