"""The differences that matter to this lab: set on a method's card, taken for tests that are planned from then on."""

from __future__ import annotations

from typing import TYPE_CHECKING

from sqlalchemy import select
from sqlalchemy.orm import Session

from assayer.core.errors import EntryError, MissingError
from assayer.core.methods import known
from assayer.core.methods import method as find_method
from assayer.core.methods.base import Method
from assayer.core.stats.verdicts import GoodSide, Margin
from assayer.services.rigs.views import LabMarginList, LabMarginView
from assayer.services.unit import Actor, Workspace
from assayer.store.models import LabMargin

if TYPE_CHECKING:
    from assayer.services.rigs.requests import LabMarginEdit


def list_margins(workspace: Workspace) -> LabMarginList:
    """All that the lab has set itself."""
    with workspace.read() as session:
        return _list(session)


def set_margin(workspace: Workspace, actor: Actor, method_name: str, quantity: str, edit: LabMarginEdit) -> LabMarginList:
    """Set a margin, or go back to that of the method (None). Tests that are planned already keep theirs.

    Raises
    ------
    MissingError
        If there is no such method, or it has no such quantity.
    EntryError
        If it is not compared, or a percentage of it has no meaning.
    """
    declared = find_method(method_name).quantities if known(method_name) else ()
    spec = next((q for q in declared if q.name == quantity), None)
    if spec is None:
        raise MissingError("there is no such method with this quantity")
    if spec.graded or spec.good_side is GoodSide.NONE:
        raise EntryError(f"{spec.label} has no margin: it is {'compared by ranks' if spec.graded else 'not judged'}", "quantity")
    if edit.margin is not None and edit.margin.relative and not spec.ratio_scale:
        raise EntryError(f"a percentage of {spec.label} has no meaning: give the margin in {spec.unit}", "margin")
    with workspace.write(actor) as unit:
        row = unit.session.get(LabMargin, (method_name, quantity))
        before = None if row is None else {"value": row.value, "relative": row.relative}
        after = None if edit.margin is None else {"value": edit.margin.value, "relative": edit.margin.relative}
        if before != after:
            if row is not None:
                unit.session.delete(row)
                unit.session.flush()
            if edit.margin is not None:
                new = LabMargin(
                    method=method_name, quantity=quantity, value=edit.margin.value, relative=edit.margin.relative, who=actor.who, set_at=unit.now,
                    zone=actor.zone,
                )  # fmt: skip
                unit.session.add(new)
            unit.log("method", method_name, "margin set", {quantity: before}, {quantity: after})
            unit.session.flush()
        return _list(unit.session)


def margin_of(session: Session, method: Method, key: str) -> Margin:
    """The lab's own margin of a quantity, else that of the method.

    Parameters
    ----------
    key : str
        The quantity, which may carry its load or time ("drift@80").
    """
    row = session.get(LabMargin, (method.name, key.partition("@")[0]))
    return method.quantity(key).margin if row is None else Margin(row.value, row.relative)


def margins_by_quantity(session: Session) -> dict[str, Margin]:
    """The lab's own margins by quantity, whatever method measures it."""
    return {row.quantity: Margin(row.value, row.relative) for row in session.scalars(select(LabMargin).order_by(LabMargin.method))}


def _list(session: Session) -> LabMarginList:
    rows = session.scalars(select(LabMargin).order_by(LabMargin.method, LabMargin.quantity))
    return LabMarginList(items=[LabMarginView.model_validate(row) for row in rows])
