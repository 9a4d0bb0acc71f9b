"""Who signs entries."""

from __future__ import annotations

from sqlalchemy import select

from assayer.services.unit import Actor, Workspace
from assayer.services.views import View
from assayer.store.models import Person


class People(View):
    items: list[str]


def list_people(workspace: Workspace) -> People:
    with workspace.read() as session:
        return People(items=list(session.scalars(select(Person.name).order_by(Person.name))))


def add_person(workspace: Workspace, actor: Actor, name: str) -> People:
    """Add a name to the picker; a name that is there already is no error."""
    with workspace.write(actor) as unit:
        if unit.session.scalar(select(Person).where(Person.name == name)) is None:
            person = Person(id=unit.new_id(), name=name)
            unit.session.add(person)
            unit.log("person", person.id, "added", after={"name": name})
    return list_people(workspace)
