"""Who signs entries."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel
from sqlalchemy import select

from assayer.services.unit import Actor, Workspace
from assayer.store.models import Person


def list_people(workspace: Workspace) -> dict[str, Any]:
    with workspace.read() as session:
        return {"items": list(session.scalars(select(Person.name).order_by(Person.name)))}


def add_person(workspace: Workspace, actor: Actor, name: str) -> dict[str, Any]:
    """Add a name to the picker; a name that is there already is no error."""
    with workspace.write(actor) as unit:
        if unit.session.scalar(select(Person).where(Person.name == name)) is None:
            person = Person(id=unit.new_id(), name=name)
            unit.session.add(person)
            unit.log("person", person.id, "added", after={"name": name})
    return list_people(workspace)


class People(BaseModel):
    items: list[str]
