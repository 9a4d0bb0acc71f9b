"""The one registry of methods. A new method is one file beside this one and one entry here."""

from __future__ import annotations

from assayer.core.errors import EntryError
from assayer.core.methods import (
    bending,
    creep,
    deflection_temperature,
    density,
    dimensions,
    exposure,
    functional_part,
    graded,
    hardness,
    heat_ramp,
    impact,
    shear,
    stepped_bending,
    tension,
    torsion,
    warp,
)
from assayer.core.methods.base import Method

_ALL: tuple[Method, ...] = (
    tension.METHOD, bending.METHOD, stepped_bending.METHOD, creep.METHOD, impact.METHOD, impact.IZOD, impact.D256, shear.METHOD, torsion.METHOD,
    hardness.METHOD, heat_ramp.METHOD, deflection_temperature.METHOD, warp.METHOD, dimensions.METHOD, density.METHOD, exposure.METHOD,
    functional_part.METHOD, graded.METHOD,
)  # fmt: skip
REGISTRY: dict[str, Method] = {m.name: m for m in _ALL}


_OWN: dict[str, Method] = {}
"""Tests that labs have defined, by their own names; those carry an id, so that notebooks open at once do not meet."""


def register(found: Method) -> None:
    """Make a method of a lab's own known."""
    _OWN[found.name] = found


def known(name: str) -> bool:
    """Whether there is a method of this name, delivered or a lab's own."""
    return name in REGISTRY or name in _OWN


def method(name: str) -> Method:
    """The method called `name`, delivered or a lab's own.

    Raises
    ------
    EntryError
        If there is none; the message lists those there are.
    """
    found = REGISTRY.get(name) or _OWN.get(name)
    if found is None:
        raise EntryError(f"there is no method '{name}': choose one of {', '.join(REGISTRY)}", "method")
    return found
