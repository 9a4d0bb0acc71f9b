"""Accepting a conversion between two rigs, and taking it back."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

from sqlalchemy import select
from sqlalchemy.orm import Session

from assayer.core.errors import ConflictError, EntryError
from assayer.services.findings.conversions import conversion_key, conversion_view
from assayer.services.findings.rig_pairs import KEY_PARTS, compare_rigs
from assayer.services.findings.rig_views import ConversionView
from assayer.services.unit import Actor, Workspace, expect_revision, find
from assayer.store.models import RigConversion, RigVersion

if TYPE_CHECKING:
    from assayer.services.findings.requests import ConversionEdit, NewConversion


def accept_conversion(workspace: Workspace, actor: Actor, rig_id: str, other_id: str, new: NewConversion) -> tuple[ConversionView, bool]:
    """Accept the line of one comparison as it is now; the same id again changes nothing (second value False).

    Raises
    ------
    ConflictError
        If the line is no longer as it was seen, or one is accepted already.
    EntryError
        If nothing can be converted there.
    """
    compared = compare_rigs(workspace, rig_id, other_id)
    with workspace.write(actor, (new.id, new)) as unit:
        session = unit.session
        present = session.get(RigConversion, new.id)
        if present is not None:
            view = conversion_view(present)
            unit.refuse_other("conversion", view, same=KEY_PARTS.join(conversion_key(present)) == new.key)
            return view, False
        comparison = next((c for c in compared.comparisons if c.key == new.key), None)
        if comparison is None or comparison.line is None or comparison.reason:
            raise EntryError(f"not convertible here: {'nothing was measured alike on both' if comparison is None else comparison.reason}", "key")
        line = comparison.line
        if not math.isclose(line.slope, new.slope, rel_tol=1e-6):
            raise ConflictError("further results have moved the line: look at it again before you accept it")
        if comparison.conversion is not None:
            raise ConflictError(f"{comparison.conversion.who or 'somebody'} has accepted a conversion here already", comparison.conversion)
        method, orientation, shape, protocol, quantity, ended = new.key.split(KEY_PARTS)
        row = RigConversion(
            id=new.id, from_version_id=compared.one.id, to_version_id=compared.other.id, method=method, orientation=orientation, shape=shape, protocol=protocol,
            quantity=quantity, ended=ended, slope=line.slope, intercept=line.intercept, se_slope=line.se_slope, se_intercept=line.se_intercept,
            covariance=line.covariance, s=line.s, n=line.n, low=line.low, high=line.high, note=new.note, accepted_at=unit.now, zone=actor.zone, who=actor.who,
        )  # fmt: skip
        session.add(row)
        session.flush()
        unit.log(
            "rig", rig_id, "conversion accepted", after={"to": compared.other.name, "quantity": quantity, "slope": line.slope, "intercept": line.intercept}
        )
        return conversion_view(row), True


def edit_conversion(workspace: Workspace, actor: Actor, conversion_id: str, edit: ConversionEdit, revision: int | None) -> ConversionView:
    """Take a conversion back, or bring it back.

    Raises
    ------
    ConflictError
        If another one was accepted meanwhile.
    """
    with workspace.write(actor) as unit:
        row = find(unit.session, RigConversion, conversion_id)
        expect_revision(revision, row.revision, "the conversion", conversion_view(row))
        if edit.retracted == (row.retracted_at is not None):
            return conversion_view(row)
        if not edit.retracted and _is_replaced(unit.session, row):
            raise ConflictError("another conversion was accepted meanwhile")
        row.retracted_at = unit.now if edit.retracted else None
        row.revision += 1
        unit.session.flush()
        version = find(unit.session, RigVersion, row.from_version_id)
        unit.log("rig", version.rig_id, "conversion taken back" if edit.retracted else "conversion brought back", after={"quantity": row.quantity})
        return conversion_view(row)


def _is_replaced(session: Session, row: RigConversion) -> bool:
    same = select(RigConversion).where(
        RigConversion.from_version_id == row.from_version_id, RigConversion.to_version_id == row.to_version_id, RigConversion.retracted_at.is_(None)
    )
    return any(conversion_key(c) == conversion_key(row) for c in session.scalars(same))
