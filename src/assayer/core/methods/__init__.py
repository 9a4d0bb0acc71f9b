"""The one registry of methods. A new method is one file beside this one and one line here."""

from __future__ import annotations

from assayer.core.errors import EntryError
from assayer.core.methods import creep, functional_part, hardness, shear, stepped_bending, tension
from assayer.core.methods.base import Method

REGISTRY: dict[str, Method] = {m.name: m for m in (tension.METHOD, stepped_bending.METHOD, creep.METHOD, shear.METHOD, hardness.METHOD, functional_part.METHOD)}


def method(name: str) -> Method:
    """The method called `name`.

    Raises
    ------
    EntryError
        If there is none; the message lists those there are.
    """
    found = REGISTRY.get(name)
    if found is None:
        raise EntryError(f"there is no method '{name}': choose one of {', '.join(REGISTRY)}", "method")
    return found
