"""Tests that a lab defines itself: tried on samples while they are written, kept as versions, never changed."""

from __future__ import annotations

from dataclasses import asdict, replace
from typing import TYPE_CHECKING

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from assayer.core import formulas
from assayer.core.errors import ConflictError, EntryError
from assayer.core.formulas.dimensions import UNITS
from assayer.core.formulas.formula import CONSTANTS, FUNCTIONS
from assayer.core.methods import register
from assayer.core.methods.inputs import Entry, Inputs
from assayer.core.methods.own import OwnDefinition, check_definition, definition_of, own_method
from assayer.core.methods.vocabulary import Orientation
from assayer.core.quantities.units import DIMENSIONS, parse_quantity
from assayer.services.own_methods.requests import OwnDefinitionIn
from assayer.services.own_methods.views import OwnFault, OwnFigure, OwnLanguage, OwnMethodList, OwnMethodView, OwnTrialView
from assayer.services.unit import Actor, Unit, Workspace, find
from assayer.store.models import OwnMethodVersion, Rig, Test

if TYPE_CHECKING:
    from assayer.services.own_methods.requests import NewOwnMethod, OwnTrial


def language() -> OwnLanguage:
    """What formulas may be written of."""
    return OwnLanguage(functions=list(FUNCTIONS), constants=list(CONSTANTS), units=list(UNITS), grammar=formulas.__doc__ or "")


def try_definition(asked: OwnTrial) -> OwnTrialView:
    """What a definition makes of sample readings, with every fault and its place; nothing is kept."""
    told = _definition(asked.definition)
    checked = check_definition(told)
    faults = [OwnFault.model_validate(f) for f in checked.faults]
    entries, wrong = _samples(told, asked)
    if any(f.part in ("inputs", "results") for f in faults):
        figures = [OwnFigure(name=r.name, unit=checked.units.get(r.name), value=None, text=None) for r in told.results]
        return OwnTrialView(faults=faults, figures=figures, wrong=wrong, warnings=[])
    # what it is called and done on is no matter for its figures
    whole = replace(told, label=told.label or "own", outcomes=(), shapes=(), own_parts=True, orientations=tuple(Orientation))
    try:
        reduction = own_method("own", "own", whole).reduce(Inputs(entries))
    except EntryError as error:
        figures = [OwnFigure(name=r.name, unit=checked.units[r.name], value=None, text=error.message if not i else None) for i, r in enumerate(told.results)]
        return OwnTrialView(faults=faults, figures=figures, wrong=wrong, warnings=[])
    found = {r.quantity: r.value for r in reduction.results}
    figures = [OwnFigure(name=r.name, unit=checked.units[r.name], value=found.get(r.name), text=None) for r in told.results]
    return OwnTrialView(faults=faults, figures=figures, wrong=wrong, warnings=reduction.warnings)


def _samples(told: OwnDefinition, asked: OwnTrial) -> tuple[list[Entry], dict[str, str]]:
    entries: list[Entry] = []
    wrong: dict[str, str] = {}
    for given in told.inputs:
        if given.dimension not in DIMENSIONS:
            continue
        for i, raw in enumerate(asked.samples.get(given.name, [])):
            if not raw.strip():
                continue
            try:
                entries.append(Entry(given.name, parse_quantity(raw, DIMENSIONS[given.dimension], field=given.name).value, i))
            except EntryError as error:
                wrong[given.name] = error.message
    return entries, wrong


def list_own(workspace: Workspace) -> OwnMethodList:
    """All versions of all tests of one's own, the newest of each first."""
    with workspace.read() as session:
        rows = session.scalars(select(OwnMethodVersion).order_by(OwnMethodVersion.label, OwnMethodVersion.number.desc())).all()
        return OwnMethodList(items=[_view(session, row) for row in rows])


def add_own(workspace: Workspace, actor: Actor, new: NewOwnMethod) -> tuple[OwnMethodView, bool]:
    """Keep a new test, or the next version of one; the same id again changes nothing (second value False).

    Raises
    ------
    EntryError
        If the definition has a fault; names the part and its place.
    ConflictError
        If the id is taken by another definition.
    """
    told = _definition(new.definition)
    checked = check_definition(told)
    if checked.faults:
        first = checked.faults[0]
        raise EntryError(first.text, first.part, first.index + 1)
    with workspace.write(actor) as unit:
        there = unit.session.get(OwnMethodVersion, new.id)
        if there is not None:
            if definition_of(there.definition) != told:
                raise ConflictError("another test already has this id", _view(unit.session, there))
            return _view(unit.session, there), False
        family = new.family or new.id
        number = 1 + (unit.session.scalar(select(func.max(OwnMethodVersion.number)).where(OwnMethodVersion.family == family)) or 0)
        if new.family is not None and number == 1:
            raise EntryError("there is no such test to make a version of", "family")
        row = OwnMethodVersion(
            id=new.id, family=family, number=number, method=f"own-{family[-12:]}-{number}", label=told.label, definition=asdict(told), added_at=unit.now,
            zone=actor.zone, who=actor.who, withdrawn_at=None, revision=1,
        )  # fmt: skip
        unit.session.add(row)
        unit.session.flush()
        _serve(unit, row)
        unit.log("own test", row.id, "defined", after={"label": told.label, "version": number, "formulas": {r.name: r.formula for r in told.results}})
        found = own_method(row.method, row.method, told)
        view = _view(unit.session, row)
    register(found)
    return view, True


def _serve(unit: Unit, row: OwnMethodVersion) -> None:
    """Rigs that serve an earlier version serve this one as well."""
    earlier = set(unit.session.scalars(select(OwnMethodVersion.method).where(OwnMethodVersion.family == row.family, OwnMethodVersion.id != row.id)))
    for rig in unit.session.scalars(select(Rig)) if earlier else ():
        if earlier & set(rig.methods):
            rig.methods = [*rig.methods, row.method]


def withdraw_own(workspace: Workspace, actor: Actor, method_id: str, back: bool) -> OwnMethodView:
    """Offer a version no more for new plans, or again; what was planned with it stays."""
    with workspace.write(actor) as unit:
        row = find(unit.session, OwnMethodVersion, method_id)
        if (row.withdrawn_at is None) != back:
            row.withdrawn_at = None if back else unit.now
            row.revision += 1
            unit.log("own test", row.id, "offered again" if back else "withdrawn", after={"version": row.number})
        unit.session.flush()
        return _view(unit.session, row)


def _definition(given: OwnDefinitionIn) -> OwnDefinition:
    return definition_of(given.model_dump())


def _view(session: Session, row: OwnMethodVersion) -> OwnMethodView:
    newest = session.scalar(select(func.max(OwnMethodVersion.number)).where(OwnMethodVersion.family == row.family))
    tests = session.scalar(select(func.count()).select_from(Test).where(Test.method == row.method)) or 0
    return OwnMethodView(
        id=row.id, family=row.family, number=row.number, method=row.method, label=row.label, definition=OwnDefinitionIn.model_validate(row.definition),
        added_at=row.added_at, who=row.who, withdrawn_at=row.withdrawn_at, newest=row.number == newest, tests=tests, revision=row.revision,
    )  # fmt: skip
