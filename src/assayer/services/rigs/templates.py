"""Templates of a rig's files: answers kept for the next file with the same header."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict
from typing import TYPE_CHECKING

from sqlalchemy import select
from sqlalchemy.orm import Session

from assayer.core.errors import EntryError
from assayer.core.methods import known, method
from assayer.core.methods.steps import RampStep, RecordingStep
from assayer.formats.curves.column_words import PULL, ROLES
from assayer.formats.curves.columns import Column, FileTemplate
from assayer.services.unit import Actor, Workspace, find
from assayer.store.models import RigFileTemplate, RigVersion

if TYPE_CHECKING:
    from assayer.services.rigs.requests import TemplateAnswer


def wanted_by(methods: Sequence[str]) -> tuple[str, ...]:
    """The channels that a rig's methods read, those first that they cannot do without."""
    steps = [s.channels for m in methods if known(m) for s in method(m).steps if isinstance(s, RecordingStep | RampStep)]
    return tuple(dict.fromkeys(c for channels in steps for c in channels)) or PULL


def keep_template(workspace: Workspace, actor: Actor, rig_version_id: str, answer: TemplateAnswer) -> None:
    """Keep the answers about a file as the rig's template for files with the same header."""
    roles = [c.role for c in answer.columns if c.role != "skip"]
    with workspace.read() as session:
        wanted = wanted_by(find(session, RigVersion, rig_version_id).rig.methods)
    if wanted[0] not in roles:
        raise EntryError(f"say which column is the {wanted[0]}", "columns")
    if len(set(roles)) < len(roles):
        raise EntryError("two columns have the same role: leave one of them out", "columns")
    told: list[Column] = []
    for i, column in enumerate(answer.columns):
        unit_symbol = None
        if column.role != "skip":
            if column.role not in wanted:
                raise EntryError(f"column {i + 1}: '{column.role}' is no role here: use {', '.join(wanted)} or skip", "columns", row=i + 1)
            try:
                unit_symbol = ROLES[column.role].unit(column.unit or ROLES[column.role].base).symbol
            except EntryError as error:
                raise EntryError(f"column {i + 1}: {error.message}", "columns", row=i + 1) from None
        told.append(Column(column.role, unit_symbol))
    columns = [asdict(c) for c in told]
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
    return [FileTemplate(row.signature, tuple(Column(**c) for c in row.columns)) for row in rows]
